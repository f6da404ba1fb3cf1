//! What the light comes out of.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What the light comes out of. Sizes in metres.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Source {
    /// Even disc.
    Disc {
        /// Diameter.
        diameter_m: f64,
    },
    /// Even octagon.
    Octagon {
        /// Width over flats.
        width_m: f64,
    },
    /// Even rectangle: softbox, strip, panel.
    Rectangle {
        /// Width.
        width_m: f64,
        /// Height.
        height_m: f64,
    },
    /// Window: a rectangle that stays upright and does not aim.
    Window {
        /// Width.
        width_m: f64,
        /// Height.
        height_m: f64,
        /// Degrees its outward normal is turned from +z, positive to camera right.
        facing_deg: f64,
    },
    /// Umbrella one shoots through: brighter in the middle.
    UmbrellaThrough {
        /// Diameter.
        diameter_m: f64,
    },
    /// Umbrella that bounces: wide, a little brighter in the middle.
    UmbrellaBounce {
        /// Diameter.
        diameter_m: f64,
    },
    /// Reflector dish: throws within a beam.
    Dish {
        /// Diameter of its mouth.
        diameter_m: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
    },
    /// Spot or grid: sharp beam.
    Spot {
        /// Diameter of its mouth.
        diameter_m: f64,
        /// Full angle at half intensity, degrees.
        beam_deg: f64,
        /// Full angle beyond which nothing comes, degrees.
        field_deg: f64,
    },
    /// Tube.
    Tube {
        /// Length.
        length_m: f64,
        /// Diameter.
        diameter_m: f64,
    },
    /// Bare lamp: a glowing ball.
    Bare {
        /// Diameter.
        diameter_m: f64,
    },
    /// Measured intensities (IES LM-63), axially symmetric part.
    Ies {
        /// Diameter of its mouth.
        diameter_m: f64,
        /// Text of the LM-63 file.
        file: String,
    },
}

impl Source {
    /// Width and height of the bright face, metres.
    pub fn face_m(&self) -> [f64; 2] {
        match self {
            Source::Rectangle { width_m, height_m } | Source::Window { width_m, height_m, .. } => [*width_m, *height_m],
            Source::Octagon { width_m: d }
            | Source::Disc { diameter_m: d }
            | Source::UmbrellaThrough { diameter_m: d }
            | Source::UmbrellaBounce { diameter_m: d }
            | Source::Dish { diameter_m: d, .. }
            | Source::Spot { diameter_m: d, .. }
            | Source::Bare { diameter_m: d }
            | Source::Ies { diameter_m: d, .. } => [*d, *d],
            Source::Tube { length_m, diameter_m } => [*length_m, *diameter_m],
        }
    }

    /// Whether it stays where the building has it.
    pub fn is_window(&self) -> bool {
        matches!(self, Source::Window { .. })
    }

    /// Width times height of the bright face in square metres; a window stands for itself and counts 0.
    pub fn area_m2(&self) -> f64 {
        let [w, h] = self.face_m();
        if self.is_window() { 0.0 } else { w * h }
    }

    /// What it is, in a word or two.
    pub fn word(&self) -> &'static str {
        match self {
            Source::Disc { .. } => "round softbox",
            Source::Octagon { .. } => "octagon",
            Source::Rectangle { .. } => "softbox",
            Source::Window { .. } => "window",
            Source::UmbrellaThrough { .. } => "shoot-through umbrella",
            Source::UmbrellaBounce { .. } => "bounce umbrella",
            Source::Dish { .. } => "reflector dish",
            Source::Spot { .. } => "spot or grid",
            Source::Tube { .. } => "tube",
            Source::Bare { .. } => "bare lamp",
            Source::Ies { .. } => "measured lamp",
        }
    }
}

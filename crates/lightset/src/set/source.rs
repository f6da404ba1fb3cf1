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

/// Outline of a bright face, metres.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Outline {
    /// A disc of this diameter.
    Disc(f64),
    /// An octagon of this width over flats.
    Octagon(f64),
    /// A rectangle of this width and height.
    Rectangle(f64, f64),
    /// A tube of this length and diameter.
    Tube(f64, f64),
    /// A ball of this diameter.
    Ball(f64),
}

impl Outline {
    /// Width and height, metres.
    pub fn size_m(&self) -> [f64; 2] {
        match *self {
            Outline::Disc(d) | Outline::Octagon(d) | Outline::Ball(d) => [d, d],
            Outline::Rectangle(w, h) | Outline::Tube(w, h) => [w, h],
        }
    }

    /// Whether it fills its width and height, and not the round within them.
    pub fn is_straight(&self) -> bool {
        matches!(self, Outline::Rectangle(..) | Outline::Tube(..))
    }
}

/// How a bright face glows.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Glow<'a> {
    /// Alike everywhere and to all sides, by Lambert's law.
    Even,
    /// Brighter in the middle: by this over the edge.
    Hot(f64),
    /// In a beam of this full angle at half intensity, degrees.
    Beam(f64),
    /// In a sharp beam of this full angle at half intensity, with nothing beyond the second, degrees.
    Spot(f64, f64),
    /// As measured: text of an LM-63 file.
    Measured(&'a str),
}

/// All that the rest of the program knows of a kind of source. A new kind is a variant of [`Source`] and its row here.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct About<'a> {
    /// What it is, in a word or two.
    pub word: &'static str,
    /// Its bright face.
    pub outline: Outline,
    /// How that glows.
    pub glow: Glow<'a>,
    /// Share of a lamp's light that it lets out, where the catalogue knows no better (common practice).
    pub share: f64,
    /// Degrees its outward normal is turned from +z, positive to camera right, if it stays where the building has it.
    pub facing_deg: Option<f64>,
}

impl Source {
    /// What it is.
    pub fn about(&self) -> About<'_> {
        let row = |word, outline, glow, share| About { word, outline, glow, share, facing_deg: None };
        match *self {
            Source::Disc { diameter_m: d } => row("round softbox", Outline::Disc(d), Glow::Even, 0.45),
            Source::Octagon { width_m: w } => row("octagon", Outline::Octagon(w), Glow::Even, 0.45),
            Source::Rectangle { width_m: w, height_m: h } => row("softbox", Outline::Rectangle(w, h), Glow::Even, 0.4),
            Source::Window { width_m: w, height_m: h, facing_deg } => {
                About { facing_deg: Some(facing_deg), ..row("window", Outline::Rectangle(w, h), Glow::Even, 0.4) }
            }
            Source::UmbrellaThrough { diameter_m: d } => {
                row("shoot-through umbrella", Outline::Disc(d), Glow::Hot(3.0), 0.45)
            }
            Source::UmbrellaBounce { diameter_m: d } => row("bounce umbrella", Outline::Disc(d), Glow::Hot(0.8), 0.45),
            Source::Dish { diameter_m: d, beam_deg } => {
                row("reflector dish", Outline::Disc(d), Glow::Beam(beam_deg), 0.8)
            }
            Source::Spot { diameter_m: d, beam_deg, field_deg } => {
                row("spot or grid", Outline::Disc(d), Glow::Spot(beam_deg, field_deg), 0.8)
            }
            Source::Tube { length_m: l, diameter_m: d } => row("tube", Outline::Tube(l, d), Glow::Even, 1.0),
            Source::Bare { diameter_m: d } => row("bare lamp", Outline::Ball(d), Glow::Even, 1.0),
            Source::Ies { diameter_m: d, ref file } => {
                row("measured lamp", Outline::Disc(d), Glow::Measured(file), 1.0)
            }
        }
    }

    /// Width and height of the bright face, metres.
    pub fn face_m(&self) -> [f64; 2] {
        self.about().outline.size_m()
    }

    /// Whether it stays where the building has it.
    pub fn is_window(&self) -> bool {
        self.about().facing_deg.is_some()
    }

    /// Width times height of the bright face in square metres; a window stands for itself and counts 0.
    pub fn area_m2(&self) -> f64 {
        let [w, h] = self.face_m();
        if self.is_window() { 0.0 } else { w * h }
    }

    /// What it is, in a word or two.
    pub fn word(&self) -> &'static str {
        self.about().word
    }

    /// Checks its figures.
    ///
    /// # Errors
    /// One sentence that names the field and what was expected.
    pub(super) fn check(&self) -> Result<(), String> {
        let within = |name: &str, v: f64, lo: f64, hi: f64, unit: &str| {
            let ok = v.is_finite() && (lo..=hi).contains(&v);
            if ok { Ok(()) } else { Err(format!("source.{name}: expected {lo} to {hi} {unit}, found {v}")) }
        };
        let about = self.about();
        let sides: [(&str, f64); 2] = match about.outline {
            Outline::Disc(d) | Outline::Ball(d) => [("diameter_m", d); 2],
            Outline::Octagon(w) => [("width_m", w); 2],
            Outline::Rectangle(w, h) => [("width_m", w), ("height_m", h)],
            Outline::Tube(l, d) => [("length_m", l), ("diameter_m", d)],
        };
        sides.iter().try_for_each(|(name, v)| within(name, *v, 0.002, 50.0, "metres"))?;
        match about.glow {
            Glow::Even | Glow::Hot(_) => Ok(()),
            Glow::Beam(beam) => within("beam_deg", beam, 2.0, 170.0, "degrees"),
            Glow::Spot(beam, field) => {
                within("beam_deg", beam, 1.0, 170.0, "degrees")?;
                within("field_deg", field, beam, 178.0, "degrees, not under the beam")
            }
            Glow::Measured(file) => {
                optics::luminaire::Luminaire::parse(file).map(|_| ()).map_err(|e| format!("source.file: {e}"))
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// One of each kind, a hand wide.
    fn each() -> Vec<Source> {
        vec![
            Source::Disc { diameter_m: 0.2 },
            Source::Octagon { width_m: 0.2 },
            Source::Rectangle { width_m: 0.2, height_m: 0.3 },
            Source::Window { width_m: 0.2, height_m: 0.3, facing_deg: 90.0 },
            Source::UmbrellaThrough { diameter_m: 0.2 },
            Source::UmbrellaBounce { diameter_m: 0.2 },
            Source::Dish { diameter_m: 0.2, beam_deg: 60.0 },
            Source::Spot { diameter_m: 0.2, beam_deg: 20.0, field_deg: 30.0 },
            Source::Tube { length_m: 0.6, diameter_m: 0.03 },
            Source::Bare { diameter_m: 0.2 },
        ]
    }

    #[test]
    fn every_kind_says_what_it_is_and_survives_its_file() {
        let mut words = std::collections::BTreeSet::new();
        for s in each() {
            s.check().unwrap_or_else(|e| panic!("{s:?}: {e}"));
            let about = s.about();
            assert!(words.insert(about.word), "{} is said of two", about.word);
            assert!(about.share > 0.0 && about.share <= 1.0);
            let [w, h] = s.face_m();
            assert!(w > 0.0 && h > 0.0);
            let text = serde_json::to_string(&s).unwrap();
            assert_eq!(serde_json::from_str::<Source>(&text).unwrap(), s);
        }
    }

    #[test]
    fn a_window_stays_and_counts_no_area() {
        for s in each() {
            assert_eq!(s.is_window(), matches!(s, Source::Window { .. }));
            let [w, h] = s.face_m();
            assert_eq!(s.area_m2(), if s.is_window() { 0.0 } else { w * h });
        }
    }

    #[test]
    fn figures_out_of_range_are_named() {
        let wrong = |s: Source, field: &str| {
            let e = s.check().expect_err(field);
            assert!(e.contains(field), "{e}");
        };
        wrong(Source::Disc { diameter_m: 0.0 }, "source.diameter_m");
        wrong(Source::Bare { diameter_m: f64::NAN }, "source.diameter_m");
        wrong(Source::Octagon { width_m: 60.0 }, "source.width_m");
        wrong(Source::Rectangle { width_m: 1.0, height_m: -1.0 }, "source.height_m");
        wrong(Source::Tube { length_m: 0.6, diameter_m: 0.001 }, "source.diameter_m");
        wrong(Source::Dish { diameter_m: 0.2, beam_deg: 1.0 }, "source.beam_deg");
        wrong(Source::Spot { diameter_m: 0.2, beam_deg: 20.0, field_deg: 19.0 }, "source.field_deg");
        wrong(Source::Ies { diameter_m: 0.2, file: "no lamp".into() }, "source.file");
    }

    proptest! {
        /// Whatever figures a file has, they are taken or refused in a sentence.
        #[test]
        fn any_figure_is_taken_or_refused(d in proptest::num::f64::ANY, beam in proptest::num::f64::ANY, field in proptest::num::f64::ANY) {
            for s in [Source::Disc { diameter_m: d }, Source::Spot { diameter_m: d, beam_deg: beam, field_deg: field }] {
                match s.check() {
                    Ok(()) => prop_assert!(d.is_finite() && d > 0.0),
                    Err(e) => prop_assert!(e.starts_with("source.")),
                }
            }
        }
    }
}

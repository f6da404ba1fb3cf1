//! How much of a lamp's light arrives: through its modifier and a sheet, at a distance. The bench, the kit and a set's
//! level in joules all ask here.

use crate::kit::{catalogue, source_of};
use crate::set::{Glow, Outline, SetLight, Source};
use optics::beam::beam_sr;
use optics::falloff::irradiance_from_polygon;
use optics::geometry::Vec3;
use std::f64::consts::PI;

/// Full angle at half intensity of a studio head's own reflector, where the head is not known (common practice).
pub const OWN_BEAM_DEG: f64 = 65.0;
/// Full angle at half intensity of a face by Lambert's law: the cosine is a half at 60 degrees.
const FACE_BEAM_DEG: f64 = 120.0;
/// Full angle at half intensity that stands for a bare lamp: it sends on to all sides.
pub const BARE_BEAM_DEG: f64 = 200.0;
/// Share of a sheet's light that goes on past a board that lights it (common practice).
pub const PAST_A_BOARD: f64 = 0.5;

/// How light leaves what is in front of the lamp.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Leaves {
    /// From the lamp's own reflector.
    OwnReflector,
    /// From an even face.
    Face,
    /// In a beam of this full angle at half intensity, degrees.
    Beam(f64),
}

/// A sheet or a board that the light goes through or off: it becomes the source.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sheet {
    /// Metres from the face to it.
    pub gap_m: f64,
    /// Width and height in metres.
    pub size_m: [f64; 2],
    /// Share of the light that goes on, scattered.
    pub share: f64,
}

/// What stands between a lamp and the subject.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Through {
    /// How light leaves the modifier.
    pub leaves: Leaves,
    /// Bright face of the modifier, width and height in metres.
    pub face_m: [f64; 2],
    /// Share of the lamp's light that the modifier lets out; 1 for its own reflector.
    pub share: f64,
    /// A sheet beyond it.
    pub sheet: Option<Sheet>,
}

/// Light of an even `w` by `h` face of unit luminance on an element facing it at `d` metres on its axis.
fn from_face([w, h]: [f64; 2], d: f64) -> f64 {
    let (x, y) = (w / 2.0, h / 2.0);
    let corners = [Vec3::new(-x, -y, d), Vec3::new(x, -y, d), Vec3::new(x, y, d), Vec3::new(-x, y, d)];
    irradiance_from_polygon(1.0, &corners, &Vec3::zeros(), &Vec3::new(0.0, 0.0, 1.0))
}

impl Through {
    /// Full angle at half intensity at which the light leaves the modifier, for a lamp with a beam of its own, degrees.
    fn beam_deg(&self, own_beam_deg: f64) -> f64 {
        match self.leaves {
            Leaves::OwnReflector => own_beam_deg,
            Leaves::Face => FACE_BEAM_DEG,
            Leaves::Beam(deg) => deg,
        }
    }

    /// How much wider the light is on the sheet than the face it leaves: `2 gap tan(beam / 2)`, metres.
    fn grown(&self, gap_m: f64, own_beam_deg: f64) -> f64 {
        2.0 * gap_m * (self.beam_deg(own_beam_deg).min(150.0) / 2.0).to_radians().tan()
    }

    /// The bright face the light leaves from last, width and height in metres: the lamp's edge ray on the sheet, cut by it.
    pub fn last_face_m(&self, own_beam_deg: f64) -> [f64; 2] {
        let Some(s) = self.sheet else { return self.face_m };
        let grown = self.grown(s.gap_m, own_beam_deg);
        [0, 1].map(|k| (self.face_m[k] + grown).min(s.size_m[k]))
    }

    /// Illuminance in lux at `d` metres on the axis, facing it, for each lumen of a lamp whose own reflector throws
    /// `own_beam_deg` (for a flash: lux seconds a lumen second).
    pub fn lux_per_lumen(&self, own_beam_deg: f64, d: f64) -> f64 {
        // a face of luminance share / (pi area) for each lumen
        let even = |face: [f64; 2], share: f64| share / (PI * face[0] * face[1]) * from_face(face, d);
        if let Some(s) = self.sheet {
            let grown = self.grown(s.gap_m, own_beam_deg);
            let patch = self.last_face_m(own_beam_deg);
            let caught = patch[0] * patch[1] / ((self.face_m[0] + grown) * (self.face_m[1] + grown));
            return even(patch, self.share * caught * s.share);
        }
        match self.leaves {
            Leaves::OwnReflector => 1.0 / beam_sr(own_beam_deg) / (d * d),
            Leaves::Face => even(self.face_m, self.share),
            Leaves::Beam(deg) => self.share / beam_sr(deg) / (d * d),
        }
    }
}

/// Share of a lamp's light that a source's modifier lets out: the catalogue's for one it knows, else common practice.
/// What a grid or snoot lets out is about what lies in its beam.
pub fn share_of(source: &Source, own_beam_deg: f64) -> f64 {
    let about = source.about();
    if let Glow::Spot(beam_deg, _) = about.glow {
        return (beam_sr(beam_deg) / beam_sr(own_beam_deg)).clamp(0.02, 0.9);
    }
    let known = catalogue().modifiers.iter().find(|m| &source_of(m) == source).map(|m| m.share);
    known.unwrap_or(about.share)
}

/// What a light of a set sends its lamp's light through, for a lamp with a beam of its own.
pub fn through(light: &SetLight, own_beam_deg: f64) -> Through {
    let face = light.source.face_m();
    // a disc and the square of the same area give the same light
    let square = |face: [f64; 2]| face.map(|v| v * (PI / 4.0).sqrt());
    let share = share_of(&light.source, own_beam_deg);
    let about = light.source.about();
    let even = if about.outline.is_straight() { face } else { square(face) };
    let (leaves, face_m) = match (about.outline, about.glow) {
        (Outline::Ball(_), _) => (Leaves::Beam(BARE_BEAM_DEG), face),
        (_, Glow::Beam(beam_deg) | Glow::Spot(beam_deg, _)) => (Leaves::Beam(beam_deg), face),
        (_, Glow::Measured(_)) => (Leaves::OwnReflector, even),
        (_, Glow::Even | Glow::Hot(_)) => (Leaves::Face, even),
    };
    Through { leaves, face_m, share, sheet: sheet_of(light) }
}

/// The board and the sheets of a light as one: it becomes the source, and their losses multiply.
pub fn sheet_of(light: &SetLight) -> Option<Sheet> {
    let mut sheet = light.bounce.as_ref().map(|b| Sheet {
        gap_m: (Vec3::from(b.position_m) - light.position()).norm(),
        size_m: [b.width_m, b.height_m],
        share: b.reflectance,
    });
    for s in &light.scrims {
        let past = if light.bounce.is_some() { PAST_A_BOARD } else { 1.0 };
        let before = sheet.map_or(1.0, |b| b.share);
        let gap_m = sheet.filter(|_| light.bounce.is_some()).map_or(s.gap_m, |b| b.gap_m);
        sheet = Some(Sheet { gap_m, size_m: [s.width_m, s.height_m], share: before * s.transmission * past });
    }
    sheet.map(|s| Sheet { share: s.share.clamp(0.01, 1.0), ..s })
}

/// Metres from where a light is metered (the reference point) to the face it leaves from last: the lamp's, the board's or the last
/// sheet's.
pub fn distance_m(light: &SetLight) -> f64 {
    let from = light.bounce.as_ref().map_or(light.position(), |b| Vec3::from(b.position_m));
    ((from - light.metered_at()).norm() - light.scrims.iter().map(|s| s.gap_m).sum::<f64>()).max(0.01)
}

#[cfg(test)]
mod tests {
    use super::*;
    use optics::falloff::irradiance_from_disc;
    use optics::units::Metres;
    use proptest::prelude::*;

    fn light(source: serde_json::Value) -> SetLight {
        serde_json::from_value(serde_json::json!({"name": "key", "azimuth_deg": 0, "elevation_deg": 0, "distance_m": 2,
            "source": source, "level": {"stops": 0}}))
        .expect("a light")
    }

    /// Inverse square (Lambert 1760): twice as far, a quarter of the light, for what throws a beam.
    #[test]
    fn a_beam_follows_the_inverse_square() {
        let dish =
            through(&light(serde_json::json!({"kind": "dish", "diameter_m": 0.18, "beam_deg": 60})), OWN_BEAM_DEG);
        let at = |d: f64| dish.lux_per_lumen(OWN_BEAM_DEG, d);
        assert!((at(1.0) / at(2.0) - 4.0).abs() < 1e-9);
        assert!((at(1.0) / at(2.8) - 7.84).abs() < 1e-9);
    }

    /// A round face and the square of the same area give the same light on the axis to a per cent: coaxial disc, B-13 of
    /// Howell's catalogue of configuration factors (from memory).
    #[test]
    fn a_round_face_gives_what_the_closed_form_gives() {
        let t = through(&light(serde_json::json!({"kind": "disc", "diameter_m": 1.0})), OWN_BEAM_DEG);
        for d in [0.6, 1.0, 2.0, 5.0] {
            let radiance = t.share / (PI * PI * 0.25);
            let exact = irradiance_from_disc(radiance, Metres(0.5), Metres(d));
            let got = t.lux_per_lumen(OWN_BEAM_DEG, d);
            assert!((got / exact - 1.0).abs() < 0.012, "{d} m: {got} against {exact}");
        }
    }

    /// Far away a face sends its flux over pi steradians: E = flux / (pi d^2).
    #[test]
    fn far_away_a_face_is_a_lamp_of_its_flux() {
        for source in [
            serde_json::json!({"kind": "rectangle", "width_m": 0.6, "height_m": 0.9}),
            serde_json::json!({"kind": "octagon", "width_m": 1.2}),
        ] {
            let t = through(&light(source), OWN_BEAM_DEG);
            let d = 30.0;
            let far = t.share / (PI * d * d);
            assert!((t.lux_per_lumen(OWN_BEAM_DEG, d) / far - 1.0).abs() < 0.01);
        }
    }

    #[test]
    fn a_sheet_becomes_the_source_and_gives_less_than_it_got() {
        let mut l = light(serde_json::json!({"kind": "dish", "diameter_m": 0.18, "beam_deg": 60}));
        let bare = through(&l, OWN_BEAM_DEG);
        l.scrims = vec![
            serde_json::from_value(
                serde_json::json!({"gap_m": 1.0, "width_m": 1.5, "height_m": 1.5, "transmission": 0.5}),
            )
            .unwrap(),
        ];
        let soft = through(&l, OWN_BEAM_DEG);
        // its edge ray: 0.18 + 2 tan 30 = 1.335 m
        let [w, _] = soft.last_face_m(OWN_BEAM_DEG);
        assert!((w - 1.3347).abs() < 1e-3, "{w}");
        assert!(soft.lux_per_lumen(OWN_BEAM_DEG, 2.0) < bare.lux_per_lumen(OWN_BEAM_DEG, 3.0));
        // a smaller sheet cuts it and catches less
        l.scrims[0].width_m = 0.7;
        let cut = through(&l, OWN_BEAM_DEG);
        assert!((cut.last_face_m(OWN_BEAM_DEG)[0] - 0.7).abs() < 1e-12);
        assert!(cut.lux_per_lumen(OWN_BEAM_DEG, 2.0) < soft.lux_per_lumen(OWN_BEAM_DEG, 2.0));
    }

    #[test]
    fn a_grid_takes_light_away_and_gathers_none() {
        let wide =
            through(&light(serde_json::json!({"kind": "dish", "diameter_m": 0.18, "beam_deg": 65})), OWN_BEAM_DEG);
        for (beam, field) in [(10.0, 16.0), (20.0, 32.0), (40.0, 60.0)] {
            let grid = serde_json::json!({"kind": "spot", "diameter_m": 0.18, "beam_deg": beam, "field_deg": field});
            let t = through(&light(grid), OWN_BEAM_DEG);
            assert!(t.share < wide.share, "{beam}");
            let (a, b) = (t.lux_per_lumen(OWN_BEAM_DEG, 2.0), wide.lux_per_lumen(OWN_BEAM_DEG, 2.0));
            assert!(a < 1.3 * b, "on its axis it is no brighter than the reflector: {a} against {b}");
        }
    }

    proptest! {
        /// Farther away there is less light, whatever the lamp stands behind.
        #[test]
        fn light_thins_out(w in 0.05f64..3.0, h in 0.05f64..3.0, near in 0.3f64..5.0, more in 0.05f64..5.0) {
            for source in [
                serde_json::json!({"kind": "rectangle", "width_m": w, "height_m": h}),
                serde_json::json!({"kind": "disc", "diameter_m": w}),
                serde_json::json!({"kind": "dish", "diameter_m": w, "beam_deg": 50}),
            ] {
                let t = through(&light(source), OWN_BEAM_DEG);
                prop_assert!(t.lux_per_lumen(OWN_BEAM_DEG, near + more) < t.lux_per_lumen(OWN_BEAM_DEG, near));
            }
        }
    }
}

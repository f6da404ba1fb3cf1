//! The light path: lamp, power, modifier, sheet, filter, distance, lens, sensor.

use super::{Figures, Told, Values, curve_points, Unit};
use lightset::kit::{Lamp, Modifier, Output, Throw};
use lightset::throw::{BARE_BEAM_DEG, Leaves, Sheet, Through};
use optics::beam::beam_sr;
use optics::exposure::{C_FLAT, shutter_text};
use optics::falloff::solid_angle_of_rectangle;
use optics::geometry::angular_size_of_solid_angle;
use optics::units::{Metres, Stops};
use optics::words::capital;
use std::f64::consts::PI;

/// What the figures put between lamp and subject.
fn through(v: &Figures) -> Through {
    let leaves = match v.at("modifier") as i64 {
        0 => Leaves::OwnReflector,
        1 => Leaves::Face,
        _ => Leaves::Beam(v.at("dish_beam_deg")),
    };
    let sheet = (v.at("sheet") > 0.5).then(|| Sheet {
        gap_m: v.at("gap_m"),
        size_m: [v.at("sheet_w_m"), v.at("sheet_h_m")],
        share: v.at("transmission"),
    });
    let share = if leaves == Leaves::OwnReflector { 1.0 } else { v.at("share") };
    Through { leaves, face_m: [v.at("face_w_m"), v.at("face_h_m")], share, sheet }
}

/// The bright face the light leaves from last, metres.
pub(super) fn last_face(v: &Figures) -> [f64; 2] {
    through(v).last_face_m(v.at("beam_deg"))
}

/// Light at the subject per unit of axial intensity of the lamp in its own reflector.
fn gain(v: &Figures) -> f64 {
    gain_at(v, v.at("distance_m"))
}

fn gain_at(v: &Figures, d: f64) -> f64 {
    let own = v.at("beam_deg");
    beam_sr(own) * through(v).lux_per_lumen(own, d)
}

/// Lux seconds at the subject, facing the light.
fn lux_seconds(v: &Figures) -> f64 {
    let lamp = if v.at("flash") < 0.5 {
        v.at("lux_1m") * v.at("shutter_s")
    } else {
        // GN = N d: right exposure H = C N^2 / S at d, so H d^2 = C GN^2 / 100
        C_FLAT * v.at("guide_m").powi(2) / 100.0
    };
    lamp * (v.at("power_stops") - v.at("filter_stops")).exp2() * gain(v)
}

/// `H = C N^2 (1 + m)^2 / S`.
fn right(v: &Figures) -> f64 {
    C_FLAT * (v.at("f_number") * (1.0 + v.at("magnification"))).powi(2) / v.at("iso")
}

pub(super) fn relation(v: &Figures) -> f64 {
    (lux_seconds(v) / right(v)).log2() - v.at("over_stops")
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let h = lux_seconds(v);
    let meter = (h * v.at("iso") / C_FLAT).sqrt();
    let [w, tall] = last_face(v);
    let d = v.at("distance_m");
    let angle = angular_size_of_solid_angle(solid_angle_of_rectangle(Metres(w), Metres(tall), Metres(d))).to_degrees();
    if v.at("flash") < 0.5 {
        t.result("Illuminance at the subject", h / v.at("shutter_s"), Unit::Lux);
    }
    t.result("Luminous exposure", h, Unit::LuxSeconds);
    t.result("A meter turned to the light shows", meter, Unit::F);
    t.result("Over what the camera is set for", (h / right(v)).log2(), Unit::Stops);
    t.result("Bright face, width", w, Unit::M);
    t.result("Angle it fills", angle, Unit::Deg);
    t.result("Lost over the next 10 cm", (gain(v) / gain_at(v, d + 0.1)).log2(), Unit::Stops);
    t.says.push(format!(
        "{} light: it fills {angle:.0}° as the subject sees it.",
        capital(optics::hardness::hardness(angle))
    ));
    if v.at("flash") > 0.5 && v.at("shutter_s") < v.at("sync_s") * 0.999 {
        t.problems.push(format!(
            "{} is shorter than the sync time of {}: the shutter cuts the flash off.",
            shutter_text(v.at("shutter_s")),
            shutter_text(v.at("sync_s"))
        ));
    }
    if d < 5.0 * w.max(tall) && v.at("modifier") as i64 != 1 && v.at("sheet") < 0.5 {
        t.says.push("Nearer than five times its size: the inverse-square law overstates the light here.".into());
    }
    let output = if v.at("flash") < 0.5 {
        format!("{:.0} lux at 1 m", v.at("lux_1m"))
    } else {
        format!("guide number {:.0} m at ISO 100", v.at("guide_m"))
    };
    t.working.push(format!(
        "lamp {output} in a beam of {:.0}°: its flux is {:.2} times its axial intensity",
        v.at("beam_deg"),
        beam_sr(v.at("beam_deg"))
    ));
    t.working.push(format!(
        "power {:+.1}, filter {:.1} stops; modifier, sheet and {d:.2} m: {:.2} stops against the bare reflector at 1 m",
        v.at("power_stops"),
        -v.at("filter_stops"),
        gain(v).log2()
    ));
    t.working.push(format!(
        "H = {h:.3} lux s; the camera wants C N²(1+m)²/S = {:.3} lux s: {:+.2} stops",
        right(v),
        (h / right(v)).log2()
    ));
    let over = (h / right(v)).log2();
    let points = curve_points(0.3f64.min(d), (3.0 * d).max(2.0), |x| over + (gain_at(v, x) / gain(v)).log2());
    t.curves.push(super::Curve {
        across: "distance, m".into(),
        up: "stops over what is set".into(),
        lines: vec![super::CurveLine { name: "this light".into(), points }],
        here: vec![[d, over]],
    });
}

/// Figures of the path for a lamp with a modifier at a distance and a power.
pub fn path_of(lamp: &Lamp, modifier: Option<&Modifier>, distance: Metres, power: Stops) -> Values {
    let mut v = Values::new();
    let mut put = |k: &str, x: f64| {
        v.insert(k.into(), x);
    };
    let axial = lamp.axial();
    match lamp.output {
        Output::Lux { .. } | Output::Lumens { .. } => {
            put("flash", 0.0);
            put("lux_1m", axial);
        }
        Output::Guide { .. } | Output::Joules { .. } => {
            put("flash", 1.0);
            put("guide_m", (axial * 100.0 / C_FLAT).sqrt());
        }
    }
    put("beam_deg", lamp.beam_deg());
    put("power_stops", power.0);
    put("distance_m", distance.0);
    put("sheet", 0.0);
    match modifier {
        None => {
            put("modifier", 0.0);
            put("face_w_m", lamp.face_m);
            put("face_h_m", lamp.face_m);
        }
        Some(m) => {
            // a disc and the square of the same area give the same light
            let k = if matches!(m.shape, lightset::kit::Shape::Disc) { (PI / 4.0).sqrt() } else { 1.0 };
            put("face_w_m", m.size_m[0] * k);
            put("face_h_m", m.size_m[1] * k);
            put("share", m.share);
            match (m.throws, m.beam_deg) {
                (Throw::Dish, b) => {
                    put("modifier", 2.0);
                    put("dish_beam_deg", b.unwrap_or(75.0));
                }
                (Throw::Bare, _) => {
                    put("modifier", 2.0);
                    put("dish_beam_deg", BARE_BEAM_DEG);
                }
                _ => put("modifier", 1.0),
            }
        }
    }
    v
}

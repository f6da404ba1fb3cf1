//! Size: the angle a face fills, and how wide the edge of a shadow is.

use super::{Curve, CurveLine, Figures, Told, curve_points, Unit};
use optics::falloff::{irradiance_from_disc, solid_angle_of_rectangle};
use optics::geometry::angular_size_of_solid_angle;
use optics::units::Metres;

fn angle(v: &Figures, d: f64) -> f64 {
    let (w, h) = (Metres(v.at("face_w_m")), Metres(v.at("face_h_m")));
    angular_size_of_solid_angle(solid_angle_of_rectangle(w, h, Metres(d))).to_degrees()
}

pub(super) fn relation(v: &Figures) -> f64 {
    (angle(v, v.at("distance_m")) / v.at("angle_deg")).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (w, h, d) = (v.at("face_w_m"), v.at("face_h_m"), v.at("distance_m"));
    let a = angle(v, d);
    t.result("Angle it fills", a, Unit::Deg);
    t.result("As wide as", 2.0 * (w / 2.0 / d).atan().to_degrees(), Unit::Deg);
    t.result("and as high as", 2.0 * (h / 2.0 / d).atan().to_degrees(), Unit::Deg);
    let blur = v.at("caster_m") * w / (d - v.at("caster_m")).max(0.01);
    t.result("Edge of a shadow, full width", blur, Unit::M);
    let large = w.max(h);
    t.result("Distance in widths of the face", d / large, Unit::Number);
    let r = large / 2.0;
    let error = (irradiance_from_disc(1.0, Metres(r), Metres(d)) / (std::f64::consts::PI * r * r / (d * d))).log2();
    t.result("The inverse-square law is wrong here by", -error, Unit::Stops);
    t.says.push(format!("{a:.0}° is {}.", optics::hardness::hardness(a)));
    t.says.push(format!(
        "A disc of {:.2} m in its place would give the same solid angle; half as far it fills {:.0}°.",
        2.0 * d * (a / 2.0).to_radians().tan(),
        angle(v, d / 2.0)
    ));
    t.working.push("solid angle of a rectangle on its axis: 4 asin(ab / √((a² + 4d²)(b² + 4d²))); the angle is that of the disc with the same solid angle".into());
    t.working.push(format!(
        "edge of a shadow: gap × width / (distance − gap) = {:.2} × {w:.2} / {:.2} = {:.3} m",
        v.at("caster_m"),
        d - v.at("caster_m"),
        blur
    ));
    t.curves.push(Curve {
        across: "distance, m".into(),
        up: "angle it fills, degrees".into(),
        lines: vec![CurveLine { name: "this face".into(), points: curve_points(0.3 * d, 3.0 * d, |x| angle(v, x)) }],
        here: vec![[d, a]],
    });
}

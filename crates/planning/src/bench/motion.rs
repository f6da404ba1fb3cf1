//! Motion: frozen or drawn as a streak.

use super::{Figures, Told, Unit};
use optics::exposure::shutter_text;

fn blur(v: &Figures) -> f64 {
    v.at("speed_ms") * v.at("time_s") * v.at("frame_px") / v.at("frame_m")
}

pub(super) fn relation(v: &Figures) -> f64 {
    (blur(v) / v.at("blur_px")).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let b = blur(v);
    t.result("Streak", b, Unit::Px);
    t.result("It moves", v.at("speed_ms") * v.at("time_s"), Unit::M);
    t.result("Longest time for two pixels", 2.0 * v.at("frame_m") / (v.at("speed_ms") * v.at("frame_px")), Unit::S);
    t.says.push(match b {
        b if b < 2.0 => "Frozen: under two pixels (common practice).".into(),
        b if b < 12.0 => "Soft: neither frozen nor a line.".to_owned(),
        _ => format!("A streak, {:.0} % of the frame's width.", 100.0 * b / v.at("frame_px")),
    });
    t.says.push("A flash freezes by its own duration if the ambient part is four stops or more under. Durations given as t0.5 are about a third of the time that counts (a flash that dies away exponentially: t0.1 = 3.3 × t0.5).".into());
    t.working.push(format!(
        "speed × time × pixels / frame width = {:.2} × {} × {:.0} / {:.2}",
        v.at("speed_ms"),
        shutter_text(v.at("time_s")),
        v.at("frame_px"),
        v.at("frame_m")
    ));
}

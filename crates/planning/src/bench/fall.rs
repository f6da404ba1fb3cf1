//! A drop or a thing that falls: when to trigger, how fast it is, and how short the light must be.
//!
//! Free fall: `t = √(2 h / g)`, `v = g t` (g = 9.81 m/s²); the air is left out, which slows a drop of 4 mm by a twentieth over a metre
//! (common practice).

use super::{Figures, Told, Unit};

const G: f64 = 9.81;

fn speed(v: &Figures) -> f64 {
    (2.0 * G * v.at("fall_m")).sqrt()
}

/// Streak in pixels while the light lasts.
fn streak(v: &Figures) -> f64 {
    speed(v) * v.at("light_s") / v.at("seen_m") * v.at("picture_px")
}

pub(super) fn relation(v: &Figures) -> f64 {
    (streak(v) / v.at("blur_px")).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let h = v.at("fall_m");
    let falls = (2.0 * h / G).sqrt();
    t.result("Falls for", falls, Unit::S);
    t.result("Speed then, metres a second", speed(v), Unit::Number);
    t.result("Streak", streak(v), Unit::Px);
    let sensor = v.at("sensor_m").min(h);
    let from_sensor = falls - (2.0 * sensor / G).sqrt();
    t.result("From the light barrier to there", from_sensor, Unit::S);
    t.result("Trigger after", from_sensor - v.at("lag_s"), Unit::S);
    t.says.push(format!(
        "It takes {:.0} ms to fall {h:.2} m; set the delay to {:.0} ms after the barrier.",
        1000.0 * falls,
        1000.0 * (from_sensor - v.at("lag_s"))
    ));
    // a millisecond early or late
    t.says.push(format!("A millisecond early or late moves it {:.1} mm.", speed(v)));
    if from_sensor < v.at("lag_s") {
        t.problems.push("The camera's or flash's own delay is longer than what is left of the fall: put the barrier higher.".into());
    }
    t.says.push("A flash at low power is shorter on most heads that cut the tube off, and longer on some others: see its table. Keep water from mains leads, and cover what stands below.".into());
    t.working.push(format!("√(2 h / g) = √(2 × {h:.2} / 9.81) = {falls:.4} s; streak = speed × time × pixels / metres seen"));
}

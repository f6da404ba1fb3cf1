//! Frame rate and shutter angle: how long a frame is lit, and what slow motion costs.

use super::{Figures, Told, Unit};
use optics::engraved;
use optics::exposure::shutter_text;

fn time(rate: f64, angle: f64) -> f64 {
    angle / 360.0 / rate
}

pub(super) fn relation(v: &Figures) -> f64 {
    (time(v.at("rate_fps"), v.at("angle_deg")) / v.at("frame_s")).log2()
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let (rate, play, angle) = (v.at("rate_fps"), v.at("play_fps"), v.at("angle_deg"));
    let lit = time(rate, angle);
    t.result("Each frame is lit for", lit, Unit::S);
    let costs = (rate / play).log2();
    t.result("Against the playing rate it needs", costs, Unit::Stops);
    t.result("Played at", play / rate, Unit::Share);
    t.says.push(format!(
        "{rate:.0} frames a second at {angle:.0}° are {}; played at {play:.0}, {}.",
        shutter_text(lit),
        if rate > play * 1.01 { format!("movement is {:.1} times slower", rate / play) } else { "movement is as it was".into() }
    ));
    if costs > 0.05 {
        t.says.push(format!("At the same angle that needs {costs:.1} stops more light than {play:.0} frames a second."));
    }
    let mains = v.at("mains_hz");
    let pulses = 2.0 * mains * lit;
    if (pulses - pulses.round()).abs() > 0.03 && pulses < 20.0 {
        let whole = (pulses.round()).max(1.0) / (2.0 * mains);
        t.says.push(format!(
            "Lamps on mains of {mains:.0} Hz pulse {:.0} times a second: {} or {:.0}° does not flicker.",
            2.0 * mains,
            shutter_text(whole),
            (whole * rate * 360.0).min(360.0)
        ));
    }
    t.says.push(format!("The nearest engraved time is {}.", shutter_text(engraved::time(lit))));
    t.working.push(format!("angle / 360 / rate = {angle:.0} / 360 / {rate:.0} = {lit:.5} s; log₂({rate:.0}/{play:.0}) = {costs:.2} stops"));
}

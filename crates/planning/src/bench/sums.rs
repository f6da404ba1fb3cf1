//! Several lights together: the f-numbers of single lights added, and the ratio in both schools.

use super::{Figures, Told, Unit};

const NAMES: [&str; 4] = ["key_f", "fill_f", "third_f", "fourth_f"];

fn light(v: &Figures, i: usize) -> f64 {
    let f = v.at(NAMES[i]);
    if i > 1 && f < 0.05 { 0.0 } else { f * f }
}

pub(super) fn relation(v: &Figures) -> f64 {
    (1.0 + light(v, 0) / light(v, 1)).log2() - v.at("sides_stops")
}

pub(super) fn tell(v: &Figures, t: &mut Told) {
    let parts: Vec<f64> = (0..4).map(|i| light(v, i)).collect();
    let all: f64 = parts.iter().sum();
    let k = parts[0] / parts[1];
    t.result("All together", all.sqrt(), Unit::F);
    t.result("key : fill, each alone", k, Unit::Number);
    t.result("(key + fill) : fill, lit side over shadow side", k + 1.0, Unit::Number);
    t.result("Lit side over shadow side", (k + 1.0).log2(), Unit::Stops);
    t.result("Key over fill", k.log2(), Unit::Stops);
    for (i, name) in ["key", "fill", "third", "fourth"].iter().enumerate() {
        if parts[i] > 0.0 {
            t.says.push(format!("{name}: {:.0} % of the light at the subject.", 100.0 * parts[i] / all));
        }
    }
    t.says.push(match (k + 1.0).log2() {
        s if s < 1.0 => "Even: little shape.".into(),
        s if s < 1.6 => "Gentle: about what business portraits use (common practice).".into(),
        s if s < 3.0 => "Shaped.".to_owned(),
        _ => "Dramatic: 8 to 1 and more (common practice).".into(),
    });
    t.working
        .push("light goes with the square of the f-number: f = √(f₁² + f₂² + …), all lights facing the meter".into());
    t.working.push(format!("{k:.2} : 1 as key to fill is {:.2} : 1 as (key + fill) to fill", k + 1.0));
}

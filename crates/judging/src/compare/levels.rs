//! Exposure and the levels of single lights told apart, by the fewest changes.

use direction::fusion::inverse_variance;

/// A change is looked for only where it takes away this much of chi-squared: about two standard deviations.
const PRICE: f64 = 4.0;

/// Walls hand back what lamps give: with several lights the room's light follows them by up to this much, stops.
const FOLLOWS: f64 = 0.35;

/// What all levels have in common, and what single ones do besides: stops with standard deviations.
pub(super) struct Levels {
    pub common: Option<(f64, f64)>,
    /// Per pair of lights.
    pub own: Vec<Option<(f64, f64)>>,
    pub room: Option<(f64, f64)>,
}

/// Tells exposure from the levels of single lights. Each light's change of brightness is the exposure's and its own; the
/// explanation with the fewest changes that fits is taken (chi-squared with a price for each change), and of two
/// that fit alike the one that changes exposure.
///
/// `set_alike` says that the camera's settings are known and the same: then that all lights changed alike needs more.
/// The same holds of colour in mired: what all lights have in common is the balance, the rest their own. `seen` is the
/// least difference a person sees, in the unit of the changes.
pub(super) fn levels(
    own: &[Option<(f64, f64)>],
    room: Option<(f64, f64)>,
    lit_sd: f64,
    set_alike: bool,
    seen: f64,
) -> Levels {
    let mut all: Vec<(f64, f64)> = own.iter().flatten().copied().collect();
    let lights = all.len();
    let room_in = room.filter(|r| r.1 < 0.6).map(|(v, sd)| (v, sd.hypot(if lights > 1 { FOLLOWS } else { 0.0 })));
    all.extend(room_in);
    let exposure_price = PRICE - 0.5 + if set_alike && all.len() > 1 { 2.0 } else { 0.0 };
    if all.is_empty() {
        return Levels { common: None, own: own.to_vec(), room };
    }
    let n = all.len();
    // what is common to all is known no better than the lit side's brightness; what differs, as each is
    let mut best: Option<(f64, bool, u32)> = None;
    for exposed in [false, true] {
        for changed in 0..(1u32 << n.min(6)) {
            let fixed: Vec<(f64, f64)> = (0..n).filter(|k| changed >> k & 1 == 0).map(|k| all[k]).collect();
            // exposure needs something that did not change by itself
            if exposed && fixed.is_empty() {
                continue;
            }
            let e = if exposed { inverse_variance(fixed.iter().copied()).map_or(0.0, |v| v.0) } else { 0.0 };
            let chi: f64 = fixed.iter().map(|(v, sd)| ((v - e) / sd.hypot(seen)).powi(2)).sum();
            // that the key or a lamp is turned is likelier than that the room changes
            let room_price = if room_in.is_some() && changed >> lights & 1 == 1 { 1.0 } else { 0.0 };
            let cost =
                chi + PRICE * f64::from(changed.count_ones()) + room_price + if exposed { exposure_price } else { 0.0 };
            if best.is_none_or(|b| cost < b.0) {
                best = Some((cost, exposed, changed));
            }
        }
    }
    let (_, exposed, changed) = best.unwrap_or((0.0, false, 0));
    let fixed = (0..n).filter(|k| changed >> k & 1 == 0).map(|k| all[k]);
    let common = if exposed {
        inverse_variance(fixed).map(|(v, sd)| (v, sd.max(lit_sd)))
    } else {
        // left alone, by this explanation
        Some((0.0, lit_sd.max(0.6 * seen)))
    };
    let (e, e_sd) = common.unwrap_or((0.0, seen));
    let apart = |v: (f64, f64)| (v.0 - e, v.1.hypot(e_sd).max(0.75 * seen));
    // what the explanation leaves alone differs by its error only
    let mut k = 0;
    let own = own
        .iter()
        .map(|o| {
            o.map(|v| {
                let (d, sd) = apart(v);
                let free = changed >> k & 1 == 1;
                k += 1;
                if free { (d, sd) } else { (d, sd.max(d.abs() / 1.9)) }
            })
        })
        .collect();
    let room = room.map(|v| {
        let (d, sd) = apart(v);
        if room_in.is_some() && changed >> lights & 1 == 1 {
            (d, sd.max(0.15))
        } else {
            (d, sd.max(0.15).max(d.abs() / 1.9))
        }
    });
    Levels { common, own, room }
}

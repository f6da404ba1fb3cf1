//! How a picture is exposed: zones in stops, clipped areas, where marked parts lie, and what would correct it.

use crate::patch_role::PatchRole;
use crate::readings::{Correction, ExposureReading, PatchReading, Placement, Way, Zone};
use optics::exposure::{Settings, nominal_f_number, shutter_text};
use optics::photo::Meter;
use optics::units::FNumber;
use serde::Deserialize;
use std::sync::LazyLock;

/// A row of `data/placements.toml`.
#[derive(Debug, Clone, Deserialize)]
struct Wanted {
    role: PatchRole,
    /// Brief it holds for; any if left out.
    brief: Option<String>,
    from_stops: f64,
    to_stops: f64,
    says: String,
}

#[derive(Deserialize)]
struct WantedTable {
    placement: Vec<Wanted>,
}

static WANTED: LazyLock<Vec<Wanted>> = LazyLock::new(|| {
    toml::from_str::<WantedTable>(include_str!("../data/placements.toml")).expect("placements.toml").placement
});

/// Names of zones with their upper ends in stops from middle grey; the last ends at diffuse white of
/// the encoding, 1 / 0.18 or 2.47 stops over.
const ZONES: [(&str, f64); 6] = [
    ("lost in black", -6.0),
    ("deep shadow", -3.5),
    ("shadow", -1.0),
    ("middle", 1.0),
    ("light", 2.0),
    ("near white", 24.0),
];

/// Shares of a picture per zone, dark to light; what is clipped lies in the last.
pub fn zones(meter: &Meter) -> Vec<Zone> {
    let total = meter.histogram.iter().sum::<u64>().max(1) as f64;
    let mut low = f64::MIN;
    ZONES
        .iter()
        .map(|(name, high)| {
            let inside = meter.histogram.iter().enumerate().filter(|(i, _)| {
                let stop = Meter::LOWEST_STOP + (*i as f64 + 0.5) / Meter::PER_STOP;
                stop >= low && stop < *high
            });
            let share = inside.map(|(_, n)| *n).sum::<u64>() as f64 / total;
            low = *high;
            Zone { name: (*name).into(), to_stops: high.min(2.47), share: (1e5 * share).round() / 1e5 }
        })
        .collect()
}

/// Where the marked parts lie against where such parts usually lie.
pub fn placements(patches: &[(String, PatchRole, PatchReading)]) -> Vec<Placement> {
    let place = |(mark, role, p): &(String, PatchRole, PatchReading)| {
        place(mark.clone(), *role, p.stops_from_grey, p.spread_stops, None)
    };
    patches.iter().filter_map(place).collect()
}

/// Holds the marked parts of a reading against a brief: a dramatic portrait has its skin elsewhere than a gentle one.
pub fn by_brief(e: &mut ExposureReading, brief: &str, settings: Option<&Settings>) {
    let all = std::mem::take(&mut e.placements);
    let again = |p: Placement| place(p.mark, p.role, p.stops_from_grey, p.spread_stops, Some(brief));
    e.placements = all.into_iter().filter_map(again).collect();
    e.correction = correction(&e.placements, settings);
}

/// A marked part against what a brief asks of such parts, or else against what is usual; `None` if no row of
/// `data/placements.toml` speaks of them.
fn place(mark: String, role: PatchRole, stops: f64, spread: f64, brief: Option<&str>) -> Option<Placement> {
    let of = |b: Option<&str>| WANTED.iter().find(|w| w.role == role && w.brief.as_deref() == b);
    let w = brief.and_then(|b| of(Some(b))).or_else(|| of(None))?;
    let off = if stops < w.from_stops { stops - w.from_stops } else { (stops - w.to_stops).max(0.0) };
    let round = |v: f64| (100.0 * v).round() / 100.0;
    Some(Placement {
        mark,
        role,
        stops_from_grey: round(stops),
        spread_stops: round(spread),
        usual_stops: [w.from_stops, w.to_stops],
        off_stops: round(off),
        says: w.says.clone(),
    })
}

/// One change of exposure that brings the marked parts where they usually lie, or as near as all allow; `None` if they
/// lie there. A correction under a sixth of a stop is none.
pub fn correction(placements: &[Placement], settings: Option<&Settings>) -> Option<Correction> {
    let low = placements.iter().map(|p| p.usual_stops[0] - p.stops_from_grey).fold(f64::MIN, f64::max);
    let high = placements.iter().map(|p| p.usual_stops[1] - p.stops_from_grey).fold(f64::MAX, f64::min);
    if placements.is_empty() {
        return None;
    }
    // every shift from low to high suits all; if they cross, no shift does
    let agreed = low <= high;
    let stops = if agreed { 0f64.clamp(low, high) } else { f64::midpoint(low, high) };
    if stops.abs() < 1.0 / 6.0 && agreed {
        return None;
    }
    let stops = (10.0 * stops).round() / 10.0;
    Some(Correction { stops, agreed, ways: settings.map(|s| ways(s, stops)).unwrap_or_default() })
}

/// The ways to change exposure by some stops, with what each also changes.
pub fn ways(s: &Settings, stops: f64) -> Vec<Way> {
    let wider = stops > 0.0;
    let n = FNumber(s.f_number * (-stops / 2.0).exp2());
    let t = s.shutter_s * stops.exp2();
    let iso = s.iso * stops.exp2();
    let way = |by: &str, to: String, also: &str| Way { by: by.into(), to, also: also.into() };
    let choose = |a: &'static str, b: &'static str| if wider { a } else { b };
    vec![
        way(
            "aperture",
            format!("f/{}", nominal_f_number(n)),
            choose("less is in focus; flash and ambient both gain", "more is in focus; flash and ambient both lose"),
        ),
        way(
            "shutter",
            shutter_text(t),
            choose(
                "more motion blur; only ambient light gains, flash does not",
                "less motion blur; only ambient light loses, flash does not; mind the sync limit",
            ),
        ),
        way("ISO", format!("{}", nominal_iso(iso)), choose("more noise, less room before clipping", "less noise")),
        way(
            "power of every light",
            format!("{stops:+.1} stops"),
            choose(
                "ambient light keeps its level and counts for less",
                "ambient light keeps its level and counts for more",
            ),
        ),
    ]
}

/// The ISO speed in thirds of a stop nearest to an exact one, as cameras name it (ISO 12232 preferred numbers).
pub fn nominal_iso(exact: f64) -> u32 {
    const THIRDS: [u32; 10] = [100, 125, 160, 200, 250, 320, 400, 500, 640, 800];
    let k = (3.0 * (exact / 100.0).log2()).round() as i32;
    let (decade, i) = (k.div_euclid(10), k.rem_euclid(10));
    let base = f64::from(THIRDS[i as usize]);
    (base * 10f64.powi(decade)).round() as u32
}

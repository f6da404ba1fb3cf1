//! Cutters: a slit or blinds before a lamp, from the band of light they are to leave. Similar triangles: a face `s` high at `a` metres
//! before an opening `o`, and a screen `b` metres behind it, give a band `o (a + b) / a` high at half its light, with edges
//! `s b / a` wide (shadow of an opaque edge, in any textbook of optics; for a lamp without a beam of its own).

use crate::frame::flat_in_frame;
use crate::light_meter::LightMeter;
use crate::set::{Flag, FlagPattern, LightSet, range};
use optics::geometry::{Vec3, upright};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What a cutter is to leave of a light.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Band {
    /// Where its middle must cross, metres, set frame: the eyes, at the reference point, if absent.
    #[serde(default)]
    #[schema(value_type = optics::geometry::Triple)]
    pub at_m: [f64; 3],
    /// Height of a band where the light is half, metres.
    pub height_m: f64,
    /// Width over which its edge fades from all to nothing, metres.
    pub edge_m: f64,
    /// Dark between two bands, metres: blinds. One band alone if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub apart_m: Option<f64>,
}

impl Band {
    /// Stops that its middle loses: of a face that is never seen whole through the opening it gets the part that is.
    fn loses_stops(&self) -> f64 {
        -(self.height_m / self.edge_m).min(1.0).log2()
    }
}

/// Stops of loss that are worth a word.
const WORTH_A_WORD: f64 = 0.05;

/// A cutter and where it stands.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Cutter {
    /// The flag.
    pub flag: Flag,
    /// From the light's face to it, metres.
    pub from_light_m: f64,
    /// From it to where the band crosses, metres.
    pub from_subject_m: f64,
    /// Height of the opening, metres.
    pub opening_m: f64,
    /// The band it gives.
    pub band: Band,
    /// Stops that the middle of the band loses, where its edges meet.
    pub loses_stops: f64,
    /// The same in sentences.
    pub says: Vec<String>,
}

/// A stand and a cloth find room between: metres before a face, and before a subject.
const CLEAR_M: f64 = 0.12;
/// What of the subject is to be dark beside the band, metres up and aside.
const SHADED_M: [f64; 2] = [0.8, 0.5];
/// Most slats of blinds.
const MOST_SLATS: u32 = 60;

/// Height of a light's face along a direction, metres.
fn height_of(light: &LightMeter, up: &Vec3) -> f64 {
    let ups = light.outline_m.iter().map(|p| Vec3::from(*p).dot(up));
    ups.clone().fold(f64::MIN, f64::max) - ups.fold(f64::MAX, f64::min)
}

/// What a slit or blinds leave of a light where they are aimed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct FlagMeter {
    /// Its place in the list of the set's flags.
    pub flag: usize,
    /// The light it cuts.
    pub light: String,
    /// The band it leaves.
    pub band: Band,
    /// The same in a sentence.
    pub says: String,
}

/// What each slit and each blinds of a set leave of the light they stand before; those before no light are left out.
pub fn bands(flags: &[Flag], lights: &[LightMeter]) -> Vec<FlagMeter> {
    let of = |(i, f): (usize, &Flag)| {
        let (open, apart) = match f.pattern {
            FlagPattern::Slit { opening_m } => (opening_m, None),
            FlagPattern::Blinds { slats, open } if slats > 0 => {
                let pitch = f.height_m / f64::from(slats);
                (open * pitch, Some((1.0 - open) * pitch))
            }
            _ => return None,
        };
        let (at, place) = (Vec3::from(f.aim_m), Vec3::from(f.position_m));
        let through = |l: &&LightMeter| {
            let to = Vec3::from(l.face_m) - at;
            let along = (place - at).dot(&to) / to.norm_squared();
            let aside = (place - at - to * along).norm();
            !l.off && along > 0.0 && along < 1.0 && aside < 0.5 * f.width_m.max(f.height_m)
        };
        let l = lights.iter().find(through)?;
        let to = Vec3::from(l.face_m) - at;
        let (d, dir) = (to.norm(), to.normalize());
        let b = (place - at).dot(&dir);
        let (_, up) = upright(&dir);
        let scale = d / (d - b);
        let band = Band {
            at_m: f.aim_m,
            height_m: open * scale,
            edge_m: height_of(l, &up) * b / (d - b),
            apart_m: apart.map(|a| a * scale),
        };
        let mut says = format!(
            "It leaves {} {:.0} mm high of the {}, with edges of {:.0} mm",
            if band.apart_m.is_some() { "bands" } else { "a band" },
            1000.0 * band.height_m,
            l.name,
            1000.0 * band.edge_m
        );
        if let Some(a) = band.apart_m {
            says += &format!(", {:.0} mm apart", 1000.0 * a);
        }
        if band.loses_stops() > WORTH_A_WORD {
            says += &format!("; the edges meet, its middle loses {:.1} stops", band.loses_stops());
        }
        Some(FlagMeter { flag: i, light: l.name.clone(), band, says: says + " (within a tenth)." })
    };
    flags.iter().enumerate().filter_map(of).collect()
}

/// The cutter that leaves a band of a light.
///
/// # Errors
/// One sentence if the band is out of bounds, or the cutter would have to stand in the lamp or in the subject.
pub fn cutter(light: &LightMeter, band: &Band) -> Result<Cutter, String> {
    let ok = |name: &str, v: f64, lo: f64, hi: f64| range(name, v, lo, hi, "metres");
    ok("height_m", band.height_m, 0.002, 3.0)?;
    ok("edge_m", band.edge_m, 0.0005, 3.0)?;
    band.apart_m.map_or(Ok(()), |v| ok("apart_m", v, 0.002, 3.0))?;
    band.at_m.iter().try_for_each(|v| ok("at_m", *v, -20.0, 20.0))?;
    let (face, at) = (Vec3::from(light.face_m), Vec3::from(band.at_m));
    let d = (face - at).norm();
    if d < 3.0 * CLEAR_M {
        return Err(format!(
            "{}: it stands {d:.2} m from where the band is to cross; there is no room for a cutter.",
            light.name
        ));
    }
    let dir = (face - at) / d;
    let (_, up) = upright(&dir);
    let high = height_of(light, &up);
    let share = band.edge_m / (high + band.edge_m);
    let (b, a) = (d * share, d * (1.0 - share));
    if b < CLEAR_M {
        let least = high * CLEAR_M / (d - CLEAR_M);
        return Err(format!(
            "{}: for an edge of {:.0} mm the cutter would have to stand {:.0} cm from the subject. From {:.0} cm its face of {:.0} cm gives {:.0} mm: a smaller face or a longer way makes it crisper.",
            light.name,
            1000.0 * band.edge_m,
            100.0 * b,
            100.0 * CLEAR_M,
            100.0 * high,
            1000.0 * least
        ));
    }
    if a < CLEAR_M {
        let most = high * (d - CLEAR_M) / CLEAR_M;
        return Err(format!(
            "{}: for an edge of {:.0} cm the cutter would have to stand in or behind the lamp. Its face of {:.0} cm gives {:.0} cm at most: a larger face makes it softer.",
            light.name,
            100.0 * band.edge_m,
            100.0 * high,
            100.0 * most
        ));
    }
    let scale = a / d;
    let opening = band.height_m * scale;
    let whole = SHADED_M.map(|v| v * scale + 0.5 * high);
    let (pattern, height_m, shift) = match band.apart_m {
        None => (FlagPattern::Slit { opening_m: opening }, whole[0].max(2.0 * opening), 0.0),
        Some(apart) => {
            let pitch = (band.height_m + apart) * scale;
            // an odd number, with an opening in the middle: each cell is open below and slat above
            let slats = ((whole[0] / pitch).ceil() as u32 | 1).min(MOST_SLATS | 1);
            let open = band.height_m / (band.height_m + apart);
            (FlagPattern::Blinds { slats, open }, pitch * f64::from(slats), pitch * (1.0 - open) / 2.0)
        }
    };
    let loses_stops = band.loses_stops();
    let place = at + dir * b + up * shift;
    let mm = |v: f64| (v * 1000.0).round() / 1000.0;
    let flag = Flag {
        position_m: [mm(place.x), mm(place.y), mm(place.z)],
        aim_m: band.at_m,
        width_m: mm(whole[1].max(0.1)),
        height_m,
        pattern,
    };
    let mut says = vec![format!(
        "{:.2} m from the face and {:.2} m from the subject, open by {:.0} mm{}.",
        a,
        b,
        1000.0 * opening,
        if band.apart_m.is_some() { " between slats" } else { "" }
    )];
    says.push(format!(
        "Moved 1 cm up or down, the band moves {:.1} cm the same way; 10 cm nearer to the subject its edges narrow to {:.0} mm.",
        d / a,
        1000.0 * high * (b - 0.1).max(0.0) / (a + 0.1)
    ));
    if loses_stops > WORTH_A_WORD {
        says.push(format!(
            "The edges meet: the middle of the band loses {loses_stops:.1} stops. A smaller face or a higher band keeps it bright."
        ));
    }
    Ok(Cutter { flag, from_light_m: a, from_subject_m: b, opening_m: opening, band: *band, loses_stops, says })
}

/// Steps in which a cutter goes towards the lamp, as shares of the edge's width.
const SOFTER: f64 = 1.06;

/// The cutter that leaves a band of a light of a set without standing in its picture: where it would, it goes towards the lamp,
/// and its edges grow.
///
/// # Errors
/// As [`cutter`].
pub fn cutter_beside(set: &LightSet, light: &LightMeter, band: &Band) -> Result<Cutter, String> {
    let shown = |c: &Cutter| flat_in_frame(set, &c.flag.position_m, &c.flag.aim_m, [c.flag.width_m, c.flag.height_m]);
    let first = cutter(light, band);
    if first.as_ref().is_ok_and(|c| !shown(c)) {
        return first;
    }
    let mut edge_m = band.edge_m;
    while edge_m < 3.0 {
        edge_m *= SOFTER;
        let Ok(mut c) = cutter(light, &Band { edge_m, ..*band }) else { continue };
        if shown(&c) {
            continue;
        }
        c.says.push(format!(
            "With edges of {:.0} mm it would stand in the picture{}; here they are {:.0} mm. A smaller face, or the lamp farther away, makes them crisper.",
            1000.0 * band.edge_m,
            if first.is_err() { " or in the subject" } else { "" },
            1000.0 * edge_m
        ));
        return Ok(c);
    }
    // nowhere beside the picture: as asked, and the set's meter says that it shows
    first
}

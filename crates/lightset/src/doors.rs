//! Barn doors: leaves hinged on the edges of a lamp's face, and where they end its light.

use crate::light_meter::LightMeter;
use crate::set::{Flag, FlagPattern, range};
use optics::geometry::{Vec3, upright};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Leaves of a lamp and what they leave.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Doors {
    /// The leaves as flags: left, right, top, bottom as one looks along the beam.
    pub flags: Vec<Flag>,
    /// Half width and half height, metres, at the reference point's distance where the light has fallen to half.
    #[schema(value_type = optics::geometry::Pair)]
    pub half_m: [f64; 2],
    /// Stops that the middle loses where the leaves reach over the face.
    pub loses_stops: f64,
    /// The same in a sentence.
    pub says: String,
}

/// Length of a leaf over the face's side (common practice).
const LEAF: f64 = 0.8;
/// A finger's breadth between face and hinge, metres.
const HINGE_M: f64 = 0.01;
/// Distance from hinge to tip, aside and ahead, of a leaf `length` long that is opened by `deg` from closed.
fn tip(length: f64, deg: f64) -> (f64, f64) {
    let (s, c) = deg.to_radians().sin_cos();
    // closed lies over the face, 90 stands straight out, more is folded outward
    (-c * length, s * length)
}

/// Leaves on a light, opened by an angle: 90 stand straight out of the face, less close over it.
///
/// # Errors
/// A sentence that names the angle, or why the lamp takes none.
pub fn doors(light: &LightMeter, open_deg: f64) -> Result<Doors, String> {
    range("open_deg", open_deg, 30.0, 170.0, "degrees")?;
    if light.outline_m.len() != 4 && light.outline_m.len() < 8 {
        return Err(format!("{}: its face has no edges to hang leaves on", light.name));
    }
    let c = Vec3::from(light.face_m);
    let corners: Vec<Vec3> = light.outline_m.iter().map(|p| Vec3::from(*p)).collect();
    // the face's own normal, towards the subject
    let n = (corners[1] - corners[0]).cross(&(corners[2] - corners[1])).try_normalize(1e-12);
    let n = n.ok_or_else(|| format!("{}: its face has no edges to hang leaves on", light.name))?;
    let n = if n.dot(&-c) < 0.0 { -n } else { n };
    let (u, v) = upright(&n);
    let half = [u, v].map(|d| corners.iter().map(|p| (p - c).dot(&d).abs()).fold(0.0, f64::max));
    if half[0].max(half[1]) > 1.0 {
        return Err(format!("{}: leaves are made for faces up to 2 m; hang a flag instead", light.name));
    }
    let distance = c.norm();
    if distance < 2.0 * LEAF * half[0].max(half[1]) + 0.1 {
        return Err(format!("{}: it stands so near that its leaves would touch the subject", light.name));
    }
    let mut flags = Vec::new();
    let mut ends = [0.0; 2];
    let mut seen = 1.0f64;
    for (k, (side, across)) in [(u, 1), (v, 0)].into_iter().enumerate() {
        let length = LEAF * 2.0 * half[k];
        let (aside, ahead) = tip(length, open_deg);
        // the middle of the face is hidden beyond the line from it past the tip
        ends[k] = (half[k] + aside) / (ahead + HINGE_M) * distance;
        // and of the face the subject's middle sees what lies within the lines from it past both tips
        seen *= ((half[k] + aside) / half[k] * distance / (distance - ahead - HINGE_M)).min(1.0);
        if ends[k] <= 0.0 {
            return Err("open_deg: so far closed the leaves meet and nothing gets out; open them more".into());
        }
        for sign in [-1.0, 1.0] {
            let d = side * sign;
            let hinge = c + d * half[k] + n * HINGE_M;
            let end = d * aside + n * ahead;
            let middle = hinge + end / 2.0;
            // it looks at right angles to its length
            let face = (d * ahead - n * aside).normalize();
            let [width_m, height_m] = if k == 0 { [length, 2.0 * half[across]] } else { [2.0 * half[across], length] };
            flags.push(Flag {
                position_m: middle.into(),
                aim_m: (middle + face).into(),
                width_m,
                height_m,
                pattern: FlagPattern::Solid,
            });
        }
    }
    let loses_stops = -seen.log2();
    let mut says = format!(
        "Leaves at {open_deg:.0}°: at the subject the {} falls to half {:.2} m aside and {:.2} m above and below its axis.",
        light.name, ends[0], ends[1]
    );
    if loses_stops > 0.05 {
        says += &format!(" They reach over the face: the middle loses {loses_stops:.1} stops.");
    }
    Ok(Doors { flags, half_m: ends, loses_stops, says })
}

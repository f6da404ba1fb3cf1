//! A stand-in head: skin points with normals, landmarks, and from where each point is lit.
//!
//! The core does not carve heads; whoever calls it brings them (the studio makes them from its
//! carvings). Visibility is kept in the head's own frame: it does not change with pose, and since
//! stretching space keeps straight lines straight, it holds for a stretched head as well.

use optics::geometry::{Vec3, fibonacci_sphere};
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Directions of the light bank, spread evenly over the sphere.
pub const BANK: usize = 2560;
/// Words of one point's bits.
pub const WORDS: usize = BANK / 64;

/// The bank's directions in a head's own frame: each is followed by its mirror image across the
/// head's middle.
pub fn bank() -> &'static [Vec3] {
    static DIRECTIONS: LazyLock<Vec<Vec3>> = LazyLock::new(|| {
        let mut half = fibonacci_sphere(BANK);
        half.sort_by(|a, b| b.x.total_cmp(&a.x));
        half.truncate(BANK / 2);
        half.into_iter().flat_map(|d| [d, Vec3::new(-d.x, d.y, d.z)]).collect()
    });
    &DIRECTIONS
}

/// What the mirror image of a point sees.
fn mirrored(bits: &[u64; WORDS]) -> [u64; WORDS] {
    const ODD: u64 = 0xAAAA_AAAA_AAAA_AAAA;
    bits.map(|b| (b & ODD) >> 1 | (b & !ODD) << 1)
}

/// Names of the landmarks, as in `slant-marks/1`.
pub const LANDMARKS: [&str; 7] =
    ["eye_image_left", "eye_image_right", "nose_tip", "nose_base", "mouth_image_left", "mouth_image_right", "chin"];

/// Features of the surface colour besides the measured chroma: jaw, neck, forehead, cheeks, nose.
pub const ZONES: usize = 5;

/// A point of skin.
#[derive(Debug, Clone)]
pub struct SkinPoint {
    /// Metres from between the eyes; x to image right, y up, z out of the face.
    pub at: Vec3,
    /// Unit normal.
    pub normal: Vec3,
    /// How much it belongs to each zone, 0..1.
    pub zone: [f64; ZONES],
}

/// A head to read faces with.
#[derive(Debug, Clone)]
pub struct StandIn {
    /// Name.
    pub name: &'static str,
    /// Skin without eyes, brows, lips and hair.
    pub points: Vec<SkinPoint>,
    /// Landmarks in the frame of the points.
    pub landmarks: BTreeMap<&'static str, Vec3>,
    /// For each point one bit per direction of [`bank`]: set where nothing of the head is in the way.
    pub open: Vec<[u64; WORDS]>,
}

impl StandIn {
    /// Chooses skin among surface points (position, normal) of the half with x over 0, asks `see` what
    /// each of them sees, and adds the mirror images: heads are made even.
    pub fn new(
        name: &'static str,
        landmarks: BTreeMap<&'static str, Vec3>,
        surface: impl Iterator<Item = (Vec3, Vec3)>,
        see: impl Fn(&[SkinPoint]) -> Vec<[u64; WORDS]>,
    ) -> StandIn {
        let mut points: Vec<SkinPoint> = surface
            .filter(|(at, _)| at.x > 0.0)
            .filter_map(|(at, normal)| skin(&landmarks, &at, NOSTRILS).map(|zone| SkinPoint { at, normal, zone }))
            .collect();
        let mut open = see(&points);
        let flip = |v: &Vec3| Vec3::new(-v.x, v.y, v.z);
        let other: Vec<SkinPoint> =
            points.iter().map(|p| SkinPoint { at: flip(&p.at), normal: flip(&p.normal), zone: p.zone }).collect();
        points.extend(other);
        let other: Vec<[u64; WORDS]> = open.iter().map(mirrored).collect();
        open.extend(other);
        StandIn { name, points, landmarks, open }
    }

    /// A head whose surface is known all over: each point with its normal and what it sees.
    pub fn of(
        name: &'static str,
        landmarks: BTreeMap<&'static str, Vec3>,
        surface: impl Iterator<Item = ((Vec3, Vec3), [u64; WORDS])>,
    ) -> StandIn {
        let kept = surface.filter_map(|((at, normal), open)| {
            skin(&landmarks, &at, NOSE_BASE).map(|zone| (SkinPoint { at, normal, zone }, open))
        });
        let (points, open) = kept.unzip();
        StandIn { name, points, landmarks, open }
    }

    /// Whether point `i` sees direction `j` of the bank.
    pub fn sees(&self, i: usize, j: usize) -> bool {
        self.open[i][j / 64] >> (j % 64) & 1 == 1
    }
}

fn rise(t: f64) -> f64 {
    let t = t.clamp(0.0, 1.0);
    t * t * (3.0 - 2.0 * t)
}

/// What of the nose's underside is no skin to read: an ellipse on either side, metres from the base of the nose.
#[derive(Debug, Clone, Copy)]
struct Below {
    aside: f64,
    up: f64,
    half: [f64; 2],
}

const NOSTRILS: Below = Below { aside: 0.008, up: 0.003, half: [0.0115, 0.0065] };
/// All of it: a mesh tells it badly.
const NOSE_BASE: Below = Below { aside: 0.0, up: 0.001, half: [0.0215, 0.0082] };

/// Zones of a point, or `None` where it is no skin: eyes, brows, lips, nostrils, hair, ears.
fn skin(landmarks: &BTreeMap<&'static str, Vec3>, p: &Vec3, nose: Below) -> Option<[f64; ZONES]> {
    let l = |n: &str| landmarks.get(n).copied().unwrap_or_default();
    let (eye, mouth, base, chin) = (l("eye_image_right"), l("mouth_image_right"), l("nose_base"), l("chin"));
    let (ax, y) = (p.x.abs(), p.y);
    let within = |cx: f64, cy: f64, rx: f64, ry: f64| ((ax - cx) / rx).hypot((y - cy) / ry) < 1.0;
    let front = p.z > -0.055;
    let eyes = within(eye.x, eye.y, 0.020, 0.0125);
    let brows = ax > 0.007 && within(eye.x, eye.y + 0.025, 0.027, 0.0095);
    let lips = front && within(0.0, mouth.y, mouth.x + 0.004, 0.0125);
    let nostrils = within(nose.aside, base.y + nose.up, nose.half[0], nose.half[1]);
    let hair = y > 0.074 - 18.0 * ax * ax || (p.z < -0.058 && y > -0.075);
    if (front && (eyes || brows || lips || nostrils)) || hair || y < chin.y - 0.002 {
        return None;
    }
    let jaw = rise((mouth.y + 0.024 - y) / 0.018) * rise((y - chin.y + 0.030) / 0.018);
    let neck = rise((chin.y - 0.004 - y) / 0.02) * rise((-0.02 - p.z) / 0.02);
    let forehead = rise((y - 0.030) / 0.016);
    let cheek = (-((ax - 0.045) / 0.022).powi(2) - ((y + 0.034) / 0.020).powi(2)).exp();
    let nose = (-(ax / 0.014).powi(2) - ((y - base.y - 0.012) / 0.020).powi(2)).exp();
    Some([jaw, neck, forehead, cheek, nose])
}

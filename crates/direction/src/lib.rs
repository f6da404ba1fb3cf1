//! Where the light comes from: one file per kind of evidence, and their fusion.
//!
//! Pure: it knows a photo, a camera and shapes on the picture, and nothing of marks, readings or an interface.
//!
//! | file | evidence |
//! |---|---|
//! | `outline.rs` | refines a marked circle or ellipse on the picture |
//! | `blobs.rs` | bright spots: highlights and catchlights |
//! | `limbus.rs` | the limbus of a small iris |
//! | `skirt.rs` | the true size of a clipped spot |
//! | `ball_matte/` | shading of a matte ball: its lights, how many, and its outline where they leave it open |
//! | `ball_mirror.rs` | highlights in a mirror ball |
//! | `eye.rs` | catchlights on the cornea |
//! | `cast.rs` | a shadow on a level plane |
//! | `penumbra.rs` | width of a shadow's edge |
//! | `contour.rs` | brightness along an outline |
//! | `rim.rs` | a bright edge from behind |
//! | `gradient.rs` | a gradient on a background |
//! | `pattern.rs` | bands of light and shade |
//! | `cuboid.rs` | the three sides of a box |
//! | `cylinder.rs` | bright lines on a glossy cylinder |
//! | `line_shape.rs` | the two edges of a line's source, without the blur of the surface |
//! | `turned.rs` | bright lines on a body of revolution with its shoulder, by its outline |
//! | `silhouette.rs` | the outline of such a body, traced |
//! | `face/` | a face, by its landmarks and the light bank of stand-in heads |
//! | `room/` | a mirror ball as a map of a whole room's light, made whole by a matte ball |
//! | `fusion.rs` | clusters what they say into lights |

pub mod ball_matte;
pub mod ball_mirror;
pub mod blobs;
pub mod cast;
pub mod contour;
pub mod cuboid;
pub mod cylinder;
pub mod eye;
pub mod face;
pub mod fusion;
pub mod gradient;
pub mod label;
pub mod limbus;
mod line_shape;
pub mod outline;
pub mod pattern;
pub mod penumbra;
pub mod rim;
pub mod room;
pub mod shapes;
pub mod silhouette;
pub mod skirt;
pub mod spot;
pub mod turned;

use optics::geometry::Vec3;

/// One light as one piece of evidence sees it, in core units.
#[derive(Debug, Clone)]
pub struct Seen {
    /// Unit vector to the light in the camera frame.
    pub direction: Vec3,
    /// Root mean square angle in radians between this and the true direction.
    pub direction_sd: f64,
    /// Natural log of the full angle in radians, with its standard deviation.
    pub log_size: Option<(f64, f64)>,
    /// Natural log of facing irradiance in the mark's own unit, with its standard deviation.
    pub log_level: Option<(f64, f64)>,
    /// Linear RGB of the light, if the surface may be taken as neutral.
    pub rgb: Option<[f64; 3]>,
}

impl Seen {
    /// Full angle in degrees and the range of one standard deviation.
    pub fn size_deg(&self) -> Option<(f64, [f64; 2])> {
        self.log_size.map(|(l, sd)| {
            let a = l.exp().to_degrees();
            (a, [(a * (-sd).exp()).max(0.1), (a * sd.exp()).min(180.0)])
        })
    }
}

/// Stops under the strongest below which a reflection is the room, not a light.
const FAINTEST_STOPS: f64 = -4.0;

/// How far a mark by hand lies off, pixels (one standard deviation per coordinate; common practice: two pixels of a picture 640 wide,
/// either way).
pub(crate) fn by_hand_px(photo: &optics::photo::Photo) -> f64 {
    1.4 / 640.0 * f64::from(photo.width())
}

/// Whether a sighting is surely too weak beside the strongest of its mark to be a light: walls,
/// other objects and faces are mirrored too.
pub fn too_faint(seen: &Seen, strongest: f64) -> bool {
    seen.log_level.is_some_and(|(l, sd)| (l + 1.5 * sd - strongest) / std::f64::consts::LN_2 < FAINTEST_STOPS)
}

/// The strongest level of a list, natural log.
pub fn strongest<'s>(seen: impl Iterator<Item = &'s Seen>) -> Option<f64> {
    seen.filter_map(|s| s.log_level.map(|l| l.0)).reduce(f64::max)
}

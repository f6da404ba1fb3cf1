//! Where the light comes from: one file per kind of evidence, and their fusion.
//!
//! | file | evidence |
//! |---|---|
//! | `outline.rs` | refines a marked circle or ellipse on the picture |
//! | `blobs.rs` | bright spots: highlights and catchlights |
//! | `skirt.rs` | the true size of a clipped spot |
//! | `ball_matte.rs` | shading of a matte ball |
//! | `ball_mirror.rs` | highlights in a mirror ball |
//! | `eye.rs` | catchlights on the cornea |
//! | `fusion.rs` | clusters what they say into lights |

pub mod ball_matte;
pub mod ball_mirror;
pub mod blobs;
pub mod eye;
pub mod fusion;
pub mod outline;
pub mod skirt;

use crate::geometry::Vec3;

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

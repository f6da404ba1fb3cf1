//! Bottles and cans whose sides the votes for straight edges miss: an outline that is alike on both sides of an upright axis.

use super::likely::Signs;
use direction::silhouette::{Silhouette, trace};
use direction::turned::Turned;
use optics::photo::Photo;

/// A body of revolution on the photo.
pub(super) struct Found {
    pub outline: Silhouette,
    /// Its length, of the picture's height.
    long: f64,
    /// Its upright part, of its length.
    upright: f64,
}

impl Found {
    /// What speaks for it.
    pub fn signs(&self) -> Signs {
        Signs { kind: "outline", values: vec![self.outline.clear, self.long, self.upright] }
    }
}

/// Axes tried across the picture, the outermost of its width, and how far they run of its height.
const AXES: usize = 9;
const OUTERMOST: [f64; 2] = [0.22, 0.78];
const RUN: [f64; 2] = [0.97, 0.03];
/// Length of the picture's height from which it is the subject, and length over width that bottles, cans and jars have.
const LONG: f64 = 0.3;
const SLENDER: [f64; 2] = [0.9, 6.5];
/// Of the picture's height, from which a foot is cut off by its border: a head on its neck is alike on both sides as well.
const STANDS: f64 = 0.985;

pub(super) fn find(photo: &Photo) -> Option<Found> {
    let (w, h) = (f64::from(photo.width()), f64::from(photo.height()));
    let all = (0..AXES).filter_map(|k| {
        let x = w * (OUTERMOST[0] + (OUTERMOST[1] - OUTERMOST[0]) * k as f64 / (AXES - 1) as f64);
        let outline = trace(photo, [[x, h * RUN[0]], [x, h * RUN[1]]], [0.0, 0.0], None).ok()?;
        let length = (outline.axis[0][1] - outline.axis[1][1]).abs();
        let slender = length / (2.0 * outline.radius);
        let body = Turned::new(outline.axis, &outline.profile)?.body()?;
        let stands = outline.axis[0][1] < STANDS * h;
        let fits = stands && length > LONG * h && (SLENDER[0]..SLENDER[1]).contains(&slender);
        fits.then(|| Found { long: length / h, upright: body[1] - body[0], outline })
    });
    all.max_by(|a, b| (a.outline.clear * a.long).total_cmp(&(b.outline.clear * b.long)))
}

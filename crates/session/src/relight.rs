//! The reference itself under the lights of a set.

use evidence::marks::{Mark, MarkKind, Marks};
use lightset::set::{LightSet, SubjectKind};
use optics::photo::Photo;
use std::sync::atomic::AtomicBool;
use studio::{
    Matte, PlateCache, Plates, hatched, light, quartered, quartered_mask, quotient, relit, shows_subject, trace,
};

/// A reference picture of a person made ready to be relit: the picture at the size of its set's, and the stand-in under the lights
/// that were read.
#[derive(Debug, Clone)]
pub struct Relightable {
    set: LightSet,
    width: usize,
    picture: Vec<f32>,
    clipped: Vec<bool>,
    before: Vec<f32>,
    matte: Matte,
    /// the same two for a coarse first look
    coarse: (Vec<f32>, Matte),
    face: Vec<bool>,
}

/// Points of the picture along a side of a pixel of the small one, at most.
const TAKEN: i64 = 4;

/// The points of the face whose head was fitted, in pixels; nothing if there is none.
pub fn face_points(marks: &Marks) -> Vec<[f64; 2]> {
    let mut faces: Vec<&Mark> = marks.marks.iter().filter(|m| !m.off).collect();
    faces.sort_by_key(|m| marks.whose.as_ref() != Some(&m.id));
    let dense = faces
        .into_iter()
        .find_map(|m| if let MarkKind::Face(f) = &m.kind { Some(&f.dense).filter(|d| !d.is_empty()) } else { None });
    dense.map_or(Vec::new(), |d| d.iter().map(|p| [p[0], p[1]]).collect())
}

/// Whether a set stands for a person whose head was fitted: without one there is nothing to relight by.
pub fn can_relight(staged: &LightSet) -> bool {
    let fitted = |s: &lightset::set::Subject| s.person.as_ref().is_some_and(|p| !p.shape.is_empty());
    staged.subjects.first().is_some_and(|s| s.kind == SubjectKind::Person && fitted(s))
}

/// How far a face reaches beyond its points, and a neck below and aside of its chin: shares of the face's width and height.
const FACE: [f64; 2] = [1.1, 1.06];
const NECK: [f64; 2] = [0.62, 0.3];

/// Whether a place lies on the face of some points, or on its neck if that counts.
fn around(points: &[[f64; 2]]) -> impl Fn([f64; 2], bool) -> bool + use<> {
    let span = |k: usize| {
        let v = points.iter().map(|p| p[k]);
        (v.clone().fold(f64::MAX, f64::min), v.fold(f64::MIN, f64::max))
    };
    let ((x0, x1), (y0, y1)) = (span(0), span(1));
    let (cx, cy, w, h) = ((x0 + x1) / 2.0, (y0 + y1) / 2.0, x1 - x0, y1 - y0);
    move |[x, y], with_neck| {
        let (dx, dy) = (2.0 * (x - cx) / (w * FACE[0]), 2.0 * (y - cy) / (h * FACE[1]));
        let neck = (x - cx).abs() < NECK[0] * w / 2.0 && y > cy && y < y1 + NECK[1] * h;
        dx * dx + dy * dy < 1.0 || (with_neck && neck)
    }
}

impl Relightable {
    /// Of a photograph as it is read, the points of the face in it (pixels), and the set that follows from its reading. Traces that
    /// set once: a few seconds.
    ///
    /// # Errors
    /// A sentence if nobody's head was fitted, a level of the set cannot be understood, or `cancel` was set meanwhile.
    pub fn of(
        photo: &Photo,
        points: &[[f64; 2]],
        staged: &LightSet,
        cancel: &AtomicBool,
    ) -> Result<Relightable, String> {
        if !can_relight(staged) {
            return Err("Only a person whose face was read can be shown relit.".into());
        }
        let (width, height) = (staged.picture.width as usize, staged.picture.height as usize);
        let mut picture = Vec::with_capacity(3 * width * height);
        let mut clipped = Vec::with_capacity(width * height);
        let (kx, ky) = (f64::from(photo.width()) / width as f64, f64::from(photo.height()) / height as f64);
        let steps = |k: f64| (k.ceil() as i64).clamp(1, TAKEN);
        for y in 0..height {
            for x in 0..width {
                let (mut sum, mut n, mut top) = ([0.0f32; 3], 0.0, false);
                for j in 0..steps(ky) {
                    for i in 0..steps(kx) {
                        let at =
                            |v: usize, k: f64, s: i64, of: i64| ((v as f64 + (s as f64 + 0.5) / of as f64) * k) as i64;
                        let Some(p) = photo.get(at(x, kx, i, steps(kx)), at(y, ky, j, steps(ky))) else { continue };
                        sum.iter_mut().zip(p.rgb).for_each(|(s, v)| *s += v);
                        top |= p.clipped;
                        n += 1.0;
                    }
                }
                picture.extend(sum.map(|s| s / f32::max(n, 1.0)));
                clipped.push(top);
            }
        }
        let plates = trace(staged, &mut PlateCache::default(), cancel, |_| {}).ok_or("the trace was cancelled")?;
        let before = light(staged, &plates)?;
        let body = shows_subject(staged);
        let small: Vec<[f64; 2]> = points.iter().map(|p| [p[0] / kx, p[1] / ky]).collect();
        let place = around(&small);
        let of = |with_neck: bool| {
            let is = |i: usize| body[i] && place([(i % width) as f64 + 0.5, (i / width) as f64 + 0.5], with_neck);
            (0..body.len()).map(is).collect::<Vec<bool>>()
        };
        let (alike, face) = (of(true), of(false));
        let matte = Matte::of(&picture, [&alike, &body], width);
        let [a, b] = [&alike, &body].map(|m| quartered_mask(m, width));
        let few = width.div_ceil(4);
        let coarse = (quartered(&before, width), Matte::of(&quartered(&picture, width), [&a, &b], few));
        Ok(Relightable { set: staged.clone(), width, picture, clipped, before, matte, coarse, face })
    }

    /// Whether a set shows the same person from the same place: only then is light all that differs.
    pub fn fits(&self, set: &LightSet) -> bool {
        let (a, b) = (&self.set, set);
        a.subjects == b.subjects
            && a.camera.position_m == b.camera.position_m
            && a.camera.aim_m == b.camera.aim_m
            && a.camera.vfov_deg() == b.camera.vfov_deg()
            && (a.picture.width, a.picture.height) == (b.picture.width, b.picture.height)
    }

    /// The picture under the lights of a set that was traced, linear RGB at the size of the set's picture; what cannot be known is
    /// hatched if that is asked for.
    ///
    /// # Errors
    /// If a power setting cannot be understood.
    pub fn under(&self, set: &LightSet, plates: &Plates, hatch: bool) -> Result<(Vec<f32>, Vec<bool>), String> {
        let after = light(set, plates)?;
        let by = if plates.width as usize == self.width {
            quotient(&self.before, &after, &self.matte)
        } else {
            // a coarse first look
            let (before, matte) = &self.coarse;
            if before.len() != after.len() {
                return Err("a first look of another size".into());
            }
            quotient(before, &after, matte).grown(self.width, self.clipped.len() / self.width)
        };
        let r = relit(&self.picture, &self.clipped, &by);
        Ok((if hatch { hatched(&r, self.width) } else { r.rgb }, r.unknown))
    }

    /// The picture at the size of the set's, linear RGB.
    pub fn picture(&self) -> &[f32] {
        &self.picture
    }

    /// Where the picture shows the face, one value per pixel.
    pub fn face(&self) -> &[bool] {
        &self.face
    }
}

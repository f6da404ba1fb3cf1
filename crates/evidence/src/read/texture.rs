//! What the picture is made of at the scale of its pixels, and how sharp it is where the subject is marked.

use super::{Reader, round};
use crate::marks::{Mark, MarkKind, PatchRole};
use crate::readings::TextureReading;

/// How well a mark says where the picture has to be sharp; the lowest is taken, `None` for those that do not.
fn tells_subject(kind: &MarkKind) -> Option<u8> {
    match kind {
        MarkKind::Eye(_) => Some(0),
        MarkKind::Face(_) => Some(1),
        MarkKind::Cylinder(_) => Some(2),
        MarkKind::Patch(p) if matches!(p.role, PatchRole::Label | PatchRole::Forehead | PatchRole::Lit) => Some(3),
        MarkKind::Ball(_) => Some(4),
        _ => None,
    }
}

impl Reader<'_> {
    pub(super) fn texture(&self) -> TextureReading {
        let t = self.photo.texture();
        let permille = |v: f64| round(1000.0 * v, 2);
        let size = [f64::from(self.photo.width()), f64::from(self.photo.height())];
        let on: Vec<&Mark> = self.marks.marks.iter().filter(|m| !m.off).collect();
        // what says it best of all that has an edge; of two eyes the sharper one counts
        let sharp = on.iter().filter_map(|m| {
            let rank = tells_subject(&m.kind)?;
            Some((rank, t.edge_at(m.kind.place()?, size)?, m.id.clone()))
        });
        let subject = sharp.min_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)));
        TextureReading {
            noise_percent: round(100.0 * t.noise, 2),
            blocks_percent: round(100.0 * t.blocks, 2),
            edge_permille: t.edge.map(permille),
            subject_edge_permille: subject.as_ref().map(|s| permille(s.1)),
            sharpest_part_permille: t.sharpest_cell().map(permille),
            subject: subject.map(|s| s.2),
            smear_permille: t.smear.map(permille),
            smear_deg: t.smear_deg,
            pixel_permille: permille(t.pixel),
        }
    }
}

//! Heads to read faces with: plain heads that differ in nose, sockets and jaw, and the two puppets, each
//! with what every point of its skin can see.

use crate::math::{V, v};
use crate::mesh::Mesh;
use crate::subjects::heads;
use crate::subjects::plain::{MIDDLE, Plain};
use direction::face::{SkinPoint, StandIn, WORDS, bank};
use optics::geometry::Vec3;
use rayon::prelude::*;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Size of the mesh cells in metres; of the skin points one in [`EVERY`] is kept.
const STEP: f32 = 0.0030;
const EVERY: usize = 3;
/// Lift off the surface for a ray's start, metres.
const LIFT: f32 = 0.0022;

const PLAIN: [(&str, Plain); 5] = [
    ("middle", MIDDLE),
    ("long nose", Plain { width: 0.95, nose: 0.029, nose_low: 0.051, nose_wide: 0.0150, socket: 0.0105, ..MIDDLE }),
    (
        "flat",
        Plain { width: 1.06, nose: 0.0155, nose_low: 0.043, nose_wide: 0.0190, socket: 0.0060, cheek: 0.009, ..MIDDLE },
    ),
    ("deep brow", Plain { jaw: 1.2, nose: 0.024, socket: 0.0120, brow: 0.0070, chin: 0.010, long: 0.120, ..MIDDLE }),
    ("small jaw", Plain { width: 0.98, jaw: 0.82, nose: 0.019, socket: 0.0070, brow: 0.0025, long: 0.109, ..MIDDLE }),
];

/// The heads, made on first use (a few seconds) and kept.
pub fn stand_ins() -> &'static [StandIn] {
    static HEADS: LazyLock<Vec<StandIn>> = LazyLock::new(|| {
        // shoulders and chest shut out light from below, whoever's they are
        let coat = heads::coat_mesh_at(&heads::LONG, 0.010);
        let mut out: Vec<StandIn> =
            PLAIN.iter().map(|(name, p)| stand_in(name, &p.mesh(STEP), &coat, p.landmarks())).collect();
        for (name, c) in [("long puppet", heads::LONG), ("round puppet", heads::ROUND)] {
            out.push(stand_in(name, &heads::mesh(&c, None, STEP), &coat, heads::landmarks(&c)));
        }
        out
    });
    &HEADS
}

fn stand_in(name: &'static str, head: &Mesh, coat: &Mesh, landmarks: Vec<(&'static str, V)>) -> StandIn {
    let landmarks: BTreeMap<&'static str, Vec3> = landmarks.into_iter().map(|(n, p)| (n, p.cast::<f64>())).collect();
    // what no camera before the face sees is not needed
    let surface = head
        .positions
        .iter()
        .zip(&head.normals)
        .filter(|(_, n)| n.z > -0.3)
        .map(|(p, n)| (p.cast::<f64>(), n.cast::<f64>()))
        .step_by(EVERY);
    StandIn::new(name, landmarks, surface, |points| see(points, head, coat))
}

fn see(points: &[SkinPoint], head: &Mesh, coat: &Mesh) -> Vec<[u64; WORDS]> {
    let directions: Vec<V> = bank().iter().map(|d| v((*d).into())).collect();
    points
        .par_iter()
        .map(|p| {
            let mut bits = [0u64; WORDS];
            let n = p.normal.cast::<f32>();
            let from = p.at.cast::<f32>() + n * LIFT;
            for (j, d) in directions.iter().enumerate() {
                if n.dot(d) > 0.0
                    && !head.tree.any(&from, d, 1e-4, 1.0)
                    && (d.y > 0.2 || !coat.tree.any(&from, d, 1e-4, 1.0))
                {
                    bits[j / 64] |= 1 << (j % 64);
                }
            }
            bits
        })
        .collect()
}

//! Heads to read faces with: carvings of ordinary proportions beside the two puppets, each with what
//! every point of its skin can see.

use crate::math::{V, v};
use crate::mesh::Mesh;
use crate::subjects::heads::{self, Carving};
use light::direction::face::{BANK, SkinPoint, StandIn, bank};
use light::geometry::Vec3;
use rayon::prelude::*;
use std::collections::BTreeMap;
use std::sync::LazyLock;

/// Size of the mesh cells in metres; skin points lie about as far apart.
const STEP: f32 = 0.0030;
/// Lift off the surface for a ray's start, metres.
const LIFT: f32 = 0.0022;

/// The heads, made on first use (about two seconds) and kept.
pub fn stand_ins() -> &'static [StandIn] {
    static HEADS: LazyLock<Vec<StandIn>> =
        LazyLock::new(|| heads::STAND_INS.iter().map(|(name, c)| stand_in(name, c)).collect());
    &HEADS
}

fn stand_in(name: &'static str, c: &Carving) -> StandIn {
    let head = heads::mesh(c, None, STEP);
    let coat = heads::coat_mesh_at(c, 0.010);
    let landmarks: BTreeMap<&'static str, Vec3> =
        heads::landmarks(c).into_iter().map(|(n, p)| (n, p.cast::<f64>())).collect();
    // what no camera before the face sees is not needed; of the rest one in three is enough
    let surface = head
        .positions
        .iter()
        .zip(&head.normals)
        .filter(|(_, n)| n.z > -0.3)
        .map(|(p, n)| (p.cast::<f64>(), n.cast::<f64>()))
        .step_by(3);
    StandIn::new(name, landmarks, surface, |points| see(points, &head, &coat))
}

fn see(points: &[SkinPoint], head: &Mesh, coat: &Mesh) -> Vec<[u64; BANK.div_ceil(64)]> {
    let directions: Vec<V> = bank().iter().map(|d| v((*d).into())).collect();
    points
        .par_iter()
        .map(|p| {
            let mut bits = [0u64; BANK.div_ceil(64)];
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

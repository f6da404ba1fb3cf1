//! From where the points of a head can be lit, by depth maps: for each direction the head is drawn as that direction sees
//! it, and a point is open where nothing lies before it (Williams 1978, shadow maps).

use crate::head::{Head, Point};
use nalgebra::Vector3;
use optics::geometry::{Vec3, tangent_frame};
use rayon::prelude::*;

/// Side of a cell of a depth map, and half of the map's width, metres.
const CELL: f64 = 0.0030;
const HALF: f64 = 0.17;
/// Cells along a side.
const SIDE: usize = (2.0 * HALF / CELL) as usize;
/// What lies less far before a point is the point's own surroundings, metres.
const BIAS: f64 = 0.0035;
/// A point is looked at from so far outside its skin, metres.
const LIFT: f64 = 0.0012;
/// Chest and shoulders: centre and half axes of an ellipsoid, metres.
const CHEST: ([f64; 3], [f64; 3]) = ([0.0, -0.33, -0.10], [0.21, 0.125, 0.105]);

/// For each point, one flag per direction (unit vectors in the head's frame): whether light from there reaches it.
pub fn sight(head: &Head, points: &[Point], directions: &[Vec3]) -> Vec<Vec<bool>> {
    let flat = |p: &Vec3| (p - Vec3::new(0.0, -0.02, -0.08)).cast::<f32>();
    let vertices: Vec<Vector3<f32>> = head.vertices().iter().map(flat).collect();
    let lifted: Vec<Vec3> = points.iter().map(|p| p.at + p.normal * LIFT).collect();
    let starts: Vec<(Vector3<f32>, Vector3<f32>)> =
        lifted.iter().zip(points).map(|(l, p)| (flat(l), p.normal.cast())).collect();
    directions
        .par_iter()
        .map_init(
            || vec![f32::MIN; SIDE * SIDE],
            |map, d| {
                let (u, v) = tangent_frame(d);
                let [u, v] = [u, v].map(|x| (x / CELL).cast::<f32>());
                let w = d.cast::<f32>();
                let half = (HALF / CELL) as f32;
                let place = |q: &Vector3<f32>| [q.dot(&u) + half, q.dot(&v) + half, q.dot(&w)];
                map.fill(f32::MIN);
                let seen: Vec<[f32; 3]> = vertices.iter().map(place).collect();
                for t in head.triangles() {
                    draw(map, t.map(|i| seen[usize::from(i)]));
                }
                let low = d.y < 0.2;
                let open = |((at, normal), lifted): (&(Vector3<f32>, Vector3<f32>), &Vec3)| {
                    if normal.dot(&w) <= 0.0 {
                        return false;
                    }
                    let [x, y, z] = place(at);
                    depth(map, x, y) < z + BIAS as f32 && !(low && hits_chest(lifted, d))
                };
                starts.iter().zip(&lifted).map(open).collect()
            },
        )
        .collect()
}

/// Depth of what lies at a place of a map.
fn depth(map: &[f32], x: f32, y: f32) -> f32 {
    let (i, j) = (x.floor(), y.floor());
    let inside = |k: f32| k >= 0.0 && k < SIDE as f32;
    if inside(i) && inside(j) { map[j as usize * SIDE + i as usize] } else { f32::MIN }
}

/// Draws a triangle that faces the direction: cells whose middles it covers keep the nearest depth.
fn draw(map: &mut [f32], [a, b, c]: [[f32; 3]; 3]) {
    let area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
    if area <= 1e-9 {
        return;
    }
    let low = |k: usize| (a[k].min(b[k]).min(c[k]) - 0.5).floor().max(0.0) as usize;
    let high = |k: usize| ((a[k].max(b[k]).max(c[k]) + 0.5).ceil().max(0.0) as usize).min(SIDE);
    let k = 1.0 / area;
    for j in low(1)..high(1) {
        for i in low(0)..high(0) {
            let (x, y) = (i as f32 + 0.5, j as f32 + 0.5);
            let wb = ((x - a[0]) * (c[1] - a[1]) - (y - a[1]) * (c[0] - a[0])) * k;
            let wc = ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) * k;
            if wb >= 0.0 && wc >= 0.0 && wb + wc <= 1.0 {
                let z = a[2] + wb * (b[2] - a[2]) + wc * (c[2] - a[2]);
                let cell = &mut map[j * SIDE + i];
                *cell = cell.max(z);
            }
        }
    }
}

/// Whether the way from a point towards a direction meets the chest.
fn hits_chest(p: &Vec3, d: &Vec3) -> bool {
    let r = Vec3::from(CHEST.1);
    let o = (p - Vec3::from(CHEST.0)).component_div(&r);
    let d = d.component_div(&r);
    let (a, b, c) = (d.norm_squared(), o.dot(&d), o.norm_squared() - 1.0);
    b < 0.0 && b * b > a * c
}

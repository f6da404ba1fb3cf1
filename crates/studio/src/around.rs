//! The light from all around: even, or a map of a room that is sampled by what it gives (Pharr & Humphreys, Physically Based
//! Rendering: infinite area lights), weighed against cosines by the balance heuristic (Veach & Guibas 1995).

use crate::math::{PI, Rgb, V};
use lightset::set::LightSet;
use optics::light_map::LightMap;

/// Where light comes from that no lamp gives; its mean radiance is one.
#[derive(Debug, Default)]
pub(crate) struct Around(Option<Cells>);

#[derive(Debug)]
struct Cells {
    rows: usize,
    rgb: Vec<Rgb>,
    /// sum of light up to and with each cell, as parts of all
    up_to: Vec<f32>,
    /// chance per steradian to draw a direction of each cell
    density: Vec<f32>,
}

/// A direction drawn towards the light.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Drawn {
    pub d: V,
    pub rgb: Rgb,
    /// per steradian
    pub density: f32,
}

impl Around {
    pub(crate) fn of(set: &LightSet) -> Around {
        Around(set.ambient.as_ref().and_then(|a| a.map.as_ref()?.light().ok()).map(|map| Cells::of(&map)))
    }

    /// Whether a map gives it, which is worth drawing towards.
    pub(crate) fn is_mapped(&self) -> bool {
        self.0.is_some()
    }

    /// Radiance from a direction, smooth between the cells.
    pub(crate) fn seen(&self, d: &V) -> Rgb {
        self.0.as_ref().map_or([1.0; 3], |c| c.smooth(d))
    }

    /// Radiance from a direction, even in each cell as it is drawn by [`Around::draw`].
    pub(crate) fn from(&self, d: &V) -> Rgb {
        self.0.as_ref().map_or([1.0; 3], |c| c.rgb[c.cell(d)])
    }

    /// Chance per steradian that [`Around::draw`] draws a direction.
    pub(crate) fn density(&self, d: &V) -> f32 {
        self.0.as_ref().map_or(0.0, |c| c.density[c.cell(d)])
    }

    /// Draws a direction where much light comes from.
    pub(crate) fn draw(&self, a: f32, b: f32) -> Option<Drawn> {
        let c = self.0.as_ref()?;
        let i = c.up_to.partition_point(|s| *s < a).min(c.rgb.len() - 1);
        let before = if i == 0 { 0.0 } else { c.up_to[i - 1] };
        // what is left of the first number says where in the cell
        let across = ((a - before) / (c.up_to[i] - before).max(1e-12)).clamp(0.0, 1.0);
        let columns = 2 * c.rows;
        let (row, column) = (i / columns, i % columns);
        // even over the zone of the sphere
        let step = PI / c.rows as f32;
        let (top, bottom) = ((PI / 2.0 - row as f32 * step).sin(), (PI / 2.0 - (row + 1) as f32 * step).sin());
        let y = top + (bottom - top) * b;
        let round = PI - (column as f32 + across) * step;
        let out = (1.0 - y * y).max(0.0).sqrt();
        let d = V::new(out * round.sin(), y, out * round.cos());
        (c.density[i] > 0.0).then_some(Drawn { d, rgb: c.rgb[i], density: c.density[i] })
    }
}

impl Cells {
    fn of(map: &LightMap) -> Cells {
        let light: Vec<f64> = map.light().map(|(_, l)| l).collect();
        let all: f64 = light.iter().sum::<f64>().max(1e-30);
        let mut sum = 0.0;
        let up_to = light
            .iter()
            .map(|l| {
                sum += l / all;
                sum as f32
            })
            .collect();
        let columns = map.columns();
        let density = light.iter().enumerate().map(|(i, l)| (l / all / map.solid_angle(i / columns)) as f32).collect();
        Cells { rows: map.rows(), rgb: map.cells().to_vec(), up_to, density }
    }

    /// Row and column of a direction, in parts of cells.
    fn place(&self, d: &V) -> (f32, f32) {
        let step = PI / self.rows as f32;
        ((PI / 2.0 - d.y.clamp(-1.0, 1.0).asin()) / step, (PI - d.x.atan2(d.z)) / step)
    }

    fn cell(&self, d: &V) -> usize {
        let (row, column) = self.place(d);
        (row as usize).min(self.rows - 1) * 2 * self.rows + column as usize % (2 * self.rows)
    }

    fn smooth(&self, d: &V) -> Rgb {
        let (row, column) = self.place(d);
        let (row, column) = (row - 0.5, column - 0.5);
        let (r, c) = (row.floor(), column.floor());
        let (fr, fc) = (row - r, column - c);
        let columns = 2 * self.rows as i64;
        let at = |i: f32, j: f32| {
            let i = (i as i64).clamp(0, self.rows as i64 - 1);
            self.rgb[(i * columns + (j as i64).rem_euclid(columns)) as usize]
        };
        let [a, b, e, f] = [at(r, c), at(r, c + 1.0), at(r + 1.0, c), at(r + 1.0, c + 1.0)];
        std::array::from_fn(|k| {
            let (upper, lower) = (a[k] + (b[k] - a[k]) * fc, e[k] + (f[k] - e[k]) * fc);
            upper + (lower - upper) * fr
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::math::point;
    use lightset::set::{AmbientLight, Level, RoomMap};

    fn room(of: impl Fn(V) -> Rgb) -> Around {
        let mut map = LightMap::black(24);
        for i in 0..map.len() {
            let d = map.direction(i);
            map.cells_mut()[i] = of(V::new(d.x as f32, d.y as f32, d.z as f32));
        }
        let text = r#"{"format":"slant-set/1","camera":{"position_m":[0,0,2],
            "exposure":{"f_number":5.6,"shutter_s":0.008,"iso":100}}}"#;
        let mut set = LightSet::parse(text).unwrap().set;
        let level = Level::Stops { stops: 0.0 };
        set.ambient = Some(AmbientLight { level, cct_k: None, map: Some(RoomMap::of(&map)) });
        Around::of(&set)
    }

    /// The mean of light over chance is the integral of the light (Monte Carlo): four pi at a mean radiance of one, however
    /// uneven the room is; and directions fall where their density says.
    #[test]
    fn what_is_drawn_adds_up_to_the_room() {
        let around = room(|d| if d.z > 0.9 && d.y > 0.0 { [40.0; 3] } else { [0.3; 3] });
        let n = 4096;
        let mut sum = 0.0;
        for k in 0..n {
            let (a, b) = point(k, 7);
            let x = around.draw(a, b).unwrap();
            assert!((x.density / around.density(&x.d) - 1.0).abs() < 1e-3, "drawn in another cell than it lies in");
            assert!((x.d.norm() - 1.0).abs() < 1e-4);
            sum += x.rgb[1] / x.density;
        }
        assert!((sum / n as f32 / (4.0 * PI) - 1.0).abs() < 0.01, "{}", sum / n as f32);
    }

    #[test]
    fn between_cells_it_is_smooth_and_even_light_stays_even() {
        let even = room(|_| [1.0; 3]);
        for k in 0..200 {
            let (a, b) = point(k, 3);
            let d = V::new(a - 0.5, b - 0.5, 0.3).normalize();
            assert!((even.seen(&d)[0] - 1.0).abs() < 0.01 && (even.from(&d)[0] - 1.0).abs() < 0.01);
        }
        let sky = room(|d| [1.0 + d.y; 3]);
        let up = |y: f32| sky.seen(&V::new(0.4, y, 0.6).normalize())[0];
        let steps: Vec<f32> = (0..100).map(|k| up(-1.0 + 0.02 * k as f32)).collect();
        assert!(steps.windows(2).all(|w| (w[1] - w[0]).abs() < 0.06 && w[1] >= w[0] - 1e-4));
    }
}

//! The light of a whole room as it comes to one point: radiance over the sphere.
//!
//! Cells of equal angle, as panoramas have them, seen from the subject: rows from straight up to straight down, columns
//! from behind the subject round over the camera's right, the lens in the middle, over its left.

use crate::geometry::Vec3;
use crate::photo::luminance;
use std::f64::consts::PI;
use std::sync::Arc;

/// Radiance over the sphere; the unit is the picture's own (1 = what a white surface sends out at white).
#[derive(Debug, Clone, PartialEq)]
pub struct LightMap {
    rows: usize,
    rgb: Vec<[f32; 3]>,
    /// where each cell lies, shared by copies
    directions: Arc<[Vec3]>,
}

impl LightMap {
    /// A map of `rows` by `2 rows` cells, all black.
    pub fn black(rows: usize) -> LightMap {
        let n = 2 * rows * rows;
        let directions = (0..n).map(|i| place(rows, (i / (2 * rows)) as f64 + 0.5, (i % (2 * rows)) as f64 + 0.5));
        LightMap { rows, rgb: vec![[0.0; 3]; n], directions: directions.collect() }
    }

    /// A panorama whose pixel at a column and a row is `rgb`, twice as wide as high, made coarser to at most `most` rows. Its middle
    /// is taken for the lens. `None` if it is no panorama.
    pub fn of_panorama(
        (width, rows): (usize, usize),
        rgb: impl Fn(usize, usize) -> [f32; 3],
        most: usize,
    ) -> Option<LightMap> {
        if rows < 4 || width != 2 * rows {
            return None;
        }
        let kept = rows / rows.div_ceil(most.max(1));
        let mut map = LightMap::black(kept);
        let mut weight = vec![0.0f64; map.len()];
        let mut sum = vec![[0.0f64; 3]; map.len()];
        for row in 0..rows {
            let lies = (PI * (row as f64 + 0.5) / rows as f64).sin();
            let into = row * kept / rows * 2 * kept;
            for column in 0..width {
                let pixel = rgb(column, row);
                let i = into + column * kept / rows;
                weight[i] += lies;
                (0..3).for_each(|c| sum[i][c] += lies * f64::from(pixel[c].max(0.0)));
            }
        }
        for ((cell, s), w) in map.rgb.iter_mut().zip(sum).zip(weight) {
            *cell = s.map(|v| (v / w) as f32);
        }
        Some(map)
    }

    /// Rows; there are twice as many columns.
    pub fn rows(&self) -> usize {
        self.rows
    }

    /// Columns.
    pub fn columns(&self) -> usize {
        2 * self.rows
    }

    /// Cells.
    pub fn len(&self) -> usize {
        self.rgb.len()
    }

    /// Whether it has no cells.
    pub fn is_empty(&self) -> bool {
        self.rgb.is_empty()
    }

    /// Linear red, green, blue of all cells, row by row.
    pub fn cells(&self) -> &[[f32; 3]] {
        &self.rgb
    }

    /// The same, to change.
    pub fn cells_mut(&mut self) -> &mut [[f32; 3]] {
        &mut self.rgb
    }

    /// Relative luminance of a cell.
    pub fn luminance(&self, cell: usize) -> f64 {
        luminance(self.rgb[cell])
    }

    /// Unit vector to the middle of a cell, camera frame.
    pub fn direction(&self, cell: usize) -> Vec3 {
        self.directions[cell]
    }

    /// Unit vector to a place of the map, in rows and columns.
    pub fn at(&self, row: f64, column: f64) -> Vec3 {
        place(self.rows, row, column)
    }

    /// The cell in which a direction lies.
    pub fn cell_of(&self, direction: &Vec3) -> usize {
        let step = PI / self.rows as f64;
        let d = direction.normalize();
        let row = ((PI / 2.0 - d.y.clamp(-1.0, 1.0).asin()) / step) as usize;
        let column = ((PI - d.x.atan2(d.z)) / step) as usize;
        row.min(self.rows - 1) * self.columns() + column % self.columns()
    }

    /// Solid angle of each cell of a row, steradian: a zone of the sphere over its cells.
    pub fn solid_angle(&self, row: usize) -> f64 {
        let step = PI / self.rows as f64;
        let (top, bottom) = (PI / 2.0 - row as f64 * step, PI / 2.0 - (row + 1) as f64 * step);
        step * (top.sin() - bottom.sin())
    }

    /// Luminance times solid angle of every cell, with its direction.
    pub fn light(&self) -> impl Iterator<Item = (Vec3, f64)> + '_ {
        let omega: Vec<f64> = (0..self.rows).map(|r| self.solid_angle(r)).collect();
        (0..self.len()).map(move |i| (self.direction(i), self.luminance(i) * omega[i / self.columns()]))
    }

    /// Irradiance on a surface with the unit normal `n`: `int L max(0, n.w) dw`.
    pub fn irradiance(&self, n: &Vec3) -> f64 {
        self.light().map(|(d, l)| l * n.dot(&d).max(0.0)).sum()
    }

    /// The mean light: `int L w dw` over `int L dw`, whose length tells how directional it is, 0 from all around, 1 from
    /// one point; and `int L dw` (the light vector of Gershun 1936 over four times the mean spherical illuminance).
    pub fn mean(&self) -> (Vec3, f64) {
        let (vector, all) = self.light().fold((Vec3::zeros(), 0.0), |(v, a), (d, l)| (v + d * l, a + l));
        (if all > 0.0 { vector / all } else { Vec3::zeros() }, all)
    }

    /// Luminance of each cell blurred on the sphere by a standard deviation in radians: means over boxes, thrice along each
    /// side (a Gaussian nearly), wider in azimuth towards the poles.
    pub fn blurred(&self, sd: f64) -> Vec<f64> {
        let (rows, columns) = (self.rows, self.columns());
        let step = PI / rows as f64;
        let mut now: Vec<f64> = (0..self.len()).map(|i| self.luminance(i)).collect();
        // three boxes of half width h have the variance h (h + 1)
        let half = |cells: f64| ((0.25 + cells * cells).sqrt() - 0.5).round().max(0.0) as usize;
        for _ in 0..3 {
            let mut next = vec![0.0; now.len()];
            for r in 0..rows {
                let across = self.at(r as f64 + 0.5, 0.0);
                let h = half((sd / step / across.x.hypot(across.z).max(0.02)).min(columns as f64 / 6.0))
                    .min(columns / 2 - 1);
                let line = &now[r * columns..(r + 1) * columns];
                let mut sum: f64 = (0..=2 * h).map(|k| line[(columns + k - h) % columns]).sum();
                for c in 0..columns {
                    next[r * columns + c] = sum / (2 * h + 1) as f64;
                    sum += line[(c + h + 1) % columns] - line[(columns + c - h) % columns];
                }
            }
            let h = half(sd / step);
            for c in 0..columns {
                for r in 0..rows {
                    let (from, to) = (r.saturating_sub(h), (r + h).min(rows - 1));
                    now[r * columns + c] =
                        (from..=to).map(|k| next[k * columns + c]).sum::<f64>() / (to - from + 1) as f64;
                }
            }
        }
        now
    }

    /// The same light in coarser cells: `rows` must divide the map's own.
    pub fn coarser(&self, rows: usize) -> LightMap {
        let k = (self.rows / rows.max(1)).max(1);
        let mut out = LightMap::black(self.rows / k);
        let mut weight = vec![0.0; out.len()];
        for (i, rgb) in self.rgb.iter().enumerate() {
            let (row, column) = (i / self.columns(), i % self.columns());
            let into = (row / k).min(out.rows - 1) * out.columns() + (column / k).min(out.columns() - 1);
            let w = self.solid_angle(row) as f32;
            (0..3).for_each(|c| out.rgb[into][c] += w * rgb[c]);
            weight[into] += w;
        }
        for (rgb, w) in out.rgb.iter_mut().zip(weight) {
            *rgb = rgb.map(|v| if w > 0.0 { v / w } else { 0.0 });
        }
        out
    }
}

fn place(rows: usize, row: f64, column: f64) -> Vec3 {
    let step = PI / rows as f64;
    let (se, ce) = (PI / 2.0 - row * step).sin_cos();
    let (sa, ca) = (PI - column * step).sin_cos();
    Vec3::new(ce * sa, se, ce * ca)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::geometry::{AzEl, angle_between, fibonacci_sphere};
    use proptest::prelude::*;

    fn even(rows: usize) -> LightMap {
        let mut map = LightMap::black(rows);
        map.cells_mut().fill([1.0; 3]);
        map
    }

    #[test]
    fn an_even_map_gives_pi_everywhere_and_has_no_direction() {
        let map = even(90);
        for n in fibonacci_sphere(7) {
            let e = map.irradiance(&n);
            assert!((e / PI - 1.0).abs() < 2e-3, "{e}");
        }
        let (mean, all) = map.mean();
        assert!(mean.norm() < 1e-9 && (all / (4.0 * PI) - 1.0).abs() < 1e-9);
    }

    /// A panorama keeps its light however much coarser it is made, and what is no panorama is none.
    #[test]
    fn a_panorama_keeps_its_light() {
        let (width, rows) = (150usize, 75usize);
        let light = |column: usize, row: usize| {
            let v = 1.0 + (column as f32 / 24.0).sin() + row as f32 / 75.0;
            [v, 0.5 * v, 2.0]
        };
        let whole = LightMap::of_panorama((width, rows), light, 75).unwrap();
        assert_eq!(whole.cells()[3], light(3, 0));
        let coarse = LightMap::of_panorama((width, rows), light, 32).unwrap();
        assert_eq!(coarse.rows(), 25);
        let ((a, all), (b, kept)) = (whole.mean(), coarse.mean());
        assert!((kept / all - 1.0).abs() < 0.01 && (a - b).norm() < 0.01, "{kept} of {all}");
        assert!(LightMap::of_panorama((100, 75), light, 32).is_none());
    }

    /// Half a sphere of light: `int w dw` is pi, over 2 pi.
    #[test]
    fn half_a_sky_is_half_directional() {
        let mut map = even(60);
        let half = map.len() / 2;
        map.cells_mut()[half..].fill([0.0; 3]);
        let (mean, _) = map.mean();
        assert!((mean - Vec3::new(0.0, 0.5, 0.0)).norm() < 1e-3, "{mean}");
    }

    /// A cap of half angle a gives a facing surface `pi sin^2 a` (configuration factor of a disc, Howell B-13).
    #[test]
    fn a_cap_gives_its_configuration_factor() {
        let towards = AzEl { azimuth_deg: 40.0, elevation_deg: 25.0 }.vector();
        let mut map = LightMap::black(360);
        let half = 0.3;
        for i in 0..map.len() {
            if angle_between(&map.direction(i), &towards) < half {
                map.cells_mut()[i] = [1.0; 3];
            }
        }
        let want = PI * f64::sin(half).powi(2);
        assert!((map.irradiance(&towards) / want - 1.0).abs() < 0.01);
        let coarse = map.coarser(60);
        assert!((coarse.irradiance(&towards) / want - 1.0).abs() < 0.01);
    }

    #[test]
    fn the_lens_is_in_the_middle_and_its_right_on_the_left() {
        let map = LightMap::black(18);
        assert!((map.at(9.0, 18.0) - Vec3::z()).norm() < 1e-12);
        assert!((map.at(9.0, 9.0) - Vec3::x()).norm() < 1e-12);
    }

    /// A blur keeps what light there is, and spreads a point by its standard deviation.
    #[test]
    fn a_blur_keeps_the_light() {
        let mut map = LightMap::black(90);
        let at = AzEl { azimuth_deg: 30.0, elevation_deg: 20.0 }.vector();
        let cell = map.cell_of(&at);
        map.cells_mut()[cell] = [1.0; 3];
        let centre = map.direction(cell);
        let soft = map.blurred(0.08);
        let sum = |f: &dyn Fn(usize) -> f64| {
            (0..map.len()).map(|i| soft[i] * map.solid_angle(i / map.columns()) * f(i)).sum::<f64>()
        };
        let all = sum(&|_| 1.0);
        assert!((all / map.solid_angle(cell / map.columns()) - 1.0).abs() < 0.02);
        // two sides of the same spread
        let square = sum(&|i| angle_between(&map.direction(i), &centre).powi(2)) / all;
        assert!(((square / 2.0).sqrt() / 0.08 - 1.0).abs() < 0.15, "{}", (square / 2.0).sqrt());
    }

    proptest! {
        #[test]
        fn a_direction_lies_in_its_cell(az in -179.9..179.9f64, el in -89.9..89.9f64, rows in 4usize..100) {
            let map = LightMap::black(rows);
            let d = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
            let cell = map.cell_of(&d);
            prop_assert!(cell < map.len());
            let centre = AzEl::of(&map.direction(cell));
            let half = 90.0 / rows as f64 + 1e-6;
            prop_assert!((centre.elevation_deg - el).abs() <= half);
            prop_assert!(crate::geometry::wrapped_deg(centre.azimuth_deg - az).abs() <= half);
        }
    }
}

//! Light from all around a set: even, or as a map of a room gives it.

use super::Level;
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use optics::geometry::Vec3;
use optics::light_map::LightMap;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Light from all around.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct AmbientLight {
    /// How strong, on an open surface. With a map, in the mean over surfaces that look to all sides.
    pub level: Level,
    /// Colour temperature in kelvin.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub cct_k: Option<f64>,
    /// Where it comes from; evenly from everywhere if absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub map: Option<RoomMap>,
}

/// Most rows of a room's map, and fewest.
pub const MOST_ROWS: usize = 64;
const FEWEST_ROWS: usize = 4;

/// The light of a whole room: a panorama seen from the subject, the lens in its middle, twice as wide as high.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RoomMap {
    /// Rows from straight up to straight down, 4 to 64; there are twice as many columns.
    pub rows: usize,
    /// Cells row by row, four bytes each as Radiance HDR has them (red, green, blue and their shared exponent; Ward 1991), in
    /// base 64.
    pub rgbe: String,
    /// How far the room is turned about the vertical, degrees, positive to camera right.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub turn_deg: f64,
}

fn is_zero(v: &f64) -> bool {
    *v == 0.0
}

/// Shared exponent of three numbers.
fn rgbe(rgb: [f32; 3]) -> [u8; 4] {
    let most = rgb.into_iter().fold(0.0f32, f32::max);
    if !(most > 1e-32 && most.is_finite()) {
        return [0; 4];
    }
    let exponent = (most.log2().floor() as i32 + 1).clamp(-127, 127);
    let k = 256.0 / (exponent as f32).exp2();
    let byte = |v: f32| (v.max(0.0) * k).min(255.0) as u8;
    [byte(rgb[0]), byte(rgb[1]), byte(rgb[2]), (exponent + 128) as u8]
}

fn rgb([r, g, b, e]: [u8; 4]) -> [f32; 3] {
    if e == 0 {
        return [0.0; 3];
    }
    let k = (f32::from(e) - 136.0).exp2();
    [r, g, b].map(|v| (f32::from(v) + 0.5) * k)
}

impl RoomMap {
    /// A map for a set, in cells as fine as it may have. What the unit is does not matter: a set says how strong it is.
    pub fn of(map: &LightMap) -> RoomMap {
        let map = map.coarser(map.rows() / map.rows().div_ceil(MOST_ROWS).max(1));
        let bytes: Vec<u8> = map.cells().iter().flat_map(|c| rgbe(*c)).collect();
        RoomMap { rows: map.rows(), rgbe: STANDARD.encode(bytes), turn_deg: 0.0 }
    }

    /// The light it holds, its mean radiance one, as it is turned.
    ///
    /// # Errors
    /// A sentence that says what is wrong with it.
    pub fn light(&self) -> Result<LightMap, String> {
        if !(FEWEST_ROWS..=MOST_ROWS).contains(&self.rows) {
            return Err(format!("rows: expected {FEWEST_ROWS} to {MOST_ROWS}; found {}", self.rows));
        }
        let cells = 2 * self.rows * self.rows;
        // as long as it is, before anything is taken from it
        if self.rgbe.len() > 6 * cells + 8 {
            return Err(format!("rgbe: expected {cells} cells of four bytes; found far more"));
        }
        let bytes = STANDARD.decode(&self.rgbe).map_err(|e| format!("rgbe: not base 64: {e}"))?;
        if bytes.len() != 4 * cells {
            return Err(format!("rgbe: expected {} bytes for {} rows; found {}", 4 * cells, self.rows, bytes.len()));
        }
        if !(self.turn_deg.is_finite() && self.turn_deg.abs() <= 360.0) {
            return Err(format!("turn_deg: expected -360 to 360 degrees, found {}", self.turn_deg));
        }
        let mut map = LightMap::black(self.rows);
        let (sin, cos) = self.turn_deg.to_radians().sin_cos();
        for i in 0..cells {
            let d = map.direction(i);
            // what is to be seen here lay elsewhere before the room was turned
            let before = Vec3::new(d.x * cos - d.z * sin, d.y, d.x * sin + d.z * cos);
            let k = 4 * map.cell_of(&before);
            map.cells_mut()[i] = rgb([bytes[k], bytes[k + 1], bytes[k + 2], bytes[k + 3]]);
        }
        let mean = map.mean().1 / (4.0 * std::f64::consts::PI);
        if mean <= 0.0 {
            return Err("rgbe: the room is black: there is no light in it".into());
        }
        map.cells_mut().iter_mut().for_each(|c| *c = c.map(|v| (f64::from(v) / mean) as f32));
        Ok(map)
    }
}

impl AmbientLight {
    /// Says which field is out of range, if any.
    ///
    /// # Errors
    /// One sentence.
    pub fn check(&self) -> Result<(), String> {
        self.level.check()?;
        match &self.map {
            Some(m) => m.light().map(|_| ()).map_err(|e| format!("map.{e}")),
            None => Ok(()),
        }
    }

    /// What a dome turned to `lens` takes in, against the mean over domes turned to all sides: `(1 + cos) / 2` of each
    /// direction (common practice). One where it is even.
    pub fn dome(&self, lens: &Vec3) -> f64 {
        let Some(Ok(map)) = self.map.as_ref().map(RoomMap::light) else { return 1.0 };
        // an even room of radiance one gives twice pi
        let all: f64 = map.light().map(|(d, l)| l * (1.0 + d.dot(lens)) / 2.0).sum();
        all / (2.0 * std::f64::consts::PI)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn lit_from(direction: Vec3, width: f64) -> LightMap {
        let mut map = LightMap::black(32);
        for i in 0..map.len() {
            let near = map.direction(i).dot(&direction) > width.cos();
            map.cells_mut()[i] = if near { [9.0, 6.0, 3.0] } else { [0.01; 3] };
        }
        map
    }

    #[test]
    fn a_map_keeps_its_light_through_its_text() {
        let map = lit_from(Vec3::new(0.6, 0.0, 0.8), 0.3);
        let kept = RoomMap::of(&map).light().unwrap();
        let mean = map.mean().1 / (4.0 * std::f64::consts::PI);
        for (a, b) in map.cells().iter().zip(kept.cells()) {
            for k in 0..3 {
                // one part in 256 of the strongest channel (Ward 1991)
                let most = f64::from(a[0].max(a[1]).max(a[2])) / mean;
                assert!((f64::from(a[k]) / mean - f64::from(b[k])).abs() < most / 120.0, "{a:?} {b:?}");
            }
        }
        assert!((kept.mean().1 / (4.0 * std::f64::consts::PI) - 1.0).abs() < 1e-6);
    }

    /// A window turned by 90 degrees to camera right stands there.
    #[test]
    fn a_room_turns_to_camera_right() {
        let mut room = RoomMap::of(&lit_from(Vec3::z(), 0.3));
        room.turn_deg = 90.0;
        let (mean, _) = room.light().unwrap().mean();
        assert!(mean.normalize().x > 0.99, "{mean}");
    }

    #[test]
    fn an_even_room_fills_a_dome_however_it_is_turned() {
        let mut map = LightMap::black(16);
        map.cells_mut().fill([2.0; 3]);
        let room = AmbientLight { level: Level::Stops { stops: 0.0 }, cct_k: None, map: Some(RoomMap::of(&map)) };
        for lens in [Vec3::z(), Vec3::x(), -Vec3::y()] {
            assert!((room.dome(&lens) - 1.0).abs() < 1e-3);
        }
    }

    #[test]
    fn what_is_no_map_is_refused_with_a_sentence() {
        let good = RoomMap::of(&lit_from(Vec3::z(), 0.3));
        let refused = |m: RoomMap| m.light().unwrap_err();
        assert!(refused(RoomMap { rows: 5000, ..good.clone() }).contains("4 to 64"));
        assert!(refused(RoomMap { rows: 16, ..good.clone() }).contains("far more"));
        assert!(refused(RoomMap { rgbe: "***".into(), ..good.clone() }).contains("base 64"));
        assert!(refused(RoomMap { rgbe: good.rgbe[..400].into(), ..good.clone() }).contains("expected 8192 bytes"));
        assert!(refused(RoomMap { turn_deg: f64::NAN, ..good.clone() }).contains("turn_deg"));
        assert!(refused(RoomMap { rgbe: STANDARD.encode([0u8; 8192]), ..good }).contains("black"));
    }

    proptest! {
        /// Whatever the bytes, what is read is finite and never negative.
        #[test]
        fn no_bytes_make_a_bad_number(bytes in proptest::collection::vec(any::<u8>(), 128)) {
            let room = RoomMap { rows: 4, rgbe: STANDARD.encode(&bytes), turn_deg: 10.0 };
            if let Ok(map) = room.light() {
                prop_assert!(map.cells().iter().flatten().all(|v| v.is_finite() && *v >= 0.0));
            }
        }
    }
}

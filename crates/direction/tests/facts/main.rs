//! What single marks say, against closed forms of textbooks, on pictures painted pixel by pixel from those forms.

mod bodies;
mod edges;
mod eyes;
mod forms;
mod fused;
mod solids;
mod spots;

use optics::photo::Photo;
use trial::paint;

/// A picture 240 by 200 whose brightness is a function of pixel position.
fn picture(f: impl Fn(f64, f64) -> f64) -> Photo {
    paint(240, 200, f)
}

/// Turned by an angle about the middle of that picture: along and across, pixels.
fn turned(x: f64, y: f64, deg: f64) -> [f64; 2] {
    let (s, c) = deg.to_radians().sin_cos();
    let (dx, dy) = (x - 120.0, y - 100.0);
    [dx * c + dy * s, dy * c - dx * s]
}

/// A place on a line through the middle at an angle.
fn on(t: f64, deg: f64) -> [f64; 2] {
    let (s, c) = deg.to_radians().sin_cos();
    [120.0 + t * c, 100.0 + t * s]
}

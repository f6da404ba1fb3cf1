//! The picture in its halo, with pins: one drawing for the browser's page and for paper.

use crate::{Report, data_url};
use evidence::readings::Light;
use maud::{Markup, html};
use optics::role::Role;

/// Half width and half height of the picture, and depth of the band about it.
#[derive(Clone, Copy)]
struct Band {
    hw: f64,
    hh: f64,
    depth: f64,
}

impl Band {
    /// Where a direction lies: on the ray from the middle, the farther out the farther from the lens axis.
    fn place(&self, azimuth_deg: f64, elevation_deg: f64) -> [f64; 2] {
        let (az, el) = (azimuth_deg.to_radians(), elevation_deg.to_radians());
        let (x, y, z) = (el.cos() * az.sin(), el.sin(), el.cos() * az.cos());
        let r = x.hypot(y);
        let out = r.atan2(z) / std::f64::consts::PI;
        let (x, y) = if r < 1e-6 { (0.0, -1.0) } else { (x / r, -y / r) };
        let (w, h) = (self.hw + out * self.depth, self.hh + out * self.depth);
        let k = (w / x.abs().max(1e-9)).min(h / y.abs().max(1e-9));
        [x * k, y * k]
    }

    fn radius(&self, size_deg: f64) -> f64 {
        (size_deg / 2.0 * self.depth / 180.0 * 4.0).max(0.07 * self.depth)
    }
}

fn colour(role: Role) -> &'static str {
    match role {
        Role::Key => "#b97a00",
        Role::Fill => "#1d6f9f",
        Role::Rim => "#7a4aa8",
        Role::Background => "#3d7d36",
        Role::Other => "#555555",
    }
}

/// Radius of a pin.
const PIN: f64 = 9.0;

/// The picture in its halo as an SVG of at most `width` by `height`; and how large it is.
pub(crate) fn halo(report: &Report, jpeg: &[u8], width: f64, height: f64) -> (Markup, [f64; 2]) {
    let [w, h] = report.size.map(|v| f64::from(v.max(1)));
    let depth = (width * 0.06).clamp(18.0, 44.0);
    let margin = 2.0 * (depth + 10.0);
    let k = ((width - margin) / w).min((height - margin) / h).max(1e-3);
    let band = Band { hw: w * k / 2.0, hh: h * k / 2.0, depth };
    let size = [2.0 * band.hw + margin, 2.0 * band.hh + margin];
    let lobe = |l: &Light| {
        let [x, y] = band.place(l.azimuth_deg, l.elevation_deg);
        let r = band.radius(l.angular_size_deg.unwrap_or(8.0)).clamp(4.0, depth * 0.85);
        let strength = (0.85 * (l.level_stops.unwrap_or(0.0) / 2.5).exp2()).max(0.22);
        let c = colour(l.role);
        html! {
            circle cx=(r1(x)) cy=(r1(y)) r=(r1(r)) fill=(c) fill-opacity=(r1(strength.min(0.85))) stroke=(c) stroke-width="1.2" {}
            text x=(r1(x)) y=(r1(y + 3.6)) text-anchor="middle" font-size="10" font-weight="bold" fill="#ffffff" stroke=(c) stroke-width="2.4" paint-order="stroke" {
                (l.role.word()[..1].to_uppercase())
            }
        }
    };
    let tick = |hour: u32| {
        let a = f64::from(hour) / 12.0 * std::f64::consts::TAU;
        let d = [a.sin(), -a.cos()];
        let (ww, hh) = (band.hw + depth, band.hh + depth);
        let k = (ww / d[0].abs().max(1e-9)).min(hh / d[1].abs().max(1e-9));
        let [x, y] = d.map(|v| v * k);
        let long = x.hypot(y);
        html! {
            line x1=(r1(x)) y1=(r1(y)) x2=(r1(x * (1.0 - 5.0 / long))) y2=(r1(y * (1.0 - 5.0 / long))) stroke="#777777" stroke-width="1" {}
        }
    };
    let pins = report.pins();
    let pin = |i: usize| {
        let (sign, at, fault) = &pins[i];
        // pins of one place stand side by side
        let beside = pins[..i].iter().filter(|p| p.1 == *at).count() as f64;
        let x = (at[0] * k - band.hw + beside * (2.0 * PIN + 2.0)).clamp(-band.hw, band.hw);
        let y = (at[1] * k - band.hh).clamp(-band.hh, band.hh);
        html! {
            circle cx=(r1(x)) cy=(r1(y)) r=(PIN) fill="#ffffff" stroke=(if *fault { "#b3261e" } else { "#333333" }) stroke-width="2" {}
            text x=(r1(x)) y=(r1(y + 3.8)) text-anchor="middle" font-size="10.5" font-weight="bold" fill="#111111" { (sign) }
        }
    };
    let title = format!("{}: the picture in its halo, with pins", report.title);
    let drawn = html! {
        svg xmlns="http://www.w3.org/2000/svg" width=(r1(size[0])) height=(r1(size[1])) viewBox={ "0 0 " (r1(size[0])) " " (r1(size[1])) } font-family="sans-serif" role="img" aria-label=(title) {
            g transform={ "translate(" (r1(size[0] / 2.0)) " " (r1(size[1] / 2.0)) ")" } {
                rect x=(r1(-band.hw - depth)) y=(r1(-band.hh - depth)) width=(r1(2.0 * (band.hw + depth))) height=(r1(2.0 * (band.hh + depth))) rx="8" fill="#ece7df" {}
                rect x=(r1(-band.hw - depth / 2.0)) y=(r1(-band.hh - depth / 2.0)) width=(r1(2.0 * band.hw + depth)) height=(r1(2.0 * band.hh + depth)) rx="4" fill="none" stroke="#c9c1b4" stroke-dasharray="3 4" {}
                @for hour in 1..=12 { (tick(hour)) }
                image href=(data_url("image/jpeg", jpeg)) x=(r1(-band.hw)) y=(r1(-band.hh)) width=(r1(2.0 * band.hw)) height=(r1(2.0 * band.hh)) preserveAspectRatio="none" {}
                @for l in &report.lights { (lobe(l)) }
                @for i in 0..pins.len() { (pin(i)) }
            }
        }
    };
    (drawn, size)
}

/// To a tenth, as drawings need no more.
pub(crate) fn r1(v: f64) -> f64 {
    (v * 10.0).round() / 10.0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn directions_lie_where_the_halo_has_them() {
        let b = Band { hw: 100.0, hh: 50.0, depth: 40.0 };
        // straight to camera right, level: half of the band's depth, on the right
        let [x, y] = b.place(90.0, 0.0);
        assert!((x - 120.0).abs() < 1e-9 && y.abs() < 1e-9);
        // straight above: the same, above
        let [x, y] = b.place(0.0, 90.0);
        assert!(x.abs() < 1e-6 && (y + 70.0).abs() < 1e-6);
        // behind lies at the outer edge
        assert!((b.place(179.9, 0.0)[0] - 140.0).abs() < 0.1);
    }
}

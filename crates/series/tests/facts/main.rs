//! Series against facts of the trade and against themselves.

mod agreeing;
mod cropping;
mod seeing;

use evidence::marks::Marks;
use optics::exposure::Settings;
use optics::photo::{Photo, Samples};
use optics::tone::Encoding;
use series::{Ground, Member, Shown, SubjectBox, shown};

/// A picture of 800 by 1000 pixels whose subject stands where the others' do.
pub fn usual() -> Shown {
    Shown {
        width: 800,
        height: 1000,
        subject: Some(SubjectBox {
            from: [250.0, 340.0],
            to: [550.0, 820.0],
            length_px: 480.0,
            base_px: 820.0,
            middle_px: 400.0,
            lean_deg: Some(0.0),
            lean_sd_deg: 0.2,
            sd_px: 1.0,
            cut: false,
        }),
        ground: Some(Ground { level_stops: 1.2, rgb: [0.41, 0.41, 0.41], across_stops: 0.1, clipped: false }),
        subject_stops: Some(-0.5),
        halves_stops: Some(0.4),
        settings: Some(Settings { f_number: 11.0, shutter_s: 0.008, iso: 100.0 }),
        key: None,
    }
}

/// A series of bottles or footwear as its list wants it, each picture changed by its number.
pub fn members(views: &[&str], change: impl Fn(usize, &mut Shown)) -> Vec<Member> {
    views
        .iter()
        .enumerate()
        .map(|(k, v)| {
            let mut shown = usual();
            change(k, &mut shown);
            Member { frame: format!("f{k}"), name: (*v).into(), view: (*v).into(), shown }
        })
        .collect()
}

/// A grey picture with a box of a tone standing on it, over a soft shadow; all in linear light.
pub fn drawn(size: [u32; 2], from: [f64; 2], to: [f64; 2], lean_deg: f64, tone: [f32; 3]) -> Shown {
    let [w, h] = size;
    let (s, c) = lean_deg.to_radians().sin_cos();
    let [mx, my] = [f64::midpoint(from[0], to[0]), to[1]];
    let mut samples = Vec::with_capacity(3 * (w * h) as usize);
    for y in 0..h {
        for x in 0..w {
            let (dx, dy) = (f64::from(x) + 0.5 - mx, f64::from(y) + 0.5 - my);
            // turned back about its foot
            let (u, v) = (c * dx + s * dy, -s * dx + c * dy);
            let inside = u.abs() < (to[0] - from[0]) / 2.0 && v < 0.0 && v > from[1] - to[1];
            let ground = 0.35 + 0.1 * f64::from(x) / f64::from(w);
            let shade = 1.0 - 0.5 * (-(dx / 160.0).powi(2) - ((dy - 6.0) / 45.0).powi(2)).exp();
            let grain = 0.01 * (f64::from((x * 7919 + y * 104_729) % 97) / 48.5 - 1.0);
            let ground = (ground * shade + grain) as f32;
            samples.extend(if inside { tone } else { [ground; 3] });
        }
    }
    let photo = Photo::new(w, h, Samples::Linear(samples), &Encoding::Linear).expect("a picture");
    shown(&photo, &Marks::default(), &[])
}

//! `slantcast demo-pictures`: renders the demo's pictures with the stand-in studio and writes their
//! marks. Run when the studio or the scenes change; the small files are committed.

use crate::Failure;
use light::exposure::Settings;
use light::geometry::{AzEl, Vec3};
use light::marks::{CameraFacts, Finish, Mark, MarkKind, Marks, PatchRole};
use light::photo::{Photo, Samples};
use light::tone::Encoding;
use std::path::Path;
use studio::{Lamp, LampShape, PuppetLook, Scene, View, ball, encode, eye_marks, project, puppet, render};

struct Picture {
    name: &'static str,
    view: View,
    scene: Scene,
    marks: Vec<Mark>,
    settings: Settings,
}

fn mark(id: &str, kind: MarkKind) -> Mark {
    Mark { id: id.into(), off: false, kind, other: Default::default() }
}

/// A lamp by direction (degrees), full angle (degrees), distance (metres) and stops; `w_over_h` 0
/// for a disc.
fn lamp(az: f64, el: f64, size: f64, distance: f64, stops: f64, w_over_h: f64, tint: [f64; 3]) -> Lamp {
    let direction = AzEl { azimuth_deg: az, elevation_deg: el }.vector();
    let r = distance * (size / 2.0).to_radians().tan();
    let shape = if w_over_h == 0.0 {
        LampShape::Disc(r)
    } else {
        // half sides of the rectangle with the disc's area
        let area = std::f64::consts::PI * r * r;
        let h = (area / w_over_h).sqrt() / 2.0;
        LampShape::Rectangle(h * w_over_h, h)
    };
    Lamp { direction, distance, shape, facing: tint.map(|t| t * f64::exp2(stops)) }
}

const WHITE: [f64; 3] = [1.0; 3];
const WARM: [f64; 3] = [1.12, 0.98, 0.74];

fn portrait(
    name: &'static str,
    look: PuppetLook,
    lamps: Vec<Lamp>,
    ambient: f64,
    backdrop: [f64; 3],
    settings: Settings,
) -> Picture {
    let view = View { width: 1040, height: 1300, vfov_deg: 12.0, distance: 2.6, rise: -0.03, grid: 4 };
    let mut marks = Vec::new();
    for (id, side) in [("eye-left", -1.0), ("eye-right", 1.0)] {
        let (limbus, looks_to_clock) = eye_marks(&look, &view, side);
        marks.push(mark(id, MarkKind::Eye { limbus, looks_to_clock, catchlights: None }));
    }
    // cheeks: the side the key comes from is lit
    let toward = lamps.first().map_or(1.0, |l| if l.direction.x >= 0.0 { 1.0 } else { -1.0 });
    for (id, role, side) in [("cheek-lit", PatchRole::Lit, toward), ("cheek-shadow", PatchRole::Shadow, -toward)] {
        let ([x, y], k) = project(&view, &Vec3::new(side * 0.062 * look.width, -0.05, -0.01));
        let h = 0.009 * k;
        let polygon = vec![[x - h, y - h], [x + h, y - h], [x + h, y + h], [x - h, y + h]];
        marks.push(mark(
            id,
            MarkKind::Patch { role, polygon: polygon.into_iter().map(|p| p.map(f64::round)).collect() },
        ));
    }
    let scene = Scene { bodies: puppet(&look), lamps, ambient: [ambient; 3], backdrop: Some((-1.2, backdrop)) };
    Picture { name, view, scene, marks, settings }
}

fn pictures() -> Vec<Picture> {
    let look = PuppetLook {
        face: [0.52, 0.36, 0.24],
        cap: [0.05, 0.07, 0.10],
        coat: [0.07, 0.08, 0.12],
        iris: [0.06, 0.10, 0.14],
        nose: 0.016,
        width: 1.0,
        gaze: [0.0, 0.0],
    };
    let pale = PuppetLook {
        face: [0.62, 0.48, 0.38],
        cap: [0.20, 0.05, 0.06],
        coat: [0.28, 0.05, 0.08],
        iris: [0.10, 0.06, 0.03],
        nose: 0.008,
        width: 0.92,
        gaze: [0.0, 0.0],
    };
    let round = PuppetLook {
        face: [0.58, 0.56, 0.50],
        cap: [0.30, 0.30, 0.34],
        coat: [0.12, 0.13, 0.20],
        iris: [0.05, 0.08, 0.05],
        nose: 0.004,
        width: 1.12,
        gaze: [8.0, 3.0],
    };
    let floury = PuppetLook {
        face: [0.60, 0.44, 0.32],
        cap: [0.55, 0.53, 0.50],
        coat: [0.40, 0.38, 0.34],
        iris: [0.08, 0.05, 0.03],
        nose: 0.022,
        width: 1.05,
        gaze: [0.0, 0.0],
    };
    let settings = |f_number, shutter, iso| Settings { f_number, shutter_s: 1.0 / shutter, iso };
    let mut all = vec![
        portrait(
            "ferryman",
            look,
            vec![lamp(-42.0, 34.0, 24.0, 1.5, 0.0, 1.0, WARM), lamp(140.0, 28.0, 14.0, 1.8, -0.4, 0.4, WHITE)],
            0.05,
            [0.16, 0.17, 0.19],
            settings(5.6, 125.0, 200.0),
        ),
        portrait(
            "queen",
            pale,
            vec![lamp(0.0, 36.0, 34.0, 1.3, -0.2, 0.0, WHITE), lamp(0.0, -38.0, 46.0, 0.9, -1.5, 1.6, WHITE)],
            0.06,
            [0.45, 0.43, 0.42],
            settings(4.0, 160.0, 100.0),
        ),
        portrait(
            "miller",
            floury,
            vec![lamp(46.0, 34.0, 4.5, 2.4, 0.15, 0.0, WARM)],
            0.03,
            [0.22, 0.20, 0.18],
            settings(8.0, 60.0, 400.0),
        ),
        portrait(
            "moon",
            round,
            vec![lamp(26.0, 14.0, 30.0, 1.5, -0.5, 1.0, WHITE), lamp(-28.0, 12.0, 30.0, 1.5, -0.7, 1.0, WHITE)],
            0.1,
            [0.35, 0.36, 0.40],
            settings(5.6, 125.0, 100.0),
        ),
        portrait(
            "twins",
            pale,
            vec![lamp(160.0, 78.0, 24.0, 1.2, 0.6, 1.0, WHITE)],
            0.06,
            [0.12, 0.12, 0.14],
            settings(4.0, 125.0, 400.0),
        ),
    ];
    let view = View { width: 1100, height: 800, vfov_deg: 9.0, distance: 2.6, rise: 0.0, grid: 4 };
    let (a, b) = (Vec3::new(-0.12, 0.0, 0.0), Vec3::new(0.12, 0.0, 0.0));
    let scene = Scene {
        bodies: vec![ball(a, 0.075, false), ball(b, 0.075, true)],
        lamps: vec![lamp(46.0, 34.0, 26.0, 2.2, 0.25, 0.0, WHITE), lamp(-76.0, 6.0, 18.0, 2.4, -1.6, 0.6, WHITE)],
        ambient: [0.05; 3],
        backdrop: Some((-0.9, [0.18, 0.18, 0.19])),
    };
    let marks = [("ball-matte", Finish::Matte, a), ("ball-mirror", Finish::Mirror, b)]
        .into_iter()
        .map(|(id, finish, c)| {
            let (centre, k) = project(&view, &c);
            mark(id, MarkKind::Ball { finish, centre, radius_px: 0.075 * k })
        })
        .collect();
    all.push(Picture { name: "probes", view, scene, marks, settings: settings(8.0, 125.0, 100.0) });
    all
}

pub(crate) fn run(folder: &Path) -> Result<(), Failure> {
    std::fs::create_dir_all(folder).map_err(anyhow::Error::from)?;
    for p in pictures() {
        let start = std::time::Instant::now();
        let rgb = encode(&render(&p.scene, &p.view));
        let photo =
            Photo::new(p.view.width, p.view.height, Samples::U8(rgb), &Encoding::Srgb).map_err(Failure::Input)?;
        let copies = ::pictures::previews(&photo, &[2000]).map_err(|e| Failure::Input(e.to_string()))?;
        let marks = Marks {
            camera: Some(CameraFacts {
                vfov_deg: Some(p.view.vfov_deg),
                distance_m: Some(p.view.distance),
                ..CameraFacts::default()
            }),
            exposure: Some(p.settings),
            marks: p.marks,
            ..Marks::default()
        };
        let write = |ext: &str, bytes: &[u8]| std::fs::write(folder.join(format!("{}.{ext}", p.name)), bytes);
        write("jpg", &copies[0].jpeg).map_err(anyhow::Error::from)?;
        let json = serde_json::to_string_pretty(&marks).map_err(anyhow::Error::from)? + "\n";
        write("json", json.as_bytes()).map_err(anyhow::Error::from)?;
        println!("{} in {:.1} s", p.name, start.elapsed().as_secs_f64());
    }
    Ok(())
}

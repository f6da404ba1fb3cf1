//! `evaluation plates`: mixes of plates whose factors are known, and plates that were moved.

use crate::Failure;
use crate::files::load_picture;
use optics::photo::Photo;
use optics::solve::median;
use optics::tone::Encoding;
use plates::check::{check, plate};
use plates::curve::curve_of_sum;
use plates::light::{Light, SHELF_SIDE, WORKING_SIDE, cell_of};
use plates::mix::solve;
use plates::register::in_sum;
use serde::Deserialize;
use std::path::{Path, PathBuf};
use std::time::Instant;

#[derive(clap::Args)]
pub(crate) struct Options {
    /// Folder of folders, each with `plate0.png`, ..., `dark.png`, `all.png`, `target.png` and `truth.json`
    /// (tests/fixtures/make_people.py --plates).
    #[arg(default_value = "tests/fixtures/plates")]
    folder: PathBuf,
    /// Print every case.
    #[arg(long)]
    verbose: bool,
    /// Code the pictures anew as another camera would, and read them through the curve their sum tells.
    #[arg(long)]
    camera: Option<Camera>,
    /// Time the mix of this many pictures of six megapixels instead.
    #[arg(long)]
    speed: Option<usize>,
}

/// Cameras whose curves are not sRGB.
#[derive(Debug, Clone, Copy, clap::ValueEnum)]
enum Camera {
    /// A power of 1 / 1.8.
    Light,
    /// A power of 1 / 2.6.
    Dark,
    /// A straight part with an exponential shoulder.
    Film,
    /// sRGB with half a smoothstep in it.
    Punchy,
}

impl Camera {
    /// Code of light, both 0 to 1.
    fn code(self, l: f64) -> f64 {
        let shoulder = |l: f64| (1.0 - (-2.2 * l.powf(1.15)).exp()).powf(1.0 / 2.1);
        match self {
            Camera::Light => l.powf(1.0 / 1.8),
            Camera::Dark => l.powf(1.0 / 2.6),
            Camera::Film => shoulder(l) / shoulder(1.0),
            Camera::Punchy => {
                let v = optics::tone::linear_to_srgb(l);
                0.5 * v + 0.5 * v * v * (3.0 - 2.0 * v)
            }
        }
    }

    fn taken(self, p: &Photo) -> Result<Photo, Failure> {
        // the pictures are coded in steps already: each is spread over its step, so that a code does not always fall to one side
        let mut seed = 1u64;
        let mut chance = || {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (seed >> 40) as f64 / (1u64 << 24) as f64 - 0.5
        };
        let mut of = |v: f32| {
            let code = optics::tone::linear_to_srgb(f64::from(v)) + chance() / 255.0;
            let light = optics::tone::srgb_to_linear(code.clamp(0.0, 1.0));
            (255.0 * self.code(light)).round() as u8
        };
        let mut bytes = Vec::new();
        for (x, y) in (0..p.height()).flat_map(|y| (0..p.width()).map(move |x| (x, y))) {
            bytes.extend(p.rgb(x, y).map(&mut of));
        }
        let samples = optics::photo::Samples::U8(bytes);
        Photo::new(p.width(), p.height(), samples, &optics::tone::Encoding::default()).map_err(Failure::Input)
    }
}

#[derive(Deserialize)]
struct Truth {
    weights: Vec<f64>,
    moved: Option<MovedPlate>,
}

#[derive(Deserialize)]
struct MovedPlate {
    plate: usize,
    px: [f64; 2],
}

/// The pictures of a folder.
struct Folder {
    plates: Vec<Photo>,
    dark: Photo,
    all: Photo,
    target: Photo,
}

impl Folder {
    fn open(path: &Path, plates: usize, camera: Option<Camera>) -> Result<Folder, Failure> {
        let photo = |name: String| {
            let photo = load_picture(&path.join(name))?.photo;
            camera.map_or(Ok(photo.clone()), |c| c.taken(&photo))
        };
        Ok(Folder {
            plates: (0..plates).map(|k| photo(format!("plate{k}.png"))).collect::<Result<_, _>>()?,
            dark: photo("dark.png".into())?,
            all: photo("all.png".into())?,
            target: photo("target.png".into())?,
        })
    }

    /// Read through the curve that its sum tells, with what is left of the sum without it and with it.
    fn through_its_curve(self) -> Option<(Folder, [f64; 2])> {
        let cell = cell_of(self.all.width(), self.all.height(), SHELF_SIDE);
        let light = |p: &Photo| Light::of(p, cell);
        let left = |f: &Folder, curve: bool| -> Option<(f64, Option<Encoding>)> {
            let plates: Vec<Light> = f.plates.iter().map(light).collect();
            let (refs, all, dark) = (plates.iter().collect::<Vec<_>>(), light(&f.all), light(&f.dark));
            let found = if curve { Some(curve_of_sum(&all, &refs, Some(&dark))?.encoding) } else { None };
            Some((check(Some(&all), &refs, Some(&dark), Vec::new(), &[]).ok()?.left_over?, found))
        };
        let (before, encoding) = left(&self, true)?;
        let encoding = encoding?;
        let under = Folder {
            plates: self.plates.iter().map(|p| p.under(&encoding)).collect(),
            dark: self.dark.under(&encoding),
            all: self.all.under(&encoding),
            target: self.target.under(&encoding),
        };
        let after = left(&under, false)?.0;
        Some((under, [before, after]))
    }
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    if let Some(n) = o.speed {
        return speed(n);
    }
    let mut folders: Vec<PathBuf> = std::fs::read_dir(&o.folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", o.folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.join("truth.json").exists())
        .collect();
    folders.sort();
    let (mut off, mut off_moved, mut held, mut stated) = (Vec::new(), Vec::new(), 0, Vec::new());
    let (mut off_lamps, mut off_found, mut invented) = (0, 0, 0);
    let (mut moved, mut named, mut shift_off, mut false_alarms, mut sums) = (0, 0, Vec::new(), 0, 0);
    let mut curves: Vec<[f64; 2]> = Vec::new();
    for folder in &folders {
        let text = std::fs::read_to_string(folder.join("truth.json")).map_err(anyhow::Error::from)?;
        let truth: Truth = serde_json::from_str(&text).map_err(anyhow::Error::from)?;
        let mut pictures = Folder::open(folder, truth.weights.len(), o.camera)?;
        if o.camera.is_some() && truth.moved.is_none() {
            let Some((under, left)) = pictures.through_its_curve() else {
                println!("{}: no curve", folder.display());
                continue;
            };
            pictures = under;
            curves.push(left);
        } else if o.camera.is_some() {
            continue;
        }
        let Folder { plates: photos, dark, all: whole, target } = pictures;
        let cell = cell_of(target.width(), target.height(), WORKING_SIDE);
        let plain: Vec<Light> = photos.iter().map(|p| Light::of(p, cell)).collect();
        let dark = Light::of(&dark, cell);
        let found = in_sum(&Light::of(&whole, cell), &plain.iter().collect::<Vec<_>>(), Some(&dark));
        let lights: Vec<Light> = photos
            .iter()
            .zip(&found)
            .map(|(p, l)| match l.filter(|l| l.moved()) {
                Some(l) => l.back(p, cell),
                None => Light::of(p, cell),
            })
            .collect();
        let refs: Vec<&Light> = lights.iter().collect();
        let mix = solve(&Light::of(&target, cell), &refs, Some(&dark)).map_err(Failure::Input)?;
        for (k, want) in truth.weights.iter().enumerate() {
            off_lamps += usize::from(*want == 0.0);
            match mix.stops[k] {
                None => off_found += usize::from(*want == 0.0),
                Some(_) if *want == 0.0 => invented += 1,
                Some(s) => {
                    let d = (s - want.log2()).abs();
                    held += usize::from(d <= 2.0 * mix.sd_stops[k].unwrap_or(0.0));
                    stated.push(mix.sd_stops[k].unwrap_or(0.0));
                    off.push(d);
                    if truth.moved.is_some() {
                        off_moved.push(d);
                    }
                }
            }
        }
        for (k, l) in found.iter().enumerate() {
            let told = l.filter(|l| l.moved());
            match truth.moved.as_ref().filter(|m| m.plate == k) {
                Some(m) => {
                    moved += 1;
                    if let Some(l) = told {
                        named += 1;
                        shift_off.push((l.right_px - m.px[0]).hypot(l.down_px - m.px[1]));
                    }
                }
                None => false_alarms += usize::from(told.is_some()),
            }
        }
        if truth.moved.is_none() {
            let names: Vec<String> = (1..=refs.len()).map(|k| format!("plate {k}")).collect();
            let each = refs.iter().zip(&names).map(|(p, n)| plate(p, Some(&dark), None, n)).collect();
            let all = Light::of(&whole, cell);
            let sum = check(Some(&all), &refs, Some(&dark), each, &names).map_err(Failure::Input)?;
            sums += usize::from(sum.reason == plates::check::Reason::None);
            if o.verbose {
                println!("{}: {}", folder.display(), sum.says[0]);
            }
        }
        if o.verbose {
            println!("{}: {:?} wanted {:?} {:?}", folder.display(), mix.weights, truth.weights, found);
        }
    }
    if !curves.is_empty() {
        let of = |k: usize| 100.0 * median(&mut curves.iter().map(|c| c[k]).collect::<Vec<_>>());
        println!(
            "{} sums, left over as plain sRGB {:.1} % in the median, through their curve {:.1} %",
            curves.len(),
            of(0),
            of(1)
        );
    }
    let n = off.len();
    let worst = off.iter().copied().fold(0.0, f64::max);
    let mut sorted = off.clone();
    sorted.sort_by(f64::total_cmp);
    println!("{} folders, {n} plates that are on in the target", folders.len());
    println!(
        "weights off by, stops: median {:.4}, 90 % {:.4}, worst {worst:.4}; {held} of {n} within two stated spreads, {:.4} in the median",
        median(&mut off),
        sorted.get(n * 9 / 10).copied().unwrap_or(f64::NAN),
        median(&mut stated)
    );
    println!("of those in folders with a moved plate: median {:.4}", median(&mut off_moved));
    println!("lamps that are off: {off_found} of {off_lamps} found off, {invented} said to be on");
    println!(
        "moved plates: {named} of {moved} named, shift off by {:.2} px in the median; {false_alarms} others said to be moved",
        median(&mut shift_off)
    );
    println!("sums of plates that were not moved: {sums} of {} come out", folders.len() - moved);
    Ok(())
}

/// Times decoded pictures of six megapixels to a mix: means of blocks, then the solution.
fn speed(n: usize) -> Result<(), Failure> {
    const SIZE: (u32, u32) = (3000, 2000);
    let picture = |k: usize| {
        let bytes = (0..SIZE.0 * SIZE.1).flat_map(|i| {
            let (x, y) = (f64::from(i % SIZE.0) / 300.0, f64::from(i / SIZE.0) / 300.0);
            let v = 110.0 + 100.0 * ((x + k as f64).sin() * (y * (1.0 + k as f64 * 0.13)).cos());
            [v as u8; 3]
        });
        let samples = optics::photo::Samples::U8(bytes.collect());
        Photo::new(SIZE.0, SIZE.1, samples, &optics::tone::Encoding::default()).map_err(Failure::Input)
    };
    let photos = (0..=n).map(picture).collect::<Result<Vec<_>, _>>()?;
    let start = Instant::now();
    let cell = cell_of(SIZE.0, SIZE.1, WORKING_SIDE);
    let lights: Vec<Light> = photos.iter().map(|p| Light::of(p, cell)).collect();
    let reduced = start.elapsed();
    let refs: Vec<&Light> = lights[..n].iter().collect();
    solve(&lights[n], &refs, None).map_err(Failure::Input)?;
    println!(
        "{n} plates of {} x {}: means {:.2} s, solved after {:.2} s",
        SIZE.0,
        SIZE.1,
        reduced.as_secs_f64(),
        start.elapsed().as_secs_f64()
    );
    Ok(())
}

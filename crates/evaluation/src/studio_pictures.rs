//! `evaluation studio`: the stand-in studio against pictures of the same sets by another renderer.

use crate::Failure;
use crate::files::load_picture;
use crate::files::load_set;
use optics::photo::luminance;
use std::path::Path;

/// Parts of the picture compared as regions, across and down.
const REGIONS: (usize, usize) = (8, 6);
/// Luminance under which a pixel is too dark to compare.
const DARK: f64 = 0.02;

pub(crate) fn run(folder: &Path) -> Result<(), Failure> {
    let mut files: Vec<_> = std::fs::read_dir(folder)
        .map_err(|e| Failure::Input(format!("{}: {e}", folder.display())))?
        .filter_map(|f| f.ok().map(|f| f.path()))
        .filter(|p| p.extension().is_some_and(|e| e == "json"))
        .collect();
    files.sort();
    println!("| set | median difference | 90 % of pixels within | worst region | seconds |");
    println!("|---|---|---|---|---|");
    for file in files {
        let set = load_set(&file)?;
        let start = std::time::Instant::now();
        let ours = studio::picture(&set).map_err(Failure::Input)?;
        let took = start.elapsed().as_secs_f64();
        let theirs = load_picture(&file.with_extension("exr"))?.photo;
        let (w, h) = (set.picture.width as usize, set.picture.height as usize);
        if (theirs.width() as usize, theirs.height() as usize) != (w, h) {
            return Err(Failure::Input(format!("{}: the picture has another size than the set says", file.display())));
        }
        let mut off = Vec::new();
        let mut sums = vec![(0.0, 0.0); REGIONS.0 * REGIONS.1];
        for y in 0..h {
            for x in 0..w {
                let i = 3 * (y * w + x);
                let a = luminance([ours[i], ours[i + 1], ours[i + 2]]);
                // the sensor of the studio saturates, the other renderer's film does not
                let b = luminance(theirs.rgb(x as u32, y as u32)).min(studio::SATURATION);
                let r = &mut sums[y * REGIONS.1 / h * REGIONS.0 + x * REGIONS.0 / w];
                r.0 += a;
                r.1 += b;
                if b > DARK {
                    off.push((a / b - 1.0).abs());
                }
            }
        }
        off.sort_by(f64::total_cmp);
        let q = |p: f64| 100.0 * off.get(((off.len().max(1) - 1) as f64 * p) as usize).copied().unwrap_or(0.0);
        let cell = (w * h) as f64 / (REGIONS.0 * REGIONS.1) as f64;
        let worst = sums
            .iter()
            .filter(|s| s.1 / cell > DARK)
            .map(|s| (s.0 / s.1).log2())
            .fold(0.0f64, |a, b| if b.abs() > a.abs() { b } else { a });
        let name = file.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        println!("| {name} | {:.2} % | {:.2} % | {worst:+.3} stop | {took:.2} |", q(0.5), q(0.9));
    }
    Ok(())
}

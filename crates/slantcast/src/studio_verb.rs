//! `slantcast studio`: a set to the picture the stand-in studio takes of it.

use crate::Failure;
use lightset::set::LightSet;
use std::path::Path;
use std::sync::atomic::AtomicBool;

/// Reads a set; warns of fields this version does not know.
pub(crate) fn load_set(path: &Path) -> Result<LightSet, Failure> {
    let text = std::fs::read_to_string(path).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    let parsed = LightSet::parse(&text).map_err(|e| Failure::Input(format!("{}: {e}", path.display())))?;
    for name in parsed.unknown {
        eprintln!("slantcast: {}: {name} is not known to this version and is left out", path.display());
    }
    Ok(parsed.set)
}

/// Writes a linear picture as EXR, or developed as PNG or JPEG, by the extension.
fn save(path: &Path, set: &LightSet, linear: &[f32]) -> Result<(), Failure> {
    let (w, h) = (set.picture.width, set.picture.height);
    let input = |e: pictures::Refusal| Failure::Input(format!("{}: {e}", path.display()));
    let bytes = match path.extension().and_then(|e| e.to_str()) {
        Some("exr") => pictures::encode_exr(w, h, linear.to_vec()).map_err(input)?,
        Some("png") => pictures::encode_png(w, h, studio::encode(linear, &set.picture)).map_err(input)?,
        _ => return Err(Failure::Input(format!("{}: expected a name ending in .png or .exr", path.display()))),
    };
    std::fs::write(path, bytes).map_err(|e| Failure::Other(anyhow::anyhow!("{}: {e}", path.display())))
}

pub(crate) fn run(set: &Path, out: &Path, folder: Option<&Path>, marks: Option<&Path>) -> Result<(), Failure> {
    let set = load_set(set)?;
    let meter = studio::meter(&set).map_err(Failure::Input)?;
    let start = std::time::Instant::now();
    let plates = studio::trace(&set, &mut studio::PlateCache::default(), &AtomicBool::new(false), |_| {})
        .ok_or_else(|| Failure::Input("the trace was cancelled".into()))?;
    let took = start.elapsed().as_secs_f64();
    save(out, &set, &studio::mix(&set, &plates).map_err(Failure::Input)?)?;
    if let Some(folder) = folder {
        std::fs::create_dir_all(folder).map_err(anyhow::Error::from)?;
        let names = set.lights.iter().map(|l| l.name.replace(|c: char| !c.is_alphanumeric(), "-"));
        for (i, (name, plate)) in names.zip(&plates.lamps).enumerate() {
            if !plate.is_empty() {
                save(&folder.join(format!("{}-{name}.exr", i + 1)), &set, plate)?;
            }
        }
        if !plates.ambient.is_empty() {
            save(&folder.join("ambient.exr"), &set, &plates.ambient)?;
        }
    }
    if let Some(path) = marks {
        let json = serde_json::to_string_pretty(&studio::marks(&set)).map_err(anyhow::Error::from)? + "\n";
        std::fs::write(path, json).map_err(anyhow::Error::from)?;
    }
    println!("{}", meter.slant);
    for l in &meter.lights {
        println!("{}: f/{} alone ({:+.2} stops, {:.0} lux s)", l.name, l.f_number, l.level_stops, l.lux_seconds);
    }
    println!(
        "together f/{}, {:+.2} stops against f/{}",
        meter.together_f_number, meter.over_stops, set.camera.exposure.f_number
    );
    for w in &meter.warnings {
        println!("warning: {w}");
    }
    eprintln!("traced in {took:.2} s");
    Ok(())
}

/// Writes a set as a drawing to scale (.svg, .png, .pdf) or as glTF (.gltf).
pub(crate) fn draw(file: &Path, out: &Path, feet: bool) -> Result<(), Failure> {
    let set = load_set(file)?;
    let meter = studio::meter(&set).map_err(Failure::Input)?;
    let title = file.file_stem().unwrap_or_default().to_string_lossy();
    let unit = if feet { optics::words::Lengths::Feet } else { optics::words::Lengths::Metres };
    let svg = || lightset::paper::svg(&meter, &title, unit);
    let bytes = match out.extension().and_then(|e| e.to_str()) {
        Some("svg") => svg().into_bytes(),
        Some("png") => pictures::png_of_svg(&svg(), 2.0).map_err(anyhow::Error::from)?,
        Some("pdf") => pictures::pdf_of_svg(&svg()).map_err(anyhow::Error::from)?,
        Some("gltf") => serde_json::to_string_pretty(&lightset::gltf::gltf(&set, &meter, &title))
            .map_err(anyhow::Error::from)?
            .into_bytes(),
        _ => {
            let name = out.display();
            return Err(Failure::Input(format!("{name}: expected a name ending in .svg, .png, .pdf or .gltf")));
        }
    };
    std::fs::write(out, bytes).map_err(|e| Failure::Other(anyhow::anyhow!("{}: {e}", out.display())))
}

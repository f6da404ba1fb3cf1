//! Plates as layers and masks that other programs open: OpenRaster (0.0.6), PNG (ISO/IEC 15948) and a recipe in JSON.

use image::codecs::png::{CompressionType, FilterType, PngEncoder};
use image::{ExtendedColorType, ImageEncoder};
use optics::photo::Photo;
use optics::tone::{SrgbBytes, linear_to_srgb};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::io::{Seek, Write};
use utoipa::ToSchema;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

/// One plate of an export.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Layer {
    /// Name.
    pub name: String,
    /// Factors on its linear red, green and blue; nought leaves it out.
    #[schema(value_type = optics::geometry::Triple)]
    pub factor: [f64; 3],
    /// File of the mask by which it counts in the mix; everywhere without one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mask: Option<String>,
}

/// Masks in blocks, as far as plates have one.
#[derive(Debug, Clone)]
pub struct Soft {
    /// Blocks across and down.
    pub blocks: (usize, usize),
    /// Of each plate, 0 to 1, block by block.
    pub each: Vec<Option<Vec<f32>>>,
}

impl Soft {
    /// The mask of a plate at full size, 255 where it counts in full.
    fn full(&self, plate: usize, size: (u32, u32)) -> Option<Vec<u8>> {
        self.each.get(plate).and_then(Option::as_ref).map(|m| enlarged(m, self.blocks, size))
    }
}

/// What was mixed, to be read back.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct MixRecipe {
    /// Always `slant-mix/1`.
    pub format: String,
    /// Pixels.
    pub width: u32,
    /// Pixels.
    pub height: u32,
    /// Layers, the lowest first.
    pub layers: Vec<Layer>,
    /// A dark frame was taken off each.
    pub dark: bool,
    /// How they go together: `sum` in linear light, or `lighter`.
    pub merge: String,
}

/// Name and version of the recipe.
pub const FORMAT: &str = "slant-mix/1";

/// Longest side of the small picture in an OpenRaster file (its specification).
const THUMBNAIL: u32 = 256;

/// Full pictures, one after another: the plate of a place in the list.
pub type Load<'a> = &'a mut dyn FnMut(usize) -> Result<Photo, String>;

fn png(bytes: &[u8], (w, h): (u32, u32), colour: ExtendedColorType) -> Result<Vec<u8>, String> {
    let mut out = Vec::new();
    PngEncoder::new_with_quality(&mut out, CompressionType::Fast, FilterType::Adaptive)
        .write_image(bytes, w, h, colour)
        .map_err(|e| e.to_string())?;
    Ok(out)
}

/// A plate as it goes into a mix.
struct Counted<'a> {
    photo: &'a Photo,
    dark: Option<&'a Photo>,
    factor: [f64; 3],
    /// its mask at full size
    mask: Option<&'a [u8]>,
}

impl Counted<'_> {
    /// Linear light of a pixel over the dark frame, times what the plate counts there.
    fn over(&self, x: u32, y: u32) -> [f32; 3] {
        let (p, d) = (self.photo.rgb(x, y), self.dark.map_or([0.0; 3], |d| d.rgb(x, y)));
        let at = y as usize * self.photo.width() as usize + x as usize;
        let share = self.mask.map_or(1.0, |m| f32::from(m[at]) / 255.0);
        [0, 1, 2].map(|k| ((p[k] - d[k]) * self.factor[k] as f32 * share).max(0.0))
    }
}

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

fn stored() -> SimpleFileOptions {
    SimpleFileOptions::default().compression_method(CompressionMethod::Stored)
}

fn entry<W: Write + Seek>(zip: &mut ZipWriter<W>, name: &str, bytes: &[u8]) -> Result<(), String> {
    zip.start_file(name, stored()).map_err(|e| e.to_string())?;
    zip.write_all(bytes).map_err(|e| e.to_string())
}

/// The size of all plates.
fn sized(photo: &Photo, size: (u32, u32), name: &str) -> Result<(), String> {
    let own = (photo.width(), photo.height());
    if own == size {
        return Ok(());
    }
    Err(format!("{name} is {} × {} pixels, the first {} × {}", own.0, own.1, size.0, size.1))
}

/// Bytes of a plate in sRGB, its factors and its mask in it.
fn coded(bytes: &SrgbBytes, plate: &Counted) -> Vec<u8> {
    let row = |y: u32| (0..plate.photo.width()).flat_map(move |x| plate.over(x, y).map(|v| bytes.of(v)));
    (0..plate.photo.height()).into_par_iter().flat_map_iter(row).collect()
}

/// Goes through the rows of linear light that is added up.
fn add(sum: &mut [[f32; 3]], plate: &Counted) {
    sum.par_chunks_mut(plate.photo.width() as usize).enumerate().for_each(|(y, row)| {
        for (x, s) in row.iter_mut().enumerate() {
            let l = plate.over(x as u32, y as u32);
            (0..3).for_each(|c| s[c] += l[c]);
        }
    });
}

/// Writes the plates as an OpenRaster file, each a layer that lightens those under it, its factor and its painted mask already in it.
/// `step` is called with each plate done.
///
/// # Errors
/// A sentence.
pub fn openraster<W: Write + Seek>(
    out: W,
    size: (u32, u32),
    layers: &[Layer],
    painted: &Soft,
    dark: Option<&Photo>,
    load: Load<'_>,
    step: &mut dyn FnMut(usize),
) -> Result<(), String> {
    let srgb = SrgbBytes::default();
    let mut zip = ZipWriter::new(out);
    // the first entry, not compressed, says what the file is (OpenRaster 0.0.6)
    entry(&mut zip, "mimetype", b"image/openraster")?;
    let mut merged = vec![0u8; 3 * (size.0 as usize) * (size.1 as usize)];
    let mut stack = String::new();
    for (k, layer) in layers.iter().enumerate() {
        let photo = load(k)?;
        sized(&photo, size, &layer.name)?;
        let mask = painted.full(k, size);
        let bytes = coded(&srgb, &Counted { photo: &photo, dark, factor: layer.factor, mask: mask.as_deref() });
        merged.par_iter_mut().zip(&bytes).for_each(|(m, b)| *m = (*m).max(*b));
        let src = format!("data/plate{:02}.png", k + 1);
        entry(&mut zip, &src, &png(&bytes, size, ExtendedColorType::Rgb8)?)?;
        // the topmost layer comes first in the file
        let line = format!(
            "  <layer name=\"{}\" src=\"{src}\" x=\"0\" y=\"0\" opacity=\"1.0\" visibility=\"{}\" composite-op=\"svg:lighten\"/>\n",
            escaped(&layer.name),
            if layer.factor.iter().any(|f| *f > 0.0) { "visible" } else { "hidden" }
        );
        stack.insert_str(0, &line);
        step(k + 1);
    }
    let xml = format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<image version=\"0.0.6\" w=\"{}\" h=\"{}\">\n <stack>\n{stack} </stack>\n</image>\n",
        size.0, size.1
    );
    entry(&mut zip, "stack.xml", xml.as_bytes())?;
    let whole = image::RgbImage::from_raw(size.0, size.1, merged).ok_or("the merged picture has no size")?;
    entry(&mut zip, "mergedimage.png", &png(whole.as_raw(), size, ExtendedColorType::Rgb8)?)?;
    let k = f64::from(THUMBNAIL) / f64::from(size.0.max(size.1)).max(1.0);
    let small = [size.0, size.1].map(|v| ((f64::from(v) * k.min(1.0)) as u32).max(1));
    let small = image::imageops::thumbnail(&whole, small[0], small[1]);
    let bytes = png(small.as_raw(), (small.width(), small.height()), ExtendedColorType::Rgb8)?;
    entry(&mut zip, "Thumbnails/thumbnail.png", &bytes)?;
    zip.finish().map_err(|e| e.to_string())?;
    Ok(())
}

/// Writes a soft mask for each plate, the mix in sixteen bits, and the recipe as JSON into one zip. A plate's mask is what was painted
/// for it, by which it counts in the mix, or else where it is the lightest. Masks are given in blocks, painted ones and those of the
/// lightest, and drawn at full size.
///
/// # Errors
/// A sentence.
pub fn masks<W: Write + Seek>(
    out: W,
    size: (u32, u32),
    layers: &[Layer],
    [painted, lightest]: [&Soft; 2],
    dark: Option<&Photo>,
    load: Load<'_>,
    step: &mut dyn FnMut(usize),
) -> Result<(), String> {
    let mut zip = ZipWriter::new(out);
    let n = (size.0 as usize) * (size.1 as usize);
    let mut sum = vec![[0f32; 3]; n];
    if let Some(d) = dark {
        add(&mut sum, &Counted { photo: d, dark: None, factor: [1.0; 3], mask: None });
    }
    let mut layers = layers.to_vec();
    for (k, layer) in layers.iter_mut().enumerate() {
        let photo = load(k)?;
        sized(&photo, size, &layer.name)?;
        let mask = painted.full(k, size);
        let name = format!("mask{:02}.png", k + 1);
        layer.mask = mask.is_some().then(|| name.clone());
        add(&mut sum, &Counted { photo: &photo, dark, factor: layer.factor, mask: mask.as_deref() });
        if let Some(full) = mask.or_else(|| lightest.full(k, size)) {
            entry(&mut zip, &name, &png(&full, size, ExtendedColorType::L8)?)?;
        }
        step(k + 1);
    }
    let wide: Vec<u8> = sum
        .par_iter()
        .flat_map_iter(|c| {
            c.map(|v| (65_535.0 * linear_to_srgb(f64::from(v.clamp(0.0, 1.0)))).round() as u16)
                .map(u16::to_ne_bytes)
                .concat()
        })
        .collect();
    entry(&mut zip, "mix.png", &png(&wide, size, ExtendedColorType::Rgb16)?)?;
    let recipe = MixRecipe {
        format: FORMAT.into(),
        width: size.0,
        height: size.1,
        layers,
        dark: dark.is_some(),
        merge: "sum".into(),
    };
    let json = serde_json::to_string_pretty(&recipe).map_err(|e| e.to_string())?;
    entry(&mut zip, "mix.json", json.as_bytes())?;
    zip.finish().map_err(|e| e.to_string())?;
    Ok(())
}

/// Blocks drawn at full size, straight lines between their middles.
fn enlarged(mask: &[f32], (bw, bh): (usize, usize), (w, h): (u32, u32)) -> Vec<u8> {
    let at = |v: u32, n: usize, full: u32| {
        let p = ((f64::from(v) + 0.5) / f64::from(full) * n as f64 - 0.5).clamp(0.0, n as f64 - 1.0);
        let i = (p as usize).min(n.saturating_sub(2));
        (i, (i + 1).min(n - 1), (p - i as f64) as f32)
    };
    let row = |y: u32| {
        let (j, j2, fy) = at(y, bh, h);
        (0..w).map(move |x| {
            let (i, i2, fx) = at(x, bw, w);
            let m = |i: usize, j: usize| mask[j * bw + i];
            let v = (m(i, j) * (1.0 - fx) + m(i2, j) * fx) * (1.0 - fy) + (m(i, j2) * (1.0 - fx) + m(i2, j2) * fx) * fy;
            (255.0 * v.clamp(0.0, 1.0)).round() as u8
        })
    };
    (0..h).into_par_iter().flat_map_iter(row).collect()
}

/// Reads a recipe back.
///
/// # Errors
/// One sentence that names the field.
pub fn recipe_of(text: &str) -> Result<MixRecipe, String> {
    let r: MixRecipe = serde_json::from_str(text).map_err(|e| format!("mix: {e}"))?;
    if r.format == FORMAT { Ok(r) } else { Err(format!("format: expected \"{FORMAT}\", found \"{}\"", r.format)) }
}

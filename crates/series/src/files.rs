//! A series as files: each picture cropped to one scale and line, the comparison as a table, and what was done as JSON.

use crate::agree::{Member, SeriesReport, as_table};
use crate::crop::{Crop, cut};
use crate::list::ShotList;
use optics::photo::Photo;
use serde::{Deserialize, Serialize};
use std::io::{Seek, Write};
use utoipa::ToSchema;
use zip::write::SimpleFileOptions;
use zip::{CompressionMethod, ZipWriter};

/// Name and version of the recipe.
pub const FORMAT: &str = "slant-series/1";

/// Height of the cropped pictures, at least and at most, pixels.
const HEIGHTS: [f64; 2] = [320.0, 3200.0];
const QUALITY: u8 = 93;

/// What was done to each picture.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SeriesRecipe {
    /// Always `slant-series/1`.
    pub format: String,
    /// Its shot list.
    pub list: String,
    /// Pixels of each cropped picture.
    pub width: u32,
    /// Pixels of each cropped picture.
    pub height: u32,
    /// The pictures.
    pub pictures: Vec<CroppedPicture>,
}

/// A picture of the recipe.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CroppedPicture {
    /// File in the archive; none where no subject was found.
    pub file: Option<String>,
    /// Name of the picture it was made of.
    pub of: String,
    /// View.
    pub view: String,
    /// Crop in the picture it was made of.
    pub crop: Option<Crop>,
    /// In what it stands out.
    pub stands_out_in: Vec<String>,
}

/// Writes the archive (zip), loading one picture at a time; `step` hears how many are done.
///
/// # Errors
/// A sentence.
pub fn archive<W: Write + Seek>(
    out: W,
    list: &ShotList,
    members: &[Member],
    report: &SeriesReport,
    load: &mut dyn FnMut(usize) -> Result<Photo, String>,
    step: &mut dyn FnMut(usize),
) -> Result<(), String> {
    let mut heights: Vec<f64> = report.crops.iter().flatten().map(|c| c.height).collect();
    if heights.is_empty() {
        return Err("No picture of this series shows a subject that could be cropped to.".into());
    }
    let height = optics::solve::median(&mut heights).clamp(HEIGHTS[0], HEIGHTS[1]).round();
    let width = (height * list.aspect[0] / list.aspect[1]).round();
    let (width, height) = (width.min(2.0 * HEIGHTS[1]) as u32, height as u32);
    let mut zip = ZipWriter::new(out);
    let stored = SimpleFileOptions::default().compression_method(CompressionMethod::Stored);
    let mut pictures = Vec::new();
    let mut put = |name: &str, how: SimpleFileOptions, bytes: &[u8]| -> Result<(), String> {
        zip.start_file(name, how).map_err(|e| e.to_string())?;
        zip.write_all(bytes).map_err(|e| e.to_string())
    };
    for (k, (m, crop)) in members.iter().zip(&report.crops).enumerate() {
        let mut file = None;
        if let Some(c) = crop {
            let photo = load(k)?;
            let jpeg = pictures::encode_jpeg(width, height, &cut(&photo, c, width, height), QUALITY)
                .map_err(|e| e.to_string())?;
            let name = format!("{:02}-{}.jpg", k + 1, m.view);
            put(&name, stored, &jpeg)?;
            file = Some(name);
        }
        let out = report.apart.iter().filter(|a| a.frame == m.frame).map(|a| a.quantity.clone());
        pictures.push(CroppedPicture {
            file,
            of: m.name.clone(),
            view: m.view.clone(),
            crop: *crop,
            stands_out_in: out.collect(),
        });
        step(k + 1);
    }
    let recipe = SeriesRecipe { format: FORMAT.into(), list: list.id.clone(), width, height, pictures };
    put("series.json", stored, &serde_json::to_vec_pretty(&recipe).map_err(|e| e.to_string())?)?;
    put("comparison.csv", stored, as_table(members, report).map_err(|e| e.to_string())?.as_bytes())?;
    zip.finish().map(|_| ()).map_err(|e| e.to_string())
}

//! What a file says about how it was taken. Location is never read.

use exif::{Exif, In, Reader, Tag, Value};
use optics::exposure::Settings;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Facts beside the pixels.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Facts {
    /// File format.
    pub format: String,
    /// Upright width in pixels.
    pub width: u32,
    /// Upright height in pixels.
    pub height: u32,
    /// Bits per channel.
    pub bits: u32,
    /// Whether values are proportional to light.
    pub linear: bool,
    /// Name of the embedded colour profile, if one was found and used.
    pub profile: Option<String>,
    /// Camera settings, if all three are written.
    pub settings: Option<Settings>,
    /// Focal length in millimetres.
    pub focal_mm: Option<f64>,
    /// Focal length of the same view on a 36 x 24 mm frame.
    pub focal_35mm: Option<f64>,
    /// Vertical field of view in degrees worked out from it.
    pub vfov_deg: Option<f64>,
    /// When it was taken, as written by the camera.
    pub taken_at: Option<String>,
}

fn number(exif: &Exif, tag: Tag) -> Option<f64> {
    let v = match &exif.get_field(tag, In::PRIMARY)?.value {
        Value::Rational(r) => r.first()?.to_f64(),
        Value::SRational(r) => r.first()?.to_f64(),
        Value::Double(d) => *d.first()?,
        Value::Float(f) => f64::from(*f.first()?),
        Value::Short(s) => f64::from(*s.first()?),
        Value::Long(l) => f64::from(*l.first()?),
        _ => return None,
    };
    (v.is_finite() && v > 0.0).then_some(v)
}

/// Facts from a raw Exif block. Broken Exif gives no facts, not an error.
pub(crate) fn exif_facts(raw: &[u8]) -> Facts {
    let Ok(exif) =
        Reader::new().continue_on_error(true).read_raw(raw.to_vec()).or_else(|e| e.distill_partial_result(|_| ()))
    else {
        return Facts::default();
    };
    let settings = (|| {
        let s = Settings {
            f_number: number(&exif, Tag::FNumber)?,
            shutter_s: number(&exif, Tag::ExposureTime)?,
            iso: number(&exif, Tag::PhotographicSensitivity)?,
        };
        s.check().ok().map(|()| s)
    })();
    let taken_at = exif.get_field(Tag::DateTimeOriginal, In::PRIMARY).map(|f| f.display_value().to_string());
    Facts {
        settings,
        focal_mm: number(&exif, Tag::FocalLength),
        focal_35mm: number(&exif, Tag::FocalLengthIn35mmFilm),
        taken_at: taken_at.map(|t| t.chars().take(40).collect()),
        ..Facts::default()
    }
}

/// Vertical field of view from the 35 mm equivalent focal length, whose frame diagonal is 43.27 mm
/// (CIPA DC-008, FocalLengthIn35mmFilm).
pub(crate) fn vfov(focal_35mm: f64, w: u32, h: u32) -> Option<f64> {
    let (w, h) = (f64::from(w), f64::from(h));
    let height_mm = 43.266_6 * h / w.hypot(h);
    let v = 2.0 * (height_mm / 2.0 / focal_35mm).atan().to_degrees();
    (v > 0.2 && v < 160.0).then_some((v * 100.0).round() / 100.0)
}

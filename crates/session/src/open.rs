//! A picture file to a picture with its meter and facts.

use evidence::marks::{CameraFacts, Marks};
use optics::photo::{Meter, Photo};
use pictures::{Decoded, Facts, Limits, Refusal};

/// A decoded picture with its meter.
#[derive(Debug)]
pub struct Opened {
    /// Upright, sRGB primaries, encoded as the file says (sRGB or linear).
    pub photo: Photo,
    /// Exposure statistics as sRGB or linear.
    pub meter: Meter,
    /// What the file says.
    pub facts: Facts,
}

/// Decodes and meters a picture file within the usual limits.
///
/// # Errors
/// A [`Refusal`] with one sentence for the person who sent it.
pub fn open(bytes: &[u8]) -> Result<Opened, Refusal> {
    pictures::decode(bytes, Limits::default()).map(Opened::from)
}

impl From<Decoded> for Opened {
    fn from(d: Decoded) -> Self {
        let meter = d.photo.meter();
        Opened { photo: d.photo, meter, facts: d.facts }
    }
}

impl Opened {
    /// Fills in what the file says of the camera where the marks do not: exposure and field of view. The marks are
    /// kept so; what they are read through is added by [`crate::told`] at each reading.
    pub fn fill_in(&self, marks: &mut Marks) {
        marks.exposure = marks.exposure.or(self.facts.settings);
        if let Some(v) = self.facts.vfov_deg {
            marks.camera.get_or_insert_with(CameraFacts::default).vfov_deg.get_or_insert(v);
        }
    }
}

//! A take against its reference; marks carried over.

use crate::PictureRead;
use evidence::marks::{CameraFacts, Marks};
use judging::compare::{Alignment, Comparison, Pictured, align, compare};
use optics::photo::Photo;

fn pictured(p: &PictureRead) -> Pictured<'_> {
    Pictured { photo: &p.photo, marks: &p.marks, readings: &p.readings }
}

/// Where a reference lies in a take, or why that cannot be told.
///
/// # Errors
/// One sentence.
pub fn laid_over(reference: &Photo, take: &Photo) -> Result<Alignment, String> {
    align(reference, take)
}

/// A take against its reference; `lies` is asked for where the reference lies in it, if that is needed.
pub fn compared(
    reference: &PictureRead,
    take: &PictureRead,
    lies: &dyn Fn() -> Result<Alignment, String>,
) -> Comparison {
    compare(pictured(reference), pictured(take), lies, &studio::stand_ins)
}

/// Marks of a reference as they lie in a take.
#[derive(Debug, Clone)]
pub struct Carried {
    /// The marks.
    pub marks: Marks,
    /// Laid over by what the pictures show; else by their size alone.
    pub by_picture: bool,
    /// How it went, in a sentence.
    pub says: String,
}

/// Lays the marks of a reference of `from` pixels over a take of `to` pixels. The take keeps its own exposure and
/// encoding, and its own lens if its marks tell one.
pub fn carried(
    theirs: &Marks,
    from: (u32, u32),
    mine: &Marks,
    to: (u32, u32),
    found: &Result<Alignment, String>,
) -> Carried {
    let (by_picture, says, lies) = match found {
        Ok(a) => (true, format!("Laid over by the picture. {}", a.says()), a.clone()),
        Err(e) => (
            false,
            format!("{e} They are laid over by the size of the picture: correct them in Read."),
            Alignment::of_sizes(from, to),
        ),
    };
    let mut marks = lies.carry(theirs);
    // the lens of the reference, longer or shorter as things are larger or smaller, unless the take tells its own
    let lens = mine.camera.as_ref().and_then(|c| c.vfov_deg);
    let of_reference = theirs.camera.as_ref().and_then(|c| c.vfov_deg);
    let seen = of_reference.map(|v| {
        let grown = lies.local([f64::from(from.0) / 2.0, f64::from(from.1) / 2.0]).0;
        let focal = f64::from(from.1) / 2.0 / (v.to_radians() / 2.0).tan() * grown;
        2.0 * (f64::from(to.1) / 2.0 / focal).atan().to_degrees()
    });
    if let Some(v) = lens.or(seen) {
        marks.camera.get_or_insert_with(CameraFacts::default).vfov_deg = Some(v);
    }
    let marks = Marks { exposure: mine.exposure, encoding: mine.encoding.clone(), ..marks };
    Carried { marks, by_picture, says }
}

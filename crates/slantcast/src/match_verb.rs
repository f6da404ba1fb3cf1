//! `slantcast match`: a take against its reference.

use crate::Failure;
use crate::read::{load_marks, load_picture, print};
use session::{PictureRead, carried, compared, laid_over, told};
use std::path::{Path, PathBuf};

#[derive(clap::Args)]
pub(crate) struct Options {
    /// The reference.
    reference: PathBuf,
    /// The take.
    take: PathBuf,
    /// Marks of the reference (slant-marks/1).
    #[arg(long)]
    marks: PathBuf,
    /// Marks of the take; without them the reference's are laid over it by what both pictures show.
    #[arg(long)]
    marks_take: Option<PathBuf>,
    /// Write here instead of standard output.
    #[arg(long)]
    out: Option<PathBuf>,
}

fn load(image: &Path, marks: &Path) -> Result<PictureRead, Failure> {
    let opened = load_picture(image)?;
    let mut marks = load_marks(marks)?;
    opened.fill_in(&mut marks);
    Ok(PictureRead::of(&opened.photo, Some(&opened.meter), told(&marks, &opened.facts, None)))
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    let a = load(&o.reference, &o.marks)?;
    let b = match &o.marks_take {
        Some(marks) => load(&o.take, marks)?,
        None => {
            let opened = load_picture(&o.take)?;
            let lies = laid_over(&a.photo, &opened.photo);
            if let Err(e) = &lies {
                return Err(Failure::Input(format!("{}: {e} Give its marks with --marks-take.", o.take.display())));
            }
            let mut mine = evidence::marks::Marks::default();
            opened.fill_in(&mut mine);
            let size = |p: &optics::photo::Photo| (p.width(), p.height());
            let marks = carried(&load_marks(&o.marks)?, size(&a.photo), &mine, size(&opened.photo), &lies).marks;
            PictureRead::of(&opened.photo, Some(&opened.meter), told(&marks, &opened.facts, None))
        }
    };
    print(&compared(&a, &b, &|| laid_over(&a.photo, &b.photo)), o.out.as_deref())
}

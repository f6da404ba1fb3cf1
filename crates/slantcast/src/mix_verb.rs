//! `slantcast mix`: what each plate is worth in a target.

use crate::Failure;
use crate::read::{load_picture, print};
use optics::photo::Photo;
use plates::light::{Light, MOST_PLATES, WORKING_SIDE, cell_of, same_size};
use plates::mix::{Mix, MixWarning, solve};
use plates::register::{Lies, in_sum};
use session::Opened;
use std::path::PathBuf;

#[derive(clap::Args)]
pub(crate) struct Options {
    /// The picture to be met.
    #[arg(long)]
    target: PathBuf,
    /// A picture with one light; once for each.
    #[arg(long = "plate", required = true)]
    plates: Vec<PathBuf>,
    /// The picture with all lamps off.
    #[arg(long)]
    dark: Option<PathBuf>,
    /// Write here instead of standard output.
    #[arg(long)]
    out: Option<PathBuf>,
}

pub(crate) fn run(o: &Options) -> Result<(), Failure> {
    if o.plates.len() > MOST_PLATES {
        return Err(Failure::Input(format!("at most {MOST_PLATES} plates; found {}", o.plates.len())));
    }
    let target = load_picture(&o.target)?;
    let size = |p: &Photo| (p.width(), p.height());
    let cell = cell_of(target.photo.width(), target.photo.height(), WORKING_SIDE);
    let mut warnings: Vec<MixWarning> = Vec::new();
    let loaded = |path: &PathBuf| {
        let opened = load_picture(path)?;
        let sizes =
            [(o.target.display().to_string(), size(&target.photo)), (path.display().to_string(), size(&opened.photo))];
        same_size(&sizes).map_err(Failure::Input)?;
        Ok::<Opened, Failure>(opened)
    };
    // one at a time: forty pictures of a studio camera do not fit into memory together
    let mut lights = Vec::new();
    for (k, path) in o.plates.iter().enumerate() {
        let opened = loaded(path)?;
        if let (Some(a), Some(b)) = (target.facts.settings, opened.facts.settings) {
            // the lower the exposure value, the more light is let in
            let stops = a.ev100() - b.ev100();
            if stops.abs() > 0.1 {
                warnings.push(MixWarning {
                    code: "exposure".into(),
                    text: format!(
                        "Plate {} was exposed {stops:+.1} stops against the target: its lamp's power in the target is its weight and \
                         that.",
                        k + 1
                    ),
                });
            }
        }
        lights.push(Light::of(&opened.photo, cell));
    }
    let dark = o.dark.as_ref().map(|path| Ok::<_, Failure>(Light::of(&loaded(path)?.photo, cell))).transpose()?;
    let whole = Light::of(&target.photo, cell);
    let lie = in_sum(&whole, &lights.iter().collect::<Vec<_>>(), dark.as_ref());
    for (k, l) in lie.iter().enumerate().filter_map(|(k, l)| l.filter(Lies::moved).map(|l| (k, l))) {
        warnings.push(MixWarning {
            code: "moved".into(),
            text: format!(
                "Plate {} lies {:+.2} px right and {:+.2} px down of the target (± {:.2} px); that is undone before it is solved for.",
                k + 1,
                l.right_px,
                l.down_px,
                l.sd_px
            ),
        });
        lights[k] = l.back(&loaded(&o.plates[k])?.photo, cell);
    }
    let mut mix: Mix = solve(&whole, &lights.iter().collect::<Vec<_>>(), dark.as_ref()).map_err(Failure::Input)?;
    mix.warnings.splice(0..0, warnings);
    print(&mix, o.out.as_deref())
}

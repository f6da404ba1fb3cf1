//! Differences of colour: between lights seen by one mark, and between the sides of one material.

use super::{Reader, round};
use crate::marks::{Ball, Finish, MarkKind, PatchRole};
use crate::readings::{ColourDifference, Light, PatchReading};
use direction::fusion::Fused;
use optics::colour::ColourShift;

/// Relative error of a channel on a matte ball, by its fit.
const BALL_ERROR: f64 = 0.04;
/// The same in a catchlight or highlight: a few pixels over a coloured iris or room.
const SPOT_ERROR: f64 = 0.12;

impl Reader<'_> {
    pub(super) fn colours(&self, fused: &[Fused], lights: &[Light]) -> Vec<ColourDifference> {
        let mut out = Vec::new();
        if let Some(key) = fused.first() {
            for (f, l) in fused.iter().zip(lights).skip(1) {
                let shared = f.colours.iter().filter_map(|(mark, rgb)| {
                    let (_, of_key) = key.colours.iter().find(|k| &k.0 == mark)?;
                    let matte = |k: &MarkKind| matches!(k, MarkKind::Ball(Ball { finish: Finish::Matte, .. }));
                    let shaded = self.marks.marks.iter().any(|m| &m.id == mark && matte(&m.kind));
                    let error = if shaded { BALL_ERROR } else { SPOT_ERROR };
                    Some((mark.clone(), ColourShift::between(*rgb, *of_key, error)?))
                });
                let best = shared.min_by(|a, b| a.1.mired_sd.total_cmp(&b.1.mired_sd));
                out.extend(best.map(|(mark, s)| difference(l.role.word(), "key", s, vec![mark])));
            }
        }
        out.extend(self.sides());
        out.extend(self.balance());
        out
    }

    /// A grey or white card is without colour: what it has is the white balance's.
    fn balance(&self) -> Option<ColourDifference> {
        let card = |role| self.patches.iter().find(|p| p.1 == role);
        let (id, role, p) = card(PatchRole::Grey18).or_else(|| card(PatchRole::White))?;
        let s = ColourShift::between(p.rgb, [p.luminance; 3], 0.01f64.hypot(error_of(p)))?;
        let name = if *role == PatchRole::Grey18 { "grey card" } else { "white thing" };
        let mut out = difference(name, "neutral", s, vec![id.clone()]);
        let amount =
            format!("{:.0} ± {:.0} mired {}", s.mired.abs(), s.mired_sd, if s.mired > 0.0 { "warm" } else { "cool" });
        out.says = if s.is_coloured() {
            let tint = if s.duv > 0.0 { "green" } else { "pink" };
            format!(
                "The {name} is too {tint} for any warmer or cooler balance (Duv {:+.3}): correct the tint, or look for a coloured wall or a lamp of another kind.",
                s.duv
            )
        } else if out.filter_mired.is_some() {
            format!("The {name} is {amount}: the white balance is off by that; shift it by {:+.0} mired.", -s.mired)
        } else {
            format!("The {name} is neutral as far as can be told ({amount}): the white balance is right for its light.")
        };
        Some(out)
    }

    fn sides(&self) -> Option<ColourDifference> {
        let of = |role: PatchRole| self.patches.iter().find(|p| p.1 == role);
        let (lit, shadow) = (of(PatchRole::Lit)?, of(PatchRole::Shadow)?);
        let error = 0.015f64.hypot(error_of(&lit.2)).hypot(error_of(&shadow.2));
        let s = ColourShift::between(shadow.2.rgb, lit.2.rgb, error)?;
        Some(difference("shadow side", "lit side", s, vec![shadow.0.clone(), lit.0.clone()]))
    }
}

/// Relative error of a patch's mean.
fn error_of(p: &PatchReading) -> f64 {
    p.spread_stops * std::f64::consts::LN_2 / (p.pixels as f64).sqrt().min(6.0)
}

fn difference(of: &str, against: &str, s: ColourShift, evidence: Vec<String>) -> ColourDifference {
    let told = s.mired.abs() > 2.0 * s.mired_sd;
    let warmer = if s.mired > 0.0 { "warmer" } else { "cooler" };
    let amount = format!("{:.0} ± {:.0} mired", s.mired.abs(), s.mired_sd);
    let says = if s.is_coloured() {
        let tint = if s.duv > 0.0 { "greener" } else { "pinker" };
        format!(
            "The {of} is {tint} than any warmer or cooler lamp beside the {against} (Duv {:+.3}): a coloured wall or cloth nearby, mixed lamps or a gel explain it better than a change of temperature.",
            s.duv
        )
    } else if told {
        format!(
            "The {of} is {amount} {warmer} than the {against}; a filter of {:+.0} mired on it makes them alike.",
            -s.mired
        )
    } else {
        format!("The {of} has the colour of the {against} as far as can be told ({amount} {warmer}).")
    };
    ColourDifference {
        of: of.into(),
        against: against.into(),
        mired: round(s.mired, 1),
        mired_sd: round(s.mired_sd, 1),
        duv: round(s.duv, 4),
        filter_mired: (told && !s.is_coloured()).then(|| round(-s.mired, 0)),
        says,
        evidence,
    }
}

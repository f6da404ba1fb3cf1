//! Where a board must stand for the contrast one wants: the lighting ratio as boards and walls leave it, solved for the distance.

use lightset::frame::in_frame;
use lightset::kit::KitBoard;
use lightset::set::{Board, BoardFinish, LightSet};
use optics::geometry::Vec3;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A board and where it gives the ratio that is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BoardWay {
    /// What it is called.
    pub name: String,
    /// One of the person's own.
    pub mine: bool,
    /// The board where it would stand.
    pub board: Board,
    /// Metres from the reference point.
    pub distance_m: f64,
    /// Key to fill there, each metered facing it.
    pub key_to_fill: f64,
    /// It gives what is wanted; if not, it stands where it comes nearest.
    pub gives_it: bool,
    /// It would stand in the picture.
    pub in_frame: bool,
}

/// Distances a board may stand at, metres.
const NEAREST: f64 = 0.25;
const FARTHEST: f64 = 4.0;
/// Halvings of a distance.
const STEPS: usize = 11;
/// Boards of a kit that are tried.
const MOST_TRIED: usize = 12;
/// Lamps times flat things of a set that is solved.
const MOST_THINGS: usize = 150;
/// Stops by which a ratio may miss.
const NEAR_STOPS: f64 = 0.05;

fn at(board: &Board, distance: f64) -> Board {
    let toward = (Vec3::from(board.position_m) - Vec3::from(board.aim_m)).try_normalize(1e-9).unwrap_or_else(Vec3::x);
    Board { position_m: (Vec3::from(board.aim_m) + toward * distance).into(), ..*board }
}

/// Where board `index` of a set must stand, on the line on which it stands, for a key-to-fill ratio of `wanted`: as it is, in the
/// other finish, and the boards of a kit in its place. The nearest to what is there first.
///
/// # Errors
/// A sentence if there is no such board, no key, or a power setting that cannot be understood.
pub fn boards_for(set: &LightSet, index: usize, wanted: f64, kit: &[KitBoard]) -> Result<Vec<BoardWay>, String> {
    let here = *set.boards.get(index).ok_or_else(|| format!("board: there is no board {}", index + 1))?;
    if !(1.05..=64.0).contains(&wanted) {
        return Err(format!("ratio: expected 1.05 to 64 to one, found {wanted}"));
    }
    if studio::key_to_fill(set)?.is_none() {
        return Err("The set has no key, or no light fills it: a ratio is of a key. Name one light key.".into());
    }
    // some two hundred sets are metered: what each costs is bounded by its lamps and flat things
    let things = set.lights.len() * (set.boards.len() + set.walls.len() + set.flags.len());
    if things > MOST_THINGS {
        return Err("There are too many lights, boards, walls and flags to solve for one board: remove what does not matter to it.".into());
    }
    let mut tried = vec![("as it is".to_owned(), false, here)];
    for (finish, name) in [(BoardFinish::White, "the same in white"), (BoardFinish::Silver, "the same in silver")] {
        if finish != here.finish {
            tried.push((name.to_owned(), false, Board { finish, ..here }));
        }
    }
    for b in kit.iter().filter(|b| b.finish != BoardFinish::Black).take(MOST_TRIED) {
        let [width_m, height_m] = b.size_m;
        tried.push((b.name.clone(), true, Board { width_m, height_m, finish: b.finish, ..here }));
    }
    let mut ways: Vec<BoardWay> = tried
        .into_par_iter()
        .filter_map(|(name, mine, board)| solved(set, index, wanted, name, mine, &board))
        .collect();
    ways.sort_by_key(|w| (!w.gives_it, w.mine));
    Ok(ways)
}

/// Where one board of a set must stand, on the line on which it stands, for a key-to-fill ratio; none without a key.
///
/// # Errors
/// As [`boards_for`], of a power setting.
pub(crate) fn placed(set: &LightSet, index: usize, wanted: f64) -> Result<Option<BoardWay>, String> {
    let Some(board) = set.boards.get(index).copied() else { return Ok(None) };
    studio::key_to_fill(set)?;
    Ok(solved(set, index, wanted, "as it is".into(), false, &board))
}

fn solved(set: &LightSet, index: usize, wanted: f64, name: String, mine: bool, board: &Board) -> Option<BoardWay> {
    let stops = |distance: f64| {
        let mut set = set.clone();
        set.boards[index] = at(board, distance);
        // people shade nothing that matters here, and cost time
        set.subjects.clear();
        let ratio = studio::key_to_fill(&set).ok()??;
        Some((ratio / wanted).log2())
    };
    // farther away it fills less: the ratio rises with the distance
    let (mut near, mut far) = (NEAREST, FARTHEST);
    let (at_near, at_far) = (stops(near)?, stops(far)?);
    let (distance, off) = if at_near > 0.0 {
        (near, at_near)
    } else if at_far < 0.0 {
        (far, at_far)
    } else {
        for _ in 0..STEPS {
            let mid = (near * far).sqrt();
            if stops(mid)? > 0.0 { far = mid } else { near = mid }
        }
        let mid = (near * far).sqrt();
        (mid, stops(mid)?)
    };
    let board = at(board, distance);
    Some(BoardWay {
        name,
        mine,
        board,
        distance_m: distance,
        key_to_fill: wanted * off.exp2(),
        gives_it: off.abs() <= NEAR_STOPS,
        in_frame: in_frame(set, &board.position_m, board.width_m.min(board.height_m) / 2.0),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use lightset::kit::catalogue;

    fn set(board: &str) -> LightSet {
        LightSet::parse(&format!(
            r#"{{"format":"slant-set/1","camera":{{"position_m":[0,0,2],"vfov_deg":16,"exposure":{{"f_number":8,"shutter_s":0.01,"iso":100}}}},
            "lights":[{{"name":"key","azimuth_deg":-50,"elevation_deg":20,"distance_m":1.5,"source":{{"kind":"disc","diameter_m":0.6}},"level":{{"stops":0}}}}],
            "boards":[{board}],"ambient":{{"level":{{"stops":-6}}}}}}"#
        ))
        .expect("a set")
        .set
    }
    const WHITE: &str = r#"{"position_m":[0.9,0,0.2],"aim_m":[0,0,0],"width_m":1,"height_m":1.5,"finish":"white"}"#;

    /// What is solved gives what was wanted when it is metered; a nearer board fills more.
    #[test]
    fn a_board_is_put_where_it_gives_the_ratio() {
        let s = set(WHITE);
        let mut before = 0.0;
        for wanted in [3.0, 4.0, 6.0] {
            let ways = boards_for(&s, 0, wanted, &[]).expect("ways");
            let own = ways.iter().find(|w| w.name == "as it is").expect("its own way");
            assert!(own.gives_it, "{own:?}");
            let mut there = s.clone();
            there.boards[0] = own.board;
            let got = studio::key_to_fill(&there).expect("a meter").expect("a ratio");
            assert!((got / wanted).log2().abs() < 0.08, "{got} for {wanted}");
            assert!(own.distance_m > before, "{} m for {wanted}", own.distance_m);
            before = own.distance_m;
        }
    }

    /// A black board never fills to 2 : 1: it says so, and that a white one does.
    #[test]
    fn what_cannot_give_it_says_so() {
        let s = set(&WHITE.replace("white", "black"));
        let ways = boards_for(&s, 0, 3.0, &catalogue().boards).expect("ways");
        let own = ways.iter().find(|w| w.name == "as it is").expect("its own way");
        assert!(!own.gives_it && own.key_to_fill > 6.0, "{own:?}");
        assert!(ways[0].gives_it, "{ways:?}");
        assert!(ways.iter().any(|w| w.mine), "boards of the kit are tried");
        assert!(boards_for(&s, 3, 3.0, &[]).unwrap_err().contains("no board 4"));
        assert!(boards_for(&s, 0, f64::NAN, &[]).unwrap_err().contains("ratio"));
        let mut dark = s.clone();
        dark.lights.clear();
        assert!(boards_for(&dark, 0, 3.0, &[]).unwrap_err().contains("no key"));
    }
}

//! The chain of takes of a case: what each was changed by, what was foretold and measured, and what to do next.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::frames::{Owned, owned};
use crate::records::takes::{LinkView, Row, link_of, number_of, path_to, put_link, rows, set_tip, tip_of};
use crate::records::versioned::{BUILDS, newest};
use crate::routes::compare::{carry, compared};
use crate::routes::kit::kit_of;
use crate::routes::sets::{SetView, add_set, newest_set, newest_view};
use crate::work::Pace;
use adviser::{SetMove, changes, suppose};
use axum::Json;
use axum::extract::{Path, Query, State};
use axum::http::{HeaderValue, header};
use axum::response::{IntoResponse, Response};
use judging::takes::{
    Belief, Change, Foretelling, Kept, Left, TakeLink, foretellings, learned, likeness, seen_of, to_csv,
};
use lightset::notation::SlantLine;
use lightset::set::LightSet;
use optics::words::Lengths;
use planning::build::BuildLog;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(chain))
        .routes(routes!(table))
        .routes(routes!(edit_link))
        .routes(routes!(next))
        .routes(routes!(make))
        .routes(routes!(go_on))
        .routes(routes!(take_up))
}

/// A take in the chain.
#[derive(Serialize, ToSchema)]
pub struct TakeView {
    /// Its frame.
    pub frame: Uuid,
    /// From 1, in the order they came.
    pub number: usize,
    /// Number of the take it follows.
    pub follows: Option<usize>,
    /// Name of the file.
    pub file_name: String,
    /// Version of the link for the next edit; 0 before the first.
    pub version: i64,
    /// What was told of it, without its set.
    pub link: TakeLink,
    /// What was changed, in phrases.
    pub changed: Vec<String>,
    /// More than one change was made at once.
    pub several: Option<String>,
    /// Light of the take as a slant line, once it was read.
    pub slant: String,
    /// Readings that surely differ from the reference, once it was compared.
    pub differs: Option<usize>,
    /// What was foretold beside what was measured.
    pub foretold: Vec<Foretelling>,
    /// How like the light that was asked for it is, 0 to 1.
    pub like: Option<f64>,
}

/// What was learnt of a lamp.
#[derive(Serialize, ToSchema)]
pub struct LearntLamp {
    /// Name.
    pub name: String,
    /// In a sentence.
    pub says: String,
    /// Metres from the subject.
    pub distance_m: f64,
    /// One standard deviation as a share.
    pub distance_sd: f64,
    /// Stops it gives per stop on its dial.
    pub dial: f64,
    /// One standard deviation.
    pub dial_sd: f64,
}

/// The chain of a case.
#[derive(Serialize, ToSchema)]
pub struct ChainView {
    /// The take that the next one follows.
    pub tip: Option<Uuid>,
    /// Takes, oldest first.
    pub takes: Vec<TakeView>,
    /// What the chain to the tip tells of the lamps.
    pub learnt: Vec<LearntLamp>,
}

/// What the takes up to one tell of the lamps, with its set as it is then believed to stand.
fn learn(app: &App, path: &[&Row]) -> Option<(Vec<Belief>, LightSet)> {
    let mut beliefs: Vec<Belief> = Vec::new();
    let mut last = None;
    for r in path {
        let Some(set) = &r.planned else { continue };
        let Some(meter) = app.meter(set) else { continue };
        if beliefs.is_empty() {
            beliefs = Belief::of(set, &meter);
        } else {
            for b in &mut beliefs {
                r.link.changes.iter().for_each(|c| b.change(c));
            }
            // lamps that came since
            for new in Belief::of(set, &meter) {
                if !beliefs.iter().any(|b| b.name == new.name) {
                    beliefs.push(new);
                }
            }
        }
        if let Some(c) = &r.comparison {
            let seen = seen_of(set, &meter, c);
            for (l, s) in set.lights.iter().zip(seen) {
                if let (Some(s), Some(b)) = (s, beliefs.iter_mut().find(|b| b.name == l.name)) {
                    b.see(&s);
                }
            }
        }
        last = Some(set);
    }
    last.map(|set| {
        let now = learned(set, &beliefs);
        (beliefs, now)
    })
}

fn learnt_words(b: &Belief) -> LearntLamp {
    let ((d, sd), (dial, dial_sd)) = (b.distance_m(), b.dial());
    let percent = 100.0 * (dial - 1.0);
    let mut says = format!("{}: {d:.2} m away (± {:.0} %)", b.name, 100.0 * sd);
    if percent.abs() > 100.0 * dial_sd {
        says = format!("{says}; a stop on its dial gives {dial:.2} stops (± {dial_sd:.2})");
    }
    LearntLamp { name: b.name.clone(), says: format!("{says}."), distance_m: d, distance_sd: sd, dial, dial_sd }
}

/// What to look for among takes.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Asked {
    /// Light as a slant line: each take says how like it is.
    slant: Option<String>,
    /// Feet and inches instead of metres.
    #[serde(default)]
    feet: bool,
}

/// The takes of a case as a chain.
#[utoipa::path(get, path = "/cases/{id}/takes", tag = "takes", params(("id" = Uuid, Path), Asked),
    responses((status = 200, body = ChainView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn chain(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Query(q): Query<Asked>,
) -> Answer<Json<ChainView>> {
    must_own(&app, me.id, case).await?;
    let asked: Option<SlantLine> = match q.slant.as_deref().filter(|s| !s.trim().is_empty()) {
        Some(s) => Some(s.parse().map_err(Problem::bad)?),
        None => None,
    };
    let rows = rows(&app, case).await?;
    let tip = tip_of(&app, case).await?.or(rows.iter().rfind(|r| r.version > 0).map(|r| r.frame));
    let learnt = tip
        .and_then(|t| learn(&app, &path_to(&rows, t)))
        .map(|(b, _)| b.iter().map(learnt_words).collect())
        .unwrap_or_default();
    let takes = rows
        .iter()
        .enumerate()
        .map(|(i, r)| TakeView {
            frame: r.frame,
            number: i + 1,
            follows: number_of(&rows, r.link.parent.as_deref()),
            file_name: r.file_name.clone(),
            version: r.version,
            changed: r.link.changes.iter().map(|c| c.says(q.feet)).collect(),
            several: r.link.several(q.feet),
            slant: r.slant.clone(),
            differs: r.comparison.as_ref().map(|c| c.ledger.iter().filter(|l| l.sure).count()),
            foretold: r.comparison.as_ref().map(|c| foretellings(&r.link.expected, c)).unwrap_or_default(),
            like: asked.as_ref().and_then(|a| Some(likeness(a, &r.slant.parse().ok()?))),
            link: TakeLink { set: None, ..r.link.clone() },
        })
        .collect();
    Ok(Json(ChainView { tip, takes, learnt }))
}

/// The chain as a table (CSV): a row for each reading of each take.
#[utoipa::path(get, path = "/cases/{id}/takes/table", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = Problem)))]
async fn table(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Response> {
    must_own(&app, me.id, case).await?;
    let rows = rows(&app, case).await?;
    let csv = to_csv(rows.iter().enumerate().map(|(i, r)| judging::takes::TableRow {
        number: i + 1,
        follows: number_of(&rows, r.link.parent.as_deref()),
        file: &r.file_name,
        slant: &r.slant,
        link: &r.link,
        comparison: r.comparison.as_ref(),
    }))
    .map_err(Problem::internal)?;
    let headers = [
        (header::CONTENT_TYPE, HeaderValue::from_static("text/csv; charset=utf-8")),
        (header::CONTENT_DISPOSITION, HeaderValue::from_static("attachment; filename=\"takes.csv\"")),
    ];
    Ok((headers, csv).into_response())
}

/// What a person tells of a take, made on a version. What is absent stays.
#[derive(Deserialize, ToSchema)]
pub struct LinkEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// What was changed, if it was not as the sets say.
    #[serde(default)]
    pub changes: Option<Vec<Change>>,
    /// What became of it.
    #[serde(default)]
    pub kept: Option<Kept>,
    /// Note.
    #[serde(default)]
    pub note: Option<String>,
    /// Tags.
    #[serde(default)]
    pub tags: Option<Vec<String>>,
    /// Differences that stay, with reasons.
    #[serde(default)]
    pub left: Option<Vec<Left>>,
}

/// Say what was changed, note, tag, keep or take back.
#[utoipa::path(put, path = "/frames/{id}/link", tag = "takes", params(("id" = Uuid, Path)), request_body = LinkEdit,
    responses((status = 200, body = LinkView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn edit_link(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(edit): Body<LinkEdit>,
) -> Answer<Json<LinkView>> {
    let f = owned(&app, me.id, id).await?;
    let (_, mut link) = link_of(&app, id).await?;
    let undone = edit.kept == Some(Kept::Undone) && link.kept != Kept::Undone;
    if let Some(c) = edit.changes {
        link.changes = c;
    }
    link.kept = edit.kept.unwrap_or(link.kept);
    link.note = edit.note.unwrap_or(link.note);
    link.tags = edit.tags.unwrap_or(link.tags);
    link.left = edit.left.unwrap_or(link.left);
    put_link(&app, me.id, id, edit.version, &link).await?;
    if undone {
        back_to_parent(&app, me.id, &f, &link).await?;
    }
    link.set = None;
    Ok(Json(LinkView { version: edit.version + 1, link }))
}

/// A change was taken back: the set is as it was for the take before, and the next take follows that one.
async fn back_to_parent(app: &App, me: Uuid, f: &Owned, link: &TakeLink) -> Answer<()> {
    let Some(parent) = link.parent.as_deref().and_then(|p| Uuid::parse_str(p).ok()) else { return Ok(()) };
    let (_, before) = link_of(app, parent).await?;
    if let Some(set) = before.set {
        add_set(app, me, f.case_id, set).await?;
    }
    set_tip(app, f.case_id, Some(parent)).await
}

/// Moves to make after a take.
#[derive(Serialize, ToSchema)]
pub struct NextView {
    /// The moves, the best first.
    pub moves: Vec<SetMove>,
    /// The set as it is believed to stand by what the takes so far show; absent if the take has no set.
    pub believed: Option<LightSet>,
    /// What to say where no move is told.
    pub if_none: String,
}

async fn moves(app: &App, me: Uuid, f: &Owned, id: Uuid, unit: Lengths) -> Answer<NextView> {
    let c = compared(app, f, id).await?.comparison;
    let if_none = c.says_no_move();
    let rows = rows(app, f.case_id).await?;
    let Some((_, believed)) = learn(app, &path_to(&rows, id)) else {
        return Ok(NextView { moves: Vec::new(), believed: None, if_none });
    };
    let kit = kit_of(app, me).await?.kit;
    let set = believed.clone();
    let log: BuildLog = newest(app, BUILDS, f.case_id).await?.map(|(_, l)| l).unwrap_or_default();
    let moves = app.work.run(Pace::Heavy, move || session::next(&set, &c, &kit, &log, unit)).await?;
    Ok(NextView { moves, believed: Some(believed), if_none })
}

/// Unit of lengths.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Unit {
    /// Feet and inches instead of metres.
    #[serde(default)]
    feet: bool,
}

/// What to change next at the set of a take: by what each lamp, board and dial does to all that differs.
#[utoipa::path(get, path = "/frames/{id}/next", tag = "takes", params(("id" = Uuid, Path), Unit),
    responses((status = 200, body = NextView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn next(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Query(q): Query<Unit>,
) -> Answer<Json<NextView>> {
    let f = owned(&app, me.id, id).await?;
    let unit = if q.feet { Lengths::Feet } else { Lengths::Metres };
    moves(&app, me.id, &f, id, unit).await.map(Json)
}

/// Which move.
#[derive(Deserialize, ToSchema)]
pub struct Making {
    /// Id of the move.
    pub id: String,
}

/// Make a move: the set becomes the one after it, and the next take follows this one.
#[utoipa::path(post, path = "/frames/{id}/make", tag = "takes", params(("id" = Uuid, Path)), request_body = Making,
    responses((status = 200, body = SetView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn make(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(q): Body<Making>,
) -> Answer<Json<SetView>> {
    let f = owned(&app, me.id, id).await?;
    let found = moves(&app, me.id, &f, id, Lengths::Metres).await?;
    let m = found.moves.into_iter().find(|m| m.id == q.id).ok_or_else(|| {
        Problem::conflict(
            "This move is not among them any more: the take or the set was changed since. Look at the moves once more.",
        )
    })?;
    // the set as it is now believed is what the move starts from
    let (version, mut link) = link_of(&app, id).await?;
    if link.set != found.believed {
        link.set = found.believed;
        put_link(&app, me.id, id, version, &link).await?;
    }
    set_tip(&app, f.case_id, Some(id)).await?;
    add_set(&app, me.id, f.case_id, m.set).await.map(Json)
}

/// Go on from a take: the set is as it was for it, and the next take follows it.
#[utoipa::path(post, path = "/frames/{id}/go-on", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = SetView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn go_on(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<SetView>> {
    let f = owned(&app, me.id, id).await?;
    let (_, link) = link_of(&app, id).await?;
    set_tip(&app, f.case_id, Some(id)).await?;
    match link.set {
        Some(set) => add_set(&app, me.id, f.case_id, set).await.map(Json),
        None => newest_view(&app, f.case_id).await.map(Json),
    }
}

/// A take that was taken up into the chain.
#[derive(Serialize, ToSchema)]
pub struct TakenUp {
    /// How the reference's marks were laid over it.
    pub says: String,
    /// They were laid over by what the pictures show.
    pub by_picture: bool,
}

/// Takes a picture up into the chain: the reference's marks are laid over it, it is compared, and what was changed
/// and foretold since the take before is written down.
pub(crate) async fn join(app: &App, author: Uuid, f: &Owned, id: Uuid) -> Answer<TakenUp> {
    let carried = carry(app, author, f, id).await?;
    let (version, mut link) = link_of(app, id).await?;
    if version == 0 {
        let tip = tip_of(app, f.case_id).await?.filter(|t| *t != id);
        link.parent = tip.map(|t| t.to_string());
        link.settings = carried.marked.marks.exposure;
        let set = newest_set(app, f.case_id).await?.1;
        if let Some(parent) = tip {
            let (_, before) = link_of(app, parent).await?;
            if let Some(old) = before.set {
                let p = owned(app, author, parent).await?;
                if let Ok(c) = compared(app, &p, parent).await {
                    link.expected = suppose(&old, &set, &c.comparison);
                }
                link.changes = changes(&old, &set);
            }
        }
        link.settings = link.settings.or(Some(set.camera.exposure));
        link.set = Some(set);
        put_link(app, author, id, 0, &link).await?;
        set_tip(app, f.case_id, Some(id)).await?;
    }
    compared(app, f, id).await?;
    Ok(TakenUp { says: carried.says, by_picture: carried.by_picture })
}

/// Take a picture up into the chain of its case.
#[utoipa::path(post, path = "/frames/{id}/take-up", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = TakenUp), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn take_up(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<TakenUp>> {
    let f = owned(&app, me.id, id).await?;
    join(&app, me.id, &f, id).await.map(Json)
}

/// What was done to the set from the first take to the tip: the set that was first put up, then for each take the set
/// before its change and after it. A simulated camera follows them.
pub(crate) async fn done_to_tip(app: &App, case: Uuid) -> Answer<Option<(LightSet, Vec<(LightSet, LightSet)>)>> {
    let rows = rows(app, case).await?;
    let Some(tip) = tip_of(app, case).await?.or(rows.last().map(|r| r.frame)) else { return Ok(None) };
    let mut first = None;
    let mut steps = Vec::new();
    let mut before: Option<LightSet> = None;
    for r in path_to(&rows, tip) {
        let (Some(planned), Some(now)) = (&r.planned, &r.link.set) else { continue };
        match before {
            None => first = Some(planned.clone()),
            Some(b) => steps.push((b, planned.clone())),
        }
        before = Some(now.clone());
    }
    // what was changed since the tip
    if let Some(b) = before {
        steps.push((b, newest_set(app, case).await?.1));
    }
    Ok(first.map(|f| (f, steps)))
}

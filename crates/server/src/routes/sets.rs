//! The lighting set of a case: saved by version, drawn by the stand-in studio while it is moved about.

use crate::App;
use crate::accounts::Me;
use crate::prepared::Prepared;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::frames::Owned;
use crate::records::marks::{MarkedFrame, told};
use crate::routes::kit::kit_of;
use crate::routes::plans::{Reference, latest, reference};
use crate::work::Pace;
use adviser::BoardWay;
use axum::Json;
use axum::extract::{Path, Query, State};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use base64::Engine;
use bytes::Bytes;
use evidence::marks::Marks;
use lightset::cutter::{Band, Cutter, cutter_beside};
use lightset::gltf::gltf;
use lightset::paper::svg;
use lightset::set::LightSet;
use optics::words::Lengths;
use planning::rebuild::{Choices, plan};
use planning::stage::stage;
use serde::{Deserialize, Serialize};
use session::Relightable;
use sqlx::types::Json as Jsonb;
use std::convert::Infallible;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::Instant;
use studio::{PlateCache, Plates, SetMeter};
use tokio_stream::StreamExt;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(current_set, save_set))
        .routes(routes!(set_of_reading))
        .routes(routes!(draw_set))
        .routes(routes!(set_file))
        .routes(routes!(board_ways))
        .routes(routes!(place_cutter))
}

/// A set with what a meter in it shows.
#[derive(Serialize, ToSchema)]
pub struct SetView {
    /// Version for the next edit; 0 while it is still the one that follows from the reading.
    pub version: i64,
    /// The set (slant-set/1).
    pub set: LightSet,
    /// What a meter at the subject shows.
    pub meter: SetMeter,
}

/// A set made on a version.
#[derive(Deserialize, ToSchema)]
pub struct SetEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// The set (slant-set/1).
    #[schema(value_type = LightSet)]
    pub set: serde_json::Value,
}

/// One line of the stream of [`draw_set`].
#[derive(Serialize, ToSchema)]
pub struct Drawn {
    /// The meter, in the first line.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub meter: Option<SetMeter>,
    /// The picture as a JPEG in base64.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub jpeg: Option<String>,
    /// The reference's person under the lights of the set, as a JPEG in base64; hatched where it cannot be known. Absent where no
    /// face was read, or subject or lens were moved.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub relit: Option<String>,
    /// Samples per pixel in it; 0 for a coarse first look.
    pub samples: u32,
    /// Samples per pixel at the end.
    pub of: u32,
    /// Milliseconds since the request.
    pub after_ms: f64,
    /// This is the last line.
    pub done: bool,
}

/// Previews are traced at most this large and this finely; `slantcast studio` goes further.
const MOST_PIXELS: u32 = 1_300_000;
const MOST_SAMPLES: u32 = 16;

/// A set as it comes from outside, within the bounds of a preview.
pub(crate) fn parse_set(v: serde_json::Value) -> Answer<LightSet> {
    let set = LightSet::from_value(v).map_err(Problem::bad)?.set;
    if set.picture.width * set.picture.height > MOST_PIXELS || set.picture.samples > MOST_SAMPLES {
        return Err(Problem::bad(format!(
            "picture: expected at most {MOST_PIXELS} pixels and {MOST_SAMPLES} samples for a preview; the command slantcast studio makes larger ones"
        )));
    }
    Ok(set)
}

/// The set that follows from a reading and the choices made.
pub(crate) async fn staged(app: &App, case: Uuid, from: &Reference) -> Answer<LightSet> {
    let (_, choices) = latest(app, case).await?;
    let (now, facts) = (&from.marked, &from.facts);
    Ok(stage(&from.plan(&choices), &now.marks, &now.readings, facts.width, facts.height))
}

/// The set that the reading of a frame makes likely: of the reference with the choices made in its case.
pub(crate) async fn staged_of(app: &App, f: &Owned, id: Uuid, marked: &MarkedFrame) -> Answer<LightSet> {
    let from = reference(app, f.case_id).await.ok().filter(|r| r.id == id);
    if let Some(from) = from {
        return staged(app, f.case_id, &from).await;
    }
    let facts = app.prepared(&f.hash).await?.facts.clone();
    let plan = plan(&marked.readings, &marked.marks, facts.width, facts.height, &Choices::default());
    Ok(stage(&plan, &marked.marks, &marked.readings, facts.width, facts.height))
}

async fn saved(app: &App, case: Uuid) -> Answer<Option<(i64, LightSet)>> {
    let row: Option<(i64, Jsonb<LightSet>)> =
        sqlx::query_as("select version, body from sets where case_id = $1 order by version desc limit 1")
            .bind(case)
            .fetch_optional(&app.pool)
            .await?;
    Ok(row.map(|(v, s)| (v, s.0)))
}

/// Files the first version of a case's set.
pub(crate) async fn file(app: &App, case: Uuid, author: Uuid, set: LightSet) -> anyhow::Result<()> {
    sqlx::query("insert into sets (case_id, version, body, author) values ($1, 1, $2, $3)")
        .bind(case)
        .bind(Jsonb(set))
        .bind(author)
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// Puts a set in place as the newest version, whatever came before it; the one before stays a step back.
pub(crate) async fn add_set(app: &App, author: Uuid, case: Uuid, set: LightSet) -> Answer<SetView> {
    for _ in 0..5 {
        let version: Option<i64> = sqlx::query_scalar(
            "insert into sets (case_id, version, body, author)
             select $1, coalesce(max(version), 0) + 1, $2, $3 from sets where case_id = $1
             on conflict do nothing returning version",
        )
        .bind(case)
        .bind(Jsonb(&set))
        .bind(author)
        .fetch_optional(&app.pool)
        .await?;
        if let Some(version) = version {
            return view(app, version, set).await;
        }
    }
    Err(Problem::bad("The set is being changed elsewhere at this moment: try again."))
}

async fn view(app: &App, version: i64, set: LightSet) -> Answer<SetView> {
    let (set, meter) = metered(app, set).await?;
    Ok(SetView { version, set, meter })
}

/// What meters show in a set, worked out beside the requests.
async fn metered(app: &App, set: LightSet) -> Answer<(LightSet, SetMeter)> {
    let made = app.work.run(Pace::Quick, move || studio::metered(&set).map(|m| (set, m))).await?;
    made.map_err(Problem::bad)
}

/// The set of a case with its version: as saved, or as it follows from the reading.
pub(crate) async fn newest_set(app: &App, case: Uuid) -> Answer<(i64, LightSet)> {
    match saved(app, case).await? {
        Some(kept) => Ok(kept),
        None => Ok((0, staged(app, case, &reference(app, case).await?).await?)),
    }
}

/// The same, metered.
pub(crate) async fn newest_view(app: &App, case: Uuid) -> Answer<SetView> {
    let (version, set) = newest_set(app, case).await?;
    view(app, version, set).await
}

/// The set of a case: as saved, or as it follows from the reading.
#[utoipa::path(get, path = "/cases/{id}/set", tag = "sets", params(("id" = Uuid, Path)),
    responses((status = 200, body = SetView), (status = 404, body = Problem)))]
async fn current_set(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<SetView>> {
    must_own(&app, me.id, case).await?;
    newest_view(&app, case).await.map(Json)
}

/// The set that follows from the reading, whatever was saved.
#[utoipa::path(get, path = "/cases/{id}/set/from-reading", tag = "sets", params(("id" = Uuid, Path)),
    responses((status = 200, body = SetView), (status = 404, body = Problem)))]
async fn set_of_reading(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<SetView>> {
    must_own(&app, me.id, case).await?;
    let version = saved(&app, case).await?.map_or(0, |s| s.0);
    view(&app, version, staged(&app, case, &reference(&app, case).await?).await?).await.map(Json)
}

/// Save the set as a new version. An edit made on an older version gets 409 with the current one.
#[utoipa::path(put, path = "/cases/{id}/set", tag = "sets", params(("id" = Uuid, Path)), request_body = SetEdit,
    responses((status = 200, body = SetView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn save_set(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(edit): Body<SetEdit>,
) -> Answer<Json<SetView>> {
    must_own(&app, me.id, case).await?;
    let set = parse_set(edit.set)?;
    let done = sqlx::query(
        "insert into sets (case_id, version, body, author)
         select $1, $2 + 1, $3, $4 where coalesce((select max(version) from sets where case_id = $1), 0) = $2
         on conflict do nothing",
    )
    .bind(case)
    .bind(edit.version)
    .bind(Jsonb(&set))
    .bind(me.id)
    .execute(&app.pool)
    .await?;
    if done.rows_affected() == 0 {
        let now = newest_view(&app, case).await?;
        return Err(Problem::stale("set", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    sqlx::query("update cases set updated_at = now() where id = $1").bind(case).execute(&app.pool).await?;
    view(&app, edit.version + 1, set).await.map(Json)
}

/// What a set is written as.
#[derive(Debug, Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WrittenAs {
    /// Plan and side view to scale.
    #[default]
    Svg,
    /// The same drawing as a picture.
    Png,
    /// The same drawing as a page.
    Pdf,
    /// Room, camera and lights (glTF 2.0 with KHR_lights_punctual).
    Gltf,
    /// The set itself (slant-set/1).
    Json,
}

/// How to write a set.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct WriteAs {
    /// File kind; SVG if absent.
    #[serde(default, rename = "as")]
    #[param(inline)]
    kind: WrittenAs,
    /// Feet and inches instead of metres.
    #[serde(default)]
    feet: bool,
}

/// The set as a file: a drawing to scale, glTF, or slant-set/1.
#[utoipa::path(get, path = "/cases/{id}/set/file", tag = "sets", params(("id" = Uuid, Path), WriteAs),
    responses((status = 200, body = String, content_type = "image/svg+xml"), (status = 404, body = Problem)))]
async fn set_file(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Query(q): Query<WriteAs>,
) -> Answer<Response> {
    must_own(&app, me.id, case).await?;
    let now = newest_view(&app, case).await?;
    let title: String =
        sqlx::query_scalar("select title from cases where id = $1").bind(case).fetch_one(&app.pool).await?;
    let unit = if q.feet { Lengths::Feet } else { Lengths::Metres };
    let json = |v: serde_json::Value| serde_json::to_string_pretty(&v).map_err(Problem::internal);
    let drawing = || svg(&now.meter, &title, unit);
    let (kind, name, bytes) = match q.kind {
        WrittenAs::Svg => ("image/svg+xml", "set.svg", drawing().into_bytes()),
        WrittenAs::Png => ("image/png", "set.png", pictures::png_of_svg(&drawing(), 2.0).map_err(Problem::internal)?),
        WrittenAs::Pdf => ("application/pdf", "set.pdf", pictures::pdf_of_svg(&drawing()).map_err(Problem::internal)?),
        WrittenAs::Gltf => ("model/gltf+json", "set.gltf", json(gltf(&now.set, &now.meter, &title))?.into_bytes()),
        WrittenAs::Json => {
            let set = serde_json::to_value(&now.set).map_err(Problem::internal)?;
            ("application/json", "set.json", json(set)?.into_bytes())
        }
    };
    let as_file = format!("attachment; filename=\"{name}\"");
    Ok(([(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, as_file)], bytes).into_response())
}

/// A board of a set and the ratio it is to give.
#[derive(Deserialize, ToSchema)]
pub struct BoardWanted {
    /// The set as it stands (`slant-set/1`).
    #[schema(value_type = LightSet)]
    pub set: serde_json::Value,
    /// Which of its boards, from nought.
    pub board: usize,
    /// Key to fill that is wanted, each metered facing it: 2 for 2 : 1.
    pub key_to_fill: f64,
}

/// Where a board must stand for a lighting ratio: as it is, in another finish, and the boards of one's own kit in its place.
#[utoipa::path(post, path = "/cases/{id}/set/board", tag = "sets", params(("id" = Uuid, Path)), request_body = BoardWanted,
    responses((status = 200, body = Vec<BoardWay>), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn board_ways(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(wanted): Body<BoardWanted>,
) -> Answer<Json<Vec<BoardWay>>> {
    must_own(&app, me.id, case).await?;
    let set = parse_set(wanted.set)?;
    let kit = kit_of(&app, me.id).await?.kit;
    let solve = move || adviser::boards_for(&set, wanted.board, wanted.key_to_fill, &kit.boards);
    app.work.run(Pace::Heavy, solve).await?.map(Json).map_err(Problem::bad)
}

/// A light of a set and the band that is to be left of it.
#[derive(Deserialize, ToSchema)]
pub struct BandWanted {
    /// The set as it stands (`slant-set/1`).
    #[schema(value_type = LightSet)]
    pub set: serde_json::Value,
    /// Which of its lights, from nought.
    pub light: usize,
    /// The band.
    pub band: Band,
}

/// Where a slit or blinds must stand before a light for the band it is to leave.
#[utoipa::path(post, path = "/cases/{id}/set/cutter", tag = "sets", params(("id" = Uuid, Path)), request_body = BandWanted,
    responses((status = 200, body = Cutter), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn place_cutter(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(wanted): Body<BandWanted>,
) -> Answer<Json<Cutter>> {
    must_own(&app, me.id, case).await?;
    let set = parse_set(wanted.set)?;
    let place = move || {
        let lights = studio::meter(&set)?.lights;
        let light = lights.get(wanted.light).ok_or_else(|| format!("light: there is no light {}", wanted.light + 1))?;
        cutter_beside(&set, light, &wanted.band)
    };
    app.work.run(Pace::Quick, place).await?.map(Json).map_err(Problem::bad)
}

/// Draw a set without saving it: a stream of JSON lines, the meter first, then the picture, coarse
/// first and finer after. Closing the connection ends the work.
#[utoipa::path(post, path = "/cases/{id}/set/draw", tag = "sets", params(("id" = Uuid, Path)), request_body = LightSet,
    responses((status = 200, body = Drawn, content_type = "application/x-ndjson"), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn draw_set(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(set): Body<serde_json::Value>,
) -> Answer<Response> {
    let start = Instant::now();
    must_own(&app, me.id, case).await?;
    let set = parse_set(set)?;
    // the one waits for the store while the other computes
    let (metered, relight) = tokio::join!(metered(&app, set), relighting(&app, case));
    let (set, meter) = metered?;
    let cache = app.plates_of(me.id, case);
    let (tx, rx) = tokio::sync::mpsc::channel::<Bytes>(16);
    let stop = StopOnDrop(Arc::new(AtomicBool::new(false)));
    let cancel = stop.0.clone();
    tokio::task::spawn_blocking(move || draw(&set, meter, relight, &cache, &cancel, &tx, start));
    let lines = tokio_stream::wrappers::ReceiverStream::new(rx).map(move |line| {
        // the stream owns the switch: when the reader goes, the trace stops
        let _held = &stop;
        Ok::<_, Infallible>(line)
    });
    // Named as it is, so that no layer gathers it up to compress it.
    let headers = [(header::CONTENT_TYPE, "application/x-ndjson"), (header::CONTENT_ENCODING, "identity")];
    Ok((headers, axum::body::Body::from_stream(lines)).into_response())
}

pub(crate) struct StopOnDrop(pub Arc<AtomicBool>);

impl Drop for StopOnDrop {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

/// The reference of a case, to be shown relit.
pub(crate) enum Relighting {
    /// Made ready before.
    Kept(Arc<Relightable>),
    /// To be made ready.
    New(Box<NewRelighting>),
}

/// What it takes to make a reference ready.
pub(crate) struct NewRelighting {
    app: App,
    key: String,
    staged: LightSet,
    prepared: Arc<Prepared>,
    marks: Marks,
}

impl Relighting {
    /// Whether it shows the person of a set from the same place.
    pub fn fits(&self, set: &LightSet) -> bool {
        match self {
            Relighting::Kept(r) => r.fits(set),
            Relighting::New(n) => n.staged == *set,
        }
    }
}

impl NewRelighting {
    /// Makes it ready: some seconds, unless nobody waits for it any more.
    pub fn ready(self, cancel: &AtomicBool) -> Option<Arc<Relightable>> {
        let photo = session::as_read(&self.prepared.photo, &self.marks);
        let points = session::face_points(&self.marks);
        let made = Arc::new(Relightable::of(&photo, &points, &self.staged, cancel).ok()?);
        self.app.keep_relightable(self.key, made.clone());
        Some(made)
    }
}

/// The reference of a case to be relit; none where there is no picture, or nobody's face was read in it.
pub(crate) async fn relighting(app: &App, case: Uuid) -> Option<Relighting> {
    let from = reference(app, case).await.ok()?;
    let staged = staged(app, case, &from).await.ok()?;
    if !session::can_relight(&staged) {
        return None;
    }
    let key = format!("{case} {} {}", from.hash, serde_json::to_string(&staged).ok()?);
    if let Some(kept) = app.relightable(&key) {
        return Some(Relighting::Kept(kept));
    }
    let prepared = app.prepared(&from.hash).await.ok()?;
    let marks = told(app, from.id, &prepared, &from.marked.marks).await.ok()?;
    Some(Relighting::New(Box::new(NewRelighting { app: app.clone(), key, staged, prepared, marks })))
}

pub(crate) fn relit_jpeg(ready: &Relightable, set: &LightSet, plates: &Plates) -> Option<String> {
    if !ready.fits(set) {
        return None;
    }
    let (rgb, _) = ready.under(set, plates, true).ok()?;
    let coded = studio::encode(&rgb, &lightset::set::PictureSpec::default());
    let jpeg = pictures::encode_jpeg(set.picture.width, set.picture.height, &coded, 86).ok()?;
    Some(base64::engine::general_purpose::STANDARD.encode(jpeg))
}

fn draw(
    set: &LightSet,
    meter: SetMeter,
    relight: Option<Relighting>,
    cache: &std::sync::Mutex<PlateCache>,
    cancel: &AtomicBool,
    tx: &tokio::sync::mpsc::Sender<Bytes>,
    start: Instant,
) {
    let send = |line: Drawn| {
        let mut text = serde_json::to_vec(&line).unwrap_or_default();
        text.push(b'\n');
        if tx.blocking_send(text.into()).is_err() {
            cancel.store(true, Ordering::Relaxed);
        }
    };
    let after = || start.elapsed().as_secs_f64() * 1000.0;
    let of = set.picture.samples.next_power_of_two();
    let line = |jpeg, samples, done| Drawn { meter: None, jpeg, relit: None, samples, of, after_ms: after(), done };
    send(Drawn { meter: Some(meter), ..line(None, 0, false) });
    // One trace at a time for a case; the one before was told to stop.
    let Ok(mut cache) = cache.lock() else { return };
    let (kept, new) = match relight {
        Some(Relighting::Kept(r)) => (Some(r), None),
        Some(Relighting::New(n)) => (None, Some(n)),
        None => (None, None),
    };
    let relit = |plates: &Plates| kept.as_ref().and_then(|r| relit_jpeg(r, set, plates));
    let finished = studio::trace(set, &mut cache, cancel, |p| {
        send(Drawn { relit: relit(p.plates), ..line(jpeg_of(set, p.plates), p.samples, false) });
    });
    drop(cache);
    let Some(plates) = finished else { return };
    let last = |relit| send(Drawn { relit, ..line(jpeg_of(set, &plates), of, true) });
    match new {
        // made ready after the first picture: the next ones follow at once
        Some(new) => {
            send(line(jpeg_of(set, &plates), of, false));
            last(new.ready(cancel).and_then(|ready| relit_jpeg(&ready, set, &plates)));
        }
        None => last(relit(&plates)),
    }
}

/// The picture of a traced set as a JPEG in base64.
pub(crate) fn jpeg_of(set: &LightSet, plates: &Plates) -> Option<String> {
    jpeg(set, plates).map(|j| base64::engine::general_purpose::STANDARD.encode(j))
}

fn jpeg(set: &LightSet, plates: &Plates) -> Option<Vec<u8>> {
    let rgb = studio::encode(&studio::mix(set, plates).ok()?, &set.picture);
    pictures::encode_jpeg(plates.width, plates.height, &rgb, 86).ok()
}

/// The picture of a set as a JPEG.
pub(crate) fn jpeg_of_set(set: &LightSet, cache: &mut PlateCache) -> Option<Vec<u8>> {
    let plates = studio::trace(set, cache, &AtomicBool::new(false), |_| {})?;
    jpeg(set, &plates)
}

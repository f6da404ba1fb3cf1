//! Marks of a frame, version by version, and what is read from them.

use crate::App;
use crate::accounts::Me;
use crate::calibration;
use crate::frames::{Owned, owned};
use crate::problem::{Answer, Body, Problem};
use crate::state::Prepared;
use axum::Json;
use axum::extract::{Path, State};
use light::CORE_VERSION;
use light::critique::Verdict;
use light::find::{Proposal, Sought};
use light::marks::Marks;
use light::readings::Readings;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use std::sync::{Arc, Mutex};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(current_marks, save_marks))
        .routes(routes!(try_out))
        .routes(routes!(find_marks))
        .routes(routes!(verdict))
}

/// Marks with their version and what they say.
#[derive(Debug, Serialize, ToSchema)]
pub struct MarkedFrame {
    /// Version for the next edit.
    pub version: i64,
    /// The marks (slant-marks/1).
    pub marks: Marks,
    /// What is read from them (slant-readings/1).
    pub readings: Readings,
}

/// Marks made on a version.
#[derive(Deserialize, ToSchema)]
pub struct MarksEdit {
    /// Version the edit was made on.
    pub version: i64,
    /// All marks of the frame (slant-marks/1).
    #[schema(value_type = Marks)]
    pub marks: serde_json::Value,
}

/// Marks as they are read: under the case's tone curve unless they declare their own encoding.
pub(crate) async fn calibrated(app: &App, frame: Uuid, marks: &Marks) -> Answer<Marks> {
    let mut marks = marks.clone();
    if marks.encoding.is_none() {
        marks.encoding = calibration::of_frame(app, frame).await?;
    }
    Ok(marks)
}

/// Reads on a worker thread: handlers stay free.
async fn read(app: &App, hash: &str, frame: Uuid, marks: &Marks) -> Answer<Readings> {
    let prepared = app.prepared(hash).await?;
    let marks = calibrated(app, frame, marks).await?;
    Ok(tokio::task::spawn_blocking(move || read_now(&prepared, &marks)).await?)
}

fn read_now(p: &Prepared, marks: &Marks) -> Readings {
    light::read::read(&p.photo, marks, Some(&p.meter), &studio::stand_ins)
}

/// Reads with what a person's last reading of the frame left; `full` reads all anew and leaves that.
async fn read_in(app: &App, hash: &str, whose: (Uuid, Uuid), marks: &Marks, full: bool) -> Answer<Readings> {
    let marks = calibrated(app, whose.1, marks).await?;
    let prepared = app.prepared(hash).await?;
    Ok(tokio::task::spawn_blocking(move || remembered(&prepared, whose, &marks, full)).await?)
}

fn remembered(p: &Prepared, whose: (Uuid, Uuid), marks: &Marks, full: bool) -> Readings {
    let memory = p.memories.lock().ok().map(|mut m| m.get_or_insert(whose, Arc::default).clone());
    match memory.as_deref().map(Mutex::lock) {
        Some(Ok(mut memory)) => {
            if full {
                memory.settle();
            }
            light::read::read_again(&p.photo, marks, Some(&p.meter), &studio::stand_ins, &mut memory)
        }
        _ => read_now(p, marks),
    }
}

/// The newest marks of a frame with their reading, computed again if the core is newer.
pub(crate) async fn newest(app: &App, hash: &str, frame: Uuid) -> Answer<MarkedFrame> {
    let (version, marks): (i64, Jsonb<serde_json::Value>) =
        sqlx::query_as("select version, body from marks where frame_id = $1 order by version desc limit 1")
            .bind(frame)
            .fetch_one(&app.pool)
            .await?;
    let marks = Marks::from_value(marks.0).map_err(Problem::internal)?;
    let kept: Option<Jsonb<Readings>> = sqlx::query_scalar(
        "select body from readings where frame_id = $1 and marks_version = $2 and core_version = $3",
    )
    .bind(frame)
    .bind(version)
    .bind(CORE_VERSION)
    .fetch_optional(&app.pool)
    .await?;
    let readings = match kept {
        Some(r) => r.0,
        None => {
            let r = read(app, hash, frame, &marks).await?;
            keep(app, frame, version, &r).await?;
            r
        }
    };
    Ok(MarkedFrame { version, marks, readings })
}

async fn keep(app: &App, frame: Uuid, version: i64, r: &Readings) -> Answer<()> {
    sqlx::query(
        "insert into readings (frame_id, marks_version, core_version, body) values ($1, $2, $3, $4) on conflict do nothing",
    )
    .bind(frame)
    .bind(version)
    .bind(CORE_VERSION)
    .bind(Jsonb(r))
    .execute(&app.pool)
    .await?;
    Ok(())
}

/// The marks of a frame and what they say.
#[utoipa::path(get, path = "/frames/{id}/marks", tag = "marks", params(("id" = Uuid, Path)),
    responses((status = 200, body = MarkedFrame), (status = 404, body = Problem)))]
async fn current_marks(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<MarkedFrame>> {
    let f = owned(&app, me.id, id).await?;
    newest(&app, &f.hash, id).await.map(|now| Json(briefed(&f, now)))
}

/// Readings are kept for what the picture shows; where marked parts should lie is asked of the case's brief.
fn briefed(f: &Owned, mut now: MarkedFrame) -> MarkedFrame {
    light::placement::by_brief(&mut now.readings.exposure, &f.brief, now.marks.exposure.as_ref());
    now
}

/// Save marks as a new version. An edit made on an older version gets 409 with the current one.
#[utoipa::path(put, path = "/frames/{id}/marks", tag = "marks", params(("id" = Uuid, Path)), request_body = MarksEdit,
    responses((status = 200, body = MarkedFrame), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn save_marks(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(edit): Body<MarksEdit>,
) -> Answer<Json<MarkedFrame>> {
    let f = owned(&app, me.id, id).await?;
    let marks = Marks::from_value(edit.marks).map_err(Problem::bad)?;
    put(&app, me.id, &f, id, edit.version, marks).await.map(Json)
}

/// Saves marks after a version, reads them and keeps the reading.
pub(crate) async fn put(app: &App, me: Uuid, f: &Owned, id: Uuid, on: i64, marks: Marks) -> Answer<MarkedFrame> {
    // The primary key settles who comes first.
    let done = sqlx::query(
        "insert into marks (frame_id, version, body, author)
         select $1, $2 + 1, $3, $4 where (select max(version) from marks where frame_id = $1) = $2
         on conflict do nothing",
    )
    .bind(id)
    .bind(on)
    .bind(Jsonb(&marks))
    .bind(me)
    .execute(&app.pool)
    .await?;
    if done.rows_affected() == 0 {
        let now = briefed(f, newest(app, &f.hash, id).await?);
        return Err(Problem::stale("marks", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    sqlx::query("update cases set updated_at = now() where id = $1").bind(f.case_id).execute(&app.pool).await?;
    // what was followed while it was dragged is read in full
    let readings = read_in(app, &f.hash, (me, id), &marks, true).await?;
    keep(app, id, on + 1, &readings).await?;
    Ok(briefed(f, MarkedFrame { version: on + 1, marks, readings }))
}

/// Read marks without saving them: while a mark is dragged.
#[utoipa::path(post, path = "/frames/{id}/read", tag = "marks", params(("id" = Uuid, Path)), request_body = Marks,
    responses((status = 200, body = Readings), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn try_out(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(marks): Body<serde_json::Value>,
) -> Answer<Json<Readings>> {
    let f = owned(&app, me.id, id).await?;
    let marks = Marks::from_value(marks).map_err(Problem::bad)?;
    let mut readings = read_in(&app, &f.hash, (me.id, id), &marks, false).await?;
    light::placement::by_brief(&mut readings.exposure, &f.brief, marks.exposure.as_ref());
    Ok(Json(readings))
}

/// What to look for.
#[derive(Deserialize, ToSchema)]
pub struct Search {
    /// Only marks that go with it.
    pub subject: Option<Sought>,
    /// Middles of the cheeks of a face that was found, for patches on its lit and shadow side.
    pub cheeks: Option<Cheeks>,
}

/// Where the cheeks of a face lie.
#[derive(Deserialize, ToSchema)]
pub struct Cheeks {
    /// Middles, pixels.
    pub centres: [[f64; 2]; 2],
    /// Half the side of a patch, pixels.
    pub half_px: f64,
}

/// Propose marks by image analysis: balls, eyes seen close, cylinders, shadow edges, lit and shadow cheeks. Nothing is saved.
#[utoipa::path(post, path = "/frames/{id}/find", tag = "marks", params(("id" = Uuid, Path)), request_body = Search,
    responses((status = 200, body = Vec<Proposal>), (status = 404, body = Problem)))]
async fn find_marks(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(search): Body<Search>,
) -> Answer<Json<Vec<Proposal>>> {
    let f = owned(&app, me.id, id).await?;
    let prepared = app.prepared(&f.hash).await?;
    let found = tokio::task::spawn_blocking(move || {
        let mut all = light::find::find(&prepared.photo, search.subject);
        let cheeks = search.cheeks.map(|c| light::find::cheeks(&prepared.photo, c.centres, c.half_px));
        all.extend(cheeks.unwrap_or_default());
        all
    });
    Ok(Json(found.await?))
}

/// The verdict on a frame by its case's brief.
#[utoipa::path(get, path = "/frames/{id}/verdict", tag = "marks", params(("id" = Uuid, Path)),
    responses((status = 200, body = Verdict), (status = 404, body = Problem)))]
async fn verdict(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Verdict>> {
    let f = owned(&app, me.id, id).await?;
    let brief = light::critique::brief(&f.brief).ok_or_else(|| Problem::internal("case with unknown brief"))?;
    let now = newest(&app, &f.hash, id).await?;
    Ok(Json(light::critique::judge(&now.readings, &now.marks, brief)))
}

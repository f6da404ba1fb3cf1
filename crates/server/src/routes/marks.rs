//! Marks of a frame, version by version, and what is read from them.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::frames::owned;
use crate::records::marks::{MarkedFrame, briefed, newest, put, read_in};
use crate::work::Pace;
use axum::Json;
use axum::extract::{Path, State};
use evidence::marks::{Cylinder, Marks};
use evidence::readings::Readings;
use finding::{Proposal, Sought};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(current_marks, save_marks))
        .routes(routes!(try_out))
        .routes(routes!(find_marks))
        .routes(routes!(trace_outline))
}

/// Marks made on a version.
#[derive(Deserialize, ToSchema)]
pub struct MarksEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// All marks of the frame (slant-marks/1).
    #[schema(value_type = Marks)]
    pub marks: serde_json::Value,
}

/// The marks of a frame and what they say.
#[utoipa::path(get, path = "/frames/{id}/marks", tag = "marks", params(("id" = Uuid, Path)),
    responses((status = 200, body = MarkedFrame), (status = 404, body = Problem)))]
async fn current_marks(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<MarkedFrame>> {
    let f = owned(&app, me.id, id).await?;
    newest(&app, &f.hash, id).await.map(|now| Json(briefed(&f, now)))
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
    evidence::placement::by_brief(&mut readings.exposure, &f.root_brief, marks.exposure.as_ref());
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
    #[schema(value_type = Vec<optics::geometry::Pair>, min_items = 2, max_items = 2)]
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
    let found = app.work.run(Pace::Heavy, move || {
        let mut all = finding::find(&prepared.photo, search.subject);
        let cheeks = search.cheeks.map(|c| finding::cheeks(&prepared.photo, c.centres, c.half_px));
        all.extend(cheeks.unwrap_or_default());
        all
    });
    Ok(Json(found.await?))
}

/// The axis of a bottle or can as it was drawn.
#[derive(Debug, Deserialize, ToSchema)]
pub(crate) struct DrawnAxis {
    /// Foot and head, pixels.
    #[schema(value_type = Vec<optics::geometry::Pair>, min_items = 2, max_items = 2)]
    axis: [[f64; 2]; 2],
}

/// Trace the outline of a bottle or can about its axis. Nothing is saved.
#[utoipa::path(post, path = "/frames/{id}/outline", tag = "marks", params(("id" = Uuid, Path)), request_body = DrawnAxis,
    responses((status = 200, body = Cylinder), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn trace_outline(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(drawn): Body<DrawnAxis>,
) -> Answer<Json<Cylinder>> {
    let f = owned(&app, me.id, id).await?;
    let prepared = app.prepared(&f.hash).await?;
    let traced = app.work.run(Pace::Heavy, move || evidence::marks::traced(&prepared.photo, drawn.axis)).await?;
    Ok(Json(traced.map_err(|e| Problem::bad(format!("{}.", optics::words::capital(&e.to_string()))))?))
}

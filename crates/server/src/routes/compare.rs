//! A take against the reference of its case: readings, alignment, map of differences.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Problem};
use crate::records::frames::{Owned, owned};
use crate::records::marks::{MarkedFrame, newest, put, told};
use crate::routes::plans::{Reference, reference};
use crate::work::Pace;
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::{Path, Query, State};
use axum::http::header;
use axum::response::Response;
use evidence::CORE_VERSION;
use evidence::marks::{MarkKind, Marks};
use judging::compare::{Alignment, Comparison, DifferenceMap, difference};
use serde::{Deserialize, Serialize};
use session::PictureRead;
use sqlx::types::Json as Jsonb;
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(compare_take))
        .routes(routes!(carry_over))
        .routes(routes!(alignment))
        .routes(routes!(difference_map))
        .routes(routes!(difference_scale))
}

/// A take against the reference of its case.
#[derive(Serialize, ToSchema)]
pub struct ComparisonView {
    /// The reference's frame.
    pub reference: Uuid,
    /// Take minus reference.
    pub comparison: Comparison,
}

/// The reference a take is held against.
async fn reference_of(app: &App, take: &Owned, id: Uuid) -> Answer<Reference> {
    let from = reference(app, take.case_id).await?;
    if from.id == id {
        return Err(Problem::bad("This is the reference itself: choose a take."));
    }
    Ok(from)
}

/// A frame as it was read.
async fn picture_read(app: &App, hash: &str, frame: Uuid, marked: &MarkedFrame) -> Answer<PictureRead> {
    let prepared = app.prepared(hash).await?;
    let marks = told(app, frame, &prepared, &marked.marks).await?;
    let readings = marked.readings.clone();
    app.work.run(Pace::Heavy, move || PictureRead::kept(&prepared.photo, marks, readings)).await
}

/// A take against the reference, as kept or worked out now.
pub(crate) async fn compared(app: &App, take: &Owned, id: Uuid) -> Answer<ComparisonView> {
    let (from, b) = (reference_of(app, take, id).await?, newest(app, &take.hash, id).await?);
    let kept: Option<Jsonb<Comparison>> = sqlx::query_scalar(
        "select body from comparisons where frame_id = $1 and marks_version = $2 and reference_id = $3
         and reference_version = $4 and core_version = $5",
    )
    .bind(id)
    .bind(b.version)
    .bind(from.id)
    .bind(from.marked.version)
    .bind(CORE_VERSION)
    .fetch_optional(&app.pool)
    .await?;
    if let Some(kept) = kept {
        return Ok(ComparisonView { reference: from.id, comparison: kept.0 });
    }
    let p = picture_read(app, &from.hash, from.id, &from.marked).await?;
    let q = picture_read(app, &take.hash, id, &b).await?;
    let lies = app.lies(&from.hash, &take.hash).await?;
    let (reference, versions) = (from.id, (b.version, from.marked.version));
    let comparison = app.work.run(Pace::Heavy, move || session::compared(&p, &q, &|| (*lies).clone())).await?;
    sqlx::query(
        "insert into comparisons (frame_id, marks_version, reference_id, reference_version, core_version, body)
         values ($1, $2, $3, $4, $5, $6) on conflict do nothing",
    )
    .bind(id)
    .bind(versions.0)
    .bind(reference)
    .bind(versions.1)
    .bind(CORE_VERSION)
    .bind(Jsonb(&comparison))
    .execute(&app.pool)
    .await?;
    Ok(ComparisonView { reference, comparison })
}

/// Compare a frame with the newest reference of its case.
#[utoipa::path(get, path = "/frames/{id}/compare", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = ComparisonView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn compare_take(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<ComparisonView>> {
    let take = owned(&app, me.id, id).await?;
    compared(&app, &take, id).await.map(Json)
}

/// Marks laid over a take.
#[derive(Serialize, ToSchema)]
pub struct Carried {
    /// The marks as they now are, with their reading.
    pub marked: MarkedFrame,
    /// Laid over by what the pictures show; else by their size alone.
    pub by_picture: bool,
    /// How it went, in a sentence.
    pub says: String,
}

/// Lays the reference's marks over a take.
pub(crate) async fn carry(app: &App, author: Uuid, take: &Owned, id: Uuid) -> Answer<Carried> {
    let theirs = reference_of(app, take, id).await?;
    let mine = newest(app, &take.hash, id).await?;
    let found = app.lies(&theirs.hash, &take.hash).await?;
    let size = {
        let p = app.prepared(&take.hash).await?;
        (p.photo.width(), p.photo.height())
    };
    let from = (theirs.facts.width, theirs.facts.height);
    let carried = session::carried(&theirs.marked.marks, from, &mine.marks, size, &found);
    let marked = put(app, author, take, id, mine.version, carried.marks).await?;
    Ok(Carried { marked, by_picture: carried.by_picture, says: carried.says })
}

/// Lay the reference's marks over a take, by what both pictures show; they replace the take's own as a new version.
#[utoipa::path(post, path = "/frames/{id}/carry-over", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = Carried), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn carry_over(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Carried>> {
    let take = owned(&app, me.id, id).await?;
    carry(&app, me.id, &take, id).await.map(Json)
}

/// How a take lies against its reference.
#[derive(Default, Serialize, ToSchema)]
pub struct AlignmentView {
    /// Where the reference lies in it; absent if that cannot be told.
    pub alignment: Option<Alignment>,
    /// Homography from take pixels to reference pixels, row by row.
    pub back: Option<[f64; 9]>,
    /// Why not, if so.
    pub problem: Option<String>,
    /// How it went, in a sentence.
    pub says: String,
    /// Stops that exposure would take away: as compared, or else the median of the map.
    pub exposure_stops: f64,
    /// Share of the reference whose difference can be told.
    pub told: f64,
}

/// Which map.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct MapOf {
    /// Take the exposure out: what is left is not exposure.
    #[serde(default)]
    matched: bool,
}

/// The take over the reference in stops, with what exposure would take away.
async fn mapped(app: &App, me: Uuid, id: Uuid) -> Answer<Result<(Alignment, Arc<DifferenceMap>, f64), String>> {
    let take = owned(app, me, id).await?;
    let from = reference_of(app, &take, id).await?;
    let lies = app.lies(&from.hash, &take.hash).await?;
    let a = match &*lies {
        Ok(a) => a.clone(),
        Err(e) => return Ok(Err(e.clone())),
    };
    let exposure = compared(app, &take, id).await?.comparison.d_exposure_stops;
    let mine = newest(app, &take.hash, id).await?;
    let p = picture_read(app, &from.hash, from.id, &from.marked).await?;
    let q = picture_read(app, &take.hash, id, &mine).await?;
    // the same two pictures through the same curves give the same map
    let through = |m: &Marks| {
        let wedges: Vec<_> = m.marks.iter().filter(|m| matches!(m.kind, MarkKind::Wedge(_))).collect();
        serde_json::to_string(&(&m.encoding, wedges)).unwrap_or_default()
    };
    let name = [&from.hash, &take.hash, &through(&p.marks), &through(&q.marks)].map(String::as_str).join(" ");
    let lies = a.clone();
    let map = app.map(name, move || difference(&p.photo, &q.photo, &lies)).await?;
    let exposure = exposure.unwrap_or(map.median_stops);
    Ok(Ok((a, map, exposure)))
}

/// Where the reference lies in a take.
#[utoipa::path(get, path = "/frames/{id}/alignment", tag = "takes", params(("id" = Uuid, Path)),
    responses((status = 200, body = AlignmentView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn alignment(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<AlignmentView>> {
    Ok(Json(match mapped(&app, me.id, id).await? {
        Ok((a, map, exposure_stops)) => AlignmentView {
            says: a.says(),
            back: a.back(),
            alignment: Some(a),
            problem: None,
            exposure_stops,
            told: map.told,
        },
        Err(e) => AlignmentView { problem: Some(e), ..AlignmentView::default() },
    }))
}

/// The take over the reference in stops, point by point after alignment (PNG); what cannot be told is left grey and
/// hatched.
#[utoipa::path(get, path = "/frames/{id}/difference", tag = "takes", params(("id" = Uuid, Path), MapOf),
    responses((status = 200, content_type = "image/png"), (status = 400, body = Problem), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn difference_map(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Query(q): Query<MapOf>,
) -> Answer<Response> {
    let (_, map, exposure) = mapped(&app, me.id, id).await?.map_err(Problem::refused)?;
    let map = map.without(if q.matched { exposure } else { 0.0 });
    let png =
        pictures::difference_map(map.width, map.height, &map.stops).map_err(|r| Problem::refused(r.to_string()))?;
    Response::builder()
        .header(header::CONTENT_TYPE, "image/png")
        .header(header::CACHE_CONTROL, "private, no-cache")
        .body(HttpBody::from(png))
        .map_err(Problem::internal)
}

/// The colours of the map of differences, take darker to take brighter.
#[utoipa::path(get, path = "/difference-scale", tag = "tables", responses((status = 200, body = Vec<crate::routes::frames::ScaleStep>)))]
async fn difference_scale() -> Json<Vec<crate::routes::frames::ScaleStep>> {
    let [low, high] = pictures::DIFFERENCE_STOPS;
    let steps = ((high - low) / pictures::DIFFERENCE_STEP).round() as usize;
    let step = |k: usize| {
        let from_stops = low + k as f64 * pictures::DIFFERENCE_STEP;
        let [r, g, b] = pictures::difference_colour(from_stops + 0.01);
        crate::routes::frames::ScaleStep { from_stops, colour: format!("#{r:02x}{g:02x}{b:02x}") }
    };
    Json((0..steps).map(step).collect())
}

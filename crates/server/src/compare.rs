//! A take against the reference of its case.

use crate::App;
use crate::accounts::Me;
use crate::frames::owned;
use crate::marks::{MarkedFrame, calibrated, newest, put};
use crate::problem::{Answer, Problem};
use axum::Json;
use axum::extract::{Path, State};
use light::compare::{Comparison, Pictured, compare};
use light::marks::Marks;
use serde::Serialize;
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(compare_take)).routes(routes!(carry_over))
}

/// A take against the reference of its case.
#[derive(Serialize, ToSchema)]
pub struct ComparisonView {
    /// The reference's frame.
    pub reference: Uuid,
    /// Take minus reference.
    pub comparison: Comparison,
}

/// Compare a frame with the newest reference of its case.
#[utoipa::path(get, path = "/frames/{id}/compare", tag = "frames", params(("id" = Uuid, Path)),
    responses((status = 200, body = ComparisonView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn compare_take(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<ComparisonView>> {
    let take = owned(&app, me.id, id).await?;
    let row: Option<(Uuid, String)> = sqlx::query_as(
        "select id, file_hash from frames where case_id = $1 and role = 'reference' order by created_at desc limit 1",
    )
    .bind(take.case_id)
    .fetch_optional(&app.pool)
    .await?;
    let (reference, hash) = row.ok_or_else(|| Problem::not_found("The case has no reference picture."))?;
    if reference == id {
        return Err(Problem::bad("This is the reference itself: choose a take."));
    }
    let (a, b) = (newest(&app, &hash, reference).await?, newest(&app, &take.hash, id).await?);
    let marks = (calibrated(&app, reference, &a.marks).await?, calibrated(&app, id, &b.marks).await?);
    let photos = (app.prepared(&hash).await?, app.prepared(&take.hash).await?);
    let comparison = tokio::task::spawn_blocking(move || {
        let under =
            |p: &light::photo::Photo, m: &light::marks::Marks| light::read::read_through(p, m).map(|e| p.under(&e));
        let (p, q) = (under(&photos.0.photo, &marks.0), under(&photos.1.photo, &marks.1));
        compare(
            Pictured { photo: p.as_ref().unwrap_or(&photos.0.photo), marks: &marks.0, readings: &a.readings },
            Pictured { photo: q.as_ref().unwrap_or(&photos.1.photo), marks: &marks.1, readings: &b.readings },
        )
    })
    .await?;
    Ok(Json(ComparisonView { reference, comparison }))
}

/// Lay the reference's marks over a take, scaled to its size; they replace the take's own as a new version.
#[utoipa::path(post, path = "/frames/{id}/carry-over", tag = "frames", params(("id" = Uuid, Path)),
    responses((status = 200, body = MarkedFrame), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn carry_over(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<MarkedFrame>> {
    let take = owned(&app, me.id, id).await?;
    let row: Option<(Uuid, String, Jsonb<pictures::Facts>)> = sqlx::query_as(
        "select id, file_hash, facts from frames where case_id = $1 and role = 'reference' order by created_at desc limit 1",
    )
    .bind(take.case_id)
    .fetch_optional(&app.pool)
    .await?;
    let (reference, hash, facts) = row.ok_or_else(|| Problem::not_found("The case has no reference picture."))?;
    if reference == id {
        return Err(Problem::bad("This is the reference itself: choose a take."));
    }
    let theirs = newest(&app, &hash, reference).await?;
    let mine = newest(&app, &take.hash, id).await?;
    let width: f64 = app.prepared(&take.hash).await?.photo.width().into();
    let scaled = theirs.marks.scaled(width / f64::from(facts.0.width));
    let marks = Marks { exposure: mine.marks.exposure, encoding: mine.marks.encoding, ..scaled };
    put(&app, me.id, &take, id, mine.version, marks).await.map(Json)
}

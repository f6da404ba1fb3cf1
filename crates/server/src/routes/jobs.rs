//! Jobs: ask for one, see how far it is, withdraw it, fetch its result.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::jobs::{self, JobState, JobView, Task};
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::{Path, State};
use axum::http::{StatusCode, header};
use axum::response::Response;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(ask)).routes(routes!(see, withdraw)).routes(routes!(result))
}

/// Longest side of a picture in pixels, and most samples for each: some minutes of work.
const MOST_SIDE: u32 = 3000;
const MOST_SAMPLES: u32 = 256;

/// Ask for a job.
#[utoipa::path(post, path = "/jobs", tag = "jobs", request_body = Task,
    responses((status = 202, body = JobView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn ask(State(app): State<App>, Me(me): Me, Body(task): Body<Task>) -> Answer<(StatusCode, Json<JobView>)> {
    if let Some(case) = task.case() {
        must_own(&app, me.id, case).await?;
    }
    if let Task::Picture { side, samples, .. } = &task
        && (!(64..=MOST_SIDE).contains(side) || !(1..=MOST_SAMPLES).contains(samples))
    {
        return Err(Problem::bad(format!(
            "picture: expected a side of 64 to {MOST_SIDE} pixels and 1 to {MOST_SAMPLES} samples"
        )));
    }
    Ok((StatusCode::ACCEPTED, Json(jobs::add(&app, me.id, &task).await?)))
}

/// How far a job is.
#[utoipa::path(get, path = "/jobs/{id}", tag = "jobs", params(("id" = Uuid, Path)),
    responses((status = 200, body = JobView), (status = 404, body = Problem)))]
async fn see(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<JobView>> {
    jobs::of(&app, me.id, id).await.map(Json)
}

/// Withdraw a job; one that is done stays done.
#[utoipa::path(delete, path = "/jobs/{id}", tag = "jobs", params(("id" = Uuid, Path)),
    responses((status = 200, body = JobView), (status = 404, body = Problem)))]
async fn withdraw(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<JobView>> {
    jobs::cancel(&app, me.id, id).await.map(Json)
}

/// The file a job made: a picture (PNG), layers (OpenRaster) or masks (zip).
#[utoipa::path(get, path = "/jobs/{id}/result", tag = "jobs", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "application/octet-stream"), (status = 404, body = Problem)))]
async fn result(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Response> {
    let job = jobs::of(&app, me.id, id).await?;
    let Some((kind, name)) = job.task.file().filter(|_| job.state == JobState::Done) else {
        return Err(Problem::not_found("This job has no file, or not yet."));
    };
    let how = if kind == "image/png" { "inline" } else { "attachment" };
    Response::builder()
        .header(header::CONTENT_TYPE, kind)
        .header(header::CONTENT_DISPOSITION, format!("{how}; filename=\"{name}\""))
        .body(HttpBody::from_stream(app.store.result(id).await?))
        .map_err(Problem::internal)
}

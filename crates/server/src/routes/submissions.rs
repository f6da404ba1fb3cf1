//! Submissions: handed in, seen on the wall, graded, given back, talked about.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::assignments::seen_by;
use crate::records::drafts::{Draft, DraftEdit, OpenAssignment, draft, open_for, put_draft};
use crate::records::grading::{self, GradeEdit, NoteEdit, SubmissionView, give_back, grade, say};
use crate::records::peers::picture_of;
use crate::records::submissions::{NewSubmission, hand_in};
use crate::records::wall::{WallPicture, wall};
use crate::routes::classes::{CopySize, copy_of};
use axum::Json;
use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use axum::response::Response;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(the_wall))
        .routes(routes!(submit))
        .routes(routes!(my_draft, keep_draft))
        .routes(routes!(open_assignments))
        .routes(routes!(one_submission))
        .routes(routes!(submitted_picture))
        .routes(routes!(give_points))
        .routes(routes!(return_it))
        .routes(routes!(add_note))
}

/// All that was handed in for an assignment, with its lights, its distance from the reference and what is proposed; for those who
/// teach.
#[utoipa::path(get, path = "/assignments/{id}/wall", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<WallPicture>), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn the_wall(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<WallPicture>>> {
    wall(&app, me.id, id).await.map(Json)
}

/// Hand a picture of a case in. What it shows now is kept; it is read as a job.
#[utoipa::path(post, path = "/assignments/{id}/submissions", tag = "class", params(("id" = Uuid, Path)), request_body = NewSubmission,
    responses((status = 201, body = SubmissionView), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn submit(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(new): Body<NewSubmission>,
) -> Answer<(StatusCode, Json<SubmissionView>)> {
    let made = hand_in(&app, me.id, id, new).await?;
    Ok((StatusCode::CREATED, Json(grading::view(&app, me.id, made).await?)))
}

/// What I have begun to hand in; nothing where I have not.
#[utoipa::path(get, path = "/assignments/{id}/draft", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Option<Draft>), (status = 404, body = Problem)))]
async fn my_draft(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Option<Draft>>> {
    seen_by(&app, me.id, id).await?;
    draft(&app, me.id, id).await.map(Json)
}

/// Keep what I have begun; it goes once it is handed in.
#[utoipa::path(put, path = "/assignments/{id}/draft", tag = "class", params(("id" = Uuid, Path)), request_body = DraftEdit,
    responses((status = 200, body = Draft), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn keep_draft(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<DraftEdit>,
) -> Answer<Json<Draft>> {
    put_draft(&app, me.id, id, &e).await.map(Json)
}

/// Assignments I can still hand in for.
#[utoipa::path(get, path = "/assignments/open", tag = "class", responses((status = 200, body = Vec<OpenAssignment>), (status = 401, body = Problem)))]
async fn open_assignments(State(app): State<App>, Me(me): Me) -> Answer<Json<Vec<OpenAssignment>>> {
    open_for(&app, me.id).await.map(Json)
}

/// One submission: of one's own, or of a class one teaches.
#[utoipa::path(get, path = "/submissions/{id}", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = SubmissionView), (status = 404, body = Problem)))]
async fn one_submission(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<SubmissionView>> {
    grading::view(&app, me.id, id).await.map(Json)
}

/// The picture as it was handed in; also for those it was dealt to.
#[utoipa::path(get, path = "/submissions/{id}/picture", tag = "class", params(("id" = Uuid, Path), CopySize),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem)))]
async fn submitted_picture(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Query(size): Query<CopySize>,
) -> Answer<Response> {
    let hash = picture_of(&app, me.id, id).await?;
    copy_of(&app, &hash, &size).await
}

/// Give points; what was given before stays in the history.
#[utoipa::path(put, path = "/submissions/{id}/grade", tag = "class", params(("id" = Uuid, Path)), request_body = GradeEdit,
    responses((status = 200, body = SubmissionView), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn give_points(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<GradeEdit>,
) -> Answer<Json<SubmissionView>> {
    grade(&app, me.id, id, &e).await.map(Json)
}

/// Give a submission back with its points.
#[utoipa::path(post, path = "/submissions/{id}/return", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = SubmissionView), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn return_it(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<SubmissionView>> {
    give_back(&app, me.id, id).await.map(Json)
}

/// Say something about a submission: a note, a private note of those who teach, an appeal of who handed in.
#[utoipa::path(post, path = "/submissions/{id}/notes", tag = "class", params(("id" = Uuid, Path)), request_body = NoteEdit,
    responses((status = 201, body = SubmissionView), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn add_note(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(n): Body<NoteEdit>,
) -> Answer<(StatusCode, Json<SubmissionView>)> {
    Ok((StatusCode::CREATED, Json(say(&app, me.id, id, &n).await?)))
}

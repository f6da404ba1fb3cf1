//! Working together in a class: groups, pictures looked at for each other, graders held together, how a student comes on, the
//! book as a table, and pictures taken away.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::classes::must_teach;
use crate::records::gradebook::{StudentPage, student_page, table_into};
use crate::records::grading::{SubmissionView, held_together, phrases_for, set_sample};
use crate::records::groups::{Group, groups, set_groups};
use crate::records::peers::{self, Dealing, PeerEdit, PeerTask, deal, review};
use crate::records::removal::take_away;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use classroom::{GraderLine, MOST_TABLE_BYTES, TableIn};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(class_groups, change_groups))
        .routes(routes!(one_student))
        .routes(routes!(book_from_table))
        .routes(routes!(peer_tasks, deal_pictures))
        .routes(routes!(graders_together))
        .routes(routes!(say_of_peer))
        .routes(routes!(choose_sample))
        .routes(routes!(submission_phrases))
        .routes(routes!(take_submission_away))
}

/// The groups of a class: all for those who teach, one's own for a student.
#[utoipa::path(get, path = "/classes/{id}/groups", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<Group>), (status = 404, body = Problem)))]
async fn class_groups(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<Group>>> {
    groups(&app, me.id, id).await.map(Json)
}

/// Set the groups of a class anew.
#[utoipa::path(put, path = "/classes/{id}/groups", tag = "class", params(("id" = Uuid, Path)), request_body = Vec<Group>,
    responses((status = 200, body = Vec<Group>), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn change_groups(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(all): Body<Vec<Group>>,
) -> Answer<Json<Vec<Group>>> {
    set_groups(&app, me.id, id, &all).await?;
    groups(&app, me.id, id).await.map(Json)
}

/// How a student comes on: for themselves, and for those who teach.
#[utoipa::path(get, path = "/classes/{id}/students/{account}", tag = "class", params(("id" = Uuid, Path), ("account" = Uuid, Path)),
    responses((status = 200, body = StudentPage), (status = 404, body = Problem)))]
async fn one_student(
    State(app): State<App>,
    Me(me): Me,
    Path((id, account)): Path<(Uuid, Uuid)>,
) -> Answer<Json<StudentPage>> {
    student_page(&app, me.id, id, account).await.map(Json)
}

/// A table with shares.
#[derive(Deserialize, ToSchema)]
pub struct BookTable {
    /// The table (CSV), in the form of the book's own.
    pub text: String,
    /// Take it into the book; else only tell what it would change.
    #[serde(default)]
    pub apply: bool,
}

/// Take shares of a table into the gradebook, or see what that would change.
#[utoipa::path(post, path = "/classes/{id}/gradebook", tag = "class", params(("id" = Uuid, Path)), request_body = BookTable,
    responses((status = 200, body = TableIn), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn book_from_table(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(t): Body<BookTable>,
) -> Answer<Json<TableIn>> {
    must_teach(&app, me.id, id).await?;
    if t.text.len() > MOST_TABLE_BYTES {
        return Err(Problem::bad(format!("text: expected at most {MOST_TABLE_BYTES} bytes")));
    }
    table_into(&app, me.id, id, &t.text, t.apply).await.map(Json)
}

/// Pictures of others that wait for me.
#[utoipa::path(get, path = "/assignments/{id}/peers", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<PeerTask>), (status = 404, body = Problem)))]
async fn peer_tasks(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<PeerTask>>> {
    peers::mine(&app, me.id, id).await.map(Json)
}

/// Deal the pictures of an assignment: each student looks at some of others.
#[utoipa::path(post, path = "/assignments/{id}/peers", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Dealing), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn deal_pictures(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Dealing>> {
    deal(&app, me.id, id).await.map(Json)
}

/// Graders of an assignment held against each other.
#[utoipa::path(get, path = "/assignments/{id}/graders", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<GraderLine>), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn graders_together(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<GraderLine>>> {
    held_together(&app, me.id, id).await.map(Json)
}

/// Say something of a picture that was dealt to me.
#[utoipa::path(put, path = "/submissions/{id}/review", tag = "class", params(("id" = Uuid, Path)), request_body = PeerEdit,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn say_of_peer(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<PeerEdit>,
) -> Answer<StatusCode> {
    review(&app, me.id, id, &e).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Whether a picture is a sample.
#[derive(Deserialize, ToSchema)]
pub struct SampleEdit {
    /// All graders mark it first, each without the others' points.
    pub sample: bool,
}

/// Choose a picture that all graders mark first, or take that back.
#[utoipa::path(put, path = "/submissions/{id}/sample", tag = "class", params(("id" = Uuid, Path)), request_body = SampleEdit,
    responses((status = 200, body = SubmissionView), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn choose_sample(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<SampleEdit>,
) -> Answer<Json<SubmissionView>> {
    set_sample(&app, me.id, id, e.sample).await.map(Json)
}

/// My phrases with the figures of this submission and its differences from the reference; for those who teach.
#[utoipa::path(get, path = "/submissions/{id}/phrases", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<String>), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn submission_phrases(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<String>>> {
    phrases_for(&app, me.id, id).await.map(Json)
}

/// Take what was handed in away again, with its marks, readings and words; its points stay where the class keeps them.
#[utoipa::path(delete, path = "/submissions/{id}", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn take_submission_away(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<StatusCode> {
    take_away(&app, me.id, id).await?;
    Ok(StatusCode::NO_CONTENT)
}

//! Classes: made, joined, changed; their assignments and their gradebook; notices.

use crate::App;
use crate::accounts::{Me, Role};
use crate::problem::{Answer, Body, Problem};
use crate::records::assignments::{self, AssignmentCard, AssignmentEdit, AssignmentView, seen_by};
use crate::records::classes::{
    self, AuditLine, ClassCard, ClassEdit, ClassView, Notice, Seat, audited, must_teach, notices, remove_member,
    reseat, seen,
};
use crate::records::gradebook::{Gradebook, gradebook};
use crate::tries;
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::{Path, Query, State};
use axum::http::{StatusCode, header};
use axum::response::Response;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(my_classes, make_class))
        .routes(routes!(join_class))
        .routes(routes!(one_class, change_class))
        .routes(routes!(change_seat, take_out))
        .routes(routes!(class_audit))
        .routes(routes!(class_assignments, set_assignment))
        .routes(routes!(one_assignment, change_assignment, remove_assignment))
        .routes(routes!(reference_picture))
        .routes(routes!(class_gradebook))
        .routes(routes!(gradebook_table))
        .routes(routes!(my_notices, notices_seen))
}

/// Codes tried by one person within a minute.
const CODES: i64 = 12;

/// My classes.
#[utoipa::path(get, path = "/classes", tag = "class", responses((status = 200, body = Vec<ClassCard>), (status = 401, body = Problem)))]
async fn my_classes(State(app): State<App>, Me(me): Me) -> Answer<Json<Vec<ClassCard>>> {
    classes::mine(&app, me.id).await.map(Json)
}

/// A new class.
#[derive(Deserialize, ToSchema)]
pub struct NewClass {
    /// Name.
    pub name: String,
}

/// Make a class; for instructors.
#[utoipa::path(post, path = "/classes", tag = "class", request_body = NewClass,
    responses((status = 201, body = ClassView), (status = 400, body = Problem), (status = 403, body = Problem)))]
async fn make_class(
    State(app): State<App>,
    Me(me): Me,
    Body(new): Body<NewClass>,
) -> Answer<(StatusCode, Json<ClassView>)> {
    if Role::of(&me.role) == Role::Student {
        return Err(Problem::forbidden("Classes are made by instructors: ask whoever runs this server for that role."));
    }
    let id = classes::create(&app, me.id, &new.name).await?;
    Ok((StatusCode::CREATED, Json(classes::view(&app, me.id, id).await?)))
}

/// A code to join by.
#[derive(Deserialize, ToSchema)]
pub struct JoinCode {
    /// As the instructor told it; case and spaces do not matter.
    pub code: String,
}

/// Join a class by its code.
#[utoipa::path(post, path = "/classes/join", tag = "class", request_body = JoinCode,
    responses((status = 200, body = ClassView), (status = 404, body = Problem), (status = 409, body = Problem), (status = 429, body = Problem)))]
async fn join_class(State(app): State<App>, Me(me): Me, Body(j): Body<JoinCode>) -> Answer<Json<ClassView>> {
    tries::allow(&app, &format!("join {}", me.id), CODES).await?;
    let id = classes::join(&app, me.id, &j.code).await?;
    classes::view(&app, me.id, id).await.map(Json)
}

/// One class.
#[utoipa::path(get, path = "/classes/{id}", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = ClassView), (status = 404, body = Problem)))]
async fn one_class(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<ClassView>> {
    classes::view(&app, me.id, id).await.map(Json)
}

/// Change a class: name, code, room, consent, whether it is laid aside.
#[utoipa::path(patch, path = "/classes/{id}", tag = "class", params(("id" = Uuid, Path)), request_body = ClassEdit,
    responses((status = 200, body = ClassView), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn change_class(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<ClassEdit>,
) -> Answer<Json<ClassView>> {
    classes::change(&app, me.id, id, &e).await.map(Json)
}

/// A seat to give.
#[derive(Deserialize, ToSchema)]
pub struct SeatEdit {
    /// Which.
    pub seat: Seat,
}

/// Give a member another seat.
#[utoipa::path(put, path = "/classes/{id}/members/{account}", tag = "class", params(("id" = Uuid, Path), ("account" = Uuid, Path)), request_body = SeatEdit,
    responses((status = 200, body = ClassView), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn change_seat(
    State(app): State<App>,
    Me(me): Me,
    Path((id, account)): Path<(Uuid, Uuid)>,
    Body(e): Body<SeatEdit>,
) -> Answer<Json<ClassView>> {
    reseat(&app, me.id, id, account, e.seat).await?;
    classes::view(&app, me.id, id).await.map(Json)
}

/// Take a member out of a class, or leave it; what they handed in stays.
#[utoipa::path(delete, path = "/classes/{id}/members/{account}", tag = "class", params(("id" = Uuid, Path), ("account" = Uuid, Path)),
    responses((status = 204), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn take_out(State(app): State<App>, Me(me): Me, Path((id, account)): Path<(Uuid, Uuid)>) -> Answer<StatusCode> {
    remove_member(&app, me.id, id, account).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// What was done in a class, the newest first; for those who teach it.
#[utoipa::path(get, path = "/classes/{id}/audit", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<AuditLine>), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn class_audit(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<AuditLine>>> {
    must_teach(&app, me.id, id).await?;
    audited(&app, id).await.map(Json)
}

/// The assignments of a class.
#[utoipa::path(get, path = "/classes/{id}/assignments", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<AssignmentCard>), (status = 404, body = Problem)))]
async fn class_assignments(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
) -> Answer<Json<Vec<AssignmentCard>>> {
    assignments::of_class(&app, me.id, id).await.map(Json)
}

/// Set an assignment.
#[utoipa::path(post, path = "/classes/{id}/assignments", tag = "class", params(("id" = Uuid, Path)), request_body = AssignmentEdit,
    responses((status = 201, body = AssignmentView), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn set_assignment(
    State(app): State<App>,
    Me(me): Me,
    Path(class): Path<Uuid>,
    Body(e): Body<AssignmentEdit>,
) -> Answer<(StatusCode, Json<AssignmentView>)> {
    let id = assignments::create(&app, me.id, class, e).await?;
    Ok((StatusCode::CREATED, Json(assignments::view(&app, me.id, id).await?)))
}

/// One assignment.
#[utoipa::path(get, path = "/assignments/{id}", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = AssignmentView), (status = 404, body = Problem)))]
async fn one_assignment(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<AssignmentView>> {
    assignments::view(&app, me.id, id).await.map(Json)
}

/// Change an assignment. A date that is moved counts for what was handed in before, to nobody's harm.
#[utoipa::path(put, path = "/assignments/{id}", tag = "class", params(("id" = Uuid, Path)), request_body = AssignmentEdit,
    responses((status = 200, body = AssignmentView), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn change_assignment(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<AssignmentEdit>,
) -> Answer<Json<AssignmentView>> {
    assignments::change(&app, me.id, id, e).await.map(Json)
}

/// Remove an assignment for which nothing was handed in.
#[utoipa::path(delete, path = "/assignments/{id}", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn remove_assignment(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<StatusCode> {
    assignments::remove(&app, me.id, id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Which copy of a picture of a class.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct CopySize {
    /// Small: at most 420 pixels; else at most 2000.
    #[serde(default)]
    pub thumb: bool,
}

/// A copy of a picture of a class.
pub(crate) async fn copy_of(app: &App, hash: &str, size: &CopySize) -> Answer<Response> {
    let bytes = app.store.get(hash, if size.thumb { "thumb.jpg" } else { "view.jpg" }).await?;
    Response::builder()
        .header(header::CONTENT_TYPE, "image/jpeg")
        .header(header::CACHE_CONTROL, "private, max-age=3600")
        .body(HttpBody::from(bytes))
        .map_err(Problem::internal)
}

/// The reference of an assignment.
#[utoipa::path(get, path = "/assignments/{id}/picture", tag = "class", params(("id" = Uuid, Path), CopySize),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem)))]
async fn reference_picture(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Query(size): Query<CopySize>,
) -> Answer<Response> {
    let (k, seat) = seen_by(&app, me.id, id).await?;
    let shown = assignments::reference_shown(&app, me.id, id, &k, seat).await?;
    let Some(r) = k.reference.filter(|_| shown) else {
        return Err(Problem::not_found("It has no reference, or it is shown once you have handed in."));
    };
    copy_of(&app, &r.hash, &size).await
}

/// The gradebook of a class: all rows for those who teach, one's own for a student.
#[utoipa::path(get, path = "/classes/{id}/gradebook", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, body = Gradebook), (status = 404, body = Problem)))]
async fn class_gradebook(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Gradebook>> {
    gradebook(&app, me.id, id).await.map(Json)
}

/// The gradebook as a table (CSV, RFC 4180); for those who teach.
#[utoipa::path(get, path = "/classes/{id}/gradebook.csv", tag = "class", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "text/csv"), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn gradebook_table(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Response> {
    must_teach(&app, me.id, id).await?;
    let book = gradebook(&app, me.id, id).await?;
    let titles: Vec<String> = book.assignments.iter().map(|a| a.title.clone()).collect();
    let table = classroom::as_table(&titles, &book.rows).map_err(Problem::internal)?;
    Response::builder()
        .header(header::CONTENT_TYPE, "text/csv; charset=utf-8")
        .header(header::CONTENT_DISPOSITION, "attachment; filename=\"gradebook.csv\"")
        .body(HttpBody::from(table))
        .map_err(Problem::internal)
}

/// My notices with how many are unread.
#[derive(Serialize, ToSchema)]
pub struct Notices {
    /// Unread.
    pub unread: usize,
    /// The newest first.
    pub notices: Vec<Notice>,
}

/// My notices.
#[utoipa::path(get, path = "/notices", tag = "class", responses((status = 200, body = Notices), (status = 401, body = Problem)))]
async fn my_notices(State(app): State<App>, Me(me): Me) -> Answer<Json<Notices>> {
    let notices = notices(&app, me.id).await?;
    Ok(Json(Notices { unread: notices.iter().filter(|n| !n.seen).count(), notices }))
}

/// I have seen them.
#[utoipa::path(post, path = "/notices", tag = "class", responses((status = 204), (status = 401, body = Problem)))]
async fn notices_seen(State(app): State<App>, Me(me): Me) -> Answer<StatusCode> {
    seen(&app, me.id).await?;
    Ok(StatusCode::NO_CONTENT)
}

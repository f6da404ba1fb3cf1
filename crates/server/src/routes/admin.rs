//! The administrator's page: accounts and roles, who may sign up, what is stored, jobs.

use crate::App;
use crate::accounts::{Account, Me, Role};
use crate::problem::{Answer, Body, Problem};
use crate::records::admin::{
    Installation, SignUp, audited_all, installation, invite, set_role, set_sign_up, take_back,
};
use crate::records::classes::AuditLine;
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::Response;
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(the_installation, change_installation))
        .routes(routes!(change_role))
        .routes(routes!(make_invitation))
        .routes(routes!(take_invitation_back))
        .routes(routes!(whole_audit))
        .routes(routes!(accounts_table))
}

fn must_run(me: &Account) -> Answer<()> {
    if Role::of(&me.role) == Role::Administrator {
        Ok(())
    } else {
        Err(Problem::forbidden("This page is for administrators."))
    }
}

/// The installation as it stands; for administrators.
#[utoipa::path(get, path = "/installation", tag = "administration",
    responses((status = 200, body = Installation), (status = 401, body = Problem), (status = 403, body = Problem)))]
async fn the_installation(State(app): State<App>, Me(me): Me) -> Answer<Json<Installation>> {
    must_run(&me)?;
    installation(&app).await.map(Json)
}

/// What can be set of the installation.
#[derive(Deserialize, ToSchema)]
pub struct InstallationEdit {
    /// Who may make an account.
    pub sign_up: SignUp,
}

/// Set who may make an account; for administrators.
#[utoipa::path(put, path = "/installation", tag = "administration", request_body = InstallationEdit,
    responses((status = 200, body = Installation), (status = 401, body = Problem), (status = 403, body = Problem)))]
async fn change_installation(
    State(app): State<App>,
    Me(me): Me,
    Body(e): Body<InstallationEdit>,
) -> Answer<Json<Installation>> {
    must_run(&me)?;
    set_sign_up(&app, e.sign_up).await?;
    installation(&app).await.map(Json)
}

/// A role to give.
#[derive(Deserialize, ToSchema)]
pub struct RoleEdit {
    /// Which.
    pub role: Role,
}

/// Give an account another role; for administrators.
#[utoipa::path(put, path = "/installation/accounts/{id}", tag = "administration", params(("id" = Uuid, Path)), request_body = RoleEdit,
    responses((status = 200, body = Installation), (status = 401, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn change_role(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<RoleEdit>,
) -> Answer<Json<Installation>> {
    must_run(&me)?;
    set_role(&app, me.id, id, e.role).await?;
    installation(&app).await.map(Json)
}

/// An invitation to make.
#[derive(Deserialize, ToSchema)]
pub struct NewInvitation {
    /// Role of the accounts made with it: student or instructor.
    pub role: Role,
    /// Accounts that can be made with it.
    pub many: i32,
}

/// Make an invitation; for administrators.
#[utoipa::path(post, path = "/installation/invitations", tag = "administration", request_body = NewInvitation,
    responses((status = 200, body = Installation), (status = 400, body = Problem), (status = 401, body = Problem), (status = 403, body = Problem), (status = 409, body = Problem)))]
async fn make_invitation(
    State(app): State<App>,
    Me(me): Me,
    Body(n): Body<NewInvitation>,
) -> Answer<Json<Installation>> {
    must_run(&me)?;
    invite(&app, me.id, n.role, n.many).await?;
    installation(&app).await.map(Json)
}

/// Take an invitation back; for administrators.
#[utoipa::path(delete, path = "/installation/invitations/{code}", tag = "administration", params(("code" = String, Path)),
    responses((status = 200, body = Installation), (status = 401, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn take_invitation_back(
    State(app): State<App>,
    Me(me): Me,
    Path(code): Path<String>,
) -> Answer<Json<Installation>> {
    must_run(&me)?;
    take_back(&app, &code).await?;
    installation(&app).await.map(Json)
}

/// What was done in all classes, the newest first; for administrators.
#[utoipa::path(get, path = "/installation/audit", tag = "administration",
    responses((status = 200, body = Vec<AuditLine>), (status = 401, body = Problem), (status = 403, body = Problem)))]
async fn whole_audit(State(app): State<App>, Me(me): Me) -> Answer<Json<Vec<AuditLine>>> {
    must_run(&me)?;
    audited_all(&app).await.map(Json)
}

/// The accounts as a table (CSV, RFC 4180); for administrators.
#[utoipa::path(get, path = "/installation/accounts.csv", tag = "administration",
    responses((status = 200, content_type = "text/csv"), (status = 401, body = Problem), (status = 403, body = Problem)))]
async fn accounts_table(State(app): State<App>, Me(me): Me) -> Answer<Response> {
    must_run(&me)?;
    let all = installation(&app).await?.accounts;
    let rows: Vec<[String; 5]> = all
        .into_iter()
        .map(|a| [a.name, a.email, a.role.word().into(), a.cases.to_string(), a.since.date().to_string()])
        .collect();
    let table =
        classroom::plain_table(["Name", "Address", "Role", "Cases", "Since"], &rows).map_err(Problem::internal)?;
    Response::builder()
        .header(header::CONTENT_TYPE, "text/csv; charset=utf-8")
        .header(header::CONTENT_DISPOSITION, "attachment; filename=\"accounts.csv\"")
        .body(HttpBody::from(table))
        .map_err(Problem::internal)
}

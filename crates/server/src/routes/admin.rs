//! The administrator's page: accounts and roles, who may sign up, what is stored, jobs.

use crate::App;
use crate::accounts::{Account, Me, Role};
use crate::problem::{Answer, Body, Problem};
use crate::records::admin::{Installation, SignUp, installation, set_role, set_sign_up};
use axum::Json;
use axum::extract::{Path, State};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(the_installation, change_installation)).routes(routes!(change_role))
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

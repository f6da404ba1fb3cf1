//! Building a case's set: the order of work, what to expect, what was measured.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::versioned::{BUILDS, add, newest};
use crate::routes::kit::kit_of;
use crate::routes::sets::newest_view;
use axum::Json;
use axum::extract::{Path, Query, State};
use lightset::set::LightSet;
use planning::build::{BuildLog, BuildPlan, OneLampPlan, build, one_lamp};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(current_build, save_build)).routes(routes!(with_one_lamp))
}

/// How to build the set of a case, with what was done so far.
#[derive(Serialize, ToSchema)]
pub struct BuildView {
    /// Version for the next edit; 0 before the first.
    pub version: i64,
    /// What was done and measured.
    pub log: BuildLog,
    /// The steps.
    pub plan: BuildPlan,
    /// The set that is built.
    pub set: LightSet,
}

/// A log made on a version.
#[derive(Deserialize, ToSchema)]
pub struct BuildEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// What was done and measured.
    pub log: BuildLog,
}

async fn view(app: &App, me: Uuid, case: Uuid, version: i64, log: BuildLog) -> Answer<BuildView> {
    let now = newest_view(app, case).await?;
    let kit = kit_of(app, me).await?.kit;
    let plan = build(&now.set, &now.meter, &kit, &log);
    Ok(BuildView { version, log, plan, set: now.set })
}

async fn latest(app: &App, me: Uuid, case: Uuid) -> Answer<BuildView> {
    let (version, log) = newest(app, BUILDS, case).await?.unwrap_or_default();
    view(app, me, case, version, log).await
}

/// How to build the set, light by light.
#[utoipa::path(get, path = "/cases/{id}/build", tag = "sets", params(("id" = Uuid, Path)),
    responses((status = 200, body = BuildView), (status = 404, body = Problem)))]
async fn current_build(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<BuildView>> {
    must_own(&app, me.id, case).await?;
    latest(&app, me.id, case).await.map(Json)
}

/// Which lamp is carried about.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Carried {
    /// Id of a lamp of the kit; the strongest that does if absent.
    lamp: Option<String>,
}

/// The set with one lamp that is carried from place to place: plates, or one long exposure with its clock.
#[utoipa::path(get, path = "/cases/{id}/build/one-lamp", tag = "sets", params(("id" = Uuid, Path), Carried),
    responses((status = 200, body = OneLampPlan), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn with_one_lamp(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Query(carried): Query<Carried>,
) -> Answer<Json<OneLampPlan>> {
    must_own(&app, me.id, case).await?;
    let now = newest_view(&app, case).await?;
    let kit = kit_of(&app, me.id).await?.kit;
    one_lamp(&now.set, &now.meter, &kit, carried.lamp.as_deref()).map(Json).map_err(Problem::bad)
}

/// Choose the order and the lamps, tick steps off, note what was measured.
#[utoipa::path(put, path = "/cases/{id}/build", tag = "sets", params(("id" = Uuid, Path)), request_body = BuildEdit,
    responses((status = 200, body = BuildView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn save_build(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(edit): Body<BuildEdit>,
) -> Answer<Json<BuildView>> {
    must_own(&app, me.id, case).await?;
    edit.log.check().map_err(Problem::bad)?;
    if !add(&app, BUILDS, case, me.id, edit.version, &edit.log).await? {
        let now = latest(&app, me.id, case).await?;
        return Err(Problem::stale("build", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    view(&app, me.id, case, edit.version + 1, edit.log).await.map(Json)
}

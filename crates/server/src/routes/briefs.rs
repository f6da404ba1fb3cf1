//! Briefs: the table, and one's own.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::briefs::{self, BriefView};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use judging::critique::{Askable, Brief, BriefKind, RuleView, askable, rule_views};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(all_briefs, copy_brief))
        .routes(routes!(change_brief, remove_brief))
        .routes(routes!(all_rules))
}

/// What pictures can be judged by: the table, and briefs of one's own.
#[utoipa::path(get, path = "/briefs", tag = "briefs", responses((status = 200, body = Vec<BriefView>), (status = 401, body = Problem)))]
async fn all_briefs(State(app): State<App>, Me(me): Me) -> Answer<Json<Vec<BriefView>>> {
    briefs::all(&app, me.id).await.map(Json)
}

/// A brief to copy.
#[derive(Deserialize, ToSchema)]
pub struct BriefCopy {
    /// Which.
    pub from: String,
    /// Name of the copy.
    pub name: String,
}

/// Copy a brief, to change the copy.
#[utoipa::path(post, path = "/briefs", tag = "briefs", request_body = BriefCopy,
    responses((status = 201, body = BriefView), (status = 400, body = Problem), (status = 409, body = Problem)))]
async fn copy_brief(
    State(app): State<App>,
    Me(me): Me,
    Body(new): Body<BriefCopy>,
) -> Answer<(StatusCode, Json<BriefView>)> {
    Ok((StatusCode::CREATED, Json(briefs::copy(&app, me.id, &new.from, &new.name).await?)))
}

/// A brief of one's own changed on a version.
#[derive(Deserialize, ToSchema)]
pub struct BriefEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// The brief.
    pub brief: Brief,
}

/// Change a brief of one's own.
#[utoipa::path(put, path = "/briefs/{id}", tag = "briefs", params(("id" = String, Path)), request_body = BriefEdit,
    responses((status = 200, body = BriefView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn change_brief(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<String>,
    Body(edit): Body<BriefEdit>,
) -> Answer<Json<BriefView>> {
    briefs::put(&app, me.id, &id, edit.version, edit.brief).await.map(Json)
}

/// Remove a brief of one's own; cases judged by it go back to the one it was copied from.
#[utoipa::path(delete, path = "/briefs/{id}", tag = "briefs", params(("id" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn remove_brief(State(app): State<App>, Me(me): Me, Path(id): Path<String>) -> Answer<StatusCode> {
    briefs::remove(&app, me.id, &id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// The rules of the verdict, and what briefs can ask.
#[derive(Serialize, ToSchema)]
pub struct RuleBook {
    /// Rules.
    pub rules: Vec<RuleView>,
    /// What a brief can ask of people and of things.
    pub askable: Vec<Askable>,
}

/// The rules of the verdict, and what briefs can ask.
#[utoipa::path(get, path = "/rules", tag = "briefs", responses((status = 200, body = RuleBook)))]
async fn all_rules() -> Json<RuleBook> {
    let askable = [BriefKind::Person, BriefKind::Thing].into_iter().flat_map(askable).collect();
    Json(RuleBook { rules: rule_views(), askable })
}

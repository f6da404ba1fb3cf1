//! The set of a case: choices are kept, the set is computed.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::marks::{MarkedFrame, newest};
use axum::Json;
use axum::extract::{Path, State};
use planning::rebuild::{Choices, SetPlan, plan};
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(current_plan, save_plan))
}

/// A set with the choices it was computed from.
#[derive(Serialize, ToSchema)]
pub struct PlanView {
    /// Version for the next edit; 0 before the first.
    pub version: i64,
    /// What was chosen.
    pub choices: Choices,
    /// The set.
    pub plan: SetPlan,
}

/// Choices made on a version.
#[derive(Deserialize, ToSchema)]
pub struct PlanEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// What is chosen.
    pub choices: Choices,
}

/// The reference picture of a case with its newest marks and reading.
pub(crate) struct Reference {
    pub id: Uuid,
    pub hash: String,
    pub facts: pictures::Facts,
    pub marked: MarkedFrame,
}

impl Reference {
    /// The set planned from it.
    pub fn plan(&self, choices: &Choices) -> SetPlan {
        plan(&self.marked.readings, &self.marked.marks, self.facts.width, self.facts.height, choices)
    }
}

/// The newest reference picture of a case.
pub(crate) async fn reference(app: &App, case: Uuid) -> Answer<Reference> {
    let frame: Option<(Uuid, String, Jsonb<pictures::Facts>)> = sqlx::query_as(
        "select id, file_hash, facts from frames where case_id = $1 and role = 'reference' order by created_at desc limit 1",
    )
    .bind(case)
    .fetch_optional(&app.pool)
    .await?;
    let (id, hash, facts) = frame.ok_or_else(|| Problem::not_found("The case has no reference picture yet."))?;
    let marked = newest(app, &hash, id).await?;
    Ok(Reference { id, hash, facts: facts.0, marked })
}

async fn compute(app: &App, case: Uuid, version: i64, choices: Choices) -> Answer<PlanView> {
    let plan = reference(app, case).await?.plan(&choices);
    Ok(PlanView { version, choices, plan })
}

/// The newest choices with their version.
pub(crate) async fn latest(app: &App, case: Uuid) -> Answer<(i64, Choices)> {
    let row: Option<(i64, Jsonb<Choices>)> =
        sqlx::query_as("select version, choices from plans where case_id = $1 order by version desc limit 1")
            .bind(case)
            .fetch_optional(&app.pool)
            .await?;
    Ok(row.map_or((0, Choices::default()), |(v, c)| (v, c.0)))
}

/// The set of a case.
#[utoipa::path(get, path = "/cases/{id}/plan", tag = "plans", params(("id" = Uuid, Path)),
    responses((status = 200, body = PlanView), (status = 404, body = Problem)))]
async fn current_plan(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<PlanView>> {
    must_own(&app, me.id, case).await?;
    let (version, choices) = latest(&app, case).await?;
    compute(&app, case, version, choices).await.map(Json)
}

/// Choose modifiers, heights, distances, exposure.
#[utoipa::path(put, path = "/cases/{id}/plan", tag = "plans", params(("id" = Uuid, Path)), request_body = PlanEdit,
    responses((status = 200, body = PlanView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn save_plan(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(edit): Body<PlanEdit>,
) -> Answer<Json<PlanView>> {
    must_own(&app, me.id, case).await?;
    edit.choices.check().map_err(Problem::bad)?;
    let done = sqlx::query(
        "insert into plans (case_id, version, choices, author)
         select $1, $2 + 1, $3, $4 where coalesce((select max(version) from plans where case_id = $1), 0) = $2
         on conflict do nothing",
    )
    .bind(case)
    .bind(edit.version)
    .bind(Jsonb(&edit.choices))
    .bind(me.id)
    .execute(&app.pool)
    .await?;
    if done.rows_affected() == 0 {
        let (version, choices) = latest(&app, case).await?;
        let now = compute(&app, case, version, choices).await?;
        return Err(Problem::stale("set", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    compute(&app, case, edit.version + 1, edit.choices).await.map(Json)
}

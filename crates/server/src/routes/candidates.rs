//! Sets that could have made a case's picture, and outcomes of the tests between them.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::versioned::{OUTCOMES, add, newest};
use crate::routes::kit::kit_of;
use crate::routes::plans::reference;
use crate::routes::sets::staged;
use crate::work::Pace;
use axum::Json;
use axum::extract::{Path, Query, State};
use lightset::kit::{Kit, catalogue};
use planning::rebuild::Candidates;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(case_candidates)).routes(routes!(save_outcomes))
}

/// What sets may be made of.
#[derive(Debug, Clone, Copy, Default, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum MadeOf {
    /// What I own.
    #[default]
    Mine,
    /// What is found at home.
    Household,
    /// Everything the program knows.
    All,
}

/// Which kit to rebuild with.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct CandidatesOf {
    /// What sets may be made of; what I own if absent.
    #[serde(default)]
    #[param(inline)]
    of: MadeOf,
}

/// Candidates with the outcomes they were judged by.
#[derive(Serialize, ToSchema)]
pub struct CandidatesView {
    /// Version of the outcomes, for the next edit.
    pub version: i64,
    /// Outcomes entered: reading by test.
    pub outcomes: BTreeMap<String, f64>,
    /// The candidates.
    pub candidates: Candidates,
}

/// Outcomes made on a version.
#[derive(Deserialize, ToSchema)]
pub struct OutcomesEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// Reading by test: `key:hot`.
    pub outcomes: BTreeMap<String, f64>,
}

/// What sets may be made of, by who asks.
pub(crate) async fn kit_for(app: &App, me: Uuid, of: MadeOf) -> Answer<Kit> {
    let mine = kit_of(app, me).await?.kit;
    Ok(match of {
        MadeOf::Household => Kit { ceiling_m: mine.ceiling_m, ..Kit::household() },
        MadeOf::All => Kit { ceiling_m: mine.ceiling_m, ..catalogue().clone() },
        MadeOf::Mine => mine,
    })
}

async fn view(app: &App, me: Uuid, case: Uuid, of: MadeOf) -> Answer<CandidatesView> {
    let (version, outcomes): (i64, BTreeMap<String, f64>) = newest(app, OUTCOMES, case).await?.unwrap_or_default();
    let reference = reference(app, case).await?;
    let base = staged(app, case, &reference).await?;
    let kit = kit_for(app, me, of).await?;
    let (candidates, outcomes) = app
        .work
        .run(Pace::Heavy, move || {
            let found = adviser::candidates(&reference.marked.readings, &base, &kit, &outcomes);
            (found, outcomes)
        })
        .await?;
    Ok(CandidatesView { version, outcomes, candidates })
}

/// Sets that could have made the picture, best first, with the tests that tell them apart.
#[utoipa::path(get, path = "/cases/{id}/candidates", tag = "sets", params(("id" = Uuid, Path), CandidatesOf),
    responses((status = 200, body = CandidatesView), (status = 404, body = Problem)))]
async fn case_candidates(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Query(q): Query<CandidatesOf>,
) -> Answer<Json<CandidatesView>> {
    must_own(&app, me.id, case).await?;
    view(&app, me.id, case, q.of).await.map(Json)
}

/// Enter or withdraw outcomes of tests; the candidates are judged anew.
#[utoipa::path(put, path = "/cases/{id}/outcomes", tag = "sets", params(("id" = Uuid, Path), CandidatesOf), request_body = OutcomesEdit,
    responses((status = 200, body = CandidatesView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn save_outcomes(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Query(q): Query<CandidatesOf>,
    Body(edit): Body<OutcomesEdit>,
) -> Answer<Json<CandidatesView>> {
    must_own(&app, me.id, case).await?;
    if edit.outcomes.len() > 60 || edit.outcomes.iter().any(|(k, v)| k.len() > 80 || !v.is_finite() || v.abs() > 1000.0)
    {
        return Err(Problem::bad("outcomes: expected at most 60 numbers, each under 1000"));
    }
    if !add(&app, OUTCOMES, case, me.id, edit.version, &edit.outcomes).await? {
        let now = view(&app, me.id, case, q.of).await?;
        return Err(Problem::stale("test", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    view(&app, me.id, case, q.of).await.map(Json)
}

//! The bench: sums of the light path. Nothing is kept.

use crate::App;
use crate::problem::{Answer, Body, Problem};
use axum::Json;
use planning::bench::{BenchAnswer, BenchQuestion, Sum, answer, bench};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(bench_sums, ask_bench))
}

/// The sums of the bench with their figures.
#[utoipa::path(get, path = "/bench", tag = "bench", responses((status = 200, body = Vec<Sum>)))]
async fn bench_sums() -> Json<Vec<Sum>> {
    Json(bench().to_vec())
}

/// Work out a sum, or solve it for one of its figures.
#[utoipa::path(post, path = "/bench", tag = "bench", request_body = BenchQuestion,
    responses((status = 200, body = BenchAnswer), (status = 400, body = Problem)))]
async fn ask_bench(Body(q): Body<BenchQuestion>) -> Answer<Json<BenchAnswer>> {
    answer(&q).map(Json).map_err(Problem::bad)
}

//! Health and readiness, for balancers and start scripts.

use crate::App;
use axum::Router;
use axum::extract::State;
use axum::http::StatusCode;
use axum::routing::get;

pub(crate) fn routes() -> Router<App> {
    Router::new().route("/health/live", get(|| async { "alive\n" })).route("/health/ready", get(ready))
}

async fn ready(State(app): State<App>) -> (StatusCode, &'static str) {
    match sqlx::query("select 1").execute(&app.pool).await {
        Ok(_) => (StatusCode::OK, "ready\n"),
        Err(_) => (StatusCode::SERVICE_UNAVAILABLE, "the database cannot be reached\n"),
    }
}

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
    if sqlx::query("select 1").execute(&app.pool).await.is_err() {
        return (StatusCode::SERVICE_UNAVAILABLE, "the database cannot be reached\n");
    }
    match app.store.can_write().await {
        Ok(()) => (StatusCode::OK, "ready\n"),
        Err(_) => (StatusCode::SERVICE_UNAVAILABLE, "the store cannot be written\n"),
    }
}

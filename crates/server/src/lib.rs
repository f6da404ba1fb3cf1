//! The web application: thin handlers around the core.
//!
//! A handler parses, authorises, calls and answers. Rules of the job live in `light`, file formats in
//! `pictures`; PostgreSQL is the record, pictures lie in an object store.

mod accounts;
mod demo;
mod exports;
mod live;
mod opening;
mod prepared;
mod problem;
mod records;
mod reports;
mod routes;
mod state;
mod store;
mod sweeping;
mod tries;
mod work;
mod worker;

use axum::extract::DefaultBodyLimit;
use axum::http::{HeaderName, HeaderValue, header};
use axum::middleware::{self, Next};
use axum::response::{IntoResponse, Response};
use axum::serve::ListenerExt;
use axum::{Router, extract::Request};
use axum_login::AuthManagerLayerBuilder;
use std::net::SocketAddr;
use std::path::PathBuf;
use tower_http::catch_panic::CatchPanicLayer;
use tower_http::compression::CompressionLayer;
use tower_http::services::{ServeDir, ServeFile};
use tower_http::set_header::SetResponseHeaderLayer;
use tower_http::trace::TraceLayer;
use tower_sessions::cookie::SameSite;
use tower_sessions::cookie::time::Duration;
use tower_sessions::{Expiry, SessionManagerLayer};
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;

pub use opening::decode_for_server;
pub use state::App;

/// How the server runs.
#[derive(Debug, Clone)]
pub struct Config {
    /// PostgreSQL connection string.
    pub database_url: String,
    /// Address to listen on.
    pub listen: SocketAddr,
    /// Where pictures are kept: a folder, or `s3://BUCKET/FOLDER` (region, endpoint and keys from `AWS_...`).
    pub store: String,
    /// Folder to watch: pictures put into its folder of a case become takes.
    pub tether: Option<PathBuf>,
    /// Folder of the built front end.
    pub web: PathBuf,
    /// Program that decodes pictures in a process of its own when called with `decode`; without one they are decoded here.
    pub decoder: Option<PathBuf>,
    /// Load the demo data if the database is empty.
    pub demo: bool,
    /// What this process does.
    pub role: ProcessRole,
}

/// What a process of the server does; several on one database share the work.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub enum ProcessRole {
    /// Answers requests and does jobs.
    #[default]
    All,
    /// Answers requests; jobs are left to workers.
    Web,
    /// Does jobs and watches the folder; answers no requests.
    Worker,
}

#[derive(OpenApi)]
#[openapi(
    info(
        title = "Slant Cast",
        description = "Reads the light in pictures. All answers that are not 2xx are problem documents (RFC 9457)."
    ),
    // formats of files that no route takes or gives as JSON
    components(schemas(plates::layers::MixRecipe, series::SeriesRecipe, report::Report))
)]
struct ApiDoc;

fn api() -> OpenApiRouter<App> {
    OpenApiRouter::with_openapi(ApiDoc::openapi())
        .merge(accounts::routes())
        .merge(routes::admin::routes())
        .merge(routes::bench::routes())
        .merge(routes::briefs::routes())
        .merge(routes::builds::routes())
        .merge(routes::candidates::routes())
        .merge(routes::cases::routes())
        .merge(routes::calibration::routes())
        .merge(routes::classes::routes())
        .merge(routes::class_work::routes())
        .merge(routes::compare::routes())
        .merge(routes::frames::routes())
        .merge(routes::jobs::routes())
        .merge(routes::kit::routes())
        .merge(routes::marks::routes())
        .merge(routes::plans::routes())
        .merge(routes::recipes::routes())
        .merge(routes::rounds::routes())
        .merge(routes::sets::routes())
        .merge(routes::set_parts::routes())
        .merge(routes::set_picture::routes())
        .merge(routes::plates::routes())
        .merge(routes::series::routes())
        .merge(routes::verdict::routes())
        .merge(routes::wishes::routes())
        .merge(routes::shot::routes())
        .merge(routes::submissions::routes())
        .merge(routes::tables::routes())
        .merge(routes::takes::routes())
        .merge(routes::tether::routes())
}

/// The OpenAPI description of all routes.
pub fn openapi() -> utoipa::openapi::OpenApi {
    let mut doc = OpenApiRouter::new().nest("/api", api()).split_for_parts().1;
    doc.info = ApiDoc::openapi().info;
    doc
}

/// Connects, migrates, loads demo data if asked to.
///
/// # Errors
/// If the database cannot be reached or migrated.
pub async fn prepare(config: &Config) -> anyhow::Result<App> {
    let app = App::connect(config).await?;
    if config.demo {
        demo::load_once(&app).await?;
    }
    let swept = sweeping::sweep_orphans(&app).await?;
    if swept > 0 {
        tracing::info!(swept, "removed picture files that belong to no frame");
    }
    Ok(app)
}

/// Largest body in bytes that is not a picture: a set with a few measured luminaires.
const MOST_JSON: usize = 4_000_000;

/// All routes with their layers.
pub fn router(app: App, web: &std::path::Path) -> Router {
    let sessions = SessionManagerLayer::new(records::sessions::PgSessions(app.pool.clone()))
        .with_name("slantcast")
        .with_same_site(SameSite::Strict)
        .with_http_only(true)
        .with_secure(false)
        .with_expiry(Expiry::OnInactivity(Duration::days(14)));
    let auth =
        AuthManagerLayerBuilder::new(accounts::Backend { pool: app.pool.clone(), work: app.work.clone() }, sessions)
            .build();
    let (routes, doc) = OpenApiRouter::new().nest("/api", api()).split_for_parts();
    let index = web.join("index.html");
    let files = ServeDir::new(web).fallback(ServeFile::new(index));
    let csp = "default-src 'self'; img-src 'self' blob: data:; media-src 'self' blob:; style-src 'self'; script-src 'self'; \
               object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
    let set = |name: &'static str, value: &'static str| {
        SetResponseHeaderLayer::if_not_present(HeaderName::from_static(name), HeaderValue::from_static(value))
    };
    routes
        .route("/api/openapi.json", axum::routing::get(move || async move { axum::Json(doc) }))
        .route("/api/{*rest}", axum::routing::any(|| async { problem::Problem::not_found("There is no such route.") }))
        .merge(routes::health::routes())
        .layer(middleware::from_fn(same_origin))
        .layer(auth)
        .layer(middleware::from_fn(problem::as_problem))
        .layer(DefaultBodyLimit::max(MOST_JSON))
        .with_state(app)
        .fallback_service(files)
        .layer(middleware::from_fn(cache_rules))
        .layer(CompressionLayer::new().gzip(true))
        .layer(set("content-security-policy", csp))
        .layer(set("x-content-type-options", "nosniff"))
        .layer(set("referrer-policy", "same-origin"))
        .layer(CatchPanicLayer::custom(|_: Box<dyn std::any::Any + Send>| {
            problem::Problem::internal("a handler panicked").into_response()
        }))
        .layer(TraceLayer::new_for_http())
}

/// Changes must come from our own pages: browsers say where a request was made.
async fn same_origin(request: Request, next: Next) -> Response {
    let safe = request.method().is_safe();
    let site = request.headers().get("sec-fetch-site").and_then(|v| v.to_str().ok());
    if !safe && matches!(site, Some("cross-site" | "same-site")) {
        return problem::Problem::forbidden("This request came from another site.").into_response();
    }
    next.run(request).await
}

/// The face finder compiles code at run time: it lives in a frame of its own that may, and that nobody
/// else may show.
const FINDER_POLICY: &str = "default-src 'self'; img-src 'self' blob: data:; media-src 'self' blob:; object-src 'none'; base-uri 'none'; \
     script-src 'self' 'unsafe-eval' 'wasm-unsafe-eval' blob:; form-action 'none'; frame-ancestors 'self'";

/// Built assets carry a hash in their name and never change; everything else is asked for anew.
async fn cache_rules(request: Request, next: Next) -> Response {
    let fixed = request.uri().path().starts_with("/assets/");
    let finder = request.uri().path().starts_with("/finder/");
    let mut response = next.run(request).await;
    let rule = if fixed { "public, max-age=31536000, immutable" } else { "no-cache" };
    if finder {
        response.headers_mut().insert(header::CONTENT_SECURITY_POLICY, HeaderValue::from_static(FINDER_POLICY));
    }
    response.headers_mut().entry(header::CACHE_CONTROL).or_insert(HeaderValue::from_static(rule));
    response
}

/// Serves until `stop` resolves.
///
/// # Errors
/// If the address is taken or the server fails.
pub async fn serve(config: &Config, stop: impl Future<Output = ()> + Send + 'static) -> anyhow::Result<()> {
    let bind = async {
        tokio::net::TcpListener::bind(config.listen).await.map_err(|e| {
            let at = config.listen;
            anyhow::anyhow!("cannot listen on {at}: {e} - choose another port with --listen or SLANTCAST_PORT")
        })
    };
    let listener = if config.role == ProcessRole::Worker { None } else { Some(bind.await?) };
    let app = prepare(config).await?;
    let mut beside = vec![tokio::spawn(sweeping::keep_swept(app.clone()))];
    if config.role != ProcessRole::Web {
        beside.push(tokio::spawn(routes::tether::watch(app.clone())));
        beside.push(tokio::spawn(worker::work(app.clone())));
    }
    let Some(listener) = listener else {
        tracing::info!("working");
        stop.await;
        beside.iter().for_each(tokio::task::JoinHandle::abort);
        return Ok(());
    };
    beside.push(tokio::spawn(app.live.clone().hear(app.pool.clone())));
    let live = app.live.clone();
    let stop = async move {
        stop.await;
        // who watches a round would hold the server up
        live.close();
    };
    let router = router(app, &config.web);
    tokio::task::spawn_blocking(|| {
        studio::warm();
        studio::stand_ins();
    });
    tracing::info!(address = %listener.local_addr()?, "listening");
    // lines of a drawing are small: none must wait for an acknowledgement
    let listener = listener.tap_io(|s| drop(s.set_nodelay(true)));
    axum::serve(listener, router.into_make_service_with_connect_info::<SocketAddr>())
        .with_graceful_shutdown(stop)
        .await?;
    beside.iter().for_each(tokio::task::JoinHandle::abort);
    Ok(())
}

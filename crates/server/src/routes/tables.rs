//! The core's tables, and the slant line.

use crate::App;
use crate::problem::{Answer, Body, Problem};
use axum::Json;
use evidence::methods::{Method, methods};
use evidence::wedge::{GreyTarget, targets};
use lightset::kit::{Kit, catalogue};
use lightset::notation::SlantLine;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(grey_targets))
        .routes(routes!(all_methods))
        .routes(routes!(whole_catalogue))
        .routes(routes!(parse_slant))
}

/// Everything the program knows to light with.
#[utoipa::path(get, path = "/catalogue", tag = "tables", responses((status = 200, body = Kit)))]
async fn whole_catalogue() -> Json<Kit> {
    Json(catalogue().clone())
}

/// How each kind of mark is read.
#[utoipa::path(get, path = "/methods", tag = "tables", responses((status = 200, body = Vec<Method>)))]
async fn all_methods() -> Json<Vec<Method>> {
    Json(methods().to_vec())
}

/// Targets of grey steps a tone curve can be read from.
#[utoipa::path(get, path = "/grey-targets", tag = "tables", responses((status = 200, body = Vec<GreyTarget>)))]
async fn grey_targets() -> Json<Vec<GreyTarget>> {
    Json(targets().to_vec())
}

/// A slant line as typed.
#[derive(Deserialize, ToSchema)]
pub struct SlantText {
    /// The line.
    pub line: String,
}

/// A slant line as understood.
#[derive(Serialize, ToSchema)]
pub struct SlantParsed {
    /// The line as the program writes it.
    pub line: String,
    /// Its lights.
    pub lights: Vec<SlantLightView>,
}

/// One light of a slant line.
#[derive(Serialize, ToSchema)]
pub struct SlantLightView {
    /// Name.
    pub name: String,
    /// Degrees, positive to camera right.
    pub azimuth_deg: f64,
    /// Degrees, positive up.
    pub elevation_deg: f64,
    /// Full angle in degrees.
    pub angular_size_deg: Option<f64>,
    /// Stops relative to the key.
    pub level_stops: Option<f64>,
}

/// Read a slant line.
#[utoipa::path(post, path = "/slant", tag = "tables", request_body = SlantText,
    responses((status = 200, body = SlantParsed), (status = 400, body = Problem)))]
async fn parse_slant(Body(text): Body<SlantText>) -> Answer<Json<SlantParsed>> {
    let line: SlantLine = text.line.parse().map_err(Problem::bad)?;
    let lights = line
        .0
        .iter()
        .map(|l| SlantLightView {
            name: l.name.clone(),
            azimuth_deg: l.azimuth_deg,
            elevation_deg: l.elevation_deg,
            angular_size_deg: l.angular_size_deg,
            level_stops: l.level_stops,
        })
        .collect();
    Ok(Json(SlantParsed { line: line.to_string(), lights }))
}

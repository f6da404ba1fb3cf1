//! Parts of a set worked out for it: filters, barn doors, the sun. Nothing is saved: the set that is open takes them.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::routes::kit::kit_of;
use crate::routes::sets::parse_set;
use crate::work::Pace;
use axum::Json;
use axum::extract::{Path, State};
use lightset::daylight::{SunStands, SunWanted, sun_light};
use lightset::doors::{Doors, doors};
use lightset::gel::{Gel, gels, with_gel};
use lightset::line::{LinePlan, LineWanted, line};
use lightset::set::{LightSet, SetLight};
use lightset::window::{Sheer, WindowWanted, sheers, through_window};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(all_gels))
        .routes(routes!(put_gel))
        .routes(routes!(hang_doors))
        .routes(routes!(place_sun))
        .routes(routes!(all_sheers))
        .routes(routes!(draw_line))
}

/// A filter for a light of a set.
#[derive(Deserialize, ToSchema)]
pub struct GelWanted {
    /// The set as it stands.
    #[schema(value_type = LightSet)]
    pub set: serde_json::Value,
    /// Place of the light in its list.
    pub light: usize,
    /// Id of the filter; none if absent.
    #[serde(default)]
    pub gel: Option<String>,
}

/// A light with its filter.
#[derive(Serialize, ToSchema)]
pub struct Gelled {
    /// The light.
    pub light: SetLight,
    /// What the filter does, in a sentence.
    pub says: String,
}

/// Barn doors for a light of a set.
#[derive(Deserialize, ToSchema)]
pub struct DoorsWanted {
    /// The set as it stands.
    #[schema(value_type = LightSet)]
    pub set: serde_json::Value,
    /// Place of the light in its list.
    pub light: usize,
    /// How far they are open, degrees: 90 stand straight out of the face.
    pub open_deg: f64,
}

/// A line on a product of a set.
#[derive(Deserialize, ToSchema)]
pub struct LineAsked {
    /// The set as it stands.
    #[schema(value_type = LightSet)]
    pub set: serde_json::Value,
    /// The line.
    pub line: LineWanted,
}

fn no_light(i: usize) -> String {
    format!("light: there is no light {}", i + 1)
}

/// All filters the program knows.
#[utoipa::path(get, path = "/gels", tag = "tables", responses((status = 200, body = Vec<Gel>)))]
async fn all_gels() -> Json<Vec<Gel>> {
    Json(gels().to_vec())
}

/// Put a filter on a light, or take it off: its dial is left alone.
#[utoipa::path(post, path = "/cases/{id}/set/gel", tag = "sets", params(("id" = Uuid, Path)), request_body = GelWanted,
    responses((status = 200, body = Gelled), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn put_gel(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(wanted): Body<GelWanted>,
) -> Answer<Json<Gelled>> {
    must_own(&app, me.id, case).await?;
    let set = parse_set(wanted.set)?;
    let light = set.lights.get(wanted.light).ok_or_else(|| Problem::bad(no_light(wanted.light)))?;
    let (light, says) = with_gel(light, wanted.gel.as_deref()).map_err(Problem::bad)?;
    Ok(Json(Gelled { light, says }))
}

/// Hang barn doors on a light.
#[utoipa::path(post, path = "/cases/{id}/set/doors", tag = "sets", params(("id" = Uuid, Path)), request_body = DoorsWanted,
    responses((status = 200, body = Doors), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn hang_doors(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(wanted): Body<DoorsWanted>,
) -> Answer<Json<Doors>> {
    must_own(&app, me.id, case).await?;
    let set = parse_set(wanted.set)?;
    let hang = move || {
        let lights = studio::meter(&set)?.lights;
        let light = lights.get(wanted.light).ok_or_else(|| no_light(wanted.light))?;
        doors(light, wanted.open_deg)
    };
    app.work.run(Pace::Quick, hang).await?.map(Json).map_err(Problem::bad)
}

/// A place and a time, and the window their light comes in by.
#[derive(Deserialize, ToSchema)]
pub struct SunAsked {
    /// Where and when.
    pub sun: SunWanted,
    /// The window; none outdoors.
    #[serde(default)]
    pub window: Option<WindowAsked>,
}

/// A window of a set.
#[derive(Deserialize, ToSchema)]
pub struct WindowAsked {
    /// The set as it stands.
    #[schema(value_type = LightSet)]
    pub set: serde_json::Value,
    /// The window.
    pub window: WindowWanted,
}

/// The sun of a place and a time as a light of a set; through a window, with the sky it shows and what hangs in it.
#[utoipa::path(post, path = "/cases/{id}/set/sun", tag = "sets", params(("id" = Uuid, Path)), request_body = SunAsked,
    responses((status = 200, body = SunStands), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn place_sun(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(asked): Body<SunAsked>,
) -> Answer<Json<SunStands>> {
    must_own(&app, me.id, case).await?;
    let stands = match asked.window {
        None => sun_light(&asked.sun),
        Some(w) => {
            let set = parse_set(w.set)?;
            app.work.run(Pace::Quick, move || through_window(&set, &asked.sun, &w.window)).await?
        }
    };
    stands.map(Json).map_err(Problem::bad)
}

/// What may hang in a window.
#[utoipa::path(get, path = "/sheers", tag = "tables", responses((status = 200, body = Vec<Sheer>)))]
async fn all_sheers() -> Json<Vec<Sheer>> {
    Json(sheers().to_vec())
}

/// Which directions a source must fill for a bright line on a bottle or can, and what of my kit does it from where.
#[utoipa::path(post, path = "/cases/{id}/set/line", tag = "sets", params(("id" = Uuid, Path)), request_body = LineAsked,
    responses((status = 200, body = LinePlan), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn draw_line(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(asked): Body<LineAsked>,
) -> Answer<Json<LinePlan>> {
    must_own(&app, me.id, case).await?;
    let set = parse_set(asked.set)?;
    let kit = kit_of(&app, me.id).await?.kit;
    let plan = app.work.run(Pace::Quick, move || line(&set, &asked.line, &kit)).await?;
    plan.map(Json).map_err(Problem::bad)
}

//! What a person owns to light with, as a form and as a table.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::versioned::{KITS, add, newest};
use axum::Json;
use axum::extract::State;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use lightset::kit::{Kit, LampReading, Metered, catalogue, from_csv, metered, to_csv};
use optics::units::Metres;
use planning::substitutes::{Substitute, substitutes};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(my_kit, save_kit))
        .routes(routes!(kit_table, take_kit_table))
        .routes(routes!(kit_substitutes))
        .routes(routes!(kit_lamp_metered))
}

/// A kit with its version.
#[derive(Serialize, ToSchema)]
pub struct KitView {
    /// Version for the next edit; 0 while it is still a first kit that nobody changed.
    pub version: i64,
    /// The kit.
    pub kit: Kit,
}

/// A kit made on a version.
#[derive(Deserialize, ToSchema)]
pub struct KitEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// The kit.
    pub kit: Kit,
}

/// A kit as a table, made on a version.
#[derive(Deserialize, ToSchema)]
pub struct KitTableEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// Rows with a head row (RFC 4180).
    pub csv: String,
}

/// What is to be replaced.
#[derive(Deserialize, ToSchema)]
pub struct SubstituteQuestion {
    /// Id of a modifier of the catalogue or the kit.
    pub modifier: String,
    /// Metres from the subject.
    pub distance_m: f64,
    /// Id of the lamp in it; a common one if absent.
    #[serde(default)]
    pub lamp: Option<String>,
}

/// A lamp of the kit as a meter showed it.
#[derive(Deserialize, ToSchema)]
pub struct LampReadings {
    /// Id of the lamp.
    pub lamp: String,
    /// Two to six readings in its own reflector.
    pub readings: Vec<LampReading>,
}

/// The kit of a person: as saved, or a first kit.
pub(crate) async fn kit_of(app: &App, person: Uuid) -> Answer<KitView> {
    let saved = newest(app, KITS, person).await?;
    let (version, kit) = saved.unwrap_or_else(|| (0, Kit::starter()));
    Ok(KitView { version, kit })
}

async fn put(app: &App, person: Uuid, version: i64, kit: Kit) -> Answer<Json<KitView>> {
    kit.check().map_err(Problem::bad)?;
    if !add(app, KITS, person, person, version, &kit).await? {
        let now = kit_of(app, person).await?;
        return Err(Problem::stale("kit", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    Ok(Json(KitView { version: version + 1, kit }))
}

/// What I own.
#[utoipa::path(get, path = "/kit", tag = "kit", responses((status = 200, body = KitView), (status = 401, body = Problem)))]
async fn my_kit(State(app): State<App>, Me(me): Me) -> Answer<Json<KitView>> {
    kit_of(&app, me.id).await.map(Json)
}

/// Save what I own as a new version.
#[utoipa::path(put, path = "/kit", tag = "kit", request_body = KitEdit,
    responses((status = 200, body = KitView), (status = 400, body = Problem), (status = 409, body = Problem)))]
async fn save_kit(State(app): State<App>, Me(me): Me, Body(edit): Body<KitEdit>) -> Answer<Json<KitView>> {
    put(&app, me.id, edit.version, edit.kit).await
}

/// What I own as a table.
#[utoipa::path(get, path = "/kit/table", tag = "kit",
    responses((status = 200, body = String, content_type = "text/csv"), (status = 401, body = Problem)))]
async fn kit_table(State(app): State<App>, Me(me): Me) -> Answer<Response> {
    let csv = to_csv(&kit_of(&app, me.id).await?.kit);
    let headers = [
        (header::CONTENT_TYPE, "text/csv; charset=utf-8"),
        (header::CONTENT_DISPOSITION, "attachment; filename=\"kit.csv\""),
    ];
    Ok((headers, csv).into_response())
}

/// Take a table for my kit. A row that cannot be understood is named, and nothing is changed.
#[utoipa::path(put, path = "/kit/table", tag = "kit", request_body = KitTableEdit,
    responses((status = 200, body = KitView), (status = 400, body = Problem), (status = 409, body = Problem)))]
async fn take_kit_table(State(app): State<App>, Me(me): Me, Body(edit): Body<KitTableEdit>) -> Answer<Json<KitView>> {
    let Kit { ceiling_m, circuit, .. } = kit_of(&app, me.id).await?.kit;
    let kit = from_csv(&edit.csv).map_err(Problem::bad)?;
    put(&app, me.id, edit.version, Kit { ceiling_m, circuit, ..kit }).await
}

/// What of my kit does in place of a modifier at a distance.
#[utoipa::path(post, path = "/kit/substitutes", tag = "kit", request_body = SubstituteQuestion,
    responses((status = 200, body = Vec<Substitute>), (status = 400, body = Problem)))]
async fn kit_substitutes(
    State(app): State<App>,
    Me(me): Me,
    Body(q): Body<SubstituteQuestion>,
) -> Answer<Json<Vec<Substitute>>> {
    if !(0.05..=50.0).contains(&q.distance_m) {
        return Err(Problem::bad(format!("distance_m: expected 0.05 to 50 metres, found {}", q.distance_m)));
    }
    let mine = kit_of(&app, me.id).await?.kit;
    let all = catalogue();
    let of = all.modifiers.iter().chain(&mine.modifiers).find(|m| m.id == q.modifier);
    let of = of.ok_or_else(|| Problem::bad(format!("modifier: \"{}\" is not known", q.modifier)))?;
    let lamp = all.lamps.iter().chain(&mine.lamps).find(|l| q.lamp.as_ref().is_none_or(|id| &l.id == id));
    let lamp = lamp.ok_or_else(|| Problem::bad("lamp: it is not known"))?;
    Ok(Json(substitutes(&mine, lamp, of, Metres(q.distance_m))))
}

/// What a lamp of my kit gives by readings of a meter. It is not saved: put the lamp into the kit to keep it.
#[utoipa::path(post, path = "/kit/lamps/metered", tag = "kit", request_body = LampReadings,
    responses((status = 200, body = Metered), (status = 400, body = Problem)))]
async fn kit_lamp_metered(State(app): State<App>, Me(me): Me, Body(q): Body<LampReadings>) -> Answer<Json<Metered>> {
    let mine = kit_of(&app, me.id).await?.kit;
    let lamp = mine.lamps.iter().find(|l| l.id == q.lamp);
    let lamp = lamp.ok_or_else(|| Problem::bad(format!("lamp: \"{}\" is not in your kit", q.lamp)))?;
    metered(lamp, &q.readings).map(Json).map_err(Problem::bad)
}

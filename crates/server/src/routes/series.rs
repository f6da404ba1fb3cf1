//! Series: the shot list of a case, its pictures by view, and whether they agree.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::series::{members, series_of};
use crate::records::versioned::{SERIES, add};
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::Response;
use serde::{Deserialize, Serialize};
use series::{Series, SeriesReport, ShotList, Shown, as_table, report, shot_lists};
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(lists))
        .routes(routes!(current_series, save_series))
        .routes(routes!(compare_series))
        .routes(routes!(series_table))
}

/// A series with its version.
#[derive(Serialize, ToSchema)]
pub struct SeriesView {
    /// Version for the next edit; 0 before the first.
    pub version: i64,
    /// The series.
    pub series: Series,
}

/// A series made on a version.
#[derive(Deserialize, ToSchema)]
pub struct SeriesEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// The series.
    pub series: Series,
}

/// A picture of a series as it is compared.
#[derive(Serialize, ToSchema)]
pub struct SeriesPicture {
    /// Picture.
    pub frame: String,
    /// Its name for people.
    pub name: String,
    /// View it stands for.
    pub view: String,
    /// What it shows.
    pub shown: Shown,
}

/// A series held against itself and its list.
#[derive(Serialize, ToSchema)]
pub struct SeriesComparison {
    /// Pictures, in the order of the list.
    pub pictures: Vec<SeriesPicture>,
    /// What stands out.
    pub report: SeriesReport,
}

/// All shot lists.
#[utoipa::path(get, path = "/shot-lists", tag = "series", responses((status = 200, body = Vec<ShotList>)))]
async fn lists() -> Json<&'static [ShotList]> {
    Json(shot_lists())
}

/// The series of a case.
#[utoipa::path(get, path = "/cases/{id}/series", tag = "series", params(("id" = Uuid, Path)),
    responses((status = 200, body = SeriesView), (status = 404, body = Problem)))]
async fn current_series(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<SeriesView>> {
    must_own(&app, me.id, case).await?;
    let (version, series) = series_of(&app, me.id, case).await?;
    Ok(Json(SeriesView { version, series }))
}

/// Save the series of a case as a new version.
#[utoipa::path(put, path = "/cases/{id}/series", tag = "series", params(("id" = Uuid, Path)), request_body = SeriesEdit,
    responses((status = 200, body = SeriesView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn save_series(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(edit): Body<SeriesEdit>,
) -> Answer<Json<SeriesView>> {
    must_own(&app, me.id, case).await?;
    edit.series.check().map_err(Problem::bad)?;
    if !add(&app, SERIES, case, me.id, edit.version, &edit.series).await? {
        let (version, series) = series_of(&app, me.id, case).await?;
        let now = SeriesView { version, series };
        return Err(Problem::stale("series", serde_json::to_value(now).map_err(Problem::internal)?));
    }
    Ok(Json(SeriesView { version: edit.version + 1, series: edit.series }))
}

/// Whether the pictures of a series agree, and which stand out by how much.
#[utoipa::path(get, path = "/cases/{id}/series/comparison", tag = "series", params(("id" = Uuid, Path)),
    responses((status = 200, body = SeriesComparison), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn compare_series(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<SeriesComparison>> {
    must_own(&app, me.id, case).await?;
    let series = series_of(&app, me.id, case).await?.1;
    let (list, members) = members(&app, me.id, case, &series).await?;
    let report = report(list, &members, &series.ticked);
    let of = |m: series::Member| SeriesPicture { frame: m.frame, name: m.name, view: m.view, shown: m.shown };
    Ok(Json(SeriesComparison { pictures: members.into_iter().map(of).collect(), report }))
}

/// The comparison as a table (CSV, RFC 4180).
#[utoipa::path(get, path = "/cases/{id}/series/comparison.csv", tag = "series", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "text/csv"), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn series_table(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Response> {
    must_own(&app, me.id, case).await?;
    let series = series_of(&app, me.id, case).await?.1;
    let (list, members) = members(&app, me.id, case, &series).await?;
    let table = as_table(&members, &report(list, &members, &series.ticked)).map_err(Problem::internal)?;
    Response::builder()
        .header(header::CONTENT_TYPE, "text/csv; charset=utf-8")
        .header(header::CONTENT_DISPOSITION, "attachment; filename=\"series.csv\"")
        .body(HttpBody::from(table))
        .map_err(Problem::internal)
}

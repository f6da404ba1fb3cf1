//! Frames: pictures of a case, from upload to the copies that are shown.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::{FrameView, must_own};
use crate::records::frames::{Sent, add, check_role, owned};
use crate::work::Pace;
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::DefaultBodyLimit;
use axum::extract::{Multipart, Path, Query, State};
use axum::http::{StatusCode, header};
use axum::response::Response;
use lightset::set::AmbientLight;
use serde::{Deserialize, Serialize};
use session::MapFile;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .merge(OpenApiRouter::new().routes(routes!(upload)).layer(DefaultBodyLimit::max(MOST_UPLOAD)))
        .routes(routes!(picture))
        .routes(routes!(stops_map))
        .routes(routes!(stops_scale))
        .routes(routes!(room_map))
        .routes(routes!(room_light))
        .routes(routes!(change_frame, remove_frame))
}

/// Largest body of an upload in bytes: the largest picture that is taken, and what belongs to it.
const MOST_UPLOAD: usize = 82_000_000;

/// A picture to upload.
#[derive(ToSchema)]
#[allow(dead_code)]
struct UploadForm {
    /// reference (if absent), take, plate, probe, calibration or view.
    role: Option<String>,
    /// Name of the film it was grabbed from.
    film: Option<String>,
    /// Seconds from the film's start.
    time_s: Option<f64>,
    #[schema(value_type = String, format = Binary)]
    file: Vec<u8>,
}

/// Send a picture of a case (field `file`, after the fields that belong to it): JPEG, PNG, WebP, TIFF, BMP, OpenEXR or
/// Radiance HDR. Its location is removed.
#[utoipa::path(post, path = "/cases/{id}/frames", tag = "frames", params(("id" = Uuid, Path)),
    request_body(content = UploadForm, content_type = "multipart/form-data"),
    responses((status = 201, body = FrameView), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn upload(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    headers: axum::http::HeaderMap,
    mut form: Multipart,
) -> Answer<(StatusCode, Json<FrameView>)> {
    must_own(&app, me.id, case).await?;
    // the body is held in memory: as much of it as is said, or as may come
    let said = headers.get(header::CONTENT_LENGTH).and_then(|v| v.to_str().ok()?.parse().ok());
    let _held = app.work.body(said.unwrap_or(MOST_UPLOAD as u64)).await?;
    let heavy = || Problem::refused(pictures::Refusal::TooHeavy { found: 82, most: 80 }.to_string());
    let mut sent = Sent::reference("picture", Vec::new());
    // What belongs to the picture comes before it.
    while let Some(field) = form.next_field().await.map_err(|e| Problem::bad(e.body_text()))? {
        let part = field.name().unwrap_or_default().to_owned();
        if part == "file" {
            sent.name = field.file_name().unwrap_or("picture").to_owned();
            let bytes = field.bytes().await.map_err(|e| {
                if e.status() == StatusCode::PAYLOAD_TOO_LARGE { heavy() } else { Problem::bad(e.body_text()) }
            })?;
            sent.bytes = bytes.to_vec();
            let frame = add(&app, case, me.id, sent, None).await?;
            return Ok((StatusCode::CREATED, Json(frame)));
        }
        let text = field.text().await.map_err(|e| Problem::bad(e.body_text()))?;
        match part.as_str() {
            "role" => {
                check_role(&text)?;
                sent.role = text;
            }
            "film" => sent.film = Some(text.chars().filter(|c| !c.is_control()).take(160).collect()),
            "time_s" => {
                let t = text.parse::<f64>().ok().filter(|t| t.is_finite() && *t >= 0.0);
                sent.time_s = Some(t.ok_or_else(|| Problem::bad("time_s: expected seconds from the film's start"))?);
            }
            _ => {}
        }
    }
    Err(Problem::bad("No picture was sent: the form needs a field named file."))
}

/// Which copy.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Size {
    /// `view` (at most 2000 pixels), `thumb` (at most 420) or `original`.
    size: Option<String>,
}

/// The picture itself.
#[utoipa::path(get, path = "/frames/{id}/picture", tag = "frames", params(("id" = Uuid, Path), Size),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem)))]
async fn picture(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Query(size): Query<Size>,
) -> Answer<Response> {
    let f = owned(&app, me.id, id).await?;
    let (name, kind) = match size.size.as_deref() {
        None | Some("view") => ("view.jpg", "image/jpeg"),
        Some("thumb") => ("thumb.jpg", "image/jpeg"),
        Some("original") => ("original", f.media_type.as_str()),
        Some(other) => return Err(Problem::bad(format!("size: expected view, thumb or original, found \"{other}\""))),
    };
    let bytes = app.store.get(&f.hash, name).await?;
    Response::builder()
        .header(header::CONTENT_TYPE, kind)
        .header(header::CACHE_CONTROL, "private, max-age=31536000, immutable")
        .header(header::CONTENT_DISPOSITION, "inline")
        .body(HttpBody::from(bytes))
        .map_err(Problem::internal)
}

/// The picture as a map of stops from middle grey (PNG, at most 1200 pixels): half-stop steps from six under to two and a half
/// over; what is clipped is hatched. Read through what its grey steps, its marks or its
/// case say of its encoding.
#[utoipa::path(get, path = "/frames/{id}/map", tag = "frames", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "image/png"), (status = 404, body = Problem)))]
async fn stops_map(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Response> {
    let f = owned(&app, me.id, id).await?;
    let marks = crate::records::marks::newest(&app, &f.hash, id).await?.marks;
    let prepared = app.prepared(&f.hash).await?;
    let marks = crate::records::marks::told(&app, id, &prepared, &marks).await?;
    let png = app
        .work
        .run(Pace::Heavy, move || pictures::stops_map(&session::as_read(&prepared.photo, &marks), 1200))
        .await?
        .map_err(|r| Problem::refused(r.to_string()))?;
    Response::builder()
        .header(header::CONTENT_TYPE, "image/png")
        .header(header::CACHE_CONTROL, "private, no-cache")
        .body(HttpBody::from(png))
        .map_err(Problem::internal)
}

/// Which file.
#[derive(Deserialize, IntoParams)]
pub struct MapFormat {
    /// `exr` (the default) or `hdr`.
    pub format: Option<String>,
}

/// The light of the whole room as a mirror ball in the picture shows it: a panorama seen from the subject with the lens in the
/// middle, linear, as OpenEXR or Radiance HDR.
#[utoipa::path(get, path = "/frames/{id}/light-map", tag = "frames", params(("id" = Uuid, Path), MapFormat),
    responses((status = 200, content_type = "image/x-exr"), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn room_map(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Query(asked): Query<MapFormat>,
) -> Answer<Response> {
    let wanted = asked.format.as_deref().unwrap_or("exr");
    let file = MapFile::named(wanted)
        .ok_or_else(|| Problem::bad(format!("format: expected exr or hdr, found \"{wanted}\"")))?;
    let f = owned(&app, me.id, id).await?;
    let marks = crate::records::marks::newest(&app, &f.hash, id).await?.marks;
    let prepared = app.prepared(&f.hash).await?;
    let marks = crate::records::marks::told(&app, id, &prepared, &marks).await?;
    let bytes = app
        .work
        .run(Pace::Heavy, move || session::light_map(&prepared.photo, &marks, file))
        .await?
        .ok_or_else(|| Problem::not_found("No mirror ball in this picture shows a whole room."))?
        .map_err(|r| Problem::refused(r.to_string()))?;
    let (ending, media) = file.kind();
    Response::builder()
        .header(header::CONTENT_TYPE, media)
        .header(header::CACHE_CONTROL, "private, no-cache")
        .header(header::CONTENT_DISPOSITION, format!("attachment; filename=\"light-map.{ending}\""))
        .body(HttpBody::from(bytes))
        .map_err(Problem::internal)
}

/// The room of a picture as light for a set: what a mirror ball in it mirrors, or a panorama (OpenEXR or Radiance HDR, twice as
/// wide as high) itself.
#[utoipa::path(get, path = "/frames/{id}/room", tag = "frames", params(("id" = Uuid, Path)),
    responses((status = 200, body = AmbientLight), (status = 404, body = Problem)))]
async fn room_light(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<AmbientLight>> {
    let f = owned(&app, me.id, id).await?;
    let marks = crate::records::marks::newest(&app, &f.hash, id).await?.marks;
    let prepared = app.prepared(&f.hash).await?;
    let marks = crate::records::marks::told(&app, id, &prepared, &marks).await?;
    let room = app.work.run(Pace::Heavy, move || session::room(&prepared.photo, &marks)).await?;
    room.map(Json).ok_or_else(|| {
        Problem::not_found(
            "This picture shows no whole room: mark a mirror ball in it, or send a panorama (OpenEXR or Radiance HDR, twice \
             as wide as high).",
        )
    })
}

/// A step of the map of stops.
#[derive(Serialize, ToSchema)]
pub struct ScaleStep {
    /// Lower end in stops from middle grey.
    pub from_stops: f64,
    /// Colour as #rrggbb.
    pub colour: String,
}

/// The colours of the map of stops, dark to light.
#[utoipa::path(get, path = "/stops-scale", tag = "tables", responses((status = 200, body = Vec<ScaleStep>)))]
async fn stops_scale() -> Json<Vec<ScaleStep>> {
    let [low, high] = pictures::MAP_STOPS;
    let steps = ((high - low) / pictures::MAP_STEP).round() as usize;
    let step = |k: usize| {
        let from_stops = low + k as f64 * pictures::MAP_STEP;
        let [r, g, b] = pictures::map_colour(from_stops + 0.01);
        ScaleStep { from_stops, colour: format!("#{r:02x}{g:02x}{b:02x}") }
    };
    Json((0..steps).map(step).collect())
}

/// What a picture is for.
#[derive(Deserialize, ToSchema)]
pub struct FrameEdit {
    /// reference, take, plate, probe, calibration or view.
    pub role: String,
}

/// Say what a picture is for.
#[utoipa::path(patch, path = "/frames/{id}", tag = "frames", params(("id" = Uuid, Path)), request_body = FrameEdit,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn change_frame(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(edit): Body<FrameEdit>,
) -> Answer<StatusCode> {
    owned(&app, me.id, id).await?;
    check_role(&edit.role)?;
    sqlx::query("update frames set role = $2 where id = $1").bind(id).bind(&edit.role).execute(&app.pool).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Remove a picture with its marks from its case.
#[utoipa::path(delete, path = "/frames/{id}", tag = "frames", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn remove_frame(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<StatusCode> {
    let f = owned(&app, me.id, id).await?;
    sqlx::query("delete from frames where id = $1").bind(id).execute(&app.pool).await?;
    // a young file goes with the next sweep
    crate::records::pictures::sweep(&app, &f.hash).await.map_err(Problem::internal)?;
    Ok(StatusCode::NO_CONTENT)
}

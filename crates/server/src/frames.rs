//! Frames: pictures of a case, from upload to the copies that are shown.

use crate::App;
use crate::accounts::Me;
use crate::cases::{FrameView, must_own};
use crate::problem::{Answer, Problem};
use crate::state::{Prepared, decode};
use axum::Json;
use axum::body::Body as HttpBody;
use axum::extract::{Multipart, Path, Query, State};
use axum::http::{StatusCode, header};
use axum::response::Response;
use light::marks::{CameraFacts, Marks};
use serde::Deserialize;
use sha2::{Digest, Sha256};
use std::sync::Arc;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(upload)).routes(routes!(picture))
}

/// Longest sides of the copies.
const SIDES: [(&str, u32); 2] = [("view.jpg", 2000), ("thumb.jpg", 420)];

/// A picture to upload.
#[derive(ToSchema)]
#[allow(dead_code)]
struct UploadForm {
    #[schema(value_type = String, format = Binary)]
    file: Vec<u8>,
}

struct Taken {
    hash: String,
    original: Vec<u8>,
    copies: Vec<pictures::Preview>,
    prepared: Arc<Prepared>,
    media_type: &'static str,
}

/// Decodes, strips and makes copies; runs on a worker thread.
fn take_in(bytes: &[u8]) -> Result<Taken, pictures::Refusal> {
    let prepared = decode(bytes)?;
    let Some(original) = pictures::without_location(bytes) else {
        return Err(pictures::Refusal::NotAPicture {
            hint: format!(
                ": {} files are read by the command line only; export JPEG, PNG or WebP",
                prepared.facts.format
            ),
        });
    };
    let media_type = match prepared.facts.format.as_str() {
        "JPEG" => "image/jpeg",
        "PNG" => "image/png",
        _ => "image/webp",
    };
    let copies = pictures::previews(&prepared.photo, &SIDES.map(|s| s.1))?;
    let hash = Sha256::digest(&original).iter().map(|b| format!("{b:02x}")).collect();
    Ok(Taken { hash, original, copies, prepared, media_type })
}

/// Takes a picture into a case; used by the route and by the demo data. Files first, then the row:
/// a row never points at nothing, and files without a row are swept.
pub(crate) async fn add(
    app: &App,
    case: Uuid,
    author: Uuid,
    name: &str,
    bytes: Vec<u8>,
    marks: Option<Marks>,
) -> Answer<FrameView> {
    let taken =
        tokio::task::spawn_blocking(move || take_in(&bytes)).await?.map_err(|r| Problem::refused(r.to_string()))?;
    let facts = taken.prepared.facts.clone();
    app.store.put(&taken.hash, "original", taken.original).await?;
    for ((name, _), copy) in SIDES.iter().zip(taken.copies) {
        app.store.put(&taken.hash, name, copy.jpeg).await?;
    }
    app.remember(&taken.hash, taken.prepared);
    let mut marks = marks.unwrap_or_default();
    marks.exposure = marks.exposure.or(facts.settings);
    if let Some(v) = facts.vfov_deg {
        marks.camera.get_or_insert_with(CameraFacts::default).vfov_deg.get_or_insert(v);
    }
    let id = Uuid::now_v7();
    let file_name: String = name.chars().filter(|c| !c.is_control()).take(160).collect();
    let mut tx = app.pool.begin().await?;
    sqlx::query("insert into frames (id, case_id, role, file_name, file_hash, media_type, facts) values ($1, $2, 'reference', $3, $4, $5, $6)")
        .bind(id)
        .bind(case)
        .bind(&file_name)
        .bind(&taken.hash)
        .bind(taken.media_type)
        .bind(sqlx::types::Json(&facts))
        .execute(&mut *tx)
        .await?;
    sqlx::query("insert into marks (frame_id, version, body, author) values ($1, 1, $2, $3)")
        .bind(id)
        .bind(sqlx::types::Json(&marks))
        .bind(author)
        .execute(&mut *tx)
        .await?;
    sqlx::query("update cases set updated_at = now() where id = $1").bind(case).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(FrameView { id, role: "reference".into(), file_name, facts })
}

/// Send the picture of a case (field `file`): JPEG, PNG or WebP. Its location is removed.
#[utoipa::path(post, path = "/cases/{id}/frames", tag = "frames", params(("id" = Uuid, Path)),
    request_body(content = UploadForm, content_type = "multipart/form-data"),
    responses((status = 201, body = FrameView), (status = 404, body = Problem), (status = 422, body = Problem)))]
async fn upload(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    mut form: Multipart,
) -> Answer<(StatusCode, Json<FrameView>)> {
    must_own(&app, me.id, case).await?;
    let heavy = || Problem::refused(pictures::Refusal::TooHeavy { found: 82, most: 80 }.to_string());
    while let Some(field) = form.next_field().await.map_err(|e| Problem::bad(e.body_text()))? {
        if field.name() != Some("file") {
            continue;
        }
        let name = field.file_name().unwrap_or("picture").to_owned();
        let bytes = field.bytes().await.map_err(|e| {
            if e.status() == StatusCode::PAYLOAD_TOO_LARGE { heavy() } else { Problem::bad(e.body_text()) }
        })?;
        let frame = add(&app, case, me.id, &name, bytes.to_vec(), None).await?;
        return Ok((StatusCode::CREATED, Json(frame)));
    }
    Err(Problem::bad("No picture was sent: the form needs a field named file."))
}

/// What is needed of a frame to read it.
pub(crate) struct Owned {
    pub hash: String,
    pub media_type: String,
    pub case_id: Uuid,
}

/// The frame if its case is theirs, else 404.
pub(crate) async fn owned(app: &App, me: Uuid, frame: Uuid) -> Answer<Owned> {
    let row: Option<(String, String, Uuid)> = sqlx::query_as(
        "select f.file_hash, f.media_type, f.case_id from frames f join cases c on c.id = f.case_id
         where f.id = $1 and c.owner = $2",
    )
    .bind(frame)
    .bind(me)
    .fetch_optional(&app.pool)
    .await?;
    row.map(|(hash, media_type, case_id)| Owned { hash, media_type, case_id })
        .ok_or_else(|| Problem::not_found("There is no such picture among yours."))
}

/// Which copy.
#[derive(Deserialize, IntoParams)]
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

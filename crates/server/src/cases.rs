//! Cases: a picture to study with its brief. Each belongs to someone, and only they see it.

use crate::App;
use crate::accounts::Me;
use crate::calibration::Calibration;
use crate::problem::{Answer, Body, Problem};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use light::readings::Readings;
use pictures::Facts;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use time::OffsetDateTime;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(list, create)).routes(routes!(one, change, remove))
}

/// A case in the list.
#[derive(Debug, Serialize, ToSchema)]
pub struct CaseCard {
    /// Id.
    pub id: Uuid,
    /// Title.
    pub title: String,
    /// Brief it is judged by.
    pub brief: String,
    /// Reference picture, once there is one.
    pub frame_id: Option<Uuid>,
    /// Last reading, once there is one, without what its marks say one by one.
    pub readings: Option<Readings>,
    /// Last change.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub updated_at: OffsetDateTime,
}

/// A frame of a case.
#[derive(Debug, Serialize, ToSchema)]
pub struct FrameView {
    /// Id.
    pub id: Uuid,
    /// reference, take, plate, probe or calibration.
    pub role: String,
    /// Name of the file as it was sent.
    pub file_name: String,
    /// What the file says.
    pub facts: Facts,
    /// The film it was grabbed from, if it was.
    pub film: Option<String>,
    /// Seconds from the film's start.
    pub time_s: Option<f64>,
}

/// A case.
#[derive(Debug, Serialize, ToSchema)]
pub struct CaseView {
    /// Id.
    pub id: Uuid,
    /// Title.
    pub title: String,
    /// Brief it is judged by.
    pub brief: String,
    /// First impression, notes.
    pub note: String,
    /// Version for the next edit.
    pub version: i64,
    /// Its frames, oldest first.
    pub frames: Vec<FrameView>,
    /// The tone curve its frames are read through, if its camera was calibrated.
    pub calibration: Option<Calibration>,
}

#[derive(sqlx::FromRow)]
struct CaseRow {
    id: Uuid,
    title: String,
    brief: String,
    note: String,
    version: i64,
    calibration: Option<Jsonb<Calibration>>,
}

/// The case if it is theirs, else 404.
pub(crate) async fn load(app: &App, me: Uuid, id: Uuid) -> Answer<CaseView> {
    let row: Option<CaseRow> =
        sqlx::query_as("select id, title, brief, note, version, calibration from cases where id = $1 and owner = $2")
            .bind(id)
            .bind(me)
            .fetch_optional(&app.pool)
            .await?;
    let row = row.ok_or_else(|| Problem::not_found("There is no such case among yours."))?;
    type Row = (Uuid, String, String, Jsonb<Facts>, Option<String>, Option<f64>);
    let frames: Vec<Row> = sqlx::query_as(
        "select id, role, file_name, facts, film, time_s from frames where case_id = $1 order by created_at, id",
    )
    .bind(id)
    .fetch_all(&app.pool)
    .await?;
    let frames = frames
        .into_iter()
        .map(|(id, role, file_name, facts, film, time_s)| FrameView {
            id,
            role,
            file_name,
            facts: facts.0,
            film,
            time_s,
        })
        .collect();
    Ok(CaseView {
        id: row.id,
        title: row.title,
        brief: row.brief,
        note: row.note,
        version: row.version,
        frames,
        calibration: row.calibration.map(|c| c.0),
    })
}

/// Whether the case is theirs; 404 if not.
pub(crate) async fn must_own(app: &App, me: Uuid, case: Uuid) -> Answer<()> {
    let owned: bool = sqlx::query_scalar("select exists (select 1 from cases where id = $1 and owner = $2)")
        .bind(case)
        .bind(me)
        .fetch_one(&app.pool)
        .await?;
    if owned { Ok(()) } else { Err(Problem::not_found("There is no such case among yours.")) }
}

/// My cases, last changed first.
#[utoipa::path(get, path = "/cases", tag = "cases",
    responses((status = 200, body = Vec<CaseCard>), (status = 401, body = Problem)))]
async fn list(State(app): State<App>, Me(me): Me) -> Answer<Json<Vec<CaseCard>>> {
    type Row = (Uuid, String, String, Option<Uuid>, Option<Jsonb<Readings>>, OffsetDateTime);
    let rows: Vec<Row> = sqlx::query_as(
        "select c.id, c.title, c.brief, f.id, r.body, c.updated_at
         from cases c
         left join lateral (select id from frames where case_id = c.id and role = 'reference'
                            order by created_at desc limit 1) f on true
         left join lateral (select body - 'by_mark' - 'questions' as body from readings where frame_id = f.id
                            order by marks_version desc, created_at desc limit 1) r on true
         where c.owner = $1 order by c.updated_at desc limit 500",
    )
    .bind(me.id)
    .fetch_all(&app.pool)
    .await?;
    let cards = rows
        .into_iter()
        .map(|(id, title, brief, frame_id, readings, updated_at)| CaseCard {
            id,
            title,
            brief,
            frame_id,
            readings: readings.map(|r| r.0),
            updated_at,
        })
        .collect();
    Ok(Json(cards))
}

/// A new case.
#[derive(Deserialize, ToSchema)]
pub struct NewCase {
    /// Title.
    pub title: String,
    /// Id of a brief.
    pub brief: String,
}

fn check_title(title: &str) -> Answer<String> {
    let t = title.trim();
    if t.is_empty() || t.chars().count() > 120 {
        return Err(Problem::bad("A title of 1 to 120 characters is needed."));
    }
    Ok(t.to_owned())
}

fn check_brief(id: &str) -> Answer<()> {
    match light::critique::brief(id) {
        Some(_) => Ok(()),
        None => Err(Problem::bad(format!("brief: \"{id}\" is not one of the briefs"))),
    }
}

/// Makes a case for an owner; used by the route and by the demo data.
pub(crate) async fn create_for(app: &App, owner: Uuid, title: &str, brief: &str) -> Answer<Uuid> {
    let title = check_title(title)?;
    check_brief(brief)?;
    let id = Uuid::now_v7();
    sqlx::query("insert into cases (id, owner, title, brief) values ($1, $2, $3, $4)")
        .bind(id)
        .bind(owner)
        .bind(title)
        .bind(brief)
        .execute(&app.pool)
        .await?;
    Ok(id)
}

/// Start a case.
#[utoipa::path(post, path = "/cases", tag = "cases", request_body = NewCase,
    responses((status = 201, body = CaseView), (status = 400, body = Problem), (status = 401, body = Problem)))]
async fn create(State(app): State<App>, Me(me): Me, Body(new): Body<NewCase>) -> Answer<(StatusCode, Json<CaseView>)> {
    let id = create_for(&app, me.id, &new.title, &new.brief).await?;
    Ok((StatusCode::CREATED, Json(load(&app, me.id, id).await?)))
}

/// One case.
#[utoipa::path(get, path = "/cases/{id}", tag = "cases", params(("id" = Uuid, Path)),
    responses((status = 200, body = CaseView), (status = 404, body = Problem)))]
async fn one(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<CaseView>> {
    load(&app, me.id, id).await.map(Json)
}

/// An edit of a case, made on a version.
#[derive(Deserialize, ToSchema)]
pub struct CaseEdit {
    /// Version the edit was made on.
    pub version: i64,
    /// New title.
    pub title: Option<String>,
    /// New brief.
    pub brief: Option<String>,
    /// New note.
    pub note: Option<String>,
}

/// Change title, brief or note.
#[utoipa::path(patch, path = "/cases/{id}", tag = "cases", params(("id" = Uuid, Path)), request_body = CaseEdit,
    responses((status = 200, body = CaseView), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn change(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(edit): Body<CaseEdit>,
) -> Answer<Json<CaseView>> {
    let title = edit.title.as_deref().map(check_title).transpose()?;
    edit.brief.as_deref().map(check_brief).transpose()?;
    if edit.note.as_ref().is_some_and(|n| n.chars().count() > 10_000) {
        return Err(Problem::bad("A note has room for 10 000 characters."));
    }
    let done = sqlx::query(
        "update cases set title = coalesce($4, title), brief = coalesce($5, brief), note = coalesce($6, note),
                version = version + 1, updated_at = now()
         where id = $1 and owner = $2 and version = $3",
    )
    .bind(id)
    .bind(me.id)
    .bind(edit.version)
    .bind(title)
    .bind(edit.brief)
    .bind(edit.note)
    .execute(&app.pool)
    .await?;
    let now = load(&app, me.id, id).await?;
    if done.rows_affected() == 0 {
        return Err(Problem::stale("case", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    Ok(Json(now))
}

/// Delete a case with its pictures and marks.
#[utoipa::path(delete, path = "/cases/{id}", tag = "cases", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn remove(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<StatusCode> {
    let done =
        sqlx::query("delete from cases where id = $1 and owner = $2").bind(id).bind(me.id).execute(&app.pool).await?;
    if done.rows_affected() == 0 {
        return Err(Problem::not_found("There is no such case among yours."));
    }
    Ok(StatusCode::NO_CONTENT)
}

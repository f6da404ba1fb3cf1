//! Cases: a picture to study with its brief. Each belongs to someone, and only they see it.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::briefs::brief_of;
use crate::records::cases::{CaseView, check_title, create_for, load, must_own};
use crate::records::marks::of_this_core;
use crate::routes::sets::{file, parse_set};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use evidence::readings::Readings;
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
    /// A set was saved in it.
    pub has_set: bool,
    /// Last change.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub updated_at: OffsetDateTime,
}

/// My cases, last changed first.
#[utoipa::path(get, path = "/cases", tag = "cases",
    responses((status = 200, body = Vec<CaseCard>), (status = 401, body = Problem)))]
async fn list(State(app): State<App>, Me(me): Me) -> Answer<Json<Vec<CaseCard>>> {
    type Row = (Uuid, String, String, Option<Uuid>, Option<Jsonb<serde_json::Value>>, bool, OffsetDateTime);
    let rows: Vec<Row> = sqlx::query_as(
        "select c.id, c.title, c.brief, f.id, r.body, exists (select 1 from sets where case_id = c.id), c.updated_at
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
        .map(|(id, title, brief, frame_id, readings, has_set, updated_at)| CaseCard {
            id,
            title,
            brief,
            frame_id,
            readings: readings.and_then(|r| of_this_core(r.0)),
            has_set,
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
    /// A set to begin with (slant-set/1), where there is no picture.
    #[serde(default)]
    #[schema(value_type = Option<lightset::set::LightSet>)]
    pub set: Option<serde_json::Value>,
}

/// Start a case.
#[utoipa::path(post, path = "/cases", tag = "cases", request_body = NewCase,
    responses((status = 201, body = CaseView), (status = 400, body = Problem), (status = 401, body = Problem)))]
async fn create(State(app): State<App>, Me(me): Me, Body(new): Body<NewCase>) -> Answer<(StatusCode, Json<CaseView>)> {
    let set = new.set.map(parse_set).transpose()?;
    let id = create_for(&app, me.id, &new.title, &new.brief).await?;
    if let Some(set) = set {
        file(&app, id, me.id, set).await.map_err(Problem::internal)?;
    }
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
    #[serde(deserialize_with = "crate::problem::version")]
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
    if let Some(b) = &edit.brief {
        brief_of(&app, me.id, b).await?;
    }
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
    must_own(&app, me.id, id).await?;
    let hashes: Vec<String> = sqlx::query_scalar("select distinct file_hash from frames where case_id = $1")
        .bind(id)
        .fetch_all(&app.pool)
        .await?;
    sqlx::query("delete from cases where id = $1 and owner = $2").bind(id).bind(me.id).execute(&app.pool).await?;
    for hash in hashes {
        crate::records::pictures::sweep(&app, &hash).await.map_err(Problem::internal)?;
    }
    Ok(StatusCode::NO_CONTENT)
}

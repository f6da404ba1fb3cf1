//! Cases as they are kept, with the tone curve of their camera.

use super::briefs::brief_of;
use crate::App;
use crate::problem::{Answer, Problem};
use optics::tone::Encoding;
use pictures::Facts;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use uuid::Uuid;

/// A tone curve all frames of a case are read through.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
pub struct Calibration {
    /// `grey steps`, `bracket` or `sum of plates`.
    pub by: String,
    /// Frames it was made from.
    pub frames: Vec<Uuid>,
    /// The curve.
    pub encoding: Encoding,
    /// Standard deviation about it in stops.
    pub spread_stops: f64,
    /// One sentence.
    pub says: String,
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
    /// A set was saved in it.
    pub has_set: bool,
}

#[derive(sqlx::FromRow)]
struct CaseRow {
    id: Uuid,
    title: String,
    brief: String,
    note: String,
    version: i64,
    calibration: Option<Jsonb<Calibration>>,
    has_set: bool,
}

/// The case if it is theirs, else 404.
pub(crate) async fn load(app: &App, me: Uuid, id: Uuid) -> Answer<CaseView> {
    let row: Option<CaseRow> =
        sqlx::query_as(
            "select id, title, brief, note, version, calibration, exists (select 1 from sets where case_id = cases.id) as has_set
             from cases where id = $1 and owner = $2",
        )
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
        has_set: row.has_set,
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

pub(crate) fn check_title(title: &str) -> Answer<String> {
    let t = title.trim();
    if t.is_empty() || t.chars().count() > 120 {
        return Err(Problem::bad("A title of 1 to 120 characters is needed."));
    }
    Ok(t.to_owned())
}

/// Makes a case for an owner; used by the route and by the demo data.
pub(crate) async fn create_for(app: &App, owner: Uuid, title: &str, brief: &str) -> Answer<Uuid> {
    let title = check_title(title)?;
    brief_of(app, owner, brief).await?;
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

/// The curve of the case a frame belongs to.
pub(crate) async fn curve_of_frame(app: &App, frame: Uuid) -> Answer<Option<Encoding>> {
    let kept: Option<Option<Jsonb<Calibration>>> =
        sqlx::query_scalar("select c.calibration from cases c join frames f on f.case_id = c.id where f.id = $1")
            .bind(frame)
            .fetch_optional(&app.pool)
            .await?;
    Ok(kept.flatten().map(|c| c.0.encoding))
}

/// Puts a calibration in its place; what was read under another is read again.
pub(crate) async fn put_calibration(app: &App, case: Uuid, calibration: Option<&Calibration>) -> Answer<()> {
    let mut tx = app.pool.begin().await?;
    sqlx::query("update cases set calibration = $2, updated_at = now() where id = $1")
        .bind(case)
        .bind(calibration.map(Jsonb))
        .execute(&mut *tx)
        .await?;
    sqlx::query("delete from comparisons where frame_id in (select id from frames where case_id = $1)")
        .bind(case)
        .execute(&mut *tx)
        .await?;
    sqlx::query("delete from readings where frame_id in (select id from frames where case_id = $1)")
        .bind(case)
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    Ok(())
}

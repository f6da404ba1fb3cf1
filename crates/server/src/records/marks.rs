//! Marks of a frame, version by version, and the reading that is kept for each.

use super::cases::curve_of_frame;
use super::frames::Owned;
use crate::App;
use crate::prepared::Prepared;
use crate::problem::{Answer, Problem};
use crate::work::Pace;
use evidence::CORE_VERSION;
use evidence::marks::Marks;
use evidence::read::{Memory, STOPPED, Stop};
use evidence::readings::Readings;
use serde::Serialize;
use session::PictureRead;
use sqlx::types::Json as Jsonb;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};
use utoipa::ToSchema;
use uuid::Uuid;

/// Marks with their version and what they say.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct MarkedFrame {
    /// Version for the next edit.
    pub version: i64,
    /// The marks (slant-marks/1).
    pub marks: Marks,
    /// What is read from them (slant-readings/1).
    pub readings: Readings,
}

/// Marks as they are read: with what the file and the case's tone curve say of the encoding.
pub(crate) async fn told(app: &App, frame: Uuid, p: &Prepared, marks: &Marks) -> Answer<Marks> {
    let curve = curve_of_frame(app, frame).await?;
    Ok(session::told(marks, &p.facts, curve.as_ref()))
}

/// How long the marks of one picture may take to read: ten times what a face with its eyes does.
const LONGEST_READING: Duration = Duration::from_secs(20);

/// Stops a reading when its time is over, or when whoever asked has gone and this is dropped.
struct Asked(Arc<AtomicBool>);

impl Asked {
    fn now() -> (Asked, Stop) {
        let gone = Arc::new(AtomicBool::new(false));
        let (end, seen) = (Instant::now() + LONGEST_READING, gone.clone());
        (Asked(gone), Arc::new(move || seen.load(Ordering::Relaxed) || Instant::now() > end))
    }
}

impl Drop for Asked {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

/// Reads on a worker thread: handlers stay free.
async fn read(app: &App, hash: &str, frame: Uuid, marks: &Marks) -> Answer<Readings> {
    let prepared = app.prepared(hash).await?;
    let marks = told(app, frame, &prepared, marks).await?;
    let (_asked, stop) = Asked::now();
    app.work.run(Pace::Quick, move || PictureRead::reading(&prepared.photo, Some(&prepared.meter), &marks, stop)).await
}

/// Reads with what a person's last reading of the frame left; `full` reads all anew and leaves that.
pub(crate) async fn read_in(app: &App, hash: &str, whose: (Uuid, Uuid), marks: &Marks, full: bool) -> Answer<Readings> {
    let prepared = app.prepared(hash).await?;
    let marks = told(app, whose.1, &prepared, marks).await?;
    let (_asked, stop) = Asked::now();
    app.work.run(Pace::Quick, move || remembered(&prepared, whose, &marks, full, stop)).await
}

fn remembered(p: &Prepared, whose: (Uuid, Uuid), marks: &Marks, full: bool, stop: Stop) -> Readings {
    let kept = p.memories.lock().ok().map(|mut m| m.get_or_insert(whose, Arc::default).clone()).unwrap_or_default();
    // a memory that a panic left half done is begun anew
    let mut memory = kept.lock().unwrap_or_else(|e| {
        let mut m = e.into_inner();
        *m = Memory::default();
        m
    });
    memory.stop_when(stop);
    PictureRead::again(&p.photo, Some(&p.meter), marks, &mut memory, full)
}

/// The newest marks of a frame with their reading, computed again if the core is newer.
pub(crate) async fn newest(app: &App, hash: &str, frame: Uuid) -> Answer<MarkedFrame> {
    let (version, marks): (i64, Jsonb<serde_json::Value>) =
        sqlx::query_as("select version, body from marks where frame_id = $1 order by version desc limit 1")
            .bind(frame)
            .fetch_one(&app.pool)
            .await?;
    let marks = Marks::from_value(marks.0).map_err(Problem::internal)?;
    let kept: Option<Jsonb<serde_json::Value>> = sqlx::query_scalar(
        "select body from readings where frame_id = $1 and marks_version = $2 and core_version = $3",
    )
    .bind(frame)
    .bind(version)
    .bind(CORE_VERSION)
    .fetch_optional(&app.pool)
    .await?;
    let readings = match kept.and_then(|r| of_this_core(r.0)) {
        Some(r) => r,
        None => {
            let r = read(app, hash, frame, &marks).await?;
            keep(app, frame, version, &r).await?;
            r
        }
    };
    Ok(MarkedFrame { version, marks, readings })
}

/// Readings as they were kept; `None` if another core wrote them in another shape: they are to be made anew.
pub(crate) fn of_this_core(body: serde_json::Value) -> Option<Readings> {
    serde_json::from_value(body).inspect_err(|e| tracing::info!("kept readings are made anew: {e}")).ok()
}

/// Keeps what was read of a frame with a version of its marks.
pub(crate) async fn keep(app: &App, frame: Uuid, version: i64, r: &Readings) -> Answer<()> {
    // what was stopped half way is made anew when it is asked for
    if r.warnings.iter().any(|w| w.code == STOPPED) {
        return Ok(());
    }
    sqlx::query(
        "insert into readings (frame_id, marks_version, core_version, body) values ($1, $2, $3, $4)
         on conflict (frame_id, marks_version, core_version) do update set body = excluded.body",
    )
    .bind(frame)
    .bind(version)
    .bind(CORE_VERSION)
    .bind(Jsonb(r))
    .execute(&app.pool)
    .await?;
    Ok(())
}

/// Readings are kept for what the picture shows; where marked parts should lie is asked of the case's brief.
pub(crate) fn briefed(f: &Owned, mut now: MarkedFrame) -> MarkedFrame {
    evidence::placement::by_brief(&mut now.readings.exposure, &f.root_brief, now.marks.exposure.as_ref());
    now
}

/// Saves marks after a version, reads them and keeps the reading.
pub(crate) async fn put(app: &App, me: Uuid, f: &Owned, id: Uuid, on: i64, marks: Marks) -> Answer<MarkedFrame> {
    // The primary key settles who comes first.
    let done = sqlx::query(
        "insert into marks (frame_id, version, body, author)
         select $1, $2 + 1, $3, $4 where (select max(version) from marks where frame_id = $1) = $2
         on conflict do nothing",
    )
    .bind(id)
    .bind(on)
    .bind(Jsonb(&marks))
    .bind(me)
    .execute(&app.pool)
    .await?;
    if done.rows_affected() == 0 {
        let now = briefed(f, newest(app, &f.hash, id).await?);
        return Err(Problem::stale("marks", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    sqlx::query("update cases set updated_at = now() where id = $1").bind(f.case_id).execute(&app.pool).await?;
    // what was followed while it was dragged is read in full
    let readings = read_in(app, &f.hash, (me, id), &marks, true).await?;
    keep(app, id, on + 1, &readings).await?;
    Ok(briefed(f, MarkedFrame { version: on + 1, marks, readings }))
}

#[cfg(test)]
mod tests {
    use super::*;
    use optics::photo::{Photo, Samples};
    use optics::tone::Encoding;

    #[test]
    fn readings_of_another_shape_are_made_anew_and_hurt_nobody() {
        let photo = Photo::new(8, 8, Samples::U8(vec![90; 192]), &Encoding::Srgb).unwrap();
        let readings = evidence::read::read(&photo, &Marks::default(), None, &|| &[]);
        let body = serde_json::to_value(&readings).unwrap();
        assert_eq!(of_this_core(body.clone()), Some(readings));
        // a room without the spread that came later; a list where there was a word
        let mut old = body.clone();
        old["room"] = serde_json::json!({"azimuth_deg": 3.0, "elevation_deg": 20.0});
        assert_eq!(of_this_core(old), None);
        let mut odd = body;
        odd["slant"] = serde_json::json!([1, 2]);
        assert_eq!(of_this_core(odd), None);
    }
}

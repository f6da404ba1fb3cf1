//! The tone curve of a case's camera: from grey steps in one frame, or from a bracketed series.

use crate::App;
use crate::accounts::Me;
use crate::prepared::Prepared;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::{Calibration, CaseView, FrameView, load, must_own, put_calibration};
use crate::records::frames::{Sent, add, owned};
use crate::records::marks::newest;
use crate::work::Pace;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use evidence::marks::{MarkKind, Marks, Wedge};
use optics::photo::Photo;
use serde::Deserialize;
use std::sync::Arc;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(calibrate, forget)).routes(routes!(merge_series))
}

/// Pictures of one series: seven at two stops apart cover any camera; twelve are a long one.
const MOST_FRAMES: usize = 12;

/// Frames to calibrate from.
#[derive(Deserialize, ToSchema)]
pub struct CalibrationFrames {
    /// One frame with marked grey steps, or two and more of one scene at different exposures.
    pub frames: Vec<Uuid>,
}

/// Find the camera's tone curve from frames of the case; all its frames are read through it from then on, except those whose
/// marks declare an encoding.
#[utoipa::path(put, path = "/cases/{id}/calibration", tag = "cases", params(("id" = Uuid, Path)), request_body = CalibrationFrames,
    responses((status = 200, body = CaseView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn calibrate(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(wanted): Body<CalibrationFrames>,
) -> Answer<Json<CaseView>> {
    must_own(&app, me.id, id).await?;
    let frames = chosen(&app, me.id, id, &wanted.frames).await?;
    let names = wanted.frames;
    let made = app.work.run(Pace::Heavy, move || -> Result<Calibration, String> {
        if let [(prepared, marks)] = &frames[..] {
            let patches = marks.marks.iter().find_map(|m| match &m.kind {
                MarkKind::Wedge(Wedge { patches }) if !m.off => Some(patches),
                _ => None,
            });
            let patches = patches.ok_or(
                "One frame calibrates by its grey steps: mark them first (T), or choose two and more frames of one scene at different exposures.",
            )?;
            let c = evidence::wedge::Curve::read(&prepared.photo, patches).map_err(|e| format!("The grey steps give no curve: {e}."))?;
            return Ok(Calibration {
                by: "grey steps".into(),
                says: format!("{} grey steps; contrast at middle grey {:.2} of plain sRGB.", c.used, c.contrast()),
                frames: names,
                encoding: c.encoding(),
                spread_stops: c.spread_stops,
            });
        }
        let series = exposed(&frames)?;
        let c = evidence::bracket::recover(&series).map_err(|e| format!("No curve: {e}."))?;
        Ok(Calibration {
            by: "bracket".into(),
            says: format!(
                "{} exposures of one scene, {} places; values {} to {} of 255 are told, within {:.2} stop.",
                series.len(),
                c.samples,
                c.from_to[0],
                c.from_to[1],
                c.spread_stops.max(0.01)
            ),
            frames: names,
            encoding: c.encoding(),
            spread_stops: c.spread_stops,
        })
    })
    .await?
    .map_err(Problem::bad)?;
    put_calibration(&app, id, Some(&made)).await?;
    load(&app, me.id, id).await.map(Json)
}

/// Frames of a case with their marks, as many as may be asked for.
async fn chosen(app: &App, me: Uuid, case: Uuid, frames: &[Uuid]) -> Answer<Vec<(Arc<Prepared>, Marks)>> {
    if frames.len() > MOST_FRAMES {
        let found = frames.len();
        return Err(Problem::bad(format!(
            "frames: expected at most {MOST_FRAMES} pictures of one scene, found {found}"
        )));
    }
    let mut out = Vec::new();
    for frame in frames {
        let f = owned(app, me, *frame).await?;
        if f.case_id != case {
            return Err(Problem::bad("A series is made of frames of its own case."));
        }
        let marked = newest(app, &f.hash, *frame).await?;
        out.push((app.prepared(&f.hash).await?, marked.marks));
    }
    Ok(out)
}

/// The pictures of a series with their relative exposures.
fn exposed(frames: &[(Arc<Prepared>, Marks)]) -> Result<Vec<(&Photo, f64)>, String> {
    let mut series = Vec::new();
    for (prepared, marks) in frames {
        let s = marks
            .exposure
            .ok_or("Every frame of a bracketed series needs its aperture, shutter and ISO: enter them under Look.")?;
        series.push((&prepared.photo, s.shutter_s * s.iso / (s.f_number * s.f_number)));
    }
    Ok(series)
}

/// Merge a bracketed series of one scene from one place into one linear picture (OpenEXR), a new reference of the case: what one
/// frame clips, another holds. Frames that are not linear are read through the curve that the series itself gives.
#[utoipa::path(post, path = "/cases/{id}/merge", tag = "cases", params(("id" = Uuid, Path)), request_body = CalibrationFrames,
    responses((status = 201, body = FrameView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn merge_series(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(wanted): Body<CalibrationFrames>,
) -> Answer<(StatusCode, Json<FrameView>)> {
    must_own(&app, me.id, id).await?;
    let frames = chosen(&app, me.id, id, &wanted.frames).await?;
    let file = app.work.run(Pace::Heavy, move || -> Result<Vec<u8>, String> {
        let series = exposed(&frames)?;
        let merged = session::merged(&series)?;
        pictures::encode_exr(merged.width, merged.height, merged.rgb).map_err(|r| r.to_string())
    });
    let file = file.await?.map_err(Problem::bad)?;
    let frame = add(&app, id, me.id, Sent::reference("merged.exr", file), None).await?;
    Ok((StatusCode::CREATED, Json(frame)))
}

/// Read the frames of a case as plain sRGB again.
#[utoipa::path(delete, path = "/cases/{id}/calibration", tag = "cases", params(("id" = Uuid, Path)),
    responses((status = 200, body = CaseView), (status = 404, body = Problem)))]
async fn forget(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<CaseView>> {
    must_own(&app, me.id, id).await?;
    put_calibration(&app, id, None).await?;
    load(&app, me.id, id).await.map(Json)
}

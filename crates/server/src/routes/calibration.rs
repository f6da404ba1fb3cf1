//! The tone curve of a case's camera: from grey steps in one frame, or from a bracketed series.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::{Calibration, CaseView, load, must_own, put_calibration};
use crate::records::frames::owned;
use crate::records::marks::newest;
use crate::work::Pace;
use axum::Json;
use axum::extract::{Path, State};
use evidence::marks::{MarkKind, Wedge};
use serde::Deserialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(calibrate, forget))
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
    if wanted.frames.len() > MOST_FRAMES {
        let found = wanted.frames.len();
        return Err(Problem::bad(format!(
            "frames: expected at most {MOST_FRAMES} pictures of one scene, found {found}"
        )));
    }
    let mut frames = Vec::new();
    for frame in &wanted.frames {
        let f = owned(&app, me.id, *frame).await?;
        if f.case_id != id {
            return Err(Problem::bad("A case is calibrated from its own frames."));
        }
        let marked = newest(&app, &f.hash, *frame).await?;
        frames.push((app.prepared(&f.hash).await?, marked.marks));
    }
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
        let mut series = Vec::new();
        for (prepared, marks) in &frames {
            let s = marks.exposure.ok_or("Every frame of a bracketed series needs its aperture, shutter and ISO: enter them under Look.")?;
            series.push((&prepared.photo, s.shutter_s * s.iso / (s.f_number * s.f_number)));
        }
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

/// Read the frames of a case as plain sRGB again.
#[utoipa::path(delete, path = "/cases/{id}/calibration", tag = "cases", params(("id" = Uuid, Path)),
    responses((status = 200, body = CaseView), (status = 404, body = Problem)))]
async fn forget(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<CaseView>> {
    must_own(&app, me.id, id).await?;
    put_calibration(&app, id, None).await?;
    load(&app, me.id, id).await.map(Json)
}

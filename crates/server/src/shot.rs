//! Frames of one film in a case, read together.

use crate::App;
use crate::accounts::Me;
use crate::cases::load;
use crate::frames::owned;
use crate::marks::newest;
use crate::problem::{Answer, Problem};
use axum::Json;
use axum::extract::{Path, State};
use light::readings::Light;
use serde::Serialize;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(shot))
}

/// Frames of one film read together.
#[derive(Debug, Serialize, ToSchema)]
pub struct ShotView {
    /// The film.
    pub film: String,
    /// Its lights by all frames; their evidence is frame ids.
    pub lights: Vec<Light>,
    /// Frames by time.
    pub frames: Vec<ShotFrame>,
}

/// One frame of a shot.
#[derive(Debug, Serialize, ToSchema)]
pub struct ShotFrame {
    /// Frame.
    pub id: Uuid,
    /// Seconds from the film's start.
    pub time_s: f64,
    /// Lit patch, or else the median of the picture, in stops from middle grey.
    pub stops_from_grey: f64,
    /// Spread within it in stops; absent for the median of the picture.
    pub spread_stops: Option<f64>,
    /// Share of the frame that is clipped.
    pub clipped_fraction: f64,
    /// Lights read from this frame alone.
    pub lights: usize,
}

/// The films of a case: for each, its lights by all its frames and the exposure over time.
#[utoipa::path(get, path = "/cases/{id}/shots", tag = "cases", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<ShotView>), (status = 404, body = Problem)))]
async fn shot(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<ShotView>>> {
    let case = load(&app, me.id, id).await?;
    let mut films: std::collections::BTreeMap<String, Vec<(f64, Uuid)>> = Default::default();
    for f in &case.frames {
        if let (Some(film), Some(t)) = (&f.film, f.time_s) {
            films.entry(film.clone()).or_default().push((t, f.id));
        }
    }
    let mut out = Vec::new();
    for (film, mut frames) in films {
        frames.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut read = Vec::new();
        for (time_s, frame) in frames {
            let hash = owned(&app, me.id, frame).await?.hash;
            read.push((time_s, frame, newest(&app, &hash, frame).await?.readings));
        }
        let named: Vec<_> = read.iter().map(|(_, id, r)| (id.to_string(), r)).collect();
        let lights = light::read::shot(&named);
        let frames = read
            .iter()
            .map(|(time_s, id, r)| {
                let lit = r.exposure.placements.first();
                ShotFrame {
                    id: *id,
                    time_s: *time_s,
                    stops_from_grey: lit.map_or(r.exposure.median_stops_from_grey, |p| p.stops_from_grey),
                    spread_stops: lit.map(|p| p.spread_stops),
                    clipped_fraction: r.exposure.clipped_fraction,
                    lights: r.lights.len(),
                }
            })
            .collect();
        out.push(ShotView { film, lights, frames });
    }
    Ok(Json(out))
}

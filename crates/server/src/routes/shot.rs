//! Frames of one film in a case, read together.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Problem};
use crate::records::cases::load;
use crate::records::frames::owned;
use crate::records::marks::newest;
use axum::Json;
use axum::extract::{Path, State};
use evidence::marks::PatchRole;
use evidence::readings::{Light, PatchReading, Placement, Readings};
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
    /// How far the lit side goes down from its brightest frame to its darkest, if it is marked in two frames and more.
    pub walk: Option<Walk>,
}

/// How the lit side changes along a shot.
#[derive(Debug, Serialize, ToSchema)]
pub struct Walk {
    /// Stops.
    pub stops: f64,
    /// The same over the plausible tone curves and the patches' unevenness.
    #[schema(value_type = optics::geometry::Pair)]
    pub range_stops: [f64; 2],
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
        let lights = evidence::read::shot(&named);
        let frames = read
            .iter()
            .map(|(time_s, id, r)| {
                let lit = lit_of(r).map(|(p, _)| p);
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
        let walk = walk(read.iter().map(|(_, _, r)| r), case.calibration.is_some());
        out.push(ShotView { film, lights, frames, walk });
    }
    Ok(Json(out))
}

/// The first lit patch of a frame, placed and measured.
fn lit_of(r: &Readings) -> Option<(&Placement, &PatchReading)> {
    let lit = r.exposure.placements.iter().find(|p| p.role == PatchRole::Lit)?;
    Some((lit, r.by_mark.get(&lit.mark)?.patch.as_ref()?))
}

fn walk<'r>(frames: impl Iterator<Item = &'r Readings>, calibrated: bool) -> Option<Walk> {
    let mut lit: Vec<&PatchReading> = frames.filter_map(|r| lit_of(r).map(|(_, p)| p)).collect();
    lit.sort_by(|a, b| b.luminance.total_cmp(&a.luminance));
    let [first, .., last] = lit[..] else { return None };
    let sides = [(PatchRole::Lit, first), (PatchRole::Shadow, last)].map(|(role, p)| (String::new(), role, p.clone()));
    let c = evidence::levels::contrast(&sides, calibrated)?;
    Some(Walk { stops: c.stops, range_stops: c.range_stops })
}

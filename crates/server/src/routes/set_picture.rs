//! The picture a set would give, kept as a picture of its case: a target for an assignment, or what a planned case is read from.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Problem};
use crate::records::cases::{FrameView, must_own};
use crate::records::frames::{Sent, add};
use crate::routes::sets::newest_set;
use crate::work::Pace;
use axum::Json;
use axum::extract::{Path, State};
use lightset::set::LightSet;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(keep_picture))
}

/// What a usual camera's pixels hold, electrons.
const FULL_WELL: f64 = 40_000.0;

/// A picture that is waited for is at most so long, pixels, and so fine; a larger one is a job of its own.
const MOST_SIDE: u32 = 1600;
const MOST_SAMPLES: u32 = 64;

/// A set's picture as a usual camera would take it, encoded as PNG; the set takes the picture's size over.
///
/// # Errors
/// A sentence that says why the studio cannot draw it.
pub(crate) fn taken(set: &mut LightSet, seed: u32) -> Result<Vec<u8>, String> {
    let side = set.picture.width.max(set.picture.height);
    if side > MOST_SIDE {
        let k = f64::from(MOST_SIDE) / f64::from(side);
        let less = |v: u32| (f64::from(v) * k).round().max(8.0) as u32;
        (set.picture.width, set.picture.height) = (less(set.picture.width), less(set.picture.height));
    }
    set.picture.samples = set.picture.samples.min(MOST_SAMPLES);
    set.picture.seed = seed;
    set.picture.full_well = Some(FULL_WELL);
    let rgb = studio::encode(&studio::picture(set)?, &set.picture);
    pictures::encode_png(set.picture.width, set.picture.height, rgb).map_err(|e| e.to_string())
}

/// Keep the picture that the saved set of a case gives: as its reference if it has none, else as a view beside it. Eyes, balls and boxes in
/// it are marked as the set has them.
#[utoipa::path(post, path = "/cases/{id}/set/picture", tag = "sets", params(("id" = Uuid, Path)),
    responses((status = 200, body = FrameView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn keep_picture(State(app): State<App>, Me(me): Me, Path(case): Path<Uuid>) -> Answer<Json<FrameView>> {
    must_own(&app, me.id, case).await?;
    let mut set = newest_set(&app, case).await?.1;
    let has: bool =
        sqlx::query_scalar("select exists (select 1 from frames where case_id = $1 and role = 'reference')")
            .bind(case)
            .fetch_one(&app.pool)
            .await?;
    let (png, marks) = app
        .work
        .run(Pace::Heavy, move || taken(&mut set, 1).map(|png| (png, studio::marks(&set))))
        .await?
        .map_err(Problem::bad)?;
    let role = if has { "view" } else { "reference" };
    let sent =
        Sent { id: Uuid::now_v7(), name: "set.png".into(), role: role.into(), film: None, time_s: None, bytes: png };
    Ok(Json(add(&app, case, me.id, sent, Some(marks)).await?))
}

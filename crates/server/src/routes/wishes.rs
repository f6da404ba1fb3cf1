//! Sets from a wish, without a picture.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::routes::candidates::{MadeOf, kit_for};
use crate::routes::sets::jpeg_of;
use crate::work::Pace;
use adviser::{Proposal, proposals};
use axum::Json;
use axum::extract::State;
use lightset::set::LightSet;
use planning::wish::{Look, Mood, Wish, looks, moods};
use serde::{Deserialize, Serialize};
use std::sync::atomic::AtomicBool;
use studio::PlateCache;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new().routes(routes!(what_can_be_wished, plan_wish))
}

/// What one can wish for.
#[derive(Serialize, ToSchema)]
pub struct Wishes {
    /// Looks.
    pub looks: Vec<Look>,
    /// How they may be bent.
    pub moods: Vec<Mood>,
}

/// A wish, and what it may be made of.
#[derive(Deserialize, ToSchema)]
pub struct WishMade {
    /// The wish.
    pub wish: Wish,
    /// What it may be made of; what I own if absent.
    #[serde(default)]
    pub of: MadeOf,
}

/// A set for a wish with the picture it would give.
#[derive(Serialize, ToSchema)]
pub struct Proposed {
    /// The set.
    pub proposal: Proposal,
    /// The picture as a JPEG in base64.
    pub jpeg: Option<String>,
}

/// Longest side of a proposal's picture in pixels, and its samples.
const LOOK_PX: u32 = 300;
const LOOK_SAMPLES: u32 = 8;

/// What one can wish for.
#[utoipa::path(get, path = "/wishes", tag = "sets", responses((status = 200, body = Wishes)))]
async fn what_can_be_wished(Me(_): Me) -> Json<Wishes> {
    Json(Wishes { looks: looks().to_vec(), moods: moods().to_vec() })
}

/// Two or three sets that give a wish in a room, with the pictures they would give.
#[utoipa::path(post, path = "/wishes", tag = "sets", request_body = WishMade,
    responses((status = 200, body = Vec<Proposed>), (status = 400, body = Problem)))]
async fn plan_wish(State(app): State<App>, Me(me): Me, Body(made): Body<WishMade>) -> Answer<Json<Vec<Proposed>>> {
    made.wish.check().map_err(Problem::bad)?;
    let kit = kit_for(&app, me.id, made.of).await?;
    let plan = move || {
        let found = proposals(&made.wish, &kit)?;
        Ok(found.into_iter().map(|p| Proposed { jpeg: small(&p.set), proposal: p }).collect())
    };
    let found: Result<Vec<Proposed>, String> = app.work.run(Pace::Heavy, plan).await?;
    found.map(Json).map_err(Problem::bad)
}

/// A small picture of a set.
fn small(set: &LightSet) -> Option<String> {
    let mut set = set.clone();
    let p = &mut set.picture;
    let k = f64::from(LOOK_PX) / f64::from(p.width.max(p.height));
    (p.width, p.height) = ((f64::from(p.width) * k) as u32, (f64::from(p.height) * k) as u32);
    p.samples = LOOK_SAMPLES;
    let plates = studio::trace(&set, &mut PlateCache::default(), &AtomicBool::new(false), |_| {})?;
    jpeg_of(&set, &plates)
}

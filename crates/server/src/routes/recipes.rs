//! Accepted sets: filed, found again by their light, set again on another day.

use crate::App;
use crate::accounts::Me;
use crate::problem::{Answer, Body, Problem};
use crate::records::cases::must_own;
use crate::records::frames::owned;
use crate::records::marks::newest as newest_marks;
use crate::records::versioned::{LINKS, add, newest};
use crate::routes::kit::kit_of;
use crate::routes::sets::{SetView, add_set, newest_set, newest_view};
use axum::Json;
use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use judging::takes::{Kept, Left, Recipe, RecipeQuery, TakeLink, lacks, matches};
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use time::OffsetDateTime;
use utoipa::{IntoParams, ToSchema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(accept))
        .routes(routes!(keep_set))
        .routes(routes!(find))
        .routes(routes!(forget))
        .routes(routes!(set_again))
}

/// A take that is accepted.
#[derive(Deserialize, ToSchema)]
pub struct Acceptance {
    /// Version of the link it was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// Name of the recipe.
    pub title: String,
    /// Differences that are left, with reasons.
    #[serde(default)]
    pub left: Vec<Left>,
    /// Tags.
    #[serde(default)]
    pub tags: Vec<String>,
    /// Notes.
    #[serde(default)]
    pub note: String,
}

/// A light of a recipe, for drawing.
#[derive(Serialize, ToSchema)]
pub struct RecipeLight {
    /// Role.
    pub role: String,
    /// Degrees from the lens axis, positive to camera right.
    pub azimuth_deg: f64,
    /// Degrees above it.
    pub elevation_deg: f64,
    /// Full angle it fills.
    pub angular_size_deg: Option<f64>,
    /// Stops relative to the key.
    pub level_stops: Option<f64>,
}

fn lights(slant: &str) -> Vec<RecipeLight> {
    let line: lightset::notation::SlantLine = slant.parse().unwrap_or_default();
    line.0
        .into_iter()
        .map(|l| RecipeLight {
            role: l.name,
            azimuth_deg: l.azimuth_deg,
            elevation_deg: l.elevation_deg,
            angular_size_deg: l.angular_size_deg,
            level_stops: l.level_stops,
        })
        .collect()
}

/// A recipe as it is kept.
#[derive(Serialize, ToSchema)]
pub struct RecipeView {
    /// Id.
    pub id: Uuid,
    /// The case it came from, if it is still there.
    pub case_id: Option<Uuid>,
    /// Its picture, if it is still there.
    pub frame_id: Option<Uuid>,
    /// The recipe.
    pub recipe: Recipe,
    /// Its lights.
    pub lights: Vec<RecipeLight>,
    /// How well it answers what was asked, 0 to 1.
    pub like: f64,
    /// What the kit lacks for it.
    pub lacks: Vec<String>,
    /// When it was filed.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub created_at: OffsetDateTime,
}

/// Accept a take: what is left stays with its reasons, and the set is filed as a recipe.
#[utoipa::path(post, path = "/frames/{id}/accept", tag = "recipes", params(("id" = Uuid, Path)), request_body = Acceptance,
    responses((status = 201, body = RecipeView), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn accept(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(a): Body<Acceptance>,
) -> Answer<(StatusCode, Json<RecipeView>)> {
    let f = owned(&app, me.id, id).await?;
    let title = checked_title(&a.title)?;
    let (_, mut link): (i64, TakeLink) = newest(&app, LINKS, id).await?.unwrap_or_default();
    let readings = newest_marks(&app, &f.hash, id).await?.readings;
    let set = match link.set.clone() {
        Some(s) => s,
        None => newest_set(&app, f.case_id).await?.1,
    };
    link.kept = Kept::Accepted;
    link.left.clone_from(&a.left);
    link.check().map_err(Problem::bad)?;
    if !add(&app, LINKS, id, me.id, a.version, &link).await? {
        let now = newest::<TakeLink>(&app, LINKS, id).await?.unwrap_or_default();
        return Err(Problem::stale("take", serde_json::json!({ "version": now.0, "link": now.1 })));
    }
    let recipe = Recipe {
        title,
        slant: readings.slant,
        look: readings.look.map(|l| l.name),
        set,
        left: a.left,
        tags: a.tags,
        note: a.note,
    };
    let view = filed(&app, me.id, f.case_id, Some(id), recipe).await?;
    Ok((StatusCode::CREATED, Json(view)))
}

/// A set that is kept without a picture.
#[derive(Deserialize, ToSchema)]
pub struct SetKept {
    /// Name of the recipe.
    pub title: String,
}

/// Keep the set of a case as a recipe, as it stands, without a take.
#[utoipa::path(post, path = "/cases/{id}/set/recipe", tag = "recipes", params(("id" = Uuid, Path)), request_body = SetKept,
    responses((status = 201, body = RecipeView), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn keep_set(
    State(app): State<App>,
    Me(me): Me,
    Path(case): Path<Uuid>,
    Body(kept): Body<SetKept>,
) -> Answer<(StatusCode, Json<RecipeView>)> {
    must_own(&app, me.id, case).await?;
    let title = checked_title(&kept.title)?;
    let now = newest_view(&app, case).await?;
    let recipe = Recipe {
        title,
        slant: now.meter.slant,
        look: None,
        set: now.set,
        left: Vec::new(),
        tags: Vec::new(),
        note: String::new(),
    };
    let view = filed(&app, me.id, case, None, recipe).await?;
    Ok((StatusCode::CREATED, Json(view)))
}

/// A recipe's name.
fn checked_title(title: &str) -> Answer<String> {
    let title = title.trim().to_owned();
    if title.is_empty() || title.chars().count() > 120 {
        return Err(Problem::bad("title: a recipe needs a name of 1 to 120 characters"));
    }
    Ok(title)
}

/// Files a recipe.
async fn filed(app: &App, me: Uuid, case: Uuid, frame: Option<Uuid>, recipe: Recipe) -> Answer<RecipeView> {
    let new = Uuid::now_v7();
    let created_at: OffsetDateTime = sqlx::query_scalar(
        "insert into recipes (id, owner, case_id, frame_id, body) values ($1, $2, $3, $4, $5) returning created_at",
    )
    .bind(new)
    .bind(me)
    .bind(case)
    .bind(frame)
    .bind(Jsonb(&recipe))
    .fetch_one(&app.pool)
    .await?;
    let kit = kit_of(app, me).await?.kit;
    Ok(RecipeView {
        id: new,
        case_id: Some(case),
        frame_id: frame,
        lacks: lacks(&recipe.set, &kit),
        lights: lights(&recipe.slant),
        recipe,
        like: 1.0,
        created_at,
    })
}

/// What recipes are looked for by.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
struct Sought {
    /// Light as a slant line.
    slant: Option<String>,
    /// Name of a look.
    look: Option<String>,
    /// Words in title, tags, note.
    words: Option<String>,
    /// Only what my kit can do.
    #[serde(default)]
    with_kit: bool,
    /// A picture whose light is looked for, by its frame.
    like_frame: Option<Uuid>,
}

/// My recipes, the likest or newest first.
#[utoipa::path(get, path = "/recipes", tag = "recipes", params(Sought),
    responses((status = 200, body = Vec<RecipeView>), (status = 400, body = Problem), (status = 404, body = Problem)))]
async fn find(State(app): State<App>, Me(me): Me, Query(q): Query<Sought>) -> Answer<Json<Vec<RecipeView>>> {
    let mut query = RecipeQuery { slant: q.slant, look: q.look, words: q.words, with_kit: q.with_kit };
    if let Some(frame) = q.like_frame {
        let f = owned(&app, me.id, frame).await?;
        let slant = newest_marks(&app, &f.hash, frame).await?.readings.slant;
        if slant.trim().is_empty() {
            return Err(Problem::bad("No light has been read in that picture yet: mark something in Read first."));
        }
        query.slant = Some(slant);
    }
    type Row = (Uuid, Option<Uuid>, Option<Uuid>, Jsonb<Recipe>, OffsetDateTime);
    let rows: Vec<Row> = sqlx::query_as(
        "select id, case_id, frame_id, body, created_at from recipes where owner = $1 order by created_at desc limit 1000",
    )
    .bind(me.id)
    .fetch_all(&app.pool)
    .await?;
    let kit = kit_of(&app, me.id).await?.kit;
    let mut out = Vec::new();
    for (id, case_id, frame_id, recipe, created_at) in rows {
        if let Some(like) = matches(&recipe.0, &query, &kit).map_err(Problem::bad)? {
            let lacks = lacks(&recipe.0.set, &kit);
            let lights = lights(&recipe.0.slant);
            out.push(RecipeView { id, case_id, frame_id, recipe: recipe.0, lights, like, lacks, created_at });
        }
    }
    out.sort_by(|a, b| b.like.total_cmp(&a.like));
    Ok(Json(out))
}

async fn mine(app: &App, me: Uuid, id: Uuid) -> Answer<Recipe> {
    let row: Option<Jsonb<Recipe>> = sqlx::query_scalar("select body from recipes where id = $1 and owner = $2")
        .bind(id)
        .bind(me)
        .fetch_optional(&app.pool)
        .await?;
    row.map(|r| r.0).ok_or_else(|| Problem::not_found("There is no such recipe among yours."))
}

/// Delete a recipe.
#[utoipa::path(delete, path = "/recipes/{id}", tag = "recipes", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 404, body = Problem)))]
async fn forget(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<StatusCode> {
    mine(&app, me.id, id).await?;
    sqlx::query("delete from recipes where id = $1").bind(id).execute(&app.pool).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Where to set it up again.
#[derive(Deserialize, ToSchema)]
pub struct Again {
    /// The case.
    pub case_id: Uuid,
}

/// Set a recipe up again in a case: its lights and boards come into the case's set as a new version; subject, camera and
/// room stay.
#[utoipa::path(post, path = "/recipes/{id}/set-again", tag = "recipes", params(("id" = Uuid, Path)), request_body = Again,
    responses((status = 200, body = SetView), (status = 404, body = Problem)))]
async fn set_again(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(q): Body<Again>,
) -> Answer<Json<SetView>> {
    let recipe = mine(&app, me.id, id).await?;
    must_own(&app, me.id, q.case_id).await?;
    let set = match newest_set(&app, q.case_id).await {
        Ok((_, now)) => lightset::set::LightSet {
            lights: recipe.set.lights,
            boards: recipe.set.boards,
            flags: recipe.set.flags,
            ..now
        },
        // a case without a picture takes all of it
        Err(_) => recipe.set,
    };
    add_set(&app, me.id, q.case_id, set).await.map(Json)
}

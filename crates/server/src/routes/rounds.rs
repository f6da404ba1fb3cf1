//! Live rounds: made and led by those who teach, played from phones by a code, without an account.

use crate::App;
use crate::accounts::{AuthSession, Me};
use crate::live::{Changes, MOST_PHONES, MOST_WATCHERS};
use crate::problem::{Answer, Body, Problem};
use crate::records::rounds::{self, LiveRound, NewRound, Player, PlayerView, RoundCard, RoundEdit, by_code, taught};
use crate::routes::classes::{CopySize, copy_of};
use axum::Json;
use axum::extract::{Path, Query, State};
use axum::http::StatusCode;
use axum::response::Response;
use axum::response::sse::{Event, KeepAlive, Sse};
use futures_util::Stream;
use optics::geometry::AzEl;
use serde::{Deserialize, Serialize};
use std::time::Duration;
use tokio::sync::watch::Receiver;
use tokio_stream::wrappers::ReceiverStream;
use utoipa::ToSchema;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;
use uuid::Uuid;

pub(crate) fn routes() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(class_rounds, make_round))
        .routes(routes!(one_round, change_round, remove_round))
        .routes(routes!(round_events))
        .routes(routes!(round_picture))
        .routes(routes!(join_round))
        .routes(routes!(played_round, place_light))
        .routes(routes!(played_events))
        .routes(routes!(played_picture))
}

/// The live rounds of a class, the newest first.
#[utoipa::path(get, path = "/classes/{id}/rounds", tag = "live", params(("id" = Uuid, Path)),
    responses((status = 200, body = Vec<RoundCard>), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn class_rounds(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<Vec<RoundCard>>> {
    rounds::of_class(&app, me.id, id).await.map(Json)
}

/// Make a live round of pictures in which a light was read.
#[utoipa::path(post, path = "/classes/{id}/rounds", tag = "live", params(("id" = Uuid, Path)), request_body = NewRound,
    responses((status = 201, body = LiveRound), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn make_round(
    State(app): State<App>,
    Me(me): Me,
    Path(class): Path<Uuid>,
    Body(new): Body<NewRound>,
) -> Answer<(StatusCode, Json<LiveRound>)> {
    let id = rounds::create(&app, me.id, class, &new).await?;
    Ok((StatusCode::CREATED, Json(rounds::view(&app, id).await?)))
}

/// A live round as it is shown on the wall.
#[utoipa::path(get, path = "/rounds/{id}", tag = "live", params(("id" = Uuid, Path)),
    responses((status = 200, body = LiveRound), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn one_round(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<Json<LiveRound>> {
    taught(&app, me.id, id).await?;
    rounds::view(&app, id).await.map(Json)
}

/// Lead a live round on: its stage, its picture, what is shown.
#[utoipa::path(patch, path = "/rounds/{id}", tag = "live", params(("id" = Uuid, Path)), request_body = RoundEdit,
    responses((status = 200, body = LiveRound), (status = 400, body = Problem), (status = 403, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem)))]
async fn change_round(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Body(e): Body<RoundEdit>,
) -> Answer<Json<LiveRound>> {
    rounds::change(&app, me.id, id, &e).await.map(Json)
}

/// Remove a live round with what was placed in it.
#[utoipa::path(delete, path = "/rounds/{id}", tag = "live", params(("id" = Uuid, Path)),
    responses((status = 204), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn remove_round(State(app): State<App>, Me(me): Me, Path(id): Path<Uuid>) -> Answer<StatusCode> {
    rounds::remove(&app, me.id, id).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// Places that come within this time are told together.
const TOGETHER: Duration = Duration::from_millis(40);
/// A line that says nothing, so that nobody in between takes the connection for dead.
const ALIVE: Duration = Duration::from_secs(15);

/// Events of a round: what `view` answers now, and again after every change that `counts`.
fn told<V, F, Fut>(
    mut changes: Receiver<Changes>,
    counts: fn(&Changes) -> u64,
    view: F,
) -> Sse<impl Stream<Item = Result<Event, axum::Error>>>
where
    V: Serialize + Send + 'static,
    F: Fn() -> Fut + Send + 'static,
    Fut: Future<Output = Answer<V>> + Send,
{
    let (tell, told) = tokio::sync::mpsc::channel(2);
    tokio::spawn(async move {
        loop {
            let seen = counts(&changes.borrow_and_update());
            // the round is gone, or the database is: the browser asks again
            let Ok(now) = view().await else { return };
            if tell.send(Event::default().json_data(now)).await.is_err() {
                return;
            }
            loop {
                tokio::select! {
                    () = tell.closed() => return,
                    c = changes.changed() => if c.is_err() { return },
                }
                if counts(&changes.borrow_and_update()) != seen {
                    break;
                }
            }
            tokio::time::sleep(TOGETHER).await;
        }
    });
    Sse::new(ReceiverStream::new(told)).keep_alive(KeepAlive::new().interval(ALIVE))
}

/// A live round as it is shown on the wall, again after every change (server-sent events, each a `LiveRound`).
#[utoipa::path(get, path = "/rounds/{id}/events", tag = "live", params(("id" = Uuid, Path)),
    responses((status = 200, content_type = "text/event-stream"), (status = 403, body = Problem), (status = 404, body = Problem), (status = 503, body = Problem)))]
async fn round_events(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
) -> Answer<Sse<impl Stream<Item = Result<Event, axum::Error>>>> {
    taught(&app, me.id, id).await?;
    let changes = app.live.watch(id, MOST_WATCHERS).ok_or_else(Problem::busy)?;
    Ok(told(
        changes,
        |c| c.guesses,
        move || {
            let app = app.clone();
            async move { rounds::view(&app, id).await }
        },
    ))
}

/// The picture that a round shows now.
#[utoipa::path(get, path = "/rounds/{id}/picture", tag = "live", params(("id" = Uuid, Path), CopySize),
    responses((status = 200, content_type = "image/jpeg"), (status = 403, body = Problem), (status = 404, body = Problem)))]
async fn round_picture(
    State(app): State<App>,
    Me(me): Me,
    Path(id): Path<Uuid>,
    Query(size): Query<CopySize>,
) -> Answer<Response> {
    taught(&app, me.id, id).await?;
    let hash = rounds::picture_now(&app, id).await?;
    copy_of(&app, &hash, &size).await
}

/// A name to play under.
#[derive(Deserialize, ToSchema)]
pub struct PlayerName {
    /// Shown only if the round names those who came nearest.
    pub name: String,
}

/// Join a live round by its code; no account is needed.
#[utoipa::path(post, path = "/live/{code}/players", tag = "live", params(("code" = String, Path)), request_body = PlayerName,
    responses((status = 201, body = Player), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem), (status = 429, body = Problem)))]
async fn join_round(
    State(app): State<App>,
    session: AuthSession,
    Path(code): Path<String>,
    Body(n): Body<PlayerName>,
) -> Answer<(StatusCode, Json<Player>)> {
    let round = by_code(&app, &code).await?;
    let player = rounds::join(&app, round, session.user.map(|a| a.id), &n.name).await?;
    Ok((StatusCode::CREATED, Json(player)))
}

/// Who plays.
#[derive(Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
struct Playing {
    /// The sign that joining gave.
    player: Uuid,
}

/// A live round as a phone sees it.
#[utoipa::path(get, path = "/live/{code}", tag = "live", params(("code" = String, Path), Playing),
    responses((status = 200, body = PlayerView), (status = 404, body = Problem), (status = 429, body = Problem)))]
async fn played_round(
    State(app): State<App>,
    Path(code): Path<String>,
    Query(p): Query<Playing>,
) -> Answer<Json<PlayerView>> {
    let round = by_code(&app, &code).await?;
    rounds::played(&app, round, p.player).await.map(Json)
}

/// A place of the light.
#[derive(Deserialize, ToSchema)]
pub struct Guess {
    /// The sign that joining gave.
    pub player: Uuid,
    /// In which picture, from 0.
    pub at: u32,
    /// Where the light comes from.
    pub place: AzEl,
}

/// Place the light in the picture that is shown; the newest place counts.
#[utoipa::path(put, path = "/live/{code}", tag = "live", params(("code" = String, Path)), request_body = Guess,
    responses((status = 204), (status = 400, body = Problem), (status = 404, body = Problem), (status = 409, body = Problem), (status = 429, body = Problem)))]
async fn place_light(State(app): State<App>, Path(code): Path<String>, Body(g): Body<Guess>) -> Answer<StatusCode> {
    let round = by_code(&app, &code).await?;
    rounds::place(&app, round, g.player, g.at, &g.place).await?;
    Ok(StatusCode::NO_CONTENT)
}

/// A live round as a phone sees it, again when it is led on (server-sent events, each a `PlayerView`).
#[utoipa::path(get, path = "/live/{code}/events", tag = "live", params(("code" = String, Path), Playing),
    responses((status = 200, content_type = "text/event-stream"), (status = 404, body = Problem), (status = 429, body = Problem), (status = 503, body = Problem)))]
async fn played_events(
    State(app): State<App>,
    Path(code): Path<String>,
    Query(p): Query<Playing>,
) -> Answer<Sse<impl Stream<Item = Result<Event, axum::Error>>>> {
    let round = by_code(&app, &code).await?;
    // who is not in it is told so at once
    rounds::played(&app, round, p.player).await?;
    let changes = app.live.watch(round, MOST_PHONES).ok_or_else(Problem::busy)?;
    Ok(told(
        changes,
        |c| c.stage,
        move || {
            let app = app.clone();
            async move { rounds::played(&app, round, p.player).await }
        },
    ))
}

/// The picture that a round shows now, for who has its code.
#[utoipa::path(get, path = "/live/{code}/picture", tag = "live", params(("code" = String, Path), CopySize),
    responses((status = 200, content_type = "image/jpeg"), (status = 404, body = Problem), (status = 429, body = Problem)))]
async fn played_picture(
    State(app): State<App>,
    Path(code): Path<String>,
    Query(size): Query<CopySize>,
) -> Answer<Response> {
    let round = by_code(&app, &code).await?;
    let hash = rounds::picture_now(&app, round).await?;
    copy_of(&app, &hash, &size).await
}

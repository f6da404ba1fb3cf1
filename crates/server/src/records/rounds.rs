//! Live rounds: pictures with the light that was read, who plays, where each placed it.

use super::classes::{audit, must_teach, new_code, plain_code};
use super::frames::owned;
use super::marks::newest;
use crate::App;
use crate::live::CHANNEL;
use crate::problem::{Answer, Problem};
use crate::tries;
use classroom::{Crowd, Off, Truth, check_place, crowd, off};
use evidence::readings::{Light, Readings};
use optics::geometry::AzEl;
use pictures::Facts;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use uuid::Uuid;

/// Pictures of a round, players of a round and rounds of a class at most.
const MOST_PICTURES: usize = 20;
const MOST_PLAYERS: i64 = 300;
const MOST_ROUNDS: i64 = 200;
/// Characters of a code that is typed on a phone.
const CODE_LENGTH: usize = 6;
/// Wrong codes of everyone within a minute: right ones are never held up.
const WRONG_CODES: i64 = 120;
/// Those told as the nearest.
const NEAREST: usize = 5;
/// Days rounds are kept.
const ROUNDS_DAYS: i32 = 180;

/// How far a round is with its picture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, sqlx::Type, ToSchema)]
#[serde(rename_all = "snake_case")]
#[sqlx(type_name = "text", rename_all = "snake_case")]
pub enum Stage {
    /// People join; the picture is not shown yet.
    Waiting,
    /// The picture is shown, everyone places the light.
    Placing,
    /// Where the light was is told.
    Told,
    /// It is over.
    Ended,
}

/// A new round.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NewRound {
    /// Title.
    pub title: String,
    /// Pictures of cases of mine, in their order.
    #[serde(default)]
    pub frames: Vec<Uuid>,
    /// Pictures handed in that their authors agreed to show, after those.
    #[serde(default)]
    pub submissions: Vec<Uuid>,
}

/// An edit of a round, made on a version.
#[derive(Debug, Deserialize, ToSchema)]
pub struct RoundEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// How far it is.
    #[serde(default)]
    pub stage: Option<Stage>,
    /// Which picture, from 0.
    #[serde(default)]
    pub at: Option<u32>,
    /// The cloud of places is shown while they are placed.
    #[serde(default)]
    pub cloud: Option<bool>,
    /// Those who came nearest are named.
    #[serde(default)]
    pub names: Option<bool>,
}

/// A round in the list of its class.
#[derive(Debug, Serialize, ToSchema, sqlx::FromRow)]
pub struct RoundCard {
    /// Id.
    pub id: Uuid,
    /// Title.
    pub title: String,
    /// Code to join by.
    pub code: String,
    /// How far it is.
    pub stage: Stage,
    /// Pictures.
    pub pictures: i64,
    /// Players.
    pub players: i64,
}

/// Somebody who came near, and how near.
#[derive(Debug, Serialize, ToSchema)]
pub struct Nearest {
    /// Name.
    pub name: String,
    /// Angle from the light, degrees.
    pub angle_deg: f64,
}

/// What is told of a picture once the light is shown.
#[derive(Debug, Serialize, ToSchema)]
pub struct ToldLight {
    /// Its lights; the first is the key.
    pub lights: Vec<Light>,
    /// How far the key's place may be off, degrees.
    pub sd_deg: f64,
    /// The evidence in sentences.
    pub summary: Vec<String>,
}

/// A round as it is shown on the wall.
#[derive(Debug, Serialize, ToSchema)]
pub struct LiveRound {
    /// Id.
    pub id: Uuid,
    /// Its class.
    pub class: Uuid,
    /// Code to join by.
    pub code: String,
    /// Title.
    pub title: String,
    /// Version for the next edit.
    pub version: i64,
    /// How far it is.
    pub stage: Stage,
    /// Which picture, from 0.
    pub at: u32,
    /// Of how many.
    pub of: u32,
    /// Title of the picture.
    pub picture: String,
    /// Width and height in pixels.
    #[schema(value_type = Vec<u32>)]
    pub size: [u32; 2],
    /// The cloud is shown while they place.
    pub cloud: bool,
    /// Those who came nearest are named.
    pub names: bool,
    /// Players.
    pub players: usize,
    /// Of them have placed the light in this picture.
    pub placed: usize,
    /// Where, in the order of joining; empty while the cloud is not shown.
    pub places: Vec<AzEl>,
    /// The class together; against the light once it is told.
    pub crowd: Option<Crowd>,
    /// The light, once it is told.
    pub told: Option<ToldLight>,
    /// The nearest, where they are named.
    pub nearest: Vec<Nearest>,
}

/// A round as a phone sees it.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlayerView {
    /// Title.
    pub title: String,
    /// How far it is.
    pub stage: Stage,
    /// Which picture, from 0.
    pub at: u32,
    /// Of how many.
    pub of: u32,
    /// Width and height in pixels.
    #[schema(value_type = Vec<u32>)]
    pub size: [u32; 2],
    /// Where I placed it.
    pub mine: Option<AzEl>,
    /// How far that is off, once it is told; for me alone.
    pub off: Option<Off>,
    /// The light, once it is told.
    pub told: Option<ToldLight>,
    /// Median of how far I was off over the pictures told so far, degrees.
    pub median_off_deg: Option<f64>,
}

/// A player.
#[derive(Debug, Serialize, ToSchema)]
pub struct Player {
    /// Sign to place with; known to this phone only.
    pub player: Uuid,
    /// Name.
    pub name: String,
}

fn gone() -> Problem {
    Problem::not_found("There is no such round in a class you teach.")
}

#[derive(sqlx::FromRow)]
struct Row {
    id: Uuid,
    class_id: Uuid,
    code: String,
    title: String,
    version: i64,
    at: i32,
    stage: Stage,
    cloud: bool,
    names: bool,
    of: i64,
    picture: String,
    facts: Jsonb<Facts>,
    lights: Jsonb<Vec<Light>>,
    summary: Jsonb<Vec<String>>,
}

macro_rules! round_row {
    ($where:literal) => {
        concat!(
            "select r.id, r.class_id, r.code, r.title, r.version, r.at, r.stage, r.cloud, r.names,
                    (select count(*) from round_pictures where round_id = r.id) as of,
                    p.title as picture, p.facts, p.lights, p.summary
             from rounds r join round_pictures p on p.round_id = r.id and p.place = r.at where ",
            $where
        )
    };
}

impl Row {
    fn truth(&self) -> Option<Truth> {
        self.lights.0.first().map(|l| Truth { at: l.at(), sd_deg: l.direction_sd_deg })
    }

    fn told(&self) -> Option<ToldLight> {
        let sd_deg = self.truth()?.sd_deg;
        matches!(self.stage, Stage::Told | Stage::Ended).then(|| ToldLight {
            lights: self.lights.0.clone(),
            sd_deg,
            summary: self.summary.0.clone(),
        })
    }

    fn size(&self) -> [u32; 2] {
        // a phone learns nothing of a picture that is not shown yet
        if self.stage == Stage::Waiting { [0, 0] } else { [self.facts.0.width, self.facts.0.height] }
    }
}

async fn row(app: &App, id: Uuid) -> Answer<Row> {
    sqlx::query_as(round_row!("r.id = $1")).bind(id).fetch_optional(&app.pool).await?.ok_or_else(gone)
}

/// The class of a round, for who teaches it.
pub(crate) async fn taught(app: &App, me: Uuid, id: Uuid) -> Answer<Uuid> {
    let class: Option<Uuid> =
        sqlx::query_scalar("select class_id from rounds where id = $1").bind(id).fetch_optional(&app.pool).await?;
    let class = class.ok_or_else(gone)?;
    must_teach(app, me, class).await.map_err(|p| if p.status == 404 { gone() } else { p })?;
    Ok(class)
}

/// A picture that a round is made with.
struct Shown {
    title: String,
    hash: String,
    facts: Facts,
    readings: Readings,
}

async fn of_submission(app: &App, class: Uuid, id: Uuid) -> Answer<Shown> {
    type Found = (String, Jsonb<Facts>, Option<Jsonb<Readings>>, bool);
    let found: Option<Found> = sqlx::query_as(
        "select s.file_hash, s.facts, s.readings, s.may_show from submissions s join assignments a on a.id = s.assignment_id
         where s.id = $1 and a.class_id = $2 and s.state <> 'removed'",
    )
    .bind(id)
    .bind(class)
    .fetch_optional(&app.pool)
    .await?;
    let (hash, facts, readings, may_show) =
        found.ok_or_else(|| Problem::not_found("There is no such submission in this class."))?;
    if !may_show {
        return Err(Problem::conflict("The people in one of these pictures did not agree that the class may see it."));
    }
    let readings = readings.ok_or_else(|| Problem::conflict("One of these pictures is still being read."))?.0;
    // whose it is is not told
    Ok(Shown { title: "A picture of this class".into(), hash, facts: facts.0, readings })
}

/// Makes a round; its pictures are kept as they are read now.
pub(crate) async fn create(app: &App, me: Uuid, class: Uuid, new: &NewRound) -> Answer<Uuid> {
    must_teach(app, me, class).await?;
    let title = new.title.trim();
    if title.is_empty() || title.chars().count() > 120 {
        return Err(Problem::bad("title: expected 1 to 120 characters"));
    }
    let many = new.frames.len() + new.submissions.len();
    if many == 0 || many > MOST_PICTURES {
        return Err(Problem::bad(format!("frames: expected 1 to {MOST_PICTURES} pictures")));
    }
    let rounds: i64 =
        sqlx::query_scalar("select count(*) from rounds where class_id = $1").bind(class).fetch_one(&app.pool).await?;
    if rounds >= MOST_ROUNDS {
        return Err(Problem::conflict(format!("A class has room for {MOST_ROUNDS} rounds: remove an old one.")));
    }
    let mut all = Vec::with_capacity(many);
    for frame in &new.frames {
        let f = owned(app, me, *frame).await?;
        let title: String =
            sqlx::query_scalar("select title from cases where id = $1").bind(f.case_id).fetch_one(&app.pool).await?;
        let readings = newest(app, &f.hash, *frame).await?.readings;
        let facts = app.prepared(&f.hash).await?.facts.clone();
        all.push(Shown { title, hash: f.hash, facts, readings });
    }
    for s in &new.submissions {
        all.push(of_submission(app, class, *s).await?);
    }
    if let Some(s) = all.iter().find(|s| s.readings.lights.is_empty()) {
        return Err(Problem::bad(format!("\"{}\": no light was read in it, so there is nothing to place.", s.title)));
    }
    let id = Uuid::now_v7();
    let mut tx = app.pool.begin().await?;
    sqlx::query("insert into rounds (id, class_id, code, title) values ($1, $2, $3, $4)")
        .bind(id)
        .bind(class)
        .bind(new_code(CODE_LENGTH))
        .bind(title)
        .execute(&mut *tx)
        .await?;
    for (i, s) in all.iter().enumerate() {
        sqlx::query(
            "insert into round_pictures (round_id, place, title, file_hash, facts, lights, summary) values ($1, $2, $3, $4, $5, $6, $7)",
        )
        .bind(id)
        .bind(i as i32)
        .bind(&s.title)
        .bind(&s.hash)
        .bind(Jsonb(&s.facts))
        .bind(Jsonb(&s.readings.lights))
        .bind(Jsonb(&s.readings.summary))
        .execute(&mut *tx)
        .await?;
    }
    tx.commit().await?;
    audit(app, class, me, "made a live round", serde_json::json!({"title": title})).await?;
    Ok(id)
}

/// Rounds of a class, the newest first; for those who teach it.
pub(crate) async fn of_class(app: &App, me: Uuid, class: Uuid) -> Answer<Vec<RoundCard>> {
    must_teach(app, me, class).await?;
    Ok(sqlx::query_as(
        "select r.id, r.title, r.code, r.stage, (select count(*) from round_pictures where round_id = r.id) as pictures,
                (select count(*) from round_players where round_id = r.id) as players
         from rounds r where r.class_id = $1 order by r.created_at desc",
    )
    .bind(class)
    .fetch_all(&app.pool)
    .await?)
}

/// A round as it is shown on the wall, whoever asks.
pub(crate) async fn view(app: &App, id: Uuid) -> Answer<LiveRound> {
    let r = row(app, id).await?;
    let all: Vec<(String, Option<f64>, Option<f64>)> = sqlx::query_as(
        "select p.name, g.azimuth_deg, g.elevation_deg from round_players p
         left join round_guesses g on g.player = p.id and g.place = $2 where p.round_id = $1 order by p.created_at, p.id",
    )
    .bind(id)
    .bind(r.at)
    .fetch_all(&app.pool)
    .await?;
    let placed: Vec<(&str, AzEl)> = all
        .iter()
        .filter_map(|(n, a, e)| Some((n.as_str(), AzEl { azimuth_deg: (*a)?, elevation_deg: (*e)? })))
        .collect();
    let places: Vec<AzEl> = placed.iter().map(|p| p.1).collect();
    let told = r.told();
    let truth = r.truth().filter(|_| told.is_some());
    let shown = told.is_some() || (r.cloud && r.stage == Stage::Placing);
    let mut nearest: Vec<Nearest> = truth
        .filter(|_| r.names)
        .map(|t| placed.iter().map(|(n, p)| Nearest { name: (*n).into(), angle_deg: off(&t, p).angle_deg }).collect())
        .unwrap_or_default();
    nearest.sort_by(|a, b| a.angle_deg.total_cmp(&b.angle_deg));
    nearest.truncate(NEAREST);
    Ok(LiveRound {
        id: r.id,
        class: r.class_id,
        size: r.size(),
        code: r.code,
        title: r.title,
        version: r.version,
        stage: r.stage,
        at: r.at as u32,
        of: r.of as u32,
        picture: r.picture,
        cloud: r.cloud,
        names: r.names,
        players: all.len(),
        placed: places.len(),
        crowd: shown.then(|| crowd(&places, truth.as_ref())),
        places: if shown { places } else { Vec::new() },
        told,
        nearest,
    })
}

/// Changes a round.
pub(crate) async fn change(app: &App, me: Uuid, id: Uuid, e: &RoundEdit) -> Answer<LiveRound> {
    taught(app, me, id).await?;
    let now = row(app, id).await?;
    if e.at.is_some_and(|at| i64::from(at) >= now.of) {
        return Err(Problem::bad(format!("at: expected 0 to {}", now.of - 1)));
    }
    let done = sqlx::query(
        "with done as (update rounds set stage = coalesce($3, stage), at = coalesce($4, at), cloud = coalesce($5, cloud),
                              names = coalesce($6, names), version = version + 1
                       where id = $1 and version = $2 returning id)
         select pg_notify($7, 's ' || id::text) from done",
    )
    .bind(id)
    .bind(e.version)
    .bind(e.stage)
    .bind(e.at.map(|a| a as i32))
    .bind(e.cloud)
    .bind(e.names)
    .bind(CHANNEL)
    .execute(&app.pool)
    .await?;
    let view = view(app, id).await?;
    if done.rows_affected() == 0 {
        return Err(Problem::stale("round", serde_json::to_value(&view).map_err(Problem::internal)?));
    }
    Ok(view)
}

/// Removes a round with what was placed in it.
pub(crate) async fn remove(app: &App, me: Uuid, id: Uuid) -> Answer<()> {
    let class = taught(app, me, id).await?;
    sqlx::query("delete from rounds where id = $1").bind(id).execute(&app.pool).await?;
    audit(app, class, me, "removed a live round", serde_json::json!({})).await
}

/// Removes rounds that are old.
pub(crate) async fn sweep_rounds(app: &App) -> sqlx::Result<()> {
    sqlx::query("delete from rounds where created_at < now() - make_interval(days => $1)")
        .bind(ROUNDS_DAYS)
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// The round of a code.
pub(crate) async fn by_code(app: &App, code: &str) -> Answer<Uuid> {
    let found: Option<Uuid> = sqlx::query_scalar("select id from rounds where code = $1")
        .bind(plain_code(code))
        .fetch_optional(&app.pool)
        .await?;
    match found {
        Some(id) => Ok(id),
        None => {
            tries::allow(app, "codes of rounds", WRONG_CODES).await?;
            Err(Problem::not_found("No round has this code. Look at the wall again."))
        }
    }
}

/// Joins a round under a name.
pub(crate) async fn join(app: &App, round: Uuid, account: Option<Uuid>, name: &str) -> Answer<Player> {
    let name = name.trim();
    if name.is_empty() || name.chars().count() > 40 || name.chars().any(char::is_control) {
        return Err(Problem::bad("name: expected 1 to 40 characters"));
    }
    // who plays already plays on, also on another phone
    if let Some(me) = account {
        let same: Option<(Uuid, String)> =
            sqlx::query_as("select id, name from round_players where round_id = $1 and account_id = $2 limit 1")
                .bind(round)
                .bind(me)
                .fetch_optional(&app.pool)
                .await?;
        if let Some((player, name)) = same {
            return Ok(Player { player, name });
        }
    }
    let player = Uuid::new_v4();
    let done = sqlx::query(
        "with open as (select r.id from rounds r where r.id = $2 and r.stage <> 'ended'
                         and (select count(*) from round_players where round_id = r.id) < $5),
              put as (insert into round_players (id, round_id, account_id, name) select $1, open.id, $3, $4 from open returning round_id)
         select pg_notify($6, 'g ' || round_id::text) from put",
    )
    .bind(player)
    .bind(round)
    .bind(account)
    .bind(name)
    .bind(MOST_PLAYERS)
    .bind(CHANNEL)
    .execute(&app.pool)
    .await?;
    if done.rows_affected() == 0 {
        return Err(Problem::conflict(format!("This round is over, or {MOST_PLAYERS} play it already.")));
    }
    Ok(Player { player, name: name.to_owned() })
}

fn no_player() -> Problem {
    Problem::not_found("You are not in this round: join it by its code.")
}

/// Where a player places the light in the picture that is shown.
pub(crate) async fn place(app: &App, round: Uuid, player: Uuid, at: u32, p: &AzEl) -> Answer<()> {
    check_place(p).map_err(Problem::bad)?;
    let done = sqlx::query(
        "with open as (select p.id, r.id as round, r.at from round_players p join rounds r on r.id = p.round_id
                       where p.id = $1 and r.id = $2 and r.stage = 'placing' and r.at = $3),
              put as (insert into round_guesses (player, place, azimuth_deg, elevation_deg) select open.id, open.at, $4, $5 from open
                      on conflict (player, place) do update set azimuth_deg = excluded.azimuth_deg, elevation_deg = excluded.elevation_deg
                      returning player)
         select pg_notify($6, 'g ' || open.round::text) from open join put on put.player = open.id",
    )
    .bind(player)
    .bind(round)
    .bind(at as i32)
    .bind(p.azimuth_deg)
    .bind(p.elevation_deg)
    .bind(CHANNEL)
    .execute(&app.pool)
    .await?;
    if done.rows_affected() > 0 {
        return Ok(());
    }
    let inside: bool =
        sqlx::query_scalar("select exists (select 1 from round_players where id = $1 and round_id = $2)")
            .bind(player)
            .bind(round)
            .fetch_one(&app.pool)
            .await?;
    Err(if inside { Problem::conflict("Nothing is placed in this picture now.") } else { no_player() })
}

/// A round as one phone sees it.
pub(crate) async fn played(app: &App, round: Uuid, player: Uuid) -> Answer<PlayerView> {
    let r = row(app, round).await?;
    type Guess = (i32, f64, f64, Jsonb<Vec<Light>>);
    let all: Vec<Guess> = sqlx::query_as(
        "select g.place, g.azimuth_deg, g.elevation_deg, p.lights from round_guesses g join round_players q on q.id = g.player
         join round_pictures p on p.round_id = q.round_id and p.place = g.place where q.id = $1 and q.round_id = $2 order by g.place",
    )
    .bind(player)
    .bind(round)
    .fetch_all(&app.pool)
    .await?;
    let inside: bool =
        sqlx::query_scalar("select exists (select 1 from round_players where id = $1 and round_id = $2)")
            .bind(player)
            .bind(round)
            .fetch_one(&app.pool)
            .await?;
    if !inside {
        return Err(no_player());
    }
    let told = r.told();
    let off_of = |(_, az, el, lights): &Guess| {
        let l = lights.0.first()?;
        Some(off(&Truth { at: l.at(), sd_deg: l.direction_sd_deg }, &AzEl { azimuth_deg: *az, elevation_deg: *el }))
    };
    let here = all.iter().find(|g| g.0 == r.at);
    // of pictures that are still being placed nothing is told
    let mut done: Vec<f64> = all
        .iter()
        .filter(|g| g.0 < r.at || (g.0 == r.at && told.is_some()))
        .filter_map(off_of)
        .map(|o| o.angle_deg)
        .collect();
    done.sort_by(f64::total_cmp);
    Ok(PlayerView {
        size: r.size(),
        at: r.at as u32,
        of: r.of as u32,
        stage: r.stage,
        mine: here.map(|g| AzEl { azimuth_deg: g.1, elevation_deg: g.2 }),
        off: here.filter(|_| told.is_some()).and_then(off_of),
        told,
        median_off_deg: (!done.is_empty()).then(|| done[done.len() / 2]),
        title: r.title,
    })
}

/// The picture that a round shows now.
pub(crate) async fn picture_now(app: &App, round: Uuid) -> Answer<String> {
    let found: Option<(String, Stage)> = sqlx::query_as(
        "select p.file_hash, r.stage from rounds r join round_pictures p on p.round_id = r.id and p.place = r.at where r.id = $1",
    )
    .bind(round)
    .fetch_optional(&app.pool)
    .await?;
    match found {
        Some((hash, stage)) if stage != Stage::Waiting => Ok(hash),
        _ => Err(Problem::not_found("No picture is shown yet.")),
    }
}

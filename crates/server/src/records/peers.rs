//! Students look at each other's pictures: dealt, written, read.

use super::assignments::{kept, seen_by};
use super::classes::{audit, must_teach, notify};
use super::submissions::{LONGEST, may_see};
use crate::App;
use crate::problem::{Answer, Problem};
use classroom::{Awarded, By, dealt};
use evidence::readings::Light;
use pictures::Facts;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use uuid::Uuid;

/// A picture of somebody else to look at.
#[derive(Debug, Serialize, ToSchema)]
pub struct PeerTask {
    /// Submission.
    pub id: Uuid,
    /// Sign of it; whose it is is not told.
    pub sign: String,
    /// Width and height in pixels.
    #[schema(value_type = Vec<u32>)]
    pub size: [u32; 2],
    /// Its lights as they were read.
    pub lights: Vec<Light>,
    /// In the author's own words.
    pub paragraph: String,
    /// Points I gave, by criterion that a person judges.
    pub points: Awarded,
    /// What I said.
    pub text: String,
    /// It is done.
    pub done: bool,
}

/// What somebody says of another's picture.
#[derive(Debug, Deserialize, ToSchema)]
pub struct PeerEdit {
    /// Points by criterion that a person judges.
    #[serde(default)]
    pub points: Awarded,
    /// In words.
    pub text: String,
}

/// What was said of a picture.
#[derive(Debug, Serialize, ToSchema)]
pub struct PeerView {
    /// Who; for those who teach.
    pub by: Option<String>,
    /// Points by criterion that a person judges.
    pub points: Awarded,
    /// In words.
    pub text: String,
}

/// How the pictures of an assignment were dealt.
#[derive(Debug, Serialize, ToSchema)]
pub struct Dealing {
    /// Students who take part.
    pub take_part: usize,
    /// Pictures each looks at.
    pub each: usize,
    /// Handed in, but not agreed to be shown to the class: they take no part.
    pub not_shown: usize,
}

/// Deals the pictures of an assignment anew; not once something was said.
pub(crate) async fn deal(app: &App, me: Uuid, assignment: Uuid) -> Answer<Dealing> {
    let (k, _) = seen_by(app, me, assignment).await?;
    must_teach(app, me, k.class).await?;
    let each = k.assignment.peers as usize;
    if each == 0 {
        return Err(Problem::conflict("This assignment asks nobody to look at others' pictures: set how many first."));
    }
    let begun: bool = sqlx::query_scalar(
        "select exists (select 1 from peer_reviews r join submissions s on s.id = r.submission_id where s.assignment_id = $1 and r.done_at is not null)",
    )
    .bind(assignment)
    .fetch_one(&app.pool)
    .await?;
    if begun {
        return Err(Problem::conflict("Some have said something already: the pictures stay as they were dealt."));
    }
    // in an order that nobody can foresee
    let all: Vec<(Uuid, Uuid, bool)> = sqlx::query_as(
        "select id, author, may_show from submissions where assignment_id = $1 and newest and state in ('handed_in', 'returned')
         order by gen_random_uuid()",
    )
    .bind(assignment)
    .fetch_all(&app.pool)
    .await?;
    let part: Vec<&(Uuid, Uuid, bool)> = all.iter().filter(|s| s.2).collect();
    if part.len() < 2 {
        return Err(Problem::conflict("At least two pictures that may be shown to the class are needed."));
    }
    let pairs = dealt(part.len(), each);
    let pictures: Vec<Uuid> = pairs.iter().map(|p| part[p.1].0).collect();
    let reviewers: Vec<Uuid> = pairs.iter().map(|p| part[p.0].1).collect();
    let mut tx = app.pool.begin().await?;
    sqlx::query("delete from peer_reviews r using submissions s where s.id = r.submission_id and s.assignment_id = $1")
        .bind(assignment)
        .execute(&mut *tx)
        .await?;
    sqlx::query("insert into peer_reviews (submission_id, reviewer) select s, r from unnest($1::uuid[], $2::uuid[]) as t (s, r)")
        .bind(&pictures)
        .bind(&reviewers)
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    audit(app, k.class, me, "dealt pictures to look at", serde_json::json!({"assignment": assignment})).await?;
    let who: Vec<Uuid> = part.iter().map(|s| s.1).collect();
    let says = format!("Pictures of others wait for you: {}.", k.assignment.title);
    notify(app, &who, &says, &format!("/assignments/{assignment}")).await?;
    Ok(Dealing { take_part: part.len(), each: each.min(part.len() - 1), not_shown: all.len() - part.len() })
}

/// Pictures of others that wait for me.
pub(crate) async fn mine(app: &App, me: Uuid, assignment: Uuid) -> Answer<Vec<PeerTask>> {
    seen_by(app, me, assignment).await?;
    type Row = (Uuid, String, Jsonb<Facts>, Option<Jsonb<Vec<Light>>>, String, Option<Jsonb<Awarded>>, String, bool);
    let rows: Vec<Row> = sqlx::query_as(
        "select s.id, s.alias, s.facts, s.readings->'lights', s.paragraph, r.points, r.body, r.done_at is not null
         from peer_reviews r join submissions s on s.id = r.submission_id
         where r.reviewer = $1 and s.assignment_id = $2 and s.state <> 'removed' and s.may_show order by s.alias",
    )
    .bind(me)
    .bind(assignment)
    .fetch_all(&app.pool)
    .await?;
    let task = |(id, sign, facts, lights, paragraph, points, text, done): Row| PeerTask {
        id,
        sign,
        size: [facts.0.width, facts.0.height],
        lights: lights.map(|l| l.0).unwrap_or_default(),
        paragraph,
        points: points.map(|p| p.0).unwrap_or_default(),
        text,
        done,
    };
    Ok(rows.into_iter().map(task).collect())
}

/// Whether a picture was dealt to somebody.
pub(crate) async fn was_dealt(app: &App, me: Uuid, submission: Uuid) -> Answer<bool> {
    Ok(sqlx::query_scalar(
        "select exists (select 1 from peer_reviews r join submissions s on s.id = r.submission_id
         where r.submission_id = $1 and r.reviewer = $2 and s.state <> 'removed' and s.may_show)",
    )
    .bind(submission)
    .bind(me)
    .fetch_one(&app.pool)
    .await?)
}

/// The picture of a submission, for who may see it and for those it was dealt to.
pub(crate) async fn picture_of(app: &App, me: Uuid, submission: Uuid) -> Answer<String> {
    match may_see(app, me, submission).await {
        Ok((_, _, hash, _)) => Ok(hash),
        Err(p) if p.status == 404 && was_dealt(app, me, submission).await? => {
            Ok(sqlx::query_scalar("select file_hash from submissions where id = $1")
                .bind(submission)
                .fetch_one(&app.pool)
                .await?)
        }
        Err(p) => Err(p),
    }
}

/// Says something of a picture that was dealt to me.
pub(crate) async fn review(app: &App, me: Uuid, submission: Uuid, e: &PeerEdit) -> Answer<()> {
    if !was_dealt(app, me, submission).await? {
        return Err(Problem::not_found("This picture does not wait for you."));
    }
    let (assignment, author): (Uuid, Uuid) =
        sqlx::query_as("select assignment_id, author from submissions where id = $1")
            .bind(submission)
            .fetch_one(&app.pool)
            .await?;
    let k = kept(app, assignment).await?;
    let text = e.text.trim();
    if text.is_empty() || text.chars().count() > LONGEST {
        return Err(Problem::bad(format!("text: expected 1 to {LONGEST} characters")));
    }
    for (name, points) in &e.points {
        let c = k.assignment.rubric.iter().find(|c| c.id == *name && c.by == By::Judged);
        let c = c.ok_or_else(|| Problem::bad(format!("points.{name}: no criterion that a person judges")))?;
        if !(0.0..=c.points).contains(points) {
            return Err(Problem::bad(format!("points.{name}: expected 0 to {}", c.points)));
        }
    }
    let first: bool = sqlx::query_scalar(
        "with was as (select done_at is null as first from peer_reviews where submission_id = $1 and reviewer = $2)
         update peer_reviews set points = $3, body = $4, done_at = coalesce(done_at, now())
         where submission_id = $1 and reviewer = $2 returning (select first from was)",
    )
    .bind(submission)
    .bind(me)
    .bind(Jsonb(&e.points))
    .bind(text)
    .fetch_one(&app.pool)
    .await?;
    if first {
        let says = format!("Somebody looked at your picture for {}.", k.assignment.title);
        notify(app, &[author], &says, &format!("/submissions/{submission}")).await?;
    }
    Ok(())
}

/// What was said of a picture.
pub(crate) async fn said(app: &App, submission: Uuid, names: bool) -> Answer<Vec<PeerView>> {
    let rows: Vec<(String, Option<Jsonb<Awarded>>, String)> = sqlx::query_as(
        "select a.name, r.points, r.body from peer_reviews r join accounts a on a.id = r.reviewer
         where r.submission_id = $1 and r.done_at is not null order by r.done_at",
    )
    .bind(submission)
    .fetch_all(&app.pool)
    .await?;
    let view = |(by, points, text): (String, Option<Jsonb<Awarded>>, String)| PeerView {
        by: names.then_some(by),
        points: points.map(|p| p.0).unwrap_or_default(),
        text,
    };
    Ok(rows.into_iter().map(view).collect())
}

//! Handing in: what a picture shows is frozen, then read and held against the reference by a job.

use super::assignments::{Kept, frozen, kept, seen_by};
use super::classes::{Seat, audit, notify, seat_in, those};
use super::frames::owned;
use super::groups::group_of;
use super::jobs::{self, Task};
use crate::App;
use crate::problem::{Answer, Problem};
use classroom::{Distance, Finger, ProposedPoints, lateness};
use judging::critique::{Outcome, Verdict};
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

/// Times one student hands one thing in.
const MOST_ATTEMPTS: i32 = 50;
/// Words of a paragraph and of a note, characters.
pub(crate) const LONGEST: usize = 6000;

/// A picture to hand in.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NewSubmission {
    /// A picture of a case of mine.
    pub frame: Uuid,
    /// In my own words.
    #[serde(default)]
    pub paragraph: String,
    /// The people in it agreed that the class may see it.
    #[serde(default)]
    pub may_show: bool,
    /// Who is in it.
    #[serde(default)]
    pub who: String,
}

/// How far a submission is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, sqlx::Type, ToSchema)]
#[serde(rename_all = "snake_case")]
#[sqlx(type_name = "text", rename_all = "snake_case")]
pub enum SubmissionState {
    /// It is being read.
    Reading,
    /// It waits to be graded.
    HandedIn,
    /// It was graded and given back.
    Returned,
    /// It could not be read.
    Failed,
    /// It was taken away again.
    Removed,
}

/// Hands a picture in: what it shows now is kept, whatever becomes of the case.
pub(crate) async fn hand_in(app: &App, me: Uuid, assignment: Uuid, new: NewSubmission) -> Answer<Uuid> {
    let (k, seat) = seen_by(app, me, assignment).await?;
    if seat != Seat::Student {
        return Err(Problem::forbidden("Only students of the class hand in."));
    }
    let archived: bool = sqlx::query_scalar("select archived_at is not null from classes where id = $1")
        .bind(k.class)
        .fetch_one(&app.pool)
        .await?;
    if archived {
        return Err(Problem::conflict("This class is laid aside: nothing is handed in any more."));
    }
    let late = lateness(&k.assignment, OffsetDateTime::now_utc()).map_err(Problem::conflict)?;
    let paragraph = new.paragraph.trim();
    if paragraph.chars().count() > LONGEST || new.who.chars().count() > 400 {
        return Err(Problem::bad(format!("The paragraph has room for {LONGEST} characters.")));
    }
    if k.assignment.hand_in.paragraph && paragraph.is_empty() {
        return Err(Problem::bad(
            "A paragraph in your own words goes with it: what did you mean to do, and how did you light it?",
        ));
    }
    let f = owned(app, me, new.frame).await?;
    let takes: i64 = sqlx::query_scalar("select count(*) from frames where case_id = $1 and role = 'take'")
        .bind(f.case_id)
        .fetch_one(&app.pool)
        .await?;
    if takes < i64::from(k.assignment.hand_in.takes) {
        return Err(Problem::bad(format!(
            "{} takes go with it, and the case has {takes}: take them in Takes first.",
            k.assignment.hand_in.takes
        )));
    }
    let plates: i64 = sqlx::query_scalar("select count(*) from frames where case_id = $1 and role = 'plate'")
        .bind(f.case_id)
        .fetch_one(&app.pool)
        .await?;
    if plates < i64::from(k.assignment.hand_in.plates) {
        return Err(Problem::bad(format!(
            "{} plates go with it, and the case has {plates}: add them in Plates first.",
            k.assignment.hand_in.plates
        )));
    }
    let group = if k.assignment.groups { group_of(app, k.class, me).await? } else { None };
    let set: Option<Jsonb<serde_json::Value>> =
        sqlx::query_scalar("select body from sets where case_id = $1 order by version desc limit 1")
            .bind(f.case_id)
            .fetch_optional(&app.pool)
            .await?;
    if k.assignment.hand_in.set && set.is_none() {
        return Err(Problem::bad("The set goes with it: save one in Rebuild first."));
    }
    let held = frozen(app, me, new.frame).await?;
    let name: String =
        sqlx::query_scalar("select file_name from frames where id = $1").bind(new.frame).fetch_one(&app.pool).await?;
    let id = Uuid::now_v7();
    // a sign for graders who see no names
    let alias = format!("Picture {:.6}", Uuid::new_v4().simple().to_string().to_uppercase());
    let mut tx = app.pool.begin().await?;
    // one at a time for a student or a group: of two at once the second sees the first
    sqlx::query(
        "select 1 from class_members m where class_id = $1 and (account_id = $2 or exists (
             select 1 from class_groups g where g.class_id = $1 and g.name = $3 and g.account_id = m.account_id))
         order by account_id for update",
    )
    .bind(k.class)
    .bind(me)
    .bind(&group)
    .execute(&mut *tx)
    .await?;
    let before: Option<(i32, SubmissionState, String, bool)> = sqlx::query_as(
        "select attempt, state, alias, returned_at is not null from submissions s
         where assignment_id = $1 and (author = $2 or group_name = $3) and newest order by attempt desc limit 1",
    )
    .bind(assignment)
    .bind(me)
    .bind(&group)
    .fetch_optional(&mut *tx)
    .await?;
    if let Some((n, state, _, returned)) = &before {
        if !matches!(state, SubmissionState::Failed | SubmissionState::Removed) && !k.assignment.again {
            return Err(Problem::conflict("You have handed in already, and this assignment is handed in once."));
        }
        if *returned {
            return Err(Problem::conflict("It was returned to you: it cannot be handed in again."));
        }
        if *n >= MOST_ATTEMPTS {
            return Err(Problem::conflict(format!("You have handed in {MOST_ATTEMPTS} times.")));
        }
    }
    sqlx::query(
        "update submissions set newest = false where assignment_id = $1 and (author = $2 or group_name = $3) and newest",
    )
    .bind(assignment)
    .bind(me)
    .bind(&group)
    .execute(&mut *tx)
    .await?;
    sqlx::query(
        "insert into submissions (id, assignment_id, author, attempt, alias, state, file_hash, file_name, facts, marks, readings, core_version,
                                  lighting_set, takes, paragraph, may_show, who, late, group_name)
         values ($1, $2, $3, $4, $5, 'reading', $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18)",
    )
    .bind(id)
    .bind(assignment)
    .bind(me)
    .bind(before.as_ref().map_or(1, |b| b.0 + 1))
    .bind(before.map_or(alias, |b| b.2))
    .bind(&held.hash)
    .bind(&name)
    .bind(Jsonb(&held.facts))
    .bind(Jsonb(&held.marks))
    .bind(Jsonb(&held.readings))
    .bind(evidence::CORE_VERSION)
    .bind(set)
    .bind(takes as i32)
    .bind(paragraph)
    .bind(new.may_show)
    .bind(new.who.trim())
    .bind(Jsonb(late))
    .bind(&group)
    .execute(&mut *tx)
    .await?;
    sqlx::query("delete from drafts where assignment_id = $1 and account_id = $2")
        .bind(assignment)
        .bind(me)
        .execute(&mut *tx)
        .await?;
    jobs::put(&mut tx, me, &Task::Submission { submission: id }).await?;
    tx.commit().await?;
    if !k.assignment.anonymous {
        // where graders see no names, no list names who handed in when
        audit(app, k.class, me, "handed in", serde_json::json!({"assignment": assignment, "late": late.late})).await?;
    }
    let teachers = those(app, k.class, true).await?;
    let who = if k.assignment.anonymous { "Somebody".to_owned() } else { name_of(app, me).await? };
    notify(
        app,
        &teachers,
        &format!("{who} handed in for {}.", k.assignment.title),
        &format!("/assignments/{assignment}"),
    )
    .await?;
    Ok(id)
}

async fn name_of(app: &App, account: Uuid) -> Answer<String> {
    Ok(sqlx::query_scalar("select name from accounts where id = $1").bind(account).fetch_one(&app.pool).await?)
}

/// What a job writes down of a submission it read.
pub(crate) struct ReadSubmission {
    pub distance: Option<Distance>,
    pub verdict: Verdict,
    pub proposals: Vec<ProposedPoints>,
    pub finger: Finger,
}

/// A submission to be read: picture, marks, and its assignment.
pub(crate) async fn to_read(
    app: &App,
    id: Uuid,
) -> Answer<(Uuid, String, evidence::marks::Marks, evidence::readings::Readings, Kept)> {
    let row: Option<(Uuid, Uuid, String, Jsonb<serde_json::Value>, Option<Jsonb<evidence::readings::Readings>>)> =
        sqlx::query_as("select assignment_id, author, file_hash, marks, readings from submissions where id = $1")
            .bind(id)
            .fetch_optional(&app.pool)
            .await?;
    let (assignment, author, hash, marks, readings) =
        row.filter(|r| !r.2.is_empty()).ok_or_else(|| Problem::not_found("The submission is gone."))?;
    let marks = evidence::marks::Marks::from_value(marks.0).map_err(Problem::internal)?;
    let readings = readings.ok_or_else(|| Problem::internal("a submission without readings"))?.0;
    Ok((author, hash, marks, readings, kept(app, assignment).await?))
}

/// Writes down what was read.
pub(crate) async fn put_read(app: &App, id: Uuid, r: &ReadSubmission) -> Answer<()> {
    let many = |o: Outcome| r.verdict.findings.iter().filter(|f| f.outcome == o).count() as i32;
    sqlx::query(
        "update submissions set state = case when state = 'reading' then 'handed_in' else state end, distance = $2, verdict = $3,
                proposals = $4, finger = $5, rules = $6 where id = $1",
    )
    .bind(id)
    .bind(r.distance.as_ref().map(Jsonb))
    .bind(Jsonb(&r.verdict))
    .bind(Jsonb(&r.proposals))
    .bind(&r.finger.0)
    .bind([Outcome::Fault, Outcome::Unsure, Outcome::Holds].map(many))
    .execute(&app.pool)
    .await?;
    Ok(())
}

/// Writes down that a submission could not be read.
pub(crate) async fn put_failed(app: &App, id: Uuid, why: &str) -> Answer<()> {
    sqlx::query("update submissions set state = 'failed', problem = $2 where id = $1 and state = 'reading'")
        .bind(id)
        .bind(why)
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// Who may see a submission: who made it, the group they made it with, and those who teach the class.
pub(crate) async fn may_see(app: &App, me: Uuid, id: Uuid) -> Answer<(Uuid, Uuid, String, Option<Seat>)> {
    let gone = || Problem::not_found("There is no such submission of yours or of a class you teach.");
    let row: Option<(Uuid, Uuid, bool, String)> = sqlx::query_as(
        "select s.assignment_id, a.class_id, belongs(s, $2), s.file_hash from submissions s join assignments a on a.id = s.assignment_id
         where s.id = $1 and s.state <> 'removed'",
    )
    .bind(id)
    .bind(me)
    .fetch_optional(&app.pool)
    .await?;
    let (assignment, class, own, hash) = row.ok_or_else(gone)?;
    let seat = seat_in(app, me, class).await.ok();
    if own || seat.is_some_and(Seat::teaches) { Ok((assignment, class, hash, seat)) } else { Err(gone()) }
}

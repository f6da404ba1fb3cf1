//! Assignments of classes as they are kept, each with a frozen copy of its reference.

use super::briefs::brief_of;
use super::classes::{Seat, audit, house_of, must_teach, notify, seat_in, those};
use super::frames::owned;
use super::marks::{newest, told};
use crate::App;
use crate::problem::{Answer, Problem};
use classroom::{Assignment, Lateness, RatioSchool, lateness};
use evidence::marks::Marks;
use evidence::readings::{Light, Readings};
use judging::critique::Brief;
use pictures::Facts;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

/// Assignments of a class at most.
const MOST: i64 = 200;

/// What is shown of the reference.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReferenceView {
    /// Width in pixels.
    pub width: u32,
    /// Height in pixels.
    pub height: u32,
    /// Its lights.
    pub lights: Vec<Light>,
    /// As one line.
    pub slant: String,
    /// In sentences.
    pub summary: Vec<String>,
}

/// An assignment as a member of its class sees it.
#[derive(Debug, Serialize, ToSchema)]
pub struct AssignmentView {
    /// Id.
    pub id: Uuid,
    /// Its class.
    pub class: Uuid,
    /// What I am in it.
    pub seat: Seat,
    /// Version for the next edit.
    pub version: i64,
    /// What is asked for.
    pub assignment: Assignment,
    /// The brief as it was when it was set.
    pub brief: Brief,
    /// Students see it.
    pub published: bool,
    /// It has a reference.
    pub has_reference: bool,
    /// The reference, unless it is hidden until one has handed in.
    pub reference: Option<ReferenceView>,
    /// What I have handed in, the newest of it.
    pub mine: Option<Uuid>,
    /// Pictures handed in.
    pub handed_in: i64,
    /// Of those returned.
    pub returned: i64,
    /// Students who have begun, but not handed in; for those who teach.
    pub begun: i64,
    /// How ratios are stated in this class.
    pub ratio: Option<RatioSchool>,
}

/// A frozen picture.
pub(crate) struct Frozen {
    pub hash: String,
    pub facts: Facts,
    pub marks: Marks,
    pub readings: Readings,
}

/// A frame of one's own as it stands, with its marks as they are read.
pub(crate) async fn frozen(app: &App, me: Uuid, frame: Uuid) -> Answer<Frozen> {
    let f = owned(app, me, frame).await?;
    let now = newest(app, &f.hash, frame).await?;
    let prepared = app.prepared(&f.hash).await?;
    let marks = told(app, frame, &prepared, &now.marks).await?;
    Ok(Frozen { hash: f.hash, facts: prepared.facts.clone(), marks, readings: now.readings })
}

/// An assignment as it is kept.
pub(crate) struct Kept {
    pub class: Uuid,
    pub version: i64,
    pub assignment: Assignment,
    pub brief: Brief,
    pub published: bool,
    pub reference: Option<Frozen>,
}

type Row = (
    Uuid,
    i64,
    Jsonb<Assignment>,
    Jsonb<Brief>,
    bool,
    Option<String>,
    Option<Jsonb<Facts>>,
    Option<Jsonb<serde_json::Value>>,
    Option<Jsonb<Readings>>,
);

/// An assignment whoever asks.
pub(crate) async fn kept(app: &App, id: Uuid) -> Answer<Kept> {
    let row: Option<Row> = sqlx::query_as(
        "select class_id, version, body, brief, published, reference_hash, reference_facts, reference_marks, reference_read
         from assignments where id = $1",
    )
    .bind(id)
    .fetch_optional(&app.pool)
    .await?;
    let (class, version, assignment, brief, published, hash, facts, marks, read) =
        row.ok_or_else(|| Problem::not_found("There is no such assignment in your classes."))?;
    let reference = match (hash, facts, marks, read) {
        (Some(hash), Some(facts), Some(marks), Some(read)) => {
            let marks = Marks::from_value(marks.0).map_err(Problem::internal)?;
            Some(Frozen { hash, facts: facts.0, marks, readings: read.0 })
        }
        _ => None,
    };
    Ok(Kept { class, version, assignment: assignment.0, brief: brief.0, published, reference })
}

/// An assignment with the seat of who asks: students see what is published, others nothing.
pub(crate) async fn seen_by(app: &App, me: Uuid, id: Uuid) -> Answer<(Kept, Seat)> {
    let gone = || Problem::not_found("There is no such assignment in your classes.");
    let k = kept(app, id).await?;
    let seat = seat_in(app, me, k.class).await.map_err(|p| if p.status == 404 { gone() } else { p })?;
    if k.published || seat.teaches() { Ok((k, seat)) } else { Err(gone()) }
}

/// Whether a person may see the reference of an assignment.
pub(crate) async fn reference_shown(app: &App, me: Uuid, id: Uuid, k: &Kept, seat: Seat) -> Answer<bool> {
    if seat.teaches() || !k.assignment.hidden {
        return Ok(true);
    }
    Ok(sqlx::query_scalar("select exists (select 1 from submissions s where assignment_id = $1 and belongs(s, $2))")
        .bind(id)
        .bind(me)
        .fetch_one(&app.pool)
        .await?)
}

/// An assignment as one sees it.
pub(crate) async fn view(app: &App, me: Uuid, id: Uuid) -> Answer<AssignmentView> {
    let (k, seat) = seen_by(app, me, id).await?;
    let shown = reference_shown(app, me, id, &k, seat).await?;
    let mine: Option<Uuid> = sqlx::query_scalar(
        "select id from submissions s where assignment_id = $1 and belongs(s, $2) and newest and state <> 'removed'",
    )
    .bind(id)
    .bind(me)
    .fetch_optional(&app.pool)
    .await?;
    let (handed_in, returned): (i64, i64) = sqlx::query_as(
        "select count(*), count(*) filter (where state = 'returned') from submissions where assignment_id = $1 and newest and state <> 'removed'",
    )
    .bind(id)
    .fetch_one(&app.pool)
    .await?;
    let begun: i64 = sqlx::query_scalar(
        "select count(*) from drafts d where d.assignment_id = $1 and not exists (
             select 1 from submissions s where s.assignment_id = $1 and belongs(s, d.account_id) and s.newest and s.state <> 'removed')",
    )
    .bind(id)
    .fetch_one(&app.pool)
    .await?;
    let has_reference = k.reference.is_some();
    let reference = k.reference.filter(|_| shown).map(|r| ReferenceView {
        width: r.facts.width,
        height: r.facts.height,
        lights: r.readings.lights,
        slant: r.readings.slant,
        summary: r.readings.summary,
    });
    Ok(AssignmentView {
        id,
        class: k.class,
        seat,
        version: k.version,
        assignment: k.assignment,
        brief: k.brief,
        published: k.published,
        has_reference,
        reference,
        mine,
        handed_in: if seat.teaches() { handed_in } else { 0 },
        returned: if seat.teaches() { returned } else { 0 },
        begun: if seat.teaches() { begun } else { 0 },
        ratio: house_of(app, k.class).await?.ratio,
    })
}

/// An assignment in the list of its class.
#[derive(Debug, Serialize, ToSchema, sqlx::FromRow)]
pub struct AssignmentCard {
    /// Id.
    pub id: Uuid,
    /// Title.
    pub title: String,
    /// Name of its brief.
    pub brief: String,
    /// By when.
    #[serde(with = "time::serde::rfc3339::option")]
    #[schema(value_type = Option<String>)]
    pub due: Option<OffsetDateTime>,
    /// Students see it.
    pub published: bool,
    /// I have handed in.
    pub mine: bool,
    /// Pictures handed in; for those who teach.
    pub handed_in: i64,
    /// Of those returned.
    pub returned: i64,
}

/// The assignments of a class, the newest first; students see what is published.
pub(crate) async fn of_class(app: &App, me: Uuid, class: Uuid) -> Answer<Vec<AssignmentCard>> {
    let teaches = seat_in(app, me, class).await?.teaches();
    Ok(sqlx::query_as(
        "select a.id, a.body->>'title' as title, a.brief->>'name' as brief, (a.body->>'due')::timestamptz as due, a.published,
                exists (select 1 from submissions s where assignment_id = a.id and belongs(s, $3)) as mine,
                (select count(*) from submissions where assignment_id = a.id and newest and state <> 'removed' and $2) as handed_in,
                (select count(*) from submissions where assignment_id = a.id and newest and state = 'returned' and $2) as returned
         from assignments a where a.class_id = $1 and (a.published or $2) order by a.created_at desc",
    )
    .bind(class)
    .bind(teaches)
    .bind(me)
    .fetch_all(&app.pool)
    .await?)
}

/// An assignment made or changed.
#[derive(Debug, Deserialize, ToSchema)]
pub struct AssignmentEdit {
    /// Version the edit was made on; 0 for a new one.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// What is asked for.
    pub assignment: Assignment,
    /// Students see it.
    pub published: bool,
    /// A picture of a case of mine as the reference; absent to leave it as it is.
    #[serde(default)]
    pub reference: Option<Uuid>,
    /// Change the rubric though marks were given by the old one; they stay readable.
    #[serde(default)]
    pub anyway: bool,
}

/// Sets an assignment.
pub(crate) async fn create(app: &App, me: Uuid, class: Uuid, e: AssignmentEdit) -> Answer<Uuid> {
    must_teach(app, me, class).await?;
    e.assignment.check().map_err(Problem::bad)?;
    let brief = house_of(app, class).await?.applied(brief_of(app, me, &e.assignment.brief).await?);
    let n: i64 = sqlx::query_scalar("select count(*) from assignments where class_id = $1")
        .bind(class)
        .fetch_one(&app.pool)
        .await?;
    if n >= MOST {
        return Err(Problem::conflict(format!("A class has room for {MOST} assignments.")));
    }
    let r = match e.reference {
        Some(frame) => Some(frozen(app, me, frame).await?),
        None => None,
    };
    let id = Uuid::now_v7();
    sqlx::query(
        "insert into assignments (id, class_id, body, brief, published, reference_hash, reference_facts, reference_marks, reference_read)
         values ($1, $2, $3, $4, $5, $6, $7, $8, $9)",
    )
    .bind(id)
    .bind(class)
    .bind(Jsonb(&e.assignment))
    .bind(Jsonb(&brief))
    .bind(e.published)
    .bind(r.as_ref().map(|r| &r.hash))
    .bind(r.as_ref().map(|r| Jsonb(&r.facts)))
    .bind(r.as_ref().map(|r| Jsonb(&r.marks)))
    .bind(r.as_ref().map(|r| Jsonb(&r.readings)))
    .execute(&app.pool)
    .await?;
    audit(app, class, me, "set an assignment", serde_json::json!({"title": e.assignment.title})).await?;
    if e.published {
        announce(app, class, id, &e.assignment).await?;
    }
    Ok(id)
}

async fn announce(app: &App, class: Uuid, id: Uuid, a: &Assignment) -> Answer<()> {
    let all = those(app, class, false).await?;
    notify(app, &all, &format!("A new assignment: {}.", a.title), &format!("/assignments/{id}")).await
}

/// Changes an assignment.
pub(crate) async fn change(app: &App, me: Uuid, id: Uuid, e: AssignmentEdit) -> Answer<AssignmentView> {
    let (k, _) = seen_by(app, me, id).await?;
    must_teach(app, me, k.class).await?;
    e.assignment.check().map_err(Problem::bad)?;
    let graded: bool = sqlx::query_scalar(
        "select exists (select 1 from grades g join submissions s on s.id = g.submission_id where s.assignment_id = $1)",
    )
    .bind(id)
    .fetch_one(&app.pool)
    .await?;
    if graded && e.assignment.rubric != k.assignment.rubric && !e.anyway {
        return Err(Problem::conflict(
            "Marks were given by this rubric already. If you change it they stay readable as they were given, and count by the rubric they were given by.",
        ));
    }
    // once something is graded a brief that stays is the one that was kept, whatever became of it since; one of somebody's own is
    // known to them alone
    let stays = e.assignment.brief == k.assignment.brief;
    let brief = match stays && (graded || k.brief.based_on.is_some()) {
        true => k.brief,
        false => brief_of(app, me, &e.assignment.brief).await?,
    };
    let brief = if stays && graded { brief } else { house_of(app, k.class).await?.applied(brief) };
    let done = sqlx::query("update assignments set body = $3, brief = $4, published = $5, reminded = reminded and body->>'due' is not distinct from $3::jsonb->>'due', version = version + 1 where id = $1 and version = $2")
        .bind(id)
        .bind(e.version)
        .bind(Jsonb(&e.assignment))
        .bind(Jsonb(&brief))
        .bind(e.published)
        .execute(&app.pool)
        .await?;
    if done.rows_affected() == 0 {
        let now = view(app, me, id).await?;
        return Err(Problem::stale("assignment", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    if let Some(frame) = e.reference {
        let r = frozen(app, me, frame).await?;
        sqlx::query("update assignments set reference_hash = $2, reference_facts = $3, reference_marks = $4, reference_read = $5 where id = $1")
            .bind(id)
            .bind(&r.hash)
            .bind(Jsonb(&r.facts))
            .bind(Jsonb(&r.marks))
            .bind(Jsonb(&r.readings))
            .execute(&app.pool)
            .await?;
    }
    if e.assignment.due != k.assignment.due || e.assignment.late != k.assignment.late {
        again_late(app, id, &e.assignment).await?;
        audit(
            app,
            k.class,
            me,
            "moved the date",
            serde_json::json!({"title": e.assignment.title, "due": e.assignment.due.map(|d| d.to_string())}),
        )
        .await?;
        let authors: Vec<Uuid> = those(app, k.class, false).await?;
        if e.published && k.published {
            notify(
                app,
                &authors,
                &format!("The date of {} was moved.", e.assignment.title),
                &format!("/assignments/{id}"),
            )
            .await?;
        }
    }
    if e.published && !k.published {
        announce(app, k.class, id, &e.assignment).await?;
    }
    view(app, me, id).await
}

/// A date that was moved counts for what was handed in before, too: what was in time by either stays in time.
async fn again_late(app: &App, id: Uuid, a: &Assignment) -> Answer<()> {
    let all: Vec<(Uuid, OffsetDateTime, Jsonb<Lateness>)> =
        sqlx::query_as("select id, handed_in_at, late from submissions where assignment_id = $1")
            .bind(id)
            .fetch_all(&app.pool)
            .await?;
    for (s, at, was) in all {
        // what was taken stays taken
        let now = lateness(a, at).unwrap_or(Lateness { late: true, days: 1, keeps: was.0.keeps });
        let kinder = if was.0.keeps > now.keeps || !was.0.late { was.0 } else { now };
        sqlx::query("update submissions set late = $2 where id = $1")
            .bind(s)
            .bind(Jsonb(kinder))
            .execute(&app.pool)
            .await?;
    }
    Ok(())
}

/// Removes an assignment with what was handed in; only before anything was returned.
pub(crate) async fn remove(app: &App, me: Uuid, id: Uuid) -> Answer<()> {
    let (k, _) = seen_by(app, me, id).await?;
    must_teach(app, me, k.class).await?;
    let any: bool = sqlx::query_scalar("select exists (select 1 from submissions where assignment_id = $1)")
        .bind(id)
        .fetch_one(&app.pool)
        .await?;
    if any {
        return Err(Problem::conflict("Pictures were handed in for it: it stays. You can hide it from students."));
    }
    sqlx::query("delete from assignments where id = $1").bind(id).execute(&app.pool).await?;
    audit(app, k.class, me, "removed an assignment", serde_json::json!({"title": k.assignment.title})).await
}

/// Hours before the date at which those who have not handed in are told.
const REMINDED_HOURS: f64 = 24.0;

/// Tells students that a date is near, once for each assignment: those who have not handed in.
pub(crate) async fn remind(app: &App) -> Answer<usize> {
    let near: Vec<(Uuid, Uuid, Jsonb<Assignment>)> = sqlx::query_as(
        "update assignments a set reminded = true from classes c
         where c.id = a.class_id and c.archived_at is null and a.published and not a.reminded
           and (a.body->>'due')::timestamptz between now() and now() + make_interval(secs => $1)
         returning a.id, a.class_id, a.body",
    )
    .bind(3600.0 * REMINDED_HOURS)
    .fetch_all(&app.pool)
    .await?;
    let many = near.len();
    for (id, class, a) in near {
        let left: Vec<Uuid> = sqlx::query_scalar(
            "select account_id from class_members m where class_id = $1 and seat = 'student' and not exists (
                 select 1 from submissions s where s.assignment_id = $2 and s.state <> 'removed' and belongs(s, m.account_id))",
        )
        .bind(class)
        .bind(id)
        .fetch_all(&app.pool)
        .await?;
        notify(app, &left, &format!("{} is due within a day.", a.0.title), &format!("/assignments/{id}")).await?;
    }
    Ok(many)
}

//! A submission as one may see it: graded, given back, talked about.

use super::assignments::kept;
use super::classes::{Seat, audit, house_of, must_teach, notify, those};
use super::peers::{PeerView, said};
use super::submissions::{LONGEST, SubmissionState, may_see};
use super::verdicts::phrases_of;
use super::wall::{WallPicture, one};
use crate::App;
use crate::problem::{Answer, Problem};
use classroom::{Awarded, Criterion, Distance, Given, GraderLine, graders, share_of};
use evidence::marks::Marks;
use evidence::readings::Readings;
use judging::critique::Verdict;
use judging::critique::{Differences, filled};
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use std::collections::BTreeMap;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

/// A grade as one person gave it.
#[derive(Debug, Serialize, ToSchema)]
pub struct GradeView {
    /// Who gave it.
    pub grader: String,
    /// It is mine.
    pub mine: bool,
    /// Points by criterion.
    pub points: Awarded,
    /// The rubric it was given by.
    pub rubric: Vec<Criterion>,
    /// Words for the student.
    pub note: String,
    /// Share of all points.
    pub share: Option<f64>,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub at: OffsetDateTime,
}

/// Words about a submission.
#[derive(Debug, Serialize, ToSchema)]
pub struct NoteView {
    /// Who.
    pub author: String,
    /// What it is.
    pub kind: NoteKind,
    /// In words.
    pub text: String,
    /// Where in the picture, pixels.
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub pin: Option<[f64; 2]>,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub at: OffsetDateTime,
}

/// What words about a submission are.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, sqlx::Type, ToSchema)]
#[serde(rename_all = "snake_case")]
#[sqlx(type_name = "text", rename_all = "snake_case")]
pub enum NoteKind {
    /// For the student and those who teach.
    Note,
    /// For those who teach.
    Private,
    /// The student asks to look again.
    Appeal,
}

/// A submission as one may see it.
#[derive(Debug, Serialize, ToSchema)]
pub struct SubmissionView {
    /// As on the wall.
    #[serde(flatten)]
    pub picture: WallPicture,
    /// Assignment.
    pub assignment: Uuid,
    /// It is mine.
    pub mine: bool,
    /// In the student's own words.
    pub paragraph: String,
    /// The people in it agreed that the class may see it.
    pub may_show: bool,
    /// Who is in it.
    pub who: String,
    /// Verdict by the assignment's brief.
    pub verdict: Option<Verdict>,
    /// Grades: all for those who teach, what counts for the student once it was returned.
    pub grades: Vec<GradeView>,
    /// Words.
    pub notes: Vec<NoteView>,
    /// What those who looked at each other's pictures said.
    pub reviews: Vec<PeerView>,
    /// Other times it was handed in, the newest first.
    pub attempts: Vec<Uuid>,
}

/// A submission as one may see it.
pub(crate) async fn view(app: &App, me: Uuid, id: Uuid) -> Answer<SubmissionView> {
    let (assignment, _, _, seat) = may_see(app, me, id).await?;
    let teaches = seat.is_some_and(Seat::teaches);
    let k = kept(app, assignment).await?;
    let (author, state, own): (Uuid, SubmissionState, bool) =
        sqlx::query_as("select author, state, belongs(s, $2) from submissions s where id = $1")
            .bind(id)
            .bind(me)
            .fetch_one(&app.pool)
            .await?;
    let returned = state == SubmissionState::Returned;
    let anonymous = k.assignment.anonymous && !own;
    let mut picture = one(app, id, assignment, anonymous, teaches.then_some(me)).await?;
    let (paragraph, may_show, who, verdict): (String, bool, String, Option<Jsonb<Verdict>>) =
        sqlx::query_as("select paragraph, may_show, who, verdict from submissions where id = $1")
            .bind(id)
            .fetch_one(&app.pool)
            .await?;
    type GradeRow = (Uuid, String, Jsonb<Awarded>, Jsonb<Vec<Criterion>>, String, OffsetDateTime);
    let grades: Vec<GradeRow> = sqlx::query_as(
        "select g.grader, a.name, g.points, g.rubric, g.note, g.created_at from grades g join accounts a on a.id = g.grader
         where g.submission_id = $1 order by g.created_at desc limit 200",
    )
    .bind(id)
    .fetch_all(&app.pool)
    .await?;
    let grades: Vec<GradeView> = grades
        .into_iter()
        .filter(|g| (teaches || returned) && (!picture.blind || g.0 == me))
        .map(|(grader, name, points, rubric, note, at)| GradeView {
            grader: name,
            mine: grader == me,
            share: share_of(&rubric.0, &points.0),
            points: points.0,
            rubric: rubric.0,
            note,
            at,
        })
        .collect();
    if !teaches && !returned {
        // what is thought of it is told when it is given back
        (picture.points, picture.share, picture.counts, picture.disputed) = (Awarded::new(), None, None, false);
        picture.proposals = Vec::new();
    }
    type NoteRow = (String, NoteKind, String, Option<f64>, Option<f64>, OffsetDateTime);
    let notes: Vec<NoteRow> = sqlx::query_as(
        "select case when n.author = s.author and $3 then s.alias else a.name end, n.kind, n.body, n.pin_x, n.pin_y, n.created_at
         from submission_notes n join accounts a on a.id = n.author join submissions s on s.id = n.submission_id
         where n.submission_id = $1 and (n.kind <> 'private' or $2) order by n.created_at",
    )
    .bind(id)
    .bind(teaches)
    .bind(anonymous && !returned)
    .fetch_all(&app.pool)
    .await?;
    let note = |(author, kind, text, x, y, at): NoteRow| NoteView {
        author,
        kind,
        text,
        pin: x.zip(y).map(|(x, y)| [x, y]),
        at,
    };
    let attempts: Vec<Uuid> =
        sqlx::query_scalar(
            "select id from submissions where assignment_id = $1 and state <> 'removed'
                 and (author = $2 or group_name = (select group_name from submissions where id = $3)) order by attempt desc",
        )
        .bind(assignment)
        .bind(author)
        .bind(id)
        .fetch_all(&app.pool)
        .await?;
    Ok(SubmissionView {
        picture,
        assignment,
        mine: own,
        reviews: said(app, id, teaches).await?,
        paragraph,
        may_show,
        // a name in it would tell whose it is
        who: if anonymous && !returned { String::new() } else { who },
        verdict: verdict.map(|v| v.0),
        grades,
        notes: notes.into_iter().map(note).collect(),
        attempts,
    })
}

/// Points for a submission.
#[derive(Debug, Deserialize, ToSchema)]
pub struct GradeEdit {
    /// Points by criterion; those that are left out are not given yet.
    pub points: Awarded,
    /// Words for the student.
    #[serde(default)]
    pub note: String,
}

/// Gives points; what was given before stays in the history.
pub(crate) async fn grade(app: &App, me: Uuid, id: Uuid, e: &GradeEdit) -> Answer<SubmissionView> {
    let (assignment, class, ..) = may_see(app, me, id).await?;
    must_teach(app, me, class).await?;
    let k = kept(app, assignment).await?;
    for (name, points) in &e.points {
        let c = k.assignment.rubric.iter().find(|c| c.id == *name);
        let c = c.ok_or_else(|| Problem::bad(format!("points.{name}: the rubric has no such criterion")))?;
        if !(0.0..=c.points).contains(points) {
            return Err(Problem::bad(format!("points.{name}: expected 0 to {}", c.points)));
        }
    }
    if e.note.chars().count() > LONGEST {
        return Err(Problem::bad(format!("A note has room for {LONGEST} characters.")));
    }
    sqlx::query("insert into grades (id, submission_id, grader, points, rubric, note) values ($1, $2, $3, $4, $5, $6)")
        .bind(Uuid::now_v7())
        .bind(id)
        .bind(me)
        .bind(Jsonb(&e.points))
        .bind(Jsonb(&k.assignment.rubric))
        .bind(e.note.trim())
        .execute(&app.pool)
        .await?;
    audit(app, class, me, "graded", serde_json::json!({"submission": id, "points": e.points})).await?;
    view(app, me, id).await
}

/// Gives a submission back, with all its points.
pub(crate) async fn give_back(app: &App, me: Uuid, id: Uuid) -> Answer<SubmissionView> {
    let (assignment, class, ..) = may_see(app, me, id).await?;
    must_teach(app, me, class).await?;
    let now = view(app, me, id).await?;
    if now.picture.state == SubmissionState::Reading {
        return Err(Problem::conflict("It is still being read."));
    }
    if now.picture.blind {
        return Err(Problem::conflict("All graders mark this one first: give your points before it is given back."));
    }
    if now.picture.share.is_none() {
        return Err(Problem::bad("Every criterion needs its points before it is given back."));
    }
    let authors: Vec<Uuid> = sqlx::query_scalar(
        "with back as (update submissions set state = 'returned', returned_at = coalesce(returned_at, now()) where id = $1
                       returning author, group_name)
         select author from back union
         select g.account_id from back join class_groups g on g.class_id = $2 and g.name = back.group_name",
    )
    .bind(id)
    .bind(class)
    .fetch_all(&app.pool)
    .await?;
    let k = kept(app, assignment).await?;
    audit(app, class, me, "gave back", serde_json::json!({"submission": id})).await?;
    notify(app, &authors, &format!("{} was given back to you.", k.assignment.title), &format!("/submissions/{id}"))
        .await?;
    view(app, me, id).await
}

/// Words to say about a submission.
#[derive(Debug, Deserialize, ToSchema)]
pub struct NoteEdit {
    /// What it is.
    pub kind: NoteKind,
    /// In words.
    pub text: String,
    /// Where in the picture, pixels.
    #[serde(default)]
    #[schema(value_type = Option<optics::geometry::Pair>)]
    pub pin: Option<[f64; 2]>,
}

/// Says something about a submission.
pub(crate) async fn say(app: &App, me: Uuid, id: Uuid, n: &NoteEdit) -> Answer<SubmissionView> {
    let (assignment, class, _, seat) = may_see(app, me, id).await?;
    let teaches = seat.is_some_and(Seat::teaches);
    let text = n.text.trim();
    if text.is_empty() || text.chars().count() > LONGEST {
        return Err(Problem::bad(format!("A note needs 1 to {LONGEST} characters.")));
    }
    if n.pin.is_some_and(|p| p.iter().any(|v| !v.is_finite() || v.abs() > 1e6)) {
        return Err(Problem::bad("pin: expected x and y in pixels of the picture"));
    }
    match n.kind {
        NoteKind::Private if !teaches => return Err(Problem::forbidden("Private notes are for those who teach.")),
        NoteKind::Appeal if teaches => return Err(Problem::forbidden("An appeal is made by who handed in.")),
        _ => {}
    }
    let (author, state): (Uuid, SubmissionState) =
        sqlx::query_as("select author, state from submissions where id = $1").bind(id).fetch_one(&app.pool).await?;
    if n.kind == NoteKind::Appeal && state != SubmissionState::Returned {
        return Err(Problem::conflict("It has not been given back yet."));
    }
    let many: i64 = sqlx::query_scalar("select count(*) from submission_notes where submission_id = $1")
        .bind(id)
        .fetch_one(&app.pool)
        .await?;
    if many >= 300 {
        return Err(Problem::conflict("There is room for 300 notes on a submission."));
    }
    sqlx::query("insert into submission_notes (id, submission_id, author, kind, body, pin_x, pin_y) values ($1, $2, $3, $4, $5, $6, $7)")
        .bind(Uuid::now_v7())
        .bind(id)
        .bind(me)
        .bind(n.kind)
        .bind(text)
        .bind(n.pin.map(|p| p[0]))
        .bind(n.pin.map(|p| p[1]))
        .execute(&app.pool)
        .await?;
    let k = kept(app, assignment).await?;
    if n.kind == NoteKind::Appeal {
        notify(
            app,
            &those(app, class, true).await?,
            &format!("An appeal for {}.", k.assignment.title),
            &format!("/assignments/{assignment}"),
        )
        .await?;
    } else if teaches && n.kind == NoteKind::Note && state == SubmissionState::Returned {
        notify(app, &[author], &format!("A note on {}.", k.assignment.title), &format!("/submissions/{id}")).await?;
    }
    view(app, me, id).await
}

/// Marks a picture as one that all graders mark first, each without the others' points; or takes that back.
pub(crate) async fn set_sample(app: &App, me: Uuid, id: Uuid, sample: bool) -> Answer<SubmissionView> {
    let (_, class, ..) = may_see(app, me, id).await?;
    must_teach(app, me, class).await?;
    sqlx::query("update submissions set sample = $2 where id = $1").bind(id).bind(sample).execute(&app.pool).await?;
    audit(app, class, me, "chose a sample", serde_json::json!({"submission": id, "sample": sample})).await?;
    view(app, me, id).await
}

/// Graders of an assignment held against each other; once whoever asks has marked all samples.
pub(crate) async fn held_together(app: &App, me: Uuid, assignment: Uuid) -> Answer<Vec<GraderLine>> {
    let k = kept(app, assignment).await?;
    must_teach(app, me, k.class).await?;
    let left: i64 = sqlx::query_scalar(
        "select count(*) from submissions s where assignment_id = $1 and newest and sample and state <> 'removed'
             and not exists (select 1 from grades g where g.submission_id = s.id and g.grader = $2)",
    )
    .bind(assignment)
    .bind(me)
    .fetch_one(&app.pool)
    .await?;
    if left > 0 {
        return Err(Problem::conflict(format!("Mark the samples first: {left} of them wait for your points.")));
    }
    let rows: Vec<(Uuid, String, Jsonb<Given>)> = sqlx::query_as(
        "select s.id, a.name, g.given from submissions s join newest_grades g on g.submission_id = s.id
         join accounts a on a.id = g.grader where s.assignment_id = $1 and s.newest order by s.id",
    )
    .bind(assignment)
    .fetch_all(&app.pool)
    .await?;
    let mut by: BTreeMap<Uuid, Vec<(String, Given)>> = BTreeMap::new();
    for (id, name, given) in rows {
        by.entry(id).or_default().push((name, given.0));
    }
    Ok(graders(&by.into_values().collect::<Vec<_>>()))
}

/// Phrases with the figures of a submission: those of the class, then the reader's own book.
pub(crate) async fn phrases_for(app: &App, me: Uuid, id: Uuid) -> Answer<Vec<String>> {
    let (_, class, ..) = may_see(app, me, id).await?;
    must_teach(app, me, class).await?;
    let (marks, readings, distance): (Jsonb<serde_json::Value>, Option<Jsonb<Readings>>, Option<Jsonb<Distance>>) =
        sqlx::query_as("select marks, readings, distance from submissions where id = $1")
            .bind(id)
            .fetch_one(&app.pool)
            .await?;
    let marks = Marks::from_value(marks.0).map_err(Problem::internal)?;
    let Some(readings) = readings else { return Ok(Vec::new()) };
    let differs = distance.map(|d| Differences::from(&d.0)).unwrap_or_default();
    let (house, own) = (house_of(app, class).await?, phrases_of(app, me).await?);
    Ok(house.phrases.iter().chain(&own.phrases).map(|p| filled(p, &readings.0, &marks, &differs)).collect())
}

//! The wall of an assignment: all pictures that were handed in, with what was read of them and what was given.

use super::assignments::seen_by;
use super::classes::must_teach;
use super::submissions::SubmissionState;
use crate::App;
use crate::problem::Answer;
use classroom::{Awarded, Counted, Distance, Finger, Given, Lateness, Print, ProposedPoints, counted};
use evidence::readings::{Light, Ratios};
use pictures::Facts;
use serde::Serialize;
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use uuid::Uuid;

/// One picture of the wall.
#[derive(Debug, Clone, Serialize, ToSchema)]
pub struct WallPicture {
    /// Submission.
    pub id: Uuid,
    /// Whose: a name, or a sign where graders see no names.
    pub name: String,
    /// How far it is.
    pub state: SubmissionState,
    /// How late.
    pub late: Lateness,
    /// Which time it was handed in.
    pub attempt: i32,
    /// Width and height in pixels.
    #[schema(value_type = Vec<u32>)]
    pub size: [u32; 2],
    /// Its lights.
    pub lights: Vec<Light>,
    /// Contrast on the subject, stops.
    pub contrast_stops: Option<f64>,
    /// How far that may be off.
    pub contrast_spread_stops: Option<f64>,
    /// Key over fill.
    pub key_to_fill: Option<f64>,
    /// Median of the picture, stops from middle grey.
    pub median_stops: Option<f64>,
    /// How far from the reference.
    pub distance: Option<Distance>,
    /// Rules of the verdict: faults, open, held.
    #[schema(value_type = Vec<usize>)]
    pub rules: [usize; 3],
    /// What is proposed.
    pub proposals: Vec<ProposedPoints>,
    /// What was given so far, by criterion, in the mean of the graders.
    pub points: Awarded,
    /// Share of all points, lateness not counted, once all were given.
    pub share: Option<f64>,
    /// What counts of that share, lateness taken off.
    pub counts: Option<f64>,
    /// Graders who differ by more than a tenth of all points.
    pub disputed: bool,
    /// An appeal waits.
    pub appeal: bool,
    /// The same picture, or nearly, was handed in by these too.
    pub copies: Vec<String>,
    /// Why it could not be read.
    pub problem: Option<String>,
    /// All graders mark this one first, each without the others' points.
    pub sample: bool,
    /// Others' points are hidden from whoever asks until they gave theirs.
    pub blind: bool,
    /// Students who looked at it for each other, of those it was dealt to.
    #[schema(value_type = Vec<i64>)]
    pub looked_at: [i64; 2],
}

#[derive(sqlx::FromRow)]
struct Row {
    id: Uuid,
    author_name: String,
    alias: String,
    attempt: i32,
    state: SubmissionState,
    problem: Option<String>,
    facts: Jsonb<Facts>,
    lights: Option<Jsonb<Vec<Light>>>,
    ratios: Option<Jsonb<Ratios>>,
    median: Option<f64>,
    distance: Option<Jsonb<Distance>>,
    rules: Vec<i32>,
    proposals: Option<Jsonb<Vec<ProposedPoints>>>,
    late: Jsonb<Lateness>,
    grades: Option<Jsonb<Vec<Given>>>,
    appeal: bool,
    sample: bool,
    mine_given: bool,
    looked: i64,
    dealt: i64,
}

macro_rules! wall {
    ($where:literal) => {
        concat!(
            "select s.id, coalesce(s.group_name, a.name) as author_name, s.alias, s.attempt, s.state, s.problem, s.facts,
                    s.readings->'lights' as lights, s.readings->'ratios' as ratios,
                    (s.readings#>>'{exposure,median_stops_from_grey}')::float8 as median, s.distance, s.rules,
                    s.proposals, s.late,
                    (select jsonb_agg(g.given) from newest_grades g where g.submission_id = s.id) as grades,
                    exists (select 1 from submission_notes n where n.submission_id = s.id and n.kind = 'appeal') as appeal, s.sample,
                    exists (select 1 from grades g where g.submission_id = s.id and g.grader = $2) as mine_given,
                    (select count(*) from peer_reviews r where r.submission_id = s.id and r.done_at is not null) as looked,
                    (select count(*) from peer_reviews r where r.submission_id = s.id) as dealt
             from submissions s join accounts a on a.id = s.author where ",
            $where
        )
    };
}

/// How many rules are broken, open, held, as they are kept.
pub(super) fn rule_counts(kept: &[i32]) -> [usize; 3] {
    std::array::from_fn(|i| kept.get(i).copied().unwrap_or(0) as usize)
}

/// Names are hidden from graders until the picture was returned.
fn shown_name(state: SubmissionState, anonymous: bool, [alias, name]: [&String; 2]) -> String {
    if anonymous && state != SubmissionState::Returned { alias.clone() } else { name.clone() }
}

/// What it takes to know a picture again.
struct Known {
    id: Uuid,
    name: String,
    hash: String,
    print: Option<Print>,
}

impl Known {
    fn is_same(&self, other: &Known) -> bool {
        self.hash == other.hash || self.print.as_ref().zip(other.print.as_ref()).is_some_and(|(a, b)| a.is_near(b))
    }
}

/// The newest pictures of an assignment, as they are known again.
async fn known(app: &App, assignment: Uuid, anonymous: bool) -> Answer<Vec<Known>> {
    type KnownRow = (Uuid, String, String, SubmissionState, String, Option<String>);
    let rows: Vec<KnownRow> = sqlx::query_as(
        "select s.id, s.alias, coalesce(s.group_name, a.name), s.state, s.file_hash, s.finger from submissions s join accounts a on a.id = s.author
         where s.assignment_id = $1 and s.newest and s.state <> 'removed' order by s.handed_in_at",
    )
    .bind(assignment)
    .fetch_all(&app.pool)
    .await?;
    let of = |(id, alias, name, state, hash, finger): KnownRow| Known {
        id,
        name: shown_name(state, anonymous, [&alias, &name]),
        hash,
        print: finger.and_then(|f| Finger(f).print()),
    };
    Ok(rows.into_iter().map(of).collect())
}

fn picture(r: Row, anonymous: bool, teaches: bool, all: &[Known]) -> WallPicture {
    let own = all.iter().find(|k| k.id == r.id);
    let same = |own: &Known| all.iter().filter(|k| k.id != r.id && own.is_same(k)).map(|k| k.name.clone()).collect();
    // a sample is marked without knowing what others gave
    let blind = teaches && r.sample && !r.mine_given && r.state != SubmissionState::Returned;
    let Counted { points, share, disputed } = counted(&r.grades.filter(|_| !blind).map(|g| g.0).unwrap_or_default());
    let ratios = r.ratios.as_ref().map(|q| &q.0);
    WallPicture {
        id: r.id,
        name: shown_name(r.state, anonymous, [&r.alias, &r.author_name]),
        state: r.state,
        late: r.late.0,
        attempt: r.attempt,
        size: [r.facts.0.width, r.facts.0.height],
        rules: rule_counts(&r.rules),
        lights: r.lights.map(|l| l.0).unwrap_or_default(),
        contrast_stops: ratios.map(|q| q.lit_to_shadow_stops),
        contrast_spread_stops: ratios.map(Ratios::contrast_spread),
        key_to_fill: ratios.map(|q| q.key_to_fill),
        median_stops: r.median,
        distance: r.distance.map(|d| d.0),
        proposals: r.proposals.map(|p| p.0).unwrap_or_default(),
        points,
        counts: share.map(|s| r.late.0.counts(s)),
        share,
        disputed,
        appeal: r.appeal,
        copies: own.map(same).unwrap_or_default(),
        problem: r.problem,
        sample: teaches && r.sample,
        blind,
        looked_at: [r.looked, r.dealt],
    }
}

/// All that was handed in, the newest of each student.
pub(crate) async fn wall(app: &App, me: Uuid, assignment: Uuid) -> Answer<Vec<WallPicture>> {
    let (k, _) = seen_by(app, me, assignment).await?;
    must_teach(app, me, k.class).await?;
    let rows: Vec<Row> =
        sqlx::query_as(wall!("s.assignment_id = $1 and s.newest and s.state <> 'removed' order by s.handed_in_at"))
            .bind(assignment)
            .bind(me)
            .fetch_all(&app.pool)
            .await?;
    let all = known(app, assignment, k.assignment.anonymous).await?;
    Ok(rows.into_iter().map(|r| picture(r, k.assignment.anonymous, true, &all)).collect())
}

/// One picture as on the wall, for a `grader`; without copies for who may not know of others.
pub(crate) async fn one(
    app: &App,
    id: Uuid,
    assignment: Uuid,
    anonymous: bool,
    grader: Option<Uuid>,
) -> Answer<WallPicture> {
    let row: Row = sqlx::query_as(wall!("s.id = $1")).bind(id).bind(grader).fetch_one(&app.pool).await?;
    let all = if grader.is_some() { known(app, assignment, anonymous).await? } else { Vec::new() };
    Ok(picture(row, anonymous, grader.is_some(), &all))
}

//! Jobs: work that is done in its own time, by this server or by a worker beside it.
//!
//! PostgreSQL is the queue: `for update skip locked` gives each job to one worker. A worker says every few seconds that it
//! is alive; what one that fell had begun is given to another.

use crate::App;
use crate::problem::{Answer, Problem};
use report::Paper;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use uuid::Uuid;

/// Jobs one person may have waiting or running.
const MOST_OPEN: i64 = 4;
/// Times a job is begun before it is given up: a worker that fell may have fallen over it.
const MOST_ATTEMPTS: i32 = 3;
/// Seconds without a sign of life after which a worker is taken for fallen.
const FALLEN_S: f64 = 30.0;
/// Days results are kept.
const KEPT_DAYS: f64 = 7.0;

/// What is to be done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Task {
    /// A picture of a case's set by the stand-in studio, larger and finer than a preview.
    Picture {
        /// The case.
        case: Uuid,
        /// Longest side in pixels.
        side: u32,
        /// Samples per pixel and light.
        samples: u32,
    },
    /// The plates of a case as a file that other programs open.
    Plates {
        /// The case.
        case: Uuid,
        /// Which file.
        file: PlatesFile,
    },
    /// The series of a case, each picture cropped to one scale on one base line, with the comparison as a table (zip).
    Series {
        /// The case.
        case: Uuid,
    },
    /// The verdict on a picture as something to hand over.
    Report {
        /// The case.
        case: Uuid,
        /// The picture.
        frame: Uuid,
        /// Which file.
        file: ReportFile,
        /// Size of the paper, for a PDF.
        #[serde(default)]
        paper: Paper,
        /// A contact sheet of the takes goes with it.
        #[serde(default)]
        contact: bool,
    },
    /// Read what was handed in and hold it against the reference. It is asked for by handing in.
    Submission {
        /// The submission.
        submission: Uuid,
    },
    /// All that is kept of me (zip): pictures as they were sent, everything else as JSON.
    Export,
    /// Read all pictures of a case with the present core, where that was not done yet.
    Readings {
        /// The case.
        case: Uuid,
    },
}

impl Task {
    /// The case it is about; `None` for what is about a person.
    pub(crate) fn case(&self) -> Option<Uuid> {
        match self {
            Task::Picture { case, .. }
            | Task::Readings { case }
            | Task::Series { case }
            | Task::Report { case, .. }
            | Task::Plates { case, .. } => Some(*case),
            // of no case: nobody asks for it by itself
            Task::Submission { submission } => Some(*submission),
            Task::Export => None,
        }
    }

    /// Type and name of the file it makes; `None` if it makes none.
    pub(crate) fn file(&self) -> Option<(&'static str, &'static str)> {
        match self {
            Task::Picture { .. } => Some(("image/png", "set.png")),
            Task::Plates { file: PlatesFile::Layers, .. } => Some(("image/openraster", "plates.ora")),
            Task::Plates { file: PlatesFile::Masks, .. } => Some(("application/zip", "plates.zip")),
            Task::Series { .. } => Some(("application/zip", "series.zip")),
            Task::Report { file: ReportFile::Html, .. } => Some(("text/html; charset=utf-8", "verdict.html")),
            Task::Report { file: ReportFile::Pdf, .. } => Some(("application/pdf", "verdict.pdf")),
            Task::Report { file: ReportFile::Json, .. } => Some(("application/json", "verdict.json")),
            Task::Export => Some(("application/zip", "slant-cast-of-mine.zip")),
            Task::Submission { .. } | Task::Readings { .. } => None,
        }
    }
}

/// Files that plates are written to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PlatesFile {
    /// Layers that lighten each other (OpenRaster).
    Layers,
    /// A soft mask for each plate, the mix in sixteen bits and its recipe (zip of PNG and JSON).
    Masks,
}

/// Files that a report is written to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReportFile {
    /// A page for the browser that needs nothing beside it.
    Html,
    /// Two pages for paper, a third with the takes.
    Pdf,
    /// `slant-report/1`.
    Json,
}

/// How far a job is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum JobState {
    /// Not begun.
    Waiting,
    /// Begun.
    Running,
    /// Finished; there is a result.
    Done,
    /// It cannot be done; `problem` says why.
    Failed,
    /// Withdrawn.
    Cancelled,
}

impl JobState {
    fn of(text: &str) -> JobState {
        match text {
            "waiting" => JobState::Waiting,
            "running" => JobState::Running,
            "done" => JobState::Done,
            "cancelled" => JobState::Cancelled,
            _ => JobState::Failed,
        }
    }
}

/// A job as it stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct JobView {
    /// Id.
    pub id: Uuid,
    /// What is to be done.
    pub task: Task,
    /// How far it is.
    pub state: JobState,
    /// Share done, 0 to 1.
    pub progress: f64,
    /// Times it was begun.
    pub attempts: i32,
    /// Why it failed.
    pub problem: Option<String>,
}

#[derive(sqlx::FromRow)]
struct Row {
    id: Uuid,
    arguments: Jsonb<Task>,
    state: String,
    progress: f64,
    attempts: i32,
    problem: Option<String>,
}

impl From<Row> for JobView {
    fn from(r: Row) -> Self {
        JobView {
            id: r.id,
            task: r.arguments.0,
            state: JobState::of(&r.state),
            progress: r.progress,
            attempts: r.attempts,
            problem: r.problem,
        }
    }
}

/// Puts a job into the queue.
pub(crate) async fn add(app: &App, owner: Uuid, task: &Task) -> Answer<JobView> {
    let open: i64 =
        sqlx::query_scalar("select count(*) from jobs where owner = $1 and state in ('waiting', 'running')")
            .bind(owner)
            .fetch_one(&app.pool)
            .await?;
    if open >= MOST_OPEN {
        return Err(Problem::conflict(format!(
            "{MOST_OPEN} of your jobs are waiting or running: let one finish, or cancel one."
        )));
    }
    let value = serde_json::to_value(task).map_err(Problem::internal)?;
    let kind = value["kind"].as_str().unwrap_or_default().to_owned();
    let row: Row = sqlx::query_as(
        "insert into jobs (id, kind, arguments, owner) values ($1, $2, $3, $4)
         returning id, arguments, state, progress, attempts, problem",
    )
    .bind(Uuid::now_v7())
    .bind(kind)
    .bind(Jsonb(value))
    .bind(owner)
    .fetch_one(&app.pool)
    .await?;
    Ok(row.into())
}

/// Puts a job into the queue with what else is written, whatever else of its owner waits.
pub(crate) async fn put(tx: &mut sqlx::PgConnection, owner: Uuid, task: &Task) -> Answer<()> {
    let value = serde_json::to_value(task).map_err(Problem::internal)?;
    let kind = value["kind"].as_str().unwrap_or_default().to_owned();
    sqlx::query("insert into jobs (id, kind, arguments, owner) values ($1, $2, $3, $4)")
        .bind(Uuid::now_v7())
        .bind(kind)
        .bind(Jsonb(value))
        .bind(owner)
        .execute(tx)
        .await?;
    Ok(())
}

/// One's own job.
pub(crate) async fn of(app: &App, owner: Uuid, id: Uuid) -> Answer<JobView> {
    let row: Option<Row> = sqlx::query_as(
        "select id, arguments, state, progress, attempts, problem from jobs where id = $1 and owner = $2",
    )
    .bind(id)
    .bind(owner)
    .fetch_optional(&app.pool)
    .await?;
    row.map(JobView::from).ok_or_else(|| Problem::not_found("There is no such job of yours."))
}

/// Withdraws one's own job; what is finished stays finished.
pub(crate) async fn cancel(app: &App, owner: Uuid, id: Uuid) -> Answer<JobView> {
    sqlx::query(
        "update jobs set state = 'cancelled', finished_at = now()
         where id = $1 and owner = $2 and state in ('waiting', 'running')",
    )
    .bind(id)
    .bind(owner)
    .execute(&app.pool)
    .await?;
    of(app, owner, id).await
}

/// A job a worker has.
pub(crate) struct Taken {
    pub id: Uuid,
    pub owner: Option<Uuid>,
    pub task: Task,
}

/// Takes the job that waits longest, or one whose worker fell; `None` if there is nothing to do.
pub(crate) async fn take(app: &App, worker: &str) -> sqlx::Result<Option<Taken>> {
    // one that brought down several workers is given up
    sqlx::query(
        "update jobs set state = 'failed', finished_at = now(),
                problem = 'It was begun several times and not finished: the program ended each time.'
         where state = 'running' and attempts >= $1 and seen_at < now() - make_interval(secs => $2)",
    )
    .bind(MOST_ATTEMPTS)
    .bind(FALLEN_S)
    .execute(&app.pool)
    .await?;
    let row: Option<(Uuid, Option<Uuid>, Jsonb<Task>)> = sqlx::query_as(
        "update jobs set state = 'running', attempts = attempts + 1, worker = $1, seen_at = now()
         where id = (select id from jobs
                     where (state = 'waiting' and run_after <= now())
                        or (state = 'running' and seen_at < now() - make_interval(secs => $2))
                     order by run_after for update skip locked limit 1)
         returning id, owner, arguments",
    )
    .bind(worker)
    .bind(FALLEN_S)
    .fetch_optional(&app.pool)
    .await?;
    Ok(row.map(|(id, owner, task)| Taken { id, owner, task: task.0 }))
}

/// Says that a worker is alive and how far it is; `false` if the job was withdrawn or given to another.
pub(crate) async fn alive(app: &App, id: Uuid, worker: &str, progress: f64) -> sqlx::Result<bool> {
    let done = sqlx::query(
        "update jobs set seen_at = now(), progress = $3 where id = $1 and worker = $2 and state = 'running'",
    )
    .bind(id)
    .bind(worker)
    .bind(progress)
    .execute(&app.pool)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// Writes down how a job ended, unless it was withdrawn or given to another meanwhile.
pub(crate) async fn end(app: &App, id: Uuid, worker: &str, problem: Option<&str>) -> sqlx::Result<()> {
    sqlx::query(
        "update jobs set state = case when $3::text is null then 'done' else 'failed' end, problem = $3,
                progress = case when $3::text is null then 1 else progress end, finished_at = now()
         where id = $1 and worker = $2 and state = 'running'",
    )
    .bind(id)
    .bind(worker)
    .bind(problem)
    .execute(&app.pool)
    .await?;
    Ok(())
}

/// Puts a job back for a reason of the server's own; it is tried again a little later.
pub(crate) async fn put_back(app: &App, id: Uuid, worker: &str) -> sqlx::Result<()> {
    sqlx::query(
        "update jobs set state = case when attempts >= $3 then 'failed' else 'waiting' end, run_after = now() + interval '5 seconds',
                problem = case when attempts >= $3 then 'The server could not finish it; try again later.' end
         where id = $1 and worker = $2 and state = 'running'",
    )
    .bind(id)
    .bind(worker)
    .bind(MOST_ATTEMPTS)
    .execute(&app.pool)
    .await?;
    Ok(())
}

/// Removes what ended long ago, with its result.
pub(crate) async fn sweep(app: &App) -> anyhow::Result<()> {
    let old: Vec<Uuid> =
        sqlx::query_scalar("delete from jobs where finished_at < now() - make_interval(days => $1::int) returning id")
            .bind(KEPT_DAYS as i32)
            .fetch_all(&app.pool)
            .await?;
    for id in old {
        app.store.remove_result(id).await?;
    }
    Ok(())
}

//! The gradebook of a class.

use super::classes::{Seat, audit, must_teach, seat_in};
use super::wall::rule_counts;
use crate::App;
use crate::problem::{Answer, Problem};
use classroom::{
    Assignment, BookCell, BookRow, Course, Distance, Given, Lateness, TableIn, Trend, counted, course, final_share,
    table_in, trends,
};
use serde::Serialize;
use sqlx::types::Json as Jsonb;
use std::collections::BTreeMap;
use utoipa::ToSchema;
use uuid::Uuid;

/// An assignment as a column of the book.
#[derive(Debug, Serialize, ToSchema)]
pub struct BookColumn {
    /// Id.
    pub id: Uuid,
    /// Title.
    pub title: String,
    /// Weight.
    pub weight: f64,
    /// What goes wrong most; for those who teach.
    pub trends: Vec<Trend>,
}

/// A gradebook.
#[derive(Debug, Serialize, ToSchema)]
pub struct Gradebook {
    /// Columns, the oldest first.
    pub assignments: Vec<BookColumn>,
    /// A row for each student.
    pub rows: Vec<BookRow>,
    /// Lowest marks that do not count.
    pub drop_lowest: i32,
}

/// The book: all rows for those who teach, one's own for others. A share is told once it was given back.
pub(crate) async fn gradebook(app: &App, me: Uuid, class: Uuid) -> Answer<Gradebook> {
    let seat = seat_in(app, me, class).await?;
    let drop_lowest: i32 =
        sqlx::query_scalar("select drop_lowest from classes where id = $1").bind(class).fetch_one(&app.pool).await?;
    let columns: Vec<(Uuid, Jsonb<Assignment>)> =
        sqlx::query_as("select id, body from assignments where class_id = $1 and published order by created_at")
            .bind(class)
            .fetch_all(&app.pool)
            .await?;
    // who has left stays in the book with what they handed in
    let students: Vec<(Uuid, String)> = sqlx::query_as(
        "select a.id, a.name from accounts a where ($2::uuid is null or a.id = $2) and (
            exists (select 1 from class_members m where m.class_id = $1 and m.account_id = a.id and m.seat = 'student')
            or exists (select 1 from entered_shares e join assignments t on t.id = e.assignment_id where t.class_id = $1 and e.student = a.id)
            or exists (select 1 from submissions s join assignments t on t.id = s.assignment_id where t.class_id = $1 and s.author = a.id))
         order by a.name, a.id",
    )
    .bind(class)
    .bind((!seat.teaches()).then_some(me))
    .fetch_all(&app.pool)
    .await?;
    type Row = (Uuid, Uuid, String, Jsonb<Lateness>, Option<Jsonb<Distance>>, Option<Jsonb<Vec<Given>>>);
    let rows: Vec<Row> = sqlx::query_as(
        "select w.account, s.assignment_id, s.state, s.late, s.distance,
                (select jsonb_agg(g.given) from newest_grades g where g.submission_id = s.id)
         from submissions s join assignments t on t.id = s.assignment_id
         -- what a group handed in counts for each of it
         cross join lateral (select s.author as account union
                             select g.account_id from class_groups g where g.class_id = t.class_id and g.name = s.group_name) w
         where t.class_id = $1 and s.newest order by s.handed_in_at",
    )
    .bind(class)
    .fetch_all(&app.pool)
    .await?;
    let mut cells: BTreeMap<(Uuid, Uuid), BookCell> = BTreeMap::new();
    let mut distances: BTreeMap<Uuid, Vec<Distance>> = BTreeMap::new();
    for (author, assignment, state, late, distance, grades) in rows {
        let share = counted(&grades.map(|g| g.0).unwrap_or_default()).share.map(|s| late.0.counts(s));
        let told = seat.teaches() || state == "returned" || state == "removed";
        let cell = BookCell {
            share: share.filter(|_| told),
            handed_in: true,
            late: late.0.late,
            steps: distance.as_ref().and_then(|d| d.0.steps),
            entered: false,
        };
        cells.insert((author, assignment), cell);
        if let Some(d) = distance {
            distances.entry(assignment).or_default().push(d.0);
        }
    }
    let entered: Vec<(Uuid, Uuid, Option<f64>)> = sqlx::query_as(
        "select distinct on (e.student, e.assignment_id) e.student, e.assignment_id, e.share from entered_shares e
         join assignments t on t.id = e.assignment_id where t.class_id = $1 order by e.student, e.assignment_id, e.created_at desc",
    )
    .bind(class)
    .fetch_all(&app.pool)
    .await?;
    for (student, assignment, share) in entered {
        if let Some(share) = share {
            let cell = cells.entry((student, assignment)).or_default();
            (cell.share, cell.entered) = (Some(share), true);
        }
    }
    let book_row = |(id, name): (Uuid, String)| {
        let own: Vec<BookCell> =
            columns.iter().map(|(a, _)| cells.get(&(id, *a)).cloned().unwrap_or_default()).collect();
        let weighed: Vec<(Option<f64>, f64)> =
            own.iter().zip(&columns).map(|(c, (_, a))| (c.share, a.0.weight)).collect();
        BookRow { student: id.to_string(), name, total: final_share(&weighed, drop_lowest as usize), cells: own }
    };
    let rows = students.into_iter().map(book_row).collect();
    let column = |(id, a): &(Uuid, Jsonb<Assignment>)| BookColumn {
        id: *id,
        title: a.0.title.clone(),
        weight: a.0.weight,
        trends: if seat.teaches() { trends(distances.get(id).map_or(&[], Vec::as_slice)) } else { Vec::new() },
    };
    let assignments = columns.iter().map(column).collect();
    Ok(Gradebook { assignments, rows, drop_lowest: if seat == Seat::Guest { 0 } else { drop_lowest } })
}

/// Takes shares of a table into the book, or tells what that would change.
pub(crate) async fn table_into(app: &App, me: Uuid, class: Uuid, text: &str, apply: bool) -> Answer<TableIn> {
    must_teach(app, me, class).await?;
    let book = gradebook(app, me, class).await?;
    let titles: Vec<String> = book.assignments.iter().map(|a| a.title.clone()).collect();
    let found = table_in(text, &titles, &book.rows).map_err(Problem::bad)?;
    if !apply || found.changes.is_empty() {
        return Ok(found);
    }
    let mut tx = app.pool.begin().await?;
    for c in &found.changes {
        let student: Uuid = c.student.parse().map_err(Problem::internal)?;
        sqlx::query(
            "insert into entered_shares (id, assignment_id, student, share, entered_by) values ($1, $2, $3, $4, $5)",
        )
        .bind(Uuid::now_v7())
        .bind(book.assignments[c.assignment].id)
        .bind(student)
        .bind(c.share)
        .bind(me)
        .execute(&mut *tx)
        .await?;
    }
    tx.commit().await?;
    audit(app, class, me, "took a table into the book", serde_json::json!({"changes": found.changes})).await?;
    Ok(found)
}

/// One assignment of a student.
#[derive(Debug, Serialize, ToSchema)]
pub struct StudentLine {
    /// Assignment.
    pub assignment: Uuid,
    /// Title.
    pub title: String,
    /// What was handed in, the newest; absent for nothing.
    pub submission: Option<Uuid>,
    /// As in the book.
    pub cell: BookCell,
    /// How far from the reference, by parts.
    pub distance: Option<Distance>,
    /// Rules of the verdict: faults, open, held.
    #[schema(value_type = Vec<usize>)]
    pub rules: [usize; 3],
}

/// How a student comes on over the assignments of a class.
#[derive(Debug, Serialize, ToSchema)]
pub struct StudentPage {
    /// Account.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Share of everything that was graded, by weight.
    pub total: Option<f64>,
    /// Assignments, the oldest first.
    pub lines: Vec<StudentLine>,
    /// By part of the distance.
    pub course: Course,
}

/// How a student comes on: for themselves, and for those who teach.
pub(crate) async fn student_page(app: &App, me: Uuid, class: Uuid, student: Uuid) -> Answer<StudentPage> {
    let seat = seat_in(app, me, class).await?;
    let gone = || Problem::not_found("There is no such student of this class.");
    if student != me && !seat.teaches() {
        return Err(gone());
    }
    let book = gradebook(app, me, class).await?;
    let row = book.rows.into_iter().find(|r| r.student == student.to_string()).ok_or_else(gone)?;
    type Found = (Uuid, Uuid, Option<Jsonb<Distance>>, Vec<i32>);
    let found: Vec<Found> = sqlx::query_as(
        "select s.assignment_id, s.id, s.distance, s.rules from submissions s join assignments a on a.id = s.assignment_id
         where a.class_id = $1 and s.newest and s.state <> 'removed' and belongs(s, $2)",
    )
    .bind(class)
    .bind(student)
    .fetch_all(&app.pool)
    .await?;
    let mut by: BTreeMap<Uuid, Found> = found.into_iter().map(|f| (f.0, f)).collect();
    let lines: Vec<StudentLine> = book
        .assignments
        .into_iter()
        .zip(row.cells)
        .map(|(a, cell)| {
            let (submission, distance, rules) = by
                .remove(&a.id)
                .map_or((None, None, Vec::new()), |(_, id, d, rules)| (Some(id), d.map(|d| d.0), rules));
            StudentLine { assignment: a.id, title: a.title, submission, cell, distance, rules: rule_counts(&rules) }
        })
        .collect();
    let course = course(&lines.iter().map(|l| l.distance.clone()).collect::<Vec<_>>());
    Ok(StudentPage { id: student, name: row.name, total: row.total, lines, course })
}

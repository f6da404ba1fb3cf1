//! The gradebook of a class.

use super::classes::{Seat, seat_in};
use crate::App;
use crate::problem::Answer;
use classroom::{Assignment, BookCell, BookRow, Distance, Given, Lateness, Trend, counted, final_share, trends};
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
            or exists (select 1 from submissions s join assignments t on t.id = s.assignment_id where t.class_id = $1 and s.author = a.id))
         order by a.name, a.id",
    )
    .bind(class)
    .bind((!seat.teaches()).then_some(me))
    .fetch_all(&app.pool)
    .await?;
    type Row = (Uuid, Uuid, String, Jsonb<Lateness>, Option<Jsonb<Distance>>, Option<Jsonb<Vec<Given>>>);
    let rows: Vec<Row> = sqlx::query_as(
        "select s.author, s.assignment_id, s.state, s.late, s.distance,
                (select jsonb_agg(jsonb_build_object('points', g.points, 'rubric', g.rubric)) from (
                    select distinct on (grader) points, rubric from grades where submission_id = s.id order by grader, created_at desc) g)
         from submissions s join assignments t on t.id = s.assignment_id where t.class_id = $1 and s.newest",
    )
    .bind(class)
    .fetch_all(&app.pool)
    .await?;
    let mut cells: BTreeMap<(Uuid, Uuid), BookCell> = BTreeMap::new();
    let mut distances: BTreeMap<Uuid, Vec<Distance>> = BTreeMap::new();
    for (author, assignment, state, late, distance, grades) in rows {
        let share = counted(&grades.map(|g| g.0).unwrap_or_default()).share.map(|s| late.0.counts(s));
        let told = seat.teaches() || state == "returned";
        let cell = BookCell {
            share: share.filter(|_| told),
            handed_in: true,
            late: late.0.late,
            steps: distance.as_ref().and_then(|d| d.0.steps),
        };
        cells.insert((author, assignment), cell);
        if let Some(d) = distance {
            distances.entry(assignment).or_default().push(d.0);
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

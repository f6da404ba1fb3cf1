//! What people have a right to: their work taken away again, and all that is kept of them.

use super::classes::{Seat, audit, seat_in};
use super::pictures::sweep;
use super::roles::Role;
use crate::App;
use crate::problem::{Answer, Problem};
use uuid::Uuid;

/// Takes the content of submissions away: picture, marks, readings, words; the row with its points stays, or goes where its class
/// keeps no grades. Answers how many there were.
async fn empty(app: &App, submissions: &[Uuid]) -> Answer<usize> {
    let mut tx = app.pool.begin().await?;
    let rows: Vec<(Uuid, String, Uuid, bool)> = sqlx::query_as(
        "select s.id, s.file_hash, c.id, c.keep_grades from submissions s join assignments a on a.id = s.assignment_id
         join classes c on c.id = a.class_id where s.id = any($1) and s.state <> 'removed' for update of s",
    )
    .bind(submissions)
    .fetch_all(&mut *tx)
    .await?;
    for (id, hash, class, keep_grades) in &rows {
        sqlx::query("delete from peer_reviews where submission_id = $1").bind(id).execute(&mut *tx).await?;
        sqlx::query("delete from submission_notes where submission_id = $1").bind(id).execute(&mut *tx).await?;
        // a round that was made of it, unless it is somebody else's picture too
        sqlx::query(
            "delete from rounds r using round_pictures p where p.round_id = r.id and r.class_id = $2 and p.file_hash = $1
             and not exists (select 1 from frames f join cases c on c.id = f.case_id
                             where f.file_hash = $1 and c.owner <> (select author from submissions where id = $3))",
        )
        .bind(hash)
        .bind(class)
        .bind(id)
        .execute(&mut *tx)
        .await?;
        if *keep_grades {
            sqlx::query(
                "update submissions set state = 'removed', removed_at = now(), file_hash = '', file_name = '', facts = '{}', marks = '{}',
                        readings = null, lighting_set = null, paragraph = '', who = '', may_show = false, distance = null,
                        verdict = null, proposals = null, finger = null, rules = '{0,0,0}', problem = null, sample = false where id = $1",
            )
            .bind(id)
            .execute(&mut *tx)
            .await?;
        } else {
            sqlx::query("delete from submissions where id = $1").bind(id).execute(&mut *tx).await?;
        }
    }
    tx.commit().await?;
    for (_, hash, ..) in &rows {
        // young files go with the next sweep
        sweep(app, hash).await.map_err(Problem::internal)?;
    }
    Ok(rows.len())
}

/// Takes what somebody handed in for an assignment away, all times it was handed in: by who made it, or by an instructor.
pub(crate) async fn take_away(app: &App, me: Uuid, id: Uuid) -> Answer<()> {
    let gone = || Problem::not_found("There is no such submission of yours or of a class you teach.");
    let row: Option<(Uuid, Uuid, Uuid)> = sqlx::query_as(
        "select s.assignment_id, a.class_id, s.author from submissions s join assignments a on a.id = s.assignment_id
         where s.id = $1 and s.state <> 'removed'",
    )
    .bind(id)
    .fetch_optional(&app.pool)
    .await?;
    let (assignment, class, author) = row.ok_or_else(gone)?;
    let seat = seat_in(app, me, class).await.ok();
    if author != me && !seat.is_some_and(Seat::teaches) {
        return Err(gone());
    }
    if author != me && seat != Some(Seat::Instructor) {
        return Err(Problem::forbidden("Only who made it or an instructor takes a picture away."));
    }
    let all: Vec<Uuid> = sqlx::query_scalar("select id from submissions where assignment_id = $1 and author = $2")
        .bind(assignment)
        .bind(author)
        .fetch_all(&app.pool)
        .await?;
    empty(app, &all).await?;
    audit(app, class, me, "took a picture away", serde_json::json!({"submission": id})).await
}

/// Takes pictures away of classes that were laid aside longer ago than they keep them.
pub(crate) async fn sweep_classes(app: &App) -> Answer<usize> {
    let old: Vec<Uuid> = sqlx::query_scalar(
        "select s.id from submissions s join assignments a on a.id = s.assignment_id join classes c on c.id = a.class_id
         where s.state <> 'removed' and c.keep_days is not null and c.archived_at < now() - make_interval(days => c.keep_days) limit 2000",
    )
    .fetch_all(&app.pool)
    .await?;
    if old.is_empty() { Ok(0) } else { empty(app, &old).await }
}

/// What goes with an account; what belongs to a case goes with it.
const GOES: [&str; 11] = [
    "delete from cases where owner = $1",
    "delete from kits where owner = $1",
    "delete from recipes where owner = $1",
    "delete from house_briefs where owner = $1",
    "delete from phrases where owner = $1",
    "delete from drafts where account_id = $1",
    "delete from notices where account_id = $1",
    "delete from class_members where account_id = $1",
    "delete from class_groups where account_id = $1",
    "delete from peer_reviews where reviewer = $1",
    "delete from submission_notes where author = $1",
];

/// Removes an account: its cases with their pictures, what it handed in, notices, what it kept. Points stay where classes keep them,
/// under its name; else nothing stays.
pub(crate) async fn remove_account(app: &App, me: Uuid, role: Role) -> Answer<()> {
    if role == Role::Administrator {
        let others: bool = sqlx::query_scalar(
            "select exists (select 1 from accounts where role = 'administrator' and removed_at is null and id <> $1)",
        )
        .bind(me)
        .fetch_one(&app.pool)
        .await?;
        if !others {
            return Err(Problem::conflict("You are the only administrator: make somebody else one first."));
        }
    }
    let alone: Option<String> = sqlx::query_scalar(
        "select c.name from class_members m join classes c on c.id = m.class_id
         where m.account_id = $1 and m.seat = 'instructor'
           and not exists (select 1 from class_members o where o.class_id = c.id and o.seat = 'instructor' and o.account_id <> $1)
           and exists (select 1 from class_members o where o.class_id = c.id and o.account_id <> $1) limit 1",
    )
    .bind(me)
    .fetch_optional(&app.pool)
    .await?;
    if let Some(name) = alone {
        return Err(Problem::conflict(format!(
            "\"{name}\" has no other instructor: give that seat to somebody else, or take everybody out, first."
        )));
    }
    let handed_in: Vec<Uuid> =
        sqlx::query_scalar("select id from submissions where author = $1").bind(me).fetch_all(&app.pool).await?;
    empty(app, &handed_in).await?;
    let hashes: Vec<String> = sqlx::query_scalar(
        "select distinct f.file_hash from frames f join cases c on c.id = f.case_id where c.owner = $1",
    )
    .bind(me)
    .fetch_all(&app.pool)
    .await?;
    let jobs: Vec<Uuid> =
        sqlx::query_scalar("delete from jobs where owner = $1 returning id").bind(me).fetch_all(&app.pool).await?;
    for job in jobs {
        app.store.remove_result(job).await?;
    }
    let mut tx = app.pool.begin().await?;
    for statement in GOES {
        sqlx::query(statement).bind(me).execute(&mut *tx).await?;
    }
    sqlx::query("update round_players set account_id = null, name = 'somebody' where account_id = $1")
        .bind(me)
        .execute(&mut *tx)
        .await?;
    // the row stays for the points that were given to it or by it; nobody signs in with it any more
    sqlx::query(
        "update accounts set email = 'removed-' || id::text, password_hash = '!', role = 'student', removed_at = now(),
                name = case when exists (select 1 from submissions where author = $1) or exists (select 1 from grades where grader = $1)
                            then name else 'somebody who is gone' end
         where id = $1",
    )
    .bind(me)
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    for hash in hashes {
        sweep(app, &hash).await.map_err(Problem::internal)?;
    }
    Ok(())
}

//! Classes: who sits in them, by which code they are joined, what was done in them.

use crate::App;
use crate::problem::{Answer, Problem};
use classroom::HouseRules;
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

/// What a person is in a class.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, sqlx::Type, ToSchema)]
#[serde(rename_all = "snake_case")]
#[sqlx(type_name = "text", rename_all = "snake_case")]
pub enum Seat {
    /// Made it, or teaches it with all rights.
    Instructor,
    /// Sets and grades, but does not change who is in it.
    CoTeacher,
    /// Hands in.
    Student,
    /// Looks on.
    Guest,
}

impl Seat {
    /// Sees and grades what all hand in.
    pub(crate) fn teaches(self) -> bool {
        matches!(self, Seat::Instructor | Seat::CoTeacher)
    }
}

/// People of a class at most, and classes of a person.
pub(crate) const MOST_MEMBERS: i32 = 500;
const MOST_CLASSES: i64 = 60;
/// Characters of a code: none that are taken for others.
const CODE: &[u8] = b"ABCDEFGHJKMNPQRSTUVWXYZ23456789";
const CODE_LENGTH: usize = 8;

/// A code nobody guesses: 30 to the power of its length, which is sixteen at most.
pub(crate) fn new_code(length: usize) -> String {
    let bytes = *Uuid::new_v4().as_bytes();
    bytes.iter().take(length).map(|b| char::from(CODE[usize::from(*b) % CODE.len()])).collect()
}

/// A code as it is kept, however it was typed: case, spaces and dashes do not matter.
pub(crate) fn plain_code(typed: &str) -> String {
    typed.to_uppercase().chars().filter(char::is_ascii_alphanumeric).take(40).collect()
}

fn gone() -> Problem {
    Problem::not_found("There is no such class of yours.")
}

/// A class in the list.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClassCard {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// What I am in it.
    pub seat: Seat,
    /// Students in it.
    pub students: i64,
    /// Assignments that are open to students.
    pub assignments: i64,
    /// Handed in and not yet returned, for those who teach.
    pub to_grade: i64,
    /// It is laid aside.
    pub archived: bool,
}

/// A member of a class.
#[derive(Debug, Serialize, ToSchema)]
pub struct Member {
    /// Account.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// What they are in it.
    pub seat: Seat,
}

/// A class.
#[derive(Debug, Serialize, ToSchema)]
pub struct ClassView {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// What I am in it.
    pub seat: Seat,
    /// Code to join by; for those who teach.
    pub code: Option<String>,
    /// It can be joined.
    pub open: bool,
    /// People at most.
    pub most: i32,
    /// What is said of pictures of people.
    pub consent: String,
    /// Lowest marks that do not count.
    pub drop_lowest: i32,
    /// Days pictures are kept once it is laid aside; absent for as long as the class is there.
    pub keep_days: Option<i32>,
    /// Points stay when a picture is taken away.
    pub keep_grades: bool,
    /// It is laid aside: nothing is handed in any more.
    pub archived: bool,
    /// Its house rules.
    pub house: HouseRules,
    /// Version for the next edit.
    pub version: i64,
    /// Who is in it; a student sees those who teach.
    pub members: Vec<Member>,
}

/// What a person is in a class, else 404.
pub(crate) async fn seat_in(app: &App, me: Uuid, class: Uuid) -> Answer<Seat> {
    let seat: Option<Seat> =
        sqlx::query_scalar("select seat from class_members where class_id = $1 and account_id = $2")
            .bind(class)
            .bind(me)
            .fetch_optional(&app.pool)
            .await?;
    seat.ok_or_else(gone)
}

/// The house rules of a class.
pub(crate) async fn house_of(app: &App, class: Uuid) -> Answer<HouseRules> {
    let house: Jsonb<HouseRules> =
        sqlx::query_scalar("select house from classes where id = $1").bind(class).fetch_one(&app.pool).await?;
    Ok(house.0)
}

/// That a person teaches a class, else 403 for its members and 404 for others.
pub(crate) async fn must_teach(app: &App, me: Uuid, class: Uuid) -> Answer<Seat> {
    let seat = seat_in(app, me, class).await?;
    if seat.teaches() { Ok(seat) } else { Err(Problem::forbidden("Only those who teach this class can do that.")) }
}

async fn must_lead(app: &App, me: Uuid, class: Uuid) -> Answer<()> {
    match seat_in(app, me, class).await? {
        Seat::Instructor => Ok(()),
        _ => Err(Problem::forbidden("Only an instructor of this class can do that.")),
    }
}

/// Writes down who did what.
pub(crate) async fn audit(app: &App, class: Uuid, actor: Uuid, did: &str, body: serde_json::Value) -> Answer<()> {
    sqlx::query("insert into audit (id, class_id, actor, did, body) values ($1, $2, $3, $4, $5)")
        .bind(Uuid::now_v7())
        .bind(class)
        .bind(actor)
        .bind(did)
        .bind(Jsonb(body))
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// My classes, those in use first.
pub(crate) async fn mine(app: &App, me: Uuid) -> Answer<Vec<ClassCard>> {
    let rows: Vec<(Uuid, String, Seat, i64, i64, i64, bool)> = sqlx::query_as(
        "select c.id, c.name, m.seat,
                (select count(*) from class_members where class_id = c.id and seat = 'student'),
                (select count(*) from assignments where class_id = c.id and published),
                (select count(*) from submissions s join assignments a on a.id = s.assignment_id
                 where a.class_id = c.id and s.newest and s.state = 'handed_in'),
                c.archived_at is not null
         from classes c join class_members m on m.class_id = c.id where m.account_id = $1
         order by c.archived_at is not null, c.created_at desc",
    )
    .bind(me)
    .fetch_all(&app.pool)
    .await?;
    let card =
        |(id, name, seat, students, assignments, to_grade, archived): (Uuid, String, Seat, i64, i64, i64, bool)| {
            ClassCard {
                id,
                name,
                seat,
                students,
                assignments,
                to_grade: if seat.teaches() { to_grade } else { 0 },
                archived,
            }
        };
    Ok(rows.into_iter().map(card).collect())
}

fn check_name(name: &str) -> Answer<String> {
    let n = name.trim();
    if n.is_empty() || n.chars().count() > 120 {
        return Err(Problem::bad("A class needs a name of 1 to 120 characters."));
    }
    Ok(n.to_owned())
}

/// Makes a class; whoever makes it teaches it.
pub(crate) async fn create(app: &App, me: Uuid, name: &str) -> Answer<Uuid> {
    let name = check_name(name)?;
    let n: i64 = sqlx::query_scalar("select count(*) from class_members where account_id = $1 and seat = 'instructor'")
        .bind(me)
        .fetch_one(&app.pool)
        .await?;
    if n >= MOST_CLASSES {
        return Err(Problem::conflict(format!("You teach {MOST_CLASSES} classes already.")));
    }
    let id = Uuid::now_v7();
    let mut tx = app.pool.begin().await?;
    sqlx::query("insert into classes (id, name, code) values ($1, $2, $3)")
        .bind(id)
        .bind(name)
        .bind(new_code(CODE_LENGTH))
        .execute(&mut *tx)
        .await?;
    sqlx::query("insert into class_members (class_id, account_id, seat) values ($1, $2, 'instructor')")
        .bind(id)
        .bind(me)
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    audit(app, id, me, "made the class", serde_json::json!({})).await?;
    Ok(id)
}

/// A class as one of its members sees it.
pub(crate) async fn view(app: &App, me: Uuid, id: Uuid) -> Answer<ClassView> {
    let seat = seat_in(app, me, id).await?;
    type Row = (String, String, bool, i32, String, i32, Option<i32>, bool, bool, Jsonb<HouseRules>, i64);
    let row: Row = sqlx::query_as("select name, code, code_open, most, consent, drop_lowest, keep_days, keep_grades, archived_at is not null, house, version from classes where id = $1")
        .bind(id)
        .fetch_optional(&app.pool)
        .await?
        .ok_or_else(gone)?;
    let members: Vec<(Uuid, String, Seat)> = sqlx::query_as(
        "select a.id, a.name, m.seat from class_members m join accounts a on a.id = m.account_id where m.class_id = $1 order by m.seat, a.name, a.id",
    )
    .bind(id)
    .fetch_all(&app.pool)
    .await?;
    let members = members.into_iter().map(|(id, name, seat)| Member { id, name, seat });
    let (name, code, open, most, consent, drop_lowest, keep_days, keep_grades, archived, house, version) = row;
    Ok(ClassView {
        id,
        name,
        seat,
        code: seat.teaches().then_some(code),
        open,
        most,
        consent,
        drop_lowest,
        keep_days,
        keep_grades,
        archived,
        house: house.0,
        version,
        // who learns beside one is not told by the program
        members: members.filter(|m| seat.teaches() || m.seat.teaches() || m.id == me).collect(),
    })
}

/// An edit of a class, made on a version.
#[derive(Debug, Default, Deserialize, ToSchema)]
pub struct ClassEdit {
    /// Version the edit was made on.
    #[serde(deserialize_with = "crate::problem::version")]
    pub version: i64,
    /// New name.
    #[serde(default)]
    pub name: Option<String>,
    /// It can be joined.
    #[serde(default)]
    pub open: Option<bool>,
    /// People at most.
    #[serde(default)]
    pub most: Option<i32>,
    /// What is said of pictures of people.
    #[serde(default)]
    pub consent: Option<String>,
    /// Lowest marks that do not count.
    #[serde(default)]
    pub drop_lowest: Option<i32>,
    /// Days pictures are kept once it is laid aside; nought for as long as the class is there.
    #[serde(default)]
    pub keep_days: Option<i32>,
    /// Points stay when a picture is taken away.
    #[serde(default)]
    pub keep_grades: Option<bool>,
    /// Lay it aside, or take it up again.
    #[serde(default)]
    pub archived: Option<bool>,
    /// Its house rules; they count for assignments that are set or changed from now on.
    #[serde(default)]
    pub house: Option<HouseRules>,
    /// A new code; the old one opens nothing any more.
    #[serde(default)]
    pub turn_code: bool,
}

/// Changes a class.
pub(crate) async fn change(app: &App, me: Uuid, id: Uuid, e: &ClassEdit) -> Answer<ClassView> {
    must_lead(app, me, id).await?;
    let name = e.name.as_deref().map(check_name).transpose()?;
    if e.most.is_some_and(|n| !(1..=MOST_MEMBERS).contains(&n)) {
        return Err(Problem::bad(format!("most: expected 1 to {MOST_MEMBERS} people")));
    }
    if e.drop_lowest.is_some_and(|n| !(0..=20).contains(&n)) {
        return Err(Problem::bad("drop_lowest: expected 0 to 20"));
    }
    if e.keep_days.is_some_and(|n| !(0..=3650).contains(&n)) {
        return Err(Problem::bad("keep_days: expected 0 to 3650"));
    }
    if e.consent.as_ref().is_some_and(|c| c.chars().count() > 2000) {
        return Err(Problem::bad("consent: expected at most 2000 characters"));
    }
    e.house.as_ref().map_or(Ok(()), HouseRules::check).map_err(Problem::bad)?;
    let done = sqlx::query(
        "update classes set name = coalesce($3, name), code_open = coalesce($4, code_open), most = coalesce($5, most),
                consent = coalesce($6, consent), drop_lowest = coalesce($7, drop_lowest),
                archived_at = case when $8::boolean is null then archived_at when $8 then coalesce(archived_at, now()) end,
                code = coalesce($9, code), keep_days = case when $10::integer is null then keep_days else nullif($10, 0) end,
                keep_grades = coalesce($11, keep_grades), house = coalesce($12, house), version = version + 1
         where id = $1 and version = $2",
    )
    .bind(id)
    .bind(e.version)
    .bind(&name)
    .bind(e.open)
    .bind(e.most)
    .bind(&e.consent)
    .bind(e.drop_lowest)
    .bind(e.archived)
    .bind(e.turn_code.then(|| new_code(CODE_LENGTH)))
    .bind(e.keep_days)
    .bind(e.keep_grades)
    .bind(e.house.as_ref().map(Jsonb))
    .execute(&app.pool)
    .await?;
    let now = view(app, me, id).await?;
    if done.rows_affected() == 0 {
        return Err(Problem::stale("class", serde_json::to_value(&now).map_err(Problem::internal)?));
    }
    audit(
        app,
        id,
        me,
        "changed the class",
        serde_json::json!({"code": e.turn_code, "open": e.open, "archived": e.archived, "house": e.house.is_some()}),
    )
    .await?;
    Ok(now)
}

/// Joins the class of a code as a student; to join again changes nothing.
pub(crate) async fn join(app: &App, me: Uuid, code: &str) -> Answer<Uuid> {
    let code = plain_code(code);
    // one row is locked: two who take the last place do not both get it
    let mut tx = app.pool.begin().await?;
    let found: Option<(Uuid, bool, i32, bool)> =
        sqlx::query_as("select id, code_open, most, archived_at is not null from classes where code = $1 for update")
            .bind(&code)
            .fetch_optional(&mut *tx)
            .await?;
    let Some((id, open, most, archived)) = found else {
        return Err(Problem::not_found("No class has this code. Ask for it again: it may have been changed."));
    };
    let inside: bool =
        sqlx::query_scalar("select exists (select 1 from class_members where class_id = $1 and account_id = $2)")
            .bind(id)
            .bind(me)
            .fetch_one(&mut *tx)
            .await?;
    if inside {
        return Ok(id);
    }
    if !open || archived {
        return Err(Problem::conflict("This class is closed: nobody can join it now. Ask your instructor."));
    }
    let n: i64 = sqlx::query_scalar("select count(*) from class_members where class_id = $1")
        .bind(id)
        .fetch_one(&mut *tx)
        .await?;
    if n >= i64::from(most) {
        return Err(Problem::conflict(format!("This class is full: it has room for {most}.")));
    }
    sqlx::query("insert into class_members (class_id, account_id, seat) values ($1, $2, 'student')")
        .bind(id)
        .bind(me)
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    audit(app, id, me, "joined", serde_json::json!({})).await?;
    Ok(id)
}

async fn instructors(app: &App, class: Uuid) -> Answer<i64> {
    Ok(sqlx::query_scalar("select count(*) from class_members where class_id = $1 and seat = 'instructor'")
        .bind(class)
        .fetch_one(&app.pool)
        .await?)
}

/// Gives a member another seat.
pub(crate) async fn reseat(app: &App, me: Uuid, class: Uuid, account: Uuid, seat: Seat) -> Answer<()> {
    must_lead(app, me, class).await?;
    if account == me && seat != Seat::Instructor && instructors(app, class).await? < 2 {
        return Err(Problem::conflict("A class needs an instructor: give that seat to somebody else first."));
    }
    let done = sqlx::query("update class_members set seat = $3 where class_id = $1 and account_id = $2")
        .bind(class)
        .bind(account)
        .bind(seat)
        .execute(&app.pool)
        .await?;
    if done.rows_affected() == 0 {
        return Err(Problem::not_found("They are not in this class."));
    }
    audit(app, class, me, "changed a seat", serde_json::json!({"account": account, "seat": seat})).await
}

/// Takes a member out of a class, or leaves it; what they handed in stays.
pub(crate) async fn remove_member(app: &App, me: Uuid, class: Uuid, account: Uuid) -> Answer<()> {
    let seat = seat_in(app, me, class).await?;
    if account != me && seat != Seat::Instructor {
        return Err(Problem::forbidden("Only an instructor of this class can do that."));
    }
    if account == me && seat == Seat::Instructor && instructors(app, class).await? < 2 {
        return Err(Problem::conflict("A class needs an instructor: give that seat to somebody else first."));
    }
    let done = sqlx::query("delete from class_members where class_id = $1 and account_id = $2")
        .bind(class)
        .bind(account)
        .execute(&app.pool)
        .await?;
    if done.rows_affected() == 0 {
        return Err(Problem::not_found("They are not in this class."));
    }
    audit(
        app,
        class,
        me,
        if account == me { "left" } else { "took somebody out" },
        serde_json::json!({"account": account}),
    )
    .await
}

/// A line of the audit.
#[derive(Debug, Serialize, ToSchema)]
pub struct AuditLine {
    /// Who did it.
    pub actor: String,
    /// What.
    pub did: String,
    /// More about it.
    #[schema(value_type = serde_json::Value)]
    pub about: serde_json::Value,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub at: OffsetDateTime,
}

/// What was done in a class, the newest first.
pub(crate) async fn audited(app: &App, class: Uuid) -> Answer<Vec<AuditLine>> {
    let rows: Vec<(Option<String>, String, Jsonb<serde_json::Value>, OffsetDateTime)> = sqlx::query_as(
        "select a.name, u.did, u.body, u.created_at from audit u left join accounts a on a.id = u.actor
         where u.class_id = $1 order by u.created_at desc limit 500",
    )
    .bind(class)
    .fetch_all(&app.pool)
    .await?;
    let line = |(actor, did, about, at): (Option<String>, String, Jsonb<serde_json::Value>, OffsetDateTime)| {
        AuditLine { actor: actor.unwrap_or_else(|| "somebody who is gone".into()), did, about: about.0, at }
    };
    Ok(rows.into_iter().map(line).collect())
}

/// A notice.
#[derive(Debug, Serialize, ToSchema)]
pub struct Notice {
    /// Id.
    pub id: Uuid,
    /// In a sentence.
    pub says: String,
    /// Where it leads.
    pub link: String,
    /// It was seen.
    pub seen: bool,
    /// When.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub at: OffsetDateTime,
}

/// Tells people something inside the application.
pub(crate) async fn notify(app: &App, who: &[Uuid], says: &str, link: &str) -> Answer<()> {
    let ids: Vec<Uuid> = who.iter().map(|_| Uuid::now_v7()).collect();
    sqlx::query("insert into notices (id, account_id, says, link) select i, a, $3, $4 from unnest($1::uuid[], $2::uuid[]) as t (i, a)")
        .bind(ids)
        .bind(who)
        .bind(says)
        .bind(link)
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// Accounts of a class with some seats.
pub(crate) async fn those(app: &App, class: Uuid, teachers: bool) -> Answer<Vec<Uuid>> {
    let seats: &[&str] = if teachers { &["instructor", "co_teacher"] } else { &["student"] };
    Ok(sqlx::query_scalar("select account_id from class_members where class_id = $1 and seat = any($2)")
        .bind(class)
        .bind(seats)
        .fetch_all(&app.pool)
        .await?)
}

/// My notices, the newest first.
pub(crate) async fn notices(app: &App, me: Uuid) -> Answer<Vec<Notice>> {
    let rows: Vec<(Uuid, String, String, bool, OffsetDateTime)> = sqlx::query_as(
        "select id, says, link, seen_at is not null, created_at from notices where account_id = $1 order by created_at desc limit 100",
    )
    .bind(me)
    .fetch_all(&app.pool)
    .await?;
    Ok(rows.into_iter().map(|(id, says, link, seen, at)| Notice { id, says, link, seen, at }).collect())
}

/// Marks my notices as seen.
pub(crate) async fn seen(app: &App, me: Uuid) -> Answer<()> {
    sqlx::query("update notices set seen_at = now() where account_id = $1 and seen_at is null")
        .bind(me)
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// Days notices are kept.
const NOTICES_DAYS: i32 = 180;

/// Removes notices that are old.
pub(crate) async fn sweep_notices(app: &App) -> sqlx::Result<()> {
    sqlx::query("delete from notices where created_at < now() - make_interval(days => $1)")
        .bind(NOTICES_DAYS)
        .execute(&app.pool)
        .await?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn codes_are_long_and_hold_nothing_that_is_misread() {
        let all: std::collections::BTreeSet<String> = (0..500).map(|_| new_code(CODE_LENGTH)).collect();
        assert_eq!(all.len(), 500);
        assert!(all.iter().all(|c| c.len() == CODE_LENGTH && !c.contains(['0', 'O', '1', 'I', 'L'])));
    }
}

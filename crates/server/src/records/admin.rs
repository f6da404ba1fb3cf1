//! What whoever runs the installation sees and sets: accounts with their roles, what is stored, jobs, who may sign up.

use super::classes::{AuditLine, new_code, plain_code};
use super::roles::Role;
use crate::App;
use crate::problem::{Answer, Problem};
use serde::{Deserialize, Serialize};
use sqlx::types::Json as Jsonb;
use time::OffsetDateTime;
use utoipa::ToSchema;
use uuid::Uuid;

/// Who may make an account.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SignUp {
    /// Everyone.
    #[default]
    Open,
    /// Who has the code of an invitation.
    Invited,
    /// Nobody.
    Closed,
}

/// An account in the list.
#[derive(Debug, Serialize, ToSchema)]
pub struct AccountLine {
    /// Id.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// Address.
    pub email: String,
    /// Role.
    pub role: Role,
    /// Cases.
    pub cases: i64,
    /// Since when.
    #[serde(with = "time::serde::rfc3339")]
    #[schema(value_type = String)]
    pub since: OffsetDateTime,
}

/// Jobs in one state.
#[derive(Debug, Serialize, ToSchema)]
pub struct JobCount {
    /// What they do.
    pub kind: String,
    /// waiting, running, done, failed or cancelled.
    pub state: String,
    /// How many.
    pub many: i64,
}

/// The installation as it stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct Installation {
    /// Accounts, the newest first, at most a thousand.
    pub accounts: Vec<AccountLine>,
    /// Cases.
    pub cases: i64,
    /// Pictures.
    pub pictures: i64,
    /// Classes.
    pub classes: i64,
    /// Pictures handed in.
    pub submissions: i64,
    /// Size of the database in bytes.
    pub database_bytes: i64,
    /// Size of all pictures and files in bytes.
    pub stored_bytes: u64,
    /// Invitations that can still be used.
    pub invitations: Vec<Invitation>,
    /// Jobs of the last seven days.
    pub jobs: Vec<JobCount>,
    /// Who may make an account.
    pub sign_up: SignUp,
}

/// Name of the setting.
const SIGN_UP: &str = "sign_up";

/// Who may make an account.
pub(crate) async fn sign_up(app: &App) -> Answer<SignUp> {
    let kept: Option<Jsonb<SignUp>> =
        sqlx::query_scalar("select body from settings where name = $1").bind(SIGN_UP).fetch_optional(&app.pool).await?;
    Ok(kept.map(|k| k.0).unwrap_or_default())
}

/// Sets who may make an account.
pub(crate) async fn set_sign_up(app: &App, to: SignUp) -> Answer<()> {
    sqlx::query(
        "insert into settings (name, body) values ($1, $2) on conflict (name) do update set body = excluded.body",
    )
    .bind(SIGN_UP)
    .bind(Jsonb(to))
    .execute(&app.pool)
    .await?;
    Ok(())
}

/// The installation as it stands.
pub(crate) async fn installation(app: &App) -> Answer<Installation> {
    let accounts: Vec<(Uuid, String, String, String, i64, OffsetDateTime)> = sqlx::query_as(
        "select a.id, a.name, a.email, a.role, (select count(*) from cases where owner = a.id), a.created_at
         from accounts a where a.removed_at is null order by a.created_at desc limit 1000",
    )
    .fetch_all(&app.pool)
    .await?;
    let line = |(id, name, email, role, cases, since): (Uuid, String, String, String, i64, OffsetDateTime)| {
        AccountLine { id, name, email, role: Role::of(&role), cases, since }
    };
    let (cases, pictures, classes, submissions, database_bytes): (i64, i64, i64, i64, i64) = sqlx::query_as(
        "select (select count(*) from cases), (select count(*) from frames), (select count(*) from classes),
                (select count(*) from submissions), pg_database_size(current_database())",
    )
    .fetch_one(&app.pool)
    .await?;
    let jobs: Vec<(String, String, i64)> =
        sqlx::query_as("select kind, state, count(*) from jobs group by kind, state order by kind, state")
            .fetch_all(&app.pool)
            .await?;
    Ok(Installation {
        accounts: accounts.into_iter().map(line).collect(),
        cases,
        pictures,
        classes,
        submissions,
        database_bytes,
        stored_bytes: app.store.bytes().await?,
        invitations: invitations(app).await?,
        jobs: jobs.into_iter().map(|(kind, state, many)| JobCount { kind, state, many }).collect(),
        sign_up: sign_up(app).await?,
    })
}

/// Gives an account another role.
pub(crate) async fn set_role(app: &App, me: Uuid, account: Uuid, role: Role) -> Answer<()> {
    if account == me && role != Role::Administrator {
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
    let done = sqlx::query("update accounts set role = $2 where id = $1 and removed_at is null")
        .bind(account)
        .bind(role.word())
        .execute(&app.pool)
        .await?;
    if done.rows_affected() == 0 { Err(Problem::not_found("There is no such account.")) } else { Ok(()) }
}

/// An invitation.
#[derive(Debug, Serialize, ToSchema)]
pub struct Invitation {
    /// Code to make an account with.
    pub code: String,
    /// Role of the accounts made with it.
    pub role: Role,
    /// Accounts that can still be made with it.
    pub left: i32,
}

/// Invitations at most, and accounts of one.
const MOST_INVITATIONS: i64 = 200;
const MOST_ACCOUNTS: i32 = 500;
const INVITATION_LENGTH: usize = 12;

async fn invitations(app: &App) -> Answer<Vec<Invitation>> {
    let rows: Vec<(String, String, i32)> =
        sqlx::query_as("select code, role, left_over from invitations where left_over > 0 order by created_at desc")
            .fetch_all(&app.pool)
            .await?;
    Ok(rows.into_iter().map(|(code, role, left)| Invitation { code, role: Role::of(&role), left }).collect())
}

/// Makes an invitation.
pub(crate) async fn invite(app: &App, me: Uuid, role: Role, many: i32) -> Answer<()> {
    if role == Role::Administrator {
        return Err(Problem::bad("role: administrators are made from accounts, not invited"));
    }
    if !(1..=MOST_ACCOUNTS).contains(&many) {
        return Err(Problem::bad(format!("many: expected 1 to {MOST_ACCOUNTS}")));
    }
    let n: i64 =
        sqlx::query_scalar("select count(*) from invitations where left_over > 0").fetch_one(&app.pool).await?;
    if n >= MOST_INVITATIONS {
        return Err(Problem::conflict(format!("{MOST_INVITATIONS} invitations wait already: take some back.")));
    }
    sqlx::query("insert into invitations (code, role, left_over, made_by) values ($1, $2, $3, $4)")
        .bind(new_code(INVITATION_LENGTH))
        .bind(role.word())
        .bind(many)
        .bind(me)
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// Takes an invitation back.
pub(crate) async fn take_back(app: &App, code: &str) -> Answer<()> {
    let done = sqlx::query("delete from invitations where code = $1").bind(code).execute(&app.pool).await?;
    if done.rows_affected() == 0 { Err(Problem::not_found("There is no such invitation.")) } else { Ok(()) }
}

/// Takes a place of an invitation: the role of the account that is made with it. Of two at once only one takes the last place.
pub(crate) async fn claim_invitation(app: &App, code: &str) -> Answer<Role> {
    let role: Option<String> = sqlx::query_scalar(
        "update invitations set left_over = left_over - 1 where code = $1 and left_over > 0 returning role",
    )
    .bind(plain_code(code))
    .fetch_optional(&app.pool)
    .await?;
    match role {
        Some(role) => Ok(Role::of(&role)),
        None => Err(Problem::forbidden("This invitation is not known, or it was used up.")),
    }
}

/// Gives a place of an invitation back: the account was not made.
pub(crate) async fn give_back_invitation(app: &App, code: &str) -> Answer<()> {
    sqlx::query("update invitations set left_over = left_over + 1 where code = $1")
        .bind(plain_code(code))
        .execute(&app.pool)
        .await?;
    Ok(())
}

/// What was done in all classes, the newest first.
pub(crate) async fn audited_all(app: &App) -> Answer<Vec<AuditLine>> {
    type Line = (Option<String>, String, String, Jsonb<serde_json::Value>, OffsetDateTime);
    let rows: Vec<Line> = sqlx::query_as(
        "select a.name, u.did, coalesce(c.name, ''), u.body, u.created_at from audit u left join accounts a on a.id = u.actor
         left join classes c on c.id = u.class_id order by u.created_at desc limit 500",
    )
    .fetch_all(&app.pool)
    .await?;
    let line = |(actor, did, class, about, at): Line| AuditLine {
        actor: actor.unwrap_or_else(|| "somebody who is gone".into()),
        did: if class.is_empty() { did } else { format!("{did} ({class})") },
        about: about.0,
        at,
    };
    Ok(rows.into_iter().map(line).collect())
}

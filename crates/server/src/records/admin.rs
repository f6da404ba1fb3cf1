//! What whoever runs the installation sees and sets: accounts with their roles, what is stored, jobs, who may sign up.

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
         from accounts a order by a.created_at desc limit 1000",
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
        jobs: jobs.into_iter().map(|(kind, state, many)| JobCount { kind, state, many }).collect(),
        sign_up: sign_up(app).await?,
    })
}

/// Gives an account another role.
pub(crate) async fn set_role(app: &App, me: Uuid, account: Uuid, role: Role) -> Answer<()> {
    if account == me && role != Role::Administrator {
        let others: bool =
            sqlx::query_scalar("select exists (select 1 from accounts where role = 'administrator' and id <> $1)")
                .bind(me)
                .fetch_one(&app.pool)
                .await?;
        if !others {
            return Err(Problem::conflict("You are the only administrator: make somebody else one first."));
        }
    }
    let done = sqlx::query("update accounts set role = $2 where id = $1")
        .bind(account)
        .bind(role.word())
        .execute(&app.pool)
        .await?;
    if done.rows_affected() == 0 { Err(Problem::not_found("There is no such account.")) } else { Ok(()) }
}

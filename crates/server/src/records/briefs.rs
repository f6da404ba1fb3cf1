//! Briefs: those of the table, and those that people copied and changed.

use crate::App;
use crate::problem::{Answer, Problem};
use judging::critique::{Brief, brief, briefs};
use serde::Serialize;
use sqlx::types::Json as Jsonb;
use utoipa::ToSchema;
use uuid::Uuid;

/// What names of house briefs begin with.
const HOUSE: &str = "house:";
/// House briefs of one person.
const MOST: i64 = 60;

/// A brief with what can be done to it.
#[derive(Debug, Serialize, ToSchema)]
pub struct BriefView {
    /// The brief.
    #[serde(flatten)]
    pub brief: Brief,
    /// Version for the next edit; absent for those of the table, which cannot be changed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub version: Option<i64>,
    /// Asks of it that contradict each other, in sentences.
    pub contradictions: Vec<String>,
}

impl BriefView {
    fn of(brief: Brief, version: Option<i64>) -> BriefView {
        BriefView { contradictions: brief.contradictions(), brief, version }
    }
}

fn house_id(id: &str) -> Option<Uuid> {
    Uuid::parse_str(id.strip_prefix(HOUSE)?).ok()
}

async fn house(app: &App, owner: Uuid, id: Uuid) -> Answer<Option<(i64, Brief)>> {
    let row: Option<(i64, Jsonb<Brief>)> =
        sqlx::query_as("select version, body from house_briefs where id = $1 and owner = $2")
            .bind(id)
            .bind(owner)
            .fetch_optional(&app.pool)
            .await?;
    Ok(row.map(|(v, b)| (v, b.0)))
}

/// The brief a case of this person names.
pub(crate) async fn brief_of(app: &App, owner: Uuid, id: &str) -> Answer<Brief> {
    if let Some(b) = brief(id) {
        return Ok(b.clone());
    }
    let own = match house_id(id) {
        Some(id) => house(app, owner, id).await?,
        None => None,
    };
    own.map(|b| b.1).ok_or_else(|| Problem::bad(format!("brief: \"{id}\" is not one of the briefs")))
}

/// The briefs of the table, then a person's own.
pub(crate) async fn all(app: &App, owner: Uuid) -> Answer<Vec<BriefView>> {
    let own: Vec<(i64, Jsonb<Brief>)> =
        sqlx::query_as("select version, body from house_briefs where owner = $1 order by body->>'name', id")
            .bind(owner)
            .fetch_all(&app.pool)
            .await?;
    let table = briefs().iter().map(|b| BriefView::of(b.clone(), None));
    Ok(table.chain(own.into_iter().map(|(v, b)| BriefView::of(b.0, Some(v)))).collect())
}

/// Copies a brief under another name.
pub(crate) async fn copy(app: &App, owner: Uuid, from: &str, name: &str) -> Answer<BriefView> {
    let from = brief_of(app, owner, from).await?;
    let id = Uuid::now_v7();
    let body =
        Brief { id: format!("{HOUSE}{id}"), name: name.trim().into(), based_on: Some(from.root().into()), ..from };
    body.check().map_err(Problem::bad)?;
    let n: i64 = sqlx::query_scalar("select count(*) from house_briefs where owner = $1")
        .bind(owner)
        .fetch_one(&app.pool)
        .await?;
    if n >= MOST {
        return Err(Problem::conflict(format!("There is room for {MOST} briefs of your own: remove one first.")));
    }
    sqlx::query("insert into house_briefs (id, owner, body) values ($1, $2, $3)")
        .bind(id)
        .bind(owner)
        .bind(Jsonb(&body))
        .execute(&app.pool)
        .await?;
    Ok(BriefView::of(body, Some(1)))
}

/// Changes a house brief made on a version.
pub(crate) async fn put(app: &App, owner: Uuid, id: &str, on: i64, body: Brief) -> Answer<BriefView> {
    let gone =
        || Problem::not_found("There is no such brief of yours; those of the table cannot be changed: copy one.");
    let uuid = house_id(id).ok_or_else(gone)?;
    let (version, now) = house(app, owner, uuid).await?.ok_or_else(gone)?;
    // what it was copied from stays
    let body = Brief { id: id.into(), based_on: now.based_on.clone(), kind: now.kind, ..body };
    body.check().map_err(Problem::bad)?;
    let done = sqlx::query("update house_briefs set body = $4, version = version + 1, updated_at = now() where id = $1 and owner = $2 and version = $3")
        .bind(uuid)
        .bind(owner)
        .bind(on)
        .bind(Jsonb(&body))
        .execute(&app.pool)
        .await?;
    if done.rows_affected() == 0 {
        let now = serde_json::to_value(BriefView::of(now, Some(version))).map_err(Problem::internal)?;
        return Err(Problem::stale("brief", now));
    }
    Ok(BriefView::of(body, Some(on + 1)))
}

/// Removes a house brief; cases judged by it go back to the one it was copied from.
pub(crate) async fn remove(app: &App, owner: Uuid, id: &str) -> Answer<()> {
    let gone = Problem::not_found("There is no such brief of yours.");
    let Some(uuid) = house_id(id) else { return Err(gone) };
    let Some((_, body)) = house(app, owner, uuid).await? else { return Err(gone) };
    let mut tx = app.pool.begin().await?;
    sqlx::query("update cases set brief = $3, version = version + 1 where owner = $1 and brief = $2")
        .bind(owner)
        .bind(id)
        .bind(body.root())
        .execute(&mut *tx)
        .await?;
    sqlx::query("delete from house_briefs where id = $1 and owner = $2")
        .bind(uuid)
        .bind(owner)
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    Ok(())
}

//! Documents kept version by version: every edit carries the version it was made on.

use crate::App;
use crate::problem::Answer;
use serde::Serialize;
use serde::de::DeserializeOwned;
use sqlx::types::Json as Jsonb;
use uuid::Uuid;

/// A table of documents, with its two statements.
pub(crate) struct Table {
    newest: &'static str,
    add: &'static str,
}

macro_rules! table {
    ($name:literal) => {
        Table {
            newest: concat!("select version, body from ", $name, " where owner = $1 order by version desc limit 1"),
            add: concat!(
                "insert into ",
                $name,
                " (owner, version, body, author) select $1, $2 + 1, $3, $4 where coalesce((select max(version) from ",
                $name,
                " where owner = $1), 0) = $2 on conflict do nothing"
            ),
        }
    };
}

pub(crate) const KITS: Table = table!("kits");
pub(crate) const OUTCOMES: Table = table!("outcomes");
pub(crate) const LINKS: Table = table!("links");
pub(crate) const DESKS: Table = table!("desks");
pub(crate) const SERIES: Table = table!("series");
pub(crate) const PARAGRAPHS: Table = table!("paragraphs");
pub(crate) const PHRASES: Table = table!("phrases");
pub(crate) const BUILDS: Table = table!("builds");

/// The newest version of a document, if there is one.
pub(crate) async fn newest<T: DeserializeOwned + Unpin + Send + 'static>(
    app: &App,
    table: Table,
    owner: Uuid,
) -> Answer<Option<(i64, T)>> {
    let row: Option<(i64, Jsonb<T>)> = sqlx::query_as(table.newest).bind(owner).fetch_optional(&app.pool).await?;
    Ok(row.map(|(v, b)| (v, b.0)))
}

/// Adds a version after `on`. `false` if `on` is not the newest: nothing was written.
pub(crate) async fn add<T: Serialize + Sync + Send + 'static>(
    app: &App,
    table: Table,
    owner: Uuid,
    author: Uuid,
    on: i64,
    body: &T,
) -> Answer<bool> {
    let body = serde_json::to_value(body).map_err(crate::problem::Problem::internal)?;
    let done = sqlx::query(table.add).bind(owner).bind(on).bind(Jsonb(body)).bind(author).execute(&app.pool).await?;
    Ok(done.rows_affected() == 1)
}

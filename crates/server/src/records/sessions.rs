//! Sessions in PostgreSQL.

use async_trait::async_trait;
use sqlx::PgPool;
use sqlx::types::Json;
use std::collections::HashMap;
use time::OffsetDateTime;
use tower_sessions::SessionStore;
use tower_sessions::session::{Id, Record};
use tower_sessions::session_store::{Error, Result};

/// The session store.
#[derive(Debug, Clone)]
pub struct PgSessions(pub PgPool);

fn backend(e: sqlx::Error) -> Error {
    Error::Backend(e.to_string())
}

#[async_trait]
impl SessionStore for PgSessions {
    async fn create(&self, record: &mut Record) -> Result<()> {
        // 128 random bits: a collision is drawn again
        loop {
            let done =
                sqlx::query("insert into sessions (id, data, expires) values ($1, $2, $3) on conflict do nothing")
                    .bind(record.id.to_string())
                    .bind(Json(&record.data))
                    .bind(record.expiry_date)
                    .execute(&self.0)
                    .await
                    .map_err(backend)?;
            if done.rows_affected() == 1 {
                return Ok(());
            }
            record.id = Id::default();
        }
    }

    async fn save(&self, record: &Record) -> Result<()> {
        sqlx::query(
            "insert into sessions (id, data, expires) values ($1, $2, $3)
             on conflict (id) do update set data = excluded.data, expires = excluded.expires",
        )
        .bind(record.id.to_string())
        .bind(Json(&record.data))
        .bind(record.expiry_date)
        .execute(&self.0)
        .await
        .map_err(backend)?;
        Ok(())
    }

    async fn load(&self, id: &Id) -> Result<Option<Record>> {
        let row: Option<(Json<HashMap<String, serde_json::Value>>, OffsetDateTime)> =
            sqlx::query_as("select data, expires from sessions where id = $1 and expires > now()")
                .bind(id.to_string())
                .fetch_optional(&self.0)
                .await
                .map_err(backend)?;
        Ok(row.map(|(data, expiry_date)| Record { id: *id, data: data.0, expiry_date }))
    }

    async fn delete(&self, id: &Id) -> Result<()> {
        sqlx::query("delete from sessions where id = $1 or expires < now()")
            .bind(id.to_string())
            .execute(&self.0)
            .await
            .map_err(backend)?;
        Ok(())
    }
}

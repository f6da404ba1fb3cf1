//! What all handlers share.

use crate::Config;
use crate::problem::Problem;
use crate::store::Store;
use light::photo::{Meter, Photo};
use lru::LruCache;
use pictures::Facts;
use sqlx::PgPool;
use sqlx::postgres::PgPoolOptions;
use std::num::NonZeroUsize;
use std::sync::{Arc, Mutex};

/// A decoded picture with its meter, kept while it is worked on.
pub struct Prepared {
    /// Pixels.
    pub photo: Photo,
    /// Exposure statistics as sRGB or linear.
    pub meter: Meter,
    /// What the file says.
    pub facts: Facts,
}

/// Shared state; cheap to clone.
#[derive(Clone)]
pub struct App {
    /// Database.
    pub pool: PgPool,
    /// Pictures.
    pub store: Store,
    decoded: Arc<Mutex<LruCache<String, Arc<Prepared>>>>,
    /// Sign-in attempts.
    pub tries: Arc<crate::accounts::Tries>,
}

/// Decoded pictures kept in memory; a 24-megapixel one takes 72 MB.
const KEPT: NonZeroUsize = NonZeroUsize::new(6).unwrap();

impl App {
    /// Connects and migrates.
    ///
    /// # Errors
    /// If the database or the store cannot be reached.
    pub async fn connect(config: &Config) -> anyhow::Result<Self> {
        let pool = PgPoolOptions::new()
            .max_connections(16)
            .acquire_timeout(std::time::Duration::from_secs(5))
            .connect(&config.database_url)
            .await
            .map_err(|e| anyhow::anyhow!("cannot reach the database: {e}"))?;
        sqlx::migrate!("../../migrations").run(&pool).await?;
        Ok(App {
            pool,
            store: Store::local(&config.store)?,
            decoded: Arc::new(Mutex::new(LruCache::new(KEPT))),
            tries: Arc::default(),
        })
    }

    /// Keeps a picture that was just decoded.
    pub fn remember(&self, hash: &str, prepared: Arc<Prepared>) {
        if let Ok(mut cache) = self.decoded.lock() {
            cache.put(hash.to_owned(), prepared);
        }
    }

    /// The decoded picture with this hash, from memory or the store.
    pub async fn prepared(&self, hash: &str) -> Result<Arc<Prepared>, Problem> {
        if let Some(p) = self.decoded.lock().ok().and_then(|mut c| c.get(hash).cloned()) {
            return Ok(p);
        }
        let bytes = self.store.get(hash, "original").await?;
        let prepared = tokio::task::spawn_blocking(move || decode(&bytes)).await?.map_err(Problem::internal)?;
        self.remember(hash, prepared.clone());
        Ok(prepared)
    }
}

/// Decodes and meters.
pub fn decode(bytes: &[u8]) -> Result<Arc<Prepared>, pictures::Refusal> {
    let d = pictures::decode(bytes, pictures::Limits::default())?;
    let meter = d.photo.meter();
    Ok(Arc::new(Prepared { photo: d.photo, meter, facts: d.facts }))
}

//! Pictures in an object store: a local folder by default.
//!
//! Keys are `pictures/HASH/NAME`: the original without its location, and the copies to look at.

use crate::App;
use bytes::Bytes;
use object_store::local::LocalFileSystem;
use object_store::path::Path;
use object_store::{ObjectStore, ObjectStoreExt, PutPayload};
use std::sync::Arc;
use std::time::Duration;

/// The store.
#[derive(Clone)]
pub struct Store(Arc<dyn ObjectStore>);

impl Store {
    /// A folder on this machine.
    ///
    /// # Errors
    /// If the folder cannot be made.
    pub fn local(folder: &std::path::Path) -> anyhow::Result<Self> {
        std::fs::create_dir_all(folder)?;
        Ok(Store(Arc::new(LocalFileSystem::new_with_prefix(folder)?)))
    }

    fn key(hash: &str, name: &str) -> Path {
        Path::from(format!("pictures/{hash}/{name}"))
    }

    /// Writes; a put is whole or not there.
    pub async fn put(&self, hash: &str, name: &str, bytes: Vec<u8>) -> Result<(), object_store::Error> {
        self.0.put(&Self::key(hash, name), PutPayload::from(bytes)).await.map(|_| ())
    }

    /// Reads.
    pub async fn get(&self, hash: &str, name: &str) -> Result<Bytes, object_store::Error> {
        self.0.get(&Self::key(hash, name)).await?.bytes().await
    }

    /// Whether something can be written now: a full disk and one that may not be written to say so.
    pub async fn can_write(&self) -> Result<(), object_store::Error> {
        self.0.put(&Path::from("ready"), PutPayload::from_static(b"ready")).await.map(|_| ())
    }

    async fn hashes(&self) -> Result<Vec<String>, object_store::Error> {
        let list = self.0.list_with_delimiter(Some(&Path::from("pictures"))).await?;
        Ok(list.common_prefixes.into_iter().filter_map(|p| Some(p.filename()?.to_owned())).collect())
    }

    /// Removes the files of a picture if none of them is younger than `age`.
    async fn remove_older(&self, hash: &str, age: Duration) -> Result<bool, object_store::Error> {
        let list = self.0.list_with_delimiter(Some(&Path::from(format!("pictures/{hash}")))).await?;
        let young = |o: &object_store::ObjectMeta| {
            let old = std::time::SystemTime::now().duration_since(o.last_modified.into());
            old.map_or(true, |old| old < age)
        };
        if list.objects.iter().any(young) {
            return Ok(false);
        }
        for o in list.objects {
            self.0.delete(&o.location).await?;
        }
        Ok(true)
    }
}

/// Files this young may belong to an upload that is under way, here or at another server: its row follows its files.
const UNDER_WAY: Duration = Duration::from_secs(3600);

/// Removes pictures no frame points at: left by an upload that was cut off, or by deleted cases.
/// Files come before rows, so a row never points at nothing; what is young is left alone.
///
/// # Errors
/// If the database or the store fails.
pub async fn sweep_orphans(app: &App) -> anyhow::Result<usize> {
    let mut swept = 0;
    for hash in app.store.hashes().await? {
        swept += usize::from(sweep(app, &hash).await?);
    }
    Ok(swept)
}

/// Removes one picture if no frame points at it and it is not young; says whether it did.
///
/// # Errors
/// If the database or the store fails.
pub async fn sweep(app: &App, hash: &str) -> anyhow::Result<bool> {
    let used: bool = sqlx::query_scalar("select exists (select 1 from frames where file_hash = $1)")
        .bind(hash)
        .fetch_one(&app.pool)
        .await?;
    Ok(!used && app.store.remove_older(hash, UNDER_WAY).await?)
}

/// How often orphans are looked for.
const SWEEP_EVERY: Duration = Duration::from_secs(1800);

/// Sweeps until the server stops.
pub async fn keep_swept(app: App) {
    loop {
        tokio::time::sleep(SWEEP_EVERY).await;
        match sweep_orphans(&app).await {
            Ok(0) => {}
            Ok(swept) => tracing::info!(swept, "removed picture files that belong to no frame"),
            Err(e) => tracing::warn!("picture files that belong to no frame were not looked for: {e}"),
        }
    }
}

//! Pictures in an object store: a local folder by default.
//!
//! Keys are `pictures/HASH/NAME`: the original without its location, and the copies to look at.

use crate::App;
use bytes::Bytes;
use object_store::local::LocalFileSystem;
use object_store::path::Path;
use object_store::{ObjectStore, ObjectStoreExt, PutPayload};
use std::sync::Arc;

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

    async fn hashes(&self) -> Result<Vec<(String, Path)>, object_store::Error> {
        let list = self.0.list_with_delimiter(Some(&Path::from("pictures"))).await?;
        Ok(list.common_prefixes.into_iter().filter_map(|p| Some((p.filename()?.to_owned(), p.clone()))).collect())
    }

    async fn remove_all(&self, folder: &Path) -> Result<(), object_store::Error> {
        let list = self.0.list_with_delimiter(Some(folder)).await?;
        for o in list.objects {
            self.0.delete(&o.location).await?;
        }
        Ok(())
    }
}

/// Removes pictures no frame points at: left by an upload that was cut off, or by deleted cases.
/// Files come before rows, so a row never points at nothing.
///
/// # Errors
/// If the database or the store fails.
pub async fn sweep_orphans(app: &App) -> anyhow::Result<usize> {
    let mut swept = 0;
    for (hash, path) in app.store.hashes().await? {
        let used: bool = sqlx::query_scalar("select exists (select 1 from frames where file_hash = $1)")
            .bind(&hash)
            .fetch_one(&app.pool)
            .await?;
        if !used {
            app.store.remove_all(&path).await?;
            swept += 1;
        }
    }
    Ok(swept)
}

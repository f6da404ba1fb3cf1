//! Pictures in an object store: a local folder, or a bucket of a service that speaks S3.
//!
//! Keys are `pictures/HASH/NAME`: the original without its location, and the copies to look at.

use bytes::Bytes;
use futures_util::TryStreamExt;
use futures_util::stream::BoxStream;
use object_store::aws::AmazonS3Builder;
use object_store::local::LocalFileSystem;
use object_store::path::Path;
use object_store::prefix::PrefixStore;
use object_store::{ObjectStore, ObjectStoreExt, PutPayload, WriteMultipart};
use std::sync::Arc;
use std::time::Duration;
use tokio::io::AsyncReadExt;
use uuid::Uuid;

/// The store.
#[derive(Clone)]
pub struct Store(Arc<dyn ObjectStore>);

/// Bytes of a part of a large file, and parts under way at once.
const PART: usize = 8 << 20;
const PARTS: usize = 2;

/// Beginning of the address of a bucket.
const BUCKET: &str = "s3://";

impl Store {
    /// The store at an address: `s3://BUCKET/FOLDER`, or a folder on this machine. Region, endpoint and keys of a bucket
    /// come from the usual environment (`AWS_ENDPOINT`, `AWS_ACCESS_KEY_ID`, ...).
    ///
    /// # Errors
    /// If the folder cannot be made, or the address or the environment of a bucket is not complete.
    pub fn at(address: &str) -> anyhow::Result<Self> {
        let Some(rest) = address.strip_prefix(BUCKET) else {
            let folder = std::path::Path::new(address);
            std::fs::create_dir_all(folder)?;
            return Ok(Store(Arc::new(LocalFileSystem::new_with_prefix(folder)?)));
        };
        let (bucket, folder) = rest.split_once('/').unwrap_or((rest, ""));
        anyhow::ensure!(!bucket.is_empty(), "{address}: expected s3://BUCKET or s3://BUCKET/FOLDER");
        // whoever comes second finds it installed
        let _ = rustls::crypto::ring::default_provider().install_default();
        let store = AmazonS3Builder::from_env().with_bucket_name(bucket).build()?;
        Ok(Store(Arc::new(PrefixStore::new(store, folder))))
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

    fn result_key(job: Uuid) -> Path {
        Path::from(format!("jobs/{job}"))
    }

    /// Keeps what a job made.
    pub async fn put_result(&self, job: Uuid, bytes: Vec<u8>) -> Result<(), object_store::Error> {
        self.0.put(&Self::result_key(job), PutPayload::from(bytes)).await.map(|_| ())
    }

    /// Keeps what a job made, from a file that may be larger than memory: part by part, whole or not there.
    pub async fn put_result_file(&self, job: Uuid, mut file: tokio::fs::File) -> anyhow::Result<()> {
        let mut upload = WriteMultipart::new_with_chunk_size(self.0.put_multipart(&Self::result_key(job)).await?, PART);
        let mut part = vec![0u8; PART];
        loop {
            let n = file.read(&mut part).await?;
            if n == 0 {
                break;
            }
            upload.wait_for_capacity(PARTS).await?;
            upload.write(&part[..n]);
        }
        upload.finish().await?;
        Ok(())
    }

    /// What a job made, as it comes.
    pub async fn result(
        &self,
        job: Uuid,
    ) -> Result<BoxStream<'static, Result<Bytes, object_store::Error>>, object_store::Error> {
        Ok(self.0.get(&Self::result_key(job)).await?.into_stream())
    }

    /// Removes what a job made, if it made anything.
    pub async fn remove_result(&self, job: Uuid) -> Result<(), object_store::Error> {
        match self.0.delete(&Self::result_key(job)).await {
            Err(object_store::Error::NotFound { .. }) | Ok(()) => Ok(()),
            Err(e) => Err(e),
        }
    }

    /// Bytes of all files together.
    pub(crate) async fn bytes(&self) -> Result<u64, object_store::Error> {
        self.0.list(None).try_fold(0, |sum, f| std::future::ready(Ok(sum + f.size))).await
    }

    /// Hashes of all pictures that are there.
    pub(crate) async fn hashes(&self) -> Result<Vec<String>, object_store::Error> {
        let list = self.0.list_with_delimiter(Some(&Path::from("pictures"))).await?;
        Ok(list.common_prefixes.into_iter().filter_map(|p| Some(p.filename()?.to_owned())).collect())
    }

    /// Removes the files of a picture if none of them is younger than `age`.
    pub(crate) async fn remove_older(&self, hash: &str, age: Duration) -> Result<bool, object_store::Error> {
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

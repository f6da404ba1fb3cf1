//! A bucket in memory that speaks as much of S3 as the server uses: put, get, list by folders, delete many. It asks for no
//! signature; it stands in for a service that does.

use axum::Router;
use axum::body::Bytes;
use axum::extract::{Path, Query, State};
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use axum::routing::{any, get};
use std::collections::{BTreeMap, BTreeSet};
use std::fmt::Write;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

type Objects = Arc<Mutex<BTreeMap<String, Bytes>>>;

fn lock(o: &Objects) -> MutexGuard<'_, BTreeMap<String, Bytes>> {
    o.lock().unwrap_or_else(PoisonError::into_inner)
}

/// The bucket while it runs.
pub struct Bucket {
    /// Where it is reached.
    pub endpoint: String,
    objects: Objects,
}

impl Bucket {
    /// Opens a bucket on a free port of this machine.
    ///
    /// # Errors
    /// If no port is free.
    pub async fn open() -> anyhow::Result<Bucket> {
        let objects = Objects::default();
        let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await?;
        let endpoint = format!("http://{}", listener.local_addr()?);
        let app = Router::new()
            .route("/{bucket}", get(list).post(delete_many))
            .route("/{bucket}/{*key}", any(object))
            .with_state(objects.clone());
        tokio::spawn(async move { axum::serve(listener, app).await });
        Ok(Bucket { endpoint, objects })
    }

    /// Names of what lies in it.
    pub fn names(&self) -> Vec<String> {
        lock(&self.objects).keys().cloned().collect()
    }
}

async fn object(
    State(objects): State<Objects>,
    Path((_, key)): Path<(String, String)>,
    method: axum::http::Method,
    body: Bytes,
) -> Response {
    let mut all = lock(&objects);
    let mut headers = HeaderMap::new();
    headers.insert(header::ETAG, HeaderValue::from_static("\"1\""));
    headers.insert(header::LAST_MODIFIED, HeaderValue::from_static("Sat, 28 Nov 2026 10:00:00 GMT"));
    match method.as_str() {
        "PUT" => {
            all.insert(key, body);
            (headers, "").into_response()
        }
        "GET" | "HEAD" => match all.get(&key) {
            Some(bytes) => (headers, bytes.clone()).into_response(),
            None => (StatusCode::NOT_FOUND, "<Error><Code>NoSuchKey</Code></Error>").into_response(),
        },
        "DELETE" => {
            all.remove(&key);
            StatusCode::NO_CONTENT.into_response()
        }
        _ => StatusCode::METHOD_NOT_ALLOWED.into_response(),
    }
}

/// ListObjectsV2: what lies under a prefix, and the folders in it.
async fn list(State(objects): State<Objects>, Query(q): Query<BTreeMap<String, String>>) -> Response {
    let prefix = q.get("prefix").cloned().unwrap_or_default();
    let folders_wanted = q.contains_key("delimiter");
    let (mut files, mut folders) = (String::new(), BTreeSet::new());
    for (key, bytes) in lock(&objects).range(prefix.clone()..).take_while(|(k, _)| k.starts_with(&prefix)) {
        match key[prefix.len()..].split_once('/').filter(|_| folders_wanted) {
            Some((folder, _)) => {
                folders.insert(format!("{prefix}{folder}/"));
            }
            None => {
                let size = bytes.len();
                let _ = write!(
                    files,
                    "<Contents><Key>{key}</Key><LastModified>2026-11-28T10:00:00.000Z</LastModified><ETag>\"1\"</ETag><Size>{size}</Size></Contents>"
                );
            }
        }
    }
    let folders: String =
        folders.iter().map(|f| format!("<CommonPrefixes><Prefix>{f}</Prefix></CommonPrefixes>")).collect();
    let body = format!(
        "<?xml version=\"1.0\"?><ListBucketResult><IsTruncated>false</IsTruncated>{files}{folders}</ListBucketResult>"
    );
    ([(header::CONTENT_TYPE, "application/xml")], body).into_response()
}

/// DeleteObjects.
async fn delete_many(State(objects): State<Objects>, body: String) -> Response {
    let mut gone = String::new();
    let mut all = lock(&objects);
    for part in body.split("<Key>").skip(1) {
        let Some((key, _)) = part.split_once("</Key>") else { continue };
        all.remove(key);
        let _ = write!(gone, "<Deleted><Key>{key}</Key></Deleted>");
    }
    let body = format!("<?xml version=\"1.0\"?><DeleteResult>{gone}</DeleteResult>");
    ([(header::CONTENT_TYPE, "application/xml")], body).into_response()
}

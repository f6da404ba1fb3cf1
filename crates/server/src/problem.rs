//! Errors as problem documents (RFC 9457) with a sentence a person can act on.

use axum::Json;
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use serde::Serialize;
use utoipa::ToSchema;

/// A problem document.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// Stable name of the kind of problem.
    #[serde(rename = "type")]
    pub kind: String,
    /// Short title.
    pub title: String,
    /// HTTP status.
    pub status: u16,
    /// One sentence for the person.
    pub detail: String,
    /// For a stale edit: the version that is current.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<serde_json::Value>)]
    pub current: Option<Box<serde_json::Value>>,
}

impl Problem {
    fn new(status: StatusCode, kind: &str, title: &str, detail: impl Into<String>) -> Self {
        Problem {
            kind: format!("urn:slantcast:{kind}"),
            title: title.into(),
            status: status.as_u16(),
            detail: detail.into(),
            current: None,
        }
    }

    /// 400.
    pub fn bad(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::BAD_REQUEST, "bad-input", "That cannot be used", detail)
    }

    /// 401.
    pub fn signed_out() -> Self {
        Self::new(StatusCode::UNAUTHORIZED, "signed-out", "Not signed in", "Sign in first.")
    }

    /// 403.
    pub fn forbidden(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::FORBIDDEN, "forbidden", "Not allowed", detail)
    }

    /// 404; also for what belongs to someone else, so that its existence is not told.
    pub fn not_found(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::NOT_FOUND, "not-found", "Not found", detail)
    }

    /// 409 with the current state.
    pub fn stale(what: &str, current: serde_json::Value) -> Self {
        let mut p = Self::new(
            StatusCode::CONFLICT,
            "stale",
            "Changed elsewhere",
            format!(
                "The {what} changed since you opened it, in another window or by another person. Your edit was not saved over it."
            ),
        );
        p.current = Some(Box::new(current));
        p
    }

    /// 409 without a state.
    pub fn conflict(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::CONFLICT, "conflict", "Taken", detail)
    }

    /// 422: a file that was refused.
    pub fn refused(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::UNPROCESSABLE_ENTITY, "refused", "The file was not taken", detail)
    }

    /// 429.
    pub fn slow_down() -> Self {
        Self::new(
            StatusCode::TOO_MANY_REQUESTS,
            "slow-down",
            "Too many tries",
            "Too many tries: wait a minute, then try again.",
        )
    }

    /// 503: more is waiting than can be done soon.
    pub fn busy() -> Self {
        Self::new(
            StatusCode::SERVICE_UNAVAILABLE,
            "busy",
            "Too much at once",
            "More is waiting than can be done soon. Nothing that was saved is lost; try again in a minute.",
        )
    }

    /// 507: the store took nothing.
    pub fn store_full(reason: impl std::fmt::Display) -> Self {
        tracing::error!(%reason, "the store cannot be written");
        Self::new(
            StatusCode::INSUFFICIENT_STORAGE,
            "store",
            "The store cannot be written",
            "The picture could not be stored: the disk is full or may not be written to. Nothing was changed; tell who runs this server.",
        )
    }

    /// 500; the reason goes to the log, not to the person.
    pub fn internal(reason: impl std::fmt::Display) -> Self {
        tracing::error!(%reason, "internal error");
        Self::new(
            StatusCode::INTERNAL_SERVER_ERROR,
            "internal",
            "Something went wrong here",
            "Something went wrong on the server. Nothing that was saved is lost; try again.",
        )
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let mut r = (status, Json(self)).into_response();
        r.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/problem+json"));
        r
    }
}

impl From<sqlx::Error> for Problem {
    fn from(e: sqlx::Error) -> Self {
        Problem::internal(e)
    }
}

impl From<object_store::Error> for Problem {
    fn from(e: object_store::Error) -> Self {
        match e {
            object_store::Error::NotFound { .. } => Problem::internal(e),
            // what a local disk says when it is full or read-only comes as a generic error
            e => Problem::store_full(e),
        }
    }
}

impl From<tokio::task::JoinError> for Problem {
    fn from(e: tokio::task::JoinError) -> Self {
        Problem::internal(e)
    }
}

/// Answer of a handler.
pub type Answer<T> = Result<T, Problem>;

/// JSON body whose errors are problem documents.
pub struct Body<T>(pub T);

impl<T: serde::de::DeserializeOwned, S: Send + Sync> axum::extract::FromRequest<S> for Body<T> {
    type Rejection = Problem;

    async fn from_request(request: axum::extract::Request, state: &S) -> Result<Self, Problem> {
        // what a form of another site can send is not taken for JSON
        let kind = request.headers().get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or_default();
        if !kind.to_ascii_lowercase().starts_with("application/json") {
            return Err(Problem::new(
                StatusCode::UNSUPPORTED_MEDIA_TYPE,
                "bad-input",
                "That cannot be used",
                "Expected a body with the content type application/json.",
            ));
        }
        let bytes = axum::body::Bytes::from_request(request, state).await.map_err(|e| Problem::bad(e.body_text()))?;
        let value: serde_json::Value =
            serde_json::from_slice(&bytes).map_err(|e| Problem::bad(format!("The body is not JSON: {e}")))?;
        // PostgreSQL keeps no zero characters
        if has_nul(&value) {
            return Err(Problem::bad("A text holds a zero character, which cannot be kept: leave it out."));
        }
        serde_json::from_value(value).map(Body).map_err(|e| Problem::bad(e.to_string()))
    }
}

/// Whether a text anywhere in a value holds a zero character.
fn has_nul(v: &serde_json::Value) -> bool {
    use serde_json::Value;
    match v {
        Value::String(s) => s.contains('\0'),
        Value::Array(list) => list.iter().any(has_nul),
        Value::Object(map) => map.iter().any(|(k, v)| k.contains('\0') || has_nul(v)),
        _ => false,
    }
}

/// Largest version a document can have: a thousand edits a second for thirty years.
const LAST_VERSION: i64 = 1_000_000_000_000;

/// Reads the version an edit was made on.
///
/// # Errors
/// If no document can have it.
pub fn version<'de, D: serde::Deserializer<'de>>(d: D) -> Result<i64, D::Error> {
    let v = <i64 as serde::Deserialize>::deserialize(d)?;
    if (0..=LAST_VERSION).contains(&v) {
        return Ok(v);
    }
    Err(serde::de::Error::custom(format!("version: expected 0 to {LAST_VERSION}, found {v}")))
}

/// Answers of the framework itself (a wrong id, a missing field) as problem documents: every error under `/api` is one.
pub(crate) async fn as_problem(request: axum::extract::Request, next: axum::middleware::Next) -> Response {
    let api = request.uri().path().starts_with("/api");
    let response = next.run(request).await;
    let status = response.status();
    let plain = response.headers().get(header::CONTENT_TYPE).is_none_or(|t| t.as_bytes().starts_with(b"text/plain"));
    if !(api && plain && (status.is_client_error() || status.is_server_error())) {
        return response;
    }
    let text = axum::body::to_bytes(response.into_body(), 4096).await.unwrap_or_default();
    let text = String::from_utf8_lossy(&text).into_owned();
    match status {
        StatusCode::NOT_FOUND => Problem::not_found("There is no such route."),
        s if s.is_server_error() => Problem::internal(text),
        s => Problem::new(s, "bad-input", "That cannot be used", if text.is_empty() { s.to_string() } else { text }),
    }
    .into_response()
}

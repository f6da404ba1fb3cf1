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
        Problem::internal(e)
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
        match Json::<T>::from_request(request, state).await {
            Ok(Json(v)) => Ok(Body(v)),
            Err(e) => Err(Problem::bad(e.body_text())),
        }
    }
}

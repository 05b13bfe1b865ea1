//! What a program is told where it cannot have what it asked for: RFC 9457, Problem Details for HTTP APIs.

use crate::error::Failure;
use axum::Json;
use axum::http::{HeaderName, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use building::EditError;
use building::entry::{EntryError, Field};
use casework::FileError;
use serde::Serialize;
use store::StoreError;
use utoipa::ToSchema;

/// What stands in the way.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// `about:blank`: the status says what kind it is.
    #[serde(rename = "type")]
    kind: &'static str,
    /// The status in words.
    title: String,
    /// HTTP status.
    status: u16,
    /// What to change.
    detail: String,
    /// What is wrong in the request, field by field.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    errors: Vec<Wrong>,
    #[serde(skip)]
    headers: Vec<(HeaderName, String)>,
}

/// A field that is wrong.
#[derive(Debug, Serialize, ToSchema)]
pub struct Wrong {
    /// Its name; empty for the whole.
    pub field: String,
    /// What to change.
    pub message: String,
}

impl Wrong {
    /// A field, and what is wrong with it.
    pub fn new(field: &str, message: impl Into<String>) -> Self {
        Self { field: field.to_owned(), message: message.into() }
    }
}

impl Problem {
    /// Of a status.
    pub fn new(status: StatusCode, detail: impl Into<String>) -> Self {
        Self {
            kind: "about:blank",
            title: status.canonical_reason().unwrap_or_default().to_owned(),
            status: status.as_u16(),
            detail: detail.into(),
            errors: Vec::new(),
            headers: Vec::new(),
        }
    }

    /// There is no such thing, or none of this practice's.
    pub fn not_found() -> Self {
        Self::new(StatusCode::NOT_FOUND, "There is no such thing here.")
    }

    /// Fields that are wrong.
    pub fn wrong(errors: Vec<Wrong>) -> Self {
        let detail = errors.iter().map(|e| e.message.as_str()).collect::<Vec<_>>().join(" ");
        Self { errors, ..Self::new(StatusCode::UNPROCESSABLE_ENTITY, detail) }
    }

    /// One field that is wrong.
    pub fn field(field: &str, message: impl Into<String>) -> Self {
        Self::wrong(vec![Wrong::new(field, message)])
    }

    /// Of the `n`th of several.
    #[must_use]
    pub fn of(mut self, n: usize) -> Self {
        for e in &mut self.errors {
            e.field = format!("readings[{n}].{}", e.field);
        }
        self
    }

    /// With a header.
    #[must_use]
    pub fn with(mut self, name: HeaderName, value: impl Into<String>) -> Self {
        self.headers.push((name, value.into()));
        self
    }
}

impl IntoResponse for Problem {
    fn into_response(mut self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let headers = std::mem::take(&mut self.headers);
        let mut answer = (status, Json(&self)).into_response();
        answer.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/problem+json"));
        for (name, value) in headers {
            if let Ok(value) = HeaderValue::from_str(&value) {
                answer.headers_mut().insert(name, value);
            }
        }
        answer
    }
}

impl From<StoreError> for Problem {
    fn from(e: StoreError) -> Self {
        match e {
            StoreError::IdTaken(id) => Self::new(StatusCode::CONFLICT, format!("The id {id} is taken: make another.")),
            StoreError::Gone => Self::not_found(),
            StoreError::Unavailable(_) => Self::new(
                StatusCode::SERVICE_UNAVAILABLE,
                "The database does not answer: nothing was kept, send it again.",
            )
            .with(header::RETRY_AFTER, "5"),
            StoreError::Full(_) => {
                Self::new(StatusCode::INSUFFICIENT_STORAGE, "The database has no room left: nothing was kept.")
            }
            e => {
                tracing::error!("api: {e}");
                Self::new(StatusCode::INTERNAL_SERVER_ERROR, "This is a fault of Gutteral’s: nothing was kept.")
            }
        }
    }
}

impl From<FileError> for Problem {
    fn from(e: FileError) -> Self {
        match e {
            FileError::NotFound => Self::not_found(),
            FileError::Store(e) => e.into(),
        }
    }
}

/// What happens before anybody is known.
impl From<Failure> for Problem {
    fn from(e: Failure) -> Self {
        match e {
            Failure::TooLarge => Self::new(StatusCode::PAYLOAD_TOO_LARGE, "At most 1 MB at once."),
            Failure::TooSlow => Self::new(StatusCode::REQUEST_TIMEOUT, "The request never ended."),
            Failure::NotFound => Self::not_found(),
            e => {
                tracing::error!("api: {e:?}");
                Self::new(StatusCode::INTERNAL_SERVER_ERROR, "This is a fault of Gutteral’s: nothing was kept.")
            }
        }
    }
}

impl From<EditError> for Problem {
    fn from(e: EditError) -> Self {
        Self::field(e.field, e.message)
    }
}

impl From<Vec<EntryError>> for Problem {
    fn from(errors: Vec<EntryError>) -> Self {
        let name = |field| match field {
            Field::Temperature => "temperature",
            Field::Humidity => "humidity",
            Field::Surface => "surface",
        };
        Self::wrong(errors.into_iter().map(|e| Wrong::new(name(e.field), e.message)).collect())
    }
}

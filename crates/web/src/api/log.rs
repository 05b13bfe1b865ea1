//! What loggers post, by a token of their own.

use crate::body;
use crate::error::Failure;
use crate::state::App;
use axum::body::Body;
use axum::extract::State;
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use casework::log::WorkError;
use chrono::Utc;
use serde_json::json;

/// Largest post, bytes.
const LARGEST: usize = 1 << 20;
/// Most posts of a logger in a minute.
const MOST: f64 = 300.0;

/// Readings of a logger: JSON or CSV, one or many, late or out of order, as often as it likes: what is there is there once.
pub async fn keep(State(app): State<App>, headers: HeaderMap, sent: Body) -> Result<Response, Failure> {
    let token =
        headers.get(header::AUTHORIZATION).and_then(|v| v.to_str().ok()).and_then(|v| v.strip_prefix("Bearer "));
    let known = match token.map(str::trim).filter(|t| (16..=200).contains(&t.len())) {
        Some(token) => app.posts.knock(token).await.map_err(fallen)?,
        None => None,
    };
    let Some((from, posted)) = known else {
        let mut answer = refused(
            StatusCode::UNAUTHORIZED,
            "no logger has this token: make one on the Bench and send it as Authorization: Bearer",
        );
        answer.headers_mut().insert(header::WWW_AUTHENTICATE, HeaderValue::from_static("Bearer"));
        return Ok(answer);
    };
    if posted > MOST {
        let message = format!("more than {MOST} posts in a minute: send several readings in one");
        let mut answer = refused(StatusCode::TOO_MANY_REQUESTS, &message);
        answer.headers_mut().insert(header::RETRY_AFTER, HeaderValue::from_static("60"));
        return Ok(answer);
    }
    let bytes = body::whole(sent, LARGEST).await?;
    Ok(match app.posts.keep(from, bytes.to_vec(), Utc::now()).await {
        Ok(posted) => {
            let nothing = posted.stored + posted.known == 0;
            let status = if nothing { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
            (status, axum::Json(posted)).into_response()
        }
        Err(WorkError::Unreadable(why)) => refused(StatusCode::UNPROCESSABLE_ENTITY, &why),
        Err(e) => return Err(fallen(e)),
    })
}

fn fallen(e: WorkError) -> Failure {
    match e {
        WorkError::Store(e) => e.into(),
        e => Failure::Defect(e.to_string()),
    }
}

fn refused(status: StatusCode, message: &str) -> Response {
    (status, axum::Json(json!({ "error": { "field": "", "message": message } }))).into_response()
}

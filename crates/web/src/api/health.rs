//! For whoever watches the process.

use crate::state::App;
use axum::extract::State;
use axum::http::StatusCode;

/// The process runs.
pub async fn alive() -> &'static str {
    "alive"
}

/// The process runs and its database answers.
pub async fn ready(State(app): State<App>) -> (StatusCode, &'static str) {
    match app.store.ping().await {
        Ok(()) => (StatusCode::OK, "ready"),
        Err(_) => (StatusCode::SERVICE_UNAVAILABLE, "the database does not answer"),
    }
}

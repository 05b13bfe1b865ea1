//! The headless interface over HTTP: the same answers as `gutteral calc`.

use crate::error::Failure;
use axum::Json;
use axum::body::Bytes;
use axum::http::StatusCode;
use serde_json::{Value, json};

/// Most requests answered at once; more belong into `gutteral calc` or several calls.
const MOST: usize = 10_000;

/// One request object, or an array of them. Computing does not hold up the other pages.
pub async fn calc(body: Bytes) -> Result<(StatusCode, Json<Value>), Failure> {
    tokio::task::spawn_blocking(move || answer(&body)).await.map_err(|e| Failure::Defect(e.to_string()))
}

fn answer(body: &[u8]) -> (StatusCode, Json<Value>) {
    let refused = |status, message: String| (status, Json(json!({ "error": { "field": "", "message": message } })));
    match serde_json::from_slice::<Value>(body) {
        Ok(Value::Array(requests)) if requests.len() > MOST => {
            let message = format!("an array must have at most {MOST} requests, got {}", requests.len());
            refused(StatusCode::PAYLOAD_TOO_LARGE, message)
        }
        Ok(Value::Array(requests)) => (StatusCode::OK, Json(requests.iter().map(calc::answer).collect())),
        Ok(request) => {
            let answer = calc::answer(&request);
            let status = if answer.get("error").is_some() { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
            (status, Json(answer))
        }
        Err(e) => refused(StatusCode::BAD_REQUEST, format!("the body is not JSON: {e}")),
    }
}

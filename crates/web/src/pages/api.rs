//! The headless interface over HTTP: the same answers as `gutteral calc`.

use axum::Json;
use axum::body::Bytes;
use axum::http::StatusCode;
use serde_json::{Value, json};

/// One request object, or an array of them.
pub async fn calc(body: Bytes) -> (StatusCode, Json<Value>) {
    match serde_json::from_slice::<Value>(&body) {
        Ok(Value::Array(requests)) => (StatusCode::OK, Json(requests.iter().map(calc::answer).collect())),
        Ok(request) => {
            let answer = calc::answer(&request);
            let status = if answer.get("error").is_some() { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
            (status, Json(answer))
        }
        Err(e) => {
            let error = json!({ "error": { "field": "", "message": format!("the body is not JSON: {e}") } });
            (StatusCode::BAD_REQUEST, Json(error))
        }
    }
}

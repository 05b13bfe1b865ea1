//! The headless interface over HTTP: the same answers as `gutteral calc`, for strangers too, so bounded in every way.

use crate::auth::{Address, who};
use crate::body;
use crate::error::Failure;
use crate::state::App;
use crate::turns::Turn;
use axum::body::Body;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use calc::Refused;
use chrono::{TimeDelta, Utc};
use serde_json::{Value, json};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// Largest body, bytes.
const LARGEST: usize = 2 << 20;
/// Most JSON values in it: some years of hours.
const MOST_VALUES: u64 = 200_000;
/// Most requests answered at once; more belong into `gutteral calc` or several calls.
const MOST: usize = 10_000;
/// Most that one call may cost, in the units of [`calc::cost`]: about a second of one core.
const MOST_WORK: u64 = 100_000;
/// Most that a stranger's address may ask for in a minute, and somebody signed in.
const STRANGERS: u64 = 3 * MOST_WORK;
const OURS: u64 = 30 * MOST_WORK;
/// Longest answer, bytes.
const LONGEST: usize = 8 << 20;

/// Told to the computing thread when nobody waits for its answer any more.
struct Gone(Arc<AtomicBool>);

impl Drop for Gone {
    fn drop(&mut self) {
        self.0.store(true, Ordering::Relaxed);
    }
}

/// What was asked: one request, or a list of them.
struct Asked {
    requests: Vec<Value>,
    list: bool,
    cost: u64,
}

/// One request object, or an array of them. Computing stands in line beside the pages, is counted before it is done, and ends
/// when the caller leaves.
pub async fn calc(State(app): State<App>, from: Address, headers: HeaderMap, body: Body) -> Result<Response, Failure> {
    let Ok(place) = app.computing.place() else {
        return Ok(refused(StatusCode::TOO_MANY_REQUESTS, "many are asking just now; wait a little"));
    };
    let bytes = body::whole(body, LARGEST).await?;
    let turn = app.computing.one().await?;
    let asked = match on_a_thread(move || asked(&bytes)).await? {
        Ok(asked) => asked,
        Err((status, message)) => return Ok(refused(status, &message)),
    };
    let person = match who::session_secret(&headers) {
        Some(secret) => app.store.signed_in(&secret, Utc::now(), None).await?,
        None => None,
    };
    let (key, most) = match person {
        Some(person) => (format!("calc by {}", person.consultant_id), OURS),
        None => (format!("calc from {}", from.0), STRANGERS),
    };
    let counted = app.store.count_under(&key, asked.cost as f64, TimeDelta::minutes(1), Utc::now()).await?;
    if counted > most as f64 {
        let message = "more was asked from here than one caller may in a minute; wait a minute, or use gutteral calc";
        return Ok(refused(StatusCode::TOO_MANY_REQUESTS, message));
    }
    let gone = Gone(Arc::default());
    let left = gone.0.clone();
    let answer = on_a_thread(move || answers(&asked, &left, (turn, place))).await?;
    drop(gone);
    Ok(answer)
}

async fn on_a_thread<T: Send + 'static>(work: impl FnOnce() -> T + Send + 'static) -> Result<T, Failure> {
    tokio::task::spawn_blocking(work).await.map_err(|e| Failure::Defect(e.to_string()))
}

fn asked(body: &[u8]) -> Result<Asked, (StatusCode, String)> {
    let large = |message| (StatusCode::PAYLOAD_TOO_LARGE, message);
    let (requests, list) = match calc::bounded(body, MOST_VALUES) {
        Ok(Value::Array(requests)) => (requests, true),
        Ok(request) => (vec![request], false),
        Err(e @ Refused::NotJson(_)) => return Err((StatusCode::BAD_REQUEST, e.to_string())),
        Err(e @ Refused::TooMany(_)) => return Err(large(e.to_string())),
    };
    if requests.len() > MOST {
        return Err(large(format!("an array must have at most {MOST} requests, got {}", requests.len())));
    }
    let cost: u64 = requests.iter().map(calc::cost).sum();
    if cost > MOST_WORK {
        let share = cost.div_ceil(MOST_WORK);
        return Err(large(format!(
            "this is about {share} times the work of one call: ask in parts, or use gutteral calc"
        )));
    }
    Ok(Asked { requests, list, cost })
}

fn answers(asked: &Asked, gone: &AtomicBool, _turn: (Turn, Turn)) -> Response {
    let (mut out, mut wrong) = (Vec::new(), false);
    for (i, request) in asked.requests.iter().enumerate() {
        if gone.load(Ordering::Relaxed) {
            return StatusCode::REQUEST_TIMEOUT.into_response(); // to nobody
        }
        if asked.list {
            out.push(if i == 0 { b'[' } else { b',' });
        }
        wrong = calc::write_answer(request, &mut out);
        if out.len() > LONGEST {
            let message = format!("the answer has more than {LONGEST} bytes: ask in parts, or use gutteral calc");
            return refused(StatusCode::PAYLOAD_TOO_LARGE, &message);
        }
    }
    if asked.list {
        out.extend_from_slice(if out.is_empty() { b"[]" } else { b"]" });
    }
    let status = if wrong && !asked.list { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::OK };
    (status, [(header::CONTENT_TYPE, "application/json")], out).into_response()
}

fn refused(status: StatusCode, message: &str) -> Response {
    (status, axum::Json(json!({ "error": { "field": "", "message": message } }))).into_response()
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "tests")]
mod tests {
    use super::*;
    use crate::turns::Turns;

    fn ask(body: &str) -> Asked {
        asked(body.as_bytes()).map_err(|(_, e)| e).unwrap()
    }

    #[tokio::test]
    async fn work_ends_when_its_caller_has_gone_and_gives_its_turn_back() {
        let (turns, gone) = (Turns::of(2), AtomicBool::new(true));
        let (one, other) = (turns.one().await.unwrap(), turns.one().await.unwrap());
        let answer = answers(&ask(r#"[{"op":"air","t_c":20,"rh_pct":50}]"#), &gone, (one, other));
        assert_eq!(answer.status(), StatusCode::REQUEST_TIMEOUT);
        assert!(turns.one().await.is_ok(), "the turn is free again");
    }

    #[test]
    fn a_call_is_refused_by_the_work_it_means_before_any_is_done() {
        let plan = r#"{"op":"plan","structure":"slab"}"#;
        let many = |n: usize| format!("[{}]", vec![plan; n].join(","));
        assert!(asked(many(100).as_bytes()).is_ok());
        for (body, said) in [(many(400), "times the work"), (format!("[{}1]", "1,".repeat(300_000)), "200000 values")] {
            let told = asked(body.as_bytes()).err().map(|(status, message)| (status.as_u16(), message));
            assert!(told.as_ref().is_some_and(|(s, m)| *s == 413 && m.contains(said)), "{told:?}");
        }
    }
}

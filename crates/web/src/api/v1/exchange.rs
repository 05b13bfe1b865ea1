//! What is sent and answered: JSON in bounds, tags that tell versions apart, lists page by page, and requests with a name, done
//! once however often they are sent.

use super::caller::Caller;
use super::problem::Problem;
use crate::body;
use crate::error::is_text;
use axum::body::Bytes;
use axum::extract::{FromRequest, Request};
use axum::http::{HeaderMap, HeaderName, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Response};
use base64::Engine;
use base64::engine::general_purpose::{STANDARD_NO_PAD, URL_SAFE_NO_PAD};
use chrono::{DateTime, Datelike, Utc};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use sha2::{Digest, Sha256};
use store::{Answered, Scope};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// Largest request, bytes.
const LARGEST: usize = 1 << 20;
/// Longest name of a request, characters.
const LONGEST_KEY: usize = 200;
/// Rows of a page where nobody says how many, and the most there may be.
const USUAL: u64 = 50;
pub const MOST: u64 = 500;

/// A request with its body as it came.
pub struct Sent {
    headers: HeaderMap,
    what: String,
    bytes: Bytes,
}

impl<S: Send + Sync> FromRequest<S> for Sent {
    type Rejection = Problem;

    async fn from_request(request: Request, _state: &S) -> Result<Self, Problem> {
        let (parts, body) = request.into_parts();
        let what = format!("{} {}", parts.method, parts.uri);
        Ok(Self { headers: parts.headers, what, bytes: body::whole(body, LARGEST).await? })
    }
}

impl Sent {
    /// Its body, read.
    pub fn read<T: DeserializeOwned>(&self) -> Result<T, Problem> {
        let kind = self.headers.get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or_default();
        if !kind.split(';').next().is_some_and(|k| k.trim().eq_ignore_ascii_case("application/json")) {
            return Err(Problem::new(StatusCode::UNSUPPORTED_MEDIA_TYPE, "Send JSON, as application/json."));
        }
        let bad =
            |e: &serde_json::Error| Problem::new(StatusCode::BAD_REQUEST, format!("The body cannot be read: {e}."));
        let value: Value = serde_json::from_slice(&self.bytes).map_err(|e| bad(&e))?;
        if !writable(&value) {
            return Err(Problem::new(StatusCode::BAD_REQUEST, "The body holds characters that no text has."));
        }
        serde_json::from_value(value).map_err(|e| bad(&e))
    }

    /// Refuses a change of something that is not as whoever sends it last saw it.
    pub fn is_of(&self, now: &impl Serialize) -> Result<(), Problem> {
        let tag = tag(&json(now)?);
        let Some(said) = self.headers.get(header::IF_MATCH).and_then(|v| v.to_str().ok()) else {
            return Err(Problem::new(
                StatusCode::PRECONDITION_REQUIRED,
                "Send If-Match with the ETag of what you change: nothing that somebody else did is overwritten unseen.",
            ));
        };
        if said.split(',').map(str::trim).any(|t| t == "*" || t == tag) {
            return Ok(());
        }
        let said = "It was changed meanwhile: get it again and look.";
        Err(Problem::new(StatusCode::PRECONDITION_FAILED, said).with(header::ETAG, tag))
    }

    /// Does something in one transaction and keeps it. Sent again under the same `Idempotency-Key` it is not done again: the
    /// answer is the first one's.
    pub async fn once(
        &self,
        caller: &Caller,
        act: impl AsyncFnOnce(&Scope, &Names) -> Result<Made, Problem>,
    ) -> Result<Response, Problem> {
        let scope = caller.scope().await?;
        let key = match self.headers.get("idempotency-key").map(HeaderValue::to_str) {
            None => None,
            Some(Ok(key)) if (1..=LONGEST_KEY).contains(&key.len()) => Some(key),
            Some(_) => {
                let said = format!("An Idempotency-Key has 1 to {LONGEST_KEY} plain characters.");
                return Err(Problem::new(StatusCode::BAD_REQUEST, said));
            }
        };
        let Some(key) = key else {
            let made = act(&scope, &Names(None)).await?;
            scope.commit().await?;
            return made.answer().map(into_response);
        };
        let asked = Sha256::new_with_prefix(&self.what).chain_update(b"\n").chain_update(&self.bytes).finalize();
        let asked = STANDARD_NO_PAD.encode(asked);
        let token = caller.token.id;
        if let Some(said) = scope.answered(token, key).await? {
            if said.request != asked {
                let said = "Something else was sent under this Idempotency-Key: take another.";
                return Err(Problem::new(StatusCode::UNPROCESSABLE_ENTITY, said));
            }
            let mut again = into_response(said);
            again.headers_mut().insert("idempotent-replayed", HeaderValue::from_static("true"));
            return Ok(again);
        }
        let said = Answered { request: asked, ..act(&scope, &Names(Some((token, key.to_owned())))).await?.answer()? };
        scope.keep_answer(token, key, &said, Utc::now()).await?;
        scope.commit().await?;
        Ok(into_response(said))
    }
}

fn writable(value: &Value) -> bool {
    match value {
        Value::String(text) => is_text(text),
        Value::Array(all) => all.iter().all(writable),
        Value::Object(all) => all.iter().all(|(k, v)| is_text(k) && writable(v)),
        _ => true,
    }
}

/// Ids of what a request makes: the same for a request with a name, whenever it comes.
pub struct Names(Option<(Uuid, String)>);

impl Names {
    /// The id of the `n`th thing it makes, where it does not say one itself.
    pub fn id(&self, said: Option<Uuid>, n: usize) -> Uuid {
        let named = || self.0.as_ref().map(|(token, key)| Uuid::new_v5(token, format!("{key} {n}").as_bytes()));
        said.or_else(named).unwrap_or_else(Uuid::now_v7)
    }
}

/// What was made or changed.
pub struct Made {
    status: StatusCode,
    location: Option<String>,
    body: Value,
    tagged: bool,
}

impl Made {
    /// Something new, at an address of its own.
    pub fn new(at: String, what: &impl Serialize) -> Result<Self, Problem> {
        Ok(Self { status: StatusCode::CREATED, location: Some(at), body: json(what)?, tagged: true })
    }

    /// Something that was there already, or is changed.
    pub fn changed(what: &impl Serialize) -> Result<Self, Problem> {
        Ok(Self { status: StatusCode::OK, location: None, body: json(what)?, tagged: true })
    }

    /// Nothing is left of it.
    pub const fn gone() -> Self {
        Self { status: StatusCode::NO_CONTENT, location: None, body: Value::Null, tagged: false }
    }

    fn answer(self) -> Result<Answered, Problem> {
        let mut headers: Vec<(String, String)> = self.location.map(|at| ("location".into(), at)).into_iter().collect();
        if self.tagged {
            headers.push(("etag".into(), tag(&self.body)));
        }
        let body = if self.body.is_null() { String::new() } else { self.body.to_string() };
        Ok(Answered { request: String::new(), status: self.status.as_u16(), headers, body })
    }
}

fn into_response(said: Answered) -> Response {
    let status = StatusCode::from_u16(said.status).unwrap_or(StatusCode::OK);
    let mut answer = (status, said.body).into_response();
    answer.headers_mut().insert(header::CONTENT_TYPE, HeaderValue::from_static("application/json"));
    for (name, value) in said.headers {
        if let (Ok(name), Ok(value)) = (name.parse::<HeaderName>(), HeaderValue::from_str(&value)) {
            answer.headers_mut().insert(name, value);
        }
    }
    answer
}

fn json(what: &impl Serialize) -> Result<Value, Problem> {
    serde_json::to_value(what).map_err(|e| crate::error::Failure::Defect(e.to_string()).into())
}

/// A field that was named, be it with nothing in it.
pub fn named<'de, T: Deserialize<'de>, D: serde::Deserializer<'de>>(from: D) -> Result<Option<T>, D::Error> {
    T::deserialize(from).map(Some)
}

/// What tells one version of something from another.
fn tag(value: &Value) -> String {
    let hash = Sha256::digest(value.to_string());
    format!("\"{}\"", URL_SAFE_NO_PAD.encode(&hash[..15]))
}

/// One thing, with its tag; nothing where it is as whoever asks has it.
pub fn one(headers: &HeaderMap, what: &impl Serialize) -> Result<Response, Problem> {
    let value = json(what)?;
    let tag = tag(&value);
    let known = headers.get(header::IF_NONE_MATCH).and_then(|v| v.to_str().ok());
    let mut answer =
        if known.is_some_and(|k| k.split(',').map(str::trim).any(|t| t == "*" || t.trim_start_matches("W/") == tag)) {
            StatusCode::NOT_MODIFIED.into_response()
        } else {
            axum::Json(value).into_response()
        };
    if let Ok(tag) = HeaderValue::from_str(&tag) {
        answer.headers_mut().insert(header::ETAG, tag);
    }
    // Asked again with its tag it costs little; not asked, it may be old.
    answer.headers_mut().insert(header::CACHE_CONTROL, HeaderValue::from_static("private, no-cache"));
    Ok(answer)
}

/// Which part of a list is asked for.
#[derive(Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct Part {
    /// Rows at most: 1 to 500, 50 where it is not said.
    limit: Option<u64>,
    /// Where it goes on: `next` of the part before.
    after: Option<String>,
}

impl Part {
    /// Of a query that asks for more than a part.
    pub const fn new(limit: Option<u64>, after: Option<String>) -> Self {
        Self { limit, after }
    }

    /// How many rows.
    pub fn most(&self) -> Result<u64, Problem> {
        match self.limit.unwrap_or(USUAL) {
            n @ 1..=MOST => Ok(n),
            _ => Err(Problem::field("limit", format!("A part has 1 to {MOST} rows."))),
        }
    }

    /// The moment and the id of the row the part before ended with.
    pub fn after_row(&self) -> Result<Option<(DateTime<Utc>, Uuid)>, Problem> {
        let after: Option<(DateTime<Utc>, Uuid)> = self.after()?;
        in_time("after", after.map(|(at, _)| at))?;
        Ok(after)
    }

    /// What the part before ended with.
    pub fn after<T: DeserializeOwned>(&self) -> Result<Option<T>, Problem> {
        let Some(said) = &self.after else { return Ok(None) };
        let wrong = || Problem::field("after", "It is not the “next” of a part.");
        let bytes = URL_SAFE_NO_PAD.decode(said).map_err(|_| wrong())?;
        serde_json::from_slice(&bytes).map(Some).map_err(|_| wrong())
    }
}

/// A day or moment in years the database can compare, whatever else can be written.
pub fn in_time<D: Datelike>(field: &str, said: Option<D>) -> Result<Option<D>, Problem> {
    match said {
        Some(at) if !(1900..=2200).contains(&at.year()) => {
            Err(Problem::field(field, "It lies in the years 1900 to 2200."))
        }
        said => Ok(said),
    }
}

/// A part of a list.
#[derive(Debug, Serialize, ToSchema)]
pub struct Page<T> {
    /// The rows.
    pub data: Vec<T>,
    /// What to send as `after` for the next part; null at the end.
    pub next: Option<String>,
}

impl<T> Page<T> {
    /// The part asked for of rows that are all at hand, in the order of their ids.
    pub fn among(mut rows: Vec<T>, part: &Part, id: impl Fn(&T) -> Uuid) -> Result<Self, Problem> {
        let (most, after) = (part.most()?, part.after::<Uuid>()?);
        rows.retain(|row| after.is_none_or(|after| id(row) > after));
        rows.sort_by_key(&id);
        Self::of(rows, most, id)
    }

    /// Rows, one more than asked for where there is more; `end` is what the next part goes on from.
    pub fn of<E: Serialize>(mut rows: Vec<T>, most: u64, end: impl Fn(&T) -> E) -> Result<Self, Problem> {
        let most = usize::try_from(most).unwrap_or(usize::MAX);
        let more = rows.len() > most;
        rows.truncate(most);
        let next = match rows.last().filter(|_| more) {
            Some(last) => Some(URL_SAFE_NO_PAD.encode(json(&end(last))?.to_string())),
            None => None,
        };
        Ok(Self { data: rows, next })
    }
}

/// A query, read; what is wrong with it is a problem like any other.
pub struct Query<T>(pub T);

impl<S: Send + Sync, T: DeserializeOwned> axum::extract::FromRequestParts<S> for Query<T> {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut axum::http::request::Parts, _: &S) -> Result<Self, Problem> {
        let read = serde_urlencoded::from_str(parts.uri.query().unwrap_or_default());
        read.map(Self).map_err(|e| Problem::field("", format!("The query cannot be read: {e}.")))
    }
}

/// The parameters of an address; what is none is nowhere.
pub struct Path<T>(pub T);

impl<S: Send + Sync, T: DeserializeOwned + Send> axum::extract::FromRequestParts<S> for Path<T> {
    type Rejection = Problem;

    async fn from_request_parts(parts: &mut axum::http::request::Parts, state: &S) -> Result<Self, Problem> {
        let read = axum::extract::Path::<T>::from_request_parts(parts, state).await;
        read.map(|p| Self(p.0)).map_err(|_| Problem::not_found())
    }
}

//! Keys that a device keeps for somebody (WebAuthn level 3): making one, and being let in by one.
//!
//! Nothing is kept between asking a device and its answer. The question travels with the form, marked as ours with the minute it
//! ends and what it is for, and is answered once: whoever sends it again is counted and refused. A key belongs to the name this
//! program is reached by, so there is none where it is reached by a number.

use super::csrf;
use crate::error::Failure;
use crate::state::App;
use axum::http::{HeaderMap, header};
use base64::Engine;
use base64::engine::general_purpose::URL_SAFE_NO_PAD;
use chrono::{DateTime, TimeDelta, Utc};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::{Value, json};
use store::{Account, Passkey};
use uuid::Uuid;
use webauthn_rs::prelude::{
    DiscoverableAuthentication, DiscoverableKey, Passkey as Key, PasskeyRegistration, PublicKeyCredential,
    RegisterPublicKeyCredential, Url, WebauthnError,
};
use webauthn_rs::{Webauthn, WebauthnBuilder};

/// How long a device may take to answer, minutes.
const MINUTES: i64 = 10;

/// What a device is asked, as a form carries it.
pub struct Question {
    /// For the browser, JSON.
    pub options: String,
    /// For us, marked.
    pub asked: String,
}

/// Why a key is not taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Refused {
    /// The question was answered before, is too old, or not ours.
    Stale,
    /// The answer is none, or not to this question.
    Wrong,
    /// The device counts fewer uses than we do: there may be a copy of it.
    Copied,
}

impl Refused {
    /// The sentence that says so.
    pub const fn says(self) -> &'static str {
        match self {
            Self::Stale => "passkey-stale",
            Self::Wrong => "passkey-wrong",
            Self::Copied => "passkey-copied",
        }
    }
}

/// What keys belong to: the name and address this program is reached by; none where that is a number.
fn home(headers: &HeaderMap) -> Result<Option<Webauthn>, Failure> {
    let secure = headers.get("x-forwarded-proto").is_some_and(|p| p == "https");
    let Some(host) = headers.get(header::HOST).and_then(|h| h.to_str().ok()) else { return Ok(None) };
    let Ok(origin) = Url::parse(&format!("{}://{host}", if secure { "https" } else { "http" })) else {
        return Ok(None);
    };
    let Some(name) = origin.domain() else { return Ok(None) };
    let home = WebauthnBuilder::new(name, &origin).and_then(|b| b.rp_name("Gutteral").build());
    home.map(Some).map_err(defect)
}

fn defect(error: impl std::fmt::Debug) -> Failure {
    Failure::Defect(format!("passkey: {error:?}"))
}

/// What a question is for.
fn making(person: Uuid) -> String {
    format!("to be made for {person}")
}
const ENTERING: &str = "to enter";

/// Asks a device to make a key for somebody, not one it has; none where keys cannot be.
pub fn make(
    app: &App,
    headers: &HeaderMap,
    account: &Account,
    held: Vec<Passkey>,
    now: DateTime<Utc>,
) -> Result<Option<Question>, Failure> {
    let Some(home) = home(headers)? else { return Ok(None) };
    let held: Vec<Key> =
        held.into_iter().map(|k| serde_json::from_value(k.key)).collect::<Result<_, _>>().map_err(defect)?;
    let held = held.iter().map(|k| k.cred_id().clone()).collect();
    let (ask, state) = home
        .start_passkey_registration(account.consultant_id, &account.email, &account.name, Some(held))
        .map_err(defect)?;
    let mut options = serde_json::to_value(ask.public_key).map_err(defect)?;
    // Who enters by it says no name before: the device itself must know whose it is.
    options["authenticatorSelection"]["residentKey"] = json!("required");
    options["authenticatorSelection"]["requireResidentKey"] = json!(true);
    let asked = sealed(app, &making(account.consultant_id), &state, now)?;
    Ok(Some(Question { options: options.to_string(), asked }))
}

/// The key a device made: what it calls it, and what we know of it.
pub async fn made(
    app: &App,
    headers: &HeaderMap,
    person: Uuid,
    (asked, answer): (&str, &str),
    now: DateTime<Utc>,
) -> Result<Result<(String, Value), Refused>, Failure> {
    let Some(home) = home(headers)? else { return Ok(Err(Refused::Stale)) };
    let Some(state) = opened::<PasskeyRegistration>(app, &making(person), asked, now).await? else {
        return Ok(Err(Refused::Stale));
    };
    let Ok(answer) = serde_json::from_str::<RegisterPublicKeyCredential>(answer) else {
        return Ok(Err(Refused::Wrong));
    };
    let Ok(key) = home.finish_passkey_registration(&answer, &state) else { return Ok(Err(Refused::Wrong)) };
    Ok(Ok((URL_SAFE_NO_PAD.encode(key.cred_id()), serde_json::to_value(key).map_err(defect)?)))
}

/// Asks whichever device for whomever it knows; none where keys cannot be.
pub fn enter(app: &App, headers: &HeaderMap, now: DateTime<Utc>) -> Result<Option<Question>, Failure> {
    let Some(home) = home(headers)? else { return Ok(None) };
    let (ask, state) = home.start_discoverable_authentication().map_err(defect)?;
    let options = serde_json::to_string(&ask.public_key).map_err(defect)?;
    Ok(Some(Question { options, asked: sealed(app, ENTERING, &state, now)? }))
}

/// Whom a device lets in, and by which key as it stands now. The account is told of a wrong answer where it is known whose it was.
pub async fn entered(
    app: &App,
    headers: &HeaderMap,
    (asked, answer): (&str, &str),
    now: DateTime<Utc>,
) -> Result<Result<(Account, Passkey), (Refused, Option<Account>)>, Failure> {
    let refused = |why| Ok(Err((why, None)));
    let Some(home) = home(headers)? else { return refused(Refused::Stale) };
    let Some(state) = opened::<DiscoverableAuthentication>(app, ENTERING, asked, now).await? else {
        return refused(Refused::Stale);
    };
    let Ok(answer) = serde_json::from_str::<PublicKeyCredential>(answer) else { return refused(Refused::Wrong) };
    let Ok((person, credential)) = home.identify_discoverable_authentication(&answer) else {
        return refused(Refused::Wrong);
    };
    let found = app.store.account_by_passkey(&URL_SAFE_NO_PAD.encode(credential)).await?;
    let Some((account, mut held)) = found.filter(|(account, _)| account.consultant_id == person) else {
        return refused(Refused::Wrong);
    };
    let mut key: Key = serde_json::from_value(held.key.clone()).map_err(defect)?;
    match home.finish_discoverable_authentication_v2(&answer, state, DiscoverableKey::from(&key)) {
        Ok(result) => {
            key.update_credential(&result);
            held.key = serde_json::to_value(key).map_err(defect)?;
            Ok(Ok((account, held)))
        }
        Err(WebauthnError::CredentialPossibleCompromise) => Ok(Err((Refused::Copied, Some(account)))),
        Err(_) => Ok(Err((Refused::Wrong, Some(account)))),
    }
}

/// A question’s own part, with the minute it ends and our mark on what it is for.
fn sealed(app: &App, what: &str, state: &impl Serialize, now: DateTime<Utc>) -> Result<String, Failure> {
    let until = (now + TimeDelta::minutes(MINUTES)).timestamp();
    let state = URL_SAFE_NO_PAD.encode(serde_json::to_vec(state).map_err(defect)?);
    let mark = csrf::mark(app, &said(what, until, &state))?;
    Ok(format!("{until}.{mark}.{state}"))
}

fn said(what: &str, until: i64, state: &str) -> String {
    format!("passkey {what} {until} {state}")
}

/// A question’s own part, once: none where it is not ours, for something else, too old, or was answered before.
async fn opened<T: DeserializeOwned>(
    app: &App,
    what: &str,
    asked: &str,
    now: DateTime<Utc>,
) -> Result<Option<T>, Failure> {
    let mut parts = asked.splitn(3, '.');
    let (Some(until), Some(mark), Some(state)) = (parts.next(), parts.next(), parts.next()) else { return Ok(None) };
    let Some(until) = until.parse::<i64>().ok().filter(|until| *until > now.timestamp()) else { return Ok(None) };
    if !csrf::verify(app, &said(what, until, state), mark)? {
        return Ok(None);
    }
    // Counted for as long as it would be good.
    let key = format!("passkey {mark}");
    if app.store.count_under(&key, 1.0, TimeDelta::minutes(2 * MINUTES), now).await? > 1.0 {
        return Ok(None);
    }
    let state = URL_SAFE_NO_PAD.decode(state).map_err(defect)?;
    serde_json::from_slice(&state).map(Some).map_err(defect)
}

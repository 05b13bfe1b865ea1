//! Signing in and out.

use crate::auth::passkey::{self, Question, Refused};
use crate::auth::second::{Second, spare_as_kept};
use crate::auth::{Address, Who, csrf, device, fresh_secret, known, tongue, who};
use crate::error::Failure;
use crate::extract::{Form, Query};
use crate::pages::office::preferences::local;
use crate::state::App;
use crate::token::Token;
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Redirect, Response};
use axum_extra::extract::CookieJar;
use chrono::{DateTime, TimeDelta, Utc};
use language::Language;
use serde::Deserialize;
use std::time::Duration;
use store::Account;

#[derive(Template, WebTemplate)]
#[template(path = "sign_in.html")]
struct SignInPage {
    tongue: Language,
    token: String,
    demo: bool,
    next: String,
    email: String,
    /// Somebody just joined, or set a new password.
    joined: bool,
    /// What a device is asked that keeps a key; none where there can be none.
    passkey: Option<Question>,
    /// The sentence that says what is wrong.
    error: Option<&'static str>,
}

#[derive(Deserialize)]
pub struct Next {
    #[serde(default)]
    next: String,
    #[serde(default)]
    joined: String,
}

#[derive(Deserialize)]
pub struct Credentials {
    email: String,
    password: String,
    #[serde(default)]
    next: String,
}

/// The form.
pub async fn page(
    State(app): State<App>,
    Extension(token): Extension<Token>,
    headers: HeaderMap,
    Query(q): Query<Next>,
) -> Result<Response, Failure> {
    let page = sign_in_page(&app, &headers, token, &q.next)?;
    Ok(SignInPage { joined: !q.joined.is_empty(), ..page }.into_response())
}

fn sign_in_page(app: &App, headers: &HeaderMap, token: Token, next: &str) -> Result<SignInPage, Failure> {
    Ok(SignInPage {
        tongue: tongue(headers),
        token: token.0,
        demo: app.demo_entry.is_some(),
        next: onward(next).to_owned(),
        email: String::new(),
        joined: false,
        passkey: passkey::enter(app, headers, Utc::now())?,
        error: None,
    })
}

/// Where to go on: a page of ours, or the docket.
fn onward(next: &str) -> &str {
    if next.is_empty() { "/docket" } else { local(next) }
}

/// How long tries are counted for, minutes.
const WINDOW: i64 = 10;
/// Tries at one account from one address, or from one browser known to it.
const TRIES: f64 = 5.0;
/// Tries from one address, whatever the account: a whole office may sit behind it.
const TRIES_OF_ADDRESS: f64 = 50.0;
/// Tries at one account from all browsers unknown to it; from the sixth on each waits a second more.
const TRIES_OF_ACCOUNT: f64 = 100.0;
const LONGEST_WAIT: f64 = 8.0;

/// What a try at signing in is counted under.
struct Tries<'a> {
    app: &'a App,
    here: String,
    /// Address and account; none for a known browser: what strangers do is no concern of its own.
    strangers: Option<[String; 2]>,
}

impl<'a> Tries<'a> {
    fn new(app: &'a App, email: &str, address: Address, known: Option<String>) -> Self {
        match known {
            Some(browser) => Self { app, here: format!("sign-in {email} on {browser}"), strangers: None },
            None => {
                let address = format!("sign-in from {address}", address = address.0);
                let here = format!("sign-in {email} {address}");
                Self { app, here, strangers: Some([address, format!("sign-in {email}")]) }
            }
        }
    }

    /// Counts a try before anything is checked, and says how long it has to wait; `None` when there were too many.
    async fn count(&self, now: DateTime<Utc>) -> Result<Option<Duration>, Failure> {
        let count = |key| self.app.store.count_under(key, 1.0, TimeDelta::minutes(WINDOW), now);
        let here = count(&self.here).await?;
        let Some([address, account]) = &self.strangers else {
            return Ok((here <= TRIES).then_some(Duration::ZERO));
        };
        // What is refused where it comes from does not count against the account.
        if here > TRIES || count(address).await? > TRIES_OF_ADDRESS {
            return Ok(None);
        }
        let tries = count(account).await?;
        let wait = Duration::from_secs_f64((tries - TRIES).clamp(0.0, LONGEST_WAIT));
        Ok((tries <= TRIES_OF_ACCOUNT).then_some(wait))
    }

    /// The right password: what was tried here before was somebody mistyping it.
    async fn forget(&self, now: DateTime<Utc>) -> Result<(), Failure> {
        self.app.store.forget_count(&self.here).await?;
        Ok(self.app.store.forget_counts(now - TimeDelta::days(1)).await?)
    }
}

/// Checks e-mail and password, each try counted first. Strangers' wrong guesses slow an account down and stop them where
/// they are; a browser it was entered from before is counted by itself.
pub async fn submit(
    State(app): State<App>,
    Extension(token): Extension<Token>,
    address: Address,
    headers: HeaderMap,
    Form(form): Form<Credentials>,
) -> Result<Response, Failure> {
    let email = form.email.trim().to_lowercase();
    let now = Utc::now();
    let again = |status, error| {
        let page = sign_in_page(&app, &headers, token.clone(), &form.next)?;
        Ok((status, SignInPage { email: form.email.clone(), error: Some(error), ..page }).into_response())
    };
    if email.chars().count() > 254 || form.password.len() > 1000 {
        return again(StatusCode::UNPROCESSABLE_ENTITY, "sign-in-long");
    }
    if email.is_empty() || form.password.is_empty() {
        return again(StatusCode::UNPROCESSABLE_ENTITY, "sign-in-both");
    }
    let account = app.store.account(&email).await?;
    let known = account.as_ref().map(|a| known::known(&app, &headers, a.consultant_id)).transpose()?.flatten();
    let tries = Tries::new(&app, &email, address, known);
    let Some(wait) = tries.count(now).await? else {
        return again(StatusCode::TOO_MANY_REQUESTS, "sign-in-tries");
    };
    tokio::time::sleep(wait).await;
    let hash = account.as_ref().map(|a| a.password_hash.clone());
    if !app.passwords.verify(form.password.clone(), hash).await? {
        if let Some(account) = account {
            note(&app, &account, "a wrong password", false, (&headers, address)).await?;
        }
        // Not 401: that means a lost session, and this form must stay on screen.
        return again(StatusCode::UNPROCESSABLE_ENTITY, "sign-in-wrong");
    }
    let account = account.ok_or_else(|| Failure::Defect("a password matched no account".into()))?;
    tries.forget(now).await?;
    if account.ended {
        note(&app, &account, "the account is closed", false, (&headers, address)).await?;
        return again(StatusCode::UNPROCESSABLE_ENTITY, "sign-in-closed");
    }
    if account.second.is_empty() {
        return enter(&app, &account, (&headers, address), &form.next, "password").await;
    }
    // Half in: who has the password still needs the code.
    let half = half_way(&app, &account, now)?;
    let mut cookie = who::private_cookie(HALF, half, &headers);
    cookie.set_path("/sign-in");
    let next = serde_urlencoded::to_string([("next", onward(&form.next))]).unwrap_or_default();
    Ok((CookieJar::new().add(cookie), Redirect::to(&format!("/sign-in/second?{next}"))).into_response())
}

/// Cookie of somebody who gave the password and owes the code.
const HALF: &str = "gutteral_half";
/// Minutes the code may take.
const HALF_MINUTES: i64 = 10;
/// Codes tried within ten minutes, whoever tries.
const CODES: f64 = 5.0;

/// Who is half in, until when, and under which e-mail, marked as ours. A new password makes the mark another.
fn half_way(app: &App, account: &Account, now: DateTime<Utc>) -> Result<String, Failure> {
    let until = (now + TimeDelta::minutes(HALF_MINUTES)).timestamp();
    let mark = csrf::mark(app, &half_said(account, until))?;
    Ok(format!("{until}.{mark}.{}", account.email))
}

fn half_said(account: &Account, until: i64) -> String {
    format!("half {account} {until} {account2}", account = account.consultant_id, account2 = account.password_hash)
}

/// The account somebody is half in.
async fn half_in(app: &App, headers: &HeaderMap, now: DateTime<Utc>) -> Result<Option<Account>, Failure> {
    let Some(held) = CookieJar::from_headers(headers).get(HALF).map(|c| c.value().to_owned()) else { return Ok(None) };
    let mut parts = held.splitn(3, '.');
    let (Some(until), Some(mark), Some(email)) = (parts.next(), parts.next(), parts.next()) else { return Ok(None) };
    let Some(until) = until.parse::<i64>().ok().filter(|until| *until > now.timestamp()) else { return Ok(None) };
    let Some(account) = app.store.account(email).await? else { return Ok(None) };
    Ok(csrf::verify(app, &half_said(&account, until), mark)?.then_some(account))
}

#[derive(Template, WebTemplate)]
#[template(path = "second.html")]
struct SecondPage {
    tongue: Language,
    token: String,
    next: String,
    error: Option<&'static str>,
}

/// Asks for the code.
pub async fn second_page(
    State(app): State<App>,
    Extension(token): Extension<Token>,
    headers: HeaderMap,
    Query(q): Query<Next>,
) -> Result<Response, Failure> {
    if half_in(&app, &headers, Utc::now()).await?.is_none() {
        return Ok(Redirect::to("/sign-in").into_response());
    }
    let tongue = tongue(&headers);
    Ok(SecondPage { tongue, token: token.0, next: onward(&q.next).to_owned(), error: None }.into_response())
}

#[derive(Deserialize)]
pub struct Code {
    #[serde(default)]
    code: String,
    #[serde(default)]
    next: String,
}

/// Checks the code, counted first: whoever knows the password may guess a few times, not a million.
pub async fn second(
    State(app): State<App>,
    Extension(token): Extension<Token>,
    address: Address,
    headers: HeaderMap,
    Form(form): Form<Code>,
) -> Result<Response, Failure> {
    let now = Utc::now();
    let Some(account) = half_in(&app, &headers, now).await?.filter(|a| !a.ended) else {
        return Ok(Redirect::to("/sign-in").into_response());
    };
    let again = |status, error| {
        let (tongue, next) = (tongue(&headers), onward(&form.next).to_owned());
        let page = SecondPage { tongue, token: token.0.clone(), next, error: Some(error) };
        Ok((status, page).into_response())
    };
    let counted = format!("code {account}", account = account.consultant_id);
    if app.store.count_under(&counted, 1.0, TimeDelta::minutes(WINDOW), now).await? > CODES {
        return again(StatusCode::TOO_MANY_REQUESTS, "second-tries");
    }
    let me = account.consultant_id;
    let at = u64::try_from(now.timestamp()).unwrap_or_default();
    let step = Second::of(&app, me, &account.email, &account.second)?.step(&form.code, at);
    let scope = app.store.practice(account.practice_id).await?;
    let how = match step {
        Some(step) if scope.use_step(me, step).await? => Some("password and code"),
        Some(_) => None,
        None if scope.use_spare(me, &spare_as_kept(&form.code)).await? => Some("password and a spare code"),
        None => None,
    };
    scope.commit().await?;
    let Some(how) = how else {
        note(&app, &account, "a wrong code", false, (&headers, address)).await?;
        return again(StatusCode::UNPROCESSABLE_ENTITY, "second-wrong");
    };
    app.store.forget_count(&counted).await?;
    enter(&app, &account, (&headers, address), &form.next, how).await
}

#[derive(Deserialize)]
pub struct Answer {
    #[serde(default)]
    asked: String,
    #[serde(default)]
    credential: String,
    #[serde(default)]
    next: String,
}

/// Longest answer of a device, bytes.
const LONGEST_ANSWER: usize = 64 * 1024;

/// Lets somebody in by a key their device keeps. The device has made sure of them, so that it stands for password and code.
pub async fn by_passkey(
    State(app): State<App>,
    Extension(token): Extension<Token>,
    address: Address,
    headers: HeaderMap,
    Form(form): Form<Answer>,
) -> Result<Response, Failure> {
    let now = Utc::now();
    let again = |status, error| {
        let page = sign_in_page(&app, &headers, token.clone(), &form.next)?;
        Ok((status, SignInPage { error: Some(error), ..page }).into_response())
    };
    let counted = format!("sign-in from {address}", address = address.0);
    if app.store.count_under(&counted, 1.0, TimeDelta::minutes(WINDOW), now).await? > TRIES_OF_ADDRESS {
        return again(StatusCode::TOO_MANY_REQUESTS, "sign-in-tries");
    }
    if form.asked.len() + form.credential.len() > LONGEST_ANSWER {
        return again(StatusCode::UNPROCESSABLE_ENTITY, "passkey-wrong");
    }
    let (account, key) = match passkey::entered(&app, &headers, (&form.asked, &form.credential), now).await? {
        Ok(entered) => entered,
        Err((why, whose)) => {
            if let Some(account) = whose {
                let how = if why == Refused::Copied { "a passkey that may be a copy" } else { "a wrong passkey" };
                note(&app, &account, how, false, (&headers, address)).await?;
            }
            return again(StatusCode::UNPROCESSABLE_ENTITY, why.says());
        }
    };
    if account.ended {
        note(&app, &account, "the account is closed", false, (&headers, address)).await?;
        return again(StatusCode::UNPROCESSABLE_ENTITY, "sign-in-closed");
    }
    let scope = app.store.practice(account.practice_id).await?;
    if !scope.use_passkey(key.id, key.key, now).await? {
        return again(StatusCode::UNPROCESSABLE_ENTITY, "passkey-wrong");
    }
    scope.commit().await?;
    enter(&app, &account, (&headers, address), &form.next, "a passkey").await
}

/// Notes that somebody came in, or did not.
async fn note(
    app: &App,
    account: &Account,
    how: &str,
    came_in: bool,
    (headers, address): (&HeaderMap, Address),
) -> Result<(), Failure> {
    let scope = app.store.practice(account.practice_id).await?;
    scope.note_sign_in(account.consultant_id, how, came_in, &device(headers, address)).await?;
    Ok(scope.commit().await?)
}

/// The demo's one-click entry.
pub async fn demo(
    State(app): State<App>,
    address: Address,
    headers: HeaderMap,
    Form(form): Form<Next>,
) -> Result<Response, Failure> {
    let email = app.demo_entry.as_deref().ok_or(Failure::NotFound)?;
    let account = app.store.account(email).await?.ok_or(Failure::NotFound)?;
    enter(&app, &account, (&headers, address), &form.next, "the demo’s button").await
}

/// Opens a session in place of the one this browser had, and makes the browser known to the account.
async fn enter(
    app: &App,
    account: &Account,
    (headers, address): (&HeaderMap, Address),
    next: &str,
    how: &str,
) -> Result<Response, Failure> {
    if let Some(old) = who::session_secret(headers) {
        app.store.sign_out(&old).await?;
    }
    let secret = fresh_secret()?;
    let scope = app.store.practice(account.practice_id).await?;
    let from = device(headers, address);
    scope.open_session(account.consultant_id, &secret, Utc::now(), &from).await?;
    scope.note_sign_in(account.consultant_id, how, true, &from).await?;
    scope.commit().await?;
    let mut jar = CookieJar::new().add(who::session_cookie(secret, headers));
    if known::known(app, headers, account.consultant_id)?.is_none() {
        jar = jar.add(known::cookie(app, headers, account.consultant_id)?);
    }
    Ok((jar, Redirect::to(onward(next))).into_response())
}

/// Ends the session on the server, then takes the cookie away.
pub async fn sign_out(_who: Who, State(app): State<App>, headers: HeaderMap) -> Result<Response, Failure> {
    if let Some(secret) = who::session_secret(&headers) {
        app.store.sign_out(&secret).await?;
    }
    Ok((CookieJar::new().add(who::no_session_cookie()), Redirect::to("/sign-in")).into_response())
}

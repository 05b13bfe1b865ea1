//! Signing in and out.

use crate::auth::{Address, Who, fresh_secret, known, who};
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
use serde::Deserialize;
use std::time::Duration;
use store::Account;

#[derive(Template, WebTemplate)]
#[template(path = "sign_in.html")]
struct SignInPage {
    token: String,
    demo: bool,
    next: String,
    email: String,
    error: Option<&'static str>,
}

#[derive(Deserialize)]
pub struct Next {
    #[serde(default)]
    next: String,
}

#[derive(Deserialize)]
pub struct Credentials {
    email: String,
    password: String,
    #[serde(default)]
    next: String,
}

/// The form.
pub async fn page(State(app): State<App>, Extension(token): Extension<Token>, Query(q): Query<Next>) -> Response {
    render(&app, token, q.next, String::new(), None)
}

fn render(app: &App, token: Token, next: String, email: String, error: Option<&'static str>) -> Response {
    let next = if next.is_empty() { "/docket".to_owned() } else { local(&next).to_owned() };
    SignInPage { token: token.0, demo: app.demo_entry.is_some(), next, email, error }.into_response()
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
                let address = format!("sign-in from {}", address.0);
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
    let again =
        |status, error| (status, render(&app, token.clone(), form.next.clone(), form.email.clone(), Some(error)));
    if email.chars().count() > 254 || form.password.len() > 1000 {
        return Ok(again(StatusCode::UNPROCESSABLE_ENTITY, "That is longer than an e-mail or password can be.")
            .into_response());
    }
    if email.is_empty() || form.password.is_empty() {
        return Ok(again(StatusCode::UNPROCESSABLE_ENTITY, "Enter both your e-mail and your password.").into_response());
    }
    let account = app.store.account(&email).await?;
    let known = account.as_ref().map(|a| known::known(&app, &headers, a.consultant_id)).transpose()?.flatten();
    let tries = Tries::new(&app, &email, address, known);
    let Some(wait) = tries.count(now).await? else {
        let error =
            "Too many tries. Wait ten minutes, then try again; a browser you signed in from before may try now.";
        return Ok(again(StatusCode::TOO_MANY_REQUESTS, error).into_response());
    };
    tokio::time::sleep(wait).await;
    let hash = account.as_ref().map(|a| a.password_hash.clone());
    if !app.passwords.verify(form.password.clone(), hash).await? {
        // Not 401: that means a lost session, and this form must stay on screen.
        return Ok(again(StatusCode::UNPROCESSABLE_ENTITY, "E-mail and password do not match.").into_response());
    }
    let account = account.ok_or_else(|| Failure::Defect("a password matched no account".into()))?;
    tries.forget(now).await?;
    enter(&app, &account, &headers, &form.next).await
}

/// The demo's one-click entry.
pub async fn demo(State(app): State<App>, headers: HeaderMap, Form(form): Form<Next>) -> Result<Response, Failure> {
    let email = app.demo_entry.as_deref().ok_or(Failure::NotFound)?;
    let account = app.store.account(email).await?.ok_or(Failure::NotFound)?;
    enter(&app, &account, &headers, &form.next).await
}

/// Opens a session in place of the one this browser had, and makes the browser known to the account.
async fn enter(app: &App, account: &Account, headers: &HeaderMap, next: &str) -> Result<Response, Failure> {
    if let Some(old) = who::session_secret(headers) {
        app.store.sign_out(&old).await?;
    }
    let secret = fresh_secret()?;
    let scope = app.store.practice(account.practice_id).await?;
    scope.open_session(account.consultant_id, &secret, Utc::now()).await?;
    scope.commit().await?;
    let mut jar = CookieJar::new().add(who::session_cookie(secret, headers));
    if known::known(app, headers, account.consultant_id)?.is_none() {
        jar = jar.add(known::cookie(app, headers, account.consultant_id)?);
    }
    let next = if next.is_empty() { "/docket" } else { local(next) };
    Ok((jar, Redirect::to(next)).into_response())
}

/// Ends the session on the server, then takes the cookie away.
pub async fn sign_out(_who: Who, State(app): State<App>, headers: HeaderMap) -> Result<Response, Failure> {
    if let Some(secret) = who::session_secret(&headers) {
        app.store.sign_out(&secret).await?;
    }
    Ok((CookieJar::new().add(who::no_session_cookie()), Redirect::to("/sign-in")).into_response())
}

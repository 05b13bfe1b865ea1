//! Signing in and out.

use crate::auth::{Who, fresh_secret, who};
use crate::error::Failure;
use crate::extract::{Form, Query};
use crate::pages::preferences::local;
use crate::state::App;
use crate::token::Token;
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode};
use axum::response::{IntoResponse, Redirect, Response};
use axum_extra::extract::CookieJar;
use serde::Deserialize;
use store::Account;
use uuid::Uuid;

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

/// Checks e-mail and password. Five failures for an e-mail close it for ten minutes, whoever tries.
pub async fn submit(
    State(app): State<App>,
    Extension(token): Extension<Token>,
    headers: HeaderMap,
    Form(form): Form<Credentials>,
) -> Result<Response, Failure> {
    let email = form.email.trim().to_lowercase();
    let now = chrono::Utc::now();
    let again =
        |status, error| (status, render(&app, token.clone(), form.next.clone(), form.email.clone(), Some(error)));
    if email.chars().count() > 254 || form.password.len() > 1000 {
        return Ok(again(StatusCode::UNPROCESSABLE_ENTITY, "That is longer than an e-mail or password can be.")
            .into_response());
    }
    if email.is_empty() || form.password.is_empty() {
        return Ok(again(StatusCode::UNPROCESSABLE_ENTITY, "Enter both your e-mail and your password.").into_response());
    }
    if app.store.sign_in_braked(&email, now).await? {
        let error = "Too many tries. Wait ten minutes, then try again.";
        return Ok(again(StatusCode::TOO_MANY_REQUESTS, error).into_response());
    }
    let account = app.store.account(&email).await?;
    let hash = account.as_ref().map(|a| a.password_hash.clone());
    if !app.passwords.verify(form.password.clone(), hash).await? {
        app.store.sign_in_failed(Uuid::now_v7(), &email, now).await?;
        // Not 401: that means a lost session, and this form must stay on screen.
        return Ok(again(StatusCode::UNPROCESSABLE_ENTITY, "E-mail and password do not match.").into_response());
    }
    let account = account.ok_or_else(|| Failure::Defect("a password matched no account".into()))?;
    enter(&app, &account, &headers, &form.next).await
}

/// The demo's one-click entry.
pub async fn demo(State(app): State<App>, headers: HeaderMap, Form(form): Form<Next>) -> Result<Response, Failure> {
    let email = app.demo_entry.as_deref().ok_or(Failure::NotFound)?;
    let account = app.store.account(email).await?.ok_or(Failure::NotFound)?;
    enter(&app, &account, &headers, &form.next).await
}

async fn enter(app: &App, account: &Account, headers: &HeaderMap, next: &str) -> Result<Response, Failure> {
    let secret = fresh_secret()?;
    let scope = app.store.practice(account.practice_id).await?;
    scope.open_session(account.consultant_id, &secret, chrono::Utc::now()).await?;
    scope.commit().await?;
    let jar = CookieJar::new().add(who::session_cookie(secret, headers));
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

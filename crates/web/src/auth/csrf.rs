//! Every post carries a token that only our own pages can hold.
//!
//! The token is a keyed hash of a random cookie (signed double submit). It outlives the session on purpose: a form
//! left open while the session ended can be sent again after signing in, with what was typed.

use super::{fresh_secret, who};
use crate::error::{Failure, Typed};
use crate::state::App;
use crate::token::Token;
use axum::body::{Body, Bytes};
use axum::extract::{Request, State};
use axum::http::{HeaderMap, Method, header};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use axum_extra::extract::cookie::CookieJar;
use base64::Engine;
use hmac::{Hmac, KeyInit, Mac};
use sha2::Sha256;

const COOKIE: &str = "gutteral_form";
/// Largest form taken, bytes. Large enough that an over-long field is answered at the field, with what was typed.
const FORM_LIMIT: usize = 8 * 1024 * 1024;
/// Posts that change nothing and take JSON.
const EXEMPT: [&str; 1] = ["/api/calc"];

/// Gives every request its token, and refuses a post without it.
pub async fn guard(State(app): State<App>, request: Request, next: Next) -> Result<Response, Failure> {
    let held = CookieJar::from_headers(request.headers()).get(COOKIE).map(|c| c.value().to_owned());
    let secret = match &held {
        Some(secret) => secret.clone(),
        None => fresh_secret()?,
    };
    let token = Token(encode(&sign(&app, &secret)?));
    let headers = request.headers().clone();
    let response = if request.method() == Method::GET || request.method() == Method::HEAD {
        get(request, &token, next).await
    } else if EXEMPT.contains(&request.uri().path()) {
        next.run(request).await
    } else {
        post(&app, request, held.as_deref(), &token, next).await?
    };
    if held.is_some() {
        return Ok(response);
    }
    let mut cookie = who::private_cookie(COOKIE, secret, &headers);
    cookie.make_permanent();
    Ok((CookieJar::new().add(cookie), response).into_response())
}

/// A part fetched into a page must not put a whole page there when it fails.
async fn get(request: Request, token: &Token, next: Next) -> Response {
    let part = request.headers().contains_key("hx-request");
    let response = pass(request, token, next).await;
    let status = response.status();
    if !part || status.is_success() {
        return response;
    }
    // Sent as a success: the line is what the part now says.
    Html(format!("<p class=\"error\">{}</p>", Failure::in_place(status))).into_response()
}

async fn pass(mut request: Request, token: &Token, next: Next) -> Response {
    request.extensions_mut().insert(token.clone());
    next.run(request).await
}

async fn post(app: &App, request: Request, held: Option<&str>, token: &Token, next: Next) -> Result<Response, Failure> {
    let (parts, body) = request.into_parts();
    let Ok(bytes) = axum::body::to_bytes(body, FORM_LIMIT).await else { return Err(Failure::TooLarge) };
    let typed = Typed::new(parts.uri.path(), &bytes, token.clone());
    if !from_own_site(&parts.headers) {
        return Err(Failure::ForeignForm);
    }
    let ours = held.zip(typed.token()).map(|(secret, token)| verify(app, secret, token)).transpose()?;
    if ours != Some(true) {
        return Ok(Failure::StaleForm(Box::new(typed)).into_response());
    }
    let response = pass(Request::from_parts(parts, Body::from(bytes)), token, next).await;
    if let Some(failure) = Failure::with_typed(response.status(), typed) {
        return Ok(failure.into_response());
    }
    Ok(response)
}

/// Browsers say where a post comes from; another site's is refused whatever it carries.
fn from_own_site(headers: &HeaderMap) -> bool {
    let text = |name: header::HeaderName| headers.get(name).and_then(|v| v.to_str().ok());
    let site = headers.get("sec-fetch-site").and_then(|v| v.to_str().ok());
    if matches!(site, Some("cross-site" | "same-site")) {
        return false;
    }
    match (text(header::ORIGIN), text(header::HOST)) {
        (Some(origin), Some(host)) => origin.split_once("://").is_some_and(|(_, o)| o == host),
        _ => true,
    }
}

fn mac(app: &App, secret: &str) -> Result<Hmac<Sha256>, Failure> {
    let mut mac = Hmac::<Sha256>::new_from_slice(&app.csrf_key).map_err(|e| Failure::Defect(e.to_string()))?;
    mac.update(secret.as_bytes());
    Ok(mac)
}

fn sign(app: &App, secret: &str) -> Result<Bytes, Failure> {
    Ok(Bytes::copy_from_slice(&mac(app, secret)?.finalize().into_bytes()))
}

fn encode(bytes: &[u8]) -> String {
    base64::engine::general_purpose::URL_SAFE_NO_PAD.encode(bytes)
}

fn verify(app: &App, secret: &str, token: &str) -> Result<bool, Failure> {
    let Ok(given) = base64::engine::general_purpose::URL_SAFE_NO_PAD.decode(token) else { return Ok(false) };
    Ok(mac(app, secret)?.verify_slice(&given).is_ok())
}

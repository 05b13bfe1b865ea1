//! Every post carries a token that only our own pages can hold.
//!
//! The token is a keyed hash of a random cookie (signed double submit). It outlives the session on purpose: a form
//! left open while the session ended can be sent again after signing in, with what was typed.

use super::{fresh_secret, who};
use crate::body;
use crate::error::{Again, Failure, TypedFields, is_text};
use crate::state::App;
use crate::token::Token;
use crate::upload::Upload;
use axum::body::Body;
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
/// Most fields of a form: more than the largest building's has.
const MOST_FIELDS: usize = 4000;
/// Posts of programs, which hold no cookie of ours: one changes nothing, the other is known by a token of its own.
const EXEMPT: [&str; 2] = ["/api/calc", "/api/log"];

/// Gives every request its token, and refuses a post without it.
pub async fn guard(State(app): State<App>, request: Request, next: Next) -> Result<Response, Failure> {
    if !body::is_path(request.uri().path()) {
        return Err(Failure::NotFound);
    }
    let held = CookieJar::from_headers(request.headers()).get(COOKIE).map(|c| c.value().to_owned());
    let secret = match &held {
        Some(secret) => secret.clone(),
        None => fresh_secret()?,
    };
    let token = Token(mark(&app, &form_of(&secret))?);
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

/// What a form's token marks. Whoever asks chooses the secret in their cookie: the word before it keeps it from being any other
/// mark of ours.
fn form_of(secret: &str) -> String {
    format!("form {secret}")
}

/// A part fetched into a page must not put a whole page there when it fails.
async fn get(request: Request, token: &Token, next: Next) -> Response {
    let part = request.headers().contains_key("hx-request");
    let asked: Vec<(String, String)> =
        request.uri().query().and_then(|q| serde_urlencoded::from_str(q).ok()).unwrap_or_default();
    let response = if asked.iter().all(|(k, v)| is_text(k) && is_text(v)) {
        pass(request, token, next).await
    } else {
        Failure::Unreadable.into_response()
    };
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
    let (mut parts, body) = request.into_parts();
    let kind = parts.headers.get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or_default();
    let picture = kind.starts_with("multipart/form-data");
    // Held until the picture is read and stored.
    let mut room = None;
    let (fields, body) = if picture {
        let upload = Upload::receive(app, &parts, body, &mut room).await?;
        let fields = upload.fields.clone();
        parts.extensions.insert(upload);
        (fields, Body::empty())
    } else {
        let bytes = body::whole(body, FORM_LIMIT).await?;
        if bytes.iter().filter(|b| **b == b'&').count() > MOST_FIELDS {
            return Err(Failure::TooLarge);
        }
        (serde_urlencoded::from_bytes(&bytes).unwrap_or_default(), Body::from(bytes))
    };
    let typed = TypedFields::new(parts.uri.path(), fields, picture, token.clone());
    if !from_own_site(&parts.headers) {
        return Err(Failure::ForeignForm);
    }
    let ours = held.zip(typed.token()).map(|(secret, token)| verify(app, &form_of(secret), token)).transpose()?;
    if ours != Some(true) {
        return Ok(Failure::StaleForm(Box::new(typed)).into_response());
    }
    if let Some(field) = typed.unreadable().map(str::to_owned) {
        return Ok(Failure::UnreadableWith(Box::new(typed), field).into_response());
    }
    let response = pass(Request::from_parts(parts, body), token, next).await;
    match response.extensions().get::<Again>() {
        Some(again) => Ok(Failure::with_typed(*again, typed).into_response()),
        None => Ok(response),
    }
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

fn mac(app: &App, said: &str) -> Result<Hmac<Sha256>, Failure> {
    let mut mac = Hmac::<Sha256>::new_from_slice(&app.csrf_key).map_err(|e| Failure::Defect(e.to_string()))?;
    mac.update(said.as_bytes());
    Ok(mac)
}

/// A mark on something said that only this server can make.
pub fn mark(app: &App, said: &str) -> Result<String, Failure> {
    let bytes = mac(app, said)?.finalize().into_bytes();
    Ok(base64::engine::general_purpose::URL_SAFE_NO_PAD.encode(bytes))
}

/// Whether a mark is ours.
pub fn verify(app: &App, said: &str, mark: &str) -> Result<bool, Failure> {
    let Ok(given) = base64::engine::general_purpose::URL_SAFE_NO_PAD.decode(mark) else { return Ok(false) };
    Ok(mac(app, said)?.verify_slice(&given).is_ok())
}

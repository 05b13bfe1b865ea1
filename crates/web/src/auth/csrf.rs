//! Every post carries a token that only our own pages can hold.
//!
//! The token is a keyed hash of a random cookie (signed double submit). It outlives the session on purpose: a form
//! left open while the session ended can be sent again after signing in, with what was typed.

use super::{fresh_secret, who};
use crate::error::{Failure, Typed};
use crate::state::App;
use crate::token::Token;
use axum::body::{Body, Bytes};
use axum::extract::{DefaultBodyLimit, FromRequest, Multipart, Request, State};
use axum::http::{HeaderMap, Method, header};
use axum::middleware::Next;
use axum::response::{Html, IntoResponse, Response};
use axum_extra::extract::cookie::CookieJar;
use base64::Engine;
use hmac::{Hmac, KeyInit, Mac};
use http_body_util::BodyExt;
use sha2::Sha256;

const COOKIE: &str = "gutteral_form";
/// Largest form taken, bytes. Large enough that an over-long field is answered at the field, with what was typed.
const FORM_LIMIT: usize = 8 * 1024 * 1024;
/// Largest form with a picture, bytes.
pub const PICTURE_LIMIT: usize = photograph::MOST_BYTES + 1024 * 1024;
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
    let kind = parts.headers.get(header::CONTENT_TYPE).and_then(|v| v.to_str().ok()).unwrap_or_default();
    let picture = kind.starts_with("multipart/form-data");
    let limit = if picture { PICTURE_LIMIT } else { FORM_LIMIT };
    let bytes = whole(body, limit).await.ok_or(Failure::TooLarge)?;
    let fields = if picture {
        fields(Request::from_parts(parts.clone(), Body::from(bytes.clone()))).await
    } else {
        serde_urlencoded::from_bytes(&bytes).unwrap_or_default()
    };
    let typed = Typed::new(parts.uri.path(), fields, picture, token.clone());
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

/// A body of at most so many bytes. A larger one is read to its end and forgotten: a browser that is still sending when it
/// is answered shows a broken connection in the answer's place.
async fn whole(mut body: Body, limit: usize) -> Option<Bytes> {
    let mut kept = Vec::new();
    let mut total = 0;
    while let Some(frame) = body.frame().await {
        let Ok(data) = frame.ok()?.into_data() else { continue };
        total += data.len();
        match total {
            _ if total <= limit => kept.extend_from_slice(&data),
            _ if total <= 4 * limit => kept = Vec::new(),
            _ => return None,
        }
    }
    (total <= limit).then(|| kept.into())
}

/// The words of a form with a picture. Its file is not among them: a browser does not let a page hand one back.
async fn fields(mut request: Request) -> Vec<(String, String)> {
    let mut all = Vec::new();
    DefaultBodyLimit::max(PICTURE_LIMIT).apply(&mut request);
    let Ok(mut form) = Multipart::from_request(request, &()).await else { return all };
    while let Ok(Some(field)) = form.next_field().await {
        let name = field.name().unwrap_or_default().to_owned();
        if field.file_name().is_none() {
            all.extend(field.text().await.map(|text| (name, text)));
        }
    }
    all
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

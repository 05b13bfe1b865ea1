//! Who is asking, and whether the form is ours.

pub mod address;
pub mod csrf;
pub mod known;
pub mod passkey;
pub mod password;
pub mod second;
pub mod who;

pub use address::Address;
pub use who::Who;

use axum::extract::Request;
use axum::middleware::Next;
use axum::response::Response;

/// Where a request comes from, as it is kept of a session.
pub fn device(headers: &axum::http::HeaderMap, address: Address) -> store::Device {
    let agent = headers.get(axum::http::header::USER_AGENT).and_then(|v| v.to_str().ok()).unwrap_or("no name");
    store::Device::new(agent, &address.0.to_string())
}

/// The language a reader’s browser asks for.
pub fn tongue(headers: &axum::http::HeaderMap) -> language::Language {
    let asked = headers.get(axum::http::header::ACCEPT_LANGUAGE).and_then(|v| v.to_str().ok());
    asked.map(language::Language::accepted).unwrap_or_default()
}

/// Work for a page is done in the language its reader’s browser asks for, until it is known who they are.
pub async fn heard(request: Request, next: Next) -> Response {
    language::heard(tongue(request.headers()), next.run(request)).await
}

/// A fresh secret of 256 bits, URL-safe.
pub fn fresh_secret() -> Result<String, crate::error::Failure> {
    use base64::Engine;
    let mut bytes = [0_u8; 32];
    getrandom::fill(&mut bytes).map_err(|e| crate::error::Failure::Defect(format!("no randomness: {e}")))?;
    Ok(base64::engine::general_purpose::URL_SAFE_NO_PAD.encode(bytes))
}

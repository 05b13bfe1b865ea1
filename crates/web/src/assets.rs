//! Styles, scripts and fonts, compiled into the program.

use crate::error::Failure;
use crate::extract::Path;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::{IntoResponse, Response};
use rust_embed::RustEmbed;

#[derive(RustEmbed)]
#[folder = "assets/dist"]
struct Dist;

/// An asset’s content.
pub fn embedded(path: &str) -> Option<std::borrow::Cow<'static, [u8]>> {
    Dist::get(path).map(|file| file.data)
}

/// Serves an asset; the tag is its content's hash, so a browser asks again but downloads once.
pub async fn asset(Path(path): Path<String>, headers: HeaderMap) -> Result<Response, Failure> {
    let file = Dist::get(&path).ok_or(Failure::NotFound)?;
    let hash: String = file.metadata.sha256_hash().iter().map(|b| format!("{b:02x}")).collect();
    let tag = format!("\"{hash}\"");
    if headers.get(header::IF_NONE_MATCH).is_some_and(|t| t.as_bytes() == tag.as_bytes()) {
        return Ok(StatusCode::NOT_MODIFIED.into_response());
    }
    let kind = mime_guess::from_path(&path).first_or_octet_stream();
    let fresh = if kind.type_() == mime_guess::mime::FONT { "public, max-age=31536000, immutable" } else { "no-cache" };
    let head =
        [(header::CONTENT_TYPE, kind.to_string()), (header::ETAG, tag), (header::CACHE_CONTROL, fresh.to_owned())];
    Ok((head, file.data).into_response())
}

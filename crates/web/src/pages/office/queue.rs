//! What waits on this device to be sent; the page's script fills it in.

use crate::assets::asset;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::HeaderMap;
use axum::response::Response;

#[derive(Template, WebTemplate)]
#[template(path = "queue.html")]
pub struct QueuePage {
    frame: Frame,
}

/// The list, and where a page that was not carried along ends.
pub async fn page(who: Who) -> QueuePage {
    QueuePage { frame: Frame::new(&who) }
}

/// The service worker: at the root, so that it sees every page.
pub async fn worker(headers: HeaderMap) -> Result<Response, Failure> {
    asset(Path("sw.js".into()), headers).await
}

//! The pages of Gutteral: HTTP edge, forms, view models, templates and drawings.
//!
//! Data runs one way: bytes → forms → domain values → core → view models → templates. Nothing is kept in the process
//! between requests, so any number of them may serve the same database.

pub mod access;
mod api;
mod assets;
mod auth;
mod bell;
mod body;
mod error;
mod extract;
mod fields;
mod filters;
mod pages;
mod paper;
mod pictures;
mod places;
mod router;
mod state;
mod stations;
mod token;
mod turns;
mod upload;
mod view;

pub use api::v1::{Declared as DeclaredForPrograms, declared as declared_for_programs};
pub use auth::password::hash_password;
pub use notation::is_time_zone;
pub use paper::paper;
pub use router::declared;
pub use state::App;

use std::future::Future;
use std::net::SocketAddr;
use tokio::net::TcpListener;

/// Serves until `shutdown` resolves, then lets running requests finish.
///
/// # Errors
/// When the listener fails.
pub async fn serve(
    listener: TcpListener,
    app: App,
    shutdown: impl Future<Output = ()> + Send + 'static,
) -> std::io::Result<()> {
    let service = router::router(app.clone()).into_make_service_with_connect_info::<SocketAddr>();
    let listening = app.clone();
    let hears = tokio::spawn(async move { listening.bell.hear(&listening.store).await });
    let closing = async move {
        shutdown.await;
        // Pages that listen would be waited for.
        app.bell.close();
    };
    let served = axum::serve(listener, service).with_graceful_shutdown(closing).await;
    hears.abort();
    served
}

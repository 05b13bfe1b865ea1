//! What every request may reach: the store, the secret, and whether this is the demo.

use crate::auth::password::Passwords;
use crate::pictures::Pictures;
use sha2::{Digest, Sha256};
use store::Store;

/// Shared by all requests; holds nothing that changes.
#[derive(Clone)]
pub struct App {
    pub(crate) store: Store,
    pub(crate) csrf_key: [u8; 32],
    pub(crate) passwords: Passwords,
    pub(crate) pictures: Pictures,
    /// E-mail of the consultant the demo's one-click entry signs in; `None` outside the demo.
    pub(crate) demo_entry: Option<String>,
}

impl App {
    /// An application over a store. `secret` keys the forms' tokens; `demo_entry` is the demo's one-click consultant.
    #[must_use]
    pub fn new(store: Store, secret: &str, demo_entry: Option<String>) -> Self {
        let csrf_key = Sha256::new_with_prefix("gutteral csrf").chain_update(secret).finalize().into();
        Self { store, csrf_key, passwords: Passwords::new(), pictures: Pictures::new(), demo_entry }
    }
}

//! What every request may reach: the store, the secret, the turns at heavy work, and whether this is the demo.

use crate::auth::password::Passwords;
use crate::bell::Bell;
use crate::pictures::Pictures;
use crate::turns::Turns;
use casework::Shelf;
use casework::log::Posts;
use sha2::{Digest, Sha256};
use std::ops::Deref;
use std::sync::Arc;
use store::Store;

/// Most logger's files on their way in at once.
const MOST_FILES: usize = 4;

/// Common by all requests; holds nothing another process could miss.
#[derive(Clone)]
pub struct App(Arc<Common>);

impl Deref for App {
    type Target = Common;
    fn deref(&self) -> &Common {
        &self.0
    }
}

/// What is shared.
pub struct Common {
    pub(crate) store: Store,
    /// Jobs opened lately.
    pub(crate) shelf: Shelf,
    pub(crate) csrf_key: [u8; 32],
    pub(crate) passwords: Passwords,
    pub(crate) pictures: Pictures,
    /// Turns at receiving logger's files.
    pub(crate) files: Turns,
    /// Where loggers post.
    pub(crate) posts: Posts,
    /// The word that a log has new readings.
    pub(crate) bell: Bell,
    /// Turns at computing for the headless interface, beside the pages.
    pub(crate) computing: Turns,
    /// E-mail of the consultant the demo's one-click entry signs in; `None` outside the demo.
    pub(crate) demo_entry: Option<String>,
    /// Proxies of the operator's in front: so many entries of `X-Forwarded-For`, from its end, are theirs.
    pub(crate) proxies: usize,
}

impl App {
    /// An application over a store. `secret` keys the forms' tokens; `demo_entry` is the demo's one-click consultant;
    /// `proxies` is how many of the operator's own stand in front.
    #[must_use]
    pub fn new(store: Store, secret: &str, demo_entry: Option<String>, proxies: usize) -> Self {
        let csrf_key = Sha256::new_with_prefix("gutteral csrf").chain_update(secret).finalize().into();
        Self(Arc::new(Common {
            posts: Posts::new(&store),
            store,
            shelf: Shelf::new(),
            csrf_key,
            passwords: Passwords::new(),
            pictures: Pictures::new(),
            files: Turns::of(MOST_FILES),
            bell: Bell::new(),
            computing: Turns::beside_pages(),
            demo_entry,
            proxies,
        }))
    }
}

//! Files opened lately. Nothing depends on them: a process that has none reads the job again.

use crate::file::{CaseFile, FileError, InView};
use moka::future::Cache;
use std::sync::Arc;
use std::time::Duration;
use store::{Depth, Revision, Store};
use uuid::Uuid;

/// Room for files, bytes as [`CaseFile::bytes`] guesses them.
const ROOM: u64 = 32 << 20;
/// A file is of the moment it was read: what depends on the hour is never older than this.
const FRESH: Duration = Duration::from_mins(1);

/// Whose job, at which revision, how much of it and which visit.
type Key = (Uuid, Uuid, Revision, Depth, InView);

/// Files opened lately, each good for as long as nobody changed its job. Every process has its own; the database says
/// whether a file is still good, so that what one process changes the next page of any other shows.
#[derive(Clone)]
pub struct Shelf {
    files: Cache<Key, Arc<CaseFile>>,
}

impl Default for Shelf {
    fn default() -> Self {
        Self::new()
    }
}

impl Shelf {
    /// An empty shelf.
    #[must_use]
    pub fn new() -> Self {
        let bytes = |_: &Key, file: &Arc<CaseFile>| u32::try_from(file.bytes()).unwrap_or(u32::MAX);
        Self { files: Cache::builder().weigher(bytes).max_capacity(ROOM).time_to_live(FRESH).build() }
    }

    /// A job of a practice at its present revision: from the shelf, or loaded in one statement. Many who ask at once wait for
    /// one of them to load it.
    ///
    /// # Errors
    /// As [`CaseFile::load`].
    pub async fn file(
        &self,
        store: &Store,
        practice: Uuid,
        (job, revision): (Uuid, Revision),
        view: InView,
        depth: Depth,
    ) -> Result<Arc<CaseFile>, Arc<FileError>> {
        let load = async {
            let scope = store.practice(practice).await?;
            CaseFile::load(&scope, job, view, depth).await.map(Arc::new)
        };
        self.files.try_get_with((practice, job, revision, depth, view), load).await
    }
}

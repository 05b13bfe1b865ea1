//! The word that a log has new readings: heard once from the database, passed on to every open page of this process.

use crate::error::Failure;
use crate::turns::{Turn, Turns};
use std::sync::Mutex;
use std::time::Duration;
use store::{Store, Word};
use tokio::sync::broadcast::{Receiver, Sender, channel};
use uuid::Uuid;

/// Words kept for pages that are slow to hear.
const KEPT: usize = 256;
/// Most open pages that listen.
const MOST_PAGES: usize = 1000;

/// Whose log, and of which job.
type Told = (Uuid, Uuid);

/// Passes the word on. Closed, every page that listens is let go, so that a process can end.
pub struct Bell {
    rope: Mutex<Option<Sender<Told>>>,
    pages: Turns,
}

impl Bell {
    pub fn new() -> Self {
        Self { rope: Mutex::new(Some(channel(KEPT).0)), pages: Turns::of(MOST_PAGES) }
    }

    /// A place among those who listen.
    pub fn place(&self) -> Result<Turn, Failure> {
        self.pages.now()
    }

    /// Listens from now on.
    pub fn listen(&self) -> Receiver<Told> {
        let rope = self.rope.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        // A closed bell is heard by nobody.
        rope.as_ref().map_or_else(|| channel(1).1, Sender::subscribe)
    }

    /// Lets everybody go.
    pub fn close(&self) {
        self.rope.lock().unwrap_or_else(std::sync::PoisonError::into_inner).take();
    }

    fn ring(&self, told: Told) {
        if let Some(rope) = self.rope.lock().unwrap_or_else(std::sync::PoisonError::into_inner).as_ref() {
            // Nobody may be listening.
            let _ = rope.send(told);
        }
    }

    /// Hears what any process tells, until it is dropped.
    pub async fn hear(&self, store: &Store) {
        loop {
            match store.listen(Word::Log).await {
                Ok(mut ears) => loop {
                    if let Some(word) = ears.hear(Duration::from_hours(1)).await
                        && let Some((practice, job)) = word.split_once(' ')
                        && let (Ok(practice), Ok(job)) = (practice.parse(), job.parse())
                    {
                        self.ring((practice, job));
                    }
                },
                Err(_) => tokio::time::sleep(Duration::from_secs(2)).await,
            }
        }
    }
}

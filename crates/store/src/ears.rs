//! What processes tell each other through the database.

use crate::error::StoreError;
use crate::scope::Store;
use sea_orm::sqlx::postgres::PgListener;
use std::time::Duration;

/// What can be listened for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Word {
    /// Somebody asked for work.
    Task,
    /// A log has new readings: its practice and job are told along.
    Log,
}

impl Word {
    const fn id(self) -> &'static str {
        match self {
            Self::Task => "task",
            Self::Log => "log",
        }
    }
}

/// A connection that hears what others tell.
pub struct Ears(PgListener);

impl Store {
    /// Begins to listen, over a connection of its own.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn listen(&self, word: Word) -> Result<Ears, StoreError> {
        let mut ears = PgListener::connect_with(self.db.get_postgres_connection_pool()).await?;
        ears.listen(word.id()).await?;
        Ok(Ears(ears))
    }
}

impl Ears {
    /// What is told next; `None` after a while without a word, or where the connection was lost meanwhile: something may have
    /// been told that nobody heard.
    pub async fn hear(&mut self, within: Duration) -> Option<String> {
        match tokio::time::timeout(within, self.0.try_recv()).await {
            Ok(Ok(Some(word))) => Some(word.payload().to_owned()),
            Ok(Ok(None)) => None,
            Ok(Err(_)) => {
                tokio::time::sleep(within.min(Duration::from_secs(1))).await;
                None
            }
            Err(_) => None,
        }
    }
}

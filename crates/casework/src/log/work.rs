//! Whoever works off the queue.

use super::{keep, look};
use crate::outside::{Outside, OutsideError};
use chrono::{TimeDelta, Utc};
use std::time::Duration;
use store::{Store, StoreError, Task, TaskKind, TaskState, Word};
use uuid::Uuid;

/// How long a worker waits for word of new work before it looks by itself.
const LOOKS: Duration = Duration::from_secs(5);

/// Why a piece of work did not end.
#[derive(Debug, thiserror::Error)]
pub enum WorkError {
    /// The database.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The disk.
    #[error("the disk: {0}")]
    Disk(#[from] std::io::Error),
    /// The file is not as it was when it was looked at.
    #[error("{0}")]
    Unreadable(String),
    /// Whoever worked on it went away.
    #[error("it was stopped")]
    Stopped,
    /// What lies outside.
    #[error(transparent)]
    Outside(#[from] OutsideError),
}

/// Works off the queue, one piece after another, until it is dropped.
pub async fn work(store: Store, outside: impl Outside) -> ! {
    let mut ears = None;
    loop {
        if ears.is_none() {
            // Heard from here on, so that nothing asked for after the next look is missed.
            ears = store.listen(Word::Task).await.ok();
        }
        match store.take_task().await {
            Ok(Some((practice, task))) => one(&store, practice, &task, &outside).await,
            Ok(None) => match &mut ears {
                Some(ears) => drop(ears.hear(LOOKS).await),
                None => tokio::time::sleep(LOOKS).await,
            },
            Err(_) => tokio::time::sleep(Duration::from_secs(1)).await,
        }
    }
}

async fn one(store: &Store, practice: Uuid, task: &Task, outside: &impl Outside) {
    if task.state == TaskState::Failed {
        return;
    }
    let ended = match done(store, practice, task, outside).await {
        Ok(()) => Some((TaskState::Done, String::new())),
        // What was being done is not done at all; the same again in a moment.
        Err(WorkError::Store(StoreError::Unavailable(_) | StoreError::Full(_)) | WorkError::Stopped) => None,
        Err(e) => Some((TaskState::Failed, e.to_string())),
    };
    // Where this cannot be said, somebody else finds the task after a minute.
    let Ok(scope) = store.practice(practice).await else { return };
    let said = match ended {
        Some((state, words)) => scope.end_task(task.id, state, &words).await,
        None => scope.put_off(task.id, Utc::now() + TimeDelta::seconds(3)).await,
    };
    if said.is_ok() {
        let _ = scope.commit().await;
    }
}

async fn done(store: &Store, practice: Uuid, task: &Task, outside: &impl Outside) -> Result<(), WorkError> {
    let Some(job) = task.job_id else { return Ok(()) };
    let telling = Telling { store, practice, task: task.id };
    match task.kind {
        TaskKind::LookAtFile => look::look(store, practice, job, task.subject_id).await,
        TaskKind::BringIn => keep::settle(store, practice, (job, task.subject_id), &telling).await,
        TaskKind::RollUp => keep::roll_up(store, practice, (job, task.subject_id)).await,
        TaskKind::Forecast => forecast(store, practice, job, outside).await,
    }
}

/// Asks for the weather to come, and keeps it.
async fn forecast(store: &Store, practice: Uuid, job: Uuid, outside: &impl Outside) -> Result<(), WorkError> {
    let scope = store.practice(practice).await?;
    let Some(of) = scope.job(job).await? else { return Ok(()) };
    drop(scope);
    let hours = outside.forecast(&of).await?;
    let scope = store.practice(practice).await?;
    scope.keep_forecast(job, &hours).await?;
    Ok(scope.commit().await?)
}

/// Whom whoever works tells how far it is.
pub struct Telling<'a> {
    store: &'a Store,
    practice: Uuid,
    task: Uuid,
}

impl Telling<'_> {
    /// So much is done, of so much.
    ///
    /// # Errors
    /// [`WorkError::Store`] when the database does not answer.
    pub async fn tell(&self, done: u64, total: u64) -> Result<(), WorkError> {
        let scope = self.store.practice(self.practice).await?;
        scope.tell_task(self.task, done, total).await?;
        Ok(scope.commit().await?)
    }
}

//! Whoever works off the queue.

use super::deliver::deliver;
use super::{keep, look, watch};
use crate::outside::{Outside, OutsideError, ToPrint};
use crate::parcel;
use crate::standing::look_again;
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
    /// A bundle or a workbook could not be written.
    #[error("writing it: {0}")]
    Written(String),
    /// Whoever worked on it went away.
    #[error("it was stopped")]
    Stopped,
    /// What lies outside.
    #[error(transparent)]
    Outside(#[from] OutsideError),
}

impl From<zip::result::ZipError> for WorkError {
    fn from(e: zip::result::ZipError) -> Self {
        Self::Written(e.to_string())
    }
}

impl From<csv::Error> for WorkError {
    fn from(e: csv::Error) -> Self {
        Self::Written(e.to_string())
    }
}

impl From<rust_xlsxwriter::XlsxError> for WorkError {
    fn from(e: rust_xlsxwriter::XlsxError) -> Self {
        Self::Written(e.to_string())
    }
}

/// How often a log is looked at by its rules.
const WATCHES: TimeDelta = TimeDelta::seconds(60);
/// How often what is old is removed.
const REMOVES: TimeDelta = TimeDelta::hours(24);

/// How long whoever does not answer is left alone.
const AWAY: TimeDelta = TimeDelta::seconds(120);

/// What comes after a piece of work that was done.
enum After {
    /// Nothing.
    Done,
    /// Nothing but to say how it went.
    Said(String),
    /// The same in a while.
    Again(TimeDelta),
}

/// How a piece of work ended.
enum Ended {
    For(TaskState, String),
    Again(TimeDelta),
    PutOff(TimeDelta),
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
        Ok(After::Done) => Ended::For(TaskState::Done, String::new()),
        Ok(After::Said(words)) => Ended::For(TaskState::Done, words),
        Ok(After::Again(by)) => Ended::Again(by),
        // What was being done is not done at all; the same again in a moment.
        Err(WorkError::Store(StoreError::Unavailable(_) | StoreError::Full(_)) | WorkError::Stopped) => {
            Ended::PutOff(TimeDelta::seconds(3))
        }
        Err(WorkError::Outside(OutsideError::Away(_))) => Ended::PutOff(AWAY),
        Err(e) => Ended::For(TaskState::Failed, e.to_string()),
    };
    // Where this cannot be said, somebody else finds the task after a minute.
    let Ok(scope) = store.practice(practice).await else { return };
    let said = match ended {
        Ended::For(state, words) => scope.end_task(task.id, state, &words).await,
        Ended::Again(by) => scope.again(task.id, Utc::now() + by).await,
        Ended::PutOff(by) => scope.put_off(task.id, Utc::now() + by).await,
    };
    if said.is_ok() {
        let _ = scope.commit().await;
    }
}

async fn done(store: &Store, practice: Uuid, task: &Task, outside: &impl Outside) -> Result<After, WorkError> {
    let telling = Telling { store, practice, task: task.id };
    match task.kind {
        TaskKind::Retain => return retain(store, practice, &telling).await,
        TaskKind::Pack => return parcel::pack(store, practice, task.subject_id, &telling).await.map(|()| After::Done),
        TaskKind::Unpack => {
            return parcel::unpack(store, practice, task.subject_id, &telling).await.map(After::Said);
        }
        TaskKind::Mail => return mail(store, practice, task.subject_id, outside).await.map(|()| After::Done),
        TaskKind::Deliver => {
            return Ok(deliver(store, practice, task.subject_id, outside).await?.map_or(After::Done, After::Again));
        }
        TaskKind::Stand => return stand(store, practice, &telling).await.map(|()| After::Done),
        _ => {}
    }
    let Some(job) = task.job_id else { return Ok(After::Done) };
    match task.kind {
        TaskKind::Watch => {
            let watched = watch::watch(store, practice, job, outside).await?;
            return Ok(if watched { After::Again(WATCHES) } else { After::Done });
        }
        TaskKind::LookAtFile => look::look(store, practice, job, task.subject_id).await,
        TaskKind::BringIn => keep::settle(store, practice, (job, task.subject_id), &telling).await,
        TaskKind::RollUp => keep::roll_up(store, practice, (job, task.subject_id)).await,
        TaskKind::Forecast => forecast(store, practice, job, outside).await,
        TaskKind::Print => print(store, practice, task.subject_id, outside).await,
        TaskKind::Retain | TaskKind::Pack | TaskKind::Unpack | TaskKind::Mail | TaskKind::Stand | TaskKind::Deliver => {
            Ok(())
        }
    }
    .map(|()| After::Done)
}

/// Removes what is older than the practice keeps it: files, answers and sign-ins, jobs one at a time, single readings some at a
/// time. Once a day.
async fn retain(store: &Store, practice: Uuid, telling: &Telling<'_>) -> Result<After, WorkError> {
    let now = Utc::now();
    let scope = store.practice(practice).await?;
    let kept = scope.retention().await?;
    scope.forget_old(&kept, now).await?;
    let jobs = scope.jobs_past(&kept, now).await?;
    scope.commit().await?;
    let mut done = 0;
    for job in jobs {
        let scope = store.practice(practice).await?;
        // Whoever has it in hand is waited for; put back meanwhile it stays.
        if scope.hold_job(job).await? && scope.jobs_past(&scope.retention().await?, now).await?.contains(&job) {
            scope.erase_job(job).await?;
            let what = "A job was erased with everything of it: it is kept no longer";
            scope.audit(Uuid::now_v7(), None, what, None).await?;
            scope.commit().await?;
        }
        done += 1;
        telling.tell(done, done).await?;
    }
    loop {
        let scope = store.practice(practice).await?;
        let Some(days) = scope.retention().await?.log else { return Ok(After::Again(REMOVES)) };
        let gone = scope.remove_older(now - TimeDelta::days(days.into())).await?;
        scope.commit().await?;
        done += gone;
        telling.tell(done, done).await?;
        if gone == 0 {
            return Ok(After::Again(REMOVES));
        }
    }
}

/// Jobs looked at between two words of how far it is.
const TOGETHER: u64 = 100;

/// Looks how jobs stand, some at a time.
async fn stand(store: &Store, practice: Uuid, telling: &Telling<'_>) -> Result<(), WorkError> {
    let mut done = 0;
    loop {
        let scope = store.practice(practice).await?;
        let found = look_again(&scope, TOGETHER).await?;
        scope.commit().await?;
        done += found.min(TOGETHER);
        telling.tell(done, done + found.saturating_sub(TOGETHER)).await?;
        if found <= TOGETHER {
            return Ok(());
        }
    }
}

/// Sends a letter. One that was sent and could not be noted as such is sent again: rather twice than never.
async fn mail(store: &Store, practice: Uuid, id: Uuid, outside: &impl Outside) -> Result<(), WorkError> {
    let scope = store.practice(practice).await?;
    let Some(letter) = scope.letter(id).await? else { return Ok(()) };
    drop(scope);
    outside.mail(&letter).await?;
    let scope = store.practice(practice).await?;
    scope.letter_sent(id).await?;
    Ok(scope.commit().await?)
}

/// Prints a version of a report with the signatures it has. Printed already it is left as it is.
async fn print(store: &Store, practice: Uuid, version: Uuid, outside: &impl Outside) -> Result<(), WorkError> {
    let scope = store.practice(practice).await?;
    let Some((version, html)) = scope.version(version).await? else { return Ok(()) };
    let signatures = scope.signatures(version.id).await?;
    if scope.has_pdf(version.id, signatures.len()).await? {
        return Ok(());
    }
    let (practice_name, time_zone) = scope.practice_named().await?;
    let images = scope.report_images(version.id).await?;
    drop(scope);
    let (id, signed) = (version.id, signatures.len());
    let bytes = outside.print(&ToPrint { version, html, images, signatures, practice_name, time_zone }).await?;
    let scope = store.practice(practice).await?;
    scope.keep_pdf(id, signed, bytes).await?;
    Ok(scope.commit().await?)
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

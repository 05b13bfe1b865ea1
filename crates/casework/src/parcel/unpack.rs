//! Unpacking: a job comes in as a whole, or not at all.

use super::laid_out;
use crate::file::{CaseFile, FileError, InView};
use crate::log::{Telling, WorkError};
use report::is_sealed;
use report::job::read;
use std::io::{BufReader, Read};
use store::{Arriving, Came, Depth, FORMAT_VERSION, ParcelKind, Refusal, Scope, Store, StoreError};
use tokio::sync::mpsc;
use uuid::Uuid;

/// Parts read ahead.
const AHEAD: usize = 4;
/// Longest part taken, bytes: a photo of the largest kind fits many times.
const LONGEST_PART: usize = 64 << 20;
/// Parts after which it is told how far it is.
const TOLD: u64 = 50;

/// Brings in the job a parcel holds.
///
/// # Errors
/// [`WorkError::Unreadable`] with what is wrong with the file, else when the database or the disk does not play along.
pub async fn unpack(store: &Store, practice: Uuid, parcel: Uuid, telling: &Telling<'_>) -> Result<String, WorkError> {
    let scope = store.practice(practice).await?;
    let Some(row) = scope.parcel(parcel).await?.filter(|p| p.kind == ParcelKind::In && p.job_id.is_none()) else {
        return Ok(String::new());
    };
    let file = laid_out(&scope, parcel).await?;
    drop(scope);
    let scope = store.practice(practice).await?;
    let arriving = Arriving::to(store, &scope, (parcel, row.consultant_id), row.copy).await?;
    let came = async {
        let came = bring_in(arriving, file, Some(telling)).await?;
        readable(&scope, came.job).await.map(|()| came)
    };
    let came = match came.await {
        Ok(came) => came,
        Err(e) => {
            drop(scope);
            return Err(refused(store, practice, parcel, e).await);
        }
    };
    scope.know_parcel(parcel, row.bytes, Some(came.job)).await?;
    scope.forget_parcel(parcel).await?;
    arrived(&scope, came, row.consultant_id, "a file").await?;
    scope.commit().await?;
    Ok(says(came))
}

/// A file that cannot come in is not kept either; one that could not now is there for another try.
async fn refused(store: &Store, practice: Uuid, parcel: Uuid, why: WorkError) -> WorkError {
    let forget = async {
        let scope = store.practice(practice).await?;
        scope.forget_parcel(parcel).await?;
        scope.commit().await
    };
    match why {
        WorkError::Unreadable(_) => forget.await.err().map_or(why, WorkError::from),
        other => other,
    }
}

/// Whether the pages of versions are what sealed pages are: they are shown and printed as they come.
fn are_sealed(rows: &str) -> bool {
    let rows: Vec<serde_json::Value> = serde_json::from_str(rows).unwrap_or_default();
    rows.iter().all(|r| r["html"].as_str().is_some_and(is_sealed))
}

/// Refuses a job that came in whole and cannot be read: it would take pages of the practice with it.
///
/// # Errors
/// [`WorkError::Unreadable`] where it cannot be read.
pub async fn readable(scope: &Scope, job: Uuid) -> Result<(), WorkError> {
    let read = async {
        CaseFile::load(scope, job, InView::Latest, Depth::Plan).await?;
        scope.coatings(job).await?;
        scope.time_tables(job).await?;
        scope.alert_rules(job).await?;
        Ok::<(), FileError>(())
    };
    match read.await {
        Ok(()) => Ok(()),
        Err(FileError::NotFound) => Err(WorkError::Unreadable("its job was removed".into())),
        Err(FileError::Store(StoreError::Corrupt(why))) => Err(WorkError::Unreadable(format!("it holds {why}"))),
        Err(FileError::Store(e)) => Err(e.into()),
    }
}

/// How a job came, in words.
#[must_use]
pub fn says(came: Came) -> String {
    match came.more {
        None => "brought in".into(),
        Some(0) => "here already, and nothing in it is new".into(),
        Some(n) => format!("here already, brought up to date: {n} rows are new or another"),
    }
}

/// Keeps who brought a job in, and from where.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub async fn arrived(scope: &Scope, came: Came, by: Uuid, from: &str) -> Result<(), StoreError> {
    let what = match came.more {
        None => format!("Brought a job in from {from}"),
        Some(n) => format!("Brought a job up to date from {from}: {n} rows"),
    };
    scope.audit(Uuid::now_v7(), Some(by), &what, Some(came.job)).await.map(drop)
}

/// Brings in a job from wherever it is read, or up to date what is here of it.
///
/// # Errors
/// [`WorkError::Unreadable`] with what is wrong with the file, else when the database does not play along.
pub async fn bring_in(
    mut arriving: Arriving<'_>,
    from: impl Read + Send + 'static,
    telling: Option<&Telling<'_>>,
) -> Result<Came, WorkError> {
    let (give, mut take) = mpsc::channel::<(String, String)>(AHEAD);
    let reading = tokio::task::spawn_blocking(move || {
        read(BufReader::with_capacity(1 << 18, from), FORMAT_VERSION, |table, rows| {
            if rows.len() > LONGEST_PART {
                return Err(format!("a part of {table} is too long"));
            }
            give.blocking_send((table, rows)).map_err(|_| String::new())
        })
    });
    let mut n = 0;
    let mut refused = None;
    while let Some((table, rows)) = take.recv().await {
        n += 1;
        if table == "report_text" && !are_sealed(&rows) {
            refused = Some(Refusal::File("a version of a report holds what no report holds".into()));
            break;
        }
        if let Err(why) = arriving.take(&table, &rows).await {
            refused = Some(why);
            break;
        }
        if let Some(telling) = telling.filter(|_| n % TOLD == 0) {
            telling.tell(n, 0).await?;
        }
    }
    drop(take);
    let read = reading.await.map_err(|_| WorkError::Stopped)?;
    let came = match (refused, read) {
        (Some(why), _) => Err(why),
        (None, Err(e)) => return Err(WorkError::Unreadable(e.to_string())),
        (None, Ok(())) => arriving.came().await,
    };
    came.map_err(|why| match why {
        Refusal::File(why) => WorkError::Unreadable(why),
        Refusal::Store(e) => e.into(),
    })
}

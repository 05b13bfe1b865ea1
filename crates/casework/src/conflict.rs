//! Two people change the same thing, one of them perhaps without a signal: it is noticed, and the second decides.

use store::{Change, Scope, StoreError};
use uuid::Uuid;

/// A table whose rows two people may change at once.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shared {
    /// Findings.
    Finding,
    /// Tests.
    TestRun,
    /// Pictures.
    Photo,
}

impl Shared {
    /// Its table.
    #[must_use]
    pub const fn table(self) -> &'static str {
        match self {
            Self::Finding => "finding",
            Self::TestRun => "test_run",
            Self::Photo => "photo",
        }
    }
}

/// What a form has seen of a row, and what its sender decided of a conflict.
#[derive(Debug, Clone, Copy)]
pub struct Seen<'a> {
    /// The latest change the form has seen; empty for one that has seen everything.
    pub change: &'a str,
    /// The change its sender wants to overwrite.
    pub overwrite: &'a str,
}

/// A change that came between somebody's reading of a row and their changing it.
pub struct Between {
    /// What came between.
    pub latest: Change,
    /// Whose it is.
    pub by: String,
}

/// The latest change of a row, which a form names to say what it has seen.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub async fn seen(scope: &Scope, job: Uuid, shared: Shared, id: Uuid) -> Result<String, StoreError> {
    Ok(scope.latest_change(job, shared.table(), id).await?.map(|c| c.id.to_string()).unwrap_or_default())
}

/// Whether something came between: what the form has seen is not the latest, nor was it said about the latest that it is to
/// be overwritten.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub async fn between(
    scope: &Scope,
    job: Uuid,
    shared: Shared,
    id: Uuid,
    seen: Seen<'_>,
) -> Result<Option<Between>, StoreError> {
    let Some(latest) = scope.latest_change(job, shared.table(), id).await? else { return Ok(None) };
    let now = latest.id.to_string();
    if seen.change.is_empty() || seen.change == now || seen.overwrite == now {
        return Ok(None);
    }
    let by = scope.consultant_names().await?.get(&latest.by).cloned().unwrap_or_default();
    Ok(Some(Between { latest, by }))
}

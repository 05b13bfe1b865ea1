//! The latest change that can still be undone, for an undo button.

use crate::auth::Who;
use crate::error::Failure;
use casework::CaseFile;
use store::Scope;
use uuid::Uuid;

/// The latest change that can still be undone, for an undo button.
pub struct LastChange {
    pub id: Uuid,
    pub what: String,
    pub when: String,
    pub who: String,
}

/// The latest change of these tables that is neither an undoing, nor undone, nor the opening of the job.
pub async fn last_change(
    who: &Who,
    scope: &Scope,
    file: &CaseFile,
    tables: &[&str],
) -> Result<Option<LastChange>, Failure> {
    let Some(last) = scope.last_undoable(file.job.id, tables).await? else { return Ok(None) };
    let by = file.people.get(&last.by).cloned().unwrap_or_default();
    Ok(Some(LastChange { id: last.id, what: last.what, when: who.show().moment(last.at), who: by }))
}

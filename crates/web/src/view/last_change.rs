//! The latest change that can still be undone, for an undo button.

use crate::auth::Who;
use casework::CaseFile;
use uuid::Uuid;

/// The latest change that can still be undone, for an undo button.
pub struct LastChange {
    pub id: Uuid,
    pub what: String,
    pub when: String,
    pub who: String,
}

/// The latest change of these tables.
pub fn last_change(who: &Who, file: &CaseFile, tables: &[&str]) -> Option<LastChange> {
    let last = file.last_undoable(tables)?;
    let by = file.people.get(&last.by).cloned().unwrap_or_default();
    Some(LastChange { id: last.id, what: last.what.clone(), when: who.show().moment(last.at), who: by })
}

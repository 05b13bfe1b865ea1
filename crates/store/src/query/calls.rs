//! Call sheets: one for each job.

use super::history::Act;
use crate::entity::call_sheet::{Entity, Model};
use crate::error::StoreError;
use crate::scope::Scope;
use building::call::Call;
use chrono::{DateTime, Utc};

/// A job's call sheet.
#[derive(Debug, Clone, PartialEq)]
pub struct CallSheet {
    /// The complaint in the caller's words.
    pub complaint: String,
    /// What was said.
    pub call: Call,
    /// When it was last changed.
    pub updated_at: DateTime<Utc>,
}

fn ids(text: &str) -> Vec<String> {
    text.split_whitespace().map(str::to_owned).collect()
}

pub(crate) fn sheet(r: Model) -> CallSheet {
    CallSheet {
        complaint: r.complaint,
        call: Call { said: ids(&r.said), built: ids(&r.built), year: r.year, occupants: r.occupants },
        updated_at: r.updated_at,
    }
}

impl Scope {
    /// Writes the call sheet of a job, the first time or again.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or there is no such job.
    pub async fn keep_call_sheet(&self, act: &Act, sheet: &CallSheet) -> Result<(), StoreError> {
        let row = Model {
            practice_id: self.practice,
            job_id: act.job,
            complaint: sheet.complaint.clone(),
            said: sheet.call.said.join(" "),
            built: sheet.call.built.join(" "),
            year: sheet.call.year,
            occupants: sheet.call.occupants,
            updated_by: act.by,
            updated_at: act.at,
            removed_at: None,
        };
        self.keep_one::<Entity>(act, row).await
    }
}

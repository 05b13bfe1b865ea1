//! Call sheets: one for each job.

use crate::entity::call_sheet::{Column, Entity, Model};
use crate::error::StoreError;
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use judgement::call::Call;
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveModelTrait, EntityTrait, IntoActiveModel};
use uuid::Uuid;

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

impl Scope {
    /// The call sheet of a job; `None` while none was written.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn call_sheet(&self, job: Uuid) -> Result<Option<CallSheet>, StoreError> {
        let row = Entity::find_by_id((self.practice, job)).one(&self.txn).await?;
        Ok(row.map(|r| CallSheet {
            complaint: r.complaint,
            call: Call { said: ids(&r.said), built: ids(&r.built), year: r.year, occupants: r.occupants },
            updated_at: r.updated_at,
        }))
    }

    /// Writes the call sheet of a job, the first time or again.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or there is no such job.
    pub async fn keep_call_sheet(&self, job: Uuid, by: Uuid, sheet: &CallSheet) -> Result<(), StoreError> {
        let row = Model {
            practice_id: self.practice,
            job_id: job,
            complaint: sheet.complaint.clone(),
            said: sheet.call.said.join(" "),
            built: sheet.call.built.join(" "),
            year: sheet.call.year,
            occupants: sheet.call.occupants,
            updated_by: by,
            updated_at: sheet.updated_at,
        };
        let changed = [
            Column::Complaint,
            Column::Said,
            Column::Built,
            Column::Year,
            Column::Occupants,
            Column::UpdatedBy,
            Column::UpdatedAt,
        ];
        let again = OnConflict::columns([Column::PracticeId, Column::JobId]).update_columns(changed).to_owned();
        Entity::insert(row.into_active_model().reset_all())
            .on_conflict(again)
            .exec_without_returning(&self.txn)
            .await?;
        Ok(())
    }
}

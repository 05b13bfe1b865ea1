//! Coating and sealing jobs.

use super::history::Act;
use crate::entity::coating;
use crate::error::StoreError;
use crate::record::records;
use crate::scope::Scope;
use building::coating::CoatingJob;
use sea_orm::{ColumnTrait, EntityTrait, QueryFilter, QueryOrder};
use uuid::Uuid;

impl Scope {
    /// The coatings of a job, oldest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn coatings(&self, job: Uuid) -> Result<Vec<CoatingJob>, StoreError> {
        let rows = coating::Entity::find()
            .filter(coating::Column::PracticeId.eq(self.practice))
            .filter(coating::Column::JobId.eq(job))
            .filter(coating::Column::RemovedAt.is_null())
            .order_by_asc(coating::Column::Id);
        records(rows.all(&self.txn).await?)
    }

    /// Keeps a coating, new or changed, or takes it away.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_coating(&self, act: &Act, said: &CoatingJob, removed: bool) -> Result<(), StoreError> {
        let row = coating::Model {
            practice_id: self.practice,
            id: said.id,
            job_id: act.job,
            said: serde_json::to_value(said).map_err(|e| StoreError::Corrupt(e.to_string()))?,
            removed_at: removed.then_some(act.at),
        };
        self.keep_one::<coating::Entity>(act, row).await
    }
}

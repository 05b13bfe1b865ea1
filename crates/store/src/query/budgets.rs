//! Time tables of small spaces, and a practice's own sources of water.

use super::history::Act;
use super::prices::{PracticeAct, Setting};
use crate::entity::{own_source, time_table};
use crate::error::StoreError;
use crate::record::records;
use crate::scope::Scope;
use building::timetable::{OwnSource, TimeTable};
use sea_orm::{ColumnTrait, EntityTrait, QueryFilter, QueryOrder};
use uuid::Uuid;

impl Scope {
    /// The time tables of a job, oldest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn time_tables(&self, job: Uuid) -> Result<Vec<TimeTable>, StoreError> {
        let rows = time_table::Entity::find()
            .filter(time_table::Column::PracticeId.eq(self.practice))
            .filter(time_table::Column::JobId.eq(job))
            .filter(time_table::Column::RemovedAt.is_null())
            .order_by_asc(time_table::Column::Id)
            .all(&self.txn)
            .await?;
        records(rows)
    }

    /// Keeps a time table, new or changed, or takes it away.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_time_table(&self, act: &Act, table: &TimeTable, removed: bool) -> Result<(), StoreError> {
        let row = time_table::Model {
            practice_id: self.practice,
            id: table.id,
            job_id: act.job,
            said: serde_json::to_value(table).map_err(|e| StoreError::Corrupt(e.to_string()))?,
            removed_at: removed.then_some(act.at),
        };
        self.keep_one::<time_table::Entity>(act, row).await
    }

    /// The practice's own sources, by name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn own_sources(&self) -> Result<Vec<OwnSource>, StoreError> {
        let own = own_source::Column::PracticeId.eq(self.practice);
        let mut all: Vec<OwnSource> = records(own_source::Entity::find().filter(own).all(&self.txn).await?)?;
        all.sort_by(|a, b| (&a.name, a.id).cmp(&(&b.name, b.id)));
        Ok(all)
    }

    /// Keeps one, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_own_source(&self, act: PracticeAct, source: &OwnSource) -> Result<(), StoreError> {
        let text = serde_json::to_string(source).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        self.settle(act, [(Setting::Source(source.id), Some(text))].into()).await
    }

    /// Removes one. Time tables that use it say so.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remove_own_source(&self, act: PracticeAct, id: Uuid) -> Result<(), StoreError> {
        self.settle(act, [(Setting::Source(id), None)].into()).await
    }
}

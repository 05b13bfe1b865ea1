//! Drying jobs, what was read on their rounds, and certificates.

use super::history::Act;
use crate::entity::{drying, drying_reading};
use crate::error::StoreError;
use crate::record::{Certificate, DryingReading, records};
use crate::scope::Scope;
use building::drying::DryingItem;
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder};
use std::collections::HashMap;
use uuid::Uuid;

/// Most readings kept in one statement.
const AT_ONCE: usize = 500;

impl Scope {
    /// Keeps parts of a drying job, new or changed, and takes others away, as one act.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer, [`StoreError::IdTaken`] for another job's part.
    pub async fn keep_drying(&self, act: &Act, kept: &[DryingItem], removed: &[DryingItem]) -> Result<(), StoreError> {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        let mut rows = Vec::new();
        for (item, removed_at) in kept.iter().map(|i| (i, None)).chain(removed.iter().map(|i| (i, Some(act.at)))) {
            let row = drying::Model {
                practice_id: self.practice,
                id: item.id().unwrap_or(act.job),
                job_id: act.job,
                said: serde_json::to_value(item).map_err(|e| StoreError::Corrupt(e.to_string()))?,
                removed_at,
            };
            self.put::<drying::Entity>(&mut rows, row).await?;
        }
        self.log(act, rows).await
    }

    /// Adds what was read on a round.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_drying_readings(&self, all: Vec<DryingReading>) -> Result<(), StoreError> {
        let rows: Vec<_> = all.into_iter().map(|r| r.row(self.practice).into_active_model()).collect();
        for piece in rows.chunks(AT_ONCE) {
            drying_reading::Entity::insert_many(piece.to_vec()).exec_without_returning(&self.txn).await?;
        }
        Ok(())
    }

    /// What was read on a job's drying rounds and stands, oldest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub(crate) async fn drying_readings(&self, job: Uuid) -> Result<Vec<DryingReading>, StoreError> {
        let rows = drying_reading::Entity::find()
            .filter(drying_reading::Column::PracticeId.eq(self.practice))
            .filter(drying_reading::Column::JobId.eq(job))
            .order_by_asc(drying_reading::Column::Id);
        Ok(standing(records(rows.all(&self.txn).await?)?))
    }

    /// Issues a certificate. Sent twice it is there once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn issue(&self, certificate: Certificate) -> Result<(), StoreError> {
        self.insert_once(certificate.row(self.practice).into_active_model()).await?;
        Ok(())
    }
}

/// Of several readings of one thing on one round the latest: they come oldest first.
fn standing(all: Vec<DryingReading>) -> Vec<DryingReading> {
    let mut latest = HashMap::new();
    for (i, r) in all.iter().enumerate() {
        latest.insert((r.round_id, r.of_id, r.what), i);
    }
    all.into_iter().enumerate().filter(|(i, r)| latest[&(r.round_id, r.of_id, r.what)] == *i).map(|(_, r)| r).collect()
}

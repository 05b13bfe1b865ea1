//! Findings, tests and skipped stations of a job. Each row has its id from where it was made, so that the same form sent
//! twice makes one.

use super::history::{Act, Tracked};
use crate::entity::{finding, skip, test_run};
use crate::error::StoreError;
use crate::scope::Scope;
use chrono::{DateTime, SubsecRound, Utc};
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, PrimaryKeyTrait, QueryFilter, QueryOrder};
use uuid::Uuid;

macro_rules! of_job {
    ($(#[$doc:meta])* $name:ident, $module:ident, $order:ident) => {
        $(#[$doc])*
        ///
        /// # Errors
        /// [`StoreError`] when the database does not answer.
        pub async fn $name(&self, job: Uuid) -> Result<Vec<$module::Model>, StoreError> {
            Ok($module::Entity::find()
                .filter($module::Column::PracticeId.eq(self.practice))
                .filter($module::Column::JobId.eq(job))
                .filter($module::Column::RemovedAt.is_null())
                .order_by_desc($module::Column::$order)
                .all(&self.txn)
                .await?)
        }
    };
}

impl Scope {
    of_job!(
        /// Findings of a job, latest first, and what was looked for and is not there.
        all_findings, finding, FoundAt
    );
    of_job!(
        /// Tests of a job, latest first.
        test_runs, test_run, StartedAt
    );
    of_job!(
        /// Stations passed by on a job's visits, latest first.
        skips, skip, SkippedAt
    );

    /// Findings of a job, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn findings(&self, job: Uuid) -> Result<Vec<finding::Model>, StoreError> {
        Ok(self.all_findings(job).await?.into_iter().filter(|r| !r.absent).collect())
    }

    /// What was looked for and is not there, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn absent_findings(&self, job: Uuid) -> Result<Vec<finding::Model>, StoreError> {
        Ok(self.all_findings(job).await?.into_iter().filter(|r| r.absent).collect())
    }

    /// Keeps a finding, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_finding(&self, act: &Act, row: finding::Model) -> Result<(), StoreError> {
        self.keep_findings(act, vec![row]).await
    }

    /// Keeps findings, new or changed, all by one act.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_findings(&self, act: &Act, all: Vec<finding::Model>) -> Result<(), StoreError> {
        let exact = |row: finding::Model| {
            let (found_at, gone_at) = (micros(row.found_at), row.gone_at.map(micros));
            finding::Model { found_at, gone_at, ..row }
        };
        self.keep_all::<finding::Entity>(act, all.into_iter().map(exact).collect()).await
    }

    /// Keeps a test, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_test(&self, act: &Act, row: test_run::Model) -> Result<(), StoreError> {
        let (started_at, ended_at) = (micros(row.started_at), row.ended_at.map(micros));
        self.keep_one::<test_run::Entity>(act, test_run::Model { started_at, ended_at, ..row }).await
    }

    /// Keeps that a station was passed by.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_skip(&self, act: &Act, row: skip::Model) -> Result<(), StoreError> {
        self.keep_one::<skip::Entity>(act, skip::Model { skipped_at: micros(row.skipped_at), ..row }).await
    }

    /// Keeps one row under an act; an act sent twice is done once.
    pub(crate) async fn keep_one<E: Tracked>(&self, act: &Act, row: E::Model) -> Result<(), StoreError>
    where
        E::Model: IntoActiveModel<<E as EntityTrait>::ActiveModel>,
        <E::PrimaryKey as PrimaryKeyTrait>::ValueType: From<(Uuid, Uuid)>,
    {
        self.keep_all::<E>(act, vec![row]).await
    }

    /// Keeps rows under one act; an act sent twice is done once.
    pub(crate) async fn keep_all<E: Tracked>(&self, act: &Act, all: Vec<E::Model>) -> Result<(), StoreError>
    where
        E::Model: IntoActiveModel<<E as EntityTrait>::ActiveModel>,
        <E::PrimaryKey as PrimaryKeyTrait>::ValueType: From<(Uuid, Uuid)>,
    {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        let mut rows = Vec::new();
        for row in all {
            self.put::<E>(&mut rows, row).await?;
        }
        self.log(act, rows).await
    }
}

/// To the precision the database keeps, so that a row read back is the row written.
fn micros(at: DateTime<Utc>) -> DateTime<Utc> {
    at.trunc_subsecs(6)
}

//! Findings, tests and skipped stations of a job. Each row has its id from where it was made, so that the same form sent
//! twice makes one.

use super::history::{Act, Tracked};
use crate::entity::{finding, skip, test_run};
use crate::error::StoreError;
use crate::record::{FindingRecord, Skip, TestRun};
use crate::scope::Scope;
use sea_orm::{EntityTrait, IntoActiveModel, PrimaryKeyTrait};
use uuid::Uuid;

impl Scope {
    /// Keeps a finding, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_finding(&self, act: &Act, row: FindingRecord) -> Result<(), StoreError> {
        self.keep_findings(act, vec![row]).await
    }

    /// Keeps findings, new or changed, all by one act.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_findings(&self, act: &Act, all: Vec<FindingRecord>) -> Result<(), StoreError> {
        let rows = all.into_iter().map(|r| r.row(self.practice, act.at)).collect();
        self.keep_all::<finding::Entity>(act, rows).await
    }

    /// Keeps a test, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_test(&self, act: &Act, record: TestRun) -> Result<(), StoreError> {
        self.keep_one::<test_run::Entity>(act, record.row(self.practice, act.at)).await
    }

    /// Keeps that a station was passed by.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_skip(&self, act: &Act, record: Skip) -> Result<(), StoreError> {
        self.keep_one::<skip::Entity>(act, record.row(self.practice, act.at)).await
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

//! What a consultant concludes: one for each job.

use super::history::Act;
use crate::entity::conclusion::{Entity, Model};
use crate::error::StoreError;
use crate::scope::Scope;
use sea_orm::EntityTrait;
use uuid::Uuid;

impl Scope {
    /// The conclusion on a job; `None` while none was drawn.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn conclusion(&self, job: Uuid) -> Result<Option<Model>, StoreError> {
        let row = Entity::find_by_id((self.practice, job)).one(&self.txn).await?;
        Ok(row.filter(|r| r.removed_at.is_none()))
    }

    /// Keeps the conclusion on a job, the first time or again. Sent twice it is kept once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_conclusion(
        &self,
        act: &Act,
        causes: &[&str],
        computed: &[&str],
        reason: &str,
    ) -> Result<(), StoreError> {
        if self.acted(act.id).await? {
            return Ok(());
        }
        let row = Model {
            practice_id: self.practice,
            job_id: act.job,
            causes: causes.join(" "),
            computed: computed.join(" "),
            reason: reason.to_owned(),
            updated_by: act.by,
            updated_at: act.at,
            removed_at: None,
        };
        let mut rows = Vec::new();
        self.put::<Entity>(&mut rows, row).await?;
        self.log(act, rows).await
    }
}

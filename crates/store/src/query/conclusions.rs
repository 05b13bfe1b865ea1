//! What a consultant concludes: one for a job's whole building, and one for each place that has its own.

use super::history::{Act, Tracked};
use super::plans::plan_row_id;
use crate::entity::conclusion::{Entity, Model};
use crate::error::StoreError;
use crate::record::Conclusion;
use crate::scope::Scope;
use sea_orm::EntityTrait;
use uuid::Uuid;

/// The id of the conclusion on a place, or on the whole building.
fn row_id(job: Uuid, space: Option<Uuid>) -> Uuid {
    space.map_or(job, |space| plan_row_id(job, &format!("conclusion {space}")))
}

fn owned(ids: &[&str]) -> Vec<String> {
    ids.iter().map(|id| (*id).to_owned()).collect()
}

/// A conclusion to keep.
#[derive(Debug, Clone)]
pub struct NewConclusion<'a> {
    /// The place it is about; none for the whole building.
    pub space: Option<Uuid>,
    /// Ids of the causes.
    pub causes: &'a [&'a str],
    /// Ids of what was computed when it was drawn.
    pub computed: &'a [&'a str],
    /// Why it differs.
    pub reason: &'a str,
}

impl Scope {
    /// Keeps a conclusion, the first time or again. Sent twice it is kept once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_conclusion(&self, act: &Act, new: &NewConclusion<'_>) -> Result<(), StoreError> {
        let conclusion = Conclusion {
            id: row_id(act.job, new.space),
            job_id: act.job,
            space_id: new.space,
            causes: owned(new.causes),
            computed: owned(new.computed),
            reason: new.reason.to_owned(),
            updated_by: act.by,
            updated_at: act.at,
            removed: false,
        };
        self.write_conclusion(act, conclusion.row(self.practice, act.at)).await
    }

    /// Takes the conclusion on a place back; nothing happens where there is none.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn withdraw_conclusion(&self, act: &Act, space: Option<Uuid>) -> Result<(), StoreError> {
        let row = Entity::find_by_id((self.practice, row_id(act.job, space))).one(&self.txn).await?;
        let Some(mut row) = row.filter(|r| r.removed_at.is_none()) else { return Ok(()) };
        Entity::remove(&mut row, act.at);
        self.write_conclusion(act, row).await
    }

    async fn write_conclusion(&self, act: &Act, row: Model) -> Result<(), StoreError> {
        self.keep_one::<Entity>(act, row).await
    }
}

//! What a consultant decides about a job's plan: steps, figures typed over, schools, and what is looked at again.

use super::history::Act;
use crate::entity::{follow_up, plan_figure, plan_step, school};
use crate::error::StoreError;
use crate::record::{ChosenSchool, FollowUpRecord, FollowUpState, StepDecision, TypedFigure, records};
use crate::scope::Scope;
use chrono::NaiveDate;
use sea_orm::sea_query::Expr;
use sea_orm::{ColumnTrait, EntityTrait, PaginatorTrait, QueryFilter, QueryOrder, QuerySelect};
use uuid::Uuid;

/// The id of the one row a job has for something: the same wherever it is made.
#[must_use]
pub fn plan_row_id(job: Uuid, what: &str) -> Uuid {
    Uuid::new_v5(&job, what.as_bytes())
}

/// Everything decided about a plan.
#[derive(Debug, Clone, Default)]
pub struct PlanRows {
    /// Steps somebody said something of.
    pub steps: Vec<StepDecision>,
    /// Figures typed over.
    pub figures: Vec<TypedFigure>,
    /// Schools chosen for this job.
    pub schools: Vec<ChosenSchool>,
    /// What is looked at again, soonest first.
    pub follow_ups: Vec<FollowUpRecord>,
}

impl Scope {
    /// Keeps what was decided about a step.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_plan_step(&self, act: &Act, record: StepDecision) -> Result<(), StoreError> {
        let record = StepDecision { updated_by: act.by, updated_at: act.at, ..record };
        self.keep_one::<plan_step::Entity>(act, record.row(self.practice, act.at)).await
    }

    /// Keeps a school chosen for a job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_school(&self, act: &Act, record: ChosenSchool) -> Result<(), StoreError> {
        let record = ChosenSchool { updated_by: act.by, updated_at: act.at, ..record };
        self.keep_one::<school::Entity>(act, record.row(self.practice, act.at)).await
    }

    /// Keeps figures typed over, all those of one form; those removed go back to what the job knows.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_plan_figures(&self, act: &Act, all: Vec<TypedFigure>) -> Result<(), StoreError> {
        let by = |record| TypedFigure { updated_by: act.by, updated_at: act.at, ..record };
        let rows = all.into_iter().map(|r| by(r).row(self.practice, act.at)).collect();
        self.keep_all::<plan_figure::Entity>(act, rows).await
    }

    /// Keeps what is looked at again, several at once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_follow_ups(&self, act: &Act, all: Vec<FollowUpRecord>) -> Result<(), StoreError> {
        let by = |record| FollowUpRecord { updated_by: act.by, updated_at: act.at, ..record };
        let rows = all.into_iter().map(|r| by(r).row(self.practice, act.at)).collect();
        self.keep_all::<follow_up::Entity>(act, rows).await
    }

    /// Some of what is still to be looked at on jobs of the docket, soonest first, and how much there is; of any day
    /// without one.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn open_follow_ups(
        &self,
        until: Option<NaiveDate>,
        from: u64,
        most: u64,
    ) -> Result<(Vec<FollowUpRecord>, u64), StoreError> {
        let of_docket = "exists (select from job where job.practice_id = follow_up.practice_id \
            and job.id = follow_up.job_id and job.removed_at is null)";
        let open = follow_up::Entity::find()
            .filter(follow_up::Column::PracticeId.eq(self.practice))
            .filter(follow_up::Column::State.eq(FollowUpState::Open.id()))
            .filter(follow_up::Column::RemovedAt.is_null())
            .filter(Expr::cust(of_docket))
            .order_by_asc(follow_up::Column::DueOn)
            .order_by_asc(follow_up::Column::Id);
        let open = match until {
            Some(day) => open.filter(follow_up::Column::DueOn.lte(day)),
            None => open,
        };
        let count = open.clone().count(&self.txn).await?;
        Ok((records(open.offset(from).limit(most).all(&self.txn).await?)?, count))
    }
}

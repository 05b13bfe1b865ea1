//! Visits: one open at a time for each job.

use crate::entity::visit::{self, Entity};
use crate::error::StoreError;
use crate::record::{Visit, records};
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use sea_orm::sea_query::Expr;
use sea_orm::{ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, Set};
use uuid::Uuid;

impl Scope {
    /// Visits to a job, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn visits(&self, job: Uuid) -> Result<Vec<Visit>, StoreError> {
        self.visits_of(&[job]).await
    }

    /// Visits to some jobs, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn visits_of(&self, jobs: &[Uuid]) -> Result<Vec<Visit>, StoreError> {
        let rows = Entity::find()
            .filter(visit::Column::PracticeId.eq(self.practice))
            .filter(visit::Column::JobId.is_in(jobs.to_vec()))
            .order_by_desc(visit::Column::StartedAt);
        records(rows.all(&self.txn).await?)
    }

    /// Starts a visit, or gives the one already open: a job is walked by one visit at a time.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] for the id of another job's visit, [`StoreError`] when the database does not answer.
    pub async fn start_visit(&self, new: Visit) -> Result<Visit, StoreError> {
        let (job, id, new) = (new.job_id, new.id, new.row(self.practice));
        self.turn(&format!("visits {job}")).await?;
        let inserted = self.insert_once(new.into_active_model()).await?;
        let visits = self.visits(job).await?;
        if !inserted && !visits.iter().any(|v| v.ended_at.is_none() || v.id == id) {
            return Err(StoreError::IdTaken(id));
        }
        let open = visits.iter().position(|v| v.ended_at.is_none()).unwrap_or(0);
        visits.into_iter().nth(open).ok_or_else(|| StoreError::Corrupt("a visit just started is not there".into()))
    }

    /// Notes who looked through a trainee’s visit; `false` when there is nothing to look through any more.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn review_visit(&self, v: &Visit, by: Uuid, at: DateTime<Utc>) -> Result<bool, StoreError> {
        let noted = Entity::update_many()
            .col_expr(visit::Column::ReviewedBy, Expr::value(by))
            .col_expr(visit::Column::ReviewedAt, Expr::value(at))
            .filter(visit::Column::PracticeId.eq(self.practice))
            .filter(visit::Column::Id.eq(v.id))
            .filter(visit::Column::ForReview.eq(true))
            .filter(visit::Column::ReviewedAt.is_null())
            .exec(&self.txn)
            .await?;
        Ok(noted.rows_affected > 0)
    }

    /// Closes a visit, or opens it again (`None`). `false` when another visit to the job is open.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or there is no such visit.
    pub async fn set_visit_end(&self, v: &Visit, end: Option<DateTime<Utc>>) -> Result<bool, StoreError> {
        self.turn(&format!("visits {}", v.job_id)).await?;
        if end.is_none() && self.visits(v.job_id).await?.iter().any(|o| o.ended_at.is_none() && o.id != v.id) {
            return Ok(false);
        }
        let mut row = v.clone().row(self.practice).into_active_model();
        row.ended_at = Set(end);
        row.update(&self.txn).await?;
        Ok(true)
    }
}

//! Jobs.

use super::history::Act;
use crate::entity::{change, job};
use crate::error::StoreError;
use crate::scope::Scope;
use building::{Building, Climate, Structure};
use chrono::{DateTime, Utc};
use sea_orm::sea_query::Expr;
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, QuerySelect};
use std::collections::HashMap;
use uuid::Uuid;

/// A job.
#[derive(Debug, Clone, PartialEq)]
pub struct Job {
    /// Identity.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// One line.
    pub address: String,
    /// Structure kind.
    pub structure: Structure,
    /// Climate.
    pub climate: Climate,
    /// Design outdoor temperature, °C.
    pub design_outdoor_c: f64,
    /// Where it stands.
    pub site: Site,
    /// When it was opened.
    pub created_at: DateTime<Utc>,
    /// Whether it is a trainee's own, to practice on.
    pub rehearsal: bool,
    /// When it was put in the archive.
    pub archived_at: Option<DateTime<Utc>>,
}

/// Where a job stands.
#[derive(Debug, Clone, Copy, Default, PartialEq)]
pub struct Site {
    /// Above the sea, m.
    pub altitude_m: f64,
    /// Latitude and longitude, °; none where nobody said.
    pub at: Option<[f64; 2]>,
}

/// What a job's form holds.
#[derive(Debug, Clone, PartialEq)]
pub struct JobEdit {
    /// Name.
    pub name: String,
    /// One line.
    pub address: String,
    /// Climate.
    pub climate: Climate,
    /// Design outdoor temperature, °C.
    pub design_outdoor_c: f64,
    /// Where it stands.
    pub site: Site,
}

/// A job to create. Its id comes from the form, so that a form sent twice makes one job.
#[derive(Debug, Clone)]
pub struct NewJob {
    /// Identity.
    pub id: Uuid,
    /// The form.
    pub edit: JobEdit,
    /// Structure kind.
    pub structure: Structure,
    /// Whether it is a trainee's own, to practice on.
    pub rehearsal: bool,
    /// Who opens it.
    pub created_by: Uuid,
    /// When.
    pub created_at: DateTime<Utc>,
}

impl TryFrom<job::Model> for Job {
    type Error = StoreError;
    fn try_from(row: job::Model) -> Result<Self, StoreError> {
        let unknown = |what: &str, id: &str| StoreError::Corrupt(format!("unknown {what} {id}"));
        Ok(Self {
            id: row.id,
            structure: Structure::from_id(&row.structure).ok_or_else(|| unknown("structure", &row.structure))?,
            climate: Climate::from_id(&row.climate).ok_or_else(|| unknown("climate", &row.climate))?,
            name: row.name,
            address: row.address,
            design_outdoor_c: row.design_outdoor_c,
            site: Site { altitude_m: row.altitude_m, at: row.latitude.zip(row.longitude).map(|(n, e)| [n, e]) },
            created_at: row.created_at,
            rehearsal: row.rehearsal,
            archived_at: row.archived_at,
        })
    }
}

impl Scope {
    /// Some jobs by their id.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn jobs_by_id(&self, ids: &[Uuid]) -> Result<HashMap<Uuid, Job>, StoreError> {
        let rows = job::Entity::find()
            .filter(job::Column::PracticeId.eq(self.practice))
            .filter(job::Column::Id.is_in(ids.to_vec()))
            .all(&self.txn)
            .await?;
        rows.into_iter().map(|r| Ok((r.id, Job::try_from(r)?))).collect()
    }

    /// One job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or the row cannot be read.
    pub async fn job(&self, id: Uuid) -> Result<Option<Job>, StoreError> {
        self.job_row(id).await?.map(Job::try_from).transpose()
    }

    /// Creates a job with its building. `false` when that id exists already: the same form sent twice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn create_job(&self, new: &NewJob, building: &Building) -> Result<bool, StoreError> {
        let row = job::Model {
            practice_id: self.practice,
            id: new.id,
            name: new.edit.name.clone(),
            address: new.edit.address.clone(),
            structure: new.structure.id().to_owned(),
            climate: new.edit.climate.id().to_owned(),
            design_outdoor_c: new.edit.design_outdoor_c,
            altitude_m: new.edit.site.altitude_m,
            latitude: new.edit.site.at.map(|at| at[0]),
            longitude: new.edit.site.at.map(|at| at[1]),
            created_by: new.created_by,
            created_at: new.created_at,
            removed_at: None,
            rehearsal: new.rehearsal,
            archived_at: None,
        };
        if !self.insert_once(row.into_active_model()).await? {
            return Ok(false);
        }
        let act = Act::new(new.id, new.id, new.created_by, new.created_at, "Opened the job");
        self.keep_building(&act, building).await?;
        Ok(true)
    }

    /// Changes what a job's form holds.
    ///
    /// # Errors
    /// [`StoreError::Gone`] when there is no such job, [`StoreError`] when the database does not answer.
    pub async fn edit_job(&self, act: &Act, edit: &JobEdit) -> Result<(), StoreError> {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        let row = self.job_row(act.job).await?.ok_or(StoreError::Gone)?;
        let row = job::Model {
            name: edit.name.clone(),
            address: edit.address.clone(),
            climate: edit.climate.id().to_owned(),
            design_outdoor_c: edit.design_outdoor_c,
            altitude_m: edit.site.altitude_m,
            latitude: edit.site.at.map(|at| at[0]),
            longitude: edit.site.at.map(|at| at[1]),
            ..row
        };
        let mut rows = Vec::new();
        self.put::<job::Entity>(&mut rows, row).await?;
        self.log(act, rows).await
    }

    /// Takes a job off the docket. It can be restored by undoing this.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remove_job(&self, act: &Act) -> Result<(), StoreError> {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        // Somebody else removed it meanwhile: it is removed.
        let Some(row) = self.job_row(act.job).await? else { return Ok(()) };
        let mut rows = Vec::new();
        self.put::<job::Entity>(&mut rows, job::Model { removed_at: Some(act.at), ..row }).await?;
        self.log(act, rows).await
    }

    /// Jobs taken off the docket since a moment, latest first, each with the change that did it.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn removed_jobs(&self, since: DateTime<Utc>) -> Result<Vec<(Job, Uuid)>, StoreError> {
        let removed = job::Entity::find()
            .filter(job::Column::PracticeId.eq(self.practice))
            .filter(job::Column::RemovedAt.gte(since))
            .order_by_desc(job::Column::RemovedAt)
            .all(&self.txn)
            .await?;
        let ids: Vec<Uuid> = removed.iter().map(|r| r.id).collect();
        let moments: Vec<DateTime<Utc>> = removed.iter().filter_map(|r| r.removed_at).collect();
        // The row's moment has the database's precision, the change's too: they are the same act's.
        let changes = change::Entity::find()
            .filter(change::Column::PracticeId.eq(self.practice))
            .filter(change::Column::JobId.is_in(ids))
            .filter(change::Column::At.is_in(moments))
            .filter(Expr::cust_with_values("rows @> $1", [serde_json::json!([{ "table": "job" }])]))
            .all(&self.txn)
            .await?;
        let change_of = |row: &job::Model| changes.iter().find(|c| c.job_id == row.id && Some(c.at) == row.removed_at);
        removed
            .into_iter()
            .filter_map(|row| change_of(&row).map(|c| c.id).map(|change| Ok((Job::try_from(row)?, change))))
            .collect()
    }

    /// Makes others who would change this job wait until this scope is done. `false` when there is no such job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn hold_job(&self, id: Uuid) -> Result<bool, StoreError> {
        let row = job::Entity::find_by_id((self.practice, id)).lock_exclusive().one(&self.txn).await?;
        Ok(row.is_some())
    }

    pub(super) async fn job_row(&self, id: Uuid) -> Result<Option<job::Model>, StoreError> {
        let row = job::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        Ok(row.filter(|r| r.removed_at.is_none()))
    }
}

//! Jobs and their buildings.

use crate::entity::{boundary, job, space, station, surface};
use crate::error::StoreError;
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use judgement::building::{Boundary, Building, Climate, Place, Side, Structure};
use sea_orm::{ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, Set};
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
    /// When it was opened.
    pub created_at: DateTime<Utc>,
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
            created_at: row.created_at,
        })
    }
}

impl Scope {
    /// Every job, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn jobs(&self) -> Result<Vec<Job>, StoreError> {
        let rows = job::Entity::find()
            .filter(job::Column::PracticeId.eq(self.practice))
            .order_by_desc(job::Column::CreatedAt)
            .all(&self.txn)
            .await?;
        rows.into_iter().map(Job::try_from).collect()
    }

    /// One job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or the row cannot be read.
    pub async fn job(&self, id: Uuid) -> Result<Option<Job>, StoreError> {
        job::Entity::find_by_id((self.practice, id)).one(&self.txn).await?.map(Job::try_from).transpose()
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
            created_by: new.created_by,
            created_at: new.created_at,
        };
        if !self.insert_once(row.into_active_model()).await? {
            return Ok(false);
        }
        self.insert_building(new.id, building).await?;
        Ok(true)
    }

    async fn insert_building(&self, job_id: Uuid, building: &Building) -> Result<(), StoreError> {
        let practice_id = self.practice;
        let spaces = (0..).zip(&building.spaces).map(|(position, s)| space::Model {
            practice_id,
            id: s.id,
            job_id,
            position,
            name: s.name.clone(),
            kind: s.kind.id().to_owned(),
            level: s.level.id().to_owned(),
            place: s.column,
            area_m2: s.area_m2,
            height_m: s.height_m,
        });
        space::Entity::insert_many(spaces.map(|m| m.into_active_model().reset_all()))
            .exec_without_returning(&self.txn)
            .await?;
        let boundaries =
            (0..).zip(&building.boundaries).map(|(position, b)| boundary_row(practice_id, job_id, position, b));
        boundary::Entity::insert_many(boundaries.map(|m| m.into_active_model().reset_all()))
            .exec_without_returning(&self.txn)
            .await?;
        let surfaces = (0..).zip(&building.surfaces).map(|(position, s)| surface::Model {
            practice_id,
            id: s.id,
            job_id,
            position,
            boundary_id: s.boundary_id,
            space_id: s.space_id,
            name: s.name.clone(),
            short: s.short.clone(),
            material: s.material.id().to_owned(),
        });
        surface::Entity::insert_many(surfaces.map(|m| m.into_active_model().reset_all()))
            .exec_without_returning(&self.txn)
            .await?;
        let stations = (0..).zip(&building.stations).map(|(position, s)| {
            let (space_id, surface_id) = match s.place {
                Place::Outdoors => (None, None),
                Place::Space(id) => (Some(id), None),
                Place::Surface(id) => (None, Some(id)),
            };
            station::Model { practice_id, id: s.id, job_id, position, space_id, surface_id }
        });
        station::Entity::insert_many(stations.map(|m| m.into_active_model().reset_all()))
            .exec_without_returning(&self.txn)
            .await?;
        Ok(())
    }

    /// Changes what a job's form holds.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or there is no such job.
    pub async fn edit_job(&self, id: Uuid, edit: &JobEdit) -> Result<(), StoreError> {
        let row = job::ActiveModel {
            practice_id: Set(self.practice),
            id: Set(id),
            name: Set(edit.name.clone()),
            address: Set(edit.address.clone()),
            climate: Set(edit.climate.id().to_owned()),
            design_outdoor_c: Set(edit.design_outdoor_c),
            ..Default::default()
        };
        row.update(&self.txn).await?;
        Ok(())
    }

    /// The building of a job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn building(&self, job: Uuid) -> Result<Building, StoreError> {
        Ok(self.buildings(&[job]).await?.remove(&job).unwrap_or_default())
    }

    /// The buildings of several jobs, in four queries.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn buildings(&self, jobs: &[Uuid]) -> Result<HashMap<Uuid, Building>, StoreError> {
        let mut out: HashMap<Uuid, Building> = HashMap::new();
        let jobs = jobs.to_vec();
        macro_rules! collect {
            ($module:ident, $field:ident, $convert:expr) => {
                let rows = $module::Entity::find()
                    .filter($module::Column::PracticeId.eq(self.practice))
                    .filter($module::Column::JobId.is_in(jobs.clone()))
                    .order_by_asc($module::Column::Position)
                    .all(&self.txn)
                    .await?;
                for row in rows {
                    out.entry(row.job_id).or_default().$field.push($convert(row)?);
                }
            };
        }
        collect!(space, spaces, TryInto::try_into);
        collect!(boundary, boundaries, TryInto::try_into);
        collect!(surface, surfaces, TryInto::try_into);
        collect!(station, stations, |row: station::Model| Ok::<_, StoreError>(row.into()));
        Ok(out)
    }
}

fn boundary_row(practice_id: Uuid, job_id: Uuid, position: i32, b: &Boundary) -> boundary::Model {
    let (beyond, beyond_space_id) = match b.beyond {
        Side::Space(id) => ("space", Some(id)),
        Side::Outdoors => ("outdoors", None),
        Side::Ground => ("ground", None),
    };
    boundary::Model {
        practice_id,
        id: b.id,
        job_id,
        position,
        name: b.name.clone(),
        space_id: b.space_id,
        beyond: beyond.to_owned(),
        beyond_space_id,
        face: b.face.id().to_owned(),
        bare_soil: b.bare_soil,
    }
}

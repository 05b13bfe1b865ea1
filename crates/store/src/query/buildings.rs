//! Buildings of jobs.

use super::history::{Act, RowChange, Tracked};
use crate::entity::{boundary, space, station, surface};
use crate::error::StoreError;
use crate::scope::Scope;
use building::{Boundary, Building, Place, Side, Space, Station, Surface};
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, PrimaryKeyTrait, QueryFilter, QueryOrder};
use std::collections::{HashMap, HashSet};
use uuid::Uuid;

impl Scope {
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
        macro_rules! collect {
            ($module:ident, $field:ident, $convert:expr) => {
                let rows = $module::Entity::find()
                    .filter($module::Column::PracticeId.eq(self.practice))
                    .filter($module::Column::JobId.is_in(jobs.to_vec()))
                    .filter($module::Column::RemovedAt.is_null())
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

    /// Makes the stored building this one: what is new is added, what differs changed, what is gone removed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_building(&self, act: &Act, building: &Building) -> Result<(), StoreError> {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        let mut rows = Vec::new();
        self.put_building(&mut rows, act, building).await?;
        self.log(act, rows).await
    }

    /// The same as part of a larger act: what was changed is added to its rows.
    pub(crate) async fn put_building(
        &self,
        rows: &mut Vec<RowChange>,
        act: &Act,
        building: &Building,
    ) -> Result<(), StoreError> {
        let (practice, job) = (self.practice, act.job);
        macro_rules! keep {
            ($module:ident, $field:ident, $row:ident) => {
                let wanted = (0..).zip(&building.$field).map(|(at, x)| $row(practice, job, at, x));
                let there = $module::Entity::find()
                    .filter($module::Column::PracticeId.eq(practice))
                    .filter($module::Column::JobId.eq(job))
                    .filter($module::Column::RemovedAt.is_null())
                    .all(&self.txn)
                    .await?;
                self.keep_rows::<$module::Entity>(rows, act, wanted.collect(), there).await?;
            };
        }
        keep!(space, spaces, space_row);
        keep!(boundary, boundaries, boundary_row);
        keep!(surface, surfaces, surface_row);
        keep!(station, stations, station_row);
        Ok(())
    }

    async fn keep_rows<E: Tracked>(
        &self,
        rows: &mut Vec<RowChange>,
        act: &Act,
        wanted: Vec<E::Model>,
        there: Vec<E::Model>,
    ) -> Result<(), StoreError>
    where
        E::Model: IntoActiveModel<<E as EntityTrait>::ActiveModel>,
        <E::PrimaryKey as PrimaryKeyTrait>::ValueType: From<(Uuid, Uuid)>,
    {
        let kept: HashSet<Uuid> = wanted.iter().map(E::key).collect();
        for row in wanted.into_iter().filter(|row| !there.contains(row)) {
            self.put::<E>(rows, row).await?;
        }
        for mut gone in there.into_iter().filter(|row| !kept.contains(&E::key(row))) {
            E::remove(&mut gone, act.at);
            self.put::<E>(rows, gone).await?;
        }
        Ok(())
    }
}

fn space_row(practice_id: Uuid, job_id: Uuid, position: i32, s: &Space) -> space::Model {
    space::Model {
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
        removed_at: None,
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
        buildup: b.buildup.clone(),
        removed_at: None,
    }
}

fn surface_row(practice_id: Uuid, job_id: Uuid, position: i32, s: &Surface) -> surface::Model {
    surface::Model {
        practice_id,
        id: s.id,
        job_id,
        position,
        boundary_id: s.boundary_id,
        space_id: s.space_id,
        name: s.name.clone(),
        short: s.short.clone(),
        material: s.material.id().to_owned(),
        removed_at: None,
    }
}

fn station_row(practice_id: Uuid, job_id: Uuid, position: i32, s: &Station) -> station::Model {
    let (space_id, surface_id) = match s.place {
        Place::Outdoors => (None, None),
        Place::Space(id) => (Some(id), None),
        Place::Surface(id) => (None, Some(id)),
    };
    station::Model { practice_id, id: s.id, job_id, position, space_id, surface_id, removed_at: None }
}

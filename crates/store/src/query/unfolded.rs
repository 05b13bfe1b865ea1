//! Spaces laid flat, where things are on them, and moisture maps.

use super::history::Act;
use crate::entity::{layout, map_point, moisture_map, placed};
use crate::error::StoreError;
use crate::record::{MapReading, MoistureMap, Placing};
use crate::scope::Scope;
use building::Building;
use building::unfold::Layout;
use sea_orm::{EntityTrait, IntoActiveModel};

/// Most places kept in one statement.
const AT_ONCE: usize = 500;

impl Scope {
    /// Keeps a space laid flat, and the building whose space has its area and height, as one act.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_layout(&self, act: &Act, building: &Building, laid: &Layout) -> Result<(), StoreError> {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        let json = |e: serde_json::Error| StoreError::Corrupt(e.to_string());
        let row = layout::Model {
            practice_id: self.practice,
            id: laid.space_id,
            job_id: act.job,
            shape: serde_json::to_value(laid.shape).map_err(json)?,
            fixtures: serde_json::to_value(&laid.fixtures).map_err(json)?,
            removed_at: None,
        };
        let mut rows = Vec::new();
        self.put::<layout::Entity>(&mut rows, row).await?;
        self.put_building(&mut rows, act, building).await?;
        self.log(act, rows).await
    }

    /// Keeps where something is.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_placing(&self, act: &Act, placing: Placing) -> Result<(), StoreError> {
        self.keep_one::<placed::Entity>(act, placing.row(self.practice, act.at)).await
    }

    /// Keeps what is known of a map.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_map(&self, act: &Act, map: MoistureMap) -> Result<(), StoreError> {
        self.keep_one::<moisture_map::Entity>(act, map.row(self.practice, act.at)).await
    }

    /// Adds places of a map.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_map_readings(&self, all: Vec<MapReading>) -> Result<(), StoreError> {
        let rows: Vec<_> = all.into_iter().map(|r| r.row(self.practice).into_active_model()).collect();
        for piece in rows.chunks(AT_ONCE) {
            map_point::Entity::insert_many(piece.to_vec()).exec_without_returning(&self.txn).await?;
        }
        Ok(())
    }
}

/// Of several readings at one place the latest: they come by map, number and id.
pub(crate) fn standing(mut all: Vec<MapReading>) -> Vec<MapReading> {
    all.reverse();
    all.dedup_by_key(|r| (r.map_id, r.n));
    all.reverse();
    all
}

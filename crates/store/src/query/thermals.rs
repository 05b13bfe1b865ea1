//! Thermal pictures of a job.

use super::history::Act;
use crate::entity::{thermal, thermal_cells};
use crate::error::StoreError;
use crate::record::Thermal;
use crate::scope::Scope;
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter};

/// A cell that was not read.
const HOLE: i16 = i16::MIN;

fn packed(cells: &[Vec<Option<f64>>]) -> Vec<u8> {
    let one = |c: &Option<f64>| c.map_or(HOLE, |t| (t * 100.0).round().clamp(-32_000.0, 32_000.0) as i16);
    cells.iter().flatten().flat_map(|c| one(c).to_le_bytes()).collect()
}

fn unpacked(bytes: &[u8], columns: usize) -> Vec<Vec<Option<f64>>> {
    let one = |pair: &[u8]| {
        let hundredths = i16::from_le_bytes([pair[0], pair[1]]);
        (hundredths != HOLE).then(|| f64::from(hundredths) / 100.0)
    };
    bytes.chunks_exact(2 * columns.max(1)).map(|row| row.chunks_exact(2).map(one).collect()).collect()
}

impl Scope {
    /// Adds a picture with its cells, °C, row by row from the top. Sent twice it is there once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_thermal(&self, act: &Act, picture: Thermal, cells: &[Vec<Option<f64>>]) -> Result<(), StoreError> {
        let id = picture.id;
        self.keep_thermal(act, picture).await?;
        let row = thermal_cells::Model { practice_id: self.practice, thermal_id: id, cells: packed(cells) };
        self.insert_once(row.into_active_model()).await?;
        Ok(())
    }

    /// Keeps what is known of a picture.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_thermal(&self, act: &Act, picture: Thermal) -> Result<(), StoreError> {
        self.keep_one::<thermal::Entity>(act, picture.row(self.practice, act.at)).await
    }

    /// The cells of a picture, °C, row by row from the top; `None` where there is no such picture.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn thermal_cells(&self, picture: &Thermal) -> Result<Option<Vec<Vec<Option<f64>>>>, StoreError> {
        let row = thermal_cells::Entity::find_by_id((self.practice, picture.id)).one(&self.txn).await?;
        Ok(row.map(|r| unpacked(&r.cells, picture.columns.unsigned_abs() as usize)))
    }

    /// The cells of several pictures, in one statement, in the pictures' order; one without cells is left out.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn thermal_cells_of(
        &self,
        pictures: &[Thermal],
    ) -> Result<Vec<(Thermal, Vec<Vec<Option<f64>>>)>, StoreError> {
        if pictures.is_empty() {
            return Ok(Vec::new());
        }
        let rows = thermal_cells::Entity::find()
            .filter(thermal_cells::Column::PracticeId.eq(self.practice))
            .filter(thermal_cells::Column::ThermalId.is_in(pictures.iter().map(|p| p.id)))
            .all(&self.txn)
            .await?;
        let cells = |p: &Thermal| {
            let row = rows.iter().find(|r| r.thermal_id == p.id)?;
            Some((p.clone(), unpacked(&row.cells, p.columns.unsigned_abs() as usize)))
        };
        Ok(pictures.iter().filter_map(cells).collect())
    }
}

//! Instruments of a practice.

use crate::entity::instrument::{self, Entity};
use crate::error::StoreError;
use crate::scope::Scope;
use hygrothermal::surface::Accuracy;
use sea_orm::{ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder};

impl Scope {
    /// Instruments by name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn instruments(&self) -> Result<Vec<instrument::Model>, StoreError> {
        Ok(Entity::find()
            .filter(instrument::Column::PracticeId.eq(self.practice))
            .order_by_asc(instrument::Column::Name)
            .all(&self.txn)
            .await?)
    }

    /// Adds an instrument; its practice is this scope's whatever the row says.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or the id is taken.
    pub async fn add_instrument(&self, row: instrument::Model) -> Result<(), StoreError> {
        let row = instrument::Model { practice_id: self.practice, ..row };
        row.into_active_model().reset_all().insert(&self.txn).await?;
        Ok(())
    }
}

impl instrument::Model {
    /// How far it may be off.
    ///
    /// # Errors
    /// [`StoreError::Corrupt`] when the row is out of range.
    pub fn accuracy(&self) -> Result<Accuracy, StoreError> {
        crate::convert::accuracy(self)
    }
}

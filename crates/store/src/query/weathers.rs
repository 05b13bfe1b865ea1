//! Weather files of a practice's own.

use super::prices::{PracticeAct, Setting};
use crate::entity::weather;
use crate::error::StoreError;
use crate::record::records;
use crate::scope::Scope;
use building::Weather;
use sea_orm::{ColumnTrait, EntityTrait, QueryFilter};
use uuid::Uuid;

impl Scope {
    /// The practice's weather files, by name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn weathers(&self) -> Result<Vec<Weather>, StoreError> {
        let own = weather::Column::PracticeId.eq(self.practice);
        let mut all: Vec<Weather> = records(weather::Entity::find().filter(own).all(&self.txn).await?)?;
        all.sort_by(|a, b| (&a.name, a.id).cmp(&(&b.name, b.id)));
        Ok(all)
    }

    /// Keeps one, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_weather(&self, act: PracticeAct, weather: &Weather) -> Result<(), StoreError> {
        let text = serde_json::to_string(weather).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        self.settle(act, [(Setting::Weather(weather.id), Some(text))].into()).await
    }

    /// Removes one. What stood by it stands by the climate's usual year again.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remove_weather(&self, act: PracticeAct, id: Uuid) -> Result<(), StoreError> {
        self.settle(act, [(Setting::Weather(id), None)].into()).await
    }
}

//! Instruments of a practice and their salt checks.

use crate::entity::{instrument, salt_check};
use crate::error::StoreError;
use crate::record::{Instrument, SaltCheck, records};
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, Iterable, QueryFilter, QueryOrder};
use uuid::Uuid;

impl Scope {
    /// Instruments by name, each with the correction of its latest salt check.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn instruments(&self) -> Result<Vec<Instrument>, StoreError> {
        self.instruments_at(Utc::now()).await
    }

    /// Instruments by name, each with the correction that held at a moment: a check counts from its end on.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn instruments_at(&self, at: DateTime<Utc>) -> Result<Vec<Instrument>, StoreError> {
        let rows = instrument::Entity::find()
            .filter(instrument::Column::PracticeId.eq(self.practice))
            .order_by_asc(instrument::Column::Name);
        let mut all: Vec<Instrument> = records(rows.all(&self.txn).await?)?;
        let checks = self.salt_checks().await?;
        corrected_at(&mut all, &checks, at);
        Ok(all)
    }

    /// Adds an instrument. Sent twice it is there once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_instrument(&self, instrument: Instrument) -> Result<(), StoreError> {
        self.insert_once(instrument.row(self.practice).into_active_model()).await?;
        Ok(())
    }

    /// Salt checks of all instruments, the latest ended first; running ones stand at the front.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn salt_checks(&self) -> Result<Vec<SaltCheck>, StoreError> {
        let rows = salt_check::Entity::find()
            .filter(salt_check::Column::PracticeId.eq(self.practice))
            .order_by_desc(salt_check::Column::EndedAt)
            .order_by_desc(salt_check::Column::StartedAt);
        records(rows.all(&self.txn).await?)
    }

    /// Keeps a salt check, begun or ended. One that has ended is never changed.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] for the id of another instrument's check, [`StoreError`] when the database does not answer.
    pub async fn keep_salt_check(&self, check: SaltCheck) -> Result<(), StoreError> {
        let row = check.row(self.practice);
        self.turn(&format!("salt check {}", row.id)).await?;
        match self.salt_check(row.id).await? {
            Some(kept) if kept.instrument_id != row.instrument_id => return Err(StoreError::IdTaken(row.id)),
            Some(kept) if kept.ended_at.is_some() => return Ok(()),
            _ => {}
        }
        let keys = [salt_check::Column::PracticeId, salt_check::Column::Id];
        let again = OnConflict::columns(keys).update_columns(salt_check::Column::iter()).to_owned();
        salt_check::Entity::insert(row.into_active_model().reset_all())
            .on_conflict(again)
            .exec_without_returning(&self.txn)
            .await?;
        Ok(())
    }

    async fn salt_check(&self, id: Uuid) -> Result<Option<salt_check::Model>, StoreError> {
        Ok(salt_check::Entity::find_by_id((self.practice, id)).one(&self.txn).await?)
    }
}

/// Gives each instrument the correction that held at a moment; `checks` stand with the latest ended first.
pub(crate) fn corrected_at(instruments: &mut [Instrument], checks: &[SaltCheck], at: DateTime<Utc>) {
    for i in instruments {
        let held = checks.iter().find(|c| c.instrument_id == i.id && c.ended_at.is_some_and(|end| end <= at));
        let Some(check) = held else { continue };
        if let (Some(slope), Some(offset), Some(end)) = (check.rh_slope, check.rh_offset_pct, check.ended_at) {
            (i.rh_slope, i.rh_offset_pct, i.checked_on) = (slope, offset, Some(end.date_naive()));
        }
    }
}

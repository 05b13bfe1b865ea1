//! A practice's price book, its currency and the schools it works by.

use crate::entity::{practice, practice_school, price};
use crate::error::StoreError;
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, Set};
use std::collections::BTreeMap;
use uuid::Uuid;

/// Prices and how they are written.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct PriceBook {
    /// What stands behind an amount; empty while nobody has said.
    pub currency: String,
    /// Hundredths by item.
    pub cents: BTreeMap<String, i64>,
}

impl Scope {
    /// The practice's prices.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn price_book(&self) -> Result<PriceBook, StoreError> {
        let rows = price::Entity::find().filter(price::Column::PracticeId.eq(self.practice)).all(&self.txn).await?;
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?;
        Ok(PriceBook {
            currency: own.map(|p| p.currency).unwrap_or_default(),
            cents: rows.into_iter().map(|r| (r.item, r.cents)).collect(),
        })
    }

    /// Changes some of the practice's prices, and its currency where one is given; an item without hundredths loses its
    /// price.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn change_prices(
        &self,
        currency: Option<&str>,
        changes: &BTreeMap<String, Option<i64>>,
        by: Uuid,
        at: DateTime<Utc>,
    ) -> Result<(), StoreError> {
        if let Some(currency) = currency {
            let row = practice::ActiveModel {
                practice_id: Set(self.practice),
                currency: Set(currency.to_owned()),
                ..Default::default()
            };
            row.update(&self.txn).await?;
        }
        let own = price::Column::PracticeId.eq(self.practice);
        let items = price::Column::Item.is_in(changes.keys());
        price::Entity::delete_many().filter(own).filter(items).exec(&self.txn).await?;
        let rows = changes.iter().filter_map(|(item, cents)| Some((item, (*cents)?))).map(|(item, cents)| {
            let row =
                price::Model { practice_id: self.practice, item: item.clone(), cents, updated_by: by, updated_at: at };
            row.into_active_model().reset_all()
        });
        let rows: Vec<_> = rows.collect();
        if !rows.is_empty() {
            price::Entity::insert_many(rows).exec_without_returning(&self.txn).await?;
        }
        Ok(())
    }

    /// Schools the practice works by, unless a job says otherwise: question and school.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn practice_schools(&self) -> Result<BTreeMap<String, String>, StoreError> {
        let own = practice_school::Column::PracticeId.eq(self.practice);
        let rows = practice_school::Entity::find().filter(own).all(&self.txn).await?;
        Ok(rows.into_iter().map(|r| (r.question, r.choice)).collect())
    }

    /// Makes a school the practice's own, or leaves the question to each building again.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_practice_school(
        &self,
        question: &str,
        choice: Option<&str>,
        by: Uuid,
        at: DateTime<Utc>,
    ) -> Result<(), StoreError> {
        let Some(choice) = choice else {
            practice_school::Entity::delete_by_id((self.practice, question.to_owned())).exec(&self.txn).await?;
            return Ok(());
        };
        let row = practice_school::Model {
            practice_id: self.practice,
            question: question.to_owned(),
            choice: choice.to_owned(),
            updated_by: by,
            updated_at: at,
        };
        let again = OnConflict::columns([practice_school::Column::PracticeId, practice_school::Column::Question])
            .update_columns([
                practice_school::Column::Choice,
                practice_school::Column::UpdatedBy,
                practice_school::Column::UpdatedAt,
            ])
            .to_owned();
        let row = row.into_active_model().reset_all();
        practice_school::Entity::insert(row).on_conflict(again).exec_without_returning(&self.txn).await?;
        Ok(())
    }
}

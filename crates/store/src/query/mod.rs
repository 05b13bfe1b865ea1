//! One module per aggregate; every query is a method of a practice's scope.

pub mod alerts;
pub mod brakes;
pub mod budgets;
mod build_ups;
pub mod buildings;
pub mod calendars;
pub mod calls;
mod coatings;
pub mod conclusions;
pub mod docket;
pub mod dryings;
pub mod evidence;
pub mod files;
pub mod forecasts;
pub mod history;
pub mod instruments;
pub mod job_file;
pub mod jobs;
pub mod loggers;
pub mod logs;
pub mod members;
pub mod parcels;
mod passkeys;
pub mod people;
pub mod photos;
pub mod plans;
pub mod prices;
pub mod readings;
pub mod reports;
pub mod retention;
pub mod shares;
pub mod tasks;
pub mod thermals;
pub mod tokens;
pub mod unfolded;
pub mod visits;
mod weathers;
pub mod webhooks;

use crate::error::StoreError;
use crate::scope::Scope;
use sea_orm::sea_query::OnConflict;
use sea_orm::{ActiveModelTrait, EntityTrait, Insert, TryInsertResult};

impl Scope {
    /// Inserts a row unless it meets one already there under any unique key; says whether it did.
    async fn insert_once<A: ActiveModelTrait>(&self, row: A) -> Result<bool, StoreError>
    where
        <A::Entity as EntityTrait>::Model: Send,
    {
        let inserted = Insert::one(row.reset_all())
            .on_conflict(OnConflict::new().do_nothing().to_owned())
            .try_insert()
            .exec_without_returning(&self.txn)
            .await?;
        Ok(matches!(inserted, TryInsertResult::Inserted(n) if n > 0))
    }
}

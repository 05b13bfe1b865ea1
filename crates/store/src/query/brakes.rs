//! Brakes: how much somebody has done of late, counted before it is done.

use super::people::hash;
use crate::error::StoreError;
use crate::scope::Store;
use chrono::{DateTime, Duration, Utc};
use sea_orm::{ConnectionTrait, Statement};

impl Store {
    /// Adds to what is counted under a key and gives the sum within the window, the new part among it. One statement: of many
    /// at once each gets a sum of its own. Kept under a hash, since a key may name a person or an address.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn count_under(
        &self,
        key: &str,
        more: f64,
        window: Duration,
        now: DateTime<Utc>,
    ) -> Result<f64, StoreError> {
        let counted = "insert into brake as b (key, since, sum) values ($1, $2, $3) \
            on conflict (key) do update set \
            sum = case when b.since < $4 then 0 else b.sum end + excluded.sum, \
            since = case when b.since < $4 then excluded.since else b.since end returning sum";
        let values = [hash(key).into(), now.into(), more.into(), (now - window).into()];
        let statement = Statement::from_sql_and_values(self.db.get_database_backend(), counted, values);
        let row = self.db.query_one_raw(statement).await?;
        Ok(row.map(|r| r.try_get("", "sum")).transpose()?.unwrap_or(more))
    }

    /// Forgets what was counted under a key.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn forget_count(&self, key: &str) -> Result<(), StoreError> {
        let statement = "delete from brake where key = $1";
        let statement = Statement::from_sql_and_values(self.db.get_database_backend(), statement, [hash(key).into()]);
        self.db.execute_raw(statement).await?;
        Ok(())
    }

    /// Forgets what was counted before a moment.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn forget_counts(&self, before: DateTime<Utc>) -> Result<(), StoreError> {
        let statement = "delete from brake where since < $1";
        let statement = Statement::from_sql_and_values(self.db.get_database_backend(), statement, [before.into()]);
        self.db.execute_raw(statement).await?;
        Ok(())
    }
}

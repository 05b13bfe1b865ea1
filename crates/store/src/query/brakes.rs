//! Brakes: how much somebody has done of late, counted before it is done.

use super::people::hash;
use crate::error::StoreError;
use crate::scope::Store;
use chrono::{DateTime, Duration, Utc};
use sea_orm::{ConnectionTrait, Statement};
use std::collections::{BTreeMap, HashMap};

impl Store {
    /// Adds to what is counted under a key and gives the sum within the window, the new part among it.
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
        let counts = count(&self.db, BTreeMap::from([(key.to_owned(), more)]), window, now).await?;
        Ok(counts.get(key).copied().unwrap_or(more))
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

/// Adds to what is counted under some keys and gives their sums within the window. One statement: of many at once each gets a sum of
/// its own. Kept under a hash, since a key may name a person or an address.
pub(super) async fn count(
    db: &impl ConnectionTrait,
    more: BTreeMap<String, f64>,
    window: Duration,
    now: DateTime<Utc>,
) -> Result<HashMap<String, f64>, StoreError> {
    // In one order everywhere, so that no two wait for each other.
    let keys: BTreeMap<String, (String, f64)> = more.into_iter().map(|(key, n)| (hash(&key), (key, n))).collect();
    let counted = "insert into brake as b (key, since, sum) select key, $3, more from unnest($1::text[], $2::float8[]) a(key, more) \
        on conflict (key) do update set \
        sum = case when b.since < $4 then 0 else b.sum end + excluded.sum, \
        since = case when b.since < $4 then excluded.since else b.since end returning key, sum";
    let (hashes, sums): (Vec<String>, Vec<f64>) = keys.iter().map(|(hash, (_, n))| (hash.clone(), *n)).unzip();
    let values = [hashes.into(), sums.into(), now.into(), (now - window).into()];
    let mut counts = HashMap::new();
    for row in db.query_all_raw(Statement::from_sql_and_values(db.get_database_backend(), counted, values)).await? {
        if let Some((key, _)) = keys.get(&row.try_get::<String>("", "key")?) {
            counts.insert(key.clone(), row.try_get("", "sum")?);
        }
    }
    Ok(counts)
}

//! Loggers that post by themselves: their tokens, of which only a hash is kept, and where their sensors belong.

use super::brakes::count;
use super::people::hash;
use crate::error::StoreError;
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, TimeDelta, Utc};
use sea_orm::{ConnectionTrait, QueryResult, Statement, TransactionTrait};
use serde_json::Value;
use std::collections::{BTreeMap, HashMap};
use uuid::Uuid;

/// A logger that posts, known by its token.
#[derive(Debug, Clone)]
pub struct Posting {
    /// Whose it is.
    pub practice: Uuid,
    /// Which instrument it is.
    pub instrument: Uuid,
    /// Where its sensors belong.
    pub goes: Value,
    /// Sensors nobody has said that of.
    pub unplaced: Value,
}

/// What is known of a logger as one that posts.
#[derive(Debug, Clone)]
pub struct Live {
    /// Which instrument it is.
    pub instrument: Uuid,
    /// When its token was made; none without one.
    pub token_made_at: Option<DateTime<Utc>>,
    /// When it was last heard.
    pub heard_at: Option<DateTime<Utc>>,
    /// Where its sensors belong.
    pub goes: Value,
    /// Sensors nobody has said that of.
    pub unplaced: Value,
}

impl Store {
    /// Whose tokens these are, of those that are anybody's; and how often each logger posted within a window, this time among it.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn posting(
        &self,
        tokens: &[String],
        window: TimeDelta,
        now: DateTime<Utc>,
    ) -> Result<Vec<Option<(Posting, f64)>>, StoreError> {
        let keys: Vec<String> = tokens.iter().map(|t| hash(t)).collect();
        let txn = self.db.begin().await?;
        set(&txn, "app.logger_keys", &keys.join(",")).await?;
        let backend = txn.get_database_backend();
        let ask =
            "select token_hash, practice_id, instrument_id, goes, unplaced from logger where token_hash = any($1)";
        let rows = txn.query_all_raw(Statement::from_sql_and_values(backend, ask, [keys.clone().into()])).await?;
        let mut known: HashMap<String, Posting> = HashMap::new();
        for row in rows {
            let posting = Posting {
                practice: row.try_get("", "practice_id")?,
                instrument: row.try_get("", "instrument_id")?,
                goes: row.try_get("", "goes")?,
                unplaced: row.try_get("", "unplaced")?,
            };
            known.insert(row.try_get("", "token_hash")?, posting);
        }
        let brake = |p: &Posting| format!("log of {}", p.instrument);
        let mut posts: BTreeMap<String, f64> = BTreeMap::new();
        for posting in keys.iter().filter_map(|k| known.get(k)) {
            *posts.entry(brake(posting)).or_default() += 1.0;
        }
        // Counts lost with a server that falls do no harm; to wait for its disk at each post would.
        set(&txn, "synchronous_commit", "off").await?;
        let counts = count(&txn, posts, window, now).await?;
        txn.commit().await?;
        let with_count = |p: &Posting| (p.clone(), counts.get(&brake(p)).copied().unwrap_or(1.0));
        Ok(keys.iter().map(|key| known.get(key).map(with_count)).collect())
    }
}

impl Scope {
    /// The loggers of the practice that post, or may.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn live_loggers(&self) -> Result<Vec<Live>, StoreError> {
        let ask = "select instrument_id, token_made_at, heard_at, goes, unplaced from logger where practice_id = $1";
        let rows = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, [self.practice.into()]);
        let live = |row: &QueryResult| {
            Ok(Live {
                instrument: row.try_get("", "instrument_id")?,
                token_made_at: row.try_get("", "token_made_at")?,
                heard_at: row.try_get("", "heard_at")?,
                goes: row.try_get("", "goes")?,
                unplaced: row.try_get("", "unplaced")?,
            })
        };
        self.txn.query_all_raw(rows).await?.iter().map(live).collect()
    }

    /// Gives a logger a token, or none: the one before is good for nothing from now on.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_token(&self, instrument: Uuid, token: Option<&str>) -> Result<(), StoreError> {
        let keep = "insert into logger (practice_id, instrument_id, token_hash, token_made_at) \
            values ($1, $2, $3, case when $3 is null then null else now() end) \
            on conflict (practice_id, instrument_id) do update \
            set token_hash = excluded.token_hash, token_made_at = excluded.token_made_at";
        let values = [self.practice.into(), instrument.into(), token.map(hash).into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), keep, values)).await?;
        Ok(())
    }

    /// Says where a logger's sensors belong, and which are still without a place.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn place_sensors(&self, instrument: Uuid, goes: &Value, unplaced: &Value) -> Result<(), StoreError> {
        let keep = "insert into logger (practice_id, instrument_id, goes, unplaced) values ($1, $2, $3, $4) \
            on conflict (practice_id, instrument_id) do update set goes = excluded.goes, unplaced = excluded.unplaced";
        let values = [self.practice.into(), instrument.into(), goes.clone().into(), unplaced.clone().into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), keep, values)).await?;
        Ok(())
    }
}

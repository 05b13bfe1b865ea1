//! Loggers that post by themselves: their tokens, of which only a hash is kept, and where their sensors belong.

use super::people::hash;
use crate::error::StoreError;
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, Utc};
use sea_orm::{ConnectionTrait, QueryResult, Statement, TransactionTrait};
use serde_json::Value;
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
    /// Whose token this is.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn posting(&self, token: &str) -> Result<Option<Posting>, StoreError> {
        let key = hash(token);
        let txn = self.db.begin().await?;
        set(&txn, "app.logger_key", &key).await?;
        let ask = "select practice_id, instrument_id, goes, unplaced from logger where token_hash = $1";
        let row =
            txn.query_one_raw(Statement::from_sql_and_values(txn.get_database_backend(), ask, [key.into()])).await?;
        txn.commit().await?;
        let posting = |row: QueryResult| {
            Ok(Posting {
                practice: row.try_get("", "practice_id")?,
                instrument: row.try_get("", "instrument_id")?,
                goes: row.try_get("", "goes")?,
                unplaced: row.try_get("", "unplaced")?,
            })
        };
        row.map(posting).transpose()
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

//! Calendars that read what is to be looked at again, each by a secret of its own.

use super::people::hash;
use crate::entity::calendar_feed;
use crate::error::StoreError;
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, Utc};
use sea_orm::{
    ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, Set, TransactionTrait,
};
use uuid::Uuid;

/// A calendar's way in, as shown to the practice: never its secret.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Feed {
    /// What is kept of its secret, by which it is revoked.
    pub key: String,
    /// Who made it.
    pub by: Uuid,
    /// When.
    pub created_at: DateTime<Utc>,
    /// When it was read last.
    pub read_at: Option<DateTime<Utc>>,
}

impl Scope {
    /// Calendars that may read, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn feeds(&self) -> Result<Vec<Feed>, StoreError> {
        let rows = calendar_feed::Entity::find()
            .filter(calendar_feed::Column::PracticeId.eq(self.practice))
            .filter(calendar_feed::Column::RevokedAt.is_null())
            .order_by_desc(calendar_feed::Column::CreatedAt)
            .all(&self.txn)
            .await?;
        let feed = |r: calendar_feed::Model| Feed {
            key: r.key_hash,
            by: r.consultant_id,
            created_at: r.created_at,
            read_at: r.read_at,
        };
        Ok(rows.into_iter().map(feed).collect())
    }

    /// Lets a calendar read by a secret; the same secret again changes nothing.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn open_feed(&self, secret: &str, by: Uuid, at: DateTime<Utc>) -> Result<(), StoreError> {
        let row = calendar_feed::Model {
            practice_id: self.practice,
            key_hash: hash(secret),
            consultant_id: by,
            created_at: at,
            read_at: None,
            revoked_at: None,
        };
        self.insert_once(row.into_active_model()).await?;
        Ok(())
    }

    /// Shuts a calendar out.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn revoke_feed(&self, key: &str, at: DateTime<Utc>) -> Result<(), StoreError> {
        let row = calendar_feed::Entity::find_by_id((self.practice, key.to_owned())).one(&self.txn).await?;
        if let Some(row) = row {
            let mut row = row.into_active_model();
            row.revoked_at = Set(Some(at));
            row.update(&self.txn).await?;
        }
        Ok(())
    }
}

impl Store {
    /// The practice a calendar's secret opens, with the id of who made it; `None` for one unknown or revoked.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn feed_reader(&self, secret: &str, now: DateTime<Utc>) -> Result<Option<Scope>, StoreError> {
        let key = hash(secret);
        let txn = self.db.begin().await?;
        set(&txn, "app.calendar_key", &key).await?;
        let found = calendar_feed::Entity::find()
            .filter(calendar_feed::Column::KeyHash.eq(&key))
            .filter(calendar_feed::Column::RevokedAt.is_null())
            .one(&txn)
            .await?;
        let Some(row) = found else { return Ok(None) };
        let practice = row.practice_id;
        set(&txn, "app.practice_id", &practice.to_string()).await?;
        let mut row = row.into_active_model();
        row.read_at = Set(Some(now));
        row.update(&txn).await?;
        Ok(Some(Scope { txn, practice }))
    }
}

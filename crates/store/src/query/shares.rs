//! Links by which somebody without a name here reads one version of a report, and what they said.

use super::people::hash;
use crate::entity::{report_version, share, share_word};
use crate::error::StoreError;
use crate::record::{Share, ShareWord, records};
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, Utc};
use sea_orm::sea_query::{Expr, ExprTrait};
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder, TransactionTrait};
use uuid::Uuid;

/// Most links of a job.
pub const MOST_SHARES: u64 = 100;
/// Most a reader may say by one link.
pub const MOST_WORDS: u64 = 50;

impl Store {
    /// The link a secret stands for, while it holds, and a scope in its practice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn shared(&self, secret: &str, now: DateTime<Utc>) -> Result<Option<(Scope, Share)>, StoreError> {
        let key = hash(secret);
        let txn = self.db.begin().await?;
        set(&txn, "app.share_key", &key).await?;
        let row = share::Entity::find().filter(share::Column::KeyHash.eq(&key)).one(&txn).await?;
        let Some(row) = row.filter(|r| r.revoked_at.is_none() && r.expires_at > now) else { return Ok(None) };
        let practice = row.practice_id;
        set(&txn, "app.practice_id", &practice.to_string()).await?;
        let scope = Scope { txn, practice };
        // A job taken off the docket is nobody’s to read until it is back.
        let there = scope.job_row(row.job_id).await?.is_some();
        Ok(there.then(|| row.try_into()).transpose()?.map(|share| (scope, share)))
    }
}

impl Scope {
    /// Makes a link to a version by a secret; `false` when there is no such version of that job, or there are too many links.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn open_share(&self, share: Share, secret: &str) -> Result<bool, StoreError> {
        self.turn(&format!("shares {}", share.job_id)).await?;
        let version = report_version::Entity::find_by_id((self.practice, share.version_id)).one(&self.txn).await?;
        let own = share::Entity::find()
            .filter(share::Column::PracticeId.eq(self.practice))
            .filter(share::Column::JobId.eq(share.job_id));
        if version.is_none_or(|v| v.job_id != share.job_id) || own.count(&self.txn).await? >= MOST_SHARES {
            return Ok(false);
        }
        let row = share::Model { key_hash: hash(secret), ..share.row(self.practice) };
        self.insert_once(row.into_active_model()).await?;
        Ok(true)
    }

    /// The links of a job, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn shares(&self, job: Uuid) -> Result<Vec<Share>, StoreError> {
        let rows = share::Entity::find()
            .filter(share::Column::PracticeId.eq(self.practice))
            .filter(share::Column::JobId.eq(job))
            .order_by_desc(share::Column::Id);
        records(rows.all(&self.txn).await?)
    }

    /// Shuts a link of a job; `false` when there is none.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn revoke_share(&self, job: Uuid, id: Uuid, at: DateTime<Utc>) -> Result<bool, StoreError> {
        let shut = share::Entity::update_many()
            .col_expr(share::Column::RevokedAt, Expr::cust_with_values("coalesce(revoked_at, $1)", [at]))
            .filter(share::Column::PracticeId.eq(self.practice))
            .filter(share::Column::JobId.eq(job))
            .filter(share::Column::Id.eq(id))
            .exec(&self.txn)
            .await?;
        Ok(shut.rows_affected > 0)
    }

    /// Counts that a link was opened.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn count_open(&self, id: Uuid, at: DateTime<Utc>) -> Result<(), StoreError> {
        share::Entity::update_many()
            .col_expr(share::Column::Opened, Expr::col(share::Column::Opened).add(1))
            .col_expr(share::Column::OpenedAt, Expr::value(at))
            .filter(share::Column::PracticeId.eq(self.practice))
            .filter(share::Column::Id.eq(id))
            .exec(&self.txn)
            .await?;
        Ok(())
    }

    /// What was said by the links of a job, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn share_words(&self, job: Uuid) -> Result<Vec<ShareWord>, StoreError> {
        let rows = share_word::Entity::find()
            .filter(share_word::Column::PracticeId.eq(self.practice))
            .filter(share_word::Column::JobId.eq(job))
            .order_by_desc(share_word::Column::At)
            .order_by_desc(share_word::Column::Id);
        records(rows.all(&self.txn).await?)
    }

    /// Keeps what a reader said by a link. `false` when they said enough; a plan accepted twice is accepted once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn say_by_share(&self, word: ShareWord) -> Result<bool, StoreError> {
        self.turn(&format!("share {}", word.share_id)).await?;
        let own = share_word::Entity::find()
            .filter(share_word::Column::PracticeId.eq(self.practice))
            .filter(share_word::Column::ShareId.eq(word.share_id));
        if own.count(&self.txn).await? >= MOST_WORDS {
            return Ok(false);
        }
        self.insert_once(word.row(self.practice).into_active_model()).await?;
        Ok(true)
    }
}

//! Keys that devices keep for people.

use super::people::Account;
use crate::entity::{consultant, passkey};
use crate::error::StoreError;
use crate::record::{Passkey, records};
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, Utc};
use sea_orm::sea_query::Expr;
use sea_orm::{ColumnTrait, EntityTrait, IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder, TransactionTrait};
use serde_json::Value;
use uuid::Uuid;

/// Most keys of somebody.
const MOST: u64 = 10;

impl Store {
    /// The key a device calls so, and whose it is.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn account_by_passkey(&self, credential: &str) -> Result<Option<(Account, Passkey)>, StoreError> {
        let txn = self.db.begin().await?;
        set(&txn, "app.passkey", credential).await?;
        let held = passkey::Entity::find().filter(passkey::Column::Credential.eq(credential)).one(&txn).await?;
        let Some(held) = held else { return Ok(None) };
        set(&txn, "app.practice_id", &held.practice_id.to_string()).await?;
        let whose = consultant::Entity::find_by_id((held.practice_id, held.consultant_id)).one(&txn).await?;
        txn.commit().await?;
        whose.map(|whose| Ok((whose.into(), held.try_into()?))).transpose()
    }
}

impl Scope {
    /// Keeps a key; `false` when somebody has enough of them, or the device has this one already.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_passkey(&self, key: Passkey) -> Result<bool, StoreError> {
        self.turn(&format!("passkeys {}", key.consultant_id)).await?;
        if self.own_passkeys(key.consultant_id).count(&self.txn).await? >= MOST {
            return Ok(false);
        }
        self.insert_once(key.row(self.practice).into_active_model()).await
    }

    /// Keys of somebody, the oldest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn passkeys_of(&self, consultant: Uuid) -> Result<Vec<Passkey>, StoreError> {
        records(self.own_passkeys(consultant).order_by_asc(passkey::Column::Id).all(&self.txn).await?)
    }

    /// Notes that a key let somebody in, and how it stands now; `false` when it was taken away meanwhile.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn use_passkey(&self, id: Uuid, key: Value, at: DateTime<Utc>) -> Result<bool, StoreError> {
        let used = passkey::Entity::update_many()
            .col_expr(passkey::Column::Key, Expr::value(key))
            .col_expr(passkey::Column::UsedAt, Expr::value(at))
            .filter(passkey::Column::PracticeId.eq(self.practice))
            .filter(passkey::Column::Id.eq(id))
            .exec(&self.txn)
            .await?;
        Ok(used.rows_affected > 0)
    }

    /// Takes a key of somebody away, or all of theirs, and says how many.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn drop_passkeys(&self, consultant: Uuid, id: Option<Uuid>) -> Result<u64, StoreError> {
        let mut gone = passkey::Entity::delete_many()
            .filter(passkey::Column::PracticeId.eq(self.practice))
            .filter(passkey::Column::ConsultantId.eq(consultant));
        if let Some(id) = id {
            gone = gone.filter(passkey::Column::Id.eq(id));
        }
        Ok(gone.exec(&self.txn).await?.rows_affected)
    }

    fn own_passkeys(&self, consultant: Uuid) -> sea_orm::Select<passkey::Entity> {
        passkey::Entity::find()
            .filter(passkey::Column::PracticeId.eq(self.practice))
            .filter(passkey::Column::ConsultantId.eq(consultant))
    }
}

//! Other programs that are told of what happens, and how that went. What they are told is put together in the database, with
//! what happened.

use crate::entity::{delivery, webhook};
use crate::error::StoreError;
use crate::record::{Delivery, TaskKind, Webhook, records};
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use sea_orm::sea_query::Expr;
use sea_orm::{
    ActiveModelTrait, ColumnTrait, EntityTrait, IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder, QuerySelect,
};
use uuid::Uuid;

/// Most programs a practice tells.
pub const MOST_WEBHOOKS: u64 = 20;

impl Scope {
    /// Tells another program from now on; `false` when there are enough.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_webhook(&self, hook: Webhook) -> Result<bool, StoreError> {
        self.turn("webhooks").await?;
        if self.hooks().count(&self.txn).await? >= MOST_WEBHOOKS {
            return Ok(false);
        }
        self.insert_once(hook.row(self.practice).into_active_model()).await?;
        Ok(true)
    }

    /// Programs that are told, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn webhooks(&self) -> Result<Vec<Webhook>, StoreError> {
        records(self.hooks().order_by_desc(webhook::Column::Id).all(&self.txn).await?)
    }

    /// Tells a program nothing more; `false` when there is none.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn end_webhook(&self, id: Uuid, at: DateTime<Utc>) -> Result<bool, StoreError> {
        let ended = webhook::Entity::update_many()
            .col_expr(webhook::Column::EndedAt, Expr::value(at))
            .filter(webhook::Column::PracticeId.eq(self.practice))
            .filter(webhook::Column::EndedAt.is_null())
            .filter(webhook::Column::Id.eq(id));
        Ok(ended.exec(&self.txn).await?.rows_affected > 0)
    }

    /// What was told last, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn deliveries(&self, most: u64) -> Result<Vec<Delivery>, StoreError> {
        let rows = delivery::Entity::find()
            .filter(delivery::Column::PracticeId.eq(self.practice))
            .order_by_desc(delivery::Column::MadeAt)
            .order_by_desc(delivery::Column::Id)
            .limit(most);
        records(rows.all(&self.txn).await?)
    }

    /// Something to be told, and to whom; none where it is done with, or nobody wants it any more.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn delivery(&self, id: Uuid) -> Result<Option<(Delivery, Webhook)>, StoreError> {
        let row = delivery::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        let Some(row) = row.filter(|r| r.done_at.is_none()) else { return Ok(None) };
        let to = self.hooks().filter(webhook::Column::Id.eq(row.webhook_id)).one(&self.txn).await?;
        to.map(|to| Ok((row.try_into()?, to.try_into()?))).transpose()
    }

    /// Keeps how telling went.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn note_delivery(&self, said: Delivery) -> Result<(), StoreError> {
        delivery::Entity::update(said.row(self.practice).into_active_model().reset_all()).exec(&self.txn).await?;
        Ok(())
    }

    /// Tells something again that was given up; `false` when there is no such thing.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn deliver_again(&self, id: Uuid) -> Result<bool, StoreError> {
        let again = delivery::Entity::update_many()
            .col_expr(delivery::Column::Tries, Expr::value(0))
            .filter(delivery::Column::PracticeId.eq(self.practice))
            .filter(delivery::Column::Id.eq(id))
            .filter(delivery::Column::DoneAt.is_null());
        if again.exec(&self.txn).await?.rows_affected == 0 {
            return Ok(false);
        }
        self.ask(TaskKind::Deliver, id, None).await?;
        Ok(true)
    }

    fn hooks(&self) -> sea_orm::Select<webhook::Entity> {
        webhook::Entity::find()
            .filter(webhook::Column::PracticeId.eq(self.practice))
            .filter(webhook::Column::EndedAt.is_null())
    }
}

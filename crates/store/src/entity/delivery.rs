//! Rows of `delivery`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "delivery")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub webhook_id: Uuid,
    pub job_id: Option<Uuid>,
    pub event: String,
    pub body: String,
    pub made_at: DateTimeUtc,
    pub tries: i32,
    pub next_at: Option<DateTimeUtc>,
    pub done_at: Option<DateTimeUtc>,
    pub status: Option<i32>,
    pub said: String,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

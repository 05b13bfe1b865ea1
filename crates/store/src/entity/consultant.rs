//! Rows of `consultant`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "consultant")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub email: String,
    pub name: String,
    pub password_hash: String,
    pub units: String,
    pub theme: String,
    pub language: String,
    pub role: String,
    pub joined_at: DateTimeUtc,
    pub ended_at: Option<DateTimeUtc>,
    pub second: String,
    pub second_step: i64,
    pub recovery: String,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

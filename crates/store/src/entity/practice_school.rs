//! Rows of `practice_school`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::Deserialize;

#[derive(Clone, Debug, PartialEq, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "practice_school")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub question: String,
    pub choice: String,
    pub updated_by: Uuid,
    pub updated_at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

//! Rows of `share_word`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "share_word")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub share_id: Uuid,
    pub kind: String,
    pub name: String,
    pub words: String,
    pub at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

//! Rows of `logo`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "logo")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    pub bytes: Vec<u8>,
    pub updated_by: Uuid,
    pub updated_at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

//! Rows of `practice`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::Deserialize;

#[derive(Clone, Debug, PartialEq, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "practice")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    pub name: String,
    pub time_zone: String,
    pub currency: String,
    pub log_days: Option<i32>,
    #[serde(default)]
    pub address: String,
    #[serde(default)]
    pub language: String,
    #[serde(default)]
    pub units: String,
    #[serde(default)]
    pub removed_days: Option<i32>,
    #[serde(default)]
    pub archived_days: Option<i32>,
    #[serde(default)]
    pub sign_in_days: Option<i32>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

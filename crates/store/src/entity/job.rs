//! Rows of `job`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "job")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub name: String,
    pub address: String,
    pub structure: String,
    pub climate: String,
    pub design_outdoor_c: f64,
    pub altitude_m: f64,
    pub latitude: Option<f64>,
    pub longitude: Option<f64>,
    pub created_by: Uuid,
    pub created_at: DateTimeUtc,
    pub removed_at: Option<DateTimeUtc>,
    #[serde(default)]
    pub rehearsal: bool,
    #[serde(default)]
    pub archived_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

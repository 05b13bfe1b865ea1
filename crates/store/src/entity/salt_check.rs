//! Rows of `salt_check`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::Deserialize;

#[derive(Clone, Debug, PartialEq, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "salt_check")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub instrument_id: Uuid,
    pub consultant_id: Uuid,
    pub salts: String,
    pub started_at: DateTimeUtc,
    pub ended_at: Option<DateTimeUtc>,
    pub t_c: Option<f64>,
    #[sea_orm(column_type = "JsonBinary")]
    pub shown: Option<Json>,
    pub rh_slope: Option<f64>,
    pub rh_offset_pct: Option<f64>,
    pub max_residual_pct: Option<f64>,
    pub note: String,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

//! Rows of `instrument`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::Deserialize;

#[derive(Clone, Debug, PartialEq, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "instrument")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub name: String,
    pub serial: String,
    pub air_err_k: f64,
    pub rh_err_pct: f64,
    pub surface_err_k: f64,
    pub wood_err_pct: f64,
    pub rh_offset_pct: f64,
    pub kind: String,
    pub settle_s: i32,
    pub rh_slope: f64,
    pub checked_on: Option<Date>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

//! Rows of `thermal`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "thermal")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub consultant_id: Uuid,
    pub space_id: Option<Uuid>,
    pub boundary_id: Option<Uuid>,
    pub surface_id: Option<Uuid>,
    pub name: String,
    pub note: String,
    pub taken_at: DateTimeUtc,
    pub width_m: Option<f64>,
    pub air_t_c: Option<f64>,
    pub air_rh_pct: Option<f64>,
    pub outdoor_c: Option<f64>,
    pub emissivity: f64,
    pub reflected_c: Option<f64>,
    pub set_emissivity: f64,
    pub set_reflected_c: Option<f64>,
    pub rows: i32,
    pub columns: i32,
    #[serde(default)]
    pub settled: String,
    #[serde(default)]
    pub photo_id: Option<Uuid>,
    pub removed_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

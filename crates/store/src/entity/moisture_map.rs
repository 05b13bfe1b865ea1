//! Rows of `moisture_map`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "moisture_map")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub visit_id: Option<Uuid>,
    pub space_id: Uuid,
    pub consultant_id: Uuid,
    pub instrument_id: Uuid,
    pub name: String,
    pub route: String,
    pub is_grid: bool,
    pub scale: String,
    pub material: String,
    pub species: String,
    pub spacing_m: f64,
    pub standard: Option<f64>,
    pub standard_at: String,
    pub reason: String,
    pub false_wets: Json,
    pub started_at: DateTimeUtc,
    pub removed_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

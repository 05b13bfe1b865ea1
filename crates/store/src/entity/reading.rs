//! Rows of `reading`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;

#[derive(Clone, Debug, PartialEq, DeriveEntityModel)]
#[sea_orm(table_name = "reading")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub visit_id: Uuid,
    pub station_id: Uuid,
    pub instrument_id: Uuid,
    pub consultant_id: Uuid,
    pub kind: String,
    pub as_typed: String,
    pub raw_t_c: Option<f64>,
    pub raw_humidity: Option<f64>,
    pub humidity_kind: Option<String>,
    pub t_c: Option<f64>,
    pub rh_pct: Option<f64>,
    pub rh_over: Option<String>,
    pub raw_value: Option<f64>,
    pub value: Option<f64>,
    pub species: Option<String>,
    pub wood_t_c: Option<f64>,
    pub emissivity: Option<f64>,
    pub reflected_c: Option<f64>,
    pub hours: Option<f64>,
    pub questions: String,
    pub replaces: Option<Uuid>,
    pub reason: String,
    pub taken_at: DateTimeUtc,
    pub stored_at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

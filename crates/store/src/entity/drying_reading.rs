//! Rows of `drying_reading`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "drying_reading")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub round_id: Uuid,
    pub of_id: Uuid,
    pub what: String,
    pub a: Option<f64>,
    pub b: Option<f64>,
    pub over: bool,
    pub as_typed: String,
    pub reason: String,
    pub instrument_id: Option<Uuid>,
    pub consultant_id: Uuid,
    pub taken_at: DateTimeUtc,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

//! Rows of `finding`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "finding")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub visit_id: Option<Uuid>,
    pub consultant_id: Uuid,
    pub what: String,
    pub space_id: Option<Uuid>,
    pub boundary_id: Option<Uuid>,
    pub surface_id: Option<Uuid>,
    pub severity: i32,
    pub value: Option<f64>,
    pub note: String,
    /// Looked for, and not there.
    #[serde(default)]
    pub absent: bool,
    pub found_at: DateTimeUtc,
    pub gone_at: Option<DateTimeUtc>,
    pub removed_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

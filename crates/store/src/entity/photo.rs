//! Rows of `photo`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "photo")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub visit_id: Option<Uuid>,
    pub consultant_id: Uuid,
    pub finding_id: Option<Uuid>,
    pub space_id: Option<Uuid>,
    pub boundary_id: Option<Uuid>,
    pub surface_id: Option<Uuid>,
    pub name: String,
    pub note: String,
    pub marks: Json,
    pub media_type: String,
    pub width: i32,
    pub height: i32,
    pub bytes: i32,
    pub taken_at: DateTimeUtc,
    pub removed_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

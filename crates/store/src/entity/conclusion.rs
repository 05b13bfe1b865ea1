//! Rows of `conclusion`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::{Deserialize, Serialize};

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "conclusion")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    /// The place it is about; none for the whole building.
    pub space_id: Option<Uuid>,
    /// Ids, separated by spaces.
    pub causes: String,
    /// Ids of what was computed when it was drawn.
    pub computed: String,
    pub reason: String,
    pub updated_by: Uuid,
    pub updated_at: DateTimeUtc,
    pub removed_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

//! Rows of `visit`.
#![allow(missing_docs, reason = "columns are described in the migration")]

use sea_orm::entity::prelude::*;
use serde::Deserialize;

#[derive(Clone, Debug, PartialEq, Deserialize, DeriveEntityModel)]
#[sea_orm(table_name = "visit")]
pub struct Model {
    #[sea_orm(primary_key, auto_increment = false)]
    pub practice_id: Uuid,
    #[sea_orm(primary_key, auto_increment = false)]
    pub id: Uuid,
    pub job_id: Uuid,
    pub consultant_id: Uuid,
    pub started_at: DateTimeUtc,
    pub ended_at: Option<DateTimeUtc>,
    pub for_review: bool,
    pub reviewed_by: Option<Uuid>,
    pub reviewed_at: Option<DateTimeUtc>,
}

#[derive(Copy, Clone, Debug, EnumIter, DeriveRelation)]
pub enum Relation {}

impl ActiveModelBehavior for ActiveModel {}

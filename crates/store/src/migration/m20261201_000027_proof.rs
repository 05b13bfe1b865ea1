//! What a step of a plan was closed by.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- What showed that it worked, or that it did not, in words; empty where nothing did yet.
alter table plan_step add column proof text not null default '' check (length(proof) <= 600);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

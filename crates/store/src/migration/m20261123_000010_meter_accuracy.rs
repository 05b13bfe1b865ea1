//! Accuracy of moisture meters; 0 where none is stated, and only the correction's doubt counts.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table instrument add column wood_err_pct double precision not null default 0 check (wood_err_pct between 0 and 20);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

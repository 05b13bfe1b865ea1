//! Where a practice is reached.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- As it stands in reports: street, telephone, whatever a reader needs.
alter table practice add column address text not null default '' check (length(address) <= 400);
alter table practice add constraint practice_named check (length(name) between 1 and 200);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

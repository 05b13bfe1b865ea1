//! Readings of moisture meters beside temperatures: wood per cent, and relative scales.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table reading drop constraint reading_kind_check;
alter table reading drop constraint reading_check;
alter table reading add column raw_value double precision;
alter table reading add column value double precision;
alter table reading add column species text;
alter table reading add column wood_t_c double precision;
alter table reading add check (kind in ('air', 'surface', 'wood', 'relative', 'withdrawn'));
alter table reading add check ((kind in ('air', 'surface')) = (t_c is not null));
alter table reading add check ((kind in ('wood', 'relative')) = (raw_value is not null));
alter table reading add check ((kind = 'wood') = (species is not null and wood_t_c is not null));
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

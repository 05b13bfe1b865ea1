//! Coating and sealing jobs.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table coating (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  -- Product, area, limits of its sheet, readings before and after.
  said jsonb not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job
);
create index on coating (practice_id, job_id);
alter table coating enable row level security;
alter table coating force row level security;
create policy practice on coating using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);
create trigger revise_insert after insert on coating referencing new table as touched
  for each statement execute function revise('job_id');
create trigger revise_update after update on coating referencing new table as touched
  for each statement execute function revise('job_id');
create trigger revise_delete after delete on coating referencing old table as touched
  for each statement execute function revise('job_id');
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! The call sheet of a job: one row, changed as more is learned.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table call_sheet (
  practice_id uuid not null,
  job_id uuid not null,
  complaint text not null check (length(complaint) <= 2000),
  said text not null,
  built text not null,
  year integer check (year between 1000 and 3000),
  occupants integer check (occupants between 0 and 1000),
  updated_by uuid not null,
  updated_at timestamptz not null,
  primary key (practice_id, job_id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, updated_by) references consultant
);
alter table call_sheet enable row level security;
alter table call_sheet force row level security;
create policy practice on call_sheet using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

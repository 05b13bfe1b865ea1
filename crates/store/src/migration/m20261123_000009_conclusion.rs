//! The consultant's own conclusion on what wets a building: one for each job, changed as more is learned.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table conclusion (
  practice_id uuid not null,
  job_id uuid not null,
  causes text not null check (length(causes) <= 1000),
  computed text not null check (length(computed) <= 1000),
  reason text not null check (length(reason) <= 2000),
  updated_by uuid not null,
  updated_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, job_id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, updated_by) references consultant
);
alter table conclusion enable row level security;
alter table conclusion force row level security;
create policy practice on conclusion using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

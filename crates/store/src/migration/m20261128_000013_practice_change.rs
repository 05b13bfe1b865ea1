//! What was changed of a practice's prices, currency and schools: who, when, before and after.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table practice_change (
  practice_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  at timestamptz not null,
  rows jsonb not null,
  undoes uuid,
  primary key (practice_id, id),
  unique (practice_id, undoes),
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, undoes) references practice_change
);
create index on practice_change (practice_id, at);
alter table practice_change enable row level security;
alter table practice_change force row level security;
create trigger append_only before update or delete on practice_change
  for each row execute function refuse_change();
create policy practice on practice_change using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! Changes that can be undone: what an act changed, with the rows as they were before and after. Removed things stay
//! as rows and can be restored.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table change (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  consultant_id uuid not null,
  at timestamptz not null,
  what text not null,
  rows jsonb not null,
  undoes uuid,
  primary key (practice_id, id),
  unique (practice_id, undoes),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, undoes) references change
);
create index on change (practice_id, job_id, at);
alter table change enable row level security;
alter table change force row level security;
create policy practice on change using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);
create trigger append_only before update or delete on change
  for each row execute function refuse_change();

alter table job add column removed_at timestamptz;
alter table call_sheet add column removed_at timestamptz;
alter table space add column removed_at timestamptz;
alter table boundary add column removed_at timestamptz, add column buildup text;
alter table surface add column removed_at timestamptz;
alter table station add column removed_at timestamptz;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

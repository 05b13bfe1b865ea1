//! What people of a practice say to one another about a version of a report or a visit.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table remark (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  -- What it is about: one of them.
  version_id uuid,
  visit_id uuid,
  consultant_id uuid not null,
  words text not null check (length(words) between 1 and 4000),
  at timestamptz not null,
  primary key (practice_id, id),
  check ((version_id is null) <> (visit_id is null)),
  foreign key (practice_id, job_id) references job on delete cascade,
  foreign key (practice_id, version_id) references report_version on delete cascade,
  foreign key (practice_id, visit_id) references visit on delete cascade,
  foreign key (practice_id, consultant_id) references consultant
);
create index on remark (practice_id, job_id);
alter table remark enable row level security;
alter table remark force row level security;
create policy practice on remark using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);
create trigger append_only before update or delete on remark for each row execute function refuse_change();
do $$
declare act text;
begin
  foreach act in array array['insert', 'update', 'delete'] loop
    execute format('create trigger revise_%s after %s on remark referencing %s table as touched
      for each statement execute function revise(''job_id'')', act, act, case act when 'delete' then 'old' else 'new' end);
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

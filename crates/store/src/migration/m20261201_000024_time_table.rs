//! Time tables of small spaces, and a practice's own sources of water.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table time_table (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  -- Space, name, beginning, air and what goes on.
  said jsonb not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job
);
create index on time_table (practice_id, job_id);

create table own_source (
  practice_id uuid not null,
  id uuid not null,
  -- Name, what is counted, liters and where the figure comes from.
  said jsonb not null,
  updated_by uuid not null,
  updated_at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, updated_by) references consultant
);

do $$
declare
  pair text[];
  act text;
begin
  foreach pair slice 1 in array array[['time_table','job_id'], ['own_source','nil']] loop
    execute format('alter table %I enable row level security', pair[1]);
    execute format('alter table %I force row level security', pair[1]);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)',
      pair[1]);
    foreach act in array array['insert', 'update', 'delete'] loop
      execute format('create trigger revise_%s after %s on %I referencing %s table as touched
        for each statement execute function revise(%L)',
        act, act, pair[1], case act when 'delete' then 'old' else 'new' end, pair[2]);
    end loop;
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! How boundaries are built, in variants, and a practice's own materials.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table build_up (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  boundary_id uuid not null,
  -- The first of a boundary is how it stands.
  position integer not null,
  name text not null,
  -- Of what, how thick, whether framed; inside first.
  courses jsonb not null,
  framing_pct double precision not null check (framing_pct between 0 and 50),
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, job_id, boundary_id) references boundary (practice_id, job_id, id)
);
create index on build_up (practice_id, job_id);

create table material (
  practice_id uuid not null,
  id uuid not null,
  -- Name, conductivity, resistance to vapor, usual thickness, source.
  said jsonb not null,
  updated_by uuid not null,
  updated_at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, updated_by) references consultant
);

do $$
declare t text;
begin
  foreach t in array array['build_up', 'material'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;

do $$
declare
  pair text[];
  act text;
begin
  foreach pair slice 1 in array array[['build_up','job_id'], ['material','nil']] loop
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

//! What was found, what was tested, and which stations a visit passed by. Each belongs to a place of the building, or to
//! none: then to the whole of it.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table finding (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  visit_id uuid,
  consultant_id uuid not null,
  what text not null,
  space_id uuid,
  boundary_id uuid,
  surface_id uuid,
  severity integer not null check (severity between 1 and 3),
  value double precision,
  note text not null check (length(note) <= 2000),
  found_at timestamptz not null,
  gone_at timestamptz,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, visit_id) references visit,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, space_id) references space,
  foreign key (practice_id, boundary_id) references boundary,
  foreign key (practice_id, surface_id) references surface,
  check (num_nonnulls(space_id, boundary_id, surface_id) <= 1)
);
create table test_run (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  visit_id uuid,
  consultant_id uuid not null,
  test text not null,
  space_id uuid,
  boundary_id uuid,
  surface_id uuid,
  result text,
  note text not null check (length(note) <= 2000),
  started_at timestamptz not null,
  ended_at timestamptz,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, visit_id) references visit,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, space_id) references space,
  foreign key (practice_id, boundary_id) references boundary,
  foreign key (practice_id, surface_id) references surface,
  check (num_nonnulls(space_id, boundary_id, surface_id) <= 1),
  check ((result is null) = (ended_at is null))
);
create table skip (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  visit_id uuid not null,
  station_id uuid not null,
  consultant_id uuid not null,
  reason text not null check (length(reason) <= 300),
  skipped_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, visit_id) references visit,
  foreign key (practice_id, station_id) references station,
  foreign key (practice_id, consultant_id) references consultant
);
create index on finding (practice_id, job_id);
create index on test_run (practice_id, job_id);
create index on skip (practice_id, visit_id);
do $$
declare t text;
begin
  foreach t in array array['finding','test_run','skip'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

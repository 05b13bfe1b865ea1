//! Spaces laid flat, where things are on them, and moisture maps with their places.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- One for each space somebody measured; its id is the space's.
create table layout (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  -- Dimensions, and what is built in.
  shape jsonb not null,
  fixtures jsonb not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, job_id, id) references space (practice_id, job_id, id)
);
create index on layout (practice_id, job_id);

-- Where a station, finding, test, photo, logger or thermal picture is; its id is the thing's.
create table placed (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  space_id uuid not null,
  what text not null,
  at jsonb not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, job_id, space_id) references space (practice_id, job_id, id)
);
create index on placed (practice_id, job_id);

-- A way walked with one meter on one material.
create table moisture_map (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  visit_id uuid,
  space_id uuid not null,
  consultant_id uuid not null,
  instrument_id uuid not null,
  name text not null check (length(name) <= 200),
  route text not null check (length(route) <= 100),
  is_grid boolean not null,
  scale text not null,
  material text not null,
  -- Id of the wood pins were read in; empty for others.
  species text not null,
  spacing_m double precision not null check (spacing_m > 0),
  -- What the same material shows where it is dry, and where that is.
  standard double precision,
  standard_at text not null check (length(standard_at) <= 100),
  -- Why a meter was let through where it should not speak.
  reason text not null check (length(reason) <= 300),
  -- Places that only seem wet, and why, by their number.
  false_wets jsonb not null,
  started_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, job_id, space_id) references space (practice_id, job_id, id),
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, instrument_id) references instrument
);
create index on moisture_map (practice_id, job_id);

-- What was read at the places of a map: of several at one place the latest stands.
create table map_point (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  map_id uuid not null,
  n integer not null check (n between 0 and 9999),
  at jsonb not null,
  -- None where nothing could be read, or more than the scale holds.
  value double precision,
  over boolean not null,
  as_typed text not null check (length(as_typed) <= 20),
  taken_at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, map_id) references moisture_map
);
create index on map_point (practice_id, job_id, map_id, n, id);
create trigger append_only before update or delete on map_point
  for each row execute function refuse_change();

do $$
declare
  t text;
  act text;
begin
  foreach t in array array['layout', 'placed', 'moisture_map', 'map_point'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
    foreach act in array array['insert', 'update', 'delete'] loop
      execute format('create trigger revise_%s after %s on %I referencing %s table as touched
        for each statement execute function revise(%L)',
        act, act, t, case act when 'delete' then 'old' else 'new' end, 'job_id');
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

//! Practices, consultants, jobs with their buildings, visits and readings; row-level security on all of them.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

/// Written as SQL because half of it (policies, triggers, composite foreign keys) has no builder.
const UP: &str = r"
create table practice (
  practice_id uuid primary key,
  name text not null,
  time_zone text not null,
  created_at timestamptz not null default now()
);
create table consultant (
  practice_id uuid not null references practice,
  id uuid not null,
  email text not null unique,
  name text not null,
  password_hash text not null,
  units text not null check (units in ('metric', 'us')),
  theme text not null check (theme in ('paper', 'headlamp')),
  primary key (practice_id, id)
);
create table session (
  practice_id uuid not null,
  key_hash text not null unique,
  consultant_id uuid not null,
  expires_at timestamptz not null,
  primary key (practice_id, key_hash),
  foreign key (practice_id, consultant_id) references consultant
);
create table sign_in_failure (
  id uuid primary key,
  who text not null,
  at timestamptz not null default now()
);
create index on sign_in_failure (who, at);
create table instrument (
  practice_id uuid not null references practice,
  id uuid not null,
  name text not null,
  serial text not null,
  air_err_k double precision not null check (air_err_k between 0 and 20),
  rh_err_pct double precision not null check (rh_err_pct between 0 and 50),
  surface_err_k double precision not null check (surface_err_k between 0 and 20),
  rh_offset_pct double precision not null check (rh_offset_pct between -30 and 30),
  checked_on date,
  primary key (practice_id, id)
);
create table job (
  practice_id uuid not null references practice,
  id uuid not null,
  name text not null,
  address text not null,
  structure text not null,
  climate text not null,
  design_outdoor_c double precision not null check (design_outdoor_c between -70 and 60),
  created_by uuid not null,
  created_at timestamptz not null default now(),
  primary key (practice_id, id),
  foreign key (practice_id, created_by) references consultant
);
create table space (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  position integer not null,
  name text not null,
  kind text not null,
  level text not null,
  place integer not null,
  area_m2 double precision not null check (area_m2 > 0),
  height_m double precision not null check (height_m > 0),
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job
);
create table boundary (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  position integer not null,
  name text not null,
  space_id uuid not null,
  beyond text not null check (beyond in ('space', 'outdoors', 'ground')),
  beyond_space_id uuid,
  face text not null,
  bare_soil boolean not null,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, space_id) references space,
  foreign key (practice_id, beyond_space_id) references space,
  check ((beyond = 'space') = (beyond_space_id is not null))
);
create table surface (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  position integer not null,
  boundary_id uuid not null,
  space_id uuid not null,
  name text not null,
  short text not null,
  material text not null,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, boundary_id) references boundary,
  foreign key (practice_id, space_id) references space
);
create table station (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  position integer not null,
  space_id uuid,
  surface_id uuid,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, space_id) references space,
  foreign key (practice_id, surface_id) references surface,
  check (space_id is null or surface_id is null)
);
create table visit (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  consultant_id uuid not null,
  started_at timestamptz not null,
  ended_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant
);
create unique index one_open_visit on visit (practice_id, job_id) where ended_at is null;
create table reading (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  visit_id uuid not null,
  station_id uuid not null,
  instrument_id uuid not null,
  consultant_id uuid not null,
  kind text not null check (kind in ('air', 'surface', 'withdrawn')),
  as_typed text not null,
  raw_t_c double precision,
  raw_humidity double precision,
  humidity_kind text check (humidity_kind in ('rh', 'dew', 'wet')),
  t_c double precision,
  rh_pct double precision check (rh_pct between 0 and 100),
  rh_over text check (rh_over in ('ice', 'water')),
  questions text not null,
  replaces uuid,
  reason text not null,
  taken_at timestamptz not null,
  stored_at timestamptz not null default now(),
  primary key (practice_id, id),
  unique (practice_id, replaces),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, visit_id) references visit,
  foreign key (practice_id, station_id) references station,
  foreign key (practice_id, instrument_id) references instrument,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, replaces) references reading,
  check ((kind = 'withdrawn') = (t_c is null)),
  check ((kind = 'air') = (rh_pct is not null)),
  check (replaces is null or reason <> '')
);
create index on reading (practice_id, visit_id);
create index on visit (practice_id, job_id, started_at);
create index on space (practice_id, job_id);
create index on boundary (practice_id, job_id);
create index on surface (practice_id, job_id);
create index on station (practice_id, job_id);

-- Readings are append-only: a correction is a new row.
create function refuse_change() returns trigger language plpgsql as
  $$ begin raise exception 'readings are append-only'; end $$;
create trigger append_only before update or delete on reading
  for each row execute function refuse_change();

-- The second wall: without the practice's id in the transaction no row is visible, to the owner either.
do $$
declare t text;
begin
  foreach t in array array['practice','instrument','job','space','boundary','surface','station','visit','reading'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;
-- Signing in comes before the practice is known: the row is visible to whoever already knows the e-mail or holds the
-- session's secret.
alter table consultant enable row level security;
alter table consultant force row level security;
create policy practice on consultant using (
  practice_id = nullif(current_setting('app.practice_id', true), '')::uuid
  or email = nullif(current_setting('app.sign_in_email', true), ''));
alter table session enable row level security;
alter table session force row level security;
create policy practice on session using (
  practice_id = nullif(current_setting('app.practice_id', true), '')::uuid
  or key_hash = nullif(current_setting('app.session_key', true), ''));
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

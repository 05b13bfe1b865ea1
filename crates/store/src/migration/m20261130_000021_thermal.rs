//! Thermal pictures: what is known of each, which can change, and their cells, which cannot.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table thermal (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  consultant_id uuid not null,
  space_id uuid,
  boundary_id uuid,
  surface_id uuid,
  name text not null check (length(name) <= 200),
  note text not null check (length(note) <= 500),
  taken_at timestamptz not null,
  -- Breadth of what is seen, m.
  width_m double precision check (width_m > 0),
  -- The air it was taken in; none where the visit's readings say it.
  air_t_c double precision,
  air_rh_pct double precision,
  outdoor_c double precision,
  -- The surface and its surroundings, and what the camera was set to.
  emissivity double precision not null,
  reflected_c double precision,
  set_emissivity double precision not null,
  set_reflected_c double precision,
  rows integer not null check (rows > 0),
  columns integer not null check (columns > 0),
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, job_id, space_id) references space (practice_id, job_id, id),
  foreign key (practice_id, job_id, boundary_id) references boundary (practice_id, job_id, id),
  foreign key (practice_id, job_id, surface_id) references surface (practice_id, job_id, id),
  check (num_nonnulls(space_id, boundary_id, surface_id) <= 1)
);
create index on thermal (practice_id, job_id);
-- Hundredths of a degree Celsius, two bytes each, row by row; the lowest for a cell that was not read.
create table thermal_cells (
  practice_id uuid not null,
  thermal_id uuid not null,
  cells bytea not null,
  primary key (practice_id, thermal_id),
  foreign key (practice_id, thermal_id) references thermal
);
create trigger append_only before update or delete on thermal_cells
  for each row execute function refuse_change();

do $$
declare
  t text;
  act text;
begin
  foreach t in array array['thermal', 'thermal_cells'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
  foreach act in array array['insert', 'update', 'delete'] loop
    execute format('create trigger revise_%s after %s on thermal referencing %s table as touched
      for each statement execute function revise(%L)',
      act, act, case act when 'delete' then 'old' else 'new' end, 'job_id');
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

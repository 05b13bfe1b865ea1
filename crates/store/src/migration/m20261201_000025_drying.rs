//! Drying jobs: what got wet, points, machines and what was taken out; what was read on rounds; certificates.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- What got wet (its id is the job's), points, machines, what was taken out, sheets.
create table drying (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  said jsonb not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job
);
create index on drying (practice_id, job_id);

-- What was read on a round: of several of one thing on one round the latest stands.
create table drying_reading (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  round_id uuid not null,
  -- A point, a machine, a space, or the job for outdoor air.
  of_id uuid not null,
  what text not null,
  -- Corrected: the figure, or temperature (°C) and relative humidity (%). None where nothing could be read, or more than the
  -- scale holds.
  a double precision,
  b double precision,
  over boolean not null,
  as_typed text not null check (length(as_typed) <= 40),
  -- Why it was corrected.
  reason text not null check (length(reason) <= 300),
  instrument_id uuid,
  consultant_id uuid not null,
  taken_at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, instrument_id) references instrument
);
create index on drying_reading (practice_id, job_id, id);
create trigger append_only before update or delete on drying_reading
  for each row execute function refuse_change();

-- What was certified as it was then.
create table certificate (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  cavity text not null check (length(cavity) <= 200),
  said jsonb not null,
  consultant_id uuid not null,
  at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant
);
create index on certificate (practice_id, job_id, id);
create trigger append_only before update or delete on certificate
  for each row execute function refuse_change();

do $$
declare
  t text;
  act text;
begin
  foreach t in array array['drying', 'drying_reading', 'certificate'] loop
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

//! Jobs that leave and come in: what was asked for, its file in pieces, and where a job came from.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- The job it was where it came from; none for one opened here.
alter table job add column origin uuid;
create index on job (practice_id, origin) where origin is not null;

-- A file that leaves or comes in.
create table parcel (
  practice_id uuid not null references practice,
  id uuid not null,
  -- The job that leaves, or the one that came in; none for the whole practice, or while nothing came yet.
  job_id uuid,
  kind text not null check (kind in ('json', 'csv', 'xlsx', 'practice', 'in')),
  name text not null check (length(name) <= 200),
  -- Whether it may come in beside itself.
  copy boolean not null default false,
  consultant_id uuid not null,
  made_at timestamptz not null,
  bytes bigint not null default 0,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant
);
create index on parcel (practice_id, job_id);
create index on parcel (practice_id, made_at);
create table parcel_piece (
  practice_id uuid not null,
  parcel_id uuid not null,
  position integer not null,
  bytes bytea not null,
  primary key (practice_id, parcel_id, position),
  foreign key (practice_id, parcel_id) references parcel
);
alter table parcel_piece alter column bytes set storage external;

do $$
declare t text;
begin
  foreach t in array array['parcel', 'parcel_piece'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;

-- As before; but a visit that comes in with a job was looked through, or not, where it was made.
create or replace function mark_for_review() returns trigger language plpgsql as $$
begin
  if current_setting('app.arriving', true) = 'yes' then return null; end if;
  update visit v set for_review = true, reviewed_by = null, reviewed_at = null
    from touched t
      join consultant c on c.practice_id = t.practice_id and c.id = t.consultant_id
      join job j on j.practice_id = t.practice_id and j.id = t.job_id
    where v.practice_id = t.practice_id and v.id = t.visit_id and c.role = 'trainee' and not j.rehearsal
      and (not v.for_review or v.reviewed_at is not null);
  return null;
end $$;

-- What is never changed is still erased when a client asks for it: by the function below, which alone may say so.
create or replace function refuse_change() returns trigger language plpgsql as $$
begin
  if current_setting('app.erasing', true) = 'yes' and (tg_op = 'DELETE' or tg_table_name = 'audit') then
    return case tg_op when 'DELETE' then old else new end;
  end if;
  raise exception 'readings are append-only';
end $$;
create function erase_job(gone uuid) returns void language plpgsql security definer set search_path = public, pg_temp as $$
declare
  own uuid := nullif(current_setting('app.practice_id', true), '')::uuid;
  t text;
begin
  perform set_config('app.erasing', 'yes', true);
  delete from share_word where practice_id = own and job_id = gone;
  delete from share where practice_id = own and job_id = gone;
  delete from signature where practice_id = own and job_id = gone;
  foreach t in array array['report_pdf', 'report_image', 'report_text'] loop
    execute format('delete from %I where practice_id = $1 and version_id in
      (select id from report_version where practice_id = $1 and job_id = $2)', t) using own, gone;
  end loop;
  foreach t in array array['log_point', 'log_hour', 'log_day'] loop
    execute format('delete from %I where practice_id = $1 and series_id in
      (select id from log_series where practice_id = $1 and job_id = $2)', t) using own, gone;
  end loop;
  delete from log_file_piece where practice_id = own and file_id in (select id from log_file where practice_id = own and job_id = gone);
  delete from thermal_cells where practice_id = own and thermal_id in (select id from thermal where practice_id = own and job_id = gone);
  delete from photo_file where practice_id = own and photo_id in (select id from photo where practice_id = own and job_id = gone);
  delete from parcel_piece where practice_id = own and parcel_id in (select id from parcel where practice_id = own and job_id = gone);
  foreach t in array array['report_version', 'report', 'change', 'log_mark', 'log_series', 'bring_in', 'log_file', 'alert', 'alert_rule',
    'time_table', 'coating', 'follow_up', 'school', 'plan_figure', 'plan_step', 'conclusion', 'call_sheet', 'certificate',
    'drying_reading', 'drying', 'map_point', 'moisture_map', 'placed', 'layout', 'thermal', 'photo', 'test_run', 'finding', 'skip',
    'reading', 'visit', 'station', 'surface', 'build_up', 'boundary', 'space', 'forecast', 'letter', 'task', 'parcel'] loop
    execute format('delete from %I where practice_id = $1 and job_id = $2', t) using own, gone;
  end loop;
  update audit set job_id = null where practice_id = own and job_id = gone;
  update logger set goes = '[]', unplaced = '[]' where practice_id = own and position(gone::text in goes::text || unplaced::text) > 0;
  delete from job where practice_id = own and id = gone;
  delete from revision where practice_id = own and job_id = gone;
  perform set_config('app.erasing', '', true);
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

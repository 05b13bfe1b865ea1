//! The log: what loggers read over time, the files it was brought in from, and the queue of long work.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- A logger is an instrument; here is what only a logger has.
create table logger (
  practice_id uuid not null,
  instrument_id uuid not null,
  token_hash text unique,
  token_made_at timestamptz,
  heard_at timestamptz,
  -- How its last file was read: what was said of it by hand.
  read_as jsonb,
  -- Where the sensors it posts of belong, and those nobody has said that of.
  goes jsonb not null default '[]',
  unplaced jsonb not null default '[]',
  primary key (practice_id, instrument_id),
  foreign key (practice_id, instrument_id) references instrument
);

-- What one sensor of a logger reads at one place of a job. Moved elsewhere, it becomes another.
create table log_series (
  practice_id uuid not null,
  job_id uuid not null,
  id uuid not null,
  instrument_id uuid not null,
  channel text not null,
  reads text not null,
  space_id uuid,
  surface_id uuid,
  points bigint not null default 0,
  first_at timestamptz,
  last_at timestamptz,
  removed_at timestamptz,
  primary key (practice_id, id),
  unique (practice_id, job_id, id),
  unique nulls not distinct (practice_id, job_id, instrument_id, channel, reads, space_id, surface_id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, instrument_id) references instrument,
  foreign key (practice_id, job_id, space_id) references space (practice_id, job_id, id),
  foreign key (practice_id, job_id, surface_id) references surface (practice_id, job_id, id)
);

-- A reading belongs to its series; a key to it would be checked a million times for a file, so the series is locked instead by
-- whoever adds to it.
create table log_point (
  practice_id uuid not null,
  series_id uuid not null,
  at timestamptz not null,
  t_c double precision,
  rh_pct double precision,
  value double precision,
  -- The file it came in; none for what was posted.
  bring_in_id uuid,
  primary key (practice_id, series_id, at)
) partition by range (at);

create table log_hour (
  practice_id uuid not null,
  series_id uuid not null,
  at timestamptz not null,
  points integer not null,
  t_c double precision, t_low double precision, t_high double precision,
  rh_pct double precision, rh_low double precision, rh_high double precision,
  dew_c double precision, dew_low double precision, dew_high double precision,
  value double precision, value_low double precision, value_high double precision,
  primary key (practice_id, series_id, at)
) partition by range (at);

create table log_day (like log_hour including all);

-- A month of readings, made by whoever first needs it. Months lie where the role that serves sees them only through their table,
-- and so through its walls.
create schema log_month;
create function log_months(months date[]) returns void language plpgsql security definer set search_path = public, pg_temp as $$
declare
  month date;
  part text;
  name text;
begin
  foreach month in array months loop
    if month <> date_trunc('month', month) or month < '1970-01-01' or month > '2199-12-01' then
      raise exception 'no month of a log: %', month;
    end if;
    foreach part in array array['log_point', 'log_hour'] loop
      name := format('log_month.%I', part || '_' || to_char(month, 'YYYY_MM'));
      if to_regclass(name) is null then
        -- Two who need it at once make it one after the other; the second may not have heard of it yet.
        perform pg_advisory_xact_lock(hashtext(name));
        begin
          -- Made and then attached: readers of other months go on meanwhile.
          execute format('create table %s (like %I including defaults including constraints)', name, part);
          execute format('alter table %I attach partition %s for values from (%L) to (%L)', part, name,
            to_char(month, 'YYYY-MM-DD') || ' 00:00:00+00', to_char(month + interval '1 month', 'YYYY-MM-DD') || ' 00:00:00+00');
        exception when duplicate_table then null;
        end;
      end if;
    end loop;
  end loop;
end $$;

-- What somebody marked in a log: an event, a note on a moment, or readings left out. Without a series it is of all of them,
-- without an end of a moment.
create table log_mark (
  practice_id uuid not null,
  job_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  kind text not null,
  series_id uuid,
  space_id uuid,
  from_at timestamptz not null,
  until_at timestamptz,
  what text not null,
  note text not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  unique (practice_id, job_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, job_id, series_id) references log_series (practice_id, job_id, id),
  foreign key (practice_id, job_id, space_id) references space (practice_id, job_id, id)
);
create index on log_mark (practice_id, job_id);

-- A file sent for a log, what was found in it and what became of it.
create table log_file (
  practice_id uuid not null,
  job_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  name text not null,
  bytes bigint not null,
  sha256 text not null,
  -- What somebody said of it: its zone, its order of day and month, its columns.
  wishes jsonb not null,
  found jsonb,
  became jsonb,
  sent_at timestamptz not null,
  primary key (practice_id, id),
  unique (practice_id, job_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant
);
create index on log_file (practice_id, job_id, sent_at);
create index on log_file (practice_id, sha256);

-- Its bytes, and the lines that were not taken, in pieces.
create table log_file_piece (
  practice_id uuid not null,
  file_id uuid not null,
  part text not null,
  position integer not null,
  bytes bytea not null,
  primary key (practice_id, file_id, part, position),
  foreign key (practice_id, file_id) references log_file
);

-- That a file is part of a log, and where its columns belong. Removed, its readings go; put back, they come again.
create table bring_in (
  practice_id uuid not null,
  job_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  instrument_id uuid not null,
  places jsonb not null,
  kept_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id, id) references log_file (practice_id, job_id, id),
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, instrument_id) references instrument
);

-- Work that takes longer than a page may.
create table task (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid,
  kind text not null,
  subject_id uuid not null,
  state text not null,
  done bigint not null default 0,
  total bigint not null default 0,
  said text not null default '',
  tries integer not null default 0,
  made_at timestamptz not null,
  due_at timestamptz not null,
  -- Whoever works on it says so again before then.
  held_until timestamptz,
  primary key (practice_id, id),
  unique (practice_id, kind, subject_id),
  foreign key (practice_id, job_id) references job
);
create index on task (due_at) where state in ('waiting', 'running');

do $$
declare t text;
begin
  foreach t in array array['logger','log_series','log_point','log_hour','log_day','log_mark','log_file','log_file_piece','bring_in','task'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;
-- A logger is known by its token before its practice is, and a worker takes whatever waits longest.
create policy token on logger for select using (token_hash = nullif(current_setting('app.logger_key', true), ''));
create policy worker on task using (current_setting('app.worker', true) = 'yes');
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

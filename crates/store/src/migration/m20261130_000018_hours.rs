//! Where a job stands and the weather to come there; and what the hours say counts for it: a file brought in and a mark are changes.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- Where a job stands: its pressure follows from how high, its weather from where.
alter table job
  add column altitude_m double precision not null default 0 check (altitude_m between -500 and 6000),
  add column latitude double precision check (latitude between -90 and 90),
  add column longitude double precision check (longitude between -180 and 180),
  add check ((latitude is null) = (longitude is null));

-- For how many days a practice keeps single readings of loggers and their files; hours and days stay. None for ever.
alter table practice add column log_days integer check (log_days between 1 and 36500);

-- The weather to come at a job, as it was told last.
create table forecast (
  practice_id uuid not null,
  job_id uuid not null,
  told_at timestamptz not null,
  -- At, °C, %, mm.
  hours jsonb not null,
  primary key (practice_id, job_id),
  foreign key (practice_id, job_id) references job
);
alter table forecast enable row level security;
alter table forecast force row level security;
create policy practice on forecast using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);

-- What a log is watched for, space by space.
create table alert_rule (
  practice_id uuid not null,
  job_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  space_id uuid not null,
  kind text not null,
  -- %, °C; none where hours alone say it.
  figure double precision,
  hours integer not null check (hours between 1 and 336),
  -- Whom to write to; nobody where empty.
  mail_to text not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, job_id, space_id) references space (practice_id, job_id, id)
);
create index on alert_rule (practice_id, job_id);
-- What a rule raised; cleared by itself.
create table alert (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  rule_id uuid not null,
  surface_id uuid,
  figure double precision not null,
  raised_at timestamptz not null,
  cleared_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, rule_id) references alert_rule
);
create unique index on alert (practice_id, rule_id) where cleared_at is null;
create index on alert (practice_id, job_id, raised_at);
-- Letters on their way.
create table letter (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  mail_to text not null,
  subject text not null,
  body text not null,
  made_at timestamptz not null,
  sent_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job
);

do $$
declare t text;
begin
  foreach t in array array['alert_rule', 'alert', 'letter'] loop
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
  foreach pair slice 1 in array array[['log_mark','job_id'], ['bring_in','job_id'], ['alert_rule','job_id']] loop
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

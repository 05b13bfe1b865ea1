//! A docket of thousands: how jobs stand, kept; pinned ones and those put in the archive.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table job add column archived_at timestamptz;

-- How a job stood when it was last looked through.
create table standing (
  practice_id uuid not null,
  job_id uuid not null,
  worst text not null check (worst in ('dry', 'mold_risk', 'cant_tell', 'condensing', 'not_judged')),
  -- Read on the latest visit.
  readings integer not null,
  primary key (practice_id, job_id),
  foreign key (practice_id, job_id) references job on delete cascade
);
-- Whether it stands so still: taken back by the same write that counts a change, so that it costs none of its own.
alter table revision add column stood boolean not null default false;
create index on revision (practice_id, job_id) where not stood;
-- The first page of the docket, how many there are, and what was taken off it.
create index on job (practice_id, created_at desc, id desc) where removed_at is null and archived_at is null;
create index on job (practice_id, removed_at) where removed_at is not null;
create index on reading (practice_id, instrument_id, job_id);
-- What somebody wants on top of their docket.
create table pin (
  practice_id uuid not null,
  consultant_id uuid not null,
  job_id uuid not null,
  primary key (practice_id, consultant_id, job_id),
  foreign key (practice_id, job_id) references job on delete cascade,
  foreign key (practice_id, consultant_id) references consultant
);
create index on pin (practice_id, job_id);
create index on visit (practice_id, consultant_id, job_id);
create index on follow_up (practice_id, job_id, due_on) where state = 'open' and removed_at is null;

do $$
declare t text;
begin
  foreach t in array array['standing', 'pin'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;

-- As before; and a job that changed is to be looked through again.
create or replace function revise() returns trigger language plpgsql as $$
begin
  execute format('insert into revision as r select distinct practice_id, %s, 1 from touched
    on conflict (practice_id, job_id) do update set made = r.made + 1, stood = false',
    case tg_argv[0] when 'nil' then quote_literal('00000000-0000-0000-0000-000000000000') || '::uuid' else tg_argv[0] end);
  return null;
end $$;
-- What was judged with an instrument is judged anew when that is changed, and for no price. A new one judged nothing yet.
create function unsettle() returns trigger language plpgsql as $$
begin
  execute format('update revision r set stood = false from
    (select distinct d.practice_id, d.job_id from reading d join touched t on t.practice_id = d.practice_id and t.%s = d.instrument_id) j
    where r.practice_id = j.practice_id and r.job_id = j.job_id and r.stood', tg_argv[0]);
  return null;
end $$;
create trigger unsettle after update on instrument referencing new table as touched for each statement execute function unsettle('id');
create trigger unsettle_insert after insert on salt_check referencing new table as touched for each statement
  execute function unsettle('instrument_id');
create trigger unsettle_update after update on salt_check referencing new table as touched for each statement
  execute function unsettle('instrument_id');
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

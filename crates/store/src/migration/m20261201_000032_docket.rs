//! A docket of thousands: how jobs stand, kept; pinned ones and those put in the archive.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table job add column archived_at timestamptz;

-- How a job stood at a revision of it and of the practice's instruments: good for as long as both hold, and made anew after.
create table standing (
  practice_id uuid not null,
  job_id uuid not null,
  made bigint not null,
  instruments bigint not null,
  worst text not null check (worst in ('dry', 'mold_risk', 'cant_tell', 'condensing', 'not_judged')),
  -- Read on the latest visit.
  readings integer not null,
  primary key (practice_id, job_id),
  foreign key (practice_id, job_id) references job on delete cascade
);
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
declare
  t text;
  act text;
begin
  foreach t in array array['standing', 'pin'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;

-- As before; and instruments are counted by themselves, for what was judged with them is judged anew when they change, and for
-- no price.
create or replace function revise() returns trigger language plpgsql as $$
begin
  execute format('insert into revision as r select distinct practice_id, %s, 1 from touched
    on conflict (practice_id, job_id) do update set made = r.made + 1',
    case tg_argv[0]
      when 'nil' then quote_literal('00000000-0000-0000-0000-000000000000') || '::uuid'
      when 'instruments' then quote_literal('ffffffff-ffff-ffff-ffff-ffffffffffff') || '::uuid'
      else tg_argv[0] end);
  return null;
end $$;
do $$
declare t text; act text;
begin
  foreach t in array array['instrument', 'salt_check'] loop
    foreach act in array array['insert', 'update', 'delete'] loop
      execute format('create trigger revise_instruments_%s after %s on %I referencing %s table as touched
        for each statement execute function revise(''instruments'')', act, act, t, case act when 'delete' then 'old' else 'new' end);
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

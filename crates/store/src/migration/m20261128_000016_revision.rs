//! How often a job, and its practice, were changed: what was read of a job at a revision is good for as long as it holds.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- A row for each job, and one of the nil job for what all jobs of a practice share.
create table revision (
  practice_id uuid not null,
  job_id uuid not null,
  made bigint not null,
  primary key (practice_id, job_id)
) with (fillfactor = 50);
-- A later change of the tables that touches rows of all practices takes this wall down with theirs, for that long.
alter table revision enable row level security;
alter table revision force row level security;
create policy practice on revision using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);

-- Counted in the transaction that changes, so that whoever sees the change sees the count. Who changes a job and its practice
-- in one transaction changes the job first: two that wait for each other cannot be.
create function revise() returns trigger language plpgsql as $$
begin
  execute format('insert into revision as r select distinct practice_id, %s, 1 from touched
    on conflict (practice_id, job_id) do update set made = r.made + 1',
    case tg_argv[0] when 'nil' then quote_literal('00000000-0000-0000-0000-000000000000') || '::uuid' else tg_argv[0] end);
  return null;
end $$;
do $$
declare
  pair text[];
  act text;
begin
  foreach pair slice 1 in array array[
    ['job','id'], ['space','job_id'], ['boundary','job_id'], ['surface','job_id'], ['station','job_id'], ['visit','job_id'],
    ['reading','job_id'], ['skip','job_id'], ['finding','job_id'], ['test_run','job_id'], ['photo','job_id'],
    ['call_sheet','job_id'], ['conclusion','job_id'], ['plan_step','job_id'], ['plan_figure','job_id'], ['school','job_id'],
    ['follow_up','job_id'], ['change','job_id'],
    ['practice','nil'], ['consultant','nil'], ['instrument','nil'], ['salt_check','nil'],
    ['price','nil'], ['practice_school','nil']] loop
    foreach act in array array['insert', 'update', 'delete'] loop
      execute format('create trigger revise_%s after %s on %I referencing %s table as touched
        for each statement execute function revise(%L)',
        act, act, pair[1], case act when 'delete' then 'old' else 'new' end, pair[2]);
    end loop;
  end loop;
end $$;

drop function signed_in(text, timestamptz);
-- Walks through the same walls as the statements would: the session by its key, then the person by the practice, and how often
-- the job they ask about and what all its jobs share were changed.
create function signed_in(key text, at timestamptz, about uuid)
returns table (practice_id uuid, practice_name text, time_zone text, consultant_id uuid, name text, units text, theme text,
  schools jsonb, expires_at timestamptz, job_made bigint, practice_made bigint)
language plpgsql as $$
#variable_conflict use_column
declare held session%rowtype;
begin
  perform set_config('app.session_key', key, true);
  select * into held from session s where s.key_hash = key and s.expires_at > at;
  if not found then return; end if;
  perform set_config('app.practice_id', held.practice_id::text, true);
  return query select p.practice_id, p.name, p.time_zone, c.id, c.name, c.units, c.theme,
      (select coalesce(jsonb_object_agg(s.question, s.choice), '{}') from practice_school s
        where s.practice_id = held.practice_id), held.expires_at,
      (select made from revision where practice_id = held.practice_id and job_id = about),
      (select made from revision where practice_id = held.practice_id and job_id = '00000000-0000-0000-0000-000000000000')
    from consultant c join practice p on p.practice_id = c.practice_id
    where c.practice_id = held.practice_id and c.id = held.consultant_id;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

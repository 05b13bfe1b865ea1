//! People of a practice: roles, invitations, sessions that can be ended, a second factor, and what was done about them.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table consultant
  -- Who was here before there were roles led.
  add column role text not null default 'lead' check (role in ('lead', 'technician', 'reviewer', 'trainee')),
  add column joined_at timestamptz not null default now(),
  -- Since when they may not come in; their work stays.
  add column ended_at timestamptz,
  -- What the second factor's secret is derived from; empty without one.
  add column second text not null default '' check (length(second) <= 100),
  -- The last step of it that was used: no code counts twice.
  add column second_step bigint not null default 0,
  -- Hashes of the codes that count once each in its place.
  add column recovery text not null default '';
alter table session
  add column id uuid not null default gen_random_uuid(),
  add column started_at timestamptz not null default now(),
  add column seen_at timestamptz not null default now(),
  add column agent text not null default '' check (length(agent) <= 200),
  add column address text not null default '' check (length(address) <= 100);
create unique index on session (practice_id, id);

-- Invitations, and ways back in for who forgot the password. Only a hash of the link's secret is kept.
create table invite (
  practice_id uuid not null references practice,
  id uuid not null,
  key_hash text not null unique,
  -- The person it lets back in; none for somebody new.
  consultant_id uuid,
  email text not null check (length(email) <= 254),
  name text not null check (length(name) <= 200),
  role text not null check (role in ('lead', 'technician', 'reviewer', 'trainee')),
  made_by uuid not null,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  -- When it was used or taken back.
  ended_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, made_by) references consultant
);
create index on invite (practice_id, made_at);

-- Who came in, or failed to.
create table sign_in (
  practice_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  at timestamptz not null,
  how text not null check (length(how) <= 40),
  came_in boolean not null,
  agent text not null check (length(agent) <= 200),
  address text not null check (length(address) <= 100),
  primary key (practice_id, id),
  foreign key (practice_id, consultant_id) references consultant
);
create index on sign_in (practice_id, consultant_id, at);

-- What was done about people, access and data. Never changed.
create table audit (
  practice_id uuid not null references practice,
  id uuid not null,
  at timestamptz not null,
  -- Nobody: the program itself, or a stranger with a link.
  by_id uuid,
  what text not null check (length(what) <= 400),
  job_id uuid,
  primary key (practice_id, id),
  foreign key (practice_id, by_id) references consultant,
  foreign key (practice_id, job_id) references job
);
create index on audit (practice_id, at);
create trigger append_only before update or delete on audit for each row execute function refuse_change();
create trigger append_only before update or delete on sign_in for each row execute function refuse_change();

-- A trainee's own job to practice on; and a trainee's visit that somebody still has to look through.
alter table job add column rehearsal boolean not null default false;
alter table visit add column for_review boolean not null default false, add column reviewed_by uuid, add column reviewed_at timestamptz;

-- Whoever began the visit: what a trainee reads on it has to be looked through, again if that was done before.
create function mark_for_review() returns trigger language plpgsql as $$
begin
  update visit v set for_review = true, reviewed_by = null, reviewed_at = null
    from touched t
      join consultant c on c.practice_id = t.practice_id and c.id = t.consultant_id
      join job j on j.practice_id = t.practice_id and j.id = t.job_id
    where v.practice_id = t.practice_id and v.id = t.visit_id and c.role = 'trainee' and not j.rehearsal
      and (not v.for_review or v.reviewed_at is not null);
  return null;
end $$;
create trigger mark_for_review after insert on reading referencing new table as touched
  for each statement execute function mark_for_review();

-- A letter may be about no job.
alter table letter alter column job_id drop not null;

do $$
declare t text;
begin
  foreach t in array array['sign_in', 'audit'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;
-- A link comes before the practice is known: the row is visible to whoever holds its secret.
alter table invite enable row level security;
alter table invite force row level security;
create policy practice on invite using (
  practice_id = nullif(current_setting('app.practice_id', true), '')::uuid
  or key_hash = nullif(current_setting('app.invite_key', true), ''));

drop function signed_in(text, timestamptz, uuid);
-- As before, with the person's role, whether the job is their own rehearsal, and nobody who may not come in any more.
create function signed_in(key text, at timestamptz, about uuid)
returns table (practice_id uuid, practice_name text, time_zone text, consultant_id uuid, name text, units text, theme text, role text,
  rehearsal boolean, session_id uuid, seen_at timestamptz, schools jsonb, expires_at timestamptz, job_made bigint, practice_made bigint)
language plpgsql as $$
#variable_conflict use_column
declare held session%rowtype;
begin
  perform set_config('app.session_key', key, true);
  select * into held from session s where s.key_hash = key and s.expires_at > at;
  if not found then return; end if;
  perform set_config('app.practice_id', held.practice_id::text, true);
  return query select p.practice_id, p.name, p.time_zone, c.id, c.name, c.units, c.theme, c.role,
      exists (select from job j where j.practice_id = held.practice_id and j.id = about and j.rehearsal and j.created_by = held.consultant_id),
      held.id, held.seen_at,
      (select coalesce(jsonb_object_agg(s.question, s.choice), '{}') from practice_school s
        where s.practice_id = held.practice_id), held.expires_at,
      (select made from revision where practice_id = held.practice_id and job_id = about),
      (select made from revision where practice_id = held.practice_id and job_id = '00000000-0000-0000-0000-000000000000')
    from consultant c join practice p on p.practice_id = c.practice_id
    where c.practice_id = held.practice_id and c.id = held.consultant_id and c.ended_at is null;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! What programs may do: tokens of people, answers kept for those who ask again, and those who are told of what happens.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r#"
-- What a program says to be let in as somebody: never more than they may, and no more than was written on it.
create table api_token (
  practice_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  name text not null check (length(name) between 1 and 100),
  key_hash text not null unique,
  -- Ids, separated by spaces.
  scopes text not null,
  made_at timestamptz not null,
  expires_at timestamptz,
  used_at timestamptz,
  ended_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, consultant_id) references consultant
);
create index on api_token (practice_id, consultant_id);

-- What was answered to a program that named its request, for when the answer did not arrive.
create table answered (
  practice_id uuid not null,
  token_id uuid not null,
  key text not null check (length(key) between 1 and 200),
  request_hash text not null,
  status smallint not null,
  headers jsonb not null,
  body text not null,
  at timestamptz not null,
  primary key (practice_id, token_id, key),
  foreign key (practice_id, token_id) references api_token
);
create index on answered (practice_id, at);

-- Who is told of what happens, and what they are told.
create table webhook (
  practice_id uuid not null references practice,
  id uuid not null,
  url text not null check (length(url) between 1 and 500),
  -- What letters are signed by: both have to know it.
  secret text not null,
  events text not null,
  made_by uuid not null,
  made_at timestamptz not null,
  ended_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, made_by) references consultant
);
create table delivery (
  practice_id uuid not null,
  id uuid not null,
  webhook_id uuid not null,
  job_id uuid,
  event text not null,
  body text not null,
  made_at timestamptz not null,
  tries integer not null default 0,
  next_at timestamptz,
  done_at timestamptz,
  status integer,
  said text not null default '',
  primary key (practice_id, id),
  foreign key (practice_id, webhook_id) references webhook,
  foreign key (practice_id, job_id) references job on delete cascade
);
create index on delivery (practice_id, webhook_id, made_at);

do $$
declare t text;
begin
  foreach t in array array['api_token', 'answered', 'webhook', 'delivery'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
  end loop;
  foreach t in array array['answered', 'webhook', 'delivery'] loop
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;
create policy practice on api_token using (
  practice_id = nullif(current_setting('app.practice_id', true), '')::uuid
  or key_hash = nullif(current_setting('app.token_key', true), ''));

-- As somebody is known by their session, by a token.
create function known_by_token(key text, at timestamptz, about uuid)
returns table (practice_id uuid, practice_name text, time_zone text, consultant_id uuid, name text, units text, theme text, language text, role text,
  rehearsal boolean, session_id uuid, seen_at timestamptz, schools jsonb, scopes text, job_made bigint, practice_made bigint)
language plpgsql as $$
#variable_conflict use_column
declare held api_token%rowtype;
begin
  perform set_config('app.token_key', key, true);
  select * into held from api_token t where t.key_hash = key and t.ended_at is null and (t.expires_at is null or t.expires_at > at);
  if not found then return; end if;
  perform set_config('app.practice_id', held.practice_id::text, true);
  return query select p.practice_id, p.name, p.time_zone, c.id, c.name, c.units, c.theme, c.language, c.role,
      exists (select from job j where j.practice_id = held.practice_id and j.id = about and j.rehearsal and j.created_by = held.consultant_id),
      held.id, held.used_at,
      (select coalesce(jsonb_object_agg(s.question, s.choice), '{}') from practice_school s where s.practice_id = held.practice_id),
      held.scopes,
      (select made from revision where practice_id = held.practice_id and job_id = about),
      (select made from revision where practice_id = held.practice_id and job_id = '00000000-0000-0000-0000-000000000000')
    from consultant c join practice p on p.practice_id = c.practice_id
    where c.practice_id = held.practice_id and c.id = held.consultant_id and c.ended_at is null;
end $$;

-- Puts what happened into the letters of those who asked for it, in the transaction in which it happened: what was not kept is
-- told to nobody, and what was, to all. A job that comes in from a file did not just happen.
create function tell(practice uuid, job uuid, what text, data jsonb) returns void language plpgsql as $$
declare
  w record;
  letter uuid;
begin
  if current_setting('app.arriving', true) = 'yes' then return; end if;
  for w in select id from webhook where practice_id = practice and ended_at is null and what = any(string_to_array(events, ' ')) order by id loop
    letter := gen_random_uuid();
    insert into delivery (practice_id, id, webhook_id, job_id, event, body, made_at, next_at)
      values (practice, letter, w.id, job, what, jsonb_build_object('id', letter, 'event', what, 'at', to_char(now() at time zone 'utc',
        'YYYY-MM-DD"T"HH24:MI:SS.US"Z"'), 'job_id', job, 'data', data)::text, now(), now());
    insert into task (practice_id, id, kind, subject_id, state, made_at, due_at)
      values (practice, gen_random_uuid(), 'deliver', letter, 'waiting', now(), now());
    perform pg_notify('task', '');
  end loop;
end $$;
create function tell_change() returns trigger language plpgsql as $$
begin
  perform tell(new.practice_id, new.job_id, case when new.id = new.job_id then 'job.opened' else 'job.changed' end,
    jsonb_build_object('change_id', new.id, 'by', new.consultant_id, 'what', new.what,
      'tables', (select coalesce(jsonb_agg(distinct r -> 'table'), '[]') from jsonb_array_elements(new.rows) r)));
  return null;
end $$;
create trigger tell after insert on change for each row execute function tell_change();
create function tell_visit() returns trigger language plpgsql as $$
begin
  perform tell(new.practice_id, new.job_id, 'visit.finished', jsonb_build_object('visit_id', new.id, 'by', new.consultant_id));
  return null;
end $$;
create trigger tell after update on visit for each row when (old.ended_at is null and new.ended_at is not null) execute function tell_visit();
create function tell_readings() returns trigger language plpgsql as $$
declare r record;
begin
  for r in select practice_id, job_id, visit_id, jsonb_agg(id) as ids from touched group by 1, 2, 3 loop
    perform tell(r.practice_id, r.job_id, 'readings.added', jsonb_build_object('visit_id', r.visit_id, 'reading_ids', r.ids));
  end loop;
  return null;
end $$;
create trigger tell after insert on reading referencing new table as touched for each statement execute function tell_readings();
create function tell_version() returns trigger language plpgsql as $$
begin
  perform tell(new.practice_id, new.job_id, 'report.published', jsonb_build_object('version_id', new.id, 'n', new.n, 'title', new.title));
  return null;
end $$;
create trigger tell after insert on report_version for each row execute function tell_version();
create function tell_word() returns trigger language plpgsql as $$
begin
  perform tell(new.practice_id, new.job_id, case new.kind when 'accept' then 'reader.accepted' else 'reader.commented' end,
    jsonb_build_object('share_id', new.share_id, 'name', new.name));
  return null;
end $$;
create trigger tell after insert on share_word for each row execute function tell_word();
create function tell_alert() returns trigger language plpgsql as $$
begin
  perform tell(new.practice_id, new.job_id, 'alert.raised', jsonb_build_object('rule_id', new.rule_id, 'surface_id', new.surface_id));
  return null;
end $$;
create trigger tell after insert on alert for each row execute function tell_alert();
"#;

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

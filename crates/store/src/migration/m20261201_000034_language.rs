//! In which language somebody reads, and what newcomers of a practice begin with.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table consultant add column language text not null default 'en-US' check (length(language) between 2 and 20);
alter table practice add column language text not null default 'en-US' check (length(language) between 2 and 20);
alter table practice add column units text not null default 'metric' check (units in ('metric', 'us'));

drop function signed_in(text, timestamptz, uuid);
-- As before, with the person's language.
create function signed_in(key text, at timestamptz, about uuid)
returns table (practice_id uuid, practice_name text, time_zone text, consultant_id uuid, name text, units text, theme text, language text,
  role text, rehearsal boolean, session_id uuid, seen_at timestamptz, schools jsonb, expires_at timestamptz, job_made bigint,
  practice_made bigint)
language plpgsql as $$
#variable_conflict use_column
declare held session%rowtype;
begin
  perform set_config('app.session_key', key, true);
  select * into held from session s where s.key_hash = key and s.expires_at > at;
  if not found then return; end if;
  perform set_config('app.practice_id', held.practice_id::text, true);
  return query select p.practice_id, p.name, p.time_zone, c.id, c.name, c.units, c.theme, c.language, c.role,
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

//! Who holds a session, asked in one statement: every page begins with it.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- Walks through the same walls as four statements would: the session by its key, then the person by the practice.
create or replace function signed_in(key text, at timestamptz)
returns table (practice_id uuid, practice_name text, time_zone text, consultant_id uuid, name text, units text, theme text,
  schools jsonb, expires_at timestamptz)
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
        where s.practice_id = held.practice_id), held.expires_at
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

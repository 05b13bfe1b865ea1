//! For how long a practice keeps what it no longer needs.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
-- Days; without a number nothing is removed.
alter table practice
  add column removed_days integer check (removed_days between 30 and 36500),
  add column archived_days integer check (archived_days between 30 and 36500),
  add column sign_in_days integer check (sign_in_days between 30 and 36500);

-- Sign-ins are never changed; old ones go, by the function below alone.
create function forget_sign_ins(before timestamptz) returns void language plpgsql security definer set search_path = public, pg_temp as $$
begin
  perform set_config('app.erasing', 'yes', true);
  delete from sign_in where practice_id = nullif(current_setting('app.practice_id', true), '')::uuid and at < before;
  perform set_config('app.erasing', '', true);
end $$;

-- What is old is looked for once a day, in every practice.
create function look_daily() returns trigger language plpgsql as $$
begin
  insert into task (practice_id, id, kind, subject_id, state, made_at, due_at)
    values (new.practice_id, gen_random_uuid(), 'retain', new.practice_id, 'waiting', now(), now()) on conflict do nothing;
  return null;
end $$;
create trigger look_daily after insert on practice for each row execute function look_daily();
alter table practice no force row level security;
alter table task no force row level security;
insert into task (practice_id, id, kind, subject_id, state, made_at, due_at)
  select practice_id, gen_random_uuid(), 'retain', practice_id, 'waiting', now(), now() from practice
  on conflict (practice_id, kind, subject_id) do update set state = 'waiting', tries = 0, due_at = now();
alter table practice force row level security;
alter table task force row level security;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! The plan: what a consultant decides about its steps, figures typed over, schools chosen, prices, what is looked at again
//! and the calendar that tells of it. And findings that were looked for and are not there.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table finding add column absent boolean not null default false;
alter table practice add column currency text not null default '' check (length(currency) <= 8);
create table plan_step (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  fix text not null,
  stage text check (stage in ('now', 'season', 'later')),
  override_reason text not null default '' check (length(override_reason) <= 2000),
  left_out text not null default '' check (length(left_out) <= 2000),
  done_on date,
  updated_by uuid not null,
  updated_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  unique (practice_id, job_id, fix),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, updated_by) references consultant
);
create table plan_figure (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  fix text not null,
  name text not null,
  value text not null check (length(value) <= 80),
  updated_by uuid not null,
  updated_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  unique (practice_id, job_id, fix, name),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, updated_by) references consultant
);
create table school (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  question text not null,
  choice text not null,
  reason text not null check (length(reason) <= 2000),
  updated_by uuid not null,
  updated_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  unique (practice_id, job_id, question),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, updated_by) references consultant
);
create table follow_up (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  what text not null,
  name text not null check (length(name) <= 200),
  note text not null check (length(note) <= 2000),
  begun_on date not null,
  due_on date not null,
  state text not null check (state in ('open', 'done', 'dropped')),
  reason text not null check (length(reason) <= 2000),
  updated_by uuid not null,
  updated_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, updated_by) references consultant
);
create index on follow_up (practice_id, due_on) where state = 'open' and removed_at is null;
create table price (
  practice_id uuid not null,
  item text not null,
  cents bigint not null check (cents >= 0 and cents <= 1000000000),
  updated_by uuid not null,
  updated_at timestamptz not null,
  primary key (practice_id, item),
  foreign key (practice_id, updated_by) references consultant
);
create table practice_school (
  practice_id uuid not null,
  question text not null,
  choice text not null,
  updated_by uuid not null,
  updated_at timestamptz not null,
  primary key (practice_id, question),
  foreign key (practice_id, updated_by) references consultant
);
create table calendar_feed (
  practice_id uuid not null,
  key_hash text not null unique,
  consultant_id uuid not null,
  created_at timestamptz not null,
  read_at timestamptz,
  revoked_at timestamptz,
  primary key (practice_id, key_hash),
  foreign key (practice_id, consultant_id) references consultant
);
do $$
declare t text;
begin
  foreach t in array array['plan_step','plan_figure','school','follow_up','price','practice_school'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;
-- A calendar knows only its secret: its row is found by the hash of it.
alter table calendar_feed enable row level security;
alter table calendar_feed force row level security;
create policy practice on calendar_feed using (
  practice_id = nullif(current_setting('app.practice_id', true), '')::uuid
  or key_hash = nullif(current_setting('app.calendar_key', true), ''));
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! Salt checks of instruments, what kind they are and how long they need to settle.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
alter table instrument add column kind text not null default 'hygrometer';
alter table instrument add column settle_s integer not null default 0 check (settle_s between 0 and 3600);
alter table instrument add column rh_slope double precision not null default 1;
create table salt_check (
  practice_id uuid not null,
  id uuid not null,
  instrument_id uuid not null,
  consultant_id uuid not null,
  salts text not null,
  started_at timestamptz not null,
  ended_at timestamptz,
  t_c double precision,
  shown jsonb,
  rh_slope double precision,
  rh_offset_pct double precision,
  max_residual_pct double precision,
  note text not null check (length(note) <= 2000),
  primary key (practice_id, id),
  foreign key (practice_id, instrument_id) references instrument,
  foreign key (practice_id, consultant_id) references consultant,
  check ((ended_at is null) = (rh_slope is null)),
  check ((ended_at is null) = (rh_offset_pct is null))
);
create index on salt_check (practice_id, instrument_id, ended_at);
alter table salt_check enable row level security;
alter table salt_check force row level security;
create policy practice on salt_check using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

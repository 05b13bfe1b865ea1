//! Keys that a device keeps for somebody and lets them in by.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table passkey (
  practice_id uuid not null,
  id uuid not null,
  consultant_id uuid not null,
  -- What the device calls it: who comes with it has not said yet who they are.
  credential text not null unique check (length(credential) <= 2000),
  -- The public key, and how often it was used where the device counts.
  key jsonb not null,
  name text not null check (length(name) between 1 and 100),
  made_at timestamptz not null,
  used_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, consultant_id) references consultant
);
create index on passkey (practice_id, consultant_id);
alter table passkey enable row level security;
alter table passkey force row level security;
create policy practice on passkey using (
  practice_id = nullif(current_setting('app.practice_id', true), '')::uuid
  or credential = nullif(current_setting('app.passkey', true), ''));
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

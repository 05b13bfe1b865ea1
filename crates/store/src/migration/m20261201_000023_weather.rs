//! Weather files of a practice's own; what a thermal picture turned out to show, and the photo beside it.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table weather (
  practice_id uuid not null,
  id uuid not null,
  -- Name, where it is from, mean temperature and vapor pressure by month and hour.
  said jsonb not null,
  updated_by uuid not null,
  updated_at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, updated_by) references consultant
);
alter table weather enable row level security;
alter table weather force row level security;
create policy practice on weather using (practice_id = nullif(current_setting('app.practice_id', true), '')::uuid);

-- What its patches turned out to be; empty until something settled it.
alter table thermal add column settled text not null default '' check (length(settled) <= 40);
alter table thermal add column photo_id uuid;
alter table thermal add foreign key (practice_id, photo_id) references photo;

do $$
declare act text;
begin
  foreach act in array array['insert', 'update', 'delete'] loop
    execute format('create trigger revise_%s after %s on weather referencing %s table as touched
      for each statement execute function revise(%L)',
      act, act, case act when 'delete' then 'old' else 'new' end, 'nil');
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

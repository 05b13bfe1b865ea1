//! Pictures: what is known of each, which can change, and their files, which cannot.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table photo (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  visit_id uuid,
  consultant_id uuid not null,
  finding_id uuid,
  space_id uuid,
  boundary_id uuid,
  surface_id uuid,
  name text not null check (length(name) <= 200),
  note text not null check (length(note) <= 500),
  marks jsonb not null,
  media_type text not null,
  width integer not null check (width > 0),
  height integer not null check (height > 0),
  bytes integer not null check (bytes > 0),
  taken_at timestamptz not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, visit_id) references visit,
  foreign key (practice_id, consultant_id) references consultant,
  foreign key (practice_id, finding_id) references finding,
  foreign key (practice_id, space_id) references space,
  foreign key (practice_id, boundary_id) references boundary,
  foreign key (practice_id, surface_id) references surface,
  check (num_nonnulls(finding_id, space_id, boundary_id, surface_id) <= 1)
);
create table photo_file (
  practice_id uuid not null,
  photo_id uuid not null,
  size text not null check (size in ('original', 'view', 'thumb')),
  bytes bytea not null,
  primary key (practice_id, photo_id, size),
  foreign key (practice_id, photo_id) references photo
);
-- Pictures are packed already.
alter table photo_file alter column bytes set storage external;
create index on photo (practice_id, job_id);
create trigger append_only before update or delete on photo_file
  for each row execute function refuse_change();
do $$
declare t text;
begin
  foreach t in array array['photo','photo_file'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! Rain as a reading, and a conclusion for a place beside that for the whole job.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r#"
do $$
declare c text;
begin
  for c in select conname from pg_constraint where conrelid = 'reading'::regclass and contype = 'c'
    and pg_get_constraintdef(oid) like '%airflow%' loop
    execute format('alter table reading drop constraint %I', c);
  end loop;
end $$;
alter table reading add check (kind in
  ('air', 'surface', 'wood', 'relative', 'water', 'airflow', 'rain', 'note', 'withdrawn'));
alter table reading add check ((kind in ('wood', 'relative', 'water', 'airflow', 'rain')) = (raw_value is not null));

-- The rows of every practice are rewritten: for that long the owner is not bound by their policies, nor is the history
-- append-only, since what it says of conclusions gets their new columns.
alter table conclusion no force row level security;
alter table change no force row level security;
alter table change disable trigger append_only;
alter table conclusion add column id uuid;
alter table conclusion add column space_id uuid;
update conclusion set id = job_id;
alter table conclusion drop constraint conclusion_pkey;
alter table conclusion add primary key (practice_id, id);
alter table conclusion add unique nulls not distinct (practice_id, job_id, space_id);
alter table conclusion add foreign key (practice_id, space_id) references space;
update change set rows = (
  select jsonb_agg(
    case when r ->> 'table' <> 'conclusion' then r
    else jsonb_build_object(
      'table', 'conclusion',
      'before', case when jsonb_typeof(r -> 'before') = 'object'
        then (r -> 'before') || jsonb_build_object('id', r -> 'before' -> 'job_id', 'space_id', null) end,
      'after', (r -> 'after') || jsonb_build_object('id', r -> 'after' -> 'job_id', 'space_id', null))
    end order by place)
  from jsonb_array_elements(rows) with ordinality as one(r, place))
where rows @> '[{"table": "conclusion"}]';
alter table change enable trigger append_only;
alter table conclusion force row level security;
alter table change force row level security;
"#;

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

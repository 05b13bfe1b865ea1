//! Infrared with what it was corrected by, water collected by a dehumidifier, airflow, and notes in words.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
do $$
declare c text;
begin
  for c in select conname from pg_constraint where conrelid = 'reading'::regclass and contype = 'c'
    and pg_get_constraintdef(oid) like '%kind%' and pg_get_constraintdef(oid) not like '%humidity_kind%' loop
    execute format('alter table reading drop constraint %I', c);
  end loop;
end $$;
alter table reading add column emissivity double precision check (emissivity between 0.6 and 1);
alter table reading add column reflected_c double precision;
alter table reading add column hours double precision check (hours > 0);
alter table reading add check (kind in ('air', 'surface', 'wood', 'relative', 'water', 'airflow', 'note', 'withdrawn'));
alter table reading add check ((kind in ('air', 'surface')) = (t_c is not null));
alter table reading add check ((kind = 'air') = (rh_pct is not null));
alter table reading add check ((kind in ('wood', 'relative', 'water', 'airflow')) = (raw_value is not null));
alter table reading add check ((kind = 'wood') = (species is not null and wood_t_c is not null));
alter table reading add check ((kind = 'water') = (hours is not null));
alter table reading add check ((emissivity is null) = (reflected_c is null));
alter table reading add check (kind <> 'note' or as_typed <> '');
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

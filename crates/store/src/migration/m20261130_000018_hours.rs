//! What the hours say counts for a job: a file brought in and a mark are changes of it.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
do $$
declare
  pair text[];
  act text;
begin
  foreach pair slice 1 in array array[['log_mark','job_id'], ['bring_in','job_id']] loop
    foreach act in array array['insert', 'update', 'delete'] loop
      execute format('create trigger revise_%s after %s on %I referencing %s table as touched
        for each statement execute function revise(%L)',
        act, act, pair[1], case act when 'delete' then 'old' else 'new' end, pair[2]);
    end loop;
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

//! Every row of a job is tied to that job; what is filtered by job is found by it; and brakes that count before they check.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
drop table sign_in_failure;
-- No practice: whoever is braked may belong to none.
create table brake (
  key text primary key,
  since timestamptz not null,
  sum double precision not null
);
create index on brake (since);

create index on change using gin (rows jsonb_path_ops);
create index on follow_up (practice_id, job_id);
create index on skip (practice_id, job_id);
create index on session (practice_id, expires_at);

-- What is checked here is every row, whichever practice's: the owner looks past its own walls for that long.
do $$
declare t text;
begin
  foreach t in array array['space','boundary','surface','station','visit','finding','test_run','skip','photo','reading','conclusion'] loop
    execute format('alter table %I no force row level security', t);
  end loop;
end $$;
alter table space add unique (practice_id, job_id, id);
alter table boundary add unique (practice_id, job_id, id);
alter table surface add unique (practice_id, job_id, id);
alter table station add unique (practice_id, job_id, id);
alter table visit add unique (practice_id, job_id, id);
alter table finding add unique (practice_id, job_id, id);
do $$
declare pair text[];
begin
  foreach pair slice 1 in array array[
    ['boundary','space_id','space'], ['boundary','beyond_space_id','space'],
    ['surface','boundary_id','boundary'], ['surface','space_id','space'],
    ['station','space_id','space'], ['station','surface_id','surface'],
    ['finding','visit_id','visit'], ['finding','space_id','space'], ['finding','boundary_id','boundary'],
    ['finding','surface_id','surface'],
    ['test_run','visit_id','visit'], ['test_run','space_id','space'], ['test_run','boundary_id','boundary'],
    ['test_run','surface_id','surface'],
    ['skip','visit_id','visit'], ['skip','station_id','station'],
    ['photo','visit_id','visit'], ['photo','finding_id','finding'], ['photo','space_id','space'],
    ['photo','boundary_id','boundary'], ['photo','surface_id','surface'],
    ['reading','visit_id','visit'], ['reading','station_id','station'],
    ['conclusion','space_id','space']] loop
    execute format('alter table %I add foreign key (practice_id, job_id, %I) references %I (practice_id, job_id, id)',
      pair[1], pair[2], pair[3]);
  end loop;
end $$;
do $$
declare t text;
begin
  foreach t in array array['space','boundary','surface','station','visit','finding','test_run','skip','photo','reading','conclusion'] loop
    execute format('alter table %I force row level security', t);
  end loop;
end $$;
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

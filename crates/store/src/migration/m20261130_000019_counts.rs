//! How many figures stand behind each mean of an hour, so that what comes late is added to it; a wall around readings that costs
//! less; and loggers that post at the same moment are looked up together.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
do $$
declare t text;
begin
  foreach t in array array['log_hour', 'log_day'] loop
    execute format('alter table %I add column t_n integer not null default 0, add column rh_n integer not null default 0,
      add column dew_n integer not null default 0, add column value_n integer not null default 0', t);
    -- Whoever owns the tables stands before their walls as well, and these rows are every practice''s.
    execute format('alter table %I no force row level security', t);
    execute format('update %I set t_n = case when t_c is null then 0 else points end,
      rh_n = case when rh_pct is null then 0 else points end, dew_n = case when dew_c is null then 0 else points end,
      value_n = case when value is null then 0 else points end', t);
    execute format('alter table %I force row level security', t);
  end loop;
  -- The wall looks at each of a million readings: whose they are is worked out once for a statement.
  foreach t in array array['log_point', 'log_hour', 'log_day'] loop
    execute format('drop policy practice on %I', t);
    execute format('create policy practice on %I
      using (practice_id = (select nullif(current_setting(''app.practice_id'', true), '''')::uuid))', t);
  end loop;
end $$;
drop policy token on logger;
create policy token on logger for select
  using (token_hash = any(string_to_array(current_setting('app.logger_keys', true), ',')));
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

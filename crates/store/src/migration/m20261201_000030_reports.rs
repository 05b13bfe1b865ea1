//! Reports put together for a reader, their versions, signatures and printed pages, and links by which a client reads one.

use sea_orm_migration::prelude::*;

#[derive(DeriveMigrationName)]
pub struct Migration;

const UP: &str = r"
create table report (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  -- For whom, how technical, which parts in which order, own words.
  said jsonb not null,
  removed_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job
);
create index on report (practice_id, job_id);

-- A report as it went out. Never changed.
create table report_version (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  report_id uuid not null,
  n int not null check (n > 0),
  title text not null check (length(title) <= 200),
  -- How it was put together, and what its first page and verdicts said, by which the next one tells what changed.
  said jsonb not null,
  facts jsonb not null,
  consultant_id uuid not null,
  made_at timestamptz not null,
  primary key (practice_id, id),
  unique (practice_id, report_id, n),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, report_id) references report,
  foreign key (practice_id, consultant_id) references consultant
);
create index on report_version (practice_id, job_id);

-- Its pages as HTML that names its pictures by number, and those pictures as they were.
create table report_text (
  practice_id uuid not null,
  version_id uuid not null,
  html text not null,
  primary key (practice_id, version_id),
  foreign key (practice_id, version_id) references report_version
);
create table report_image (
  practice_id uuid not null,
  version_id uuid not null,
  n int not null,
  media_type text not null check (length(media_type) <= 60),
  bytes bytea not null,
  primary key (practice_id, version_id, n),
  foreign key (practice_id, version_id) references report_version
);
alter table report_image alter column bytes set storage external;

create table signature (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  version_id uuid not null,
  consultant_id uuid not null,
  -- As they sign: their name then, and as what.
  name text not null check (length(name) <= 200),
  signs_as text not null check (length(signs_as) <= 200),
  at timestamptz not null,
  primary key (practice_id, id),
  unique (practice_id, version_id, consultant_id),
  foreign key (practice_id, version_id) references report_version,
  foreign key (practice_id, consultant_id) references consultant
);

-- Printed, for each number of signatures it had then.
create table report_pdf (
  practice_id uuid not null,
  version_id uuid not null,
  signed int not null,
  bytes bytea not null,
  made_at timestamptz not null,
  primary key (practice_id, version_id, signed),
  foreign key (practice_id, version_id) references report_version
);
alter table report_pdf alter column bytes set storage external;

-- Links by which somebody without a name here reads one version. Only a hash of the secret is kept.
create table share (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  version_id uuid not null,
  key_hash text not null unique,
  reader text not null check (length(reader) <= 200),
  made_by uuid not null,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  revoked_at timestamptz,
  opened int not null default 0,
  opened_at timestamptz,
  primary key (practice_id, id),
  foreign key (practice_id, job_id) references job,
  foreign key (practice_id, version_id) references report_version,
  foreign key (practice_id, made_by) references consultant
);
create index on share (practice_id, job_id);

-- What a reader said by their link: a comment, or that they accept the plan. Never changed.
create table share_word (
  practice_id uuid not null,
  id uuid not null,
  job_id uuid not null,
  share_id uuid not null,
  kind text not null check (kind in ('comment', 'accept')),
  name text not null check (length(name) <= 200),
  words text not null check (length(words) <= 4000),
  at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, share_id) references share
);
create index on share_word (practice_id, job_id);
create unique index on share_word (practice_id, share_id) where kind = 'accept';

-- What a practice writes again and again, and its sign.
create table text_block (
  practice_id uuid not null,
  id uuid not null,
  said jsonb not null,
  updated_by uuid not null,
  updated_at timestamptz not null,
  primary key (practice_id, id),
  foreign key (practice_id, updated_by) references consultant
);
create table logo (
  practice_id uuid primary key references practice,
  bytes bytea not null,
  updated_by uuid not null,
  updated_at timestamptz not null
);

do $$
declare
  t text;
  pair text[];
begin
  foreach t in array array['report', 'report_version', 'report_text', 'report_image', 'signature', 'report_pdf', 'share_word',
    'text_block', 'logo'] loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy practice on %I using (practice_id = nullif(current_setting(''app.practice_id'', true), '''')::uuid)', t);
  end loop;
  foreach t in array array['report_version', 'report_text', 'report_image', 'signature', 'report_pdf', 'share_word'] loop
    execute format('create trigger append_only before update or delete on %I for each row execute function refuse_change()', t);
  end loop;
  foreach pair slice 1 in array array[['report', 'job_id'], ['report_version', 'job_id'], ['signature', 'job_id'],
    ['text_block', 'nil']] loop
    foreach t in array array['insert', 'update', 'delete'] loop
      execute format('create trigger revise_%s after %s on %I referencing %s table as touched
        for each statement execute function revise(%L)',
        t, t, pair[1], case t when 'delete' then 'old' else 'new' end, pair[2]);
    end loop;
  end loop;
end $$;
alter table share enable row level security;
alter table share force row level security;
create policy practice on share using (
  practice_id = nullif(current_setting('app.practice_id', true), '')::uuid
  or key_hash = nullif(current_setting('app.share_key', true), ''));
";

#[async_trait::async_trait]
impl MigrationTrait for Migration {
    async fn up(&self, manager: &SchemaManager) -> Result<(), DbErr> {
        manager.get_connection().execute_unprepared(UP).await.map(|_| ())
    }
}

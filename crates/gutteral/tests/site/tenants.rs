//! Two practices in one database, and the walls between them.

use crate::harness::Site;
use crate::harness::client::{Caller, first_choice, hidden, link};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use uuid::Uuid;

const OTHER: &str = "odd@low-harbor.example";

#[tokio::test(flavor = "multi_thread")]
async fn no_address_of_one_practice_shows_or_changes_anything_of_another() {
    let site = Site::start().await;
    let owner = Caller::signed_in(&site, ENTRY).await;
    let thief = Caller::signed_in(&site, OTHER).await;
    assert!(!thief.get("/docket").await.body.contains("Mill keeper"));
    let job = owner.job("School archive").await;
    let section = owner.get(&job).await.body;
    let visit = link(&section, "visit=").split("visit=").nth(1).unwrap().split('&').next().unwrap().to_owned();
    let place = link(&section, "at=");
    let round = owner.get(&format!("{job}/round")).await.body;
    let station = hidden(&round, "station");
    let instrument = first_choice(&round, "instrument");
    let reading = link(&owner.get(&place).await.body, "/correct");
    let follow_up = link(&owner.get(&format!("{job}/plan")).await.body, "/follow-ups/");
    let (name, id) = (("line", "out 9 72"), Uuid::now_v7().to_string());
    let before = [site.count("reading").await, site.count("visit").await, site.count("job").await];
    for path in [
        job.clone(),
        place,
        reading.clone(),
        format!("{job}/edit"),
        format!("{job}/call"),
        format!("{job}/building"),
        format!("{job}/history"),
        format!("{job}/findings"),
        format!("{job}/tests"),
        format!("{job}/why"),
        format!("{job}/plan"),
        follow_up.clone(),
        format!("{job}/round"),
        format!("{job}/round/verdict?station={station}&instrument={instrument}&t=12&m=50"),
        format!("{job}/shorthand?line=out+9+72"),
        format!("{job}/visits/{visit}/report"),
        format!("{job}/visits/{visit}/readings.csv"),
        format!("{job}/visits/{visit}/readings.json"),
    ] {
        assert!(owner.get(&path).await.status.is_success(), "the owner reaches {path}");
        assert_eq!(thief.get(&path).await.status, StatusCode::NOT_FOUND, "{path}");
    }
    let latest = format!("{job}/report");
    assert!(owner.get(&latest).await.location.ends_with(&format!("/visits/{visit}/report")), "the latest visit's");
    assert_eq!(thief.get(&latest).await.status, StatusCode::NOT_FOUND);
    let reason = [("id", id.as_str()), ("t", "1"), ("m", "1"), ("reason", "mine now"), ("withdraw", "1")];
    let entry = [
        ("id", id.as_str()),
        ("station", &station),
        ("t", "12"),
        ("m", "50"),
        ("kind", "rh"),
        ("instrument", &instrument),
    ];
    let edit = [("name", "Mine"), ("address", ""), ("climate", "cold"), ("design", "-1")];
    for (path, fields) in [
        (format!("{job}/visits"), &[("id", id.as_str())][..]),
        (format!("{job}/round"), &entry[..]),
        (format!("{job}/shorthand"), &[("id", id.as_str()), name][..]),
        (format!("{job}/edit"), &edit[..]),
        (format!("{job}/call"), &[("complaint", "mine now")][..]),
        (format!("{job}/building"), &[("id", id.as_str()), ("act", "order")][..]),
        (format!("{job}/undo"), &[("id", id.as_str()), ("change", id.as_str())][..]),
        (format!("{job}/remove"), &[][..]),
        (format!("{job}/findings"), &[("id", id.as_str()), ("what", "rot")][..]),
        (format!("{job}/tests"), &[("id", id.as_str()), ("test", "hose")][..]),
        (format!("{job}/plan/dry_out"), &[("id", id.as_str()), ("act", "done")][..]),
        (format!("{job}/plan/dry_out/figures"), &[("id", id.as_str()), ("g-area_m2", "1")][..]),
        (format!("{job}/schools/wood_goal"), &[("id", id.as_str()), ("choice", "19"), ("reason", "mine")][..]),
        (format!("{job}/follow-ups"), &[("id", id.as_str())][..]),
        (follow_up, &[("id", id.as_str()), ("act", "done")][..]),
        (format!("{job}/visits/{visit}/finish"), &[][..]),
        (format!("{job}/visits/{visit}/reopen"), &[][..]),
        (reading, &reason[..]),
    ] {
        assert_eq!(thief.post(&path, fields).await.status, StatusCode::NOT_FOUND, "{path}");
    }
    assert_eq!(before, [site.count("reading").await, site.count("visit").await, site.count("job").await]);
    assert!(owner.get(&job).await.body.contains("School archive"), "and it still has its name");
}

#[tokio::test(flavor = "multi_thread")]
async fn every_table_is_keyed_by_its_practice_and_the_database_itself_hides_other_rows() {
    let site = Site::start().await;
    let keyless = "select count(*) from information_schema.tables t where table_schema = 'public' and table_type = 'BASE TABLE' \
         and table_name not in ('brake', 'seaql_migrations') and not exists ( \
           select from information_schema.table_constraints c join information_schema.key_column_usage k using (constraint_name, table_name) \
           where c.table_name = t.table_name and c.constraint_type = 'PRIMARY KEY' and k.column_name = 'practice_id')";
    assert_eq!(site.number(keyless).await, 0, "a table without the practice in its key");
    let open = "select count(*) from pg_class where relkind = 'r' and relnamespace = 'public'::regnamespace \
         and relname not in ('brake', 'seaql_migrations') and not (relrowsecurity and relforcerowsecurity)";
    assert_eq!(site.number(open).await, 0, "a table without forced row-level security");
    assert!(site.count("reading").await > 50);
    // The application's own role, with no practice named, sees nothing and can insert nothing.
    let tables = "select string_agg(table_name, ' ') from information_schema.columns \
         where table_schema = 'public' and column_name = 'practice_id'";
    for table in site.text(tables).await.split(' ') {
        assert_eq!(site.number_as_app(&format!("select count(*) from {table}")).await, 0, "{table}");
    }
    let practice = site.text("select practice_id from practice limit 1").await;
    let rows = format!("set app.practice_id = '{practice}'; select count(*) from practice");
    assert_eq!(site.number_as_app(&rows).await, 1, "with a practice named, its rows and no others");
}

#[tokio::test(flavor = "multi_thread")]
async fn a_reading_cannot_be_changed_or_removed_even_by_sql() {
    let site = Site::start().await;
    for change in ["update reading set t_c = 1", "delete from reading", "delete from change"] {
        assert!(site.refuses(change).await, "{change}");
    }
    // The role that serves cannot take the lock off either, nor change how the tables are.
    for change in [
        "alter table reading disable trigger append_only",
        "alter table reading disable row level security",
        "drop table reading",
        "create or replace function refuse_change() returns trigger language plpgsql as $$ begin return new; end $$",
        "set session_replication_role = replica",
        "truncate reading",
        "delete from job",
        "update photo_file set bytes = ''",
    ] {
        assert!(site.refuses_app(change).await, "{change}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn what_belongs_to_a_job_is_tied_to_it_by_the_database() {
    let site = Site::start().await;
    let jobs = site
        .text("select string_agg(id::text, ' ') from (select id from job order by practice_id, name limit 2) j")
        .await;
    let (one, other) = jobs.split_once(' ').unwrap();
    for table in ["station", "surface", "boundary", "finding", "test_run", "visit"] {
        let moved = format!("update {table} set job_id = '{other}' where job_id = '{one}'");
        if site.count(&format!("{table} where job_id = '{one}'")).await > 0 {
            assert!(site.refuses(&moved).await, "{moved}");
        }
    }
}

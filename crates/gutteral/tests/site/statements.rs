//! How often a page asks the database.

use crate::harness::Site;
use crate::harness::client::Caller;
use crate::harness::counted::Counted;
use gutteral::demo::ENTRY;
use uuid::Uuid;

/// Most statements a page of a job may send, who asks and their transaction included.
const MOST: usize = 8;

#[tokio::test(flavor = "multi_thread")]
async fn a_page_of_a_job_asks_the_database_at_most_eight_times() {
    let first = Site::start().await;
    let wire = Counted::to(&first.database).await;
    let site = first.through(&wire.url).await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let report = caller.get(&format!("{job}/report")).await.location;
    let call = format!("{job}/call");
    let others = [
        "",
        "/unfolded",
        "/unfolded/walk",
        "/build-ups/questions",
        "/build-ups/questions/two_tight",
        "/build-ups",
        "/build-ups?from=log",
        "/findings",
        "/tests",
        "/photos",
        "/why",
        "/plan",
        "/history",
        "/building",
        "/edit",
        "/log",
        "/log/files",
        "/log/budget",
        "/proof",
        "/drying",
        "/coating",
    ];
    let report_id = Uuid::now_v7().to_string();
    let begin = [("id", report_id.as_str()), ("act", "begin"), ("reader", "engineer")];
    let builder = caller.post(&format!("{job}/reports"), &begin).await.location;
    let version_id = Uuid::now_v7().to_string();
    let version = caller.post(&format!("{builder}/versions"), &[("id", &version_id)]).await.location;
    let mut pages: Vec<String> = others.iter().map(|view| format!("{job}{view}")).collect();
    caller.post(&format!("{job}/visits"), &[("id", &Uuid::now_v7().to_string())]).await;
    pages.extend([
        report,
        call,
        format!("{job}/round"),
        builder,
        version,
        format!("{job}/sharing"),
        format!("{job}/data"),
    ]);
    let mut told = Vec::new();
    for page in &pages {
        // A connection that lay idle on a busy machine is pinged before it is used again: that is no statement of the page.
        caller.get("/docket").await;
        wire.since();
        assert!(caller.get(page).await.status.is_success(), "{page}");
        told.push((wire.since(), page.rsplit_once(&job[6..]).unwrap().1.to_owned()));
    }
    assert!(told.iter().all(|(asked, _)| *asked > 0), "nothing was counted: {told:?}");
    assert!(told.iter().all(|(asked, _)| *asked <= MOST), "{told:?}");
    println!("{told:?}");
    // Looked at again, nothing of the job is read again: who asks comes with how often the job was changed.
    for page in ["", "/why", "/plan", "/round", "/building", "/photos"].map(|view| format!("{job}{view}")) {
        caller.get(&page).await;
        wire.since();
        assert!(caller.get(&page).await.status.is_success(), "{page}");
        assert_eq!(wire.since(), 1, "{page}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn what_one_process_changes_every_other_shows_at_once() {
    let one = Site::start().await;
    let other = one.through(&one.database).await;
    let (here, there) = (Caller::signed_in(&one, ENTRY).await, Caller::signed_in(&other, ENTRY).await);
    let job = here.job("Mill keeper").await;
    let (findings, id) = (format!("{job}/findings"), Uuid::now_v7().to_string());
    for _ in 0..2 {
        assert!(!there.get(&findings).await.body.contains(&id));
    }
    here.post(&findings, &[("id", id.as_str()), ("what", "smell_gas")]).await;
    assert!(there.get(&findings).await.body.contains(&id), "a finding");
    let rename = [("name", "Miller’s house"), ("climate", "cold"), ("design", "-12C")];
    here.post(&format!("{job}/edit"), &rename).await;
    assert!(there.get(&job).await.body.contains("Miller’s house"), "the job itself");
    // What all jobs of the practice share.
    let name = one.text("select name from instrument where kind <> 'logger' order by name limit 1").await;
    let before = there.get(&format!("{job}/round")).await.body;
    one.run(&format!("update instrument set name = 'Borrowed one' where name = '{name}'")).await;
    let after = there.get(&format!("{job}/round")).await.body;
    assert!(!before.contains("Borrowed one") && after.contains("Borrowed one"), "an instrument");
}

#[tokio::test(flavor = "multi_thread")]
async fn every_table_of_a_practice_counts_its_changes() {
    let site = Site::start().await;
    // What no page of a job shows, and readings, of which each file and mark is counted.
    let apart = "'session', 'calendar_feed', 'photo_file', 'practice_change', 'revision', 'logger', 'log_series', 'log_point', \
        'log_hour', 'log_day', 'thermal_cells', 'log_file', 'log_file_piece', 'task', 'forecast', 'alert', 'letter', 'invite', 'sign_in', 'audit', \
        'parcel', 'parcel_piece', 'report_text', 'report_image', 'report_pdf', 'share', 'share_word', 'logo', 'standing', 'pin', 'passkey', 'api_token', 'answered', 'webhook', 'delivery'";
    let uncounted = format!(
        "select coalesce(string_agg(c.table_name || ' ' || act, ', '), '') from information_schema.columns c, \
         unnest(array['insert', 'update', 'delete']) act \
         where c.column_name = 'practice_id' and c.table_schema = 'public' and c.table_name not in ({apart}) \
         and not exists (select from pg_trigger where tgrelid = c.table_name::regclass and tgname = 'revise_' || act)"
    );
    assert_eq!(site.text(&uncounted).await, "");
}

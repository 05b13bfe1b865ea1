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
    let others = ["", "/findings", "/tests", "/photos", "/why", "/plan", "/history", "/building", "/edit"];
    let mut pages: Vec<String> = others.iter().map(|view| format!("{job}{view}")).collect();
    caller.post(&format!("{job}/visits"), &[("id", &Uuid::now_v7().to_string())]).await;
    pages.extend([report, call, format!("{job}/round")]);
    let mut told = Vec::new();
    for page in &pages {
        wire.since();
        assert!(caller.get(page).await.status.is_success(), "{page}");
        told.push((wire.since(), page.rsplit_once(&job[6..]).unwrap().1.to_owned()));
    }
    assert!(told.iter().all(|(asked, _)| *asked > 0), "nothing was counted: {told:?}");
    assert!(told.iter().all(|(asked, _)| *asked <= MOST), "{told:?}");
    println!("{told:?}");
}

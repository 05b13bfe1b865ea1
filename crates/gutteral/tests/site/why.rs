//! Why: the demo's causes, the argument on the page, and the consultant's own conclusion.

use crate::harness::client::{Caller, hidden};
use crate::harness::{Browser, Site};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use thirtyfour::prelude::*;
use uuid::Uuid;

#[tokio::test(flavor = "multi_thread")]
async fn each_demo_job_shows_its_own_cause_and_no_other() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    for (job, said) in [
        ("Mill keeper", "Humid outdoor air let in and vapor from the ground act together."),
        ("Travelling library", "Moisture made inside leads."),
        ("Warden", "Cold bridge or missing insulation leads."),
        ("School archive", "Water from a known event leads."),
    ] {
        let page = caller.get(&format!("{}/why", caller.job(job).await)).await.body;
        let head = page.split("class=\"said\"><strong>").nth(1).unwrap().split("</strong>").next().unwrap();
        assert_eq!(head, said, "{job}");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_known_moves_the_ranking_at_once_and_another_conclusion_needs_its_reason() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, "/jobs/new").await;
    browser.fill("#name", "Wash house").await;
    browser.click("input[value=basement]").await;
    browser.click("input[value=mixed]").await;
    browser.fill("#design", "-10").await;
    browser.press("Open the job").await;
    browser.press("Why").await;
    browser.shows("It can’t be told yet.").await;
    browser.shows("Nothing yet.").await;
    // What would tell most leads to where it is done.
    browser.press("Findings").await;
    browser.press("Water pools at the wall").await;
    browser.shows("How bad").await;
    browser.press("Findings").await;
    browser.find(".found:not(.editing)").await;
    browser.press("Downpipe empties at the wall").await;
    browser.shows("How bad").await;
    browser.press("Why").await;
    browser.shows("Roof and ground water at the wall leads.").await;
    assert!(browser.text(".causes .chosen").await.contains("Roof and ground water at the wall"));
    browser.shows("Water that stands at the wall goes through it.").await;
    // Each piece leads to where it was found; any cause can be looked at.
    browser.click(".lines .from a[href*='findings?at=']").await;
    browser.shows("How bad").await;
    browser.press("Why").await;
    browser.press("Ground water").await;
    browser.find(".causes .chosen a[href$='cause=groundwater']").await;
    browser.shows("Would change it").await;
    assert!(browser.path().await.contains("cause=groundwater"));
    // A test recorded elsewhere speaks here at once.
    browser.press("Start it").await;
    browser.shows("Start a test").await;
    let offer = "//details[contains(@class,'offer')][contains(., 'Level on a straightedge')]";
    let find = async |path: String| browser.driver.query(By::XPath(path)).first().await.unwrap();
    find(format!("{offer}/summary")).await.click().await.unwrap();
    find(format!("{offer}//button")).await.click().await.unwrap();
    browser.click("input[value=falls_to_wall]").await;
    browser.press("Record the result").await;
    browser.find(".runs li").await;
    browser.press("Why").await;
    browser.shows("the ground falls to the wall").await;

    // The consultant's own conclusion: the same needs no reason, another does, and keeps what was typed.
    browser.press("Keep it").await;
    browser.shows("Tick at least one cause.").await;
    browser.click("[name=cause-surface_drainage]").await;
    browser.press("Keep it").await;
    browser.shows("kept by Wren Tallow").await;
    browser.click("[name=cause-groundwater]").await;
    browser.press("Keep it").await;
    browser.shows("This differs from what was computed").await;
    assert!(browser.find("[name=cause-groundwater]").await.is_selected().await.unwrap());
    browser.fill("#reason", "The neighbor’s well stands at floor height.").await;
    browser.press("Keep it").await;
    browser.shows("kept by Wren Tallow").await;
    let row = "select causes || '|' || computed from conclusion where reason like 'The neighbor%'";
    let row = site.text(row).await;
    assert!(row.contains("groundwater") && row.ends_with("|surface_drainage"), "{row}");
    browser.press("Undo").await;
    let gone = "//textarea[@id='reason'][not(contains(., 'neighbor'))]";
    browser.driver.query(By::XPath(gone)).first().await.unwrap();
    browser.press("Round").await;
    browser.press("Start a visit").await;
    browser.fill("#t", "12").await;
    browser.fill("#m", "60").await;
    browser.click(".keep").await;
    browser.find(".strip a.done").await;
    browser.press("Report").await;
    browser.shows("Roof and ground water at the wall leads.").await;
    browser.shows("The consultant’s conclusion: Roof and ground water at the wall.").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_space_has_its_own_argument_and_nobody_elses_job_can_be_argued_about() {
    let site = Site::start().await;
    let owner = Caller::signed_in(&site, ENTRY).await;
    let job = owner.job("Mill keeper").await;
    let page = owner.get(&format!("{job}/why")).await.body;
    let attic = page.split("href=\"").filter_map(|h| h.split_once("\">")).find(|(_, words)| words.starts_with("Attic"));
    let attic = attic.map(|(href, _)| href.split('"').next().unwrap().to_owned()).unwrap();
    let attic = owner.get(&attic).await.body;
    assert!(!attic.contains("Bare soil"), "what is seen in the crawl space says nothing of the attic");
    assert_eq!(owner.get(&format!("{job}/why?place={}", Uuid::now_v7())).await.status, StatusCode::NOT_FOUND);
    let thief = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(thief.get(&format!("{job}/why")).await.status, StatusCode::NOT_FOUND);
    let id = Uuid::now_v7().to_string();
    let own = [("id", id.as_str()), ("cause-rain_entry", "1"), ("reason", "mine")];
    assert_eq!(thief.post(&format!("{job}/why"), &own).await.status, StatusCode::NOT_FOUND);
    assert_eq!(hidden(&page, "csrf").len(), owner.token.len());
    assert_eq!(site.count("conclusion").await, 0);
}

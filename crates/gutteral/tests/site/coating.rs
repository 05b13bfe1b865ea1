//! A coating: mixed in the jars one has, put on when the weather lets it, judged by the same places before and after.

use crate::harness::client::Caller;
use crate::harness::{Browser, Site};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use uuid::Uuid;

#[tokio::test(flavor = "multi_thread")]
async fn a_block_wall_is_mixed_timed_and_judged() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/coating")).await;
    // 37 m² at 7.9 m²/L: 4.68 L a coat, the first 1.3 times that, in all 10.77 L of which a fifth is concentrate.
    browser.shows("Buy 2.15 L of concentrate, 3 cans of 1 L.").await;
    browser.shows("Once: 1.9 L of concentrate and 7.6 L of water").await;
    browser.shows("It fell by 43 %.").await;
    // The weather: asked for, then told hour by hour, with why not.
    browser.press("Ask for the forecast").await;
    browser.shows("Each hour one could begin").await;
    // A sheet that asks for more than any hour has says what stands in the way, and what is wrong is kept as typed.
    browser.fill("#min", "59").await;
    browser.fill("#max", "50").await;
    browser.press("Save").await;
    browser.shows("The highest lies over the least.").await;
    assert_eq!(browser.value("#min").await, "59");
    browser.fill("#max", "80").await;
    browser.press("Save").await;
    browser.shows("No hour to begin. Most of all:").await;
    browser.shows("surface too cold").await;
    browser.press("Undo").await;
    browser.shows("Each hour one could begin").await;
    // The clock of the second coat.
    browser.press("First coat is on").await;
    browser.shows("Second coat in 4:").await;
    browser.press("Clear the clock").await;
    browser.shows("Start the clock when the first is on").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_cannot_be_in_a_coating_is_named_and_it_is_nobody_elses() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("School archive").await;
    let at = format!("{job}/coating");
    let begin = Uuid::now_v7().to_string();
    let both = [("id", begin.as_str()), ("act", "begin")];
    let (one, two) = tokio::join!(caller.post(&at, &both), caller.post(&at, &both));
    assert_eq!((one.status, two.status), (StatusCode::SEE_OTHER, StatusCode::SEE_OTHER));
    assert_eq!(site.count("coating where said ->> 'name' = 'Outside wall'").await, 1);
    let save = async |more: &[(&str, &str)]| {
        let id = Uuid::now_v7().to_string();
        let mut all = vec![("id", id.as_str()), ("of", begin.as_str()), ("act", "save")];
        all.extend(
            [("name", "North"), ("substrate", "block"), ("area", "20"), ("parts", "1:4")]
                .iter()
                .filter(|f| more.iter().all(|m| m.0 != f.0)),
        );
        all.extend(more);
        caller.post(&at, &all).await
    };
    for (field, typed, said) in [
        ("parts", "one to four", "Parts of concentrate and water: 1:4."),
        ("area", "-4", "0.01 m² to"),
        ("area", "", "type it"),
        ("name", "", "Name it"),
        ("substrate", "glass", "Choose what it is put on."),
        ("coats", "40", "1 to 10 coats."),
        ("places", "a; 540; 300\nb; many", "Line 2"),
        ("again_from", "60", "It ends before it begins."),
        ("dry_since", "yesterday", "A day and a time"),
    ] {
        let answer = save(&[(field, typed)]).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{field} {typed}");
        assert!(answer.body.contains(said), "{said}: {}", answer.body);
    }
    assert_eq!(save(&[("places", "a; 540; 530\nb; 520; 528\nc; 500")]).await.status, StatusCode::SEE_OTHER);
    let page = caller.get(&at).await.body;
    assert!(page.contains("Three places read with the same meter"), "two pairs say nothing: {page}");
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(stranger.get(&at).await.status, StatusCode::NOT_FOUND);
    assert_eq!(stranger.post(&at, &both).await.status, StatusCode::NOT_FOUND);
}

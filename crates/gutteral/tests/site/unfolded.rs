//! Unfolded spaces: measured, things put at their place, an edge walked on a phone without a signal, what is wet found and confirmed.

use crate::harness::client::Caller;
use crate::harness::wire::{Mode, Wire};
use crate::harness::{Browser, Site};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use std::time::Duration;
use thirtyfour::prelude::*;
use uuid::Uuid;

const OTHER: &str = "odd@low-harbor.example";
const BUS: &str = "(select id from job where name = 'Traveling library bus')";

async fn space(site: &Site, name: &str) -> String {
    site.text(&format!("select id::text from space where name = '{name}' and job_id = {BUS}")).await
}

/// Waits until a query of the database gives a text.
async fn until(site: &Site, query: &str, wanted: &str) {
    for _ in 0..600 {
        if site.text(query).await == wanted {
            return;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    assert_eq!(site.text(query).await, wanted);
}

/// The rear floor edge of the bus is walked on a phone with no signal; the page is loaded again in between; everything arrives once, the
/// wet corner is found, a bracket left out, and pins confirm it.
#[tokio::test(flavor = "multi_thread")]
async fn an_edge_is_walked_without_a_signal_and_the_wet_corner_found() {
    let mut site = Site::start().await;
    let wire = Wire::to(site.base.trim_start_matches("http://").parse().unwrap()).await;
    site.base.clone_from(&wire.base);
    let browser = Browser::signed_in(&site).await;
    browser.viewport(390, 844).await;
    browser.press("library bus").await;
    browser.press("Unfolded").await;
    browser.shows("A second method found it wet").await;
    browser.press("Rear locker").await;
    browser.shows("Open: a meter’s own scale alone").await;
    let css = By::Css("#carry[data-done]");
    browser.driver.query(css).wait(Duration::from_mins(3), Duration::from_millis(100)).exists().await.unwrap();
    let option = browser.find("#route option[value='floor south']").await;
    option.click().await.unwrap();
    browser.press("Walk").await;
    browser.shows("0 of 22").await;
    let address = browser.driver.current_url().await.unwrap();
    wire.set(Mode::Cut);
    browser.fill("#standard", "150").await;
    let type_in = async |text: &str| {
        let field = browser.find("#figure").await;
        field.send_keys(text.to_owned() + Key::Enter).await.unwrap();
    };
    for (n, figure) in ["152", "149", "150*6", "-", "640!bracket"].into_iter().enumerate() {
        type_in(figure).await;
        browser.shows(&format!("{} of 22", [1, 2, 8, 9, 10][n])).await;
    }
    browser.shows("1 waiting").await;
    // The phone was put away: the page comes back from its copy, and the walk goes on where it was.
    browser.driver.goto(address.as_str()).await.unwrap();
    browser.shows("10 of 22").await;
    type_in("twelve").await;
    browser.shows("is no figure").await;
    browser.fill("#figure", "").await;
    type_in("155 160 190 230 300 410 480 520 560 610 640 >").await;
    browser.shows("All places of this way are read").await;
    let walked = "moisture_map where route = 'floor south' and scale = 'pinless'";
    assert_eq!(site.count(walked).await, 0, "nothing could be sent");
    wire.set(Mode::Whole);
    browser.driver.execute("window.dispatchEvent(new Event('online'))", vec![]).await.unwrap();
    let typed =
        format!("select string_agg(as_typed, ' ' order by n) from map_point where map_id = (select id from {walked})");
    until(&site, &typed, "152 149 150 150 150 150 150 150 - 640 155 160 190 230 300 410 480 520 560 610 640 >").await;
    assert_eq!(site.text(&format!("select false_wets::text from {walked}")).await, r#"{"9": "metal_bracket"}"#);
    // At the desk: the stretch, the corner, what lies behind, the bracket left out.
    browser.viewport(1280, 800).await;
    let map = site.text(&format!("select id::text from {walked}")).await;
    let (job, locker) = (site.text(&format!("select {BUS}::text")).await, space(&site, "Rear locker").await);
    browser.go(&site, &format!("/jobs/{job}/unfolded?space={locker}&map={map}")).await;
    browser.shows("9 of 20 places stand high over a stretch of 0.9 m").await;
    browser.shows("corner of rear and left side").await;
    browser.shows("Rear panel, beyond it outdoors").await;
    browser.shows("False wets left out").await;
    // Pins beside it: the meter's own scale is open no longer.
    let caller = Caller::signed_in(&site, ENTRY).await;
    let meter = site.text("select id::text from instrument where name like 'Moisture meter%' limit 1").await;
    let pins = Uuid::now_v7().to_string();
    let fields = [
        ("id", pins.as_str()),
        ("space", &locker),
        ("route", "floor south"),
        ("every", "0.5"),
        ("instrument", &meter),
        ("scale", "pins"),
        ("material", "wood"),
        ("species", "spruce"),
        ("figures", "12 12.5 14 29"),
    ];
    let sent = caller.post(&format!("/jobs/{job}/unfolded/walk"), &fields).await;
    assert_eq!(sent.status, StatusCode::SEE_OTHER, "{}", sent.body);
    let again = caller.post(&format!("/jobs/{job}/unfolded/walk"), &fields).await;
    assert_eq!(
        (again.status, site.count(&format!("map_point where map_id = '{pins}'")).await),
        (StatusCode::SEE_OTHER, 4)
    );
    browser.go(&site, &format!("/jobs/{job}/unfolded?space={locker}&map={map}")).await;
    browser.shows("A second method found it wet at 2 places").await;
    browser.quit().await;
}

/// Walls of bonded panels are not metered without a reason; a reason is kept and shown.
#[tokio::test(flavor = "multi_thread")]
async fn a_wall_that_cannot_read_is_metered_with_a_reason_only() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("library bus").await;
    browser.press("Unfolded").await;
    browser.find("#route option[value='grid west']").await.click().await.unwrap();
    browser.press("Walk").await;
    browser.shows("nothing in these faces can read").await;
    let field = browser.find("#figure").await;
    field.send_keys("300".to_owned() + Key::Enter).await.unwrap();
    browser.shows("Say why the meter is used here").await;
    browser.fill("input[name=reason]", "A plywood patch was let in here.").await;
    field.send_keys(Key::Enter + "").await.unwrap();
    until(&site, "select reason from moisture_map where route = 'grid west'", "A plywood patch was let in here.").await;
    // Without the script it is refused the same way, and what was typed stands.
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = site.text(&format!("select {BUS}::text")).await;
    let cabin = space(&site, "Cabin").await;
    let meter = site.text("select id::text from instrument where name like 'Moisture meter%' limit 1").await;
    let walk = format!("/jobs/{job}/unfolded/walk");
    let post = async |more: &[(&str, &str)]| {
        let id = Uuid::now_v7().to_string();
        let mut fields: Vec<(&str, &str)> = vec![
            ("id", &id),
            ("space", &cabin),
            ("route", "floor south"),
            ("every", "0.1"),
            ("instrument", &meter),
            ("scale", "pinless"),
            ("material", "wood"),
            ("figures", "140 150"),
        ];
        fields.retain(|(k, _)| more.iter().all(|(m, _)| m != k));
        fields.extend(more);
        caller.post(&walk, &fields).await
    };
    for (more, words) in [
        (vec![("route", "floor west"), ("scale", "pins"), ("material", "concrete")], "To go on, say why"),
        (vec![("figures", "140 wet 150")], "Place 2, “wet”"),
        (vec![("figures", "140*900")], "no more places"),
        (vec![("every", "0.001")], "The spacing must be"),
        (vec![("standard", "-4")], "A dry standard is"),
        (vec![("instrument", "")], "Choose the meter"),
    ] {
        let answer = post(&more).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{more:?}");
        assert!(answer.body.contains(words), "{words} in {}", answer.body);
        assert!(more[0].0 == "figures" || answer.body.contains("140 150"), "what was typed is kept");
    }
    assert_eq!(post(&[("route", "floor nowhere")]).await.status, StatusCode::NOT_FOUND);
    assert_eq!(post(&[("space", "not an id")]).await.status, StatusCode::SEE_OTHER, "the usual space");
    // Another practice sees and changes nothing of it.
    let other = Caller::signed_in(&site, OTHER).await;
    let map = site.text("select id::text from moisture_map where route = 'grid west'").await;
    let id = Uuid::now_v7().to_string();
    let answer = other.post(&format!("/jobs/{job}/unfolded/maps/{map}"), &[("id", &id), ("act", "remove")]).await;
    assert_eq!(answer.status, StatusCode::NOT_FOUND);
    assert_eq!(other.get(&format!("/jobs/{job}/unfolded")).await.status, StatusCode::NOT_FOUND);
    browser.quit().await;
}

/// Things are put at their place by a click, moved by dragging and by keys, keep their place when the space turns out longer, and it all
/// can be taken back.
#[tokio::test(flavor = "multi_thread")]
async fn things_are_placed_by_click_drag_and_keys_and_stay_there() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("library bus").await;
    browser.press("Unfolded").await;
    let station = site
        .text(&format!(
            "select s.id::text from station s join surface f on f.id = s.surface_id where f.name = 'Floor edge' and s.job_id = {BUS}"
        ))
        .await;
    browser.find(&format!("#of option[value='{station}']")).await.click().await.unwrap();
    let place = format!("select at::text from placed where id = '{station}' and removed_at is null");
    // A click on the floor, a hand from its middle.
    browser
        .driver
        .execute(
            "const s = document.getElementById('flat'); const b = s.querySelector('[data-face=floor]').getBoundingClientRect();
             s.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: b.right - 30, clientY: b.bottom - 30 }));",
            vec![],
        )
        .await
        .unwrap();
    browser.find(&format!("[data-thing='{station}']")).await;
    let first = site.text(&place).await;
    let at: serde_json::Value = serde_json::from_str(&first).unwrap();
    assert_eq!((at["facet"].as_str(), at["x"]["far"].as_bool()), (Some("floor"), Some(true)), "{first}");
    // Two presses to the left: a hand each.
    let token = browser.find(&format!("[data-thing='{station}']")).await;
    browser.driver.execute("arguments[0].focus()", vec![token.to_json().unwrap()]).await.unwrap();
    token.send_keys(Key::Left + Key::Left).await.unwrap();
    let from = at["x"]["m"].as_f64().unwrap();
    for _ in 0..100 {
        if site.text(&place).await != first {
            break;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    let moved: serde_json::Value = serde_json::from_str(&site.text(&place).await).unwrap();
    assert!((moved["x"]["m"].as_f64().unwrap() - from - 0.2).abs() < 0.01, "{moved} from {first}");
    // The space turns out longer: it is as far from the rear as before, and drawn there.
    browser.shows("Built in").await;
    browser.fill("#length", "21ft").await;
    browser.driver.execute("document.querySelector('#roof').closest('form').requestSubmit()", vec![]).await.unwrap();
    browser.shows("Measured Cabin").await;
    assert_eq!(serde_json::from_str::<serde_json::Value>(&site.text(&place).await).unwrap(), moved);
    let area = site.text(&format!("select area_m2::text from space where name = 'Cabin' and job_id = {BUS}")).await;
    assert!((area.parse::<f64>().unwrap() - 21.0 * 0.3048 * 2.19).abs() < 0.01, "{area}");
    // What makes no space is said beside its field, and what was typed stays.
    browser.fill("#height", "-2").await;
    browser.driver.execute("document.querySelector('#roof').closest('form').requestSubmit()", vec![]).await.unwrap();
    browser.shows("The height must be").await;
    assert_eq!(browser.value("#height").await, "-2");
    // Undone: the space is as it was.
    browser.press("Undo").await;
    until(&site, &format!("select area_m2::text from space where name = 'Cabin' and job_id = {BUS}"), "14").await;
    browser.quit().await;
}

/// What was mapped, pictured and said of layers stands in the report; a map that a second method confirmed is evidence under Why, with its
/// place one step away.
#[tokio::test(flavor = "multi_thread")]
async fn maps_and_pictures_stand_in_the_report_and_speak_under_why() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("library bus").await;
    browser.press("Report").await;
    browser.shows("Moisture maps").await;
    browser.shows("A second method found it wet at 2 places").await;
    browser.shows("Roof over the rear bench").await;
    browser.shows("Rear panel, Bonded panel").await;
    browser.find("svg.flat circle.place.high").await;
    // A visit after the walk knows of it.
    let job = site.text(&format!("select {BUS}::text")).await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let visit = Uuid::now_v7().to_string();
    caller.post(&format!("/jobs/{job}/visits"), &[("id", &visit)]).await;
    let line = [("id", &*Uuid::now_v7().to_string()), ("line", "out -8 80")];
    let kept = caller.post(&format!("/jobs/{job}/shorthand"), &line).await;
    assert!(kept.status.is_redirection(), "{}", kept.body);
    assert_eq!(site.count(&format!("reading where visit_id = '{visit}'")).await, 1);
    browser.go(&site, &format!("/jobs/{job}/why")).await;
    let leads = browser.driver.find_all(By::Css("a[href*='/unfolded?space=']")).await.unwrap();
    assert!(!leads.is_empty(), "the map is named as evidence: {}", browser.text("main").await);
    browser.quit().await;
}

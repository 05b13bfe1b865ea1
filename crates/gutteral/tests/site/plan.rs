//! Plan: gates that only a measurement opens, decisions with their reasons, sizes, prices, follow-ups and their calendar.

use crate::harness::client::{Caller, hidden};
use crate::harness::{Browser, Site};
use crate::log::until;
use gutteral::demo::ENTRY;
use icalendar::{Calendar, Component};
use reqwest::StatusCode;
use thirtyfour::prelude::*;
use uuid::Uuid;

const OTHER: &str = "odd@low-harbor.example";

/// Ticks a finding, or that it is not there, as somebody at a desk would; gives the id it got.
async fn tick(caller: &Caller, job: &str, what: &str, absent: &str) -> String {
    let id = Uuid::now_v7().to_string();
    let form = [("id", id.as_str()), ("what", what), ("absent", absent)];
    assert_eq!(caller.post(&format!("{job}/findings"), &form).await.status, StatusCode::SEE_OTHER, "{what}");
    id
}

async fn conclude(caller: &Caller, job: &str, cause: &str) {
    let (id, name) = (Uuid::now_v7().to_string(), format!("cause-{cause}"));
    let form = [("id", id.as_str()), (name.as_str(), "1"), ("reason", "for the test")];
    let kept = caller.post(&format!("{job}/why"), &form).await;
    assert_eq!(kept.status, StatusCode::SEE_OTHER, "{}", kept.body);
}

async fn open_job(caller: &Caller, name: &str, structure: &str, climate: &str) -> String {
    let id = Uuid::now_v7().to_string();
    let form = [("id", id.as_str()), ("name", name), ("structure", structure), ("climate", climate), ("design", "-8")];
    caller.post("/jobs/new", &form).await.location
}

/// What the list says of a step: its row's text, and whether its gate is closed.
async fn row(browser: &Browser, name: &str) -> String {
    let path = format!("//ol[@class='plan-steps']//a[contains(., {name:?})]");
    browser.on(browser.driver.query(By::XPath(path)), async |row| row.prop("textContent").await).await.unwrap()
}

/// Waits until the list says of a step that its gate stands so.
async fn stands(browser: &Browser, name: &str, state: &str) {
    let path = format!("//ol[@class='plan-steps']//a[contains(., {name:?}) and contains(., {state:?})]");
    browser.driver.query(By::XPath(path)).first().await.unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn a_gate_opens_when_it_is_measured_and_by_nothing_else_but_a_written_reason() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = open_job(&caller, "Dye works", "basement", "hot_humid").await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/plan")).await;
    browser.shows("No cause is named yet").await;
    browser.shows("is the most useful next test").await;
    // A humid cellar with a spilling gutter: the machine is the fix, and waits for the drainage all the same.
    let gutter = tick(&caller, &job, "gutter_faulty", "").await;
    tick(&caller, &job, "vents_open", "").await;
    conclude(&caller, &job, "humid_outdoor_air").await;
    browser.go(&site, &format!("{job}/plan?step=dehumidifier")).await;
    browser.shows("Against humid outdoor air coming in").await;
    assert!(row(&browser, "Repair gutters").await.contains("open:"));
    let machine = row(&browser, "Dehumidifier sized").await;
    assert!(machine.contains("closed:") && machine.contains("Gutter leaking"), "{machine}");
    browser.press("Done").await;
    browser.shows("It is still closed").await;
    browser.find(".steps, .plan-steps").await;
    // A reason lets it through, and stands there; without one nothing happens.
    browser.click(".decide summary").await;
    browser.press("Override without the measurement").await;
    browser.shows("Say why it may go on").await;
    browser.fill("#reason", "The tenants move in on Friday.").await;
    browser.press("Override without the measurement").await;
    browser.shows("Overridden without the measurement").await;
    assert!(row(&browser, "Dehumidifier sized").await.contains("overridden:"));
    browser.press("Undo").await;
    stands(&browser, "Dehumidifier sized", "closed:").await;
    // The gutter is mended and marked as gone, the ground is measured: it opens by itself.
    let id = Uuid::now_v7().to_string();
    let gone = [("id", id.as_str()), ("act", "gone"), ("severity", "2")];
    assert_eq!(caller.post(&format!("{job}/findings/{gutter}"), &gone).await.status, StatusCode::SEE_OTHER);
    browser.go(&site, &format!("{job}/plan?step=dehumidifier")).await;
    assert!(row(&browser, "Dehumidifier sized").await.contains("Level check"), "what is missing is named");
    // The gate leads to where it is measured.
    browser.press("Level on a straightedge").await;
    browser.shows("Start a test").await;
    browser.go(&site, &format!("{job}/plan?step=dehumidifier")).await;
    browser.press("Grade slopes toward the wall").await;
    assert_eq!(browser.value("#search").await, "ground_slopes_to_wall");
    browser.go(&site, &format!("{job}/plan?step=dehumidifier")).await;
    tick(&caller, &job, "ground_slopes_to_wall", "yes").await;
    browser.go(&site, &format!("{job}/plan?step=dehumidifier")).await;
    assert!(row(&browser, "Dehumidifier sized").await.contains("open:"));
    browser.press("Done").await;
    browser.shows("It worked when:").await;
    // Left out with a reason, and what must not be done without it is refused.
    browser.press("Not done after all").await;
    browser.click(".decide summary").await;
    browser.fill("#reason", "No current in the cellar.").await;
    browser.press("Leave it out").await;
    browser.shows("Left out").await;
    browser.shows("No current in the cellar.").await;
    browser.press("Put it back").await;
    browser.find("#step").await;
    assert!(row(&browser, "Dehumidifier sized").await.contains("open:"));
    browser.go(&site, &format!("{job}/history")).await;
    browser.shows("Dehumidifier sized to the load, with its own drain: left out").await;
    browser.quit().await;
}

/// One row of the plan’s list.
fn listed<'a>(page: &'a str, name: &str) -> &'a str {
    let mut rows = page.split("<li class").filter_map(|row| row.split_once("</li>"));
    rows.find(|(row, _)| row.contains("plan?step=") && row.contains(name))
        .map_or_else(|| panic!("no {name}"), |(row, _)| row)
}

#[tokio::test(flavor = "multi_thread")]
async fn a_machine_is_under_test_from_the_day_it_stands() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = open_job(&caller, "Ice house", "basement", "hot_humid").await;
    tick(&caller, &job, "ground_slopes_to_wall", "yes").await;
    tick(&caller, &job, "vents_open", "").await;
    conclude(&caller, &job, "humid_outdoor_air").await;
    caller.post(&format!("{job}/visits"), &[("id", &*Uuid::now_v7().to_string())]).await;
    let water = async |days_ago: i64| {
        let at = (chrono::Utc::now().timestamp_millis() - days_ago * 86_400_000).to_string();
        let form = [("id", &*Uuid::now_v7().to_string()), ("line", "basement water 4 24"), ("at", &at)];
        let kept = caller.post(&format!("{job}/shorthand"), &form).await;
        assert!(kept.status.is_redirection(), "{}", kept.body);
    };
    let recheck = async || {
        let page = caller.get(&format!("{job}/plan")).await.body;
        listed(&page, "Recheck the same points each season").to_owned()
    };
    // What the old machine collected for a month says nothing of the new one.
    water(30).await;
    water(20).await;
    assert!(recheck().await.contains("When the machine’s step is done"));
    let done = [("id", &*Uuid::now_v7().to_string()), ("act", "done")];
    assert_eq!(caller.post(&format!("{job}/plan/dehumidifier"), &done).await.status, StatusCode::SEE_OTHER);
    assert!(recheck().await.contains("When the machine’s step is done"), "not read since");
    water(0).await;
    assert!(recheck().await.contains("time under test is 0 days, must be at least 7 days"), "{}", recheck().await);
    let earlier = "update plan_step set done_on = done_on - 25 where fix = 'dehumidifier' returning fix";
    assert_eq!(site.text(earlier).await, "dehumidifier");
    assert!(recheck().await.contains("open:"), "{}", recheck().await);
}

#[tokio::test(flavor = "multi_thread")]
async fn a_hygrometer_nobody_checked_opens_nothing_where_it_read_and_shuts_nothing_elsewhere() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = open_job(&caller, "Malt floor", "basement", "mixed").await;
    conclude(&caller, &job, "porous_masonry").await;
    caller.post(&format!("{job}/visits"), &[("id", &*Uuid::now_v7().to_string())]).await;
    let station = async |name: &str| {
        let of = format!(
            "select t.id::text from station t left join space s on s.id = t.space_id left join surface f on f.id = t.surface_id \
             where t.job_id = '{}' and coalesce(f.name, s.name) = '{name}'",
            &job[6..]
        );
        site.text(&of).await
    };
    let by = async |serial: &str| {
        site.text(&format!("select id::text from instrument where serial = '{serial}' and practice_id = (select practice_id from job where id = '{}')", &job[6..])).await
    };
    let read = async |at: &str, t: &str, m: &str, serial: &str| {
        let form = [
            ("id", &*Uuid::now_v7().to_string()),
            ("station", &station(at).await),
            ("t", t),
            ("m", m),
            ("kind", "rh"),
            ("method", if m.is_empty() { "temperature" } else { "air" }),
            ("instrument", &by(serial).await),
        ];
        let kept = caller.post(&format!("{job}/round"), &form).await;
        assert!(kept.status.is_redirection(), "{at}: {}", kept.body);
    };
    let coat = async || {
        let page = caller.get(&format!("{job}/plan")).await.body;
        listed(&page, "Breathable water repellent").to_owned()
    };
    // The attic by one without a salt check, the basement by one whose check holds.
    read("Attic", "16", "60", "PK-17").await;
    read("Basement", "18", "60", "TH-204").await;
    let wall = site.text(&format!("select f.name from surface f join space s on s.id = f.space_id where f.job_id = '{}' and s.name = 'Basement' and f.material in ('concrete', 'masonry') order by f.name limit 1", &job[6..])).await;
    read(&wall, "15", "", "TH-204").await;
    assert!(!coat().await.contains("salt check"), "{}", coat().await);
    read("Basement", "18", "60", "PK-17").await;
    assert!(coat().await.contains("salt check"), "{}", coat().await);
}

#[tokio::test(flavor = "multi_thread")]
async fn sentences_and_gates_speak_in_the_readers_units() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = open_job(&caller, "Bark mill", "basement", "mixed").await;
    conclude(&caller, &job, "porous_masonry").await;
    tick(&caller, &job, "gutter_faulty", "").await;
    caller.post(&format!("{job}/visits"), &[("id", &*Uuid::now_v7().to_string())]).await;
    let line = [("id", &*Uuid::now_v7().to_string()), ("line", "basement 15.0 50 ; wall base south s 8.0")];
    let kept = caller.post(&format!("{job}/shorthand"), &line).await;
    assert!(kept.status.is_redirection(), "{}", kept.body);
    for (units, gate, how, caution) in [
        ("metric", "is 8 °C, must be at least 10 °C", "a drain 3 m out", "more than about 1 m² is work"),
        ("us", "is 46 °F, must be at least 50 °F", "a drain 10 ft out", "more than about 10 ft² is work"),
    ] {
        caller.post("/preferences", &[("units", units), ("back", "/")]).await;
        let coat = caller.get(&format!("{job}/plan?step=breathable_repellent")).await.body;
        assert!(coat.contains(gate), "{units}: {coat}");
        assert!(caller.get(&format!("{job}/plan?step=gutters")).await.body.contains(how), "{units}");
        tick(&caller, &job, "growth_visible", "").await;
        assert!(caller.get(&format!("{job}/plan?step=clean_growth")).await.body.contains(caution), "{units}");
        let report = caller.get(&format!("{job}/report")).await.location;
        assert!(caller.get(&report).await.body.contains(how), "{units}: the report too");
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn sizes_are_typed_over_in_either_unit_and_priced_from_the_practices_book() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("Prices").await;
    browser.fill("#ground_film_m2", "dear").await;
    browser.press("Save the price book").await;
    browser.shows("What you typed is kept, nothing was stored.").await;
    assert_eq!(browser.value("#ground_film_m2").await, "dear");
    browser.fill("#ground_film_m2", "2,00").await;
    browser.fill("#currency", "GLD").await;
    browser.press("Save the price book").await;
    browser.shows("Kept.").await;
    // A form that was open meanwhile changes only what was typed in it.
    let other = Caller::signed_in(&site, ENTRY).await;
    let stale =
        [("currency", "cr"), ("was-currency", "cr"), ("ground_film_m2", "1.85"), ("was-ground_film_m2", "1.85")];
    let id = Uuid::now_v7().to_string();
    let tape = [("tape_m", "0.70"), ("was-tape_m", "0.60"), ("id", id.as_str())];
    let sent = other.post("/prices", &[&stale[..], &tape].concat()).await;
    assert_eq!(sent.status, StatusCode::SEE_OTHER, "{}", sent.body);
    // Each change is told and can be taken back, unless somebody changed the same since.
    let book = other.get("/prices").await.body;
    assert!(book.contains("Film tape / m: 0.60 → 0.70") && book.contains("Currency: cr → GLD"), "{book}");
    let undo = async |change: &str| {
        let form = [("id", &*Uuid::now_v7().to_string()), ("change", change)];
        other.post("/prices/undo", &form).await
    };
    assert_eq!(undo(&id).await.status, StatusCode::SEE_OTHER);
    let twice = undo(&id).await;
    assert_eq!(twice.status, StatusCode::SEE_OTHER, "undone once: {}", twice.body);
    assert!(other.get("/prices").await.body.contains("Film tape / m: 0.70 → 0.60"));
    let of = |own: &str| {
        format!(
            "select id::text from practice_change where practice_id {own} (select practice_id from job where name like 'Mill \
             keeper%') order by at, id limit 1"
        )
    };
    let refused = undo(&site.text(&of("=")).await).await;
    assert_eq!(refused.status, StatusCode::CONFLICT);
    assert!(refused.body.contains("Not undone: changed again since: Currency; Ground cover"), "{}", refused.body);
    assert_eq!(undo(&site.text(&of("<>")).await).await.status, StatusCode::NOT_FOUND, "another practice’s");
    browser.press("Docket").await;
    browser.press("Mill keeper").await;
    browser.press("Plan").await;
    browser.press("Cover the ground").await;
    // 7 by 4 m as measured, six piers: 7.6 × 4.9 + 2.88 = 40.12 m² at 2.00.
    browser.shows("80.24 GLD").await;
    browser.click(".step .working summary").await;
    browser.fill("#g-piers", "many").await;
    browser.press("Recalculate").await;
    browser.shows("Something needs changing. What you typed is kept.").await;
    assert_eq!(browser.value("#g-piers").await, "many");
    browser.fill("#g-piers", "0").await;
    browser.fill("#g-length_m", "22.966 ft").await;
    browser.press("Recalculate").await;
    // Without the piers 7.6 × 4.9 = 37.24 m².
    browser.shows("37.2 m²").await;
    browser.shows("74.48 GLD").await;
    // The other unit system says the same in its own words, and the price is the same money.
    browser.click("button[name=units]").await;
    browser.shows("401 ft²").await;
    browser.shows("74.48 GLD").await;
    browser.press("Undo").await;
    browser.find("#step").await;
    let link = browser.find(".step a[href^='/calculator/']");
    browser.go(&site, &browser.path().await.replace("/plan", "/plan?step=dehumidifier")).await;
    browser.click(".step .working summary").await;
    let capacity = browser.text(".sizes").await;
    let capacity = capacity.split("It takes out here").nth(1).unwrap().split_whitespace().next().unwrap().to_owned();
    link.await.click().await.unwrap();
    browser.find(".calculator").await;
    browser.shows(&capacity).await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_school_is_chosen_with_a_reason_and_changes_the_plan_and_the_report() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("Mill keeper").await;
    browser.press("Plan").await;
    browser.shows("chosen by Wren Tallow").await;
    let form = "#school-crawl_space";
    browser.click(&format!("{form} input[value=vented]")).await;
    browser.click(&format!("{form} summary")).await;
    browser.click(&format!("{form} button")).await;
    browser.shows("Say why: the job records who chose and for what reason.").await;
    assert!(browser.find(&format!("{form} input[value=vented]")).await.is_selected().await.unwrap());
    browser.fill("#why-crawl_space", "The owner cannot run a machine.").await;
    browser.click(&format!("{form} input[name=practice]")).await;
    browser.click(&format!("{form} button")).await;
    browser.shows("The owner cannot run a machine.").await;
    assert!(row(&browser, "Keep the crawl space vented").await.contains("Keep the crawl space vented"));
    browser.shows("The plan keeps it vented: not both.").await;
    browser.press("Report").await;
    for words in [
        "What to do, in this order",
        "The owner cannot run a machine.",
        "Work and material, added up",
        "To be looked at again",
        "Wood moisture is",
        "Not before:",
    ] {
        browser.shows(words).await;
    }
    // Another job of the practice now begins that way.
    browser.press("Docket").await;
    browser.press("Prices").await;
    assert_eq!(browser.value("#way-crawl_space").await, "vented");
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn follow_ups_come_due_are_moved_done_and_dropped_and_leave_as_a_calendar() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    browser.shows("Due within two weeks").await;
    browser.shows("overdue").await;
    let open = "select count(*) from follow_up where state = 'open'";
    let before = site.number(open).await;
    // Moving needs a day that can be and a reason; what was typed stays.
    browser.press("Wood and humidity at the same points").await;
    browser.press("Move").await;
    browser.shows("That day is past").await;
    let day = (chrono::Utc::now() + chrono::Duration::days(5)).date_naive();
    browser.fill("#reason", "The owner is away.").await;
    let set = format!("document.querySelector('#due_on').value = '{day}'");
    browser.driver.execute(set, vec![]).await.unwrap();
    browser.press("Move").await;
    browser.shows("Due within two weeks").await;
    assert_eq!(
        site.number(&format!(
            "select count(*) from follow_up where due_on = '{day}' and reason = 'The owner is away.'"
        ))
        .await,
        1
    );
    // Done: a rhythm comes back on its next day.
    browser.click(".due button").await;
    until(&site, "select count(*) from follow_up where state = 'done'", 1).await;
    assert_eq!(site.number(open).await, before, "one is done and its next stands there");
    // A plan puts its own on the calendar, once however often it is asked.
    let job = caller.job("Warden").await;
    let id = Uuid::now_v7().to_string();
    for _ in 0..2 {
        assert_eq!(
            caller.post(&format!("{job}/follow-ups"), &[("id", id.as_str())]).await.status,
            StatusCode::SEE_OTHER
        );
    }
    assert!(site.number(open).await > before);
    let page = caller.get(&format!("{job}/plan")).await.body;
    assert!(!page.contains("Put them on the calendar") && page.contains("Look for growth that returns"));
    // Dropping needs its reason.
    let row = site.text("select id from follow_up where what = 'growth' and state = 'open' limit 1").await;
    let act = Uuid::now_v7().to_string();
    let drop =
        |reason: &'static str| [("id", act.clone()), ("act", "dropped".to_owned()), ("reason", reason.to_owned())];
    let path = format!("{job}/follow-ups/{row}");
    let send = async |reason| {
        let form = drop(reason);
        let form: Vec<(&str, &str)> = form.iter().map(|(k, v)| (*k, v.as_str())).collect();
        caller.post(&path, &form).await
    };
    assert_eq!(send("").await.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(send("Cleaned by the owner.").await.status, StatusCode::SEE_OTHER);

    // The calendar: a secret address, kept as a hash, read without a session, taken back for good.
    let made = caller.post("/calendar", &[("act", "open")]).await;
    let secret = made.body.split("calendar.ics?key=").nth(1).unwrap().split('"').next().unwrap().to_owned();
    assert!(secret.len() >= 43 && !caller.get("/calendar").await.body.contains(&secret), "shown once");
    assert_eq!(site.number(&format!("select count(*) from calendar_feed where key_hash like '%{secret}%'")).await, 0);
    let stranger = Caller::new(&site).await;
    let feed = stranger.get(&format!("/calendar.ics?key={secret}")).await;
    assert!(feed.headers["content-type"].to_str().unwrap().starts_with("text/calendar"));
    let calendar: Calendar = feed.body.parse().unwrap();
    let titles: Vec<&str> = calendar.components.iter().filter_map(|c| c.as_event()?.get_summary()).collect();
    assert_eq!(titles.len() as i64, site.number(open).await);
    assert!(titles.iter().any(|t| t.starts_with("Mill keeper")) && !feed.body.contains("Net loft"), "{titles:?}");
    assert!(
        !feed.body.contains("DTEND") && feed.body.matches("PRODID").count() == 1,
        "a day without an end lasts that day"
    );
    assert!(feed.body.lines().all(|l| l.len() <= 75), "lines are folded (RFC 5545 3.1)");
    assert!(feed.body.contains(&format!("DTSTART;VALUE=DATE:{}", day.format("%Y%m%d"))), "{}", feed.body);
    assert_eq!(stranger.get("/calendar.ics?key=guess").await.status, StatusCode::NOT_FOUND);
    assert_eq!(stranger.get("/calendar.ics").await.status, StatusCode::NOT_FOUND);
    let key = hidden(&caller.get("/calendar").await.body, "key");
    // Nobody else can take it back, and the one who made it can.
    let thief = Caller::signed_in(&site, OTHER).await;
    thief.post("/calendar", &[("act", "revoke"), ("key", &key)]).await;
    assert_eq!(stranger.get(&format!("/calendar.ics?key={secret}")).await.status, StatusCode::OK);
    caller.post("/calendar", &[("act", "revoke"), ("key", &key)]).await;
    assert_eq!(stranger.get(&format!("/calendar.ics?key={secret}")).await.status, StatusCode::NOT_FOUND);
    browser.quit().await;
}

/// A finished round becomes a report with everything in it by eight presses and no typing.
#[tokio::test(flavor = "multi_thread")]
async fn from_a_finished_round_to_a_report_in_eight_presses() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.press("Mill keeper").await;
    browser.press("Why").await;
    browser.click("[name=cause-humid_outdoor_air]").await;
    browser.click("[name=cause-ground_vapor]").await;
    browser.press("Save").await;
    browser.shows("kept by Wren Tallow").await;
    browser.press("Plan").await;
    browser.shows("The causes are your conclusion.").await;
    browser.press("Put them on the calendar").await;
    browser.shows("Sealed crawl space: RH, film, drain").await;
    browser.press("Report").await;
    for words in [
        "The consultant’s conclusion: Humid outdoor air coming in; Vapor from the ground.",
        "What to do, in this order",
        "Film with laps and turn-ups 40.1 m²",
        "Rests on Ground, longer side 7 m (typed)",
        "Not before: Bare soil: still there.",
        "Still to do, in all",
        "Ground cover, 0.2 mm and more",
        "Confined space: never enter alone.",
        "Sealed crawl space: RH, film, drain, standing water",
        "Local code and licensed practice govern.",
    ] {
        browser.shows(words).await;
    }
    // Written in order, and every sum is the sum of its stages.
    let text = browser.text(".plan-report").await;
    let at = |words: &str| text.find(words).unwrap_or_else(|| panic!("{words} in {text}"));
    assert!(at("Cover the ground") < at("Dehumidifier sized") && at("Dehumidifier sized") < at("Close the vents"));
    browser.quit().await;
}

/// Mending something opens its gate; it does not argue the cause away.
#[tokio::test(flavor = "multi_thread")]
async fn what_was_mended_opens_its_gate_and_stays_part_of_the_cause() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let plan = async || caller.get(&format!("{job}/plan?step=dehumidifier")).await.body;
    let against = |page: &str| page.split("Against ").nth(1).unwrap().split(':').next().unwrap().to_owned();
    let before = plan().await;
    assert!(before.contains("Ground covered</strong>") && before.contains("Cover the ground"));
    let list = caller.get(&format!("{job}/findings")).await.body;
    let soil = list.split("findings?at=").find(|rest| rest[36..].starts_with("\">Bare soil")).unwrap()[..36].to_owned();
    let id = Uuid::now_v7().to_string();
    let gone = [("id", id.as_str()), ("act", "gone"), ("severity", "3")];
    assert_eq!(caller.post(&format!("{job}/findings/{soil}"), &gone).await.status, StatusCode::SEE_OTHER);
    let after = plan().await;
    assert!(!after.contains("Ground covered</strong>"), "the gate is open");
    assert_eq!(against(&after), against(&before));
}

/// The plan of each demo job is what its true cause asks for.
#[tokio::test(flavor = "multi_thread")]
async fn each_demo_job_is_planned_against_its_own_cause() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    for (job, there, not) in [
        (
            "Mill keeper",
            &["Cover the ground", "Dehumidifier sized", "Close the vents", "Insulate the rim joist"][..],
            "Roofer",
        ),
        ("Traveling library", &["A routine for opening up", "Exhaust fan with makeup air"], "Replace window seals"),
        ("Warden", &["Insulate the cold spot", "Move storage"], "Cover the ground"),
        ("School archive", &["Dry the structure", "Repair the leaking pipe"], "Perimeter drain"),
    ] {
        let path = caller.job(job).await;
        let page = caller.get(&format!("{path}/plan")).await.body;
        let list = page.split("id=\"order\"").nth(1).unwrap().split("may be done now").next().unwrap().to_owned();
        for words in there {
            assert!(list.contains(words), "{job}: {words}");
        }
        assert!(!list.contains(not), "{job}: {not}");
    }
}

/// A practice that works to 13 % never reads “dry” at 14 %: verdict, sheet, drawing and cautions follow one table.
#[tokio::test(flavor = "multi_thread")]
async fn every_screen_follows_the_practices_own_limit() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Warden").await;
    caller.post(&format!("{job}/visits"), &[("id", &Uuid::now_v7().to_string())]).await;
    // The beam is read right after its own temperature, which a pin meter is corrected by.
    let line = format!("{job}/shorthand?line=floor+beam+s+20+%3B+floor+beam+mc+11.5");
    let sheet = "/calculator/emc?t_c=21&rh_pct=74";
    let plan = format!("{job}/plan?step=insulate_cold_spots");
    let usual = [caller.get(&line).await.body, caller.get(sheet).await.body, caller.get(&plan).await.body];
    assert!(usual[0].contains("Wood moisture 1") && usual[0].contains("#drop-dry"), "{}", usual[0]);
    assert!(usual[1].contains("Below 15 %: dry enough") && usual[1].contains("close in below 15 %"), "{}", usual[1]);
    assert!(usual[2].contains("(15 % to close in)"), "{}", usual[2]);
    let way = [("id", &*Uuid::now_v7().to_string()), ("choice", "13")];
    assert_eq!(caller.post("/prices/schools/wood_goal", &way).await.status, StatusCode::SEE_OTHER);
    let careful = [caller.get(&line).await.body, caller.get(sheet).await.body, caller.get(&plan).await.body];
    assert!(careful[0].contains("#drop-mold"), "{}", careful[0]);
    assert!(careful[1].contains("Over 13 %: do not close it in") && careful[1].contains("close in below 13 %"));
    assert!(careful[2].contains("(13 % to close in)"), "{}", careful[2]);
}

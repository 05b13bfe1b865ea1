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
        ("Mill keeper", "Humid outdoor air coming in and vapor from the ground act together."),
        ("Traveling library", "Moisture generated indoors leads."),
        ("Warden", "Thermal bridge or missing insulation leads."),
        ("School archive", "Water from a known event leads."),
    ] {
        let page = caller.get(&format!("{}/why", caller.job(job).await)).await.body;
        let head = page
            .split("id=\"said\"")
            .nth(1)
            .unwrap()
            .split("<strong>")
            .nth(1)
            .unwrap()
            .split("</strong>")
            .next()
            .unwrap();
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
    // What is the most useful next test leads to where it is done.
    browser.place("Findings").await;
    browser.press("Water pools at the wall").await;
    browser.shows("How bad").await;
    browser.place("Findings").await;
    browser.find(".found:not(.editing)").await;
    browser.press("Downspout discharges at the foundation").await;
    browser.shows("How bad").await;
    browser.press("Why").await;
    browser.shows("Roof runoff and surface water at the foundation leads.").await;
    assert!(browser.text(".causes .chosen").await.contains("Roof runoff and surface water at the foundation"));
    browser.shows("Water that stands at the wall goes through it.").await;
    // Each piece leads to where it was found; any cause can be looked at.
    browser.click("section[aria-labelledby=said] a[href*='findings?at=']").await;
    browser.shows("How bad").await;
    browser.press("Why").await;
    browser.press("Groundwater").await;
    browser.find(".causes .chosen a[href$='cause=groundwater']").await;
    browser.shows("What would change this").await;
    assert!(browser.path().await.contains("cause=groundwater"));
    // A test recorded elsewhere speaks here at once.
    browser.press("Start it").await;
    browser.shows("Start a test").await;
    let offer = "//details[contains(., 'Level on a straightedge')]";
    let find = async |path: String| browser.driver.query(By::XPath(path)).first().await.unwrap();
    find(format!("{offer}/summary")).await.click().await.unwrap();
    find(format!("{offer}//button")).await.click().await.unwrap();
    browser.click("input[value=falls_to_wall]").await;
    browser.press("Record the result").await;
    browser.find(".runs li").await;
    browser.press("Why").await;
    browser.shows("the ground falls to the wall").await;

    // The consultant's own conclusion: the same needs no reason, another does, and keeps what was typed.
    browser.press("Save").await;
    browser.shows("Tick at least one cause.").await;
    browser.click("[name=cause-surface_drainage]").await;
    browser.press("Save").await;
    browser.shows("kept by Wren Tallow").await;
    browser.click("[name=cause-groundwater]").await;
    browser.press("Save").await;
    browser.shows("This differs from what was computed").await;
    assert!(browser.find("[name=cause-groundwater]").await.is_selected().await.unwrap());
    browser.fill("#reason", "The neighbor’s well stands at floor height.").await;
    browser.press("Save").await;
    browser.shows("kept by Wren Tallow").await;
    let row = "select causes || '|' || computed from conclusion where reason like 'The neighbor%'";
    let row = site.text(row).await;
    assert!(row.contains("groundwater") && row.ends_with("|surface_drainage"), "{row}");
    browser.press("Undo").await;
    let gone = "//textarea[@id='reason'][not(contains(., 'neighbor'))]";
    browser.driver.query(By::XPath(gone)).first().await.unwrap();
    browser.press("Visit").await;
    browser.press("Start a visit").await;
    browser.fill("#t", "12").await;
    browser.fill("#m", "60").await;
    browser.click(".keep").await;
    browser.find(".strip a.done").await;
    browser.press("Report").await;
    browser.shows("Roof runoff and surface water at the foundation leads.").await;
    browser.shows("The consultant’s conclusion: Roof runoff and surface water at the foundation.").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_space_has_its_own_argument_and_nobody_elses_job_can_be_argued_about() {
    let site = Site::start().await;
    let owner = Caller::signed_in(&site, ENTRY).await;
    let job = owner.job("Mill keeper").await;
    let page = owner.get(&format!("{job}/why")).await.body;
    let of = format!("select id::text from space where name = 'Attic' and job_id = '{}'", &job[6..]);
    let attic = format!("{job}/why?place={}", site.text(&of).await);
    assert!(page.contains(&format!("href=\"{attic}\"")), "the page leads there");
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

#[tokio::test(flavor = "multi_thread")]
async fn a_place_has_its_own_conclusion_and_the_plan_is_made_against_all_of_them() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let of = |name: &str| format!("select id::text from space where name = '{name}' and job_id = '{}'", &job[6..]);
    let attic = site.text(&of("Attic")).await;
    let address = format!("{job}/why?place={attic}");
    let id = Uuid::now_v7().to_string();
    let own = [("id", id.as_str()), ("place", attic.as_str()), ("cause-attic_ventilation", "1"), ("reason", "")];
    let refused = caller.post(&format!("{job}/why"), &own).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(refused.body.contains("This differs from what was computed"), "{}", refused.body);
    assert!(refused.body.contains("for Attic"), "{}", refused.body);
    assert!(refused.body.contains("name=\"cause-attic_ventilation\" value=\"1\" checked"), "what was ticked stays");
    let own = [&own[..3], &[("reason", "Soffits are <painted> shut.")]].concat();
    let kept = caller.post(&format!("{job}/why"), &own).await;
    assert_eq!((kept.status, kept.location.as_str()), (StatusCode::SEE_OTHER, address.as_str()), "{}", kept.body);
    assert!(caller.get(&address).await.body.contains("kept by Wren Tallow"));
    let whole = caller.get(&format!("{job}/why")).await.body;
    assert!(!whole.contains("kept by Wren Tallow") && whole.contains("concluded</span>"), "the building has none yet");

    let plan = caller.get(&format!("{job}/plan")).await.body;
    assert!(plan.contains("computed for the whole building, and your conclusion for Attic."), "{plan}");
    assert!(
        plan.contains("humid outdoor air coming in") && plan.contains("Open soffit intake"),
        "both are planned against"
    );
    let report = caller.get(&format!("{job}/report")).await.location;
    let page = caller.get(&report).await.body;
    assert!(page.contains("The consultant’s conclusion for Attic:</strong>") && page.contains("&#60;painted&#62;"));
    assert!(page.contains("Each wet place by its own evidence:"));
    let json: serde_json::Value =
        serde_json::from_str(&caller.get(&report.replace("/report", "/readings.json")).await.body).unwrap();
    assert_eq!(json["why"]["conclusions"][0]["place"], "Attic");
    assert_eq!(json["why"]["conclusions"][0]["causes"][0], "attic_ventilation");
    let shares: f64 = json["why"]["computed"].as_array().unwrap().iter().map(|c| c["share"].as_f64().unwrap()).sum();
    assert!((shares - 1.0).abs() < 1e-9, "{shares}");

    // Taken back, it is gone; undone, it is there again.
    let back = Uuid::now_v7().to_string();
    let form = [("id", back.as_str()), ("place", attic.as_str()), ("withdraw", "1")];
    assert_eq!(caller.post(&format!("{job}/why"), &form).await.status, StatusCode::SEE_OTHER);
    assert!(!caller.get(&format!("{job}/plan")).await.body.contains("Open soffit intake"));
    let undo = [("id", &*Uuid::now_v7().to_string()), ("change", &back)];
    assert_eq!(caller.post(&format!("{job}/undo"), &undo).await.status, StatusCode::SEE_OTHER);
    assert!(caller.get(&address).await.body.contains("kept by Wren Tallow"));
    let nowhere = [("id", &*Uuid::now_v7().to_string()), ("place", &*Uuid::now_v7().to_string()), ("withdraw", "1")];
    assert_eq!(caller.post(&format!("{job}/why"), &nowhere).await.status, StatusCode::NOT_FOUND);
}

/// Wood that follows the rain gauge, and a dehumidifier that does a tenth of its label: both speak without being ticked.
#[tokio::test(flavor = "multi_thread")]
async fn readings_of_many_days_speak_by_themselves() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let id = Uuid::now_v7().to_string();
    let new = [
        ("id", id.as_str()),
        ("name", "Toll house"),
        ("structure", "crawl_vented"),
        ("climate", "mixed"),
        ("design", "-8"),
    ];
    let job = caller.post("/jobs/new", &new).await.location;
    // A climate is no evidence: what to do first stands on the page, and nothing of causes in a report.
    assert!(caller.get(&format!("{job}/why")).await.body.contains("Nothing is known yet."));
    caller.post(&format!("{job}/visits"), &[("id", &*Uuid::now_v7().to_string())]).await;
    let report = caller.get(&format!("{job}/report")).await.location;
    assert!(!caller.get(&report).await.body.contains("What is wetting it"));
    let line = async |line: &str, days_ago: i64| {
        let at = (chrono::Utc::now().timestamp_millis() - days_ago * 86_400_000).to_string();
        let form = [("id", &*Uuid::now_v7().to_string()), ("line", line), ("at", &at)];
        let kept = caller.post(&format!("{job}/shorthand"), &form).await;
        assert!(kept.status.is_redirection(), "{line}: {}", kept.body);
    };
    for (i, (mm, wood)) in [(0, 14.1), (4, 14.6), (12, 15.8), (2, 14.9), (30, 18.9), (8, 15.1)].into_iter().enumerate()
    {
        let ago = 50 - 5 * i as i64;
        line(&format!("out 10 70 ; out rain {mm} ; crawl 18.3 60 ; rim N s 15 ; rim N mc {wood}"), ago).await;
    }
    let why = caller.get(&format!("{job}/why?cause=rain_entry")).await.body;
    assert!(why.contains("ollows rain"), "{why}");
    line("crawl water 1 12", 0).await;
    let unlabeled = caller.get(&format!("{job}/why?cause=equipment_fault")).await.body;
    assert!(unlabeled.contains("t collects some liters a day"), "{unlabeled}");
    let label = Uuid::now_v7().to_string();
    let tick = [("id", label.as_str()), ("what", "dehumidifier_rated_l_day")];
    caller.post(&format!("{job}/findings"), &tick).await;
    let crawl =
        site.text(&format!("select id::text from space where name = 'Crawl space' and job_id = '{}'", &job[6..])).await;
    let edit = [
        ("id", &*Uuid::now_v7().to_string()),
        ("place", &crawl),
        ("severity", "2"),
        ("value", "42.3 pints/day"),
        ("note", ""),
    ];
    let kept = caller.post(&format!("{job}/findings/{label}"), &edit).await;
    assert!(kept.status.is_redirection(), "{}", kept.body);
    let labeled = caller.get(&format!("{job}/why?cause=equipment_fault")).await.body;
    assert!(labeled.contains("t collects far less than it should in this air"), "{labeled}");
    assert!(labeled.contains("2.0 L/day of 2"), "its sources stand beside it: {labeled}");
    assert!(!labeled.contains("t collects some liters a day"), "and the liters alone no longer speak");
    // A large machine in another space, whose liters nobody read, is not what these are held against.
    line("attic 25 80", 0).await;
    let attic =
        site.text(&format!("select id::text from space where name = 'Attic' and job_id = '{}'", &job[6..])).await;
    let other = Uuid::now_v7().to_string();
    let tick = [("id", other.as_str()), ("what", "dehumidifier_rated_l_day")];
    caller.post(&format!("{job}/findings"), &tick).await;
    let act = Uuid::now_v7().to_string();
    let large = [("id", act.as_str()), ("place", &attic), ("severity", "2"), ("value", "300"), ("note", "")];
    assert!(caller.post(&format!("{job}/findings/{other}"), &large).await.status.is_redirection());
    let still = caller.get(&format!("{job}/why?cause=equipment_fault")).await.body;
    assert!(still.contains("2.0 L/day of 2"), "{still}");
}

/// A database from before places had conclusions: the one there is, and its history, come along.
#[tokio::test(flavor = "multi_thread")]
async fn a_conclusion_from_before_survives_the_change_of_schema_and_can_still_be_undone() {
    let before = Site::start().await;
    let caller = Caller::signed_in(&before, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let act = Uuid::now_v7().to_string();
    let own = [("id", act.as_str()), ("cause-ground_vapor", "1"), ("reason", "The soil alone.")];
    assert_eq!(caller.post(&format!("{job}/why"), &own).await.status, StatusCode::SEE_OTHER);
    before
        .text(
            "alter table conclusion drop column id cascade; alter table conclusion drop column space_id cascade; \
             alter table conclusion add primary key (practice_id, job_id); \
             alter table change disable trigger append_only; update change set rows = (select jsonb_agg(jsonb_build_object('table', r -> 'table', 'before', r -> 'before', \
             'after', (r -> 'after') - 'id' - 'space_id')) from jsonb_array_elements(rows) r) \
             where rows @> '[{\"table\": \"conclusion\"}]'; \
             alter table change enable trigger append_only; drop table practice_change; drop table remark; drop table passkey; alter table job drop column arrived; drop function forget_sign_ins(timestamptz); drop function look_daily() cascade; alter table practice drop column removed_days, drop column archived_days, drop column sign_in_days; alter table consultant drop column language; alter table practice drop column language, drop column units; drop table answered, api_token, delivery, webhook; drop function known_by_token(text, timestamptz, uuid); drop function tell(uuid, uuid, text, jsonb); drop function tell_change() cascade; drop function tell_visit() cascade; drop function tell_readings() cascade; drop function tell_version() cascade; drop function tell_word() cascade; drop function tell_alert() cascade; drop table standing, pin; drop function unsettle() cascade; drop index reading_practice_id_instrument_id_job_id_idx; alter table job drop column archived_at; \
             drop table parcel_piece, parcel; drop function erase_job(uuid); alter table job drop column origin; drop table share_word, share, report_pdf, signature, report_image, report_text, report_version, report, text_block, logo; drop table coating, certificate, drying_reading, drying; drop table map_point, moisture_map, placed, layout; drop table time_table, own_source; drop table weather; drop table thermal_cells, thermal; drop table build_up, material; drop table letter, alert, alert_rule, forecast; \
             drop table invite, sign_in, audit; drop function mark_for_review() cascade; alter table session drop column id, drop column started_at, drop column seen_at, drop column agent, drop column address; alter table consultant drop column role, drop column joined_at, drop column ended_at, drop column second, drop column second_step, drop column recovery; alter table visit drop column for_review, drop column reviewed_by, drop column reviewed_at; alter table job drop column rehearsal; alter table practice drop column address, drop constraint practice_named; alter table plan_step drop column proof; alter table job drop column altitude_m, drop column latitude, drop column longitude; alter table practice drop column log_days; \
             drop table bring_in, log_file_piece, log_file, log_mark, log_point, log_hour, log_day, log_series, logger, task; \
             drop schema log_month cascade; drop function log_months(date[]); delete from instrument where kind = 'logger'; \
             drop table brake; drop table revision; drop function revise() cascade; \
             drop function signed_in(text, timestamptz, uuid); create table sign_in_failure (id uuid primary key, who text not null, at timestamptz not null); \
             delete from seaql_migrations where version >= 'm20261124_000012'",
        )
        .await;
    let after = Site::over(before.owner.clone()).await;
    let caller = caller.at(&after);
    let why = caller.get(&format!("{job}/why")).await.body;
    assert!(why.contains("kept by Wren Tallow") && why.contains("The soil alone."), "{why}");
    let undo = [("id", &*Uuid::now_v7().to_string()), ("change", &act)];
    assert_eq!(caller.post(&format!("{job}/undo"), &undo).await.status, StatusCode::SEE_OTHER);
    assert!(!caller.get(&format!("{job}/why")).await.body.contains("The soil alone."));
}

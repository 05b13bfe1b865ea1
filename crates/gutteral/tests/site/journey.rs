//! The work as a person does it, in a real browser.

use crate::harness::{Browser, Site};
use serde_json::json;
use thirtyfour::Key;
use thirtyfour::prelude::*;

async fn new_job(browser: &Browser, site: &Site, name: &str, structure: &str) {
    browser.go(site, "/docket").await;
    browser.press("New job").await;
    browser.fill("#name", name).await;
    browser.click(&format!("input[value={structure}]")).await;
    browser.click("input[value=cold]").await;
    browser.fill("#design", "-15").await;
    browser.press("Open the job").await;
    browser.shows("Nothing has been read yet").await;
}

async fn start_visit(browser: &Browser) {
    browser.press("Start a round").await;
    browser.shows("Before you go in").await;
    browser.press("Start a visit").await;
    browser.shows("Outdoor air").await;
}

/// Types on the drawn keypad.
async fn keys(browser: &Browser, text: &str) {
    for key in text.chars() {
        browser.click(&format!("[data-key={:?}]", key.to_string())).await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_new_user_goes_from_the_front_page_to_a_verdict_on_their_own_reading() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    new_job(&browser, &site, "Grain trailer", "vehicle").await;
    browser.viewport(390, 844).await;
    start_visit(&browser).await;
    keys(&browser, "−6").await;
    browser.click("#m").await;
    keys(&browser, "80").await;
    browser.shows("Dew point").await;
    browser.click(".keep").await;
    // Stations follow in walking order; this one's air, then a panel colder than its dew point.
    browser.shows("air of the locker").await;
    keys(&browser, "18").await;
    browser.click(".keep").await; // goes on to the empty second figure first
    keys(&browser, "60").await;
    browser.click(".keep").await;
    browser.shows("Rear panel").await;
    keys(&browser, "4.1").await;
    browser.shows("Water is forming here.").await;
    browser.shows("Margin").await;
    let verdict = browser.text("#verdict").await;
    assert!(verdict.contains("Condenses above RH"), "{verdict}");
    browser.click(".keep").await;
    browser.shows("air of the vehicle cabin").await;
    assert_eq!(site.count("reading where as_typed in ('-6 80', '18 60', '4.1')").await, 3);

    browser.viewport(1280, 800).await;
    browser.press("Section").await;
    browser.shows("1 condensing").await;
    browser.click("svg a[aria-label^='Rear panel']").await;
    browser.shows("Working").await;
    browser.shows("ASHRAE").await;
    browser.press("Report").await;
    browser.shows("Instruments used").await;
    browser.shows("Local code and licensed practice govern.").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_wrong_is_said_and_what_was_typed_stays() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    let jobs = site.count("job").await;
    browser.press("New job").await;
    browser.fill("#name", "<script>alert(1)</script>").await;
    browser.fill("#design", "very cold").await;
    browser.press("Open the job").await;
    browser.shows("“very cold” is not a number").await;
    browser.shows("Choose the kind of structure").await;
    assert_eq!(browser.value("#name").await, "<script>alert(1)</script>");
    assert_eq!(browser.value("#design").await, "very cold");
    let paste = "document.querySelector('#address').value = 'x'.repeat(2 * 1024 * 1024)";
    browser.driver.execute(paste, vec![]).await.unwrap();
    browser.click("input[value=vehicle]").await;
    browser.click("input[value=cold]").await;
    browser.fill("#design", "5F").await;
    browser.press("Open the job").await;
    browser.shows("The address line is 2097152 characters long").await;
    assert_eq!(browser.value("#address").await.len(), 2 * 1024 * 1024, "nothing typed is lost");
    assert_eq!(site.count("job").await, jobs, "nothing wrong is stored");
    browser.fill("#address", "").await;
    browser.press("Open the job").await;
    browser.shows("Nothing has been read yet").await;
    browser.shows("<script>alert(1)</script>").await; // as text: the name is escaped

    start_visit(&browser).await;
    for (t, m, said) in [
        ("abc", "50", "“abc” is not a number"),
        ("20", "112", "Relative humidity must be 0 to 100 %, got 112"),
        ("-300", "50", "must be -70 to 110 °C, got -300"),
        ("20", "", "Enter the relative humidity"),
    ] {
        browser.fill("#t", t).await;
        browser.fill("#m", m).await;
        let enter = browser.find("#m").await;
        enter.send_keys("" + Key::Enter).await.unwrap();
        browser.shows(said).await;
        assert_eq!((browser.value("#t").await.as_str(), browser.value("#m").await.as_str()), (t, m));
    }
    browser.fill("#m", "50").await;
    let long = 2 * 1024 * 1024;
    for (field, button, said) in [
        ("#t", ".keep", "The air temperature is 2097152 characters long"),
        ("#line", ".desk .shorthand > button", "The line is 2097152 characters long"),
    ] {
        let paste = format!("document.querySelector('{field}').value = '9'.repeat({long})");
        browser.driver.execute(paste, vec![]).await.unwrap();
        browser.click(button).await;
        browser.shows(said).await;
        assert_eq!(browser.value(field).await.len(), long, "{field}");
    }
    // Odd, not impossible: asked about, and kept when the consultant says so.
    browser.fill("#t", "68").await;
    browser.fill("#m", "50").await;
    // The preview asks first, and from then on nothing moves beneath the click: what counts is the page that comes back.
    browser.shows("did you mean 68 °F").await;
    browser.click(".keep").await;
    browser.find("button[name=keep_anyway][value*='68']").await;
    assert_eq!(site.count("reading where as_typed = '68 50'").await, 0);
    // "Save anyway" is said about these values: others raise their own question first.
    browser.fill("#t", "67").await;
    browser.shows("did you mean 67 °F").await;
    browser.press("Save anyway").await;
    browser.find("button[name=keep_anyway][value*='67']").await;
    browser.fill("#t", "68").await;
    browser.shows("did you mean 68 °F").await;
    browser.press("Save anyway").await;
    browser.find("button[name=keep_anyway][value*='68']").await;
    browser.press("Save anyway").await;
    browser.shows("air of the locker").await;
    assert_eq!(site.count("reading where as_typed = '68 50' and questions like '%68 °F%'").await, 1);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_shorthand_line_previews_asks_and_keeps_all_or_nothing() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    new_job(&browser, &site, "Toll house", "crawl_vented").await;
    start_visit(&browser).await;
    browser.fill("#line", "out 31 66 ; crawl 21.5 89 ; rim 18.6").await;
    browser.shows("fits several").await;
    browser.shows("Rim joist, south (Crawl space)").await;
    browser.click(".desk .shorthand > button").await;
    let kept = "reading where visit_id in (select id from visit where ended_at is null)";
    let others = site.count(kept).await;
    browser.shows("fits several").await;
    assert_eq!(browser.value("#line").await, "out 31 66 ; crawl 21.5 89 ; rim 18.6");
    // Choosing one keeps what was read.
    browser.click("[data-complete='Rim joist, south']").await;
    assert_eq!(browser.value("#line").await, "out 31 66 ; crawl 21.5 89 ; Rim joist, south 18.6");
    browser.fill("#line", "out 31 66 ; crawl 21.5 89 ; rim joist N s 65.5F").await;
    browser.shows("Water is forming here").await;
    let line = browser.find("#line").await;
    line.send_keys("" + Key::Enter).await.unwrap();
    browser.shows("Rim joist, north read").await;
    assert_eq!(site.count(kept).await, others + 3);
    browser.press("Section").await;
    browser.shows("Keep it closed.").await;
    browser.shows("Dehumidify about").await;

    // A correction needs a reason, replaces the value and leaves its trace.
    browser.click("svg a[aria-label^='Rim joist, north']").await;
    browser.press("correct").await;
    browser.fill("#t", "21.0").await;
    browser.press("Save the correction").await;
    browser.shows("Say in a few words why").await;
    assert_eq!(browser.value("#t").await, "21.0");
    browser.fill("#reason", "read the foil tape, not the wood").await;
    browser.press("Save the correction").await;
    browser.shows("read the foil tape, not the wood").await;
    browser.shows("replaced").await;
    assert_eq!(site.count("reading where replaces is not null and t_c = 21").await, 1);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn every_page_works_by_keyboard() {
    let site = Site::start().await;
    let browser = Browser::start().await;
    browser.go(&site, "/sign-in").await;
    // From the top of each page by Tab alone to the element that does the next step.
    let tab_to = async |words: &str| {
        for _ in 0..80 {
            browser.driver.action_chain().send_keys(Key::Tab).perform().await.unwrap();
            let focused = browser.driver.active_element().await.unwrap();
            let label = focused.attr("aria-label").await.unwrap().unwrap_or_default();
            if focused.text().await.unwrap().contains(words) || label.starts_with(words) {
                return focused;
            }
        }
        panic!("{words} is not reached by Tab on {}", browser.path().await);
    };
    let enter = async |words: &str| tab_to(words).await.send_keys("" + Key::Enter).await.unwrap();
    enter("Enter as").await;
    browser.shows("Docket").await;
    enter("Mill keeper").await;
    browser.shows("What this visit shows").await;
    // Links inside the drawing are links: the dot of a surface opens its working.
    let dot = tab_to("Rim joist, north").await;
    assert_eq!(dot.tag_name().await.unwrap().to_lowercase(), "a");
    browser.driver.action_chain().send_keys(Key::Enter).perform().await.unwrap();
    browser.shows("margin above the dew point").await;
    enter("Report").await;
    browser.shows("Instruments used").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_calculator_answers_while_one_types_and_can_be_shared() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, "/docket").await;
    browser.press("Calculator").await;
    browser.press("Moist air").await;
    browser.shows("Anything colder than 11.6 °C gets wet").await;
    // Live, without a page load: the mark set on this document survives.
    browser.driver.execute("document.body.dataset.same = 'yes'", vec![]).await.unwrap();
    browser.fill("#f-t_c", "30").await;
    browser.fill("#f-rh_pct", "70").await;
    browser.shows("Anything colder than 23.9 °C").await;
    assert!(browser.text("#line").await.contains(r#""op":"air""#));
    // What is wrong is said at the field; the rest stays and the answer waits.
    browser.fill("#f-rh_pct", "170").await;
    browser.shows("Relative humidity must be 0 to 100 %, got 170.").await;
    browser.shows("Change the marked field").await;
    assert_eq!(browser.value("#f-t_c").await, "30");
    browser.find("#f-rh_pct[aria-invalid=true]").await;
    browser.fill("#f-rh_pct", "70").await;
    browser.shows("Anything colder than 23.9 °C").await;
    browser.find("body[data-same=yes]").await;
    // The address says it all: reload, and the other units.
    let address = browser.path().await;
    assert!(address.contains("t_c=30") && address.contains("units=metric"), "{address}");
    browser.go(&site, &address).await;
    browser.shows("Anything colder than 23.9 °C").await;
    browser.click("button[name=units]").await;
    browser.shows("Anything colder than 75.1 °F").await;
    assert_eq!(browser.value("#f-t_c").await, "86");
    browser.click("button[name=units]").await;
    browser.shows("Anything colder than 23.9 °C").await;
    // A build-up: the library fills a layer in, and another empty row follows.
    browser.go(&site, "/calculator/assembly").await;
    browser.shows("Water collects at one plane").await;
    browser.click("select[name='layers.4.material'] option[value=cement_render]").await;
    browser.find("select[name='layers.6.material']").await;
    browser.shows("5 cement stucco").await;
    // From a figure of a job straight to its own computation.
    browser.go(&site, "/docket").await;
    browser.press("Mill keeper").await;
    browser.click("svg a[aria-label^='Rim joist, north']").await;
    let margin = browser.text(".big").await;
    browser.press("Try other figures in the calculator").await;
    browser.shows("margin above the dew point").await;
    assert!(browser.text(".answer").await.starts_with("Condensing: 1.2 ± 0.7 K"), "the job said {margin}");
    // In the other units it is the same computation, in those units.
    browser.go(&site, "/docket").await;
    browser.click("button[name=units]").await;
    browser.find("button[name=units][value=metric]").await;
    browser.press("Mill keeper").await;
    browser.click("svg a[aria-label^='Rim joist, north']").await;
    browser.press("Try other figures in the calculator").await;
    browser.shows("margin above the dew point").await;
    let answer = browser.text(".answer").await;
    assert!(answer.starts_with("Condensing: 2.") && answer.contains("± 1.2 °F"), "{answer}");
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn meters_are_read_corrected_and_compared_with_themselves_only() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    new_job(&browser, &site, "Toll house", "crawl_vented").await;
    start_visit(&browser).await;
    // A pin meter needs the wood's temperature: without any it says so and keeps the figure.
    browser.press("Rim joist, north").await;
    browser.press("wood, %").await;
    browser.fill("#t", "17.5").await;
    browser.shows("temperature first").await;
    browser
        .fill("#line", "out 9 72 ; crawl 12 80 ; rim joist N s 11 ; rim joist N mc 17.5 ; rim joist S rel 540")
        .await;
    browser.shows("Wood moisture 2").await;
    browser.find("#line").await.send_keys("" + Key::Enter).await.unwrap();
    browser.shows("Rim joist, north read").await;
    assert_eq!(
        site.count("reading where kind = 'wood' and species = 'spruce' and wood_t_c = 11 and value > 20").await,
        1
    );
    // Over fiber saturation there is no figure, only "wet".
    browser.press("Rim joist, north").await;
    browser.press("wood, %").await;
    browser.fill("#t", "31").await;
    browser.shows("wet (over fiber saturation)").await;
    browser.press("Save, next").await;
    browser.press("Section").await;
    browser.click("svg a[aria-label^='Rim joist, north']").await;
    browser.shows("wet (over fiber saturation)").await;
    // Corrected like any reading, in the wood and at the temperature it was read at: the row stays, its kind too.
    browser.press("correct").await;
    browser.shows("Wood moisture as the meter showed it").await;
    browser.fill("#t", "13.0").await;
    browser.fill("#reason", "pins were in the nail").await;
    browser.press("Save the correction").await;
    browser.shows("pins were in the nail").await;
    assert_eq!(
        site.count("reading where kind = 'wood' and replaces is not null and raw_value = 13 and wood_t_c = 11").await,
        1
    );
    // The same spot on a later visit, by the same meter.
    browser.press("Visit").await;
    browser.press("Finish the visit").await;
    browser.shows("Report").await;
    browser.press("Visit").await;
    browser.press("Start a visit").await;
    browser.press("Rim joist, south").await;
    browser.press("relative").await;
    browser.fill("#t", "300").await;
    browser.shows("From 540 to 300 on the same spot: fallen by 44").await;
    browser.fill("#t", "30 %").await;
    browser.shows("least of all percent").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_call_says_what_to_bring_before_anyone_sets_out() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, "/docket").await;
    browser.press("Traveling").await;
    browser.place("Call").await;
    // The demo's own call: foam panels, so no pin.
    browser.shows("Do not meter the walls").await;
    browser.shows("Drips on the shelves on cold mornings").await;
    browser.find("input[name='said.ceiling_stain']:not(:checked)").await;
    browser.click("input[name='said.ceiling_stain']").await;
    browser.shows("The exhaust duct above the stain before the roof").await;
    // A wrong year is said at the field and keeps everything typed.
    browser.fill("#year", "19x").await;
    browser.fill("#complaint", "Water <b>again</b>").await;
    browser.press("Save the call").await;
    browser.shows("A whole number from 1000 to").await;
    assert_eq!(browser.value("#complaint").await, "Water <b>again</b>");
    browser.find("input[name='said.ceiling_stain']:checked").await;
    browser.fill("#year", "1979").await;
    browser.press("Save the call").await;
    browser.shows("asbestos or lead").await;
    browser.shows("kept").await;
    // It stands before the round and in the report.
    browser.press("Visit").await;
    browser.shows("Do not meter the walls").await;
    browser.press("Report").await;
    browser.shows("Water <b>again</b>").await;
    browser.shows("Stain or drip on a ceiling").await;
    browser.quit().await;
}

const AXE: &str = include_str!("../../../../node_modules/axe-core/axe.min.js");

/// Pages beside the jobs that axe looks at.
const OFFICE: [&str; 11] = [
    "/docket",
    "/bench",
    "/materials",
    "/weather",
    "/sources",
    "/jobs/new",
    "/people",
    "/people/audit",
    "/me",
    "/practice",
    "/nowhere",
];

/// Pages by which a job leaves.
async fn of_reports(site: &Site, job: &str) -> [String; 4] {
    let report =
        "select id::text from report where exists (select from job j where j.id = job_id and j.name like 'Mill%')";
    let report = site.text(report).await;
    [format!("{job}/sharing"), format!("{job}/data"), format!("{job}/reports/{report}"), "/data".to_owned()]
}

#[tokio::test(flavor = "multi_thread")]
async fn axe_finds_nothing_on_any_page_in_either_theme() {
    let site = Site::start().await;
    let browser = Browser::start().await;
    browser.go(&site, "/sign-in").await;
    let mut found = violations(&browser, json!({})).await;
    browser.click("form.demo button").await;
    browser.shows("Docket").await;
    // Pages of a template looked at already on another job: the same on a phone.
    let mut drawn_only: Vec<String> = Vec::new();
    let mut pages: Vec<String> = OFFICE.map(str::to_owned).into();
    pages
        .extend(["/calculator", "/calculator/library", "/queue", "/prices", "/calendar", "/causes"].map(str::to_owned));
    browser.go(&site, "/bench").await;
    pages.push(browser.find("td a[href^='/bench/']").await.attr("href").await.unwrap().unwrap());
    browser.go(&site, "/docket").await;
    pages.push(browser.find(".due a[href*='/follow-ups/']").await.attr("href").await.unwrap().unwrap());
    // One sheet of each shape: a chart, layers, months, many lines, and one with something wrong.
    for sheet in
        ["air", "assembly", "assembly_year", "mold_index", "surface?units=metric&t_c=20&rh_pct=130&surface_c=x"]
    {
        pages.push(format!("/calculator/{sheet}"));
    }
    for name in ["Mill keeper", "School", "Traveling"] {
        let link = browser.driver.query(By::PartialLinkText(name)).first().await.unwrap();
        let job = link.attr("href").await.unwrap().unwrap();
        // What is drawn differs by building; the rest is looked at once.
        let drawn = ["", "/round", "/why", "/plan"].map(|view| format!("{job}{view}"));
        if name != "Mill keeper" {
            drawn_only.extend(drawn.clone());
        }
        pages.extend(drawn);
        if name == "Mill keeper" {
            let log = [
                "/log",
                "/log?span=season",
                "/log/files",
                "/log/live",
                "/log/air",
                "/log/airing",
                "/log/budget",
                "/log/alerts",
                "/proof",
                "/coating",
            ];
            pages.extend(log.map(|view| format!("{job}{view}")));
            pages.extend(of_reports(&site, &job).await);
            let rest = [
                "/unfolded",
                "/unfolded/walk",
                "/build-ups/questions",
                "/build-ups/questions/fill_wall",
                "/build-ups",
                "/thermal",
                "/thermal/survey",
                "/call",
                "/edit",
                "/findings",
                "/tests",
                "/photos",
            ];
            pages.extend(rest.map(|view| format!("{job}{view}")));
        }
        let edits = ["", "?new=space", "?new=boundary", "?new=surface"].map(|view| format!("{job}/building{view}"));
        if name == "School" {
            pages.extend(edits);
            pages.push(format!("{job}/history"));
            let dried = ["", "/round", "/setup", "/item?what=machine", "/item?what=sheet", "/certificate?cavity=1"];
            pages.extend(dried.map(|view| format!("{job}/drying{view}")));
        }
    }
    browser.press("Mill keeper").await;
    browser.shows("What this visit shows").await;
    for css in [
        "svg a[aria-label^='Rim joist, north']",
        "svg a[aria-label^='Boundary Roof']",
        "svg a[aria-label^='Crawl space']",
        "nav.views a[href*=report]",
        ".findings a",
        "#side a:has(.shot)",
    ] {
        pages.push(browser.find(css).await.attr("href").await.unwrap().unwrap());
    }
    browser.click("svg a[aria-label^='Rim joist, north']").await;
    pages.push(browser.find("a[href*=correct]").await.attr("href").await.unwrap().unwrap());
    browser.press("Headlamp").await;
    browser.find("html[data-theme=headlamp]").await;
    browser.press("Paper").await;
    browser.find("html[data-theme=paper]").await;
    for page in &pages {
        // What stands where differs by width, colors by theme.
        browser.viewport(1280, 800).await;
        browser.go(&site, page).await;
        found.extend(violations(&browser, json!({})).await);
        browser.driver.execute("document.documentElement.dataset.theme = 'headlamp'", vec![]).await.unwrap();
        found.extend(violations_of(&browser, json!({ "runOnly": ["color-contrast"] })).await);
        if drawn_only.contains(page) {
            continue;
        }
        browser.viewport(390, 844).await;
        found.extend(violations_of(&browser, json!({ "rules": { "color-contrast": { "enabled": false } } })).await);
    }
    assert!(found.is_empty(), "{}", found.join("\n"));
    browser.quit().await;
}

async fn violations(browser: &Browser, rules: serde_json::Value) -> Vec<String> {
    browser.driver.execute(AXE, vec![]).await.unwrap();
    violations_of(browser, rules).await
}

/// What is wrong with a page that has the checker in it, by these of its rules.
async fn violations_of(browser: &Browser, mut rules: serde_json::Value) -> Vec<String> {
    rules["resultTypes"] = json!(["violations"]);
    let run = "const done = arguments[1]; axe.run(document, arguments[0]).then(r => done(r.violations.map(v => location.pathname \
        + ' ' + v.id + ': ' + v.help + ' — ' + v.nodes.slice(0, 3).map(n => n.html.slice(0, 160) + ' ' \
        + (n.any[0]?.message ?? '')).join(' | '))));";
    browser.driver.execute_async(run, vec![rules]).await.unwrap().convert().unwrap()
}

#[tokio::test(flavor = "multi_thread")]
async fn a_building_is_changed_on_its_drawing_and_every_change_is_undone() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    new_job(&browser, &site, "Ferry house", "custom").await;
    browser.press("Edit building").await;
    // A space with a long name, sized by its volume.
    browser.press("Add a space").await;
    browser.fill("#name", "Drying loft over the <old> workshop").await;
    browser.press("Add it").await;
    browser.shows("Choose what it is").await;
    assert_eq!(browser.value("#name").await, "Drying loft over the <old> workshop", "what was typed stays");
    browser.click("#kind option[value=attic]").await;
    browser.click("#level option[value=roof]").await;
    browser.fill("#area", "20m2").await;
    browser.fill("#volume", "30").await;
    browser.press("Add it").await;
    browser.shows("Its boundaries").await;
    assert_eq!(browser.value("#height").await, "1.5", "20 m² and 30 m³ are 1.5 m on average");
    assert_eq!(site.count("space where area_m2 = 20 and round(height_m::numeric, 2) = 1.50").await, 1);
    // A boundary on it, and a surface on that: the walk grows, the drawing shows both.
    browser.press("Add a boundary to it").await;
    browser.fill("#name", "North slope").await;
    browser.click("#beyond option[value=outdoors]").await;
    browser.click("#face option[value=ceiling]").await;
    browser.click("#buildup option[value=roof_sheathing]").await;
    browser.press("Add it").await;
    browser.press("Add a surface to it").await;
    browser.fill("#name", "Rafter, north").await;
    browser.click("#material option[value=wood]").await;
    browser.press("Add it").await;
    browser.find("svg a[aria-label^='Rafter, north']").await;
    browser.find("svg a[aria-label^='Boundary North slope']").await;
    browser.press("Walking order").await;
    browser.shows("Rafter, north").await;
    // By keyboard to the front, and kept.
    let line = "//li[contains(., 'Rafter, north')]//button[contains(@aria-label, 'up')]";
    let button = browser.driver.query(By::XPath(line)).first().await.unwrap();
    for _ in 0..8 {
        button.send_keys("" + Key::Enter).await.unwrap();
    }
    // By mouse to the second place, and back to the front by keyboard.
    let line = browser.find("form[data-walk] li:first-child .what").await;
    let below = browser.find("form[data-walk] li:nth-child(2) .what").await;
    browser.drag(&line, &below).await;
    browser.driver.query(By::XPath("//form[@data-walk]//li[2][contains(., 'Rafter, north')]")).first().await.unwrap();
    button.send_keys("" + Key::Enter).await.unwrap();
    browser.press("Save this order").await;
    browser.shows("Changed the walking order").await;
    browser.driver.query(By::XPath("//li[1][contains(., 'Rafter, north')]")).first().await.unwrap();
    assert_eq!(
        site.text("select count(*) from station where position = 0 and surface_id = (select id from surface where name = 'Rafter, north')").await,
        "1"
    );
    // Removed with its surface, and back by one key.
    browser.click("svg a[aria-label^='Drying loft']").await;
    browser.shows("Its boundaries").await;
    browser.click("button[value=remove-space]").await;
    browser.shows("Removed the space Drying loft").await;
    assert_eq!(site.count("surface where name = 'Rafter, north' and removed_at is null").await, 0);
    let body = browser.find("body").await;
    body.send_keys(Key::Control + "z").await.unwrap();
    browser.shows("Changed the walking order").await;
    browser.find("svg a[aria-label^='Rafter, north']").await;
    // Everything is told with before and after, and can be taken back to the beginning but for the opening.
    browser.press("History").await;
    browser.shows("Undid: Removed the space Drying loft").await;
    browser.shows("Space Drying loft over the <old> workshop: added").await;
    browser.shows("Opened the job").await;
    // Out of order it is refused with the reason.
    let add = "//li[contains(., 'Added the space')]//button";
    browser.driver.query(By::XPath(add)).first().await.unwrap().click().await.unwrap();
    browser.shows("came after it: undo that first").await;
    browser.press("Section").await;
    browser.press("Edit building").await;
    for what in ["Added the surface Rafter", "Added the boundary North slope", "Added the space Drying loft"] {
        browser.press("Undo").await;
        browser.shows(what).await;
    }
    browser.press("Undo").await;
    browser.press("History").await;
    browser.shows("Undid: Added the space Drying loft").await;
    assert_eq!(site.count("space where name like 'Drying%' and removed_at is null").await, 0);
    // The job itself leaves the docket and comes back.
    browser.press("Section").await;
    browser.press("Edit job").await;
    browser.press("Remove this job").await;
    browser.shows("Kept for 30 days").await;
    browser.press("Restore").await;
    browser.driver.query(By::XPath("//li/a[contains(., 'Ferry house')]")).first().await.unwrap();
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn findings_are_ticked_placed_and_told_and_a_test_runs_its_time() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    new_job(&browser, &site, "Ferry house", "crawl_vented").await;
    browser.viewport(390, 844).await;
    start_visit(&browser).await;
    // On the way: from a station to a finding placed there in two taps.
    browser.press("Next").await;
    browser.shows("air of the crawl space").await;
    browser.press("Add a finding here").await;
    browser.fill("#search", "bare soil").await;
    assert_eq!(browser.driver.find_all(By::Css(".ticklist li:not([hidden])")).await.unwrap().len(), 1);
    browser.press("Bare soil").await;
    browser.shows("No film, or soil showing").await;
    assert_eq!(
        site.count("finding f join job j on j.id = f.job_id and j.name = 'Ferry house' join space s on s.id = f.space_id where s.name = 'Crawl space' and f.what = 'soil_bare'")
            .await,
        1
    );
    // Weighed and noted; a wrong figure is said and nothing typed is lost.
    browser.place("Findings").await;
    browser.press("Area of growth").await;
    browser.fill("#value", "wide").await;
    browser.fill("#note", "behind <the> bunk").await;
    browser.press("Save").await;
    browser.shows("“wide” is not a number").await;
    assert_eq!(browser.value("#note").await, "behind <the> bunk");
    browser.fill("#value", "16ft2").await;
    browser.click("input[name=severity][value='3']").await;
    browser.press("Save").await;
    browser.shows("severe · 1.49 m²").await;
    browser.shows("behind <the> bunk").await;
    browser.press("Gas smell").await;
    browser.press("Save").await;
    // The same form sent again ticks nothing twice.
    let caller = crate::harness::client::Caller::signed_in(&site, gutteral::demo::ENTRY).await;
    let job = caller.job("Ferry house").await;
    let id = site.text("select id from finding where what = 'smell_gas'").await;
    caller.post(&format!("{job}/findings"), &[("id", &id), ("what", "smell_gas")]).await;
    let here = "finding where job_id = (select id from job where name = 'Ferry house')";
    assert_eq!(site.count(here).await, 3);
    // A long test says when it may be read; its result carries its meaning.
    browser.place("Tests").await;
    browser.click("#main details:nth-of-type(1) summary").await;
    browser.press("Start").await;
    browser.shows("May be read from").await;
    browser.shows("to go").await;
    browser.press("Record the result").await;
    browser.shows("Choose what it showed").await;
    browser.click("input[value=wet_under]").await;
    browser.fill("textarea", "read early: leaving").await;
    browser.press("Record the result").await;
    browser.shows("Plastic sheet on the floor or wall: Wet underneath").await;
    browser.viewport(1280, 800).await;
    browser.press("Section").await;
    browser.shows("Gas smell").await;
    browser.find("svg a.flag").await;
    browser.press("Report").await;
    for words in [
        "Found and tested",
        "Area of growth, 1.49 m²",
        "Bare soil",
        "Moisture comes through the slab",
        "read early: leaving",
    ] {
        browser.shows(words).await;
    }
    // Taken away and brought back.
    browser.place("Findings").await;
    browser
        .driver
        .query(By::XPath("//ul[contains(@class, 'findings')]//a[.='Gas smell']"))
        .first()
        .await
        .unwrap()
        .click()
        .await
        .unwrap();
    browser.press("Remove").await;
    browser.shows("Removed the finding: Gas smell").await;
    assert_eq!(site.count(&format!("{here} and removed_at is null")).await, 2);
    browser.press("Undo").await;
    browser.driver.query(By::XPath("//ul[contains(@class, 'findings')]//a[.='Gas smell']")).first().await.unwrap();
    browser.press("Section").await;
    browser.press("History").await;
    browser.shows("Undid: Removed the finding: Gas smell").await;
    browser.shows("severity 2 → 3; figure none → ").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn from_the_docket_to_a_stored_reading_in_two_taps_and_two_figures() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.viewport(390, 844).await;
    let mut taps = 0;
    let before = site.count("reading").await;
    let round = "//li[contains(., 'Traveling library bus')]//a[starts-with(normalize-space(.), 'Round')]";
    browser.driver.query(By::XPath(round)).first().await.unwrap().click().await.unwrap();
    taps += 1;
    browser.press("Start a visit").await;
    taps += 1;
    browser.find("#t").await.send_keys("-4.5" + Key::Enter).await.unwrap();
    browser.find("#m").await.send_keys("81" + Key::Enter).await.unwrap();
    browser.shows("air of the locker").await;
    assert_eq!(site.count("reading").await, before + 1);
    assert!(taps <= 4, "{taps} taps");
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_round_takes_every_kind_of_reading_and_says_what_is_missing() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    new_job(&browser, &site, "Pump house", "basement").await;
    start_visit(&browser).await;
    browser.shows("Not seen yet: Outdoor air").await;
    let begin = browser.find("#t").await;
    begin.send_keys("9" + Key::Tab).await.unwrap();
    browser.find("#m").await.send_keys("72" + Key::Enter).await.unwrap();
    browser.shows("air of the basement").await;
    // Five inputs for an air reading by hand: two figures, the step between them, and Enter.
    browser.find("#t").await.send_keys("18" + Key::Tab).await.unwrap();
    browser.find("#m").await.send_keys("60" + Key::Enter).await.unwrap();
    browser.shows("Wall base, north").await;
    // One key on, one key back, from within a figure.
    browser.find("#t").await.send_keys("" + Key::PageUp).await.unwrap();
    browser.shows("air of the basement").await;
    // Water of a dehumidifier and airflow, at the air of a space.
    browser.press("water").await;
    browser.fill("#t", "3.2").await;
    browser.fill("#m", "0").await;
    browser.press("Save, stay here").await;
    browser.shows("It must have run for some time").await;
    browser.fill("#m", "16").await;
    browser.shows("4.8 L/day collected").await;
    browser.press("Save, stay here").await;
    browser.shows("3.2 L in 16 h").await;
    browser.press("airflow").await;
    browser.fill("#t", "20").await;
    browser.shows("air changes an hour").await;
    browser.press("Save, stay here").await;
    browser.shows("20 L/s").await;
    browser.press("note").await;
    browser.fill("#t", "smells of <earth>").await;
    browser.press("Save, next").await;
    // Infrared: the surface's own emissivity, and what it reflects.
    browser.shows("Wall base, north").await;
    browser.press("infrared").await;
    browser.fill("#t", "9.0").await;
    browser.shows("Margin").await;
    browser.press("Save, stay here").await;
    browser.shows("by infrared").await;
    // By the gray-body balance, set to 0.95 before a concrete of 0.92 in a room of 18 °C: some 0.3 K colder than shown.
    let stored = "reading where emissivity = 0.92 and reflected_c = 18 and raw_t_c = 9 and t_c between 8.6 and 8.8";
    assert_eq!(site.count(stored).await, 1);
    // Skipped with the reason, in two taps; and back.
    browser.press("Next").await;
    browser.shows("Wall base, south").await;
    browser.click(".pass summary").await;
    browser.press("something stands before it").await;
    browser.shows("Slab").await;
    browser.press("Back").await;
    browser.shows("Skipped: something stands before it").await;
    browser.press("Finish the visit").await;
    browser.shows("Not read on this visit: Wall base, south (something stands before it), Slab").await;
    browser.shows("smells of <earth>").await;
    // The next round shows the last one's figures to type over, and the shorthand line takes all kinds.
    browser.press("Visit").await;
    browser.press("Start a visit").await;
    browser.shows("last 9.0 °C, 74 %").await;
    assert_eq!(browser.find("#t").await.attr("placeholder").await.unwrap().unwrap(), "9.0");
    browser
        .fill(
            "#line",
            "basement water 2.5 12 ; basement flow 15 ; basement 17 55 ; base north ir 8.5 ; slab note wet edge",
        )
        .await;
    browser.shows("Slab, wet edge").await;
    // A name is completed by one key, and the line kept before comes back by another.
    let line = browser.find("#line").await;
    line.clear().await.unwrap();
    line.send_keys("joist").await.unwrap();
    browser.find("#line-preview [data-complete='Rim joist']").await;
    line.send_keys("" + Key::Tab).await.unwrap();
    assert_eq!(browser.value("#line").await, "Rim joist ");
    line.send_keys("note tight").await.unwrap();
    browser.click(".desk .shorthand > button").await;
    browser.shows("14 to go").await;
    let line = browser.find("#line").await;
    line.send_keys("" + Key::Up).await.unwrap();
    assert_eq!(browser.value("#line").await, "Rim joist note tight");
    browser
        .fill(
            "#line",
            "basement water 2.5 12 ; basement flow 15 ; basement 17 55 ; base north ir 8.5 ; slab note wet edge",
        )
        .await;
    browser.shows("Slab, wet edge").await;
    browser.click(".desk .shorthand > button").await;
    browser.shows("12 to go").await;
    let kinds = site
        .text(
            "select string_agg(kind || coalesce(' ' || raw_value, ''), ',' order by id) from reading \
        where visit_id = (select id from visit order by started_at desc limit 1)",
        )
        .await;
    assert_eq!(kinds, "note,water 2.5,airflow 0.015,air,surface,note");
    browser.quit().await;
}

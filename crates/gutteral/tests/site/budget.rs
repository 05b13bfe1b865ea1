//! Budget: a time table begun, typed and dragged answers at once; what keeps it dry is said; what is wrong is named and kept.

use crate::harness::client::Caller;
use crate::harness::{Browser, Site};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use uuid::Uuid;

/// A time table of the bus as a form sends it: two sleepers from the beginning for eight hours.
fn form<'a>(id: &'a str, table: &'a str, space: &'a str) -> Vec<(&'a str, &'a str)> {
    vec![
        ("id", id),
        ("table", table),
        ("act", "save"),
        ("name", "One night"),
        ("space", space),
        ("begins", "22:00"),
        ("hours", "9"),
        ("t", "16"),
        ("rh", "60"),
        ("volume", "20"),
        ("leak", "0.2"),
        ("wind", "1"),
        ("outdoors", "month 0"),
        ("what-0", "adult_asleep"),
        ("amount-0", "2"),
        ("from-0", "1 22:00"),
        ("until-0", "06:00"),
    ]
}

#[tokio::test(flavor = "multi_thread")]
async fn a_weekend_in_the_bus_is_planned_so_that_its_glass_stays_dry() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    let job = Caller::signed_in(&site, ENTRY).await.job("library bus").await;
    browser.go(&site, &format!("{job}/log/budget")).await;
    browser.press("A weekend trip, two adults").await;
    browser.shows("gets wet by").await;
    browser.shows("then every surface stays dry").await;
    browser.shows("Tubs of salt alone takes").await;
    // Typed: nobody there, so nothing gets wet, at once and before it is kept.
    let rows = site.number("select jsonb_array_length(said -> 'blocks') from time_table where said ->> 'name' = 'A weekend trip, two adults'").await;
    for row in 0..rows {
        let what = browser.value(&format!("[name=what-{row}]")).await;
        if what.starts_with("adult") || what == "meal" || what == "wet_clothes" {
            browser.fill(&format!("[name=amount-{row}]"), "0").await;
        }
    }
    browser.shows("Stays dry.").await;
    assert_eq!(site.count("time_table where said::text like '%\"amount\": 0.0%'").await, 0, "nothing is kept yet");
    browser.press("Save").await;
    browser.shows("Changed the time table").await;
    browser.press("Undo").await;
    browser.shows("gets wet by").await;
    // A bar dragged to the right takes its line with it: two hours later by its own scale.
    let bar = browser.find("#result svg:not(.desk\\:hidden) .bar[data-row='0'] rect").await;
    let before = browser.value("[name=from-0]").await;
    let script = "const b = arguments[0], s = b.closest('svg'), r = b.getBoundingClientRect(); \
        const px = Number(s.dataset.hour) * s.getBoundingClientRect().width / s.viewBox.baseVal.width; \
        const at = (type, x) => (type === 'pointerdown' ? b : document).dispatchEvent(new PointerEvent(type, \
          { bubbles: true, clientX: x, clientY: r.y + 4, button: 0 })); \
        at('pointerdown', r.x + 3); at('pointermove', r.x + 3 + 2 * px); at('pointerup', r.x + 3 + 2 * px);";
    browser.driver.execute(script, vec![bar.to_json().unwrap()]).await.unwrap();
    assert_eq!((before.as_str(), browser.value("[name=from-0]").await.as_str()), ("1 18:00", "1 20:00"));
    // Two beside one another.
    browser.go(&site, &browser.path().await).await;
    browser.find("#with option:nth-child(2)").await.click().await.unwrap();
    browser.press("Show").await;
    browser.shows("Beside it:").await;
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_time_table_is_read_by_the_clock_and_what_is_wrong_is_named_at_its_line() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("library bus").await;
    let space = site.text("select s.id::text from space s join job j on j.id = s.job_id where s.name = 'Cabin' and j.name like '%bus'").await;
    let at = format!("{job}/log/budget");
    let begun = Uuid::now_v7().to_string();
    let begin = [("id", begun.as_str()), ("act", "ready"), ("ready", "frost"), ("space", space.as_str())];
    for _ in 0..2 {
        let answer = caller.post(&at, &begin).await;
        assert_eq!((answer.status, answer.location), (StatusCode::SEE_OTHER, format!("{at}?table={begun}")));
    }
    let kept = async || site.text(&format!("select said::text from time_table where id = '{begun}'")).await;
    let first = kept().await;
    let act = Uuid::now_v7().to_string();
    let with = |changes: &[(&'static str, &'static str)]| {
        let mut all = form(&act, &begun, &space);
        for (key, value) in changes {
            all.retain(|(k, _)| k != key);
            all.push((key, value));
        }
        all.into_iter().map(|(k, v)| (k.to_owned(), v.to_owned())).collect::<Vec<_>>()
    };
    for (changes, said) in [
        (vec![("from-0", "2 09:00")], "It begins after the end, 2 07:00."),
        (vec![("until-0", "2 09:00")], "It ends after the end, 2 07:00."),
        (vec![("from-0", "2 06:00"), ("until-0", "2 05:00")], "It ends before it begins."),
        (vec![("from-0", "1 20:00")], "It begins before the beginning, 1 22:00."),
        (vec![("from-0", "noon")], "“noon” is no time"),
        (vec![("amount-0", "many")], "“many” is not a number"),
        (vec![("amount-0", "-2")], "0 to 10000 people."),
        (vec![("what-0", "dragon")], "It is no longer in the list"),
        (vec![("hours", "400")], "1 to 336 hours."),
        (vec![("rh", "140")], "relative humidity"),
        (vec![("t", "90")], "A space is between"),
        (vec![("volume", "0")], "0.5 m³"),
        (vec![("begins", "18:30")], "A whole hour by the clock"),
        (vec![("outdoors", "log")], "Say from which day"),
        (vec![("outdoors", "month 12")], "Choose where outdoor air comes from"),
        (vec![("space", "")], "That space is no longer there"),
        (vec![("name", "\u{7}")], "One character cannot be stored"),
    ] {
        let fields = with(&changes);
        let fields: Vec<(&str, &str)> = fields.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
        let answer = caller.post(&at, &fields).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{said}: {}", answer.body);
        assert!(answer.body.contains(said), "{said}: {}", answer.body);
        if let Some((_, typed)) = changes.iter().find(|(k, _)| *k == "from-0") {
            assert!(answer.body.contains(&format!("value=\"{typed}\"")), "what was typed is kept");
        }
        let live = caller.post(&format!("{at}/live"), &fields).await;
        assert!(live.status.is_success() || live.status == StatusCode::UNPROCESSABLE_ENTITY, "{said}: {}", live.status);
    }
    assert_eq!(kept().await, first, "a refused form changes nothing");
    // 06:00 is the next morning; 1.6 L would be four sleepers', two give 0.8.
    let answer = caller.post(&at, &form(&act, &begun, &space)).await;
    assert_eq!(answer.status, StatusCode::SEE_OTHER, "{}", answer.body);
    assert!(kept().await.contains("\"until\": 8.0"), "{}", kept().await);
    let page = caller.get(&format!("{at}?table={begun}")).await.body;
    assert!(page.contains("0.8 L") && page.contains("a usual day of January in this climate"), "{page}");
    // The practice's own source counts.
    let own = Uuid::now_v7().to_string();
    let brew = [
        ("id", own.as_str()),
        ("name", "Brewing vat"),
        ("per", "vats"),
        ("liters", "0.5"),
        ("given", "hour"),
        ("source", "weighed"),
    ];
    let bad =
        [("id", own.as_str()), ("name", ""), ("per", "vats"), ("liters", "0"), ("given", "never"), ("source", "")];
    let refused = caller.post("/sources", &bad).await;
    assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
    for said in ["Give it a name.", "More than 0", "Say whether that is", "Say where the figure comes from"] {
        assert!(refused.body.contains(said), "{said}: {}", refused.body);
    }
    assert_eq!(caller.post("/sources", &brew).await.status, StatusCode::SEE_OTHER);
    let fields = with(&[("what-1", "OWN"), ("amount-1", "1")]);
    let fields: Vec<(&str, &str)> =
        fields.iter().map(|(k, v)| (k.as_str(), if v == "OWN" { own.as_str() } else { v.as_str() })).collect();
    let live = caller.post(&format!("{at}/live"), &fields).await.body;
    assert!(live.contains("Brewing vat") && live.contains("4.5 L"), "nine hours of it: {live}");
    // Many at once, more than there are connections: each answered, one kept.
    let many = Uuid::now_v7().to_string();
    let again = [("id", many.as_str()), ("act", "ready"), ("ready", "weekend"), ("space", space.as_str())];
    let before = site.count("time_table").await;
    for answer in futures_util::future::join_all((0..24).map(|_| caller.post(&at, &again))).await {
        assert_eq!(answer.status, StatusCode::SEE_OTHER, "{}", answer.body);
    }
    assert_eq!(site.count("time_table").await, before + 1);
    // Another practice's job is not there.
    let odd = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(odd.post(&at, &form(&Uuid::now_v7().to_string(), &begun, &space)).await.status, StatusCode::NOT_FOUND);
    assert_eq!(odd.get(&at).await.status, StatusCode::NOT_FOUND);
}

//! What the hours are good for: when to open up, and what a log is watched for.

use crate::harness::client::Caller;
use crate::harness::{Browser, Site};
use crate::log::until;
use chrono::{TimeDelta, Utc};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use uuid::Uuid;

/// A logger that posts the air of a space from now on: its token.
pub async fn hung(site: &Site, caller: &Caller, job: &str, space: &str) -> String {
    let logger = site.text("select id::text from instrument where serial = 'HB-03'").await;
    let made = caller.post(&format!("/bench/{logger}/token"), &[("act", "make")]).await.body;
    let token = made.split_once("id=\"token\">").unwrap().1.split('<').next().unwrap().to_owned();
    let fields = [("logger", logger.as_str()), ("channel", "now"), ("kind", "air"), ("place", space)];
    assert_eq!(caller.post(&format!("{job}/log/live"), &fields).await.status, StatusCode::SEE_OTHER);
    token
}

/// Posts air of every hour of the last so many.
async fn posts(caller: &Caller, token: &str, hours: i64, t_c: f64, rh_pct: f64) {
    let row = |h: i64| {
        let at = (Utc::now() - TimeDelta::hours(h)).to_rfc3339();
        serde_json::json!({"at": at, "channel": "now", "t_c": t_c, "rh_pct": rh_pct})
    };
    let rows: Vec<_> = (0..hours).map(row).collect();
    let sent = caller.http.post(caller.url("/api/log")).bearer_auth(token).json(&rows).send().await.unwrap();
    assert!(sent.status().is_success(), "{}", sent.text().await.unwrap());
}

#[tokio::test(flavor = "multi_thread")]
async fn a_watched_space_raises_one_line_writes_a_letter_and_clears_itself() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let space = site.text("select id::text from space where name = 'Kitchen wing'").await;
    let token = hung(&site, &caller, &job, &space).await;
    posts(&caller, &token, 8, 20.0, 82.0).await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/log/alerts")).await;
    // What cannot be is said, and what was typed is kept.
    browser.click("input[value=humid]").await;
    browser.fill("#figure", "170 %").await;
    browser.press("Watch it").await;
    browser.shows("is no relative humidity").await;
    assert_eq!(browser.value("#figure").await, "170 %");
    browser.find(&format!("#space option[value='{space}']")).await.click().await.unwrap();
    browser.fill("#figure", "75").await;
    browser.fill("#hours", "6").await;
    browser.fill("#mail_to", "owner@ostley-fell.example").await;
    browser.press("Watch it").await;
    browser.shows("relative humidity over 75 % on average of 6 hours").await;
    let raised = "alert a join alert_rule r on r.id = a.rule_id where r.figure = 75";
    until(&site, &format!("select count(*) from {raised}"), 1).await;
    browser.go(&site, "/docket").await;
    browser.shows("Kitchen wing stands at 82 %").await;
    assert_eq!(site.count(raised).await, 1);
    // Looked at again by another rule, it is raised once; and over when the air is dry, whoever looks.
    posts(&caller, &token, 1, 20.0, 82.0).await;
    site.run("delete from log_point where at > now() - interval '9 hours'; delete from log_hour where at > now() - interval '10 hours'").await;
    posts(&caller, &token, 8, 20.0, 50.0).await;
    let silent = [("space", space.as_str()), ("kind", "silent"), ("hours", "300")];
    let id = Uuid::now_v7().to_string();
    let mut fields = vec![("id", id.as_str())];
    fields.extend(silent);
    assert_eq!(caller.post(&format!("{job}/log/alerts"), &fields).await.status, StatusCode::SEE_OTHER);
    assert_eq!(caller.post(&format!("{job}/log/alerts"), &fields).await.status, StatusCode::SEE_OTHER, "sent twice");
    assert_eq!(site.count("alert_rule where hours = 300").await, 1);
    until(&site, &format!("select count(*) from {raised} and cleared_at is not null"), 1).await;
    browser.go(&site, &format!("{job}/log/alerts")).await;
    browser.shows("Over").await;
    browser.click(&format!("a[href*='rule={id}']")).await;
    assert_eq!(browser.value("#hours").await, "300", "a rule is changed from what it is");
    browser.fill("#hours", "301").await;
    browser.press("Keep the change").await;
    browser.shows("Watch a space").await;
    assert_eq!(
        (site.count("alert_rule where hours = 300").await, site.count("alert_rule where hours = 301").await),
        (0, 1)
    );
    browser.go(&site, "/docket").await;
    assert!(!browser.text("main").await.contains("Kitchen wing stands"));
    assert_eq!((site.count(raised).await, site.count(&format!("{raised} and cleared_at is null")).await), (1, 0));
    let letters = site.letters.lock().unwrap().clone();
    let to_owner: Vec<&String> = letters.iter().filter(|l| l.contains("To: owner@ostley-fell.example")).collect();
    assert_eq!(to_owner.len(), 2, "{letters:?}");
    assert!(to_owner[0].contains("\nKitchen wing stands at 82 %.") && to_owner[1].contains("\nOver"), "{letters:?}");
    // Another practice sees nothing of it, and changes nothing.
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(stranger.get(&format!("{job}/log/alerts")).await.status, StatusCode::NOT_FOUND);
    assert_eq!(stranger.post(&format!("{job}/log/alerts"), &fields).await.status, StatusCode::NOT_FOUND);
    let gone = [("id", Uuid::now_v7().to_string())];
    let gone: Vec<(&str, &str)> = gone.iter().map(|(k, v)| (*k, v.as_str())).collect();
    assert_eq!(stranger.post(&format!("{job}/log/alerts/{id}/remove"), &gone).await.status, StatusCode::NOT_FOUND);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn when_to_open_up_is_told_of_the_log_and_of_the_weather_to_come() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("School").await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/log")).await;
    browser.shows("Airing").await;
    browser.press("Airing").await;
    // The forecast is asked for by itself, and comes.
    browser.shows("Forecast of").await;
    browser.shows("next 5 days").await;
    assert_eq!(site.count("forecast").await, 1);
    let calendar = caller.get(&format!("{job}/log/airing.ics")).await;
    let parsed: icalendar::Calendar = calendar.body.parse().unwrap();
    let windows = "select jsonb_array_length(hours) from forecast";
    assert_eq!(site.number(windows).await, 120);
    assert!(!parsed.components.is_empty(), "{}", calendar.body);
    browser.fill("#changes", "0").await;
    browser.press("Show").await;
    browser.shows("must be 0.1 to 60").await;
    for odd in ["changes=NaN", "changes=1e99", "space=nothing", "span=forever", "changes=%00", "space="] {
        let answer = caller.get(&format!("{job}/log/airing?{odd}")).await;
        assert!(!answer.status.is_server_error(), "{odd}: {}", answer.status);
    }
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    for path in ["airing", "airing.ics"] {
        assert_eq!(stranger.get(&format!("{job}/log/{path}")).await.status, StatusCode::NOT_FOUND);
    }
    assert_eq!(stranger.post(&format!("{job}/log/airing/forecast"), &[]).await.status, StatusCode::NOT_FOUND);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn the_air_of_a_log_or_of_a_visit_stands_on_its_chart() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/log/air?span=all")).await;
    browser.shows("in the crawl space").await;
    let all = browser.text("main p.text-xl").await;
    // Its mean day can be run through.
    browser.press("Play its mean day").await;
    browser.shows("Stop").await;
    let dot = browser.find("svg.log .runner").await;
    assert_eq!(dot.attr("r").await.unwrap().as_deref(), Some("8"));
    // Fewer hours at night than in all, and another mean.
    browser.fill("#from_h", "22").await;
    browser.fill("#until_h", "5").await;
    browser.press("Show").await;
    browser.shows("hours in the crawl space").await;
    let night = browser.text("main p.text-xl").await;
    let hours = |text: &str| {
        let words = text.strip_prefix("The mean of ").unwrap().split(' ').next().unwrap();
        words.replace(',', "").parse::<f64>().unwrap()
    };
    assert!((hours(&night) / hours(&all) - 8.0 / 24.0).abs() < 0.02, "{night} of {all}");
    // Where nothing was logged, what the visit read stands there.
    site.run("update log_series set removed_at = now()").await;
    browser.go(&site, &format!("{job}/log/air")).await;
    browser.shows("The reading in the crawl space: 21.5 °C").await;
    for odd in ["month=99", "month=x", "from_h=-1", "from_h=25&until_h=%00", "space=x", "span="] {
        assert!(!caller.get(&format!("{job}/log/air?{odd}")).await.status.is_server_error(), "{odd}");
    }
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(stranger.get(&format!("{job}/log/air")).await.status, StatusCode::NOT_FOUND);
    browser.quit().await;
}

#[tokio::test(flavor = "multi_thread")]
async fn a_log_is_drawn_in_other_figures_compared_and_saved() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let id = async |name: &str| site.text(&format!("select id::text from space where name = '{name}'")).await;
    let (crawl, basement) = (id("Crawl space").await, id("Half basement").await);
    let drawn = async |more: &str| {
        let answer = caller.get(&format!("{job}/log/drawing.svg?space={crawl}&span=2w{more}")).await;
        assert_eq!(answer.status, StatusCode::OK, "{more}");
        assert!(answer.headers["content-type"].to_str().unwrap().starts_with("image/svg+xml"));
        answer.body
    };
    let lines = |svg: &str| svg.matches("<path class=\"line ").count();
    let dew = drawn("").await;
    assert!(dew.contains("xmlns=\"http://www.w3.org/2000/svg\"") && dew.contains("dew point of the air"), "{dew}");
    for (axis, says) in [
        ("rh", "humidity of the air"),
        ("ratio", "humidity ratio of the air"),
        ("excess", "as outdoors"),
        ("mold", "Rim joist, north"),
    ] {
        let svg = drawn(&format!("&axis={axis}")).await;
        assert!(svg.contains(says), "{axis}: {svg}");
    }
    assert_eq!(lines(&drawn(&format!("&with={basement}")).await), lines(&dew) + 1);
    assert_eq!(lines(&drawn("&before=yes").await), lines(&dew) + 1, "two weeks before it was logged as well");
    assert_eq!(lines(&drawn("&axis=none&with=nobody").await), lines(&dew), "what is not known changes nothing");
    // A brush keeps what is compared.
    let page = caller.get(&format!("{job}/log?space={crawl}&axis=ratio&with={basement}&before=yes")).await.body;
    assert!(page.contains("data-axis=\"ratio\"") && page.contains("&#38;before=yes"), "{page}");
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, &format!("{job}/log?span=2w")).await;
    browser.press("PNG").await;
    browser.press("moisture excess").await;
    browser.shows("as outdoors").await;
    browser.quit().await;
}

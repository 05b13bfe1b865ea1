//! The log: files of loggers brought in, looked through, undone; and what the hours say.

use crate::harness::client::{Answer, Caller, hidden};
use crate::harness::{Browser, Site};
use gutteral::cluster::{Cluster, Durability, Home};
use gutteral::demo::ENTRY;
use reqwest::StatusCode;
use reqwest::multipart::{Form, Part};
use std::fmt::Write;
use uuid::Uuid;

/// Ten days as a logger writes them in the half of the world that puts the day first: by half hours, the crawl space at 20.0 °C
/// and 90 %, whose dew point is 18.3 °C, and a surface at 18.0 °C from 20:00 to 05:59 and at 19.0 °C else.
fn ten_days() -> String {
    let mut file = String::from(
        "Logger 7\n\nDate;Time;Crawl temperature (°C);Crawl rel. humidity (%);Rim joist north surface (°C)\n",
    );
    for i in 0..10 * 48 {
        let (day, hour, minute) = (5 + i / 48, i % 48 / 2, 30 * (i % 2));
        let surface = if (6..20).contains(&hour) { "19,0" } else { "18,0" };
        writeln!(file, "{day:02}/03/2026;{hour:02}:{minute:02};20,0;90,0;{surface}").unwrap();
    }
    file + "Average;;20,0;90,0;18,5\n"
}

async fn send(caller: &Caller, job: &str, id: &str, name: &str, file: Vec<u8>, more: &[(&str, &str)]) -> Answer {
    let mut form = Form::new().text("csrf", caller.token.clone()).text("id", id.to_owned());
    for (name, value) in more {
        form = form.text((*name).to_owned(), (*value).to_owned());
    }
    let form = form.part("file", Part::bytes(file).file_name(name.to_owned()));
    caller.send(caller.http.post(caller.url(&format!("{job}/log/files"))).multipart(form)).await
}

#[tokio::test(flavor = "multi_thread")]
async fn an_unknown_loggers_file_says_in_a_sentence_when_a_surface_was_wet() {
    let site = Site::start().await;
    let browser = Browser::signed_in(&site).await;
    browser.go(&site, "/jobs/new").await;
    for (css, text) in [("#name", "Ferry house"), ("#design", "-8")] {
        browser.fill(css, text).await;
    }
    browser.click("input[value=crawl_vented]").await;
    browser.click("input[value=mixed]").await;
    browser.press("Open the job").await;
    browser.press("Log").await;
    browser.shows("Nothing was logged here yet").await;
    browser.press("Bring in a file").await;
    let path = std::env::temp_dir().join(format!("gutteral-{}-crawl.csv", std::process::id()));
    std::fs::write(&path, ten_days()).unwrap();
    browser.find("input[type=file]").await.send_keys(path.to_str().unwrap()).await.unwrap();
    browser.press("Look at it").await;
    // What was understood, and why.
    browser.shows("480 rows").await;
    browser.shows("a decimal comma").await;
    browser.shows("day before month line 388 says 13").await;
    browser.shows("Average").await;
    let crawl = browser.find("#place-0 option:checked").await.text().await.unwrap();
    assert_eq!(crawl.trim(), "Crawl space");
    let rim = browser.find("#place-2 option:checked").await.text().await.unwrap();
    assert!(rim.contains("Rim joist"), "{rim}");
    let before = site.count("log_point").await;
    browser.press("Bring in 480 rows").await;
    browser.shows("960 readings").await;
    assert_eq!(site.count("log_point").await, before + 960);
    browser.press("See the log").await;
    // Ten hours of each of ten days; the band of the instruments leaves it open how many.
    browser.shows("stood under the dew point for 100 of 240 hours").await;
    browser.shows("mostly from evening to morning").await;
    // It is an argument of its own, without any visit or test typed in: 100 of 240 hours are 140 of two weeks.
    browser.press("Why").await;
    browser.shows("140 h in two weeks").await;
    browser.press("Log").await;
    // A moment is marked with two clicks.
    let chart = browser.find("svg.log[data-from]").await;
    chart.scroll_into_view().await.unwrap();
    browser.driver.action_chain().move_to_element_with_offset(&chart, -100, 40).click().perform().await.unwrap();
    browser.press("vents closed").await;
    browser.find("svg.log .flag").await;
    assert!(browser.text("svg.log .flag").await.contains("vents closed"));
    let when = "select from_at between '2026-03-08' and '2026-03-10' from log_mark where what = 'vents closed' and job_id = \
        (select id from job where name = 'Ferry house')";
    assert_eq!(site.text(when).await, "t");
    // A brush looks closer.
    let chart = browser.find("svg.log[data-from]").await;
    let drag = browser.driver.action_chain().move_to_element_with_offset(&chart, -300, 60).click_and_hold();
    drag.move_by_offset(150, 0).release().perform().await.unwrap();
    browser.find("a[rel=next]").await;
    let shown = browser.find("svg.log[data-from]").await;
    let ms = async |name: &str| shown.attr(name).await.unwrap().unwrap().parse::<i64>().unwrap();
    let hours = (ms("data-until").await - ms("data-from").await) / 3_600_000;
    assert!((36..=42).contains(&hours), "150 of 946 px of ten days: {hours}");
    browser.driver.back().await.unwrap();
    browser.shows("of 240 hours").await;
    browser.press("Undo").await;
    browser.shows("What was marked").await;
    // Undone as one act, and done again by undoing that.
    browser.press("Undo").await;
    browser.shows("Nothing was logged here yet").await;
    assert_eq!(site.count("log_point").await, before);
    assert_eq!(
        site.number("select count(*) from log_hour h join log_series s on s.id = h.series_id where s.points = 0").await,
        0
    );
    browser.quit().await;
    std::fs::remove_file(path).unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_no_log_is_named_and_nothing_of_it_is_stored() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let stored =
        async || [site.count("log_file").await, site.count("log_file_piece").await, site.count("log_point").await];
    let before = stored().await;
    let photo = stand_ins::sketch("rim", 1).unwrap();
    for (name, file, said) in [
        ("empty.csv", Vec::new(), "the file is empty"),
        ("readings.csv", photo, "not a table of readings"),
        ("blank.txt", b"\n\n  \n".to_vec(), "the file is empty"),
        ("program", b"\x7fELF\x02\x01".to_vec(), "this is a program"),
    ] {
        let answer = send(&caller, &job, &Uuid::now_v7().to_string(), name, file, &[]).await;
        assert_eq!(answer.status, StatusCode::UNPROCESSABLE_ENTITY, "{name}");
        assert!(answer.body.contains(said) && answer.body.contains(name), "{name}: {}", answer.body);
    }
    assert_eq!(stored().await, before);
    // A file of another job is named, and let through if it belongs here as well.
    let id = Uuid::now_v7().to_string();
    let first = send(&caller, &job, &id, "crawl.csv", ten_days().into_bytes(), &[]).await;
    assert_eq!(first.status, StatusCode::SEE_OTHER, "{}", first.body);
    let other = caller.job("School").await;
    let elsewhere = send(&caller, &other, &Uuid::now_v7().to_string(), "crawl.csv", ten_days().into_bytes(), &[]).await;
    assert_eq!(elsewhere.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(elsewhere.body.contains("was sent to “Mill keeper’s cottage”"), "{}", elsewhere.body);
    let through =
        send(&caller, &other, &Uuid::now_v7().to_string(), "crawl.csv", ten_days().into_bytes(), &[("anyway", "yes")])
            .await;
    assert_eq!(through.status, StatusCode::SEE_OTHER);
    // The same again, by another name: what became of the first.
    let again = send(&caller, &job, &Uuid::now_v7().to_string(), "copy.csv", ten_days().into_bytes(), &[]).await;
    assert!(again.location.ends_with(&format!("{id}?again=yes")), "{}", again.location);
    assert_eq!(site.count("log_file").await, before[0] + 2);
    // Of what could not be read nothing was kept: sent again it is looked at again.
    let notes = || b"Date,Note\n2026-01-01,dry\n2026-01-02,wet\n".to_vec();
    let unread = "select count(*) from log_file where found ->> 'unreadable' is not null";
    for n in 1..=2 {
        let sent = send(&caller, &job, &Uuid::now_v7().to_string(), "notes.csv", notes(), &[]).await;
        assert!(!sent.location.ends_with("again=yes"), "{}", sent.location);
        until(&site, unread, n).await;
    }
    // Nobody else's.
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    for path in [first.location.clone(), format!("{job}/log"), format!("{}/not-read.csv", first.location)] {
        assert_eq!(stranger.get(&path).await.status, StatusCode::NOT_FOUND, "{path}");
    }
    let taken = send(&stranger, &job, &Uuid::now_v7().to_string(), "x.csv", ten_days().into_bytes(), &[]).await;
    assert_eq!(taken.status, StatusCode::NOT_FOUND);
}

/// Waits until a number in the database is what it should be.
pub async fn until(site: &Site, query: &str, wanted: i64) {
    let begun = std::time::Instant::now();
    let mut last = -1;
    while last != wanted {
        assert!(begun.elapsed() < std::time::Duration::from_secs(30), "{query}: {last}, not {wanted}");
        last = site.number(query).await;
        tokio::time::sleep(std::time::Duration::from_millis(20)).await;
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_file_undone_leaves_what_another_says_as_well() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let space = site.text("select id::text from space where name = 'Crawl space'").await;
    let logger = site.text("select id::text from instrument where serial = 'HB-03'").await;
    let before = site.count("log_point").await;
    let bring_in = async |name: &str, file: String, done: i64| {
        let sent = send(&caller, &job, &Uuid::now_v7().to_string(), name, file.into_bytes(), &[]).await;
        until(&site, "select count(*) from task where kind = 'look_at_file' and state = 'done'", done).await;
        let act = hidden(&caller.get(&sent.location).await.body, "id");
        // What is corrected on the way in is shown before it goes in, and is not forgotten by the next correction.
        let id = sent.location.rsplit('/').next().unwrap();
        for (field, value) in [("reads-4", "t_c"), ("clock", "UTC")] {
            let corrected = [("act", "keep"), ("logger", &*logger), (field, value), ("place-0", &*space)];
            let answer = caller.post(&sent.location, &corrected).await;
            assert!(answer.location.ends_with("?corrected=yes"), "{field}: {} {}", answer.status, answer.location);
            until(&site, "select count(*) from task where kind = 'look_at_file' and state = 'done'", done).await;
        }
        let page = caller.get(&format!("{}?corrected=yes", sent.location)).await.body;
        assert!(page.contains("It was read again as you corrected it"));
        assert_eq!(site.count(&format!("bring_in where id = '{id}'")).await, 0);
        let kept =
            format!("log_file where id = '{id}' and wishes->>'clock' = 'UTC' and wishes->>'columns' like '%t_c%'");
        assert_eq!(site.count(&kept).await, 1);
        let keep = [("id", &*act), ("act", "keep"), ("logger", &logger), ("place-0", &space), ("place-1", &space)];
        assert_eq!(caller.post(&sent.location, &keep).await.status, StatusCode::SEE_OTHER);
        until(&site, "select count(*) from task where kind = 'bring_in' and state = 'done'", done).await;
        act
    };
    // The second holds the last five days of the first, and one more reading.
    let whole = ten_days();
    let (head, rows) = whole.split_at(whole.find("05/03/2026").unwrap());
    let later = rows.find("10/03/2026").unwrap();
    let first = bring_in("all.csv", whole.clone(), 1).await;
    bring_in("later.csv", format!("{head}{}15/03/2026;00:00;20,0;90,0;18,0\n", &rows[later..]), 2).await;
    assert_eq!(site.count("log_point").await, before + 481);
    let undo = [("id", &*Uuid::now_v7().to_string()), ("change", &*first)];
    assert_eq!(caller.post(&format!("{job}/undo"), &undo).await.status, StatusCode::SEE_OTHER);
    until(&site, "select count(*) from log_point", before + 241).await;
    let told = "select (became->>'new')::bigint from log_file where name = 'later.csv'";
    until(&site, told, 241).await;
    let hours = "select sum(points) from log_hour where at between '2026-03-04' and '2026-03-16' and series_id in \
        (select series_id from log_point where bring_in_id = (select id from log_file where name = 'later.csv'))";
    assert_eq!(site.number(hours).await, 241);
}

#[tokio::test(flavor = "multi_thread")]
async fn readings_left_out_by_hand_are_not_counted_and_come_back() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let series = "select s.id::text from log_series s join instrument i on i.id = s.instrument_id \
        where i.serial = 'CR-07' and s.reads = 'air'";
    let series = site.text(series).await;
    let year = &site.text("select to_char(max(last_at), 'YYYY') from log_series").await;
    let (from, until_at) = (format!("{year}-07-05T03:20"), format!("{year}-07-06T10:40"));
    // Whole hours within, by the practice's clock: 04:00 to 10:00, and part of the first and the last.
    let points = format!("select sum(points) from log_hour where series_id = '{series}'");
    let before = site.number(&points).await;
    let id = Uuid::now_v7().to_string();
    let mark = [("id", id.as_str()), ("kind", "left_out"), ("from", &from), ("until", &until_at), ("series", &series)];
    let kept = caller.post(&format!("{job}/log/marks"), &mark).await;
    assert_eq!(kept.status, StatusCode::SEE_OTHER, "{}", kept.body);
    // A reading each half hour from 03:30 to 10:30 of the next day.
    until(&site, &points, before - 63).await;
    assert_eq!(
        site.number(&format!("select count(*) from log_point where series_id = '{series}'")).await,
        before,
        "nothing is deleted"
    );
    let gone = caller.post(&format!("{job}/log/marks/{id}/remove"), &[("id", &Uuid::now_v7().to_string())]).await;
    assert_eq!(gone.status, StatusCode::SEE_OTHER, "{}", gone.body);
    until(&site, &points, before).await;
    // A year no log can have is no span.
    for (from, until) in
        [("2026-01-01T00:00", "%2B262142-12-31T23:59Z"), ("-262143-01-01T00:00Z", "-262142-01-01T00:00Z")]
    {
        let answer = caller.get(&format!("{job}/log?from={from}&until={until}")).await;
        assert_eq!(answer.status, StatusCode::OK, "{from} to {until}");
    }
    // What makes no sense is said, and what was typed is kept.
    for (fields, said) in [
        (
            [("kind", "left_out"), ("from", "2026-07-05T03:20"), ("until", ""), ("what", "")],
            "until when readings are to be left out",
        ),
        ([("kind", "event"), ("from", "soon"), ("until", ""), ("what", "fan <on>")], "Say when"),
        (
            [("kind", "event"), ("from", "2026-07-05T03:20"), ("until", "2026-07-04T03:20"), ("what", "fan <on>")],
            "ends before it begins",
        ),
    ] {
        let mut all = vec![("id", id.as_str())];
        all.extend(fields);
        let refused = caller.post(&format!("{job}/log/marks"), &all).await;
        assert_eq!(refused.status, StatusCode::UNPROCESSABLE_ENTITY);
        assert!(refused.body.contains(said), "{said}");
        assert!(fields[3].1.is_empty() || refused.body.contains("fan &#60;on&#62;"));
    }
}

#[tokio::test(flavor = "multi_thread")]
async fn a_logger_posts_by_a_token_of_its_own_and_an_open_page_of_another_process_hears_of_it() {
    let site = Site::start().await;
    let other = site.through(&site.database).await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let logger = site.text("select id::text from instrument where serial = 'HB-03'").await;
    let bench = format!("/bench/{logger}");
    let made = caller.post(&format!("{bench}/token"), &[("act", "make")]).await.body;
    let token = made.split_once("id=\"token\">").unwrap().1.split('<').next().unwrap().to_owned();
    assert!(!caller.get(&bench).await.body.contains(&token), "shown this once");
    assert_eq!(site.count(&format!("logger where token_hash = '{token}'")).await, 0, "only a hash is kept");
    let post = async |token: &str, kind: &str, body: &str| {
        let request =
            caller.http.post(caller.url("/api/log")).bearer_auth(token).header("content-type", kind.to_owned());
        caller.send(request.body(body.to_owned())).await
    };
    let said = |a: &Answer| serde_json::from_str::<serde_json::Value>(&a.body).unwrap();
    assert_eq!(post("not-a-token-at-all", "application/json", "[]").await.status, StatusCode::UNAUTHORIZED);
    // Nobody has said where its sensor hangs.
    let reading = r#"{"at":"2026-09-01T10:00:00+02:00","channel":"A","t_c":18.5,"rh_pct":71}"#;
    let unplaced = post(&token, "application/json", reading).await;
    assert_eq!(unplaced.status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(said(&unplaced)["unplaced"][0][0], "A", "{}", unplaced.body);
    let live = format!("{job}/log/live");
    assert!(caller.get(&live).await.body.contains("nobody has said where it hangs"));
    let space = site.text("select id::text from space where name = 'Half basement'").await;
    let wrong = [("logger", logger.as_str()), ("channel", "A"), ("kind", "wood"), ("place", &space)];
    let refused = caller.post(&live, &wrong).await;
    assert!(
        refused.status == StatusCode::UNPROCESSABLE_ENTITY && refused.body.contains("wood moisture is not read there")
    );
    let hung =
        caller.post(&live, &[("logger", logger.as_str()), ("channel", "A"), ("kind", "air"), ("place", &space)]).await;
    assert_eq!(hung.status, StatusCode::SEE_OTHER, "{}", hung.body);
    // An open page of another process hears of it.
    let mut ears = caller.at(&other).http.get(format!("{}{job}/log/told", other.base)).send().await.unwrap();
    assert_eq!(ears.status(), StatusCode::OK);
    let points = "select count(*) from log_point p join log_series s on s.id = p.series_id where s.channel = 'A'";
    let first = post(&token, "application/json", reading).await;
    assert_eq!((first.status, said(&first)["stored"].as_u64()), (StatusCode::OK, Some(1)), "{}", first.body);
    let heard = tokio::time::timeout(std::time::Duration::from_secs(20), ears.chunk()).await.unwrap().unwrap().unwrap();
    assert!(String::from_utf8_lossy(&heard).contains("event: log"), "{heard:?}");
    let same_second = reading.replace("10:00:00", "10:00:00.5");
    assert_eq!(said(&post(&token, "application/json", &same_second).await)["stored"].as_u64(), Some(1));
    // The same again, late ones, a batch of another kind, and rows that cannot be: each told by its row.
    let csv = "at,channel,t_c,rh_pct\n2026-09-01T08:30:00Z,A,19.0,70\n2026-08-31T08:30:00Z,A,19.5,69\nyesterday,A,19,70\n\
        2199-01-01T00:00:00Z,A,19,70\n2026-09-01T08:00:00Z,A,99,70\n";
    let batch = post(&token, "text/csv", csv).await;
    let told = said(&batch);
    assert_eq!(
        (batch.status, told["stored"].as_u64(), told["known"].as_u64(), told["differ"].as_u64()),
        (StatusCode::OK, Some(2), Some(1), Some(1)),
        "{told}"
    );
    let lines: Vec<_> = told["refused"].as_array().unwrap().iter().map(|r| r["line"].as_u64().unwrap()).collect();
    assert_eq!(lines, [4, 5], "{told}");
    assert_eq!(site.number(points).await, 4);
    let (one, two) = tokio::join!(post(&token, "text/csv", csv), post(&token, "text/csv", csv));
    assert!(one.status.is_success() && two.status.is_success(), "{} {}", one.body, two.body);
    assert_eq!(site.number(points).await, 4, "sent twice at once it is there once");
    for (body, status) in [("", 422), ("{", 422), ("[]", 422), ("\u{0}\u{1}\u{2}", 422), ("at,t_c\n", 422)] {
        let answer = post(&token, "application/json", body).await;
        assert_eq!(answer.status.as_u16(), status, "{body:?}: {}", answer.body);
    }
    let odd = r#"[{"at":"2026-09-01T10:00:00Z","channel":"B\u0000\u0001<","t_c":18,"no\u0000te":"\u0000"}]"#;
    let odd = post(&token, "application/json", odd).await;
    assert_eq!(odd.status, StatusCode::UNPROCESSABLE_ENTITY, "{}", odd.body);
    let huge = "x".repeat((1 << 20) + 1);
    assert_eq!(post(&token, "text/csv", &huge).await.status, StatusCode::PAYLOAD_TOO_LARGE);
    // The log shows it, and a token taken away is good for nothing.
    assert!(
        caller
            .get(&format!("{job}/log?space={space}&from=2026-08-31T00:00Z&until=2026-09-02T00:00Z"))
            .await
            .body
            .contains("Half basement")
    );
    caller.post(&format!("{bench}/token"), &[("act", "revoke")]).await;
    assert_eq!(post(&token, "application/json", reading).await.status, StatusCode::UNAUTHORIZED);
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(stranger.post(&format!("{bench}/token"), &[("act", "make")]).await.status, StatusCode::NOT_FOUND);
    assert_eq!(stranger.get(&format!("{job}/log/told")).await.status, StatusCode::NOT_FOUND);
}

#[tokio::test(flavor = "multi_thread")]
async fn the_database_killed_in_the_middle_of_a_file_leaves_nothing_half_done() {
    let home = std::env::temp_dir().join(format!("gutteral-log-{}", std::process::id()));
    let mut cluster = Cluster::start(Home::claim(&home).unwrap(), Durability::Durable).unwrap();
    cluster.database("kept").unwrap();
    let site = Site::over(cluster.owner_url("kept")).await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let rows = 120_000;
    let begin: chrono::DateTime<chrono::Utc> = "2025-01-01T00:00:00Z".parse().unwrap();
    let mut file = String::from("time,Crawl temperature (°C),Crawl RH (%)\n");
    for i in 0..rows {
        let at = begin + chrono::TimeDelta::minutes(i);
        writeln!(file, "{},{:.1},{}", at.format("%Y-%m-%dT%H:%M:%SZ"), 10 + i % 13, 40 + i % 50).unwrap();
    }
    let id = Uuid::now_v7().to_string();
    let sent = send(&caller, &job, &id, "crawl.csv", file.into_bytes(), &[]).await;
    until(&site, "select count(*) from task where kind = 'look_at_file' and state = 'done'", 1).await;
    let space = site.text("select id::text from space where name = 'Crawl space'").await;
    let keep = [
        ("id", &*Uuid::now_v7().to_string()),
        ("act", "keep"),
        ("logger", ""),
        ("logger_name", "Big one"),
        ("place-0", &*space),
        ("place-1", &*space),
    ];
    let basement = site.text("select id::text from space where name = 'Half basement'").await;
    let token = crate::hours::hung(&site, &caller, &job, &basement).await;
    assert_eq!(caller.post(&sent.location, &keep).await.status, StatusCode::SEE_OTHER);
    until(&site, "select least(1, max(done)) from task where kind = 'bring_in'", 1).await;
    // A logger goes on posting meanwhile: what was not answered for it sends again, as any logger does.
    let (http, url) = (caller.http.clone(), caller.url("/api/log"));
    let posts = tokio::spawn(async move {
        for minute in 0..60 {
            let at = begin + chrono::TimeDelta::minutes(minute);
            let row = serde_json::json!([{"at": at, "channel": "now", "t_c": 18.0, "rh_pct": 60.0}]);
            loop {
                let sent = http.post(&url).bearer_auth(&token).json(&row).send().await;
                match sent.map(|a| a.status()) {
                    Ok(status) if status.is_success() => break,
                    Ok(status) => assert_eq!(status, StatusCode::SERVICE_UNAVAILABLE),
                    Err(_) => {}
                }
                tokio::time::sleep(std::time::Duration::from_millis(100)).await;
            }
        }
    });
    let pid = std::fs::read_to_string(home.join("postgres/postmaster.pid")).unwrap();
    let pid = pid.lines().next().unwrap().to_owned();
    assert!(std::process::Command::new("kill").args(["-9", &pid]).status().unwrap().success());
    while cluster.start_again(Durability::Durable).is_err() {
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let points = format!("select count(*) from log_point where bring_in_id = '{id}'");
    let ended = "select count(*) from task where kind = 'bring_in' and state = 'done'";
    if site.number(ended).await == 0 {
        assert_eq!(site.number(&points).await, 0, "nothing half-done");
        // The minute for which whoever held it is believed to work.
        site.run("update task set held_until = now() where state = 'running'").await;
        until(&site, ended, 1).await;
    }
    assert_eq!(site.number(&points).await, rows);
    posts.await.unwrap();
    let posted = "log_point p join log_series s on s.id = p.series_id where s.channel = 'now'";
    assert_eq!(site.count(posted).await, 60, "each there once");
    let hours = "select sum(h.points) from log_hour h join log_series s on s.id = h.series_id where s.channel = 'now'";
    assert_eq!(site.number(hours).await, 60);
    let rolled = format!(
        "select sum(h.points) from log_hour h where h.series_id in (select distinct series_id from log_point where bring_in_id = '{id}')"
    );
    assert_eq!(site.number(&rolled).await, rows, "the hours know of all of them");
    assert_eq!(site.number(&format!("select (became->>'new')::bigint from log_file where id = '{id}'")).await, rows);
    drop(site);
    cluster.discard().unwrap();
}

#[tokio::test(flavor = "multi_thread")]
async fn what_is_exported_brings_the_same_rows_in_again() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Warden").await;
    let rows = "select count(*) || ' ' || md5(string_agg(concat_ws(' ', coalesce(s.surface_id, s.space_id), s.reads, \
        extract(epoch from p.at), p.t_c, p.rh_pct, p.value), E'\\n' order by s.surface_id, s.space_id, s.reads, p.at)) \
        from log_point p join log_series s on s.id = p.series_id join job j on j.id = s.job_id where j.name like 'Warden%'";
    let before = site.text(rows).await;
    let file = caller.get(&format!("{job}/log/readings.csv")).await;
    assert_eq!(file.status, StatusCode::OK);
    assert!(file.body.starts_with("at,channel,t_c,"), "{}", &file.body[..200]);
    // Taken out, it comes in again with the same figures at the same moments and places.
    site.run("delete from log_point; delete from log_hour; delete from log_day; update log_series set points = 0")
        .await;
    let sent = send(&caller, &job, &Uuid::now_v7().to_string(), "readings.csv", file.body.into_bytes(), &[]).await;
    assert_eq!(sent.status, StatusCode::SEE_OTHER, "{}", sent.body);
    let done = |kind: &str| format!("select count(*) from task where kind = '{kind}' and state = 'done'");
    until(&site, &done("look_at_file"), 1).await;
    let page = caller.get(&sent.location).await.body;
    let chosen = |i: usize| {
        let (_, rest) = page.split_once(&format!("name=\"place-{i}\""))?;
        let own = rest.split_once("</select>")?.0.split("<option value=\"").find(|o| o.contains("selected"))?;
        Some((format!("place-{i}"), own.split('"').next()?.to_owned()))
    };
    let places: Vec<(String, String)> = (0..40).map_while(chosen).collect();
    assert!(places.iter().all(|(_, place)| !place.is_empty()), "each has its place by its name: {places:?}");
    let id = hidden(&page, "id");
    let mut fields = vec![("act", "keep"), ("logger", ""), ("logger_name", "all of them"), ("id", &id)];
    fields.extend(places.iter().map(|(k, v)| (k.as_str(), v.as_str())));
    assert_eq!(caller.post(&sent.location, &fields).await.status, StatusCode::SEE_OTHER);
    until(&site, &done("bring_in"), 1).await;
    assert_eq!(site.text(rows).await, before);
    let stranger = Caller::signed_in(&site, "odd@low-harbor.example").await;
    assert_eq!(stranger.get(&format!("{job}/log/readings.csv")).await.status, StatusCode::NOT_FOUND);
}

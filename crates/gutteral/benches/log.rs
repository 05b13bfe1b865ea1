//! Files brought into a log and the log drawn, over PostgreSQL: `gutteral with-database cargo bench -p gutteral --bench log`. A million
//! rows beside a bare binary COPY of the same rows in the same run; a year of one-minute readings of four channels drawn.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::print_stdout, missing_docs, reason = "a benchmark")]

#[path = "../tests/site/harness/mod.rs"]
mod harness;

use chrono::{DateTime, TimeDelta, Utc};
use harness::Site;
use harness::client::{Caller, hidden};
use std::fmt::Write;
use std::process::Command;
use std::time::{Duration, Instant};
use store::TaskState;
use uuid::Uuid;

/// The program's own.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// Passes; the middle of their ratios counts, since the machine is shared.
const PASSES: usize = 5;

fn file(rows: i64, columns: &str, row: impl Fn(i64, &mut String)) -> String {
    let begin: DateTime<Utc> = "2024-01-01T00:00:00Z".parse().unwrap();
    let mut out = format!("time,{columns}\n");
    for i in 0..rows {
        let at = begin + TimeDelta::minutes(i);
        write!(out, "{}", at.format("%Y-%m-%dT%H:%M:%SZ")).unwrap();
        row(i, &mut out);
        out.push('\n');
    }
    out
}

fn wave(i: i64, period: f64) -> f64 {
    (i as f64 / period).sin()
}

/// Sends a file, waits until it was looked at, brings it in, and says how long that took.
async fn bring_in(site: &Site, caller: &Caller, job: &str, name: &str, text: String) -> Duration {
    let id = Uuid::now_v7().to_string();
    let part = reqwest::multipart::Part::bytes(text.into_bytes()).file_name(name.to_owned());
    let form = reqwest::multipart::Form::new().text("csrf", caller.token.clone()).text("id", id.clone());
    let sent =
        caller.send(caller.http.post(caller.url(&format!("{job}/log/files"))).multipart(form.part("file", part))).await;
    assert!(sent.status.is_redirection(), "{}", sent.body);
    let looked = Instant::now();
    let page = settled(site, caller, &sent.location).await;
    println!("  looked at in {:.2?}", looked.elapsed());
    let mut fields = vec![
        ("act".to_owned(), "keep".to_owned()),
        ("logger".into(), String::new()),
        ("logger_name".into(), name.into()),
    ];
    fields.push(("id".into(), hidden(&page, "id")));
    for i in 0..8 {
        if let Some((_, rest)) = page.split_once(&format!("name=\"place-{i}\"")) {
            let chosen =
                rest.split_once("</select>").unwrap().0.split("<option value=\"").find(|o| o.contains("selected"));
            fields.push((format!("place-{i}"), chosen.map_or("", |o| o.split('"').next().unwrap()).to_owned()));
        }
    }
    let pairs: Vec<(&str, &str)> = fields.iter().map(|(k, v)| (k.as_str(), v.as_str())).collect();
    let begun = Instant::now();
    let kept = caller.post(&sent.location, &pairs).await;
    assert!(kept.status.is_redirection(), "{pairs:?}: {}", kept.body);
    let page = settled(site, caller, &sent.location).await;
    let took = begun.elapsed();
    assert!(page.contains(" readings"), "{page}");
    took
}

/// The page of a file, when what was asked for it is done. To ask costs next to nothing: it shares the machine with what is measured.
async fn settled(site: &Site, caller: &Caller, page: &str) -> String {
    let mut parts = page.rsplit('/');
    let (file, job): (Uuid, Uuid) = (parts.next().unwrap().parse().unwrap(), parts.nth(2).unwrap().parse().unwrap());
    let practice = site.text(&format!("select practice_id from job where id = '{job}'")).await.parse().unwrap();
    let open = |t: &store::Task| t.subject_id == file && matches!(t.state, TaskState::Waiting | TaskState::Running);
    while site.store.practice(practice).await.unwrap().tasks(job).await.unwrap().iter().any(open) {
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
    caller.get(page).await.body
}

fn psql(url: &str, command: &str) -> Duration {
    let begun = Instant::now();
    let done = Command::new("psql").args(["-X", "-q", "-v", "ON_ERROR_STOP=1", url, "-c", command]).status().unwrap();
    assert!(done.success(), "{command}");
    begun.elapsed()
}

/// A million rows brought in, each pass beside a bare binary COPY of the same rows.
async fn million(site: &Site, caller: &Caller) {
    let job = caller.job("Traveling").await;
    let admin = site.database.replace("//gutteral_app:", "//cluster:");
    let bin = std::env::temp_dir().join(format!("gutteral-bench-{}.bin", std::process::id()));
    let mut ratios = Vec::new();
    for pass in 0..PASSES {
        // Not the same bytes twice: that file would be known.
        let text = file(1_000_000, "Cabin temperature (°C),Cabin RH (%)", |i, out| {
            write!(out, ",{:.2},{:.1}", 18.0 + pass as f64 + 4.0 * wave(i, 240.0), 60.0 + 20.0 * wave(i, 3000.0))
                .unwrap();
        });
        let brought = bring_in(site, caller, &job, &format!("million-{pass}.csv"), text).await;
        let rows = "select * from log_point where bring_in_id is not null";
        psql(&admin, &format!("\\copy ({rows}) to '{}' (format binary)", bin.display()));
        psql(&admin, "drop table if exists bare; create table bare (like log_point including all)");
        let bare = psql(&admin, &format!("\\copy bare from '{}' (format binary)", bin.display()));
        let ratio = bare.as_secs_f64() / brought.as_secs_f64();
        println!("a million rows: brought in {brought:.2?}, bare binary COPY {bare:.2?}, ratio {ratio:.2}");
        ratios.push(ratio);
        site.run(
            "delete from log_point where bring_in_id is not null; delete from log_hour where at < '2026-01-01'; \
            drop table bare",
        )
        .await;
    }
    std::fs::remove_file(bin).unwrap();
    ratios.sort_by(f64::total_cmp);
    println!("the middle of {PASSES} ratios: {:.2}", ratios[PASSES / 2]);
}

/// A year of one-minute readings of four channels drawn, then the same with thirty million points stored beside it.
async fn year(site: &Site, caller: &Caller) {
    let other = caller.job("Warden").await;
    let year = file(
        525_600,
        "Cabin room temperature (°C),Cabin room RH (%),Window surface temperature (°C),Outside temperature (°C)",
        |i, out| {
            let (day, season) = (wave(i, 229.0), wave(i, 83_000.0));
            write!(
                out,
                ",{:.2},{:.1},{:.2},{:.2}",
                19.0 + day,
                55.0 + 15.0 * season,
                9.0 + 4.0 * day,
                5.0 + 9.0 * season + 5.0 * day
            )
            .unwrap();
        },
    );
    let took = bring_in(site, caller, &other, "year.csv", year).await;
    println!("a year of one-minute readings of four channels brought in within {took:.2?}");
    let path = format!("{other}/log?from=2024-01-01T00:00Z&until=2024-12-31T00:00Z");
    drawn(caller, &path, "a year").await;
    site.run(
        "select log_months(array(select generate_series('2020-01-01', '2023-12-01', interval '1 month')::date));
         insert into log_point (practice_id, series_id, at, t_c, rh_pct)
           select p.practice_id, s.id, timestamptz '2020-01-01 00:00+00' + n * interval '1 minute', 20, 60
           from (select practice_id from log_series limit 1) p, (select gen_random_uuid() as id from generate_series(1, 15)) s,
             generate_series(0, 1999999) n;
         analyze log_point",
    )
    .await;
    println!("{} million points are stored", site.number("select count(*) / 1000000 from log_point").await);
    drawn(caller, &path, "the same year beside them").await;
}

async fn drawn(caller: &Caller, path: &str, what: &str) {
    let (mut least, mut bytes) = (Duration::MAX, 0);
    for _ in 0..20 {
        let begun = Instant::now();
        let answer = caller.get(path).await;
        least = least.min(begun.elapsed());
        bytes = answer.body.len();
        assert!(answer.status.is_success());
    }
    println!("{what} drawn in {least:.2?}, {} kB", bytes / 1000);
}

/// Loggers that post once a second, and readers of a log beside them.
const LOGGERS: usize = 200;
const READERS: usize = 50;
const POSTING: Duration = Duration::from_secs(30);

/// A logger with a sensor in a space of a job: its token.
async fn hung(scope: &store::Scope, job: Uuid, space: Uuid, n: usize) -> String {
    let instrument = store::Instrument {
        id: Uuid::now_v7(),
        name: format!("Logger {n}"),
        serial: String::new(),
        air_err_k: 0.3,
        rh_err_pct: 2.0,
        surface_err_k: 0.5,
        wood_err_pct: 0.0,
        rh_offset_pct: 0.0,
        rh_slope: 1.0,
        kind: building::InstrumentKind::Logger,
        settle_s: 0,
        checked_on: None,
    };
    let series = store::LogSeries::at((job, instrument.id), "bench", building::SensorKind::Air, (Some(space), None));
    let (id, token) = (instrument.id, format!("{}{}", Uuid::new_v4().simple(), Uuid::new_v4().simple()));
    scope.add_instrument(instrument).await.unwrap();
    let series = scope.series_at(series).await.unwrap();
    let sensor = casework::log::LiveSensor {
        channel: "bench".into(),
        kind: "air".into(),
        job,
        id: Some(space),
        on_surface: false,
        series,
    };
    scope.set_token(id, Some(&token)).await.unwrap();
    scope.place_sensors(id, &serde_json::json!([sensor]), &serde_json::json!([])).await.unwrap();
    token
}

/// Times of a page asked for by many, sorted.
async fn read(caller: &Caller, site: &Site, path: &str, span: Duration) -> Vec<Duration> {
    let mut readers = Vec::new();
    for _ in 0..READERS {
        // One session for all: whoever signs in fifty times in a row is slowed down.
        let (caller, path) = (caller.at(site), path.to_owned());
        readers.push(tokio::spawn(async move {
            let (end, mut times) = (Instant::now() + span, Vec::new());
            while Instant::now() < end {
                let begun = Instant::now();
                // A page that cannot be had counts as long as it took to say so.
                caller.get(&path).await;
                times.push(begun.elapsed());
                // Somebody looks at what they asked for.
                tokio::time::sleep(Duration::from_millis(1500)).await;
            }
            times
        }));
    }
    let mut all = Vec::new();
    for reader in readers {
        all.extend(reader.await.unwrap());
    }
    all.sort_unstable();
    all
}

fn at(times: &[Duration], share: f64) -> Duration {
    times[((times.len() - 1) as f64 * share) as usize]
}

/// The program as a process of its own over the site's database, so that its memory is its own.
async fn posting(site: &Site) {
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let addr = listener.local_addr().unwrap();
    drop(listener);
    let mut program = Command::new(env!("CARGO_BIN_EXE_gutteral"))
        .arg("serve")
        .env("GUTTERAL_ADDR", addr.to_string())
        .env("GUTTERAL_DATABASE_URL", &site.database)
        .env("GUTTERAL_SECRET", "a secret for a benchmark and nothing else")
        .env("RUST_LOG", "warn")
        .stdout(std::process::Stdio::null())
        .spawn()
        .unwrap();
    let served = site.at(&format!("http://{addr}"));
    while reqwest::get(format!("{}/health", served.base)).await.is_err() {
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    let caller = Caller::signed_in(&served, gutteral::demo::ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let id: Uuid = job.rsplit('/').next().unwrap().parse().unwrap();
    let practice: Uuid = site.text(&format!("select practice_id from job where id = '{id}'")).await.parse().unwrap();
    let space: Uuid = site
        .text(&format!("select id from space where job_id = '{id}' order by position limit 1"))
        .await
        .parse()
        .unwrap();
    let scope = served.store.practice(practice).await.unwrap();
    let mut tokens = Vec::new();
    for n in 0..LOGGERS {
        tokens.push(hung(&scope, id, space, n).await);
    }
    scope.commit().await.unwrap();
    let path = format!("{job}/log?span=2w");
    let idle = read(&caller, &served, &path, Duration::from_secs(10)).await;
    let http = gutteral::outside::client(Duration::from_mins(1)).unwrap();
    let posts: Vec<_> = tokens
        .into_iter()
        .map(|token| {
            let (http, url) = (http.clone(), format!("{}/api/log", served.base));
            tokio::spawn(async move {
                let (end, mut sent, mut late, mut turned_away) = (Instant::now() + POSTING, 0_u64, 0_u64, 0_u64);
                let mut due = tokio::time::interval(Duration::from_secs(1));
                while Instant::now() < end {
                    due.tick().await;
                    let row = serde_json::json!([{"at": Utc::now(), "channel": "bench", "t_c": 20.0, "rh_pct": 60.0}]);
                    let begun = Instant::now();
                    // What is turned away is sent again, as a logger does.
                    while !http.post(&url).bearer_auth(&token).json(&row).send().await.unwrap().status().is_success() {
                        turned_away += 1;
                    }
                    sent += 1;
                    late += u64::from(begun.elapsed() > Duration::from_secs(1));
                }
                (sent, late, turned_away)
            })
        })
        .collect();
    let busy = read(&caller, &served, &path, POSTING).await;
    let (mut sent, mut late, mut turned_away) = (0, 0, 0);
    for post in posts {
        let (s, l, t) = post.await.unwrap();
        (sent, late, turned_away) = (sent + s, late + l, turned_away + t);
    }
    let stored = site
        .number("select count(*) from log_point p join log_series s on s.id = p.series_id where s.channel = 'bench'")
        .await;
    let status = std::fs::read_to_string(format!("/proc/{}/status", program.id())).unwrap();
    let held = |name: &str| status.lines().find(|l| l.starts_with(name)).unwrap_or_default().to_owned();
    println!(
        "{LOGGERS} loggers posted {sent} readings, {stored} are stored, {late} took more than a second, {turned_away} were turned away and sent again"
    );
    println!(
        "the Log for {READERS} readers: idle median {:.1?}, p99 {:.1?}; beside the posts {:.1?}, p99 {:.1?} (ratio {:.2})",
        at(&idle, 0.5),
        at(&idle, 0.99),
        at(&busy, 0.5),
        at(&busy, 0.99),
        at(&busy, 0.99).as_secs_f64() / at(&idle, 0.99).as_secs_f64()
    );
    println!("{}; {}", held("VmHWM"), held("VmRSS"));
    program.kill().unwrap();
    program.wait().unwrap();
}

/// What is asked for by name behind `--`, else all of it.
#[tokio::main]
async fn main() {
    let asked: Vec<String> = std::env::args().skip(1).filter(|a| !a.starts_with("--")).collect();
    let is = |name: &str| asked.is_empty() || asked.iter().any(|a| a == name);
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, gutteral::demo::ENTRY).await;
    if is("posting") {
        posting(&site).await;
    }
    if is("million") {
        million(&site, &caller).await;
    }
    if is("year") {
        year(&site, &caller).await;
    }
}

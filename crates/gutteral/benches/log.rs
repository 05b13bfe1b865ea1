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
use uuid::Uuid;

/// Passes; the best of them counts, since the machine is shared.
const PASSES: usize = 3;

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

async fn settled(site: &Site, caller: &Caller, page: &str) -> String {
    while site
        .number(
            "select count(*) from task where kind in ('look_at_file', 'bring_in') and state in ('waiting', 'running')",
        )
        .await
        > 0
    {
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

#[tokio::main]
async fn main() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, gutteral::demo::ENTRY).await;
    let job = caller.job("Traveling").await;
    let admin = site.database.replace("//gutteral_app:", "//cluster:");
    let mut best = Duration::MAX;
    for pass in 0..PASSES {
        // Not the same bytes twice: that file would be known.
        let text = file(1_000_000, "Cabin temperature (°C),Cabin RH (%)", |i, out| {
            write!(out, ",{:.2},{:.1}", 18.0 + pass as f64 + 4.0 * wave(i, 240.0), 60.0 + 20.0 * wave(i, 3000.0))
                .unwrap();
        });
        let name = format!("million-{pass}.csv");
        best = best.min(bring_in(&site, &caller, &job, &name, text).await);
        if pass + 1 < PASSES {
            site.run(
                "delete from log_point where bring_in_id is not null; delete from log_hour where at < '2026-01-01'",
            )
            .await;
        }
    }
    let bin = std::env::temp_dir().join(format!("gutteral-bench-{}.bin", std::process::id()));
    psql(
        &admin,
        &format!(
            "\\copy (select * from log_point where bring_in_id is not null) to '{}' (format binary)",
            bin.display()
        ),
    );
    let mut bare = Duration::MAX;
    for _ in 0..PASSES {
        psql(&admin, "drop table if exists bare; create table bare (like log_point including all)");
        bare = bare.min(psql(&admin, &format!("\\copy bare from '{}' (format binary)", bin.display())));
    }
    std::fs::remove_file(bin).unwrap();
    let ratio = bare.as_secs_f64() / best.as_secs_f64();
    println!("a million rows: brought in {best:.2?}, bare binary COPY {bare:.2?}, ratio {ratio:.2}");

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
    let took = bring_in(&site, &caller, &other, "year.csv", year).await;
    println!("a year of one-minute readings of four channels brought in within {took:.2?}");
    let path = format!("{other}/log?from=2024-01-01T00:00Z&until=2024-12-31T00:00Z");
    let (mut least, mut bytes) = (Duration::MAX, 0);
    for _ in 0..20 {
        let begun = Instant::now();
        let answer = caller.get(&path).await;
        least = least.min(begun.elapsed());
        bytes = answer.body.len();
        assert!(answer.status.is_success());
    }
    println!("drawn in {least:.2?}, {} kB", bytes / 1000);
}

//! A report printed, and a job with a million points of log taken out and brought in: `gutteral with-database cargo bench -p gutteral
//! --bench exchange`. Pages asked for while the report is printed beside the same ones in quiet; the memory each takes at most.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::print_stdout, missing_docs, reason = "a benchmark")]

#[path = "../tests/site/harness/mod.rs"]
mod harness;

use gutteral::demo::ENTRY;
use gutteral::exchange::{export, import};
use harness::Site;
use harness::client::Caller;
use std::fs::File;
use std::time::{Duration, Instant};
use uuid::Uuid;

/// The program's own.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

const PASSES: usize = 5;

/// A million minutes of a series of the cottage's log.
const FILL: &str = "
    select log_months(array_agg(m::date)) from generate_series(timestamp '2000-01-01', '2001-12-01', interval '1 month') m;
    insert into log_point (practice_id, series_id, at, t_c, rh_pct)
      select s.practice_id, s.id, timestamptz '2000-01-01 00:00Z' + n * interval '1 minute', 12 + sin(n / 229.0) * 9, 70 + cos(n / 229.0) * 20
      from (select s.* from log_series s join job j on j.practice_id = s.practice_id and j.id = s.job_id
        where j.name like 'Mill%' order by s.id limit 1) s, generate_series(1, 1000000) n;
    analyze";

/// Largest share of memory held since the last time this was asked, MiB (Linux).
fn peak() -> f64 {
    let status = std::fs::read_to_string("/proc/self/status").unwrap();
    let line = status.lines().find(|l| l.starts_with("VmHWM:")).unwrap();
    let kib: f64 = line.split_whitespace().nth(1).unwrap().parse().unwrap();
    std::fs::write("/proc/self/clear_refs", "5").unwrap();
    kib / 1024.0
}

fn middle(mut all: Vec<Duration>) -> Duration {
    all.sort_unstable();
    all[all.len() / 2]
}

fn fields<'a>(id: &'a str, more: &[(&'a str, &'a str)]) -> Vec<(&'a str, &'a str)> {
    [&[("id", id)], more].concat()
}

/// From asking for a version to its PDF, and what the Docket took meanwhile.
async fn printed(caller: &Caller, report: &str) -> (Duration, Vec<Duration>) {
    let id = Uuid::now_v7().to_string();
    let begun = Instant::now();
    let made = caller.post(&format!("{report}/versions"), &fields(&id, &[("signs_as", "lead"), ("sign", "yes")])).await;
    let mut pages = Vec::new();
    loop {
        let answer = caller.http.get(caller.url(&format!("{}/report.pdf", made.location))).send().await.unwrap();
        if answer.status() == reqwest::StatusCode::OK {
            return (begun.elapsed(), pages);
        }
        let asked = Instant::now();
        assert!(caller.get("/docket").await.status.is_success());
        pages.push(asked.elapsed());
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

#[tokio::main]
async fn main() {
    let site = Site::start().await;
    let caller = Caller::signed_in(&site, ENTRY).await;
    let job = caller.job("Mill keeper").await;
    let mut quiet = Vec::new();
    for _ in 0..100 {
        let asked = Instant::now();
        caller.get("/docket").await;
        quiet.push(asked.elapsed());
    }
    let id = Uuid::now_v7().to_string();
    let report = caller
        .post(&format!("{job}/reports"), &fields(&id, &[("act", "begin"), ("reader", "engineer")]))
        .await
        .location;
    let (mut prints, mut beside) = (Vec::new(), Vec::new());
    for _ in 0..PASSES {
        let (took, pages) = printed(&caller, &report).await;
        prints.push(took);
        beside.extend(pages);
    }
    println!("engineer's report of the cottage as PDF: {:.2?} from asking (middle of {PASSES})", middle(prints));
    println!("the Docket meanwhile {:.1?}, in quiet {:.1?} (middle)", middle(beside), middle(quiet));

    site.run(FILL).await;
    println!("held before: {:.0} MiB", peak());
    let file = tempfile::NamedTempFile::new().unwrap();
    let (mut out, mut into) = (Vec::new(), Vec::new());
    for _ in 0..3 {
        let begun = Instant::now();
        export(&site.store, ENTRY, "Mill keeper’s cottage", File::create(file.path()).unwrap()).await.unwrap();
        out.push(begun.elapsed());
    }
    println!(
        "a million points taken out: {:.2?}, {:.0} MB, at most {:.0} MiB held",
        middle(out),
        file.as_file().metadata().unwrap().len() as f64 / 1e6,
        peak()
    );
    for _ in 0..3 {
        let begun = Instant::now();
        import(&site.store, "odd@low-harbor.example", file.path().to_str().unwrap(), true).await.unwrap();
        into.push(begun.elapsed());
    }
    println!("and brought in: {:.2?}, at most {:.0} MiB held", middle(into), peak());
}

//! Server time of the Round page with 500 readings on the visit, beside the same page with none, and of a job's Section,
//! Why and Plan:
//! `gutteral with-database cargo bench -p gutteral --bench round`.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "a benchmark")]

#[path = "../tests/site/harness/mod.rs"]
mod harness;

use criterion::{Criterion, criterion_group, criterion_main};
use harness::Site;
use harness::client::{Caller, hidden};
use uuid::Uuid;

/// Address of the round of a job with an open visit and so many readings on it.
async fn job(caller: &Caller, name: &str, readings: usize) -> String {
    let id = Uuid::now_v7().to_string();
    let form =
        [("id", id.as_str()), ("name", name), ("structure", "crawl_vented"), ("climate", "cold"), ("design", "-15")];
    caller.post("/jobs/new", &form).await;
    let job = format!("/jobs/{id}");
    caller.post(&format!("{job}/visits"), &[("id", &Uuid::now_v7().to_string())]).await;
    let page = caller.get(&format!("{job}/round")).await.body;
    let station = hidden(&page, "station");
    let instrument = page.split("<select name=\"instrument\"><option value=\"").nth(1).unwrap()[..36].to_owned();
    for i in 0..readings {
        let (id, t) = (Uuid::now_v7().to_string(), format!("{:.1}", 5.0 + (i % 50) as f64 / 10.0));
        let fields = [
            ("id", id.as_str()),
            ("station", &station),
            ("t", &t),
            ("m", "70"),
            ("kind", "rh"),
            ("instrument", &instrument),
        ];
        caller.post(&format!("{job}/round"), &fields).await;
    }
    format!("{job}/round?at={station}")
}

fn round(c: &mut Criterion) {
    let runtime = tokio::runtime::Runtime::new().unwrap();
    let (caller, empty, full, cottage) = runtime.block_on(async {
        let site = Site::start().await;
        let caller = Caller::signed_in(&site, gutteral::demo::ENTRY).await;
        let (empty, full) = (job(&caller, "Empty", 0).await, job(&caller, "Full", 500).await);
        let cottage = caller.job("Mill keeper").await;
        (caller, empty, full, cottage)
    });
    let mut group = c.benchmark_group("round page");
    for (name, path) in [("no reading", &empty), ("500 readings", &full)] {
        group.bench_function(name, |b| {
            b.iter(|| runtime.block_on(async { assert!(caller.get(path).await.status.is_success()) }));
        });
    }
    group.finish();
    let mut group = c.benchmark_group("a demo job");
    for view in ["", "/why", "/plan"] {
        let path = format!("{cottage}{view}");
        group.bench_function(if view.is_empty() { "/section" } else { view }, |b| {
            b.iter(|| runtime.block_on(async { assert!(caller.get(&path).await.status.is_success()) }));
        });
    }
    group.finish();
}

criterion_group!(benches, round);
criterion_main!(benches);

//! Server time of the Round page with 500 readings on the visit, beside the same page with none, and of a job's Section,
//! Why and Plan; of an unfolded space with a walk of 300 places beside one with none; of a thermal picture of 640 × 480 cells; and of a
//! drying job of 200 points beside the demo's, kept and just changed:
//! `gutteral with-database cargo bench -p gutteral --bench round`.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "a benchmark")]

#[path = "../tests/site/harness/mod.rs"]
mod harness;

use criterion::{Criterion, criterion_group, criterion_main};
use harness::Site;
use harness::client::{Caller, first_choice, hidden};
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
    let instrument = first_choice(&page, "instrument");
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

/// Address of an unfolded space with a walk of so many places.
async fn walk(caller: &Caller, name: &str, places: usize) -> String {
    let id = Uuid::now_v7().to_string();
    let form =
        [("id", id.as_str()), ("name", name), ("structure", "house_wall"), ("climate", "cold"), ("design", "-15")];
    caller.post("/jobs/new", &form).await;
    let job = format!("/jobs/{id}");
    let page = caller.get(&format!("{job}/unfolded")).await.body;
    let space = hidden(&page, "space");
    let measured = [
        ("id", Uuid::now_v7().to_string()),
        ("space", space.clone()),
        ("act", "dimensions".into()),
        ("roof", "flat".into()),
        ("length", "9".into()),
        ("width", "6".into()),
        ("height", "2.4".into()),
    ];
    let measured: Vec<(&str, &str)> = measured.iter().map(|(k, v)| (*k, v.as_str())).collect();
    caller.post(&format!("{job}/unfolded/layout"), &measured).await;
    if places > 0 {
        let page = caller.get(&format!("{job}/unfolded/walk?space={space}")).await.body;
        let instrument = page.split("name=\"instrument\"").nth(1).unwrap().split("value=\"").nth(1).unwrap();
        let instrument = instrument[..36].to_owned();
        let figures: Vec<String> =
            (0..places).map(|i| if i % 40 < 9 { "420".into() } else { (140 + i % 17).to_string() }).collect();
        let figures = figures.join(" ");
        let (walk, at) = (Uuid::now_v7().to_string(), format!("{job}/unfolded/walk"));
        let fields = [
            ("id", walk.as_str()),
            ("space", &space),
            ("route", "floor"),
            ("every", "0.1"),
            ("instrument", &instrument),
            ("scale", "pinless"),
            ("material", "wood"),
            ("standard", "148"),
            ("figures", &figures),
        ];
        let kept = caller.post(&at, &fields).await;
        assert!(kept.status.is_redirection(), "{}", kept.body);
    }
    format!("{job}/unfolded?space={space}")
}

/// Address of a thermal picture of 640 × 480 cells with cold patches.
async fn picture(caller: &Caller, job: &str) -> String {
    let cell =
        |x: f64, y: f64| 17.0 + 2.0 * (x / 31.0).sin() * (y / 47.0).cos() + 3.0 * (x / 9.0).sin() * (y / 8.0).cos();
    let row =
        |y: i32| (0..640).map(|x| format!("{:.2}", cell(f64::from(x), f64::from(y)))).collect::<Vec<_>>().join(",");
    let file = (0..480).map(row).collect::<Vec<_>>().join("\n");
    let id = Uuid::now_v7().to_string();
    let fields = [("csrf", caller.token.as_str()), ("id", &id), ("name", "Bench"), ("width", "3")];
    let fields = [
        fields.as_slice(),
        &[("air_t", "21"), ("air_rh", "52"), ("outdoor", "-3"), ("emissivity", "0.93"), ("reflected", "20")],
    ]
    .concat();
    let mut form = reqwest::multipart::Form::new();
    for (name, value) in fields {
        form = form.text(name.to_owned(), value.to_owned());
    }
    let form = form.part("file", reqwest::multipart::Part::bytes(file.into_bytes()).file_name("bench.csv"));
    let kept = caller.send(caller.http.post(caller.url(&format!("{job}/thermal"))).multipart(form)).await;
    assert!(kept.status.is_redirection(), "{}", kept.body);
    kept.location
}

/// The archive's points with all their readings, over and over, to 200.
const TWO_HUNDRED: &str = "create temp table twin as select gen_random_uuid() as new, p.* from drying p, generate_series(1, 40) n \
      where p.said->>'is' = 'point' order by n limit 200 - (select count(*) from drying where said->>'is' = 'point'); \
    insert into drying select practice_id, new, job_id, jsonb_set(said, '{id}', to_jsonb(new::text)), removed_at from twin; \
    insert into drying_reading select r.practice_id, gen_random_uuid(), r.job_id, r.round_id, t.new, r.what, r.a, r.b, r.over, \
      r.as_typed, r.reason, r.instrument_id, r.consultant_id, r.taken_at from twin t join drying_reading r on r.of_id = t.id";

fn drying(c: &mut Criterion, runtime: &tokio::runtime::Runtime, site: &Site, caller: &Caller) {
    let path = runtime.block_on(async { format!("{}/drying", caller.job("School").await) });
    let mut group = c.benchmark_group("drying page");
    let ask = || runtime.block_on(async { assert!(caller.get(&path).await.status.is_success()) });
    group.bench_function("the demo's points", |b| b.iter(ask));
    runtime.block_on(site.run(TWO_HUNDRED));
    let touch = "update revision set made = made + 1";
    let points = runtime.block_on(site.number("select count(*) from drying where said->>'is' = 'point'"));
    assert_eq!(points, 200);
    group.bench_function("200 points", |b| b.iter(ask));
    group.bench_function("200 points, just changed", |b| {
        b.iter_custom(|times| {
            let one = || {
                runtime.block_on(site.run(touch));
                let began = std::time::Instant::now();
                ask();
                began.elapsed()
            };
            (0..times).map(|_| one()).sum()
        });
    });
    group.finish();
}

fn round(c: &mut Criterion) {
    let runtime = tokio::runtime::Runtime::new().unwrap();
    let (site, caller, empty, full, cottage, walks, picture) = runtime.block_on(async {
        let site = Site::start().await;
        let caller = Caller::signed_in(&site, gutteral::demo::ENTRY).await;
        let (empty, full) = (job(&caller, "Empty", 0).await, job(&caller, "Full", 500).await);
        let cottage = caller.job("Mill keeper").await;
        let walks = [walk(&caller, "Bare", 0).await, walk(&caller, "Walked", 300).await];
        let picture = picture(&caller, &cottage).await;
        (site, caller, empty, full, cottage, walks, picture)
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
    let mut group = c.benchmark_group("unfolded");
    for (name, path) in ["no walk", "300 places"].into_iter().zip(&walks) {
        group.bench_function(name, |b| {
            b.iter(|| runtime.block_on(async { assert!(caller.get(path).await.status.is_success()) }));
        });
    }
    group.finish();
    drying(c, &runtime, &site, &caller);
    c.bench_function("page of a thermal picture of 640 × 480", |b| {
        b.iter(|| runtime.block_on(async { assert!(caller.get(&picture).await.status.is_success()) }));
    });
}

criterion_group!(benches, round);
criterion_main!(benches);

//! Server time of the Docket with 5 000 jobs, three visits and a follow-up on each, whole, searched, narrowed and far down;
//! beside the demo's few in the same run: `gutteral with-database cargo bench -p gutteral --bench docket`.
#![allow(clippy::unwrap_used, clippy::expect_used, missing_docs, reason = "a benchmark")]

#[path = "../tests/site/harness/mod.rs"]
mod harness;

use criterion::{Criterion, criterion_group, criterion_main};
use gutteral::demo::ENTRY;
use harness::Site;
use harness::client::Caller;

const FILL: &str = "
    insert into job (practice_id, id, name, address, structure, climate, design_outdoor_c, created_by, created_at)
      select c.practice_id, gen_random_uuid(), 'Filler ' || n, 'Row ' || n % 7, 'slab', 'cold', -5, c.id, now() - n * interval '1 minute'
      from consultant c, generate_series(1, 5000) n where c.email like 'wren%';
    insert into visit (practice_id, id, job_id, consultant_id, started_at, ended_at, for_review)
      select practice_id, gen_random_uuid(), id, created_by, created_at - v * interval '1 day', now(), false
      from job, generate_series(1, 3) v where name like 'Filler %';
    insert into follow_up select practice_id, gen_random_uuid(), id, 'look', 'Look again.', '', current_date,
      current_date + (random() * 90)::int, 'open', '', created_by, now(), null from job where name like 'Filler %';
    analyze";

fn docket(c: &mut Criterion) {
    let runtime = tokio::runtime::Runtime::new().unwrap();
    let (site, caller, person) = runtime.block_on(async {
        let site = Site::start().await;
        let person = site.text("select id from consultant where email like 'wren%'").await;
        let caller = Caller::signed_in(&site, ENTRY).await;
        caller.get("/docket").await;
        (site, caller, person)
    });
    let ask = |c: &mut Criterion, name: &str, path: &str| {
        let ask = || runtime.block_on(async { assert!(caller.get(path).await.status.is_success()) });
        c.bench_function(name, |b| b.iter(ask));
    };
    ask(c, "docket/few", "/docket");
    runtime.block_on(async {
        site.run(FILL).await;
        while site.number("select count(*) from standing").await < 5005 {
            caller.get("/docket").await;
            tokio::time::sleep(std::time::Duration::from_millis(50)).await;
        }
        site.run("analyze").await;
    });
    ask(c, "docket/5000", "/docket");
    ask(c, "docket/5000 searched", "/docket?words=filler+17");
    ask(
        c,
        "docket/5000 narrowed",
        &format!("/docket?worst=not_judged&due=soon&structure=slab&person={person}&order=due"),
    );
    ask(c, "docket/5000 last page", "/docket?page=100&order=worst");
}

criterion_group! {
    name = benches;
    config = Criterion::default().sample_size(40);
    targets = docket
}
criterion_main!(benches);

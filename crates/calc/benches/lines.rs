//! How fast requests are answered, end to end without the pipes. Figures: docs/benchmarks.md.
#![allow(clippy::unwrap_used, missing_docs, reason = "benchmarks")]

use calc::run_lines;
use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use std::io::{BufReader, sink};

fn lines(c: &mut Criterion) {
    const COUNT: usize = 100_000;
    let text: String = (0..COUNT)
        .map(|i| {
            let (t, rh) = (-10.0 + (i % 450) as f64 / 10.0, 20 + i % 80);
            format!("{{\"op\":\"air\",\"id\":{i},\"t_c\":{t},\"rh_pct\":{rh}}}\n")
        })
        .collect();
    let mut group = c.benchmark_group("lines");
    group.sample_size(20).throughput(Throughput::Elements(COUNT as u64));
    group.bench_function("air", |b| {
        b.iter(|| run_lines(BufReader::with_capacity(1 << 16, text.as_bytes()), sink()).unwrap());
    });
    group.finish();
}

criterion_group!(benches, lines);
criterion_main!(benches);

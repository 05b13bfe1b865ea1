//! Answers a second with fifty people asking at once, page by page, beside the health check in the same run:
//! `gutteral with-database cargo bench -p gutteral --bench pages`. With addresses of running demos behind `--` those are
//! asked instead, turn by turn, so that two builds can be compared.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::print_stdout, missing_docs, reason = "a benchmark")]

#[path = "../tests/site/harness/mod.rs"]
mod harness;

use harness::Site;
use harness::client::Caller;
use std::time::{Duration, Instant};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;

/// People at once.
const PEOPLE: usize = 50;
/// How long each page is asked for, a pass.
const SPAN: Duration = Duration::from_secs(3);
/// Passes; the best of them counts, since the machine is shared.
const PASSES: usize = 3;

/// Somebody signed in at a running demo, as the bare request they send.
struct Target {
    name: String,
    address: String,
    cookies: String,
    job: String,
}

impl Target {
    async fn of(base: &str) -> Self {
        let caller = Caller::to(base).await;
        let entered = caller.post("/sign-in/demo", &[]).await;
        assert!(entered.status.is_redirection(), "the demo let nobody in: {}", entered.body);
        let set = entered.headers.get_all("set-cookie").iter();
        let cookies: Vec<&str> = set.filter_map(|c| c.to_str().ok()?.split(';').next()).collect();
        let job = caller.job("Mill keeper").await;
        caller.post(&format!("{job}/visits"), &[("id", &uuid::Uuid::now_v7().to_string())]).await;
        let address = base.trim_start_matches("http://").to_owned();
        Self { name: address.clone(), address, cookies: cookies.join("; "), job }
    }

    /// Answers a second to a path.
    async fn asked(&self, path: &str) -> f64 {
        let request = format!("GET {path} HTTP/1.1\r\nhost: {}\r\ncookie: {}\r\n\r\n", self.address, self.cookies);
        let end = Instant::now() + SPAN;
        let one = || {
            let (request, address) = (request.clone(), self.address.clone());
            tokio::spawn(async move {
                let mut stream = TcpStream::connect(&address).await.unwrap();
                let (mut count, mut kept) = (0_u32, Vec::new());
                while Instant::now() < end {
                    stream.write_all(request.as_bytes()).await.unwrap();
                    answer(&mut stream, &mut kept).await;
                    count += 1;
                }
                count
            })
        };
        let people: Vec<_> = (0..PEOPLE).map(|_| one()).collect();
        let began = Instant::now();
        let mut count = 0;
        for person in people {
            count += person.await.unwrap();
        }
        f64::from(count) / began.elapsed().as_secs_f64()
    }
}

/// Reads one whole answer and checks that it is a page.
async fn answer(stream: &mut TcpStream, kept: &mut Vec<u8>) {
    kept.clear();
    let mut piece = [0_u8; 16_384];
    let (mut head, mut whole) = (None, usize::MAX);
    while kept.len() < whole {
        let n = stream.read(&mut piece).await.unwrap();
        assert!(n > 0, "the connection was closed");
        kept.extend_from_slice(&piece[..n]);
        if head.is_none()
            && let Some(at) = kept.windows(4).position(|w| w == b"\r\n\r\n")
        {
            let text = String::from_utf8_lossy(&kept[..at]).to_lowercase();
            assert!(text.starts_with("http/1.1 200"), "{text}");
            let length = text.split("content-length: ").nth(1).and_then(|t| t.split("\r\n").next()?.parse().ok());
            (head, whole) = (Some(at), at + 4 + length.unwrap_or(0_usize));
        }
    }
}

#[tokio::main]
async fn main() {
    let given: Vec<String> = std::env::args().filter(|a| a.starts_with("http://")).collect();
    let mut targets = Vec::new();
    if given.is_empty() {
        let site = Site::start().await;
        targets.push(Target::of(&site.base).await);
        targets[0].name = "this build".into();
    }
    for base in &given {
        targets.push(Target::of(base).await);
    }
    let views = ["health", "Section", "Round", "Why", "Plan"];
    let mut best = vec![vec![0.0_f64; views.len()]; targets.len()];
    for _ in 0..PASSES {
        for (v, view) in views.iter().enumerate() {
            for (t, target) in targets.iter().enumerate() {
                let path = match *view {
                    "health" => "/healthz".to_owned(),
                    "Section" => target.job.clone(),
                    other => format!("{}/{}", target.job, other.to_lowercase()),
                };
                best[t][v] = best[t][v].max(target.asked(&path).await);
            }
        }
    }
    println!("answers a second, {PEOPLE} at once, the best of {PASSES} passes of {} s", SPAN.as_secs());
    for (t, target) in targets.iter().enumerate() {
        println!("{}", target.name);
        for (v, view) in views.iter().enumerate() {
            let (rate, first) = (best[t][v], best[0][v]);
            println!(
                "  {view:<8} {rate:>8.0}   1/{:<6.1} of health   {:.2} × the first",
                best[t][0] / rate,
                rate / first
            );
        }
    }
}

//! Bodies as they arrive: bounded in bytes and in time.

use crate::error::Failure;
use axum::body::{Body, Bytes};
use http_body_util::BodyExt;
use std::time::Duration;
use tokio::time::{Instant, timeout, timeout_at};

/// Longest pause between two pieces of a body.
const LONGEST_PAUSE: Duration = Duration::from_secs(30);
/// Slowest that a body may arrive on the whole, bytes a second: a poor telephone line.
const SLOWEST: u64 = 4 * 1024;

/// Waits for the next piece of a body; gives up where it stalls, or takes longer than the slowest line would for all of it.
pub struct Patience {
    until: Instant,
}

impl Patience {
    /// For a body of at most so many bytes.
    pub fn for_bytes(most: usize) -> Self {
        let longest = Duration::from_secs(60 + most as u64 / SLOWEST);
        Self { until: Instant::now() + longest }
    }

    pub async fn wait<T>(&self, piece: impl Future<Output = T>) -> Result<T, Failure> {
        let paused = timeout(LONGEST_PAUSE, piece);
        timeout_at(self.until, paused).await.ok().and_then(Result::ok).ok_or(Failure::TooSlow)
    }
}

/// A body of at most so many bytes. A larger one is read to its end and forgotten: a browser that is still sending when it
/// is answered shows a broken connection in the answer's place.
pub async fn whole(mut body: Body, limit: usize) -> Result<Bytes, Failure> {
    let patience = Patience::for_bytes(limit);
    let mut kept = Vec::new();
    let mut total = 0;
    while let Some(frame) = patience.wait(body.frame()).await? {
        let Ok(data) = frame.map_err(|_| Failure::TooLarge)?.into_data() else { continue };
        total += data.len();
        match total {
            _ if total <= limit => kept.extend_from_slice(&data),
            _ if total <= 4 * limit => kept = Vec::new(),
            _ => return Err(Failure::TooLarge),
        }
    }
    if total <= limit { Ok(kept.into()) } else { Err(Failure::TooLarge) }
}

/// Whether a path is one that the router can have made: no control characters, however they are written.
pub fn is_path(path: &str) -> bool {
    let hex = |i: usize| path.get(i + 1..i + 3).and_then(|h| u8::from_str_radix(h, 16).ok());
    path.bytes().enumerate().all(|(i, b)| !b.is_ascii_control() && (b != b'%' || hex(i).is_some_and(|c| c >= 0x20)))
}

#[cfg(test)]
mod tests {
    use super::{Patience, is_path};
    use crate::error::Failure;
    use std::time::Duration;
    use tokio::time::sleep;

    #[tokio::test(start_paused = true)]
    async fn a_body_that_stalls_or_drips_is_given_up() {
        let patience = Patience::for_bytes(1024 * 1024);
        assert!(matches!(patience.wait(std::future::pending::<()>()).await, Err(Failure::TooSlow)), "it stalls");
        let dripping = Patience::for_bytes(1024 * 1024);
        let mut pieces = 0;
        while dripping.wait(sleep(Duration::from_secs(20))).await.is_ok() {
            pieces += 1;
            assert!(pieces < 100, "a piece now and then is no body");
        }
        assert!(pieces >= 10, "a slow line is waited for: {pieces}");
    }

    #[test]
    fn a_path_holds_no_control_characters_however_written() {
        assert!(["/", "/jobs/0198%20x", "/a%e2%82%ac"].iter().all(|p| is_path(p)));
        assert!(["/%00", "/a%0A", "/%1f", "/%", "/%g0"].iter().all(|p| !is_path(p)));
    }
}

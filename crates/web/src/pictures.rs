//! Reading pictures off the async threads, beside the pages: the largest takes some hundred megabytes.

use crate::error::Failure;
use crate::turns::{Turn, Turns};
use photograph::{Photograph, Refused};

/// Most megabytes of pictures on their way in at once; what comes beyond waits.
const MOST_UNDER_WAY: usize = 96;

/// Turns at receiving and at reading pictures.
#[derive(Clone)]
pub struct Pictures {
    receiving: Turns,
    reading: Turns,
}

impl Pictures {
    pub fn new() -> Self {
        Self { receiving: Turns::of(MOST_UNDER_WAY), reading: Turns::beside_pages() }
    }

    /// Room for a picture of so many bytes.
    pub async fn room(&self, bytes: usize) -> Result<Turn, Failure> {
        let megabytes = (bytes >> 20) + 1;
        self.receiving.some(u32::try_from(megabytes.min(MOST_UNDER_WAY)).unwrap_or(1)).await
    }

    /// Reads a picture, or says why it is not taken.
    pub async fn read(&self, bytes: axum::body::Bytes) -> Result<Result<Photograph, Refused>, Failure> {
        let turn = self.reading.one().await?;
        let read = tokio::task::spawn_blocking(move || {
            let _turn = turn; // held until it is done, also when nobody waits for it any more
            photograph::read(&bytes)
        });
        read.await.map_err(|e| Failure::Defect(format!("reading a picture: {e}")))
    }
}

//! Reading pictures off the async threads, a few at a time: the largest takes some hundred megabytes.

use crate::error::Failure;
use photograph::{Photograph, Refused};
use std::sync::Arc;
use tokio::sync::Semaphore;

/// Turns at reading pictures.
#[derive(Clone)]
pub struct Pictures {
    turns: Arc<Semaphore>,
}

impl Pictures {
    pub fn new() -> Self {
        Self { turns: Arc::new(Semaphore::new(2)) }
    }

    /// Reads a picture, or says why it is not taken.
    pub async fn read(&self, bytes: axum::body::Bytes) -> Result<Result<Photograph, Refused>, Failure> {
        let defect = |e: &dyn std::fmt::Display| Failure::Defect(format!("reading a picture: {e}"));
        let _turn = self.turns.acquire().await.map_err(|e| defect(&e))?;
        tokio::task::spawn_blocking(move || photograph::read(&bytes)).await.map_err(|e| defect(&e))
    }
}

//! Turns at heavy work, so that it stands in line beside the pages instead of in their way.

use crate::error::Failure;
use std::sync::Arc;
use std::time::Duration;
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

/// How long somebody waits for a turn before they are asked to come again.
const PATIENCE: Duration = Duration::from_mins(1);

/// Most that wait for a turn.
const LONGEST_LINE: usize = 64;

/// So many turns at once; whoever comes next waits, in the order of coming.
#[derive(Clone)]
pub struct Turns {
    free: Arc<Semaphore>,
    line: Arc<Semaphore>,
}

/// A turn, given back when dropped.
pub struct Turn {
    _permit: OwnedSemaphorePermit,
}

impl Turns {
    pub fn of(most: usize) -> Self {
        Self { free: Arc::new(Semaphore::new(most)), line: Arc::new(Semaphore::new(LONGEST_LINE)) }
    }

    /// One less than there are cores, at least one: a core is left for the pages.
    pub fn beside_pages() -> Self {
        Self::of(std::thread::available_parallelism().map_or(1, usize::from).saturating_sub(1).max(1))
    }

    /// A place in the line, for those who bring something along while they wait; none where the line is full.
    pub fn place(&self) -> Result<Turn, Failure> {
        self.line.clone().try_acquire_owned().map(|permit| Turn { _permit: permit }).map_err(|_| Failure::Busy)
    }

    /// A turn at once; none where all are taken.
    pub fn now(&self) -> Result<Turn, Failure> {
        self.free.clone().try_acquire_owned().map(|permit| Turn { _permit: permit }).map_err(|_| Failure::Busy)
    }

    /// Waits for one turn.
    pub async fn one(&self) -> Result<Turn, Failure> {
        self.some(1).await
    }

    /// Waits for several turns at once.
    pub async fn some(&self, turns: u32) -> Result<Turn, Failure> {
        match tokio::time::timeout(PATIENCE, self.free.clone().acquire_many_owned(turns)).await {
            Ok(Ok(permit)) => Ok(Turn { _permit: permit }),
            Ok(Err(e)) => Err(Failure::Defect(format!("turns: {e}"))),
            Err(_) => Err(Failure::Busy),
        }
    }
}

//! What lies outside the program: a forecast service, and the mail.

use std::future::Future;
use store::{ForecastHour, Job};

/// Why nothing came from outside.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum OutsideError {
    /// Nobody said where it is.
    #[error("{0}")]
    NotSet(&'static str),
    /// It did not answer, or not with what was asked for.
    #[error("{0}")]
    Failed(String),
}

/// Whoever talks to what lies outside.
pub trait Outside: Clone + Send + Sync + 'static {
    /// The weather to come at a job, hour by hour.
    fn forecast(&self, job: &Job) -> impl Future<Output = Result<Vec<ForecastHour>, OutsideError>> + Send;
}

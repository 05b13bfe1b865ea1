//! What programs ask: the headless interface and the health checks.

pub mod calc;
pub mod health;
pub mod log;
pub mod v1;

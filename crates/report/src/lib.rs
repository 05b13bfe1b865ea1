//! What leaves: reports as they go out, and a job as open data.

pub mod job;
mod sealed;

pub use sealed::{Sealed, at_home, is_sealed, seal};

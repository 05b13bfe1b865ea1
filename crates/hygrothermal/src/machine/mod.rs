//! Dehumidifiers.

mod dehumidifier;

pub use dehumidifier::{BUCKET, Dehumidifier, Rating, Running, relative_capacity, restoration_rule};

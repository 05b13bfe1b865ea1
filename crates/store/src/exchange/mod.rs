//! A whole job out of the database and into another practice: rows of its tables as JSON, a part at a time, so that neither way
//! ever holds more than some of them.

mod inward;
mod outward;
mod tables;

pub use inward::{Arriving, Came, Refusal};
pub use outward::Departing;
pub use tables::{Field, Table, fields};

/// What rows are written as: raised whenever a table of a job changes.
pub const FORMAT_VERSION: u32 = 1;

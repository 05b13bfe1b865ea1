//! What readings mean: buildings, verdicts, questions about odd values, causes, advice and cautions.
//!
//! Pure like the physics below it: no clock, no database, no interface. Tables of the trade live in `data/`.

pub mod advice;
pub mod building;
pub mod call;
pub mod cause;
pub mod cautions;
pub mod climate;
pub mod entry;
pub mod finding;
pub mod infrared;
mod kinds;
pub mod picture;
pub mod plan;
pub mod question;
pub mod reading;

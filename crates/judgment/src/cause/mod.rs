//! What is wetting a building: causes weighed by everything known, as an argument that can be followed and disputed.
//!
//! The table (`data/causes.toml`, `data/evidence.toml`) says how each thing seen, tested or computed moves each cause; the
//! inference enumerates which one, two or three causes act together and weighs every combination by how well it would
//! produce what is known. What is unknown moves nothing.

mod case;
mod course;
mod diagnosis;
mod facts;
mod table;
mod weigh;

pub use case::{Case, NotEvidence};
pub use course::course;
pub use diagnosis::{Conclusion, Diagnosis, NextTest, ONE_MORE, Ranked, Spoke, diagnose, held};
pub use facts::{Fact, PAST_SATURATION, capacity, facts};
pub use table::{
    Cause, Doubt, Evidence, Figure, Outcome, RedFlag, When, cause, causes, doubts, evidence, evidences, red_flags,
};

//! Pages beside the jobs: who is here, what all jobs of a practice share, and the calculator.

pub mod bench;
pub mod calculator;
pub mod calendar;
pub mod causes;
pub mod docket;
pub mod materials;
pub mod preferences;
pub mod prices;
pub mod queue;
pub mod salt;
pub mod sign_in;
pub mod sources;
pub mod weather;

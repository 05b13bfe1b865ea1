//! Pages of a job, in the order of the work: the building, a visit, what is concluded, what is done, the report.

pub mod build_ups;
pub mod building;
pub mod call;
pub mod correct;
pub mod drying;
pub mod export;
pub mod findings;
pub mod follow_ups;
pub mod history;
pub mod job_form;
pub mod log;
pub mod photo_files;
pub mod photos;
pub mod plan;
pub mod proof;
pub mod questions;
pub mod report;
pub mod round;
pub mod section;
pub mod shorthand;
pub mod skips;
pub mod tests;
pub mod thermal;
pub mod unfolded;
pub mod visits;
pub mod why;

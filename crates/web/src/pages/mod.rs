//! One module a page: thin handlers that parse, ask the store and the core, and render.

pub mod api;
pub mod bench;
pub mod building;
pub mod calculator;
pub mod call;
pub mod correct;
pub mod docket;
pub mod export;
pub mod findings;
pub mod health;
pub mod history;
pub mod job_form;
pub mod photo_files;
pub mod photos;
pub mod preferences;
pub mod queue;
pub mod report;
pub mod round;
pub mod salt;
pub mod section;
pub mod shorthand;
pub mod sign_in;
pub mod skips;
pub mod tests;
pub mod visits;
pub mod why;

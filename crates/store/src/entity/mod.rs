//! One entity per table.

pub mod boundary;
pub mod call_sheet;
pub mod change;
pub mod conclusion;
pub mod consultant;
pub mod finding;
pub mod instrument;
pub mod job;
pub mod photo;
pub mod photo_file;
pub mod practice;
pub mod reading;
pub mod salt_check;
pub mod session;
pub mod sign_in_failure;
pub mod skip;
pub mod space;
pub mod station;
pub mod surface;
pub mod test_run;
pub mod visit;

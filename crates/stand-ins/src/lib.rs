//! Invented buildings whose readings follow the physics, with a seed: demo data that agrees with itself.

mod scenario;

pub use scenario::{DemoCall, DemoFinding, DemoJob, DemoReading, DemoTest, DemoVisit, pins, scenario};

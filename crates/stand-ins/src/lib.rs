//! Invented buildings whose readings follow the physics, with a seed: demo data that agrees with itself.

mod budgets;
pub mod camera;
mod coatings;
mod drying;
mod forecast;
mod logs;
mod plans;
mod scenario;
mod sketch;
mod unfolded;

pub use budgets::{DemoBudget, budgets};
pub use coatings::{DemoCoating, coatings};
pub use drying::{DemoDrying, DemoMachine, DemoPoint, DemoRound, dryings};
pub use forecast::{AHEAD, WeatherHour, weather};
pub use logs::{DemoEvent, DemoLog, DemoLogger, DemoSensor, DemoWatch, logs, showing};
pub use plans::{DemoBuilt, DemoFigure, DemoFollowUp, DemoPlan, DemoSchool, DemoStep, plans, prices};
pub use scenario::{
    DemoCall, DemoFinding, DemoJob, DemoPhoto, DemoReading, DemoTest, DemoVisit, DemoWeather, collected, pins, scenario,
};
pub use sketch::sketch;
pub use unfolded::{DemoPlaced, DemoSpace, DemoWalk, unfolded};

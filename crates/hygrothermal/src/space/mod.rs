//! A space and the air, ground, people and things it exchanges moisture with.

mod budget;
mod exchange;
mod ground;
mod sink;
mod sources;
mod timetable;
mod windows;

pub use budget::Budget;
pub use exchange::{Advice, Comparison, compare_air, removal, removal_measured};
pub use ground::{bare_soil_evaporation, covered_soil_evaporation};
pub use sink::Desiccant;
pub use sources::{MoistureSource, drying_lumber, moisture_source, moisture_sources, total_water};
pub use timetable::{BudgetHour, HourEnd, Inlet, RoomAir};
pub use windows::{Airing, Hour, Window, airing};

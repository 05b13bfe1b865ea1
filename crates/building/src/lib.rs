//! What stands there and what was read: buildings as spaces, boundaries, surfaces and stations, their editing, readings as
//! people type them, and the call before a visit.
//!
//! Pure like the physics below it: no clock, no database, no judgment. Tables of the trade live in `data/`.

mod blueprint;
mod buildups;
pub mod call;
mod closed;
pub mod coating;
pub mod construction;
pub mod drying;
mod edit;
pub mod entry;
pub mod infrared;
mod kinds;
mod parts;
pub mod reading;
pub mod report;
mod spot;
pub mod timetable;
pub mod unfold;
mod weather;

pub use blueprint::{Blueprint, BoundaryPlan, SpacePlan, SurfacePlan, blueprint, blueprints};
pub use buildups::{StarterBuildUp, buildup, buildups};
pub use edit::{Edit, EditError, MOST_PER_FACE, MOST_SPACES};
pub use kinds::{
    AlertKind, Climate, Face, InstrumentKind, Level, MarkKind, Material, ReadingKind, SensorKind, Shell, SpaceKind,
    Structure,
};
pub use parts::*;
pub use spot::Spot;
pub use weather::Weather;

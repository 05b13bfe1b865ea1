//! A time table of a small space: who and what puts water into it, what is open, and what takes it out.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Longest time table, hours: two weeks.
pub const MOST_HOURS: u16 = 336;
/// Most blocks of one.
pub const MOST_BLOCKS: usize = 60;

/// Where its outdoor air comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum OutdoorsBy {
    /// As read on the latest visit, all the time.
    Visit,
    /// As logged from a moment on, milliseconds since 1970.
    Log(i64),
    /// As it is forecast.
    Forecast,
    /// A typical day of a month of the climate, 0 for January.
    Month(u8),
    /// A typical day of a month of a weather file.
    Weather(Uuid, u8),
}

/// Something that goes on for a while.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Block {
    /// Id of what it is, or of one of the practice's own.
    pub what: String,
    /// How many, how much, how wide: in the unit of what it is.
    pub amount: f64,
    /// From and until, hours since the beginning.
    pub from: f64,
    /// Until.
    pub until: f64,
}

/// A time table.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TimeTable {
    /// Identity.
    pub id: Uuid,
    /// The space.
    pub space_id: Uuid,
    /// What it is called.
    pub name: String,
    /// The hour of the day it begins at.
    pub begins: u8,
    /// How long, hours.
    pub hours: u16,
    /// Temperature of the space, °C, held.
    pub celsius: f64,
    /// Relative humidity at the beginning, %.
    pub start_rh: f64,
    /// Air of the space, m³.
    pub volume_m3: f64,
    /// Air changes an hour with everything shut.
    pub leak: f64,
    /// Wind, m/s.
    pub wind: f64,
    /// Where its outdoor air comes from.
    pub outdoors: OutdoorsBy,
    /// What goes on.
    pub blocks: Vec<Block>,
}

/// Something of a practice's own that puts water in.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct OwnSource {
    /// Identity.
    pub id: Uuid,
    /// What it is.
    pub name: String,
    /// What is counted.
    pub per: String,
    /// Liters for each counted: an hour, or all at once where it is an event.
    pub liters: f64,
    /// Whether that is all it gives, over its block, and not so much an hour.
    pub at_once: bool,
    /// Where the figure comes from.
    pub source: String,
}

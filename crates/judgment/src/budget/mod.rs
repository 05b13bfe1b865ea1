//! Budget of a small space: who and what puts water in hour by hour, what takes it out, and the smallest change that keeps it dry.

mod change;
mod run;

pub use change::{Remedy, alone, remedy};
pub use run::{Given, Keep, Run, RunHour, SurfaceRun, run};

use building::timetable::{Block, OwnSource};
use hygrothermal::space::moisture_source;
use serde::Deserialize;
use std::sync::LazyLock;

/// What something does.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    /// Liters an hour for each.
    Rate,
    /// Liters for each, over its block.
    Event,
    /// Bare damp soil, m².
    Soil,
    /// An opening, cm.
    Window,
    /// A fan to outdoors, m³/h.
    Fan,
    /// Air changes an hour.
    Air,
    /// A dehumidifier by its label, L/day.
    Dehumidifier,
    /// A cooling coil.
    Cooling,
    /// Silica gel, kg.
    Silica,
    /// Calcium chloride, kg.
    Salt,
}

impl Kind {
    /// Whether it puts water in.
    #[must_use]
    pub const fn is_source(self) -> bool {
        matches!(self, Self::Rate | Self::Event | Self::Soil)
    }

    /// Whether it lets outdoor air in.
    #[must_use]
    pub const fn is_air(self) -> bool {
        matches!(self, Self::Window | Self::Fan | Self::Air)
    }
}

/// Something that can go on.
#[derive(Debug, Clone, PartialEq)]
pub struct Item {
    /// Stable id, or that of the practice's own.
    pub id: String,
    /// What it is.
    pub name: String,
    /// What is counted.
    pub per: String,
    /// What it does.
    pub kind: Kind,
    /// Liters for each counted, an hour or at once: little, usual and much.
    pub liters: [f64; 3],
    /// Length and height of an opening, m.
    pub opening: [f64; 2],
    /// Air flow of a coil, m³/h, and its dew point, °C.
    pub coil: [f64; 2],
    /// What stands in a new block.
    pub usual: f64,
    /// Whether a flame burns in the space.
    pub flame: bool,
    /// Where its figure comes from.
    pub source: String,
}

/// A time table to begin from.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Ready {
    /// Stable id.
    pub id: String,
    /// What it is called.
    pub name: String,
    /// The hour of the day it begins at.
    pub begins: u8,
    /// How long, hours.
    pub hours: u16,
    /// Temperature, °C.
    pub celsius: f64,
    /// Relative humidity at the beginning, %.
    pub start_rh: f64,
    /// Air changes an hour.
    pub leak: f64,
    /// Wind, m/s.
    pub wind: f64,
    /// What goes on.
    pub blocks: Vec<Block>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct RawItem {
    id: String,
    name: String,
    per: String,
    kind: Kind,
    from: Option<String>,
    #[serde(default = "one")]
    times: f64,
    liters: Option<f64>,
    #[serde(default)]
    opening: [f64; 2],
    #[serde(default)]
    coil: [f64; 2],
    usual: f64,
    #[serde(default)]
    flame: bool,
}

fn one() -> f64 {
    1.0
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    item: Vec<RawItem>,
    ready: Vec<Ready>,
}

impl From<RawItem> for Item {
    fn from(raw: RawItem) -> Self {
        let of = raw.from.as_deref().and_then(moisture_source);
        let liters = match of {
            Some(s) => [s.low, s.liters, s.high].map(|l| l * raw.times),
            None => [raw.liters.unwrap_or_default(); 3],
        };
        let source = match (of, raw.kind) {
            (Some(s), _) => s.source.clone(),
            (None, Kind::Window) => "single-sided airing, EN 15242, from memory".to_owned(),
            (None, Kind::Dehumidifier) => "its label by a generic curve, stopped at 50 %".to_owned(),
            (None, Kind::Cooling) => "air over a coil of its dew point (ours)".to_owned(),
            (None, Kind::Silica) => "up to a third of its mass, a twenty-fifth of that an hour (ours)".to_owned(),
            (None, Kind::Salt) => "about its own mass, a twenty-fifth of that an hour (ours)".to_owned(),
            (None, Kind::Soil) => "evaporation from bare damp soil by its own and the air’s vapor pressure".to_owned(),
            (None, Kind::Rate | Kind::Event | Kind::Fan | Kind::Air) => "as typed".to_owned(),
        };
        Self {
            id: raw.id,
            name: raw.name,
            per: raw.per,
            kind: raw.kind,
            liters,
            opening: raw.opening,
            coil: raw.coil,
            usual: raw.usual,
            flame: raw.flame,
            source,
        }
    }
}

struct Table {
    items: Vec<Item>,
    ready: Vec<Ready>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static TABLE: LazyLock<Table> = LazyLock::new(|| {
    let file: File = toml::from_str(include_str!("../../data/budget.toml")).expect("budget.toml is well formed");
    Table { items: file.item.into_iter().map(Item::from).collect(), ready: file.ready }
});

/// Everything that can go on, in the order of the table.
#[must_use]
pub fn items() -> &'static [Item] {
    &TABLE.items
}

/// Time tables to begin from.
#[must_use]
pub fn ready() -> &'static [Ready] {
    &TABLE.ready
}

/// A practice's own source among the rest.
#[must_use]
pub fn own_item(own: &OwnSource) -> Item {
    Item {
        id: own.id.to_string(),
        name: own.name.clone(),
        per: own.per.clone(),
        kind: if own.at_once { Kind::Event } else { Kind::Rate },
        // Nobody says how far an own figure may be off: a quarter (ours).
        liters: [0.75, 1.0, 1.25].map(|f| f * own.liters),
        opening: [0.0; 2],
        coil: [0.0; 2],
        usual: 1.0,
        flame: false,
        source: own.source.clone(),
    }
}

//! A drying job: what got wet and by which water, what is taken out, what is dried in place, and which machines stand where.

use crate::kinds;
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Most points, machines, things taken out, and sheets of a job.
pub const MOST_POINTS: usize = 400;
/// Most machines.
pub const MOST_MACHINES: usize = 80;
/// Most things taken out.
pub const MOST_TAKEN: usize = 400;
/// Most sheets.
pub const MOST_SHEETS: usize = 200;

kinds! {
    /// Which water.
    Water {
        /// From a supply line, or rain that went nowhere else.
        Clean = "clean", "clean: a supply line, or rain straight in";
        /// From a washer, a dishwasher, or clean water that stood for two days.
        Used = "used", "used: a washer or tub, or clean water that stood over two days";
        /// Sewage, ground surface or river water.
        Foul = "foul", "foul: sewage, ground surface or flood water";
    }
    /// How far it went.
    Spread {
        /// Little water in little material.
        Part = "part", "part of a room, and materials that take up little";
        /// Carpets, and walls up to 60 cm.
        Room = "room", "a whole room: carpets, and walls up to about 60 cm (2 ft)";
        /// From above, or through and through.
        Soaked = "soaked", "ceilings, walls and insulation soaked, often from above";
        /// In what gives it off slowly.
        Bound = "bound", "held in dense material: concrete, masonry, hardwood, plaster";
    }
    /// What a meter's figures are at a point.
    DryScale {
        /// Per cent by pins, in wood.
        Percent = "percent", "% by pins";
        /// The meter's own scale.
        Relative = "relative", "the meter’s own scale";
    }
    /// What a machine is.
    MachineKind {
        /// Cools air under its dew point.
        Compressor = "compressor", "dehumidifier, compressor";
        /// Takes vapor up in a wheel: works in the cold.
        Desiccant = "desiccant", "dehumidifier, desiccant";
        /// Moves air along surfaces.
        AirMover = "air_mover", "air mover";
        /// Warms.
        Heater = "heater", "heater";
        /// Filters.
        Scrubber = "scrubber", "air scrubber (HEPA)";
        /// Blows dry air under a taped sheet or into a cavity.
        Tent = "tent", "tent or cavity blower";
    }
    /// How water through soil or concrete is measured.
    SheetKind {
        /// What hangs under a taped sheet, weighed.
        Sheet = "sheet", "plastic sheet, water weighed";
        /// What a dome with a drying agent takes up.
        Dome = "dome", "dome with a drying agent, weighed";
        /// Humidity at two depths of a slab.
        Depths = "depths", "humidity at two depths";
    }
    /// What a round reads.
    DryRead {
        /// A point: a figure of its meter.
        Moisture = "moisture", "moisture";
        /// Air of a space, or outdoors: temperature and humidity.
        Air = "air", "air";
        /// Air a machine or tent gives: temperature and humidity.
        Outlet = "outlet", "outlet air";
        /// Air a tent is fed with.
        Supply = "supply", "supply air";
        /// Liters a machine collected since it was last emptied.
        Liters = "liters", "liters";
        /// Its energy meter, kWh.
        Energy = "energy", "energy meter";
    }
}

/// What got wet. One for each job; its id is the job's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct WetEvent {
    /// When, milliseconds since 1970.
    pub at: i64,
    /// In words.
    pub words: String,
    /// Which water.
    pub water: Water,
    /// How far it went.
    pub spread: Spread,
    /// When its source was stopped, milliseconds since 1970; none while it runs, or nobody knows.
    pub stopped: Option<i64>,
    /// How.
    pub stopped_by: String,
    /// Whether there is growth where people work.
    pub growth: bool,
    /// Spaces that got wet.
    pub spaces: Vec<Uuid>,
    /// A space that did not, to compare with.
    pub unaffected: Option<Uuid>,
}

/// A point that is read until it is dry.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DryPoint {
    /// Identity.
    pub id: Uuid,
    /// The space.
    pub space_id: Uuid,
    /// The cavity, wall or floor closed in together.
    pub cavity: String,
    /// Where in it.
    pub name: String,
    /// Id of its material.
    pub material: String,
    /// What the figures are.
    pub scale: DryScale,
    /// Id of the wood pins are read in; empty on a meter's own scale.
    pub species: String,
    /// What the same material shows where it never got wet.
    pub standard: Option<f64>,
    /// A goal of its own; the usual one where nobody says.
    pub goal: Option<f64>,
    /// What covers it vapor-tight: vinyl, foil, tile, paint; empty where it lies bare.
    pub cover: String,
    /// The tent or blower it lies under.
    pub tent: Option<Uuid>,
    /// Layer from the top of a floor, 1 up; 0 where there is only one.
    pub layer: u8,
    /// Readings before this count no more: something was changed there. Milliseconds since 1970.
    pub since: Option<i64>,
    /// Place in the round.
    pub order: u16,
}

/// A time a machine ran.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Run {
    /// From, milliseconds since 1970.
    pub from: i64,
    /// Until; none while it runs.
    pub until: Option<i64>,
}

/// A machine that stands there.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Machine {
    /// Identity.
    pub id: Uuid,
    /// What it is.
    pub kind: MachineKind,
    /// What it is called.
    pub name: String,
    /// Where it stands.
    pub space_id: Uuid,
    /// Liters a day by its label, of a dehumidifier.
    pub rated: Option<f64>,
    /// Whether that is at 26.7 °C and 60 %, not at 18.3 °C.
    pub rated_warm: bool,
    /// Watts.
    pub watts: Option<f64>,
    /// How it is set.
    pub setting: String,
    /// When it ran, oldest first.
    pub runs: Vec<Run>,
}

impl Machine {
    /// Whether it ran at a moment.
    #[must_use]
    pub fn ran_at(&self, at: i64) -> bool {
        self.runs.iter().any(|r| r.from <= at && r.until.is_none_or(|u| at < u))
    }

    /// Hours it ran up to a moment.
    #[must_use]
    pub fn hours(&self, until: i64) -> f64 {
        let one = |r: &Run| (r.until.unwrap_or(until).min(until) - r.from).max(0) as f64 / 3_600_000.0;
        self.runs.iter().map(one).sum()
    }
}

impl MachineKind {
    /// Whether it takes water out.
    #[must_use]
    pub const fn dries(self) -> bool {
        matches!(self, Self::Compressor | Self::Desiccant)
    }

    /// Whether it moves air along what is wet.
    #[must_use]
    pub const fn moves_air(self) -> bool {
        matches!(self, Self::AirMover | Self::Tent)
    }
}

/// Something taken out for the skip.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Taken {
    /// Identity.
    pub id: Uuid,
    /// Where from.
    pub space_id: Option<Uuid>,
    /// What.
    pub what: String,
    /// How much, with its unit.
    pub amount: String,
    /// Why it could not stay.
    pub why: String,
    /// A picture of it.
    pub photo: Option<Uuid>,
    /// When, milliseconds since 1970.
    pub at: i64,
}

/// Water through soil or concrete, measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct SheetTest {
    /// Identity.
    pub id: Uuid,
    /// The space.
    pub space_id: Uuid,
    /// Where.
    pub name: String,
    /// How.
    pub kind: SheetKind,
    /// When it began and was read, milliseconds since 1970.
    pub from: i64,
    /// Read.
    pub until: i64,
    /// Area under the sheet or dome, m².
    pub area_m2: f64,
    /// Area of the whole floor or wall it stands for, m².
    pub whole_m2: f64,
    /// Water caught, g; of depths none.
    pub grams: Option<f64>,
    /// Wet on top of the sheet, from the air.
    pub wet_on_top: bool,
    /// At two depths: temperature °C, relative humidity %, depth m, shallow first.
    pub depths: Option<[[f64; 3]; 2]>,
    /// Month the ground water stands highest, 0 for January.
    pub high_month: u8,
}

/// A part of a drying job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(tag = "is", rename_all = "snake_case")]
pub enum DryingItem {
    /// What got wet.
    Event(WetEvent),
    /// A point.
    Point(DryPoint),
    /// A machine.
    Machine(Machine),
    /// Something taken out.
    Taken(Taken),
    /// A sheet.
    Sheet(SheetTest),
}

impl DryingItem {
    /// Its identity; none of what got wet, which is the job's own.
    #[must_use]
    pub const fn id(&self) -> Option<Uuid> {
        match self {
            Self::Event(_) => None,
            Self::Point(p) => Some(p.id),
            Self::Machine(m) => Some(m.id),
            Self::Taken(t) => Some(t.id),
            Self::Sheet(s) => Some(s.id),
        }
    }
}

/// All of a drying job.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct DryingJob {
    /// What got wet; none before it is set up.
    pub event: Option<WetEvent>,
    /// Points in the order of the round.
    pub points: Vec<DryPoint>,
    /// Machines.
    pub machines: Vec<Machine>,
    /// What was taken out.
    pub taken: Vec<Taken>,
    /// Sheets, oldest first.
    pub sheets: Vec<SheetTest>,
}

impl FromIterator<DryingItem> for DryingJob {
    fn from_iter<I: IntoIterator<Item = DryingItem>>(items: I) -> Self {
        let mut job = Self::default();
        for item in items {
            match item {
                DryingItem::Event(e) => job.event = Some(e),
                DryingItem::Point(p) => job.points.push(p),
                DryingItem::Machine(m) => job.machines.push(m),
                DryingItem::Taken(t) => job.taken.push(t),
                DryingItem::Sheet(s) => job.sheets.push(s),
            }
        }
        job.points.sort_by_key(|p| (p.order, p.id));
        job.machines.sort_by_key(|m| (m.kind, m.id));
        job.taken.sort_by_key(|t| (t.at, t.id));
        job.sheets.sort_by_key(|s| (s.until, s.id));
        job
    }
}

//! Parts of a drying job as they are typed.

mod read;
mod shown;

pub use read::{NO_STANDARD, read};
pub use shown::{as_typed, fields};

use crate::fields::Options;
use building::drying::{DryingItem, DryingJob, MOST_MACHINES, MOST_POINTS, MOST_SHEETS, MOST_TAKEN};
use casework::CaseFile;
use judgment::drying::materials;
use language::known_of;
use uuid::Uuid;

/// Longest name, and longest words.
pub const NAME: usize = 80;
pub const WORDS: usize = 300;

/// Spaces of the building.
pub fn spaces(file: &CaseFile) -> Options {
    file.building.spaces.iter().map(|s| (s.id.to_string(), s.name.clone())).collect()
}

/// Materials.
pub fn material_options() -> Options {
    materials().iter().map(|m| (m.id.clone(), known_of(&m.name))).collect()
}

/// What a form is of.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum What {
    Point,
    Points,
    Machine,
    Taken,
    Sheet,
}

impl What {
    pub fn from_id(id: &str) -> Option<Self> {
        Some(match id {
            "point" => Self::Point,
            "points" => Self::Points,
            "machine" => Self::Machine,
            "taken" => Self::Taken,
            "sheet" => Self::Sheet,
            _ => return None,
        })
    }

    pub const fn id(self) -> &'static str {
        match self {
            Self::Point => "point",
            Self::Points => "points",
            Self::Machine => "machine",
            Self::Taken => "taken",
            Self::Sheet => "sheet",
        }
    }

    pub const fn words(self, is_new: bool) -> &'static str {
        match (self, is_new) {
            (Self::Point, true) => "Add a point",
            (Self::Point, false) => "Point",
            (Self::Points, _) => "Add several points",
            (Self::Machine, true) => "Add a machine",
            (Self::Machine, false) => "Machine",
            (Self::Taken, true) => "Taken out",
            (Self::Taken, false) => "Taken out",
            (Self::Sheet, true) => "Add a sheet test",
            (Self::Sheet, false) => "Sheet test",
        }
    }

    /// The part with this id.
    pub fn find(self, job: &DryingJob, id: Uuid) -> Option<DryingItem> {
        match self {
            Self::Point => job.points.iter().find(|p| p.id == id).cloned().map(DryingItem::Point),
            Self::Machine => job.machines.iter().find(|m| m.id == id).cloned().map(DryingItem::Machine),
            Self::Taken => job.taken.iter().find(|t| t.id == id).cloned().map(DryingItem::Taken),
            Self::Sheet => job.sheets.iter().find(|s| s.id == id).cloned().map(DryingItem::Sheet),
            Self::Points => None,
        }
    }

    /// Whether there is room for more.
    pub const fn is_full(self, job: &DryingJob) -> bool {
        match self {
            Self::Point | Self::Points => job.points.len() >= MOST_POINTS,
            Self::Machine => job.machines.len() >= MOST_MACHINES,
            Self::Taken => job.taken.len() >= MOST_TAKEN,
            Self::Sheet => job.sheets.len() >= MOST_SHEETS,
        }
    }
}

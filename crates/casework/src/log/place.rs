//! Where the sensors of a file belong, and what somebody said of the file: as they are kept.

use building::{Building, Place, SensorKind};
use logger::{ColumnWish, Order, Reads, Wishes, Zone};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use uuid::Uuid;

/// What somebody said of a file by hand.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Wished {
    /// The logger it is from.
    #[serde(default)]
    pub logger: Option<Uuid>,
    /// Whose clock it shows, by name or offset.
    pub clock: Option<String>,
    /// Which figure is the day: `dmy`, `mdy` or `ymd`.
    pub order: Option<String>,
    /// What columns read.
    pub columns: BTreeMap<String, ColumnWish>,
}

impl Wished {
    /// For reading a file of a place in a zone.
    #[must_use]
    pub fn wishes(&self, site: &str) -> Wishes {
        Wishes {
            zone: Zone::named(site),
            clock: self.clock.as_deref().and_then(Zone::named),
            order: self.order.as_deref().and_then(Order::from_id),
            columns: self.columns.clone(),
        }
    }
}

/// What one sensor of a file reads, and where it belongs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Goes {
    /// The file's own name for the sensor.
    pub channel: String,
    /// What it reads.
    pub reads: Reads,
    /// A space or a surface.
    pub id: Option<Uuid>,
    /// Outdoors.
    pub outdoors: bool,
}

impl Goes {
    /// Of a sensor, to a place.
    #[must_use]
    pub fn to(channel: &str, reads: Reads, place: Place) -> Self {
        let id = match place {
            Place::Outdoors => None,
            Place::Space(id) | Place::Surface(id) => Some(id),
        };
        Self { channel: channel.to_owned(), reads, id, outdoors: id.is_none() }
    }

    /// Its place in a building; `None` where that is no longer there.
    #[must_use]
    pub fn place(&self, building: &Building) -> Option<Place> {
        match self.id {
            None => self.outdoors.then_some(Place::Outdoors),
            Some(id) if building.space(id).is_some() => Some(Place::Space(id)),
            Some(id) => building.surface(id).map(|_| Place::Surface(id)),
        }
    }
}

/// What a column is at a place; `None` where that makes no sense.
#[must_use]
pub fn sensor_kind(reads: Reads, place: Place) -> Option<SensorKind> {
    match (reads, place) {
        (Reads::TC | Reads::RhPct | Reads::DewC, Place::Space(_) | Place::Outdoors)
        | (Reads::OutdoorTC | Reads::OutdoorRhPct, Place::Outdoors) => Some(SensorKind::Air),
        (Reads::TC | Reads::SurfaceC, Place::Surface(_)) => Some(SensorKind::Surface),
        (Reads::McPct, Place::Surface(_)) => Some(SensorKind::Wood),
        (Reads::Rel, Place::Surface(_)) => Some(SensorKind::Relative),
        (Reads::PPa, Place::Outdoors | Place::Space(_)) => Some(SensorKind::Pressure),
        (Reads::RainMm, Place::Outdoors) => Some(SensorKind::Rain),
        (Reads::Liters, Place::Space(_)) => Some(SensorKind::Water),
        (Reads::PowerW, Place::Space(_) | Place::Outdoors) => Some(SensorKind::Power),
        _ => None,
    }
}

//! What was read on visits, beside the log.

use super::view::LogView;
use crate::file::CaseFile;
use building::Place;
use building::reading::{AirState, Observed};
use chrono::{DateTime, Utc};

/// What was read on visits, as points beside the log.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spot {
    /// When.
    pub at: DateTime<Utc>,
    /// Where.
    pub place: Place,
    /// Dew point of air, or temperature of a surface, °C.
    pub t_c: f64,
}

/// Readings of visits within a span: dew points of air and temperatures of surfaces.
#[must_use]
pub fn spots(file: &CaseFile, view: &LogView) -> Vec<Spot> {
    let read = file.ever.iter().filter_map(|r| {
        let at = DateTime::from_timestamp_millis(r.taken_ms)?;
        let place = file.building.station(r.station_id)?.place;
        let t_c = match r.observed {
            Observed::Surface(t) => t.get(),
            Observed::Air(_) => AirState::of(r)?.dew?.value,
            _ => return None,
        };
        (at >= view.from && at < view.until).then_some(Spot { at, place, t_c })
    });
    read.collect()
}

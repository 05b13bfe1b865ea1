//! When outdoor air would dry a space: over what was logged, and over the weather to come.

use super::view::{HourAir, LogView, SpaceLog, moist_air};
use crate::file::CaseFile;
use building::Material;
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::MoistAir;
use hygrothermal::hours::{VentHour, Ventilating, vent_hours};
use hygrothermal::quantity::{AirFlow, Temperature};
use store::ForecastHour;
use uuid::Uuid;

/// Air of a space logged longer ago than this says nothing of how it is now (ours).
pub const OLDEST: TimeDelta = TimeDelta::hours(72);

/// Hours of airing.
#[derive(Debug, Clone)]
pub struct Aired {
    /// The first of them.
    pub from: DateTime<Utc>,
    /// What opening up would have done, or would do.
    pub said: Ventilating,
    /// Hours of which everything is known.
    pub known: usize,
}

/// When to open a space up.
#[derive(Debug, Clone)]
pub struct Airing {
    /// Flow when open.
    pub flow: AirFlow,
    /// The coldest surface at the end of the log, °C.
    pub coldest: Option<(Uuid, f64)>,
    /// Over what was logged.
    pub past: Aired,
    /// Over the weather to come; none where the log ended too long ago, or no weather was told.
    pub ahead: Option<Aired>,
    /// When the space was logged last.
    pub last_at: Option<DateTime<Utc>>,
}

impl Airing {
    /// Of a space in a view of the log, opened so that its air is changed so often in an hour, at a moment with the weather from then on.
    /// `None` where such a flow cannot be.
    #[must_use]
    pub fn of(
        file: &CaseFile,
        view: &LogView,
        space: &SpaceLog,
        changes_per_h: f64,
        (now, weather): (DateTime<Utc>, &[ForecastHour]),
    ) -> Option<Self> {
        let volume = file.building.space(space.id)?.volume_m3();
        let flow = AirFlow::from_air_changes(changes_per_h, volume).ok()?;
        let hours: Vec<Option<VentHour>> = (0..view.steps()).map(|i| hour(file, view, space, i)).collect();
        let past = Aired {
            from: view.from,
            known: hours.iter().flatten().count(),
            said: vent_hours(hours.iter().copied(), flow),
        };
        let last = (0..view.steps()).rev().find(|i| space.air.get(*i).is_some_and(Option::is_some));
        let last_at = last.map(|i| view.at(i));
        let coldest = last.and_then(|i| coldest(file, space, i));
        let fresh = last_at.filter(|at| now - *at <= OLDEST).and(last).and_then(|i| space.air[i]);
        let ahead = fresh.and_then(|air| ahead(file, &air, coldest.map(|c| c.1), weather, now, flow));
        Some(Self { flow, coldest, past, ahead, last_at })
    }
}

fn hour(file: &CaseFile, view: &LogView, space: &SpaceLog, i: usize) -> Option<VentHour> {
    let (inside, outside) = (space.air.get(i)?.as_ref()?.air, view.outdoors.get(i)?.as_ref()?.air);
    let coldest = coldest(file, space, i).and_then(|(_, t)| Temperature::new(t).ok());
    Some(VentHour { inside, outside, coldest })
}

/// The coldest surface in an hour; bare soil is damp whatever the air does.
fn coldest(file: &CaseFile, space: &SpaceLog, i: usize) -> Option<(Uuid, f64)> {
    let soil = |id: Uuid| file.building.surface(id).is_some_and(|s| s.material == Material::Soil);
    let known =
        space.surfaces.iter().filter(|s| !soil(s.id)).filter_map(|s| Some((s.id, s.t_c.get(i)?.as_ref()?.mean)));
    known.min_by(|a, b| a.1.total_cmp(&b.1))
}

/// The space keeps the air it has: what was opened for an hour is dried by an hour only.
fn ahead(
    file: &CaseFile,
    inside: &HourAir,
    coldest: Option<f64>,
    weather: &[ForecastHour],
    now: DateTime<Utc>,
    flow: AirFlow,
) -> Option<Aired> {
    let to_come: Vec<&ForecastHour> = weather.iter().filter(|h| h.at + TimeDelta::hours(1) > now).collect();
    let from = to_come.first()?.at;
    let coldest = coldest.and_then(|t| Temperature::new(t).ok());
    let outside = |h: &ForecastHour| -> Option<MoistAir> { moist_air(h.t_c, h.rh_pct, file.pressure()) };
    // Hours that were not told are no hours to open up in.
    let length = usize::try_from((to_come.last()?.at - from).num_hours() + 1).ok()?;
    let mut hours: Vec<Option<VentHour>> = vec![None; length];
    for told in to_come {
        let at = usize::try_from((told.at - from).num_hours()).ok()?;
        let known = outside(told).map(|outside| VentHour { inside: inside.air, outside, coldest });
        if let Some(cell) = hours.get_mut(at) {
            *cell = known;
        }
    }
    Some(Aired { from, known: hours.iter().flatten().count(), said: vent_hours(hours, flow) })
}

//! What a coating is worked out with: its area, and the hours it can be put on in.

use crate::drying;
use crate::file::CaseFile;
use building::coating::CoatingJob;
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::Over;
use hygrothermal::takeoff::{CoatingHour, CoatingLimits, CoatingWindow, coating_window};
use store::ForecastHour;
use uuid::Uuid;

/// Hours an indoor coating is looked at for.
const INDOORS_H: i64 = 72;

/// Area of a boundary on its space laid flat, m², openings taken off; and whether somebody measured that space.
#[must_use]
pub fn area_of(file: &CaseFile, boundary: Uuid) -> Option<(f64, bool)> {
    let b = file.building.boundary(boundary)?;
    let (layout, measured) = file.building.layout(file.building.space(b.space_id)?);
    let sheet = layout.sheet();
    let own = |facet: building::unfold::Facet| facet.is_of(b, b.space_id);
    let faces: f64 = sheet.panels.iter().filter(|p| own(p.facet)).map(building::unfold::Panel::area_m2).sum();
    let holes = layout.fixtures.iter().filter(|f| f.kind.opening() && own(f.at.facet));
    let open: f64 = holes.map(|f| f.width_m * f.height_m).sum();
    (faces > open).then_some((faces - open, measured))
}

/// The area a coating is worked out for, m².
#[must_use]
pub fn area(file: &CaseFile, c: &CoatingJob) -> Option<f64> {
    c.area_m2.or_else(|| area_of(file, c.boundary_id?).map(|a| a.0))
}

/// The hours to come, and when one may begin.
pub struct When {
    /// The first hour.
    pub from: DateTime<Utc>,
    /// Hours of it that lie before the forecast.
    pub before: usize,
    /// What they allow.
    pub window: CoatingWindow,
}

impl When {
    /// When an hour begins.
    #[must_use]
    pub fn at(&self, hour: usize) -> DateTime<Utc> {
        self.from + TimeDelta::hours(i64::try_from(hour).unwrap_or(0))
    }
}

fn limits(c: &CoatingJob) -> CoatingLimits {
    CoatingLimits {
        surface: c.limits.surface,
        rh: c.limits.rh,
        above_dew: c.limits.above_dew,
        hours: c.limits.hours.map(usize::from),
    }
}

/// When a coating can be begun: outdoors by the forecast, indoors by the air and surface last read there. `None` where neither is known.
#[must_use]
pub fn when(file: &CaseFile, c: &CoatingJob, told: &[ForecastHour], now: DateTime<Utc>) -> Option<When> {
    let (from, mut hours) = if c.outdoors { outdoors(file, c, told, now)? } else { indoors(file, c, now)? };
    let before = usize::from(c.limits.hours[0]);
    let first = *hours.first()?;
    let back = |h: usize| from - TimeDelta::hours(i64::try_from(before - h).unwrap_or(0));
    // Rain nobody ruled out may have fallen.
    let dry = |at: DateTime<Utc>| !c.outdoors || c.dry_since.is_some_and(|since| at.timestamp_millis() >= since);
    let past: Vec<CoatingHour> =
        (0..before).map(|h| CoatingHour { rain: if dry(back(h)) { 0.0 } else { 1.0 }, ..first }).collect();
    hours.splice(0..0, past);
    Some(When { from: back(0), before, window: coating_window(&hours, &limits(c)) })
}

fn outdoors(
    file: &CaseFile,
    c: &CoatingJob,
    told: &[ForecastHour],
    now: DateTime<Utc>,
) -> Option<(DateTime<Utc>, Vec<CoatingHour>)> {
    let to_come: Vec<&ForecastHour> = told.iter().filter(|h| h.at + TimeDelta::hours(1) > now).collect();
    let from = to_come.first()?.at;
    let hour = |h: &&ForecastHour| {
        let air = drying::moist(file, h.t_c, h.rh_pct)?;
        Some(CoatingHour { rh: air.rh(Over::Water), dew: air.dew_point(), rain: h.rain_mm, surface: h.t_c + c.warmer })
    };
    // A gap in what was told ends what can be said.
    let together = |i: usize, h: &ForecastHour| h.at == from + TimeDelta::hours(i64::try_from(i).unwrap_or(0));
    let hours = to_come.iter().enumerate().take_while(|(i, h)| together(*i, h)).map_while(|(_, h)| hour(h)).collect();
    Some((from, hours))
}

fn indoors(file: &CaseFile, c: &CoatingJob, now: DateTime<Utc>) -> Option<(DateTime<Utc>, Vec<CoatingHour>)> {
    let b = file.building.boundary(c.boundary_id?)?;
    let state = file.picture.space(b.space_id)?;
    let air = state.air.as_ref()?;
    let own =
        state.surfaces.iter().filter(|s| file.building.surface(s.surface_id).is_some_and(|x| x.boundary_id == b.id));
    let read = own.filter_map(|s| Some(s.read.as_ref()?.t.get())).min_by(f64::total_cmp);
    let surface = read.unwrap_or(air.value.t.get()) + c.warmer;
    let hour = CoatingHour { rh: air.air.rh(Over::Water), dew: air.air.dew_point(), rain: 0.0, surface };
    let work = i64::from(c.limits.hours[1]) + i64::from(c.limits.hours[2]);
    let length = usize::try_from(INDOORS_H.max(work + 1)).ok()?;
    Some((logger::hour_of(now), vec![hour; length]))
}

//! What a time table of a small space is run with: its outdoor air and its surfaces.

use crate::file::CaseFile;
use crate::log::is_outdoors;
use building::timetable::{OutdoorsBy, TimeTable};
use building::{Side, Weather};
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::{MoistAir, Over, dew_point};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
use judgment::climate::year;
use judgment::construction::corner_factor;
use std::f64::consts::TAU;
use store::{Grain, Scope, StoreError};
use uuid::Uuid;

/// Half the swing of a typical day about its mean, K, and its warmest hour (ours).
const SWING: (f64, f64) = (4.0, 15.0);
/// What single glass holds of the difference of both airs, where no surface of a space is known (common practice).
const GLASS: f64 = 0.4;

/// Where a surface's temperature factor comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FactorFrom {
    /// Read on the visit in view.
    Read,
    /// From how its boundary is built, in a corner.
    Built,
    /// Assumed.
    Assumed,
}

/// A surface with its factor.
#[derive(Debug, Clone, PartialEq)]
pub struct Pane {
    /// What it is called.
    pub name: String,
    /// Its temperature factor.
    pub factor: f64,
    /// Where that comes from.
    pub from: FactorFrom,
}

/// Surfaces of a space toward outdoors: by their factor read on the visit, else by how the boundary is built; single glass where
/// nothing is known.
#[must_use]
pub fn panes(file: &CaseFile, space: Uuid) -> Vec<Pane> {
    let pane = |s: &building::Surface| {
        let boundary = file.building.boundary(s.boundary_id)?;
        let read = file.picture.surface(s.id).and_then(|s| s.read.as_ref()?.factor).map(|f| f.0.value);
        if boundary.beyond != Side::Outdoors {
            return None;
        }
        if let Some(factor) = read.filter(|f| (0.0..=1.0).contains(f)) {
            return Some(Pane { name: s.name.clone(), factor, from: FactorFrom::Read });
        }
        let built = file.building.construction(boundary)?;
        Some(Pane { name: s.name.clone(), factor: corner_factor(&built).clamp(0.0, 1.0), from: FactorFrom::Built })
    };
    let mut all: Vec<Pane> = file.building.surfaces_in(space).filter_map(pane).collect();
    all.sort_by(|a, b| a.factor.total_cmp(&b.factor));
    if all.is_empty() {
        all.push(Pane { name: "Single glass".into(), factor: GLASS, from: FactorFrom::Assumed });
    }
    all
}

/// Why there is no outdoor air.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NoOutdoors {
    /// It was not read on any visit.
    NotRead,
    /// Nothing was logged outdoors then.
    NotLogged,
    /// No forecast was told yet.
    NotTold,
    /// The weather file is gone.
    NoFile,
}

/// Air by temperature and dew point; saturated where a dew point lies above.
fn air(t: f64, dew: f64) -> Option<MoistAir> {
    MoistAir::from_dew_point(Temperature::new(t).ok()?, Temperature::new(dew.min(t)).ok()?, Pressure::STANDARD).ok()
}

/// Outdoor air of each hour of a time table, as far as it is known; why not, where it is not.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub async fn outdoors(
    scope: &Scope,
    file: &CaseFile,
    table: &TimeTable,
    weathers: &[Weather],
    now: DateTime<Utc>,
) -> Result<Result<Vec<MoistAir>, NoOutdoors>, StoreError> {
    let hours = usize::from(table.hours);
    let clock = |h: usize| (usize::from(table.begins) + h) % 24;
    let made = match table.outdoors {
        OutdoorsBy::Visit => match &file.picture.outdoor {
            Some(read) => Ok(vec![read.air; hours]),
            None => Err(NoOutdoors::NotRead),
        },
        OutdoorsBy::Month(month) => Ok(typical(file, usize::from(month) % 12, hours, clock)),
        OutdoorsBy::Weather(id, month) => match weathers.iter().find(|w| w.id == id) {
            Some(w) => Ok((0..hours).filter_map(|h| of_file(w, usize::from(month) % 12, clock(h))).collect()),
            None => Err(NoOutdoors::NoFile),
        },
        OutdoorsBy::Log(ms) => match DateTime::from_timestamp_millis(ms) {
            Some(from) => logged(scope, file, from, hours).await?.ok_or(NoOutdoors::NotLogged),
            None => Err(NoOutdoors::NotLogged),
        },
        OutdoorsBy::Forecast => {
            let told = scope.forecast(file.job.id).await?;
            let to_come = told.hours.iter().filter(|h| h.at + TimeDelta::hours(1) > now).take(hours);
            let made: Vec<MoistAir> = to_come.filter_map(|h| of_reading(h.t_c, h.rh_pct)).collect();
            if made.is_empty() { Err(NoOutdoors::NotTold) } else { Ok(made) }
        }
    };
    Ok(made)
}

fn of_reading(t: f64, rh: f64) -> Option<MoistAir> {
    let (t, rh) = (Temperature::new(t).ok()?, RelativeHumidity::new(rh.clamp(0.0, 100.0)).ok()?);
    MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD)
        .ok()
        .or_else(|| MoistAir::saturated(t, Pressure::STANDARD).ok())
}

/// A day of a month of the climate: its mean swings by the clock, its dew point stands.
fn typical(file: &CaseFile, month: usize, hours: usize, clock: impl Fn(usize) -> usize) -> Vec<MoistAir> {
    let of = year(file.job.climate);
    let one = |h: usize| {
        let t = of.t[month] + SWING.0 * (TAU * (clock(h) as f64 - SWING.1) / 24.0).cos();
        air(t, of.dew[month])
    };
    (0..hours).filter_map(one).collect()
}

fn of_file(w: &Weather, month: usize, hour: usize) -> Option<MoistAir> {
    let dew = dew_point(w.vapor[month][hour])?;
    air(w.celsius[month][hour], dew.get())
}

/// Hours logged outdoors from a moment on; an hour that was not logged stands as the one before it. `None` where the first was not.
async fn logged(
    scope: &Scope,
    file: &CaseFile,
    from: DateTime<Utc>,
    hours: usize,
) -> Result<Option<Vec<MoistAir>>, StoreError> {
    let outdoors = file.series.iter().filter(|s| is_outdoors(s));
    let ids: Vec<Uuid> = outdoors.map(|s| s.id).collect();
    if ids.is_empty() {
        return Ok(None);
    }
    let until = from + TimeDelta::hours(i64::try_from(hours).unwrap_or(0));
    let all = scope.log_hours(&ids, Grain::Hours, &[[from, until]]).await?;
    let mut known: Vec<_> = all.into_values().flatten().collect();
    known.sort_by_key(|h| h.at);
    let mut row = Vec::new();
    for h in 0..hours {
        let at = from + TimeDelta::hours(i64::try_from(h).unwrap_or(0));
        let read = known.iter().find(|k| k.at <= at && at < k.at + TimeDelta::hours(1));
        let made = read.and_then(|k| air(k.t_c?.mean, k.dew_c?.mean));
        match made.or(row.last().copied()) {
            Some(air) => row.push(air),
            None => return Ok(None),
        }
    }
    Ok(Some(row))
}

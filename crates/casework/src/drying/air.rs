//! Air of a drying job by place, and which way takes out more: now and over the weather to come.

use super::{AirAt, Drying, degrees};
use crate::file::CaseFile;
use building::drying::DryRead;
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{AirFlow, Measured, RelativeHumidity, Temperature};
use judgment::drying::{Ways, ways};
use std::collections::HashMap;
use store::ForecastHour;
use uuid::Uuid;

/// Air logged or forecast longer ago than this says nothing of now.
const FRESH: TimeDelta = TimeDelta::hours(3);

/// Air read on rounds, by place, each oldest first.
#[derive(Default)]
pub struct Airs {
    /// Of spaces; outdoors by the job's own id.
    pub places: HashMap<Uuid, Vec<AirAt>>,
    /// What machines and tents give.
    pub outlets: HashMap<Uuid, Vec<AirAt>>,
    /// What tents are fed with.
    pub supplies: HashMap<Uuid, Vec<AirAt>>,
    /// What loggers said last, by space.
    live: HashMap<Uuid, AirAt>,
}

/// Where outdoor air comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Outside {
    /// Read on the latest round.
    Round(i64),
    /// Forecast for this hour.
    Forecast,
    /// Read on the visit in view.
    Visit(i64),
}

/// An hour to come.
pub struct HourWays {
    /// When it begins.
    pub at: DateTime<Utc>,
    /// Both ways.
    pub ways: Ways,
}

pub(crate) fn moist(file: &CaseFile, t: f64, rh: f64) -> Option<MoistAir> {
    let (t, rh) = (degrees(t)?, RelativeHumidity::new(rh.clamp(0.0, 100.0)).ok()?);
    let made = MoistAir::from_rh(t, rh, Over::Water, file.pressure());
    made.ok().or_else(|| MoistAir::saturated(t, file.pressure()).ok())
}

impl Airs {
    pub(super) fn of(file: &CaseFile) -> Self {
        let mut all = Self::default();
        for r in &file.drying_readings {
            let to = match r.what {
                DryRead::Air => &mut all.places,
                DryRead::Outlet => &mut all.outlets,
                DryRead::Supply => &mut all.supplies,
                DryRead::Moisture | DryRead::Liters | DryRead::Energy => continue,
            };
            if let Some(air) = r.a.zip(r.b).and_then(|(t, rh)| moist(file, t, rh)) {
                to.entry(r.of_id).or_default().push(AirAt { at: r.taken_at.timestamp_millis(), air });
            }
        }
        for list in all.places.values_mut().chain(all.outlets.values_mut()).chain(all.supplies.values_mut()) {
            list.sort_by_key(|a| a.at);
        }
        if let Some(log) = file.log() {
            for space in &log.spaces {
                let last = (0..log.steps()).rev().find_map(|i| Some((i, (*space.air.get(i)?)?)));
                if let Some((i, air)) = last {
                    all.live.insert(space.id, AirAt { at: log.at(i).timestamp_millis(), air: air.air });
                }
            }
        }
        all
    }

    /// What a tent's exit holds more than its supply, g/kg, at each moment both were read, with the band a hygrometer leaves.
    pub(super) fn gaps(&self, file: &CaseFile, tent: Uuid) -> Vec<(i64, Measured)> {
        let (Some(exits), Some(supplies)) = (self.outlets.get(&tent), self.supplies.get(&tent)) else {
            return Vec::new();
        };
        let [t_err, rh_err] = file.at_hand().first().map_or([0.5, 3.0], |i| [i.air_err_k, i.rh_err_pct]);
        let of = |a: &AirAt| {
            let w = 1000.0 * a.air.humidity_ratio();
            // Saturation changes by some 6 % for a kelvin.
            let share = (rh_err / a.air.rh(Over::Water).max(5.0)).hypot(0.062 * t_err);
            Measured { value: w, err: w * share }
        };
        let pair = |exit: &AirAt| {
            let near = supplies.iter().min_by_key(|s| (s.at - exit.at).abs())?;
            (near.at.abs_diff(exit.at) < 7_200_000).then(|| (exit.at, of(exit).minus(of(near))))
        };
        exits.iter().filter_map(pair).collect()
    }

    /// The latest air of a space, or outdoors by the job's id: of a round or of a logger.
    #[must_use]
    pub fn latest(&self, of: Uuid) -> Option<AirAt> {
        let round = self.places.get(&of).and_then(|a| a.last());
        round.into_iter().chain(self.live.get(&of)).max_by_key(|a| a.at).copied()
    }

    /// Air of a space at a moment: what was read nearest to it.
    #[must_use]
    pub fn at(&self, of: Uuid, at: i64) -> Option<&AirAt> {
        self.places.get(&of)?.iter().min_by_key(|a| (a.at - at).abs())
    }
}

fn flows(file: &CaseFile, space: Uuid) -> Option<[AirFlow; 2]> {
    let space = file.building.space(space)?;
    let of = |changes: f64| AirFlow::from_air_changes(changes, space.volume_m3()).ok();
    let changes = space.kind.air_changes();
    Some([of(changes.open)?, of(changes.closed)?])
}

/// The coldest surface read in a space on the visit in view.
fn coldest(file: &CaseFile, space: Uuid) -> Option<Temperature> {
    Some(file.picture.space(space)?.coldest(&file.building)?.1.t)
}

/// Outdoor air now: of this round, else of the forecast, else of the visit.
fn outside(file: &CaseFile, drying: &Drying, hours: &[ForecastHour], at: DateTime<Utc>) -> Option<(MoistAir, Outside)> {
    let round = drying.airs.places.get(&file.job.id).and_then(|a| a.last());
    let fresh = round.filter(|a| at.timestamp_millis() - a.at < FRESH.num_milliseconds());
    let told = || {
        let hour = hours.iter().find(|h| h.at <= at && at < h.at + TimeDelta::hours(1))?;
        Some((moist(file, hour.t_c, hour.rh_pct)?, Outside::Forecast))
    };
    let visit = || file.picture.outdoor.as_ref().map(|o| (o.air, Outside::Visit(o.taken_ms)));
    fresh
        .map(|a| (a.air, Outside::Round(a.at)))
        .or_else(told)
        .or_else(|| Some((round?.air, Outside::Round(round?.at))))
        .or_else(visit)
}

/// Both ways in a space now.
#[must_use]
pub fn now(
    file: &CaseFile,
    drying: &Drying,
    space: Uuid,
    hours: &[ForecastHour],
    at: DateTime<Utc>,
) -> Option<(Ways, Outside)> {
    let inside = drying.airs.latest(space)?.air;
    let (air, from) = outside(file, drying, hours, at)?;
    Some((ways(&inside, &air, coldest(file, space), flows(file, space)?, drying.capacity(space)), from))
}

/// Both ways in a space in each hour of the weather to come; its own air is taken as it is.
#[must_use]
pub fn ahead(
    file: &CaseFile,
    drying: &Drying,
    space: Uuid,
    hours: &[ForecastHour],
    at: DateTime<Utc>,
) -> Vec<HourWays> {
    let (Some(inside), Some(flows)) = (drying.airs.latest(space), flows(file, space)) else { return Vec::new() };
    let (coldest, capacity) = (coldest(file, space), drying.capacity(space));
    let to_come = hours.iter().filter(|h| h.at + TimeDelta::hours(1) > at);
    let one = |h: &ForecastHour| {
        let outside = moist(file, h.t_c, h.rh_pct)?;
        Some(HourWays { at: h.at, ways: ways(&inside.air, &outside, coldest, flows, capacity) })
    };
    to_come.filter_map(one).collect()
}

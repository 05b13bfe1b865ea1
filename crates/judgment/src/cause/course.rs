//! Facts that only repeated readings show: hours under the dew point, and whether wetness follows rain.

use super::Fact;
use crate::hours::told;
use building::reading::{AirState, Observed, Reading};
use building::{Building, Material, Place};
use hygrothermal::wood::MeterReading;
use std::collections::BTreeMap;
use uuid::Uuid;

const HOUR_MS: f64 = 3_600_000.0;
/// Hours looked back on: the vocabulary's 14 days.
const LOOKED_BACK: f64 = 336.0;
/// Surface and air read further apart than this say nothing of each other, h (ours).
const BESIDE: f64 = 0.5;
/// Between readings further apart than this nobody knows how it went, h: two a day, morning and evening, will do (ours).
const LONGEST_GAP: f64 = 13.0;
/// Hours that must be known before they are taken for all of the 14 days (ours).
const LEAST_KNOWN: f64 = 72.0;
/// A rain gauge read further from a meter than this says nothing of it, h (ours).
const SAME_DAY: f64 = 24.0;

/// What the readings of a job up to a moment show in their course, of a space or of the worst of the building.
#[must_use]
pub fn course(building: &Building, ever: &[Reading], until_ms: i64, space: Option<Uuid>) -> Vec<Fact> {
    let mut known: Vec<&Reading> = ever.iter().filter(|r| r.taken_ms <= until_ms).collect();
    known.sort_by_key(|r| (r.taken_ms, r.id));
    let course = Course { building, known, until_ms, space };
    course.hours_below_dew().into_iter().chain(course.rain_correlation()).collect()
}

struct Course<'a> {
    building: &'a Building,
    /// Oldest first.
    known: Vec<&'a Reading>,
    until_ms: i64,
    space: Option<Uuid>,
}

impl Course<'_> {
    fn here(&self, at: Place) -> bool {
        self.space.is_none() || self.building.space_of(at).map(|s| s.id) == self.space
    }

    /// The surface that stood under the dew point for the most hours of the 14 days.
    fn hours_below_dew(&self) -> Option<Fact> {
        let surfaces = self.building.surfaces.iter().filter(|s| s.material != Material::Soil);
        let places = surfaces.map(|s| (Place::Surface(s.id), Place::Space(s.space_id)));
        let hours = places.filter(|(at, _)| self.here(*at)).filter_map(|(at, air)| Some((at, self.hours(at, air)?)));
        let (at, figure) = hours.max_by(|a, b| a.1.total_cmp(&b.1))?;
        Some(Fact { id: "hours_below_dew", figure, at })
    }

    /// Hours of 14 days in which a surface lay under the dew point of the air beside it, by proportion of those known.
    fn hours(&self, surface: Place, air: Place) -> Option<f64> {
        let airs: Vec<(f64, f64)> =
            self.at(air).filter_map(|r| Some((self.ago(r), AirState::of(r)?.dew?.value))).collect();
        let margins: Vec<(f64, f64)> = self
            .at(surface)
            .filter_map(|r| match r.observed {
                Observed::Surface(t) => Some((self.ago(r), t.get() - nearest(&airs, self.ago(r), BESIDE)?)),
                _ => None,
            })
            .filter(|(ago, _)| *ago <= LOOKED_BACK)
            .collect();
        let (mut known, mut below) = (0.0, 0.0);
        for pair in margins.windows(2) {
            let ((from, a), (to, b)) = (pair[0], pair[1]);
            let gap = from - to;
            if gap <= LONGEST_GAP {
                known += gap;
                below += gap * share_below(a, b);
            }
        }
        (known >= LEAST_KNOWN).then(|| below * LOOKED_BACK / known)
    }

    /// The clearest word on whether a meter’s reading follows rain.
    fn rain_correlation(&self) -> Option<Fact> {
        let rain: Vec<(f64, f64)> = self
            .known
            .iter()
            .filter_map(|r| if let Observed::Rain(mm) = r.observed { Some((self.ago(r), mm)) } else { None })
            .collect();
        let mut meters: BTreeMap<(Uuid, Uuid), Vec<(f64, f64)>> = BTreeMap::new();
        for r in &self.known {
            // A relative scale compares with itself only: the same meter on the same spot.
            let shown = match r.observed {
                Observed::Wood(w) => match w.value {
                    MeterReading::Percent(m) => m.value,
                    MeterReading::Wet => super::facts::PAST_SATURATION,
                },
                Observed::Relative(shown) => shown.get(),
                _ => continue,
            };
            if let Some(mm) = nearest(&rain, self.ago(r), SAME_DAY) {
                meters.entry((r.station_id, r.instrument_id)).or_default().push((mm, shown));
            }
        }
        let told = meters.iter().filter_map(|((station, _), pairs)| {
            let at = self.building.station(*station)?.place;
            Some((at, told(pairs)?)).filter(|_| self.here(at))
        });
        let (at, figure) = told.max_by(|a, b| a.1.total_cmp(&b.1))?;
        Some(Fact { id: "rain_correlation", figure, at })
    }

    fn at(&self, place: Place) -> impl Iterator<Item = &Reading> {
        let station = self.building.station_at(place).map(|s| s.id);
        self.known.iter().copied().filter(move |r| Some(r.station_id) == station)
    }

    /// Hours before the moment in view.
    fn ago(&self, r: &Reading) -> f64 {
        (self.until_ms - r.taken_ms) as f64 / HOUR_MS
    }
}

/// The value nearest a moment, of a series from the longest ago on; `None` where it is further off than `within` hours.
fn nearest(series: &[(f64, f64)], ago: f64, within: f64) -> Option<f64> {
    let after = series.partition_point(|(at, _)| *at > ago);
    let around = [after.checked_sub(1), Some(after)].into_iter().flatten().filter_map(|i| series.get(i));
    let near = around.filter(|(at, _)| (at - ago).abs() <= within);
    near.min_by(|a, b| (a.0 - ago).abs().total_cmp(&(b.0 - ago).abs())).map(|(_, value)| *value)
}

/// Share of the time between two margins in which a straight line between them lies under zero.
fn share_below(a: f64, b: f64) -> f64 {
    match (a < 0.0, b < 0.0) {
        (true, true) => 1.0,
        (false, false) => 0.0,
        (true, false) => a / (a - b),
        (false, true) => b / (b - a),
    }
}

//! What was loaded of a log as rows of hours: air, surfaces, rain, and what is wrong with its loggers.

use super::view::{Event, Flaw, HourAir, LogView, Row, Since, Source, SpaceLog, SurfaceLog, moist_air, steps};
use crate::file::CaseFile;
use building::{MarkKind, Material, SensorKind, Side};
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::{AirReading, Over};
use hygrothermal::hours::{LoggedHour, log_hours};
use hygrothermal::quantity::{Measured, Pressure, RelativeHumidity, Temperature};
use hygrothermal::surface::{Accuracy, TemperatureFactor, Verdict};
use judgment::hours::{AIR, Fault, Heard, RH, change, clock, daily_wave, exchanged, faults, response, stood};
use logger::{Hour, Spread};
use std::collections::{HashMap, HashSet};
use store::{LogMark, LogSeries};
use uuid::Uuid;

/// What was loaded of a log.
pub(super) struct Gathered<'a> {
    pub(super) file: &'a CaseFile,
    pub(super) series: &'a [LogSeries],
    pub(super) hours: &'a HashMap<Uuid, Vec<Hour>>,
    pub(super) from: DateTime<Utc>,
    pub(super) until: DateTime<Utc>,
    pub(super) step: TimeDelta,
}

impl Gathered<'_> {
    pub(super) fn view(self, extent: [DateTime<Utc>; 2], marks: &[LogMark]) -> LogView {
        let within = |m: &&LogMark| m.from_at < self.until && m.until_at.unwrap_or(m.from_at) >= self.from;
        let marks: Vec<LogMark> = marks.iter().filter(within).cloned().collect();
        let outdoors = self.air(None);
        let spaces = self.file.building.spaces.iter().map(|s| (s.id, self.air(Some(s.id))));
        let airs: HashMap<Uuid, Row<HourAir>> = spaces.filter(|(_, air)| air.iter().any(Option::is_some)).collect();
        let logged = self.file.building.spaces.iter().filter(|s| airs.contains_key(&s.id));
        let spaces = logged.map(|s| self.space(s.id, &airs, &outdoors, &marks)).collect();
        let rain = self.row(|s| s.reads == SensorKind::Rain, |h| Some(h.value?.mean * f64::from(h.points)));
        let flaws = self.flaws(&outdoors);
        let Self { series, from, until, step, .. } = self;
        LogView { step, from, until, extent, spaces, outdoors, rain, marks, flaws, series: series.to_vec(), fine: None }
    }

    /// What is wrong with the loggers of the span, by what they wrote.
    fn flaws(&self, outdoors: &Row<HourAir>) -> Vec<Flaw> {
        if self.step != TimeDelta::hours(1) {
            return Vec::new();
        }
        let outdoor_t: Row<f64> = outdoors.iter().map(|h| h.map(|h| h.t_c.mean)).collect();
        let mut out = Vec::new();
        let heard = |of: fn(&Hour) -> Option<Spread>| -> Vec<(Uuid, Row<Heard>)> {
            let kinds = [SensorKind::Air, SensorKind::Surface];
            let own = self.series.iter().filter(|s| kinds.contains(&s.reads));
            let row = |s: &LogSeries| {
                self.row(|x| x.id == s.id, |h| of(h).map(|s| Heard { mean: s.mean, low: s.low, high: s.high }))
            };
            own.map(|s| (s.id, row(s))).collect()
        };
        for (all, range) in [(heard(|h| h.t_c), AIR), (heard(|h| h.rh_pct), RH)] {
            for (id, row) in &all {
                let others: Vec<&[Option<Heard>]> =
                    all.iter().filter(|(x, _)| x != id).map(|(_, r)| r.as_slice()).collect();
                let mut found = faults(row, &others, range);
                let inside =
                    self.series.iter().any(|s| s.id == *id && (s.space_id.is_some() || s.surface_id.is_some()));
                if range == AIR && inside {
                    let own: Row<f64> = row.iter().map(|h| h.map(|h| h.mean)).collect();
                    found.extend(daily_wave(&own, &outdoor_t).and_then(clock));
                }
                // A logger that was silent was so with all its figures.
                let silent = |f: &Fault| range == RH && matches!(f, Fault::Silent { .. });
                out.extend(found.into_iter().filter(|f| !silent(f)).map(|fault| Flaw {
                    series: *id,
                    fault,
                    at: self.at(fault.from()),
                    with: None,
                }));
            }
            out.extend(self.exchanged(&all));
        }
        // Both their figures say so.
        let mut said = HashSet::new();
        out.retain(|f| f.with.is_none() || said.insert((f.series, f.with, f.at)));
        out
    }

    /// Series of a kind that read each other's place from some hour on.
    fn exchanged(&self, all: &[(Uuid, Row<Heard>)]) -> Vec<Flaw> {
        let mut out = Vec::new();
        for kind in [SensorKind::Air, SensorKind::Surface] {
            let of_kind = |id: Uuid| self.series.iter().any(|s| s.id == id && s.reads == kind);
            let own: Vec<&(Uuid, Row<Heard>)> = all.iter().filter(|(id, _)| of_kind(*id)).collect();
            let rows: Vec<Row<f64>> =
                own.iter().map(|(_, row)| row.iter().map(|h| h.map(|h| h.mean)).collect()).collect();
            out.extend(exchanged(&rows).into_iter().map(|e| Flaw {
                series: own[e.one].0,
                fault: Fault::Exchanged { from: e.from },
                at: self.at(e.from),
                with: Some(own[e.other].0),
            }));
        }
        out
    }

    fn at(&self, hour: usize) -> DateTime<Utc> {
        self.from + TimeDelta::hours(i64::try_from(hour).unwrap_or(0))
    }

    /// One figure for each hour, from the first of the series that has one.
    fn row<T: Copy>(&self, of: impl Fn(&LogSeries) -> bool, figure: impl Fn(&Hour) -> Option<T>) -> Row<T> {
        let length = steps(self.until - self.from, self.step);
        let mut row = vec![None; length];
        // The series with most readings counts first.
        let mut own: Vec<&LogSeries> = self.series.iter().filter(|s| of(s)).collect();
        own.sort_by_key(|s| std::cmp::Reverse(s.points));
        for hour in own.iter().filter_map(|s| self.hours.get(&s.id)).flatten() {
            let at = usize::try_from((hour.at - self.from).num_seconds() / self.step.num_seconds().max(1));
            let at = at.unwrap_or(usize::MAX);
            if let Some(cell) = row.get_mut(at).filter(|c| c.is_none()) {
                *cell = figure(hour);
            }
        }
        row
    }

    fn air(&self, space: Option<Uuid>) -> Row<HourAir> {
        self.row(
            |s| s.reads == SensorKind::Air && s.space_id == space && s.surface_id.is_none(),
            |h| hour_air(h, self.file.pressure()),
        )
    }

    /// How far the instruments of some series may be off: the worst of them.
    fn accuracy(&self, of: impl Fn(&LogSeries) -> bool) -> Option<Accuracy> {
        let mut own = self.series.iter().filter(|s| of(s));
        own.find_map(|s| self.file.instrument(s.instrument_id)?.accuracy().ok())
    }

    fn space(
        &self,
        id: Uuid,
        airs: &HashMap<Uuid, Row<HourAir>>,
        outdoors: &Row<HourAir>,
        marks: &[LogMark],
    ) -> SpaceLog {
        let air = airs.get(&id).cloned().unwrap_or_default();
        let accuracy = self.accuracy(|s| s.reads == SensorKind::Air && s.space_id == Some(id));
        let dew_band_k = accuracy.and_then(|a| dew_band(&air, &a)).unwrap_or(0.0);
        let mut surfaces: Vec<SurfaceLog> = self
            .file
            .building
            .surfaces_in(id)
            .filter_map(|s| self.surface(s.id, s.boundary_id, (&air, dew_band_k), airs, outdoors))
            .collect();
        let soil = |s: &SurfaceLog| self.file.building.surface(s.id).is_some_and(|x| x.material == Material::Soil);
        surfaces.sort_by(|a, b| {
            let wetter = b.said.wet.total_cmp(&a.said.wet).then(b.said.mold.total_cmp(&a.said.mold));
            soil(a).cmp(&soil(b)).then(wetter)
        });
        let vapor = |row: &Row<HourAir>| row.iter().map(|h| h.map(|h| h.air.vapor_pressure())).collect::<Vec<_>>();
        let both = air.iter().zip(outdoors);
        let excess = log_hours(
            both.map(|(i, e)| LoggedHour { inside: i.map(|h| h.air), outside: e.map(|h| h.air), surface: None }),
            1.0,
            Over::Ice,
        )
        .excess;
        let (inside, outside) = (vapor(&air), vapor(outdoors));
        let since = self.since(id, &inside, &outside, marks);
        SpaceLog {
            id,
            dew_band_k,
            surfaces,
            response: (self.step == TimeDelta::hours(1)).then(|| response(&inside, &outside)).flatten(),
            excess,
            since,
            meter: self.meter(id),
            water: self.row(
                |s| s.reads == SensorKind::Water && self.lies_in(s, id),
                |h| Some(h.value?.mean * f64::from(h.points)),
            ),
            power: self.row(|s| s.reads == SensorKind::Power && self.lies_in(s, id), |h| Some(h.value?.mean)),
            air,
        }
    }

    fn lies_in(&self, series: &LogSeries, space: Uuid) -> bool {
        let of = series.surface_id.and_then(|id| self.file.building.surface(id)).map(|s| s.space_id);
        of.or(series.space_id) == Some(space)
    }

    /// What one meter that stays in a space shows: two of them have no scale in common.
    fn meter(&self, space: Uuid) -> Row<f64> {
        let kinds = [SensorKind::Wood, SensorKind::Relative];
        let own = self.series.iter().filter(|s| kinds.contains(&s.reads) && self.lies_in(s, space));
        let most = own.max_by_key(|s| s.points).map(|s| s.id);
        self.row(|s| Some(s.id) == most, |h| Some(h.value?.mean))
    }

    /// What the last event in a space, or in the whole building, changed.
    fn since(&self, space: Uuid, inside: &[Option<f64>], outside: &[Option<f64>], marks: &[LogMark]) -> Option<Since> {
        if self.step != TimeDelta::hours(1) {
            return None;
        }
        let here = |m: &&LogMark| m.kind == MarkKind::Event && m.space_id.is_none_or(|id| id == space);
        let marked = marks.iter().filter(here).map(|m| (m.from_at, Event::Marked(m.what.clone())));
        let steps = self.file.steps_done().into_iter().map(|(at, fix)| (at, Event::Step(fix.to_owned())));
        let mut events: Vec<(DateTime<Utc>, Event)> = marked.chain(steps).collect();
        events.sort_by_key(|e| std::cmp::Reverse(e.0));
        events.into_iter().find_map(|(when, event)| {
            let at = usize::try_from((when - self.from).num_hours()).ok()?;
            let changed = change(inside, outside, at)?;
            let after = (at + 24).min(inside.len());
            Some(Since { event, at, changed, response: response(&inside[after..], &outside[after..]) })
        })
    }

    fn surface(
        &self,
        id: Uuid,
        boundary: Uuid,
        (air, dew_band_k): (&Row<HourAir>, f64),
        airs: &HashMap<Uuid, Row<HourAir>>,
        outdoors: &Row<HourAir>,
    ) -> Option<SurfaceLog> {
        let own = |s: &LogSeries| s.reads == SensorKind::Surface && s.surface_id == Some(id);
        let measured = self.row(own, |h| h.t_c);
        let (t_c, source, err) = if measured.iter().any(Option::is_some) {
            let err = self.accuracy(own).map_or(0.5, |a| a.surface.get());
            (measured, Source::Measured, err)
        } else {
            let factor = self.factor(id)?;
            let beyond = match self.file.building.boundary(boundary)?.beyond {
                Side::Outdoors => outdoors,
                Side::Space(other) => airs.get(&other)?,
                Side::Ground => return None,
            };
            let estimated = |(i, e): (&Option<HourAir>, &Option<HourAir>)| {
                let (i, e) = (i.as_ref()?.t_c, e.as_ref()?.t_c);
                let at = |i: f64, e: f64| e + factor.0.value * (i - e);
                let (a, b) = (at(i.low, e.low), at(i.high, e.high));
                Some(Spread { n: i.n.min(e.n), mean: at(i.mean, e.mean), low: a.min(b), high: a.max(b) })
            };
            let row: Row<Spread> = air.iter().zip(beyond).map(estimated).collect();
            let spans =
                air.iter().zip(beyond).filter_map(|(i, e)| Some((i.as_ref()?.t_c.mean - e.as_ref()?.t_c.mean).abs()));
            let (sum, n) = spans.fold((0.0, 0), |(sum, n), x| (sum + x, n + 1));
            (row, Source::Estimated(factor), 0.3 + factor.0.err * sum / f64::from(n.max(1)))
        };
        let band_k = dew_band_k.hypot(err);
        let at = |h: &Option<Spread>| h.and_then(|s| Temperature::new(s.mean).ok());
        let hours =
            air.iter().zip(&t_c).map(|(a, t)| LoggedHour { inside: a.map(|a| a.air), outside: None, surface: at(t) });
        let said = log_hours(hours, self.step.num_seconds() as f64 / 3600.0, Over::Ice);
        let verdicts =
            |band| air.iter().zip(&t_c).map(|(a, t)| stood(a.map(|a| a.air), at(t), band)).collect::<Row<Verdict>>();
        let (stood, plainly) = (verdicts(band_k), verdicts(0.0));
        let known = said.known > 0.0;
        known.then_some(SurfaceLog { id, source, t_c, band_k, stood, plainly, said })
    }

    /// The temperature factor read on the visit in view.
    fn factor(&self, surface: Uuid) -> Option<TemperatureFactor> {
        self.file.picture.surface(surface)?.read.as_ref()?.factor
    }
}

fn hour_air(hour: &Hour, pressure: Pressure) -> Option<HourAir> {
    let (t_c, rh_pct) = (hour.t_c?, hour.rh_pct?);
    let air = moist_air(t_c.mean, rh_pct.mean, pressure)?;
    Some(HourAir { t_c, rh_pct, dew_c: hour.dew_c, air })
}

/// How far the dew point may be off at the mean of some air, K.
fn dew_band(air: &Row<HourAir>, accuracy: &Accuracy) -> Option<f64> {
    let known: Vec<&HourAir> = air.iter().flatten().collect();
    let mean = |of: fn(&HourAir) -> f64| known.iter().map(|h| of(h)).sum::<f64>() / known.len().max(1) as f64;
    let reading = AirReading::new(
        (Temperature::new(mean(|h| h.t_c.mean)).ok()?, accuracy.air),
        (RelativeHumidity::new(mean(|h| h.rh_pct.mean).clamp(0.0, 100.0)).ok()?, accuracy.rh),
        Over::Water,
    );
    let Measured { err, .. } = reading.figure(|a| Some(a.dew_point()?.get()))?;
    Some(err)
}

//! The log of a job over a span: hour by hour the air of every space, the surfaces in it, outdoors, rain and what was marked.

use crate::file::{CaseFile, FileError};
use building::reading::{AirState, Observed};
use building::{MarkKind, Material, Place, SensorKind, Side};
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::{AirReading, MoistAir, Over};
use hygrothermal::hours::{HoursSaid, LoggedHour, log_hours};
use hygrothermal::quantity::{Measured, Pressure, RelativeHumidity, Temperature};
use hygrothermal::surface::{Accuracy, TemperatureFactor, Verdict};
use judgment::hours::{AIR, Change, Fault, Heard, RH, Response, change, clock, daily_wave, faults, response, stood};
use logger::{Hour, Hours, Point, Spread, hour_of};
use std::collections::HashMap;
use store::{Grain, LogMark, LogParts, LogSeries, Scope};
use uuid::Uuid;

/// Longest span looked at hour by hour: a leap year and a week.
pub const LONGEST: TimeDelta = TimeDelta::days(373);

/// Air of an hour.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HourAir {
    /// Temperature, °C.
    pub t_c: Spread,
    /// Relative humidity over water, %.
    pub rh_pct: Spread,
    /// Dew point, °C; none for air too dry to have one.
    pub dew_c: Option<Spread>,
    /// The air at its means.
    pub air: MoistAir,
}

/// A row of hours; `None` where nothing was read.
pub type Row<T> = Vec<Option<T>>;

/// Where the temperature of a surface comes from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Source {
    /// A sensor on it.
    Measured,
    /// Its temperature factor on a visit.
    Estimated(TemperatureFactor),
}

/// A surface over the span.
#[derive(Debug, Clone)]
pub struct SurfaceLog {
    /// Which surface.
    pub id: Uuid,
    /// Where its temperature comes from.
    pub source: Source,
    /// Its temperature, °C.
    pub t_c: Row<Spread>,
    /// How far its margin above the dew point may be off, K.
    pub band_k: f64,
    /// How it stood in each hour, with the instruments' error.
    pub stood: Row<Verdict>,
    /// The same by the figures alone.
    pub plainly: Row<Verdict>,
    /// What the hours say together.
    pub said: HoursSaid,
}

/// A space over the span.
#[derive(Debug, Clone)]
pub struct SpaceLog {
    /// Which space.
    pub id: Uuid,
    /// Its air.
    pub air: Row<HourAir>,
    /// How far the dew point may be off, K, at the span's mean air.
    pub dew_band_k: f64,
    /// Surfaces in it that are known, the one wet for longest first; bare soil, which is damp whatever the air does, last.
    pub surfaces: Vec<SurfaceLog>,
    /// How it follows outdoors.
    pub response: Option<Response>,
    /// What its air held more than the outdoor air: g/m³ and Pa; none where either is not logged.
    pub excess: Option<[f64; 2]>,
    /// The last event in the span with two days on both sides, and what it changed.
    pub since: Option<(String, Change, Option<Response>)>,
}

/// The log of a job over a span, hour by hour or by another step.
#[derive(Debug, Clone)]
pub struct LogView {
    /// How long a step of its rows is.
    pub step: TimeDelta,
    /// Its first hour.
    pub from: DateTime<Utc>,
    /// The hour after its last.
    pub until: DateTime<Utc>,
    /// From when to when anything was logged.
    pub extent: [DateTime<Utc>; 2],
    /// Spaces with logged air, in walking order.
    pub spaces: Vec<SpaceLog>,
    /// Outdoor air.
    pub outdoors: Row<HourAir>,
    /// Rain in each hour, mm.
    pub rain: Row<f64>,
    /// What was marked in it.
    pub marks: Vec<LogMark>,
    /// What is wrong with its loggers.
    pub flaws: Vec<Flaw>,
    /// Its series, for a choice.
    pub series: Vec<LogSeries>,
    /// The same in finer steps, where it is short.
    pub fine: Option<Box<LogView>>,
}

/// What is wrong with a series, and since when.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Flaw {
    /// Which series.
    pub series: Uuid,
    /// What is wrong.
    pub fault: Fault,
    /// When it begins.
    pub at: DateTime<Utc>,
}

/// A span that is asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Span {
    /// So long, up to the end of what is logged.
    Last(TimeDelta),
    /// From a moment to another.
    Between(DateTime<Utc>, DateTime<Utc>),
}

impl LogView {
    /// Loads a span of a job's log; `None` where nothing was logged.
    ///
    /// # Errors
    /// [`FileError::Store`] when the database does not answer.
    pub async fn load(scope: &Scope, file: &CaseFile, parts: LogParts, span: Span) -> Result<Option<Self>, FileError> {
        let LogParts { series, marks, .. } = parts;
        let first = series.iter().filter_map(|s| s.first_at).min();
        let last = series.iter().filter_map(|s| s.last_at).max();
        let Some((first, last)) = first.zip(last) else { return Ok(None) };
        let end = hour_of(last) + TimeDelta::hours(1);
        let (from, until) = match span {
            Span::Last(length) => ((end - length).max(hour_of(first)), end),
            Span::Between(from, until) => (hour_of(from), hour_of(until + TimeDelta::minutes(59))),
        };
        let until = until.min(from + LONGEST).max(from + TimeDelta::hours(1));
        let ids: Vec<Uuid> = series.iter().map(|s| s.id).collect();
        let hours = scope.log_hours(&ids, Grain::Hours, [from, until]).await?;
        let fine = match finer(until - from) {
            None => None,
            Some(step) => {
                let points = scope.log_points(&ids, [from, until]).await?;
                let hours = finely(points, &hours, &marks, step);
                let gathered = Gathered { file, series: series.clone(), hours, from, until, step };
                Some(Box::new(gathered.view([first, last], marks.clone())))
            }
        };
        let gathered = Gathered { file, series, hours, from, until, step: TimeDelta::hours(1) };
        Ok(Some(Self { fine, ..gathered.view([first, last], marks) }))
    }

    /// Steps of the span.
    #[must_use]
    pub fn steps(&self) -> usize {
        steps(self.until - self.from, self.step)
    }

    /// When a step of the span begins.
    #[must_use]
    pub fn at(&self, step: usize) -> DateTime<Utc> {
        self.from + self.step * i32::try_from(step).unwrap_or(i32::MAX)
    }

    /// A space with logged air.
    #[must_use]
    pub fn space(&self, id: Uuid) -> Option<&SpaceLog> {
        self.spaces.iter().find(|s| s.id == id)
    }

    /// The space whose surfaces were wet for longest, else damp for longest, else the first.
    #[must_use]
    pub fn worst(&self) -> Option<&SpaceLog> {
        let bad = |s: &&SpaceLog| {
            let worst = |of: fn(&HoursSaid) -> f64| s.surfaces.iter().map(|x| of(&x.said)).fold(0.0, f64::max);
            (worst(|x| x.wet), worst(|x| x.mold))
        };
        self.spaces.iter().rev().max_by(|a, b| {
            let (a, b) = (bad(a), bad(b));
            a.0.total_cmp(&b.0).then(a.1.total_cmp(&b.1))
        })
    }
}

fn steps(length: TimeDelta, step: TimeDelta) -> usize {
    usize::try_from(length.num_seconds() / step.num_seconds().max(1)).unwrap_or(0)
}

/// The step a short span is drawn in.
fn finer(length: TimeDelta) -> Option<TimeDelta> {
    match length.num_hours() {
        ..=8 => Some(TimeDelta::minutes(1)),
        9..=40 => Some(TimeDelta::minutes(5)),
        41..=120 => Some(TimeDelta::minutes(15)),
        _ => None,
    }
}

/// Single readings in fine steps: what is left out is not among them, and humidity is corrected as the hour it lies in was.
fn finely(
    points: HashMap<Uuid, Vec<Point>>,
    hours: &HashMap<Uuid, Vec<Hour>>,
    marks: &[LogMark],
    step: TimeDelta,
) -> HashMap<Uuid, Vec<Hour>> {
    let of_series = |(id, points): (Uuid, Vec<Point>)| {
        let left_out = |at: DateTime<Utc>| {
            marks.iter().any(|m| {
                m.kind == MarkKind::LeftOut
                    && m.series_id.is_none_or(|s| s == id)
                    && at >= m.from_at
                    && m.until_at.is_some_and(|u| at < u)
            })
        };
        let standing: Vec<Point> = points.into_iter().filter(|p| !left_out(p.at)).collect();
        let mut made = Vec::new();
        let mut fine = Hours::of(step);
        for hour in standing.chunk_by(|a, b| hour_of(a.at) == hour_of(b.at)) {
            let raw: Vec<f64> = hour.iter().filter_map(|p| p.rh_pct).collect();
            let mean = raw.iter().sum::<f64>() / raw.len().max(1) as f64;
            let at = hour.first().map(|p| hour_of(p.at));
            let rolled = hours.get(&id).and_then(|all| all.iter().find(|h| Some(h.at) == at)).and_then(|h| h.rh_pct);
            let shift = rolled.map_or(0.0, |h| h.mean - mean);
            for point in hour {
                made.extend(fine.take(&Point { rh_pct: point.rh_pct.map(|rh| rh + shift), ..*point }));
            }
        }
        made.extend(fine.end());
        (id, held(made, step))
    };
    points.into_iter().map(of_series).collect()
}

/// A reading stands until the next, where that comes as soon as this logger's usually do.
fn held(made: Vec<Hour>, step: TimeDelta) -> Vec<Hour> {
    let mut gaps: Vec<TimeDelta> = made.windows(2).map(|w| w[1].at - w[0].at).collect();
    gaps.sort_unstable();
    let usual = gaps.get(gaps.len() / 2).copied().unwrap_or(step);
    let longest = usual + usual / 2;
    let mut out = Vec::with_capacity(made.len());
    for (i, hour) in made.iter().enumerate() {
        let next = made.get(i + 1).map_or(hour.at + usual, |n| n.at);
        let until = if next - hour.at <= longest { next } else { hour.at + step };
        let mut at = hour.at;
        while at < until {
            // An amount is told once: it fell before the reading, not after.
            out.push(Hour { at, value: hour.value.filter(|_| at == hour.at), ..*hour });
            at += step;
        }
    }
    out
}

/// What was loaded of a log.
struct Gathered<'a> {
    file: &'a CaseFile,
    series: Vec<LogSeries>,
    hours: HashMap<Uuid, Vec<Hour>>,
    from: DateTime<Utc>,
    until: DateTime<Utc>,
    step: TimeDelta,
}

impl Gathered<'_> {
    fn view(self, extent: [DateTime<Utc>; 2], marks: Vec<LogMark>) -> LogView {
        let within = |m: &LogMark| m.from_at < self.until && m.until_at.unwrap_or(m.from_at) >= self.from;
        let marks: Vec<LogMark> = marks.into_iter().filter(within).collect();
        let outdoors = self.air(None);
        let spaces = self.file.building.spaces.iter().map(|s| (s.id, self.air(Some(s.id))));
        let airs: HashMap<Uuid, Row<HourAir>> = spaces.filter(|(_, air)| air.iter().any(Option::is_some)).collect();
        let logged = self.file.building.spaces.iter().filter(|s| airs.contains_key(&s.id));
        let spaces = logged.map(|s| self.space(s.id, &airs, &outdoors, &marks)).collect();
        let rain = self.row(|s| s.reads == SensorKind::Rain, |h| Some(h.value?.mean * f64::from(h.points)));
        let flaws = self.flaws(&outdoors);
        let Self { series, from, until, step, .. } = self;
        LogView { step, from, until, extent, spaces, outdoors, rain, marks, flaws, series, fine: None }
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
                }));
            }
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
        self.row(|s| s.reads == SensorKind::Air && s.space_id == space && s.surface_id.is_none(), hour_air)
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
            air,
        }
    }

    /// What the last event in a space, or in the whole building, changed.
    fn since(
        &self,
        space: Uuid,
        inside: &[Option<f64>],
        outside: &[Option<f64>],
        marks: &[LogMark],
    ) -> Option<(String, Change, Option<Response>)> {
        if self.step != TimeDelta::hours(1) {
            return None;
        }
        let here = |m: &&LogMark| m.kind == MarkKind::Event && m.space_id.is_none_or(|id| id == space);
        marks.iter().rev().filter(here).find_map(|m| {
            let at = usize::try_from((m.from_at - self.from).num_hours()).ok()?;
            let changed = change(inside, outside, at)?;
            let after = (at + 24).min(inside.len());
            Some((m.what.clone(), changed, response(&inside[after..], &outside[after..])))
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
                Some(Spread { mean: at(i.mean, e.mean), low: a.min(b), high: a.max(b) })
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

fn hour_air(hour: &Hour) -> Option<HourAir> {
    let (t_c, rh_pct) = (hour.t_c?, hour.rh_pct?);
    let t = Temperature::new(t_c.mean).ok()?;
    let rh = RelativeHumidity::new(rh_pct.mean.clamp(0.0, 100.0)).ok()?;
    let air = MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD)
        .or_else(|_| MoistAir::saturated(t, Pressure::STANDARD))
        .ok()?;
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

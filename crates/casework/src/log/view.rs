//! The log of a job over a span: hour by hour the air of every space, the surfaces in it, outdoors, rain and what was marked.

use super::fine::{finely, finer};
use super::gather::Gathered;
use crate::file::{CaseFile, FileError};
use building::Material;
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::{MoistAir, Over, saturation_pressure_over};
use hygrothermal::hours::HoursSaid;
use hygrothermal::mold::{self, Decline, Sensitivity};
use hygrothermal::quantity::{MoldIndex, Pressure, RelativeHumidity, Temperature};
use hygrothermal::surface::{TemperatureFactor, Verdict};
use judgment::hours::{Change, Fault, Response};
use logger::{Hour, Spread, hour_of};
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

/// Air as a logger wrote it, at a pressure; what it wrote past saturation is saturated.
pub(super) fn moist_air(t_c: f64, rh_pct: f64, pressure: Pressure) -> Option<MoistAir> {
    let t = Temperature::new(t_c).ok()?;
    let rh = RelativeHumidity::new(rh_pct.clamp(0.0, 100.0)).ok()?;
    MoistAir::from_rh(t, rh, Over::Water, pressure).or_else(|_| MoistAir::saturated(t, pressure)).ok()
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

/// Something done to a building.
#[derive(Debug, Clone, PartialEq)]
pub enum Event {
    /// Marked in the log, in these words.
    Marked(String),
    /// A step of the plan, by the id of its fix.
    Step(String),
}

/// What was done last, and what followed.
#[derive(Debug, Clone)]
pub struct Since {
    /// What was done.
    pub event: Event,
    /// In which hour of the span.
    pub at: usize,
    /// What it changed.
    pub changed: Change,
    /// How the space followed the weather from then on.
    pub response: Option<Response>,
}

impl SurfaceLog {
    /// Hours it stood wet, and hours known, by the figures alone: before an hour of the span, and from it on.
    #[must_use]
    pub fn wet_around(&self, at: usize) -> [[usize; 2]; 2] {
        let (before, after) = self.plainly.split_at(at.min(self.plainly.len()));
        [before, after].map(|row| {
            let known = row.iter().flatten();
            [known.clone().filter(|v| **v == Verdict::Condensing).count(), known.count()]
        })
    }
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
    /// The last event in the span with some days on both sides, and what it changed.
    pub since: Option<Since>,
    /// What a meter that stays in it shows: wood moisture, % or a relative scale.
    pub meter: Row<f64>,
    /// Water its machine collected, L.
    pub water: Row<f64>,
    /// What its machine draws, W.
    pub power: Row<f64>,
}

/// What was loaded of a log.
#[derive(Debug, Clone)]
pub struct Logged {
    /// Its series.
    pub series: Vec<LogSeries>,
    /// What was marked in it, by time.
    pub marks: Vec<LogMark>,
    /// Hours of each series, in the order of time.
    pub hours: HashMap<Uuid, Vec<Hour>>,
}

impl Logged {
    /// Its series and marks, without any hour yet.
    #[must_use]
    pub fn of(parts: LogParts) -> Self {
        Self { series: parts.series, marks: parts.marks, hours: HashMap::new() }
    }

    /// From when to when anything was logged.
    #[must_use]
    pub fn extent(&self) -> Option<[DateTime<Utc>; 2]> {
        let first = self.series.iter().filter_map(|s| s.first_at).min()?;
        let last = self.series.iter().filter_map(|s| s.last_at).max()?;
        Some([first, last])
    }

    /// Loads the hours of some spans, any of which may touch.
    ///
    /// # Errors
    /// [`FileError::Store`] when the database does not answer.
    pub async fn load(&mut self, scope: &Scope, spans: &[[DateTime<Utc>; 2]]) -> Result<(), FileError> {
        let ids: Vec<Uuid> = self.series.iter().map(|s| s.id).collect();
        self.hours = scope.log_hours(&ids, Grain::Hours, spans).await?;
        Ok(())
    }

    /// The log over a span whose hours are loaded.
    #[must_use]
    pub fn view(&self, file: &CaseFile, span: [DateTime<Utc>; 2]) -> LogView {
        self.stepped(file, span, &self.hours, TimeDelta::hours(1))
    }

    fn stepped(
        &self,
        file: &CaseFile,
        [from, until]: [DateTime<Utc>; 2],
        hours: &HashMap<Uuid, Vec<Hour>>,
        step: TimeDelta,
    ) -> LogView {
        let extent = self.extent().unwrap_or([from, until]);
        Gathered { file, series: &self.series, hours, from, until, step }.view(extent, &self.marks)
    }
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
    /// The series it was exchanged with.
    pub with: Option<Uuid>,
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
        let mut logged = Logged::of(parts);
        let Some([first, last]) = logged.extent() else { return Ok(None) };
        let end = hour_of(last) + TimeDelta::hours(1);
        let (from, until) = match span {
            Span::Last(length) => ((end - length).max(hour_of(first)), end),
            Span::Between(from, until) => (hour_of(from), hour_of(until + TimeDelta::minutes(59))),
        };
        let span = [from, until.min(from + LONGEST).max(from + TimeDelta::hours(1))];
        logged.load(scope, &[span]).await?;
        let mut view = logged.view(file, span);
        if let Some(step) = finer(span[1] - span[0]) {
            let ids: Vec<Uuid> = logged.series.iter().map(|s| s.id).collect();
            let points = scope.log_points(&ids, span).await?;
            // Of old spans only the hours may be left.
            if points.values().any(|p| !p.is_empty()) {
                let fine = finely(points, &logged.hours, &logged.marks, step);
                view.fine = Some(Box::new(logged.stepped(file, span, &fine, step)));
            }
        }
        Ok(Some(view))
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

pub(super) fn steps(length: TimeDelta, step: TimeDelta) -> usize {
    usize::try_from(length.num_seconds() / step.num_seconds().max(1)).unwrap_or(0)
}

impl SurfaceLog {
    /// Relative humidity at it, %, over ice below 0 °C.
    #[must_use]
    pub fn humidity(&self, air: &Row<HourAir>) -> Row<f64> {
        let at = |(air, t): (&Option<HourAir>, &Option<Spread>)| {
            let t = Temperature::new(t.as_ref()?.mean).ok()?;
            Some((100.0 * air.as_ref()?.air.vapor_pressure() / saturation_pressure_over(t, Over::Ice)).min(100.0))
        };
        air.iter().zip(&self.t_c).map(at).collect()
    }

    /// The mold index of a clean surface of some material over hourly rows; it stands still while nothing is known.
    #[must_use]
    pub fn mold(&self, air: &Row<HourAir>, material: Material) -> Row<f64> {
        let Some(class) = sensitivity(material) else { return vec![None; self.t_c.len()] };
        let known: Vec<Option<(Temperature, RelativeHumidity)>> = self
            .humidity(air)
            .into_iter()
            .zip(&self.t_c)
            .map(|(rh, t)| Some((Temperature::new(t.as_ref()?.mean.min(50.0)).ok()?, RelativeHumidity::new(rh?).ok()?)))
            .collect();
        let hours: Vec<(Temperature, RelativeHumidity)> = known.iter().flatten().copied().collect();
        let mut course = Vec::with_capacity(hours.len());
        let Ok(start) = MoldIndex::new(0.0) else { return Vec::new() };
        if mold::course(&hours, class, start, Decline::ASHRAE_160, |_, index| course.push(index)).is_err() {
            return vec![None; self.t_c.len()];
        }
        let mut next = course.into_iter();
        known.iter().map(|k| k.and_then(|_| next.next())).collect()
    }
}

/// How readily a material grows mold, where anything is known of it (classes as in ASHRAE 160-2016, from memory); soil and air have
/// none.
#[must_use]
pub const fn sensitivity(material: Material) -> Option<Sensitivity> {
    Some(match material {
        Material::Wood | Material::Plasterboard | Material::Fabric => Sensitivity::Sensitive,
        Material::Concrete | Material::Masonry | Material::Insulation => Sensitivity::Medium,
        Material::Glass | Material::Metal | Material::Panel | Material::Laminate => Sensitivity::Resistant,
        Material::Soil => return None,
    })
}

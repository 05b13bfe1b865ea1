//! What the hours of a space say together: which way moisture goes, whether it follows rain, its day, its air changes, mold, and its
//! machine.

use super::view::{HourAir, LogView, Row, SpaceLog, SurfaceLog};
use crate::file::CaseFile;
use building::Material;
use building::reading::AirValue;
use hygrothermal::air::Over;
use hygrothermal::quantity::{RelativeHumidity, Temperature};
use judgment::cause::capacity;
use judgment::hours::{
    AfterRain, AirChanges, BothSides, MeanDay, TwoWeeks, after_rain, air_changes, mean_day, two_weeks,
};
use uuid::Uuid;

/// Hours that must be known before their mean is taken for how it is (ours).
const LEAST_KNOWN: usize = 72;
/// A machine that draws this part of the most it draws is running (ours).
const RUNNING: f64 = 0.5;
/// Water that gives less than this in all does not say what a machine takes out, h.
const LEAST_DAY: usize = 24;

/// The mold index of a surface over the span, of a clean start.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MoldCourse {
    /// Which surface.
    pub surface: Uuid,
    /// The highest it reached.
    pub peak: f64,
    /// Where it stands at the end.
    pub end: f64,
}

/// What a space's dehumidifier did.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Machine {
    /// What it collected, L/day; none where nobody logged it.
    pub liters_day: Option<f64>,
    /// The part of the time it ran, 0–1; none where its power is not logged.
    pub runs: Option<f64>,
    /// What its label makes of the logged air if it never stops, L/day.
    pub capacity: Option<f64>,
}

/// A mean of a place over the hours known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Mean {
    /// Which surface.
    pub surface: Uuid,
    /// Its figure.
    pub value: f64,
}

/// What the hours of a space say together.
#[derive(Debug, Clone, PartialEq)]
pub struct TimeSays {
    /// Which space.
    pub space: Uuid,
    /// Which way moisture goes.
    pub two_weeks: Option<TwoWeeks>,
    /// How it follows rain: its meter, where one stays in it, else what its air holds more than the outdoor air.
    pub rain: Option<AfterRain>,
    /// Whether that is its meter.
    pub rain_on_meter: bool,
    /// The day of its dew point.
    pub day: Option<MeanDay>,
    /// Air changes, from what leaves after a source stopped.
    pub changes: Option<AirChanges>,
    /// Of the surface on which mold comes furthest.
    pub mold: Option<MoldCourse>,
    /// Its machine.
    pub machine: Option<Machine>,
    /// The surface that is most humid, with its mean RH, %.
    pub humid: Option<Mean>,
    /// The surface that was wet for longest, with its wet hours in two weeks, by proportion of those known.
    pub below: Option<Mean>,
    /// Mean RH of its air, %.
    pub rh_pct: Option<f64>,
    /// The surface that stood at or under 0 °C for longest, with its hours.
    pub frozen: Option<Mean>,
}

impl TimeSays {
    /// What a view says of a space in it.
    #[must_use]
    pub fn of(file: &CaseFile, view: &LogView, space: &SpaceLog) -> Self {
        let surfaces = || counted(file, space);
        let worst = surfaces().max_by(|a, b| a.said.mold.total_cmp(&b.said.mold));
        let excess = vapor_excess(&space.air, &view.outdoors);
        let by_meter = after_rain(&view.rain, &space.meter);
        Self {
            space: space.id,
            two_weeks: two_weeks(&both(&space.air, &view.outdoors, worst)),
            rain_on_meter: by_meter.is_some(),
            rain: by_meter.or_else(|| after_rain(&view.rain, &excess)),
            day: day(file, view, space),
            changes: changes(view, space),
            mold: surfaces().filter_map(|s| mold(file, space, s)).max_by(|a, b| a.peak.total_cmp(&b.peak)),
            machine: machine(file, space),
            humid: surfaces().filter_map(|s| humid(s, &space.air)).max_by(|a, b| a.value.total_cmp(&b.value)),
            below: surfaces().filter_map(below).max_by(|a, b| a.value.total_cmp(&b.value)),
            frozen: surfaces()
                .map(|s| frozen(view, s))
                .max_by(|a, b| a.value.total_cmp(&b.value))
                .filter(|m| m.value > 0.0),
            rh_pct: mean(space.air.iter().map(|h| h.map(|h| h.rh_pct.mean)), LEAST_KNOWN),
        }
    }
}

/// Surfaces that count: bare soil is damp whatever the air does.
fn counted<'a>(file: &'a CaseFile, space: &'a SpaceLog) -> impl Iterator<Item = &'a SurfaceLog> {
    let soil = |s: &SurfaceLog| file.building.surface(s.id).is_some_and(|x| x.material == Material::Soil);
    space.surfaces.iter().filter(move |s| !soil(s))
}

fn both(inside: &Row<HourAir>, outside: &Row<HourAir>, worst: Option<&SurfaceLog>) -> Vec<BothSides> {
    let surface = |i: usize| Temperature::new(worst?.t_c.get(i)?.as_ref()?.mean).ok();
    let hours = inside.iter().zip(outside).enumerate();
    hours
        .map(|(i, (a, e))| BothSides { inside: a.map(|a| a.air), outside: e.map(|e| e.air), surface: surface(i) })
        .collect()
}

/// What a space's air holds more than the outdoor air, g/m³.
pub(super) fn vapor_excess(inside: &Row<HourAir>, outside: &Row<HourAir>) -> Row<f64> {
    let more = |(i, e): (&Option<HourAir>, &Option<HourAir>)| {
        Some(1000.0 * (i.as_ref()?.air.absolute_humidity() - e.as_ref()?.air.absolute_humidity()))
    };
    inside.iter().zip(outside).map(more).collect()
}

/// By the practice's clock.
fn day(file: &CaseFile, view: &LogView, space: &SpaceLog) -> Option<MeanDay> {
    let zone = jiff::tz::TimeZone::get(&file.time_zone).ok()?;
    let clocked = |(i, h): (usize, &Option<HourAir>)| {
        let at = jiff::Timestamp::from_second(view.at(i).timestamp()).ok()?.to_zoned(zone.clone());
        let weekend = matches!(at.weekday(), jiff::civil::Weekday::Saturday | jiff::civil::Weekday::Sunday);
        Some((at.hour().unsigned_abs().into(), weekend, h.as_ref()?.dew_c?.mean))
    };
    mean_day(&space.air.iter().enumerate().filter_map(clocked).collect::<Vec<_>>())
}

/// From the finest steps there are.
fn changes(view: &LogView, space: &SpaceLog) -> Option<AirChanges> {
    let (view, space) = view.fine.as_deref().and_then(|f| Some((f, f.space(space.id)?))).unwrap_or((view, space));
    let vapor = |row: &Row<HourAir>| -> Row<f64> {
        row.iter().map(|h| h.map(|h| 1000.0 * h.air.absolute_humidity())).collect()
    };
    air_changes(&vapor(&space.air), &vapor(&view.outdoors), view.step.num_seconds() as f64 / 3600.0)
}

fn mold(file: &CaseFile, space: &SpaceLog, surface: &SurfaceLog) -> Option<MoldCourse> {
    let material = file.building.surface(surface.id)?.material;
    let course: Vec<f64> = surface.mold(&space.air, material).into_iter().flatten().collect();
    let peak = course.iter().copied().fold(0.0, f64::max);
    (course.len() >= LEAST_KNOWN).then(|| Some(MoldCourse { surface: surface.id, peak, end: *course.last()? }))?
}

fn humid(surface: &SurfaceLog, air: &Row<HourAir>) -> Option<Mean> {
    let value = mean(surface.humidity(air).into_iter(), LEAST_KNOWN)?;
    Some(Mean { surface: surface.id, value })
}

fn frozen(view: &LogView, surface: &SurfaceLog) -> Mean {
    let steps = surface.t_c.iter().flatten().filter(|t| t.mean <= 0.0).count();
    Mean { surface: surface.id, value: steps as f64 * view.step.num_seconds() as f64 / 3600.0 }
}

fn below(surface: &SurfaceLog) -> Option<Mean> {
    let said = &surface.said;
    (said.known >= LEAST_KNOWN as f64).then(|| Mean { surface: surface.id, value: said.wet * 336.0 / said.known })
}

fn mean(row: impl Iterator<Item = Option<f64>>, least: usize) -> Option<f64> {
    let (sum, n) = row.flatten().fold((0.0, 0), |(sum, n), x| (sum + x, n + 1));
    (n >= least).then(|| sum / n as f64)
}

fn machine(file: &CaseFile, space: &SpaceLog) -> Option<Machine> {
    let told: Vec<f64> = space.water.iter().flatten().copied().collect();
    // From the first hour that tells of it to the last.
    let hours = |row: &Row<f64>| {
        let first = row.iter().position(Option::is_some)?;
        Some(row.iter().rposition(Option::is_some)? - first + 1)
    };
    let span = hours(&space.water).filter(|h| *h >= LEAST_DAY);
    let liters_day = span.map(|h| told.iter().sum::<f64>() * 24.0 / h as f64);
    let most = space.power.iter().flatten().copied().fold(0.0, f64::max);
    let drawn: Vec<f64> = space.power.iter().flatten().copied().collect();
    let running = drawn.iter().filter(|w| **w >= RUNNING * most).count();
    let runs = (most > 0.0 && drawn.len() >= LEAST_DAY).then(|| running as f64 / drawn.len() as f64);
    if liters_day.is_none() && runs.is_none() {
        return None;
    }
    let of = |pick: fn(&HourAir) -> f64| mean(space.air.iter().map(|h| h.as_ref().map(pick)), LEAST_DAY);
    let air = of(|h| h.t_c.mean).zip(of(|h| h.rh_pct.mean)).and_then(|(t, rh)| {
        let (t, rh) = (Temperature::new(t).ok()?, RelativeHumidity::new(rh.clamp(0.0, 100.0)).ok()?);
        Some(AirValue { t, rh, over: Over::Water })
    });
    let capacity = file.label_in(space.id).zip(air).and_then(|(rated, air)| capacity(rated, &air));
    Some(Machine { liters_day, runs, capacity })
}

//! Two months of loggers for the demo's jobs. Air and weather follow the physics hour by hour and pass through what every visit
//! read.

use crate::DemoJob;
use crate::forecast::Waves;
use crate::scenario::{Noise, surface_temperature};
use building::{AlertKind, Building, Place, SensorKind, Side, SpaceKind};
use chrono::{DateTime, Datelike, TimeDelta, Timelike, Utc};
use hygrothermal::air::{MoistAir, Over, dew_point, saturation_pressure};
use hygrothermal::quantity::{Pressure, Temperature};
use logger::Point;
use serde::Deserialize;
use std::collections::HashMap;
use std::f64::consts::TAU;
use uuid::Uuid;

/// A logger of the demo and what it read.
pub struct DemoLogger {
    /// Name.
    pub name: String,
    /// Serial number.
    pub serial: String,
    /// Its sensors.
    pub sensors: Vec<DemoSensor>,
}

/// A sensor of a logger and what it read.
pub struct DemoSensor {
    /// The logger's name for it.
    pub channel: String,
    /// What it reads.
    pub kind: SensorKind,
    /// Where.
    pub place: Place,
    /// What it read, in the order of time.
    pub points: Vec<Point>,
}

/// Something that happened between visits.
pub struct DemoEvent {
    /// When.
    pub at: DateTime<Utc>,
    /// In few words.
    pub words: String,
    /// In which space.
    pub space: Option<Uuid>,
}

/// What a log is watched for.
pub struct DemoWatch {
    /// The space.
    pub space: Uuid,
    /// For what.
    pub kind: AlertKind,
    /// The figure not to be passed.
    pub figure: Option<f64>,
    /// For how many hours.
    pub hours: i32,
}

/// What was logged on a job.
pub struct DemoLog {
    /// Its loggers.
    pub loggers: Vec<DemoLogger>,
    /// What happened meanwhile.
    pub events: Vec<DemoEvent>,
    /// What it is watched for.
    pub watched: Vec<DemoWatch>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    job: Vec<Plan>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Plan {
    name: String,
    before_days: i64,
    after_days: i64,
    exchange: HashMap<String, f64>,
    event: Vec<EventPlan>,
    #[serde(default)]
    watch: Vec<WatchPlan>,
    logger: Vec<LoggerPlan>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct EventPlan {
    day: i64,
    words: String,
    space: String,
    exchange: f64,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct WatchPlan {
    space: String,
    kind: AlertKind,
    figure: Option<f64>,
    hours: i32,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct LoggerPlan {
    name: String,
    serial: String,
    minutes: i64,
    #[serde(default)]
    air: Vec<String>,
    #[serde(default)]
    surfaces: Vec<String>,
    #[serde(default)]
    rain: bool,
    /// How far its clock is ahead.
    #[serde(default)]
    clock_off_h: i64,
    /// When it was silent: day from its start, and days.
    #[serde(default)]
    silent: Vec<[f64; 2]>,
}

/// Minutes of a step of the weather.
const STEP_MIN: i64 = 30;
/// Days the weather runs before anything is logged, so that spaces have taken it up.
const WARM_UP: i64 = 6;

/// What loggers read on a job, in its building as it stands, whose visits began at these moments, up to `now`; nothing for a job
/// without loggers. A place that is no longer there has no sensor.
///
/// # Errors
/// What is wrong with the shipped tables, in words.
pub fn logs(
    seed: u64,
    job: &DemoJob,
    building: &Building,
    visits: &[DateTime<Utc>],
    now: DateTime<Utc>,
) -> Result<Option<DemoLog>, String> {
    let file: File = toml::from_str(include_str!("../data/logs.toml")).map_err(|e| e.to_string())?;
    let Some(plan) = file.job.into_iter().find(|p| p.name == job.name) else { return Ok(None) };
    let (Some(first), Some(last)) = (visits.first(), visits.last()) else { return Ok(None) };
    let from = *first - TimeDelta::days(plan.before_days);
    let until = (*last + TimeDelta::days(plan.after_days)).min(now);
    let weather = Weather::of(seed, &plan, (job, building), visits, [from, until]);
    let mut noise = Noise(seed ^ 0x10_66);
    let loggers = plan.logger.iter().map(|l| logger(l, &weather, from, &mut noise)).collect();
    let space = |name: &str| building.spaces.iter().find(|s| s.name == name).map(|s| s.id);
    let watched = plan
        .watch
        .iter()
        .filter_map(|w| Some(DemoWatch { space: space(&w.space)?, kind: w.kind, figure: w.figure, hours: w.hours }));
    let watched = watched.collect();
    let events = plan.event.iter().filter(|e| *last + TimeDelta::days(e.day) < until).map(|e| DemoEvent {
        at: *last + TimeDelta::days(e.day),
        words: e.words.clone(),
        space: space(&e.space),
    });
    Ok(Some(DemoLog { loggers, events: events.collect(), watched }))
}

/// What the loggers of a job would show at a moment, each sensor with one reading; between two steps of the weather in a line.
///
/// # Errors
/// What is wrong with the shipped tables, in words.
pub fn showing(
    seed: u64,
    job: &DemoJob,
    building: &Building,
    visits: &[DateTime<Utc>],
    at: DateTime<Utc>,
) -> Result<Vec<DemoLogger>, String> {
    let step = TimeDelta::minutes(STEP_MIN);
    let of = |at: DateTime<Utc>| -> Result<Vec<DemoLogger>, String> {
        let log = logs(seed, job, building, visits, at)?;
        Ok(log.map(|l| l.loggers).unwrap_or_default())
    };
    let (before, mut after) = (of(at)?, of(at + step)?);
    for (logger, earlier) in after.iter_mut().zip(&before) {
        for (sensor, earlier) in logger.sensors.iter_mut().zip(&earlier.sensors) {
            let known = earlier.points.last().zip(sensor.points.last());
            let share = known.map_or(0.0, |(a, b)| {
                let whole = (b.at - a.at).num_seconds() as f64;
                if whole > 0.0 { (at - a.at).num_seconds() as f64 / whole } else { 0.0 }
            });
            let mix =
                |a: Option<f64>, b: Option<f64>| a.zip(b).map(|(a, b)| ((a + (b - a) * share) * 100.0).round() / 100.0);
            sensor.points = known
                .map(|(a, b)| Point {
                    at,
                    t_c: mix(a.t_c, b.t_c),
                    rh_pct: mix(a.rh_pct, b.rh_pct),
                    value: mix(a.value, b.value),
                })
                .into_iter()
                .collect();
        }
    }
    Ok(after)
}

/// Weather and the air of every space, step by step.
struct Weather<'a> {
    building: &'a Building,
    from: DateTime<Utc>,
    /// Temperature and dew point outdoors, °C.
    outdoors: Vec<[f64; 2]>,
    spaces: HashMap<Uuid, Vec<[f64; 2]>>,
    ground: Vec<f64>,
    rain: Vec<f64>,
}

/// Moves a row so that it passes through known figures: what is missing at each is spread in a line between them.
fn through(row: &mut [f64], known: &[(usize, f64)]) {
    let missing: Vec<(usize, f64)> = known.iter().filter_map(|(i, x)| Some((*i, x - row.get(*i)?))).collect();
    for (i, x) in row.iter_mut().enumerate() {
        let before = missing.iter().rev().find(|(at, _)| *at <= i);
        let after = missing.iter().find(|(at, _)| *at >= i);
        *x += match (before, after) {
            (Some((a, x)), Some((b, y))) if b > a => x + (y - x) * (i - a) as f64 / (b - a) as f64,
            (Some((_, x)), _) | (_, Some((_, x))) => *x,
            _ => 0.0,
        };
    }
}

fn pressure_at(dew_c: f64) -> f64 {
    Temperature::new(dew_c).map_or(0.0, saturation_pressure)
}

fn dew_at(pressure: f64) -> f64 {
    dew_point(pressure).map_or(-40.0, Temperature::get)
}

impl<'a> Weather<'a> {
    fn of(
        seed: u64,
        plan: &Plan,
        (job, building): (&DemoJob, &'a Building),
        visits: &[DateTime<Utc>],
        [from, until]: [DateTime<Utc>; 2],
    ) -> Self {
        let from = from - TimeDelta::days(WARM_UP);
        let steps = usize::try_from((until - from).num_minutes() / STEP_MIN).unwrap_or(0) + 1;
        let index = |at: DateTime<Utc>| usize::try_from((at - from).num_minutes() / STEP_MIN).unwrap_or(0);
        let at: Vec<usize> = visits.iter().map(|v| index(*v + TimeDelta::minutes(15))).collect();
        let mut noise = Noise(seed ^ job.name.bytes().fold(7_u64, |h, b| h.wrapping_mul(31).wrapping_add(b.into())));
        let outdoors = outdoors(&mut noise, job, from, steps, &at);
        let mut ground = vec![0.0; steps];
        through(&mut ground, &at.iter().copied().zip(job.visits.iter().map(|v| v.weather.ground)).collect::<Vec<_>>());
        let rain = rain(&mut noise, &outdoors);
        let mut weather = Self { building, from, outdoors, spaces: HashMap::new(), ground, rain };
        for space in &building.spaces {
            let Some(own) = job.building.spaces.iter().find(|s| s.name == space.name) else { continue };
            let known: Vec<(usize, [f64; 2])> =
                at.iter().zip(&job.visits).filter_map(|(i, v)| Some((*i, *v.weather.air.get(&own.id)?))).collect();
            let Some(first) = plan.exchange.get(&space.name).copied() else { continue };
            let changes = plan.event.iter().filter(|e| e.space == space.name);
            let changes: Vec<(usize, f64)> =
                changes.filter_map(|e| Some((index(*visits.last()? + TimeDelta::days(e.day)), e.exchange))).collect();
            let exchange = |i: usize| changes.iter().rev().find(|(at, _)| *at <= i).map_or(first, |(_, n)| *n);
            let air = weather.air(space.kind, &known, exchange, &Waves::new(&mut noise));
            weather.spaces.insert(space.id, air);
        }
        weather
    }

    /// The air of a space: its temperature follows outdoors as its kind does; its vapor what comes in with the air, what the ground
    /// gives and takes, and who lives there.
    fn air(
        &self,
        kind: SpaceKind,
        known: &[(usize, [f64; 2])],
        exchange: impl Fn(usize) -> f64,
        waves: &Waves,
    ) -> Vec<[f64; 2]> {
        // Hours the temperature lags, the part of a change outdoors that arrives, and how strongly the ground takes part (1/h).
        let (lag, part, earth) = match kind {
            SpaceKind::Crawl | SpaceKind::UnderFloor => (14.0, 0.35, 0.12),
            SpaceKind::Basement | SpaceKind::Bilge => (40.0, 0.12, 0.03),
            SpaceKind::Attic | SpaceKind::Tent => (1.5, 1.1, 0.0),
            SpaceKind::Locker | SpaceKind::Garage => (4.0, 0.7, 0.0),
            SpaceKind::Room | SpaceKind::VehicleCabin | SpaceKind::BoatCabin => (12.0, 0.06, 0.0),
        };
        let lived_in =
            matches!(kind, SpaceKind::Room | SpaceKind::VehicleCabin | SpaceKind::BoatCabin | SpaceKind::Tent);
        let step = STEP_MIN as f64 / 60.0;
        let mut slow = self.outdoors[0][0];
        let mut vapor = pressure_at(self.outdoors[0][1]);
        let (mut t, mut dew) = (Vec::with_capacity(self.outdoors.len()), Vec::with_capacity(self.outdoors.len()));
        for (i, [out, out_dew]) in self.outdoors.iter().enumerate() {
            let clock = f64::from((self.from + TimeDelta::minutes(STEP_MIN * i as i64)).hour());
            slow += (out - slow) * (1.0 - (-step / lag).exp());
            let people = if lived_in && !(9.0..17.0).contains(&clock) { 1.0 } else { 0.0 };
            let rhythm = if lived_in { 0.5 * people } else { 0.0 };
            t.push(part * slow + rhythm + 0.15 * waves.at(i as f64 * step));
            let n = exchange(i);
            let earth_vapor = pressure_at(self.ground[i] + 1.0);
            // Toward what air, ground and people would bring about, as fast as they act together.
            let rate = n + earth + 0.02;
            let target = (n * pressure_at(*out_dew) + earth * earth_vapor + 90.0 * people + 0.02 * vapor) / rate;
            vapor = target + (vapor - target) * (-rate * step).exp();
            dew.push(dew_at(vapor));
        }
        through(&mut t, &known.iter().map(|(i, [t, _])| (*i, *t)).collect::<Vec<_>>());
        through(&mut dew, &known.iter().map(|(i, [_, d])| (*i, *d)).collect::<Vec<_>>());
        t.into_iter().zip(dew).map(|(t, d)| [t, d.min(t - 0.1)]).collect()
    }

    fn index(&self, at: DateTime<Utc>) -> usize {
        usize::try_from((at - self.from).num_minutes() / STEP_MIN).unwrap_or(0).min(self.outdoors.len() - 1)
    }

    fn place(&self, place: Place, i: usize) -> Option<[f64; 2]> {
        match place {
            Place::Outdoors => Some(self.outdoors[i]),
            Place::Space(id) => Some(self.spaces.get(&id)?[i]),
            Place::Surface(_) => None,
        }
    }

    /// Temperature of a surface, as a visit would read it.
    fn surface(&self, id: Uuid, i: usize) -> Option<f64> {
        let surface = self.building.surface(id)?;
        let boundary = self.building.boundary(surface.boundary_id)?;
        let space = self.building.space(surface.space_id)?;
        let inside = self.place(Place::Space(space.id), i)?[0];
        let beyond = match boundary.beyond {
            Side::Outdoors => self.outdoors[i][0],
            Side::Ground => self.ground[i],
            Side::Space(other) => self.place(Place::Space(other), i)?[0],
        };
        Some(surface_temperature(surface, boundary, space.kind, inside, beyond, self.ground[i]))
    }
}

fn outdoors(noise: &mut Noise, job: &DemoJob, from: DateTime<Utc>, steps: usize, at: &[usize]) -> Vec<[f64; 2]> {
    let (warm, moist) = (Waves::new(noise), Waves::new(noise));
    let (mut t, mut dew) = (Vec::with_capacity(steps), Vec::with_capacity(steps));
    for i in 0..steps {
        let now = from + TimeDelta::minutes(STEP_MIN * i as i64);
        let hours = i as f64 * STEP_MIN as f64 / 60.0;
        // Days swing more in summer, under a clearer sky.
        let season = (TAU * (f64::from(now.ordinal()) - 195.0) / 365.0).cos();
        let swing = 3.6 + 1.8 * season;
        let clock = f64::from(now.hour()) + f64::from(now.minute()) / 60.0;
        t.push(2.6 * warm.at(hours) + swing * (TAU * (clock - 15.0) / 24.0).cos());
        dew.push(1.7 * moist.at(hours) + 0.8 * (TAU * (clock - 11.0) / 24.0).cos());
    }
    let known = |k: usize| at.iter().copied().zip(job.visits.iter().map(|v| v.weather.outdoor[k])).collect::<Vec<_>>();
    through(&mut t, &known(0));
    through(&mut dew, &known(1));
    t.into_iter().zip(dew).map(|(t, d)| [t, d.min(t - 0.3)]).collect()
}

/// Rain of each step, mm: in spells, when the air is near saturation.
fn rain(noise: &mut Noise, outdoors: &[[f64; 2]]) -> Vec<f64> {
    let mut left = 0_usize;
    let mut rate = 0.0;
    let step = |[t, dew]: &[f64; 2]| {
        let (starts, strength) = (0.5 + 0.5 * noise.next(), 0.5 + 0.5 * noise.next());
        if left == 0 && *t > 0.5 && t - dew < 3.0 && starts < 0.02 {
            left = 4 + (14.0 * strength) as usize;
            rate = 0.3 + 1.8 * strength;
        }
        if left == 0 {
            return 0.0;
        }
        left -= 1;
        (10.0 * rate * (0.4 + 1.2 * strength)).round() / 10.0
    };
    outdoors.iter().map(step).collect()
}

fn logger(plan: &LoggerPlan, weather: &Weather, from: DateTime<Utc>, noise: &mut Noise) -> DemoLogger {
    let building = weather.building;
    let until = weather.from + TimeDelta::minutes(STEP_MIN * (weather.outdoors.len() as i64 - 1));
    let off = TimeDelta::hours(plan.clock_off_h);
    let silent = |at: DateTime<Utc>| {
        let days = (at - from).num_minutes() as f64 / 1440.0;
        plan.silent.iter().any(|[start, length]| (*start..start + length).contains(&days))
    };
    let begin = from.with_minute(0).and_then(|t| t.with_second(0)).unwrap_or(from);
    let moments = || {
        let all = (0..).map(move |i| begin + TimeDelta::minutes(plan.minutes * i)).take_while(move |at| *at <= until);
        all.filter(|at| !silent(*at))
    };
    let mut sensors = Vec::new();
    for name in &plan.air {
        let place = match building.spaces.iter().find(|s| s.name == *name) {
            Some(space) => Place::Space(space.id),
            None if name == "Outdoors" => Place::Outdoors,
            None => continue,
        };
        let points = moments().filter_map(|at| {
            let [t, dew] = weather.place(place, weather.index(at))?;
            let t = ((t + 0.04 * noise.next()) * 100.0).round() / 100.0;
            let air = MoistAir::from_dew_point(
                Temperature::new(t).ok()?,
                Temperature::new(dew.min(t)).ok()?,
                Pressure::STANDARD,
            );
            let rh = air.ok()?.rh(Over::Water) + 0.15 * noise.next();
            Some(Point {
                at: at + off,
                t_c: Some(t),
                rh_pct: Some((rh.clamp(1.0, 100.0) * 10.0).round() / 10.0),
                value: None,
            })
        });
        sensors.push(DemoSensor { channel: name.clone(), kind: SensorKind::Air, place, points: points.collect() });
    }
    for name in &plan.surfaces {
        let Some(surface) = building.surfaces.iter().find(|s| s.name == *name) else { continue };
        let points = moments().filter_map(|at| {
            let t = weather.surface(surface.id, weather.index(at))? + 0.05 * noise.next();
            Some(Point { at: at + off, t_c: Some((t * 100.0).round() / 100.0), rh_pct: None, value: None })
        });
        let place = Place::Surface(surface.id);
        sensors.push(DemoSensor { channel: name.clone(), kind: SensorKind::Surface, place, points: points.collect() });
    }
    if plan.rain {
        let each = (plan.minutes / STEP_MIN).max(1);
        let points = moments().map(|at| {
            let end = weather.index(at);
            let start = end.saturating_sub(usize::try_from(each).unwrap_or(1) - 1);
            let mm: f64 = weather.rain[start..=end].iter().sum();
            Point { at, t_c: None, rh_pct: None, value: Some((mm * 10.0).round() / 10.0) }
        });
        sensors.push(DemoSensor {
            channel: String::new(),
            kind: SensorKind::Rain,
            place: Place::Outdoors,
            points: points.collect(),
        });
    }
    DemoLogger { name: plan.name.clone(), serial: plan.serial.clone(), sensors }
}

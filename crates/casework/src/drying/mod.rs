//! A drying job as it stands: its points with their curves, its air, its machines, and what may be closed in.

mod air;
mod reads;

pub(crate) use air::moist;
pub use air::{Airs, HourWays, Outside, ahead, now};
pub use reads::{AirAt, liters_a_day, metered};

use crate::file::CaseFile;
use building::drying::{DryPoint, DryRead, DryScale, Machine};
use chrono::{DateTime, Utc};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::drying::{OutOfBounds, out_of_bounds};
use hygrothermal::quantity::{RelativeHumidity, Temperature};
use hygrothermal::wood::equilibrium_moisture;
use judgment::drying::{
    DryMaterial, Lack, MachineCase, MachineSaid, PointCase, PointClose, PointRead, PointSaid, State, Surround,
    TentSaid, Units, capacity, lacks, machine, material, materials, point, tent, units,
};
use judgment::limits::Limited;
use std::collections::HashMap;
use uuid::Uuid;

/// A meter's check holds so long, days (common practice: yearly, or after a knock).
pub use crate::file::CHECK_HOLDS;
/// How far the humidity behind an equilibrium may be off, % (a hand hygrometer's).
const RH_ERR: f64 = 3.0;
/// Days a sheet must stay dry on both sides before a slab is closed in (common practice).
pub const SHEET_DAYS: f64 = 2.0;
/// Milliseconds of a day.
const DAY: f64 = 86_400_000.0;

/// A point with everything said of it.
pub struct Dried {
    /// The point.
    pub point: DryPoint,
    /// Its material.
    pub material: &'static DryMaterial,
    /// What was read there, oldest first.
    pub reads: Vec<PointRead>,
    /// What is said.
    pub said: PointSaid,
}

/// A machine with everything said of it.
pub struct Stands {
    /// The machine.
    pub machine: Machine,
    /// Whether it runs.
    pub running: bool,
    /// Liters a day it collected lately.
    pub liters: Option<f64>,
    /// Liters in all.
    pub collected: f64,
    /// kWh by its own meter.
    pub metered: Option<f64>,
    /// What is said.
    pub said: MachineSaid,
    /// Of a tent: what its exit holds more than its supply.
    pub tent: Option<TentSaid>,
}

/// What is closed in together.
pub struct Cavity {
    /// What it is called.
    pub name: String,
    /// Its space.
    pub space: Uuid,
    /// Places of its points among all.
    pub points: Vec<usize>,
    /// What is missing before it may be closed in.
    pub lacks: Vec<Lack>,
    /// When the last of its points passes its goal, ms since 1970, with the band; none where one has no day.
    pub day: Option<[i64; 3]>,
}

impl Cavity {
    /// Whether it may be closed in.
    #[must_use]
    pub fn is_ready(&self) -> bool {
        self.lacks.is_empty()
    }
}

/// A drying job as it stands.
pub struct Drying {
    /// Points in the order of the round.
    pub points: Vec<Dried>,
    /// Machines.
    pub machines: Vec<Stands>,
    /// Cavities in the order of their first point.
    pub cavities: Vec<Cavity>,
    /// Air by place.
    pub airs: Airs,
    /// Where air is out of bounds.
    pub beyond: Vec<(Uuid, OutOfBounds)>,
    /// Machines wanted, by space.
    pub units: Vec<(Uuid, Units)>,
    /// When the last point passes its goal; none where one has no day.
    pub day: Option<[i64; 3]>,
    /// When the latest round was read.
    pub last: Option<DateTime<Utc>>,
}

impl CaseFile {
    /// Its drying as it stands, worked out once.
    #[must_use]
    pub fn dried(&self) -> &Drying {
        self.worked.drying.get_or_init(|| Box::new(Drying::of(self)))
    }

    /// Whether a meter was checked, so that what it read on a day may stand in a certificate.
    #[must_use]
    pub fn meter_is_checked(&self, meter: Option<Uuid>, at: i64) -> bool {
        let on = meter.and_then(|id| self.instrument(id)).and_then(|i| i.checked_on);
        let read = DateTime::from_timestamp_millis(at).map(|t| t.date_naive());
        on.zip(read).is_some_and(|(on, read)| (0..=CHECK_HOLDS).contains(&(read - on).num_days()))
    }
}

/// The goal of a point: its own, else by material.
#[must_use]
pub fn goal(file: &CaseFile, p: &DryPoint) -> Option<f64> {
    let usual = || match p.scale {
        DryScale::Percent => Some(file.limits().percent(Limited::WoodGoal)),
        DryScale::Relative => Some(p.standard? * file.limits().percent(Limited::MapDry) / 100.0),
    };
    p.goal.or_else(usual)
}

/// What a point settles at in air, and how far that may be off.
#[must_use]
pub fn equilibrium(p: &DryPoint, air: Option<&MoistAir>) -> Option<(f64, f64)> {
    if p.scale == DryScale::Relative {
        return Some((p.standard?, 0.0));
    }
    let (t, rh) = air.map(|a| (a.temperature(), a.rh(Over::Water)))?;
    let at = |rh: f64| equilibrium_moisture(t, RelativeHumidity::new(rh.clamp(0.0, 100.0)).ok()?).ok();
    Some((at(rh)?, (at(rh + RH_ERR)? - at(rh - RH_ERR)?).abs() / 2.0))
}

/// The latest of a day and its band over several; none where one has none.
fn latest(days: impl IntoIterator<Item = Option<[i64; 3]>>) -> Option<[i64; 3]> {
    let mut all: Option<[i64; 3]> = None;
    for day in days {
        let day = day?;
        all = Some(all.map_or(day, |a| [0, 1, 2].map(|i| a[i].max(day[i]))));
    }
    all
}

/// Points judged on one core before another helps: a thread costs as much as a point.
const ALONE: usize = 16;

/// Something of each, in order.
fn on_all_cores<T: Sync, R: Send>(all: &[T], of: impl Fn(&T) -> R + Sync) -> Vec<R> {
    let cores = std::thread::available_parallelism().map_or(1, usize::from).min(all.len() / ALONE + 1);
    let share = |piece: &[T]| piece.iter().map(&of).collect::<Vec<R>>();
    let share = &share;
    std::thread::scope(|scope| {
        let mut pieces = all.chunks(all.len().div_ceil(cores).max(1));
        let own = pieces.next();
        let helpers: Vec<_> = pieces.map(|piece| scope.spawn(move || share(piece))).collect();
        let first = own.map(share).unwrap_or_default();
        // A helper that panicked would have panicked here as well.
        let others = helpers.into_iter().flat_map(|h| h.join().unwrap_or_else(|e| std::panic::resume_unwind(e)));
        first.into_iter().chain(others).collect()
    })
}

impl Drying {
    fn of(file: &CaseFile) -> Self {
        let job = &file.drying;
        let airs = Airs::of(file);
        let now = file.read_at.timestamp_millis();
        let moves =
            |space: Uuid| job.machines.iter().any(|m| m.space_id == space && m.kind.moves_air() && m.ran_at(now));
        let stopped = job.event.as_ref().is_some_and(|e| e.stopped.is_some());
        let mut by_point: HashMap<Uuid, Vec<&store::DryingReading>> = HashMap::new();
        for r in file.drying_readings.iter().filter(|r| r.what == DryRead::Moisture) {
            by_point.entry(r.of_id).or_default().push(r);
        }
        let dried = |p: &DryPoint| {
            let air = airs.latest(p.space_id);
            let of = material(&p.material).unwrap_or(&materials()[0]);
            let rows = by_point.get(&p.id).map_or(&[][..], Vec::as_slice);
            let reads = reads::point_reads(p, rows, &airs);
            let around = Surround {
                stopped,
                air: air.map(|a| (a.air.temperature().get(), a.air.rh(Over::Water))),
                air_moves: moves(p.space_id)
                    || p.tent.is_some_and(|t| job.machines.iter().any(|m| m.id == t && m.ran_at(now))),
            };
            let said = point(&PointCase {
                point: p,
                material: of,
                reads: &reads,
                goal: goal(file, p),
                equilibrium: equilibrium(p, air.as_ref().map(|a| &a.air)),
                around,
            });
            Dried { point: p.clone(), material: of, reads, said }
        };
        let points: Vec<Dried> = on_all_cores(&job.points, dried);
        let machines: Vec<Stands> = job.machines.iter().map(|m| stands(file, m, &airs, &points, now)).collect();
        let cavities = cavities(file, &points, stopped);
        let growth = job.event.as_ref().is_some_and(|e| e.growth);
        let wet_spaces = job.event.as_ref().map(|e| e.spaces.clone()).unwrap_or_default();
        let beyond = wet_spaces.iter().filter_map(|s| Some((*s, airs.latest(*s)?)));
        let beyond = beyond.flat_map(|(s, a)| out_of_bounds(&a.air, growth).into_iter().map(move |b| (s, b))).collect();
        let wanted = |s: &Uuid| {
            let own = machines.iter().filter(|m| m.machine.space_id == *s && m.running && m.machine.kind.dries());
            let own: Option<Vec<(&Machine, f64)>> = own.map(|m| Some((&m.machine, m.liters?))).collect();
            Some((*s, units(&airs.latest(*s)?.air, &own.filter(|o| !o.is_empty())?)?))
        };
        Self {
            day: latest(points.iter().map(|p| day_of(&p.said))),
            units: wet_spaces.iter().filter_map(wanted).collect(),
            last: file.drying_readings.iter().map(|r| r.taken_at).max(),
            points,
            machines,
            cavities,
            airs,
            beyond,
        }
    }

    /// Machines that take water out of a space now, L/day at its latest air.
    #[must_use]
    pub fn capacity(&self, space: Uuid) -> f64 {
        let own = self.machines.iter().filter(|m| m.machine.space_id == space && m.running);
        own.filter_map(|m| capacity(&m.machine, &self.airs.latest(space)?.air)).sum()
    }

    /// Liters collected by all machines.
    #[must_use]
    pub fn collected(&self) -> f64 {
        self.machines.iter().map(|m| m.collected).sum()
    }

    /// Points still to be read.
    pub fn wet(&self) -> impl Iterator<Item = &Dried> {
        self.points.iter().filter(|p| p.said.is_wet())
    }

    /// A point.
    #[must_use]
    pub fn point(&self, id: Uuid) -> Option<&Dried> {
        self.points.iter().find(|p| p.point.id == id)
    }
}

/// When a point passed its goal or will.
fn day_of(said: &PointSaid) -> Option<[i64; 3]> {
    match said.state {
        State::AtGoal { since, .. } => Some([since; 3]),
        State::Drying(day) => day,
        _ => None,
    }
}

fn stands(file: &CaseFile, m: &Machine, airs: &Airs, points: &[Dried], now: i64) -> Stands {
    let own: Vec<&store::DryingReading> = file.drying_readings.iter().filter(|r| r.of_id == m.id).collect();
    let liters = liters_a_day(m, &own);
    let here = || points.iter().filter(|p| p.point.space_id == m.space_id);
    let said = machine(&MachineCase {
        machine: m,
        running: m.ran_at(now),
        inlet: airs.latest(m.space_id).map(|a| a.air),
        outlet: airs.outlets.get(&m.id).and_then(|a| a.last()).map(|a| a.air),
        liters,
        all_dry: here().next().is_some() && here().all(|p| !p.said.is_wet()),
        stalled: here().any(|p| matches!(p.said.state, State::Stalled(_))),
    });
    let collected = own.iter().filter(|r| r.what == DryRead::Liters).filter_map(|r| r.a).sum();
    Stands {
        machine: m.clone(),
        running: m.ran_at(now),
        liters,
        collected,
        metered: metered(&own),
        said,
        tent: tent(&airs.gaps(file, m.id)),
    }
}

fn cavities(file: &CaseFile, points: &[Dried], stopped: bool) -> Vec<Cavity> {
    let mut all: Vec<Cavity> = Vec::new();
    for (i, p) in points.iter().enumerate() {
        match all.iter_mut().find(|c| c.name == p.point.cavity && c.space == p.point.space_id) {
            Some(c) => c.points.push(i),
            None => all.push(Cavity {
                name: p.point.cavity.clone(),
                space: p.point.space_id,
                points: vec![i],
                lacks: Vec::new(),
                day: None,
            }),
        }
    }
    for c in &mut all {
        let own: Vec<&Dried> = c.points.iter().map(|i| &points[*i]).collect();
        let close: Vec<PointClose<'_>> = own
            .iter()
            .map(|p| PointClose {
                id: p.point.id,
                said: &p.said,
                unchecked: confirming(p)
                    .iter()
                    .filter(|r| !file.meter_is_checked(r.meter, r.at))
                    .map(|r| r.meter.unwrap_or_default())
                    .collect(),
            })
            .collect();
        let slab = own.iter().any(|p| p.point.material == "concrete");
        c.lacks = lacks(&close, stopped, slab.then(|| sheet_is_dry(file, c.space)));
        c.day = latest(own.iter().map(|p| day_of(&p.said)));
    }
    all
}

/// The first and the last of the readings that confirm a point's goal.
#[must_use]
pub fn confirming(p: &Dried) -> Vec<PointRead> {
    let State::AtGoal { since, .. } = p.said.state else { return Vec::new() };
    let first = p.reads.iter().find(|r| r.at == since);
    let mut both: Vec<PointRead> = first.into_iter().chain(p.said.latest.as_ref()).copied().collect();
    both.dedup();
    both
}

/// Whether the latest sheet of a space lay for two days and was dry on both sides.
fn sheet_is_dry(file: &CaseFile, space: Uuid) -> bool {
    let last = file.drying.sheets.iter().rfind(|s| s.space_id == space && s.depths.is_none());
    last.is_some_and(|s| (s.until - s.from) as f64 >= SHEET_DAYS * DAY && s.grams == Some(0.0) && !s.wet_on_top)
}

/// A temperature where it can be one.
fn degrees(t: f64) -> Option<Temperature> {
    Temperature::new(t).ok()
}

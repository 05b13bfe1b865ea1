//! The demo's drying job: every morning's round, by the physics of each point in the air of the day.

use crate::scenario::Noise;
use building::drying::{MachineKind, Spread, Water};
use hygrothermal::air::{MoistAir, Over, dew_point, vapor_pressure_of_ratio};
use hygrothermal::machine::{Dehumidifier, Rating};
use hygrothermal::quantity::{DailyWater, Pressure, RelativeHumidity, Temperature};
use hygrothermal::wood::equilibrium_moisture;
use serde::Deserialize;

/// A point and how it dries.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoPoint {
    /// What it is closed in with.
    pub cavity: String,
    /// Where.
    pub name: String,
    /// Id of its material.
    pub material: String,
    /// Its dry standard.
    pub standard: f64,
    /// What it shows at the start.
    pub start: f64,
    /// How fast it dries, 1/day.
    pub k: f64,
    /// What it dries toward; wood by the air.
    pub toward: Option<f64>,
    /// What covers it.
    #[serde(default)]
    pub cover: String,
}

/// A machine and when it ran, in days.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoMachine {
    /// What it is.
    pub kind: MachineKind,
    /// What it is called.
    pub name: String,
    /// L/day by its label.
    pub rated: Option<f64>,
    /// W.
    pub watts: f64,
    /// How it is set.
    #[serde(default)]
    pub setting: String,
    /// From.
    pub from: f64,
    /// Until.
    pub until: Option<f64>,
}

/// Something taken out.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoTaken {
    /// What.
    pub what: String,
    /// How much.
    pub amount: String,
    /// Why.
    pub why: String,
    /// On which day.
    pub day: f64,
}

/// A sheet.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoSheet {
    /// Where.
    pub name: String,
    /// The day it was read.
    pub day: f64,
    /// How long it lay.
    pub hours: f64,
    /// m² under it.
    pub area: f64,
    /// m² it stands for.
    pub whole: f64,
    /// g caught.
    pub grams: f64,
}

/// A drying job of the demo.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct DemoDrying {
    /// Name of the job.
    pub job: String,
    /// When it got wet.
    pub days_ago: i64,
    /// Rounds, one a day.
    pub rounds: u32,
    /// What happened.
    pub words: String,
    /// Which water.
    pub water: Water,
    /// How far it went.
    pub spread: Spread,
    /// How it was stopped.
    pub stopped_by: String,
    /// Spaces that got wet.
    pub spaces: Vec<String>,
    /// One that did not.
    pub unaffected: String,
    /// Day, temperature, dew point.
    pub air: Vec<[f64; 3]>,
    /// The same of the space that stayed dry.
    pub unaffected_air: Vec<[f64; 3]>,
    /// The same outdoors.
    pub outdoor_air: Vec<[f64; 3]>,
    /// Points.
    pub point: Vec<DemoPoint>,
    /// Machines.
    pub machine: Vec<DemoMachine>,
    /// What was taken out.
    pub taken: Vec<DemoTaken>,
    /// Sheets.
    pub sheet: Vec<DemoSheet>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    drying: Vec<DemoDrying>,
}

/// What was read on a round: air as temperature and humidity.
pub struct DemoRound {
    /// Days since it got wet.
    pub day: f64,
    /// Air outdoors, of the space that stayed dry, and of the first that got wet.
    pub air: [[f64; 2]; 3],
    /// What each machine gave, and the liters it collected, where it ran.
    pub machines: Vec<Option<([f64; 2], f64)>>,
    /// What the meter showed at each point.
    pub points: Vec<f64>,
}

/// The demo's drying jobs.
///
/// # Errors
/// What is wrong with the shipped table, in words.
pub fn dryings() -> Result<Vec<DemoDrying>, String> {
    toml::from_str::<File>(include_str!("../data/drying.toml")).map(|f| f.drying).map_err(|e| e.to_string())
}

/// Between rows of day, temperature and dew point.
fn between(rows: &[[f64; 3]], day: f64) -> Option<MoistAir> {
    let after = rows.iter().position(|r| r[0] >= day).unwrap_or(rows.len().checked_sub(1)?);
    let (a, b) = (rows[after.saturating_sub(1)], rows[after]);
    let share = if b[0] > a[0] { ((day - a[0]) / (b[0] - a[0])).clamp(0.0, 1.0) } else { 0.0 };
    let [t, dew] = [1, 2].map(|i| a[i] + share * (b[i] - a[i]));
    MoistAir::from_dew_point(Temperature::new(t).ok()?, Temperature::new(dew.min(t)).ok()?, Pressure::STANDARD).ok()
}

fn shown(air: &MoistAir, noise: &mut Noise) -> [f64; 2] {
    let round = |x: f64, by: f64| (x * by).round() / by;
    let rh = air.rh(Over::Water) + 0.4 * noise.next();
    [round(air.temperature().get() + 0.1 * noise.next(), 10.0), round(rh.min(99.9), 1.0)]
}

impl DemoDrying {
    /// Every round; `None` for a table whose air cannot be.
    #[must_use]
    pub fn rounds(&self, seed: u64) -> Option<Vec<DemoRound>> {
        let mut noise = Noise(seed ^ 0xD2_1E);
        let mut stands: Vec<f64> = self.point.iter().map(|p| p.start).collect();
        let mut all = Vec::new();
        let mut last = 0.0;
        for i in 0..self.rounds {
            // The first the afternoon it happened, then every morning.
            let day = if i == 0 { 0.4 } else { f64::from(i) + 0.1 };
            let inside = between(&self.air, day)?;
            let (t, rh) = (inside.temperature(), RelativeHumidity::new(inside.rh(Over::Water)).ok()?);
            let settles = equilibrium_moisture(t, rh).ok()?;
            let span = day - last;
            for (p, now) in self.point.iter().zip(&mut stands) {
                let toward = p.toward.unwrap_or(settles);
                *now = toward + (*now - toward) * (-p.k * span).exp();
            }
            let points = self.point.iter().zip(&stands).map(|(p, now)| {
                let wood = p.toward.is_none();
                let scatter = if wood { 0.25 } else { 0.012 * now };
                let read = now + scatter * noise.next();
                if wood { (read * 10.0).round() / 10.0 } else { read.round() }
            });
            let points = points.collect();
            let machines = self.machine.iter().map(|m| m.gives(&inside, [last, day], &mut noise)).collect();
            let [outside, dry] = [between(&self.outdoor_air, day)?, between(&self.unaffected_air, day)?];
            let air = [outside, dry, inside].map(|a| shown(&a, &mut noise));
            all.push(DemoRound { day, air, machines, points });
            last = day;
        }
        Some(all)
    }
}

impl DemoMachine {
    /// What it gave at the end of a span, and the liters it collected over it.
    fn gives(&self, inside: &MoistAir, [from, until]: [f64; 2], noise: &mut Noise) -> Option<([f64; 2], f64)> {
        let ran = until.min(self.until.unwrap_or(until)) - from.max(self.from);
        let rated = DailyWater::new(self.rated?).ok()?;
        if ran <= 0.0 {
            return None;
        }
        let rh = RelativeHumidity::new(inside.rh(Over::Water)).ok()?;
        let unit = Dehumidifier { rated, at: Rating::COOL };
        let capacity = unit.run(inside.temperature(), rh, DailyWater::new(0.0).ok()?).capacity;
        let liters = 0.93 * capacity * ran * (1.0 + 0.03 * noise.next());
        // Of some 130 m³ an hour that pass it.
        let drier = (capacity / 24.0 / 0.155).min(4.5);
        let w = (1000.0 * inside.humidity_ratio() - drier) / 1000.0;
        let t = Temperature::new(inside.temperature().get() + 5.0).ok()?;
        let dew = dew_point(vapor_pressure_of_ratio(w.max(0.001), Pressure::STANDARD))?;
        let out = MoistAir::from_dew_point(t, dew, Pressure::STANDARD).ok()?;
        Some((shown(&out, noise), (liters * 10.0).round() / 10.0))
    }
}

//! A coating: what to buy and mix, in which months it can be done, and what it saves.

use crate::climate::ClimateYear;
use building::coating::{CoatingJob, ProductLimits};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, Temperature};

/// Afternoon over a month's mean, K (ours).
const AFTERNOON: f64 = 4.0;

/// A batch to mix.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Jar {
    /// How many of this size.
    pub count: u64,
    /// In it, L.
    pub liters: f64,
    /// Concentrate and water, L; none where it is ready to use.
    pub parts: Option<[f64; 2]>,
}

/// What is bought and mixed.
#[derive(Debug, Clone, PartialEq)]
pub struct Mix {
    /// Each coat, L.
    pub coats: Vec<f64>,
    /// All of it, L.
    pub liters: f64,
    /// Of it what is bought, L.
    pub bought: f64,
    /// Packs of it, where their size is known.
    pub packs: Option<u64>,
    /// Full jars, then the last one.
    pub jars: Vec<Jar>,
}

/// What an area needs.
#[must_use]
pub fn mix(c: &CoatingJob, area: f64) -> Mix {
    let once = area / c.spread;
    let coats: Vec<f64> = (0..c.coats).map(|i| if i == 0 { once * c.first } else { once }).collect();
    let liters: f64 = coats.iter().sum();
    let parts = |l: f64| c.parts.map(|[a, b]| [l * a / (a + b), l * b / (a + b)]);
    let bought = parts(liters).map_or(liters, |p| p[0]);
    let full = (liters / c.jar_l + 1e-9).floor();
    let rest = liters - full * c.jar_l;
    let jar = |count: u64, liters: f64| Jar { count, liters, parts: parts(liters) };
    let mut jars = Vec::new();
    if full > 0.0 {
        jars.push(jar(full as u64, c.jar_l));
    }
    if rest > 1e-6 {
        jars.push(jar(1, rest));
    }
    Mix { coats, liters, bought, packs: c.pack_l.map(|p| (bought / p - 1e-9).ceil().max(1.0) as u64), jars }
}

/// Months of a climate whose usual afternoon a product can be put on in; rain is another matter.
#[must_use]
pub fn months(year: &ClimateYear, limits: &ProductLimits, warmer: f64) -> [bool; 12] {
    let can = |m: usize| {
        let t = year.t[m] + AFTERNOON;
        let surface = t + warmer;
        let air = MoistAir::from_dew_point(
            Temperature::new(t).ok()?,
            Temperature::new(year.dew[m].min(t)).ok()?,
            Pressure::STANDARD,
        )
        .ok()?;
        let [min, max] = limits.surface;
        let dry = surface >= year.dew[m] + limits.above_dew && air.rh(Over::Water) <= limits.rh;
        Some(surface >= min && surface <= max && dry)
    };
    std::array::from_fn(|m| can(m).unwrap_or(false))
}

/// kWh a year a dehumidifier no longer draws.
#[must_use]
pub fn saved_kwh(c: &CoatingJob) -> Option<f64> {
    let [before, after] = c.liters;
    Some((before? - after?) * f64::from(c.days) / c.efficiency)
}

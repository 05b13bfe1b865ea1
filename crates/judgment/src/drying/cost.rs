//! What drying cost so far, and what is to come.

use crate::plan::Prices;
use building::drying::{Machine, MachineKind};

/// Milliseconds of an hour and a day.
const HOUR: f64 = 3_600_000.0;
const DAY: f64 = 24.0;

/// Rent and power.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Cost {
    /// Days machines are paid for, all together.
    pub machine_days: f64,
    /// Hundredths of the currency for them; none where a price is missing.
    pub rent: Option<i64>,
    /// Energy, kWh.
    pub kwh: f64,
    /// Hundredths for it; none where its price is missing.
    pub power: Option<i64>,
    /// Machines of which neither meter nor watts are known.
    pub unmetered: usize,
}

impl Cost {
    /// All of it; none where a price is missing.
    #[must_use]
    pub fn total(&self) -> Option<i64> {
        Some(self.rent? + self.power?)
    }
}

/// The line of the price book a day of a machine is paid by.
const fn line(kind: MachineKind) -> &'static str {
    match kind {
        MachineKind::Compressor | MachineKind::Desiccant | MachineKind::Heater => "machine_day",
        MachineKind::AirMover | MachineKind::Tent => "fan_day",
        MachineKind::Scrubber => "filter_fan_day",
    }
}

fn sum(all: impl Iterator<Item = (f64, Option<i64>)>) -> (f64, Option<i64>) {
    all.fold((0.0, Some(0)), |(n, cents), (days, price)| {
        (n + days, cents.zip(price).map(|(c, p)| c + (days * p as f64).round() as i64))
    })
}

fn priced(rented: &[(&Machine, f64)], kwh: f64, unmetered: usize, prices: &Prices) -> Cost {
    let of = |(m, days): &(&Machine, f64)| (*days, prices.get(line(m.kind)).copied());
    let (machine_days, rent) = sum(rented.iter().map(of));
    let power = prices.get("kwh_year").map(|p| (kwh * *p as f64).round() as i64);
    Cost { machine_days, rent, kwh, power, unmetered }
}

/// So far: started days of rent, and energy by each machine's own meter, else by its watts.
#[must_use]
pub fn so_far(machines: &[(&Machine, Option<f64>)], now: i64, prices: &Prices) -> Cost {
    let rented: Vec<_> = machines.iter().map(|(m, _)| (*m, (m.hours(now) / DAY).ceil())).collect();
    let energy = |(m, metered): &(&Machine, Option<f64>)| metered.or(Some(m.watts? / 1000.0 * m.hours(now)));
    let kwh = machines.iter().filter_map(energy).sum();
    let unmetered = machines.iter().filter(|m| energy(m).is_none() && m.0.hours(now) > 0.0).count();
    priced(&rented, kwh, unmetered, prices)
}

/// To go, where what runs now runs on until a moment.
#[must_use]
pub fn to_go(machines: &[&Machine], [now, until]: [i64; 2], prices: &Prices) -> Cost {
    let hours = (until - now).max(0) as f64 / HOUR;
    let running: Vec<_> = machines.iter().filter(|m| m.ran_at(now)).map(|m| (*m, (hours / DAY).ceil())).collect();
    let kwh = running.iter().filter_map(|(m, _)| Some(m.watts? / 1000.0 * hours)).sum();
    let unmetered = running.iter().filter(|(m, _)| m.watts.is_none()).count();
    priced(&running, kwh, unmetered, prices)
}

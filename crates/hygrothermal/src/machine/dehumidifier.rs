//! What a dehumidifier takes out here, and what that costs.

use crate::quantity::{DailyWater, Factor, RelativeHumidity, Temperature, Volume};

/// A household unit's bucket, L (common practice).
pub const BUCKET: f64 = 6.0;
/// Colder than this (°C) a standard unit's coil frosts (common practice: 15 to 18 °C).
const FROSTS_UNDER: f64 = 18.0;

/// The state at which a capacity is rated.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rating {
    /// Air temperature.
    pub t: Temperature,
    /// Relative humidity.
    pub rh: RelativeHumidity,
}

impl Rating {
    /// 18.3 °C and 60 %: US ratings since 2019.
    pub const COOL: Self = Self { t: Temperature::const_checked(18.3), rh: RelativeHumidity::const_checked(60.0) };
    /// 26.7 °C and 60 %: the older ratings, which look larger.
    pub const WARM: Self = Self { t: Temperature::const_checked(26.7), rh: RelativeHumidity::const_checked(60.0) };
}

/// Capacity of a generic compressor unit against its largest rating, 0 up.
///
/// # Formula
/// −1.1625 + 0.022715 t − 0.00011321 t² + 0.021111 φ − 0.000069303 φ² + 0.00037884 t φ (t °C, φ %), held at the edges of
/// 10 to 35 °C and 30 to 100 %, never below 0. Source: generic residential curve, from memory.
#[must_use]
pub fn relative_capacity(t: Temperature, rh: RelativeHumidity) -> f64 {
    let (t, phi) = (t.get().clamp(10.0, 35.0), rh.get().clamp(30.0, 100.0));
    let curve = -1.1625 + 0.022_715 * t - 0.000_113_21 * t * t + 0.021_111 * phi - 0.000_069_303 * phi * phi
        + 0.000_378_84 * t * phi;
    curve.max(0.0)
}

/// A unit as its label says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dehumidifier {
    /// Capacity at the rating.
    pub rated: DailyWater,
    /// Where it was rated.
    pub at: Rating,
}

/// A unit at work.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Running {
    /// What it takes out if it never stops, L/day.
    pub capacity: f64,
    /// Load over capacity, may pass 1; `None` when the capacity is 0.
    pub runtime: Option<f64>,
    /// Units needed; `None` when no number of them would do.
    pub units: Option<u64>,
    /// Whether a standard unit's coil frosts at this temperature.
    pub frosts: bool,
}

impl Running {
    /// How often a day a household bucket must be emptied; with more than one, a pump or a drain is wanted.
    #[must_use]
    pub fn bucket_empties(&self, load: DailyWater) -> f64 {
        load.get().min(self.capacity) / BUCKET
    }

    /// Energy used, kWh/day, and its cost a day: `efficiency` in L/kWh as labeled, `price` per kWh; `None` for an
    /// efficiency of 0.
    #[must_use]
    pub fn energy(&self, load: DailyWater, efficiency: Factor, price: Factor) -> Option<(f64, f64)> {
        (efficiency.get() > 0.0).then(|| {
            let kwh = load.get().min(self.capacity) / efficiency.get();
            (kwh, kwh * price.get())
        })
    }
}

impl Dehumidifier {
    /// What it does in air at `t` and `rh` against a load.
    #[must_use]
    pub fn run(&self, t: Temperature, rh: RelativeHumidity, load: DailyWater) -> Running {
        let at_rating = relative_capacity(self.at.t, self.at.rh);
        let share = if at_rating > 0.0 { relative_capacity(t, rh) / at_rating } else { 0.0 };
        let capacity = self.rated.get() * share;
        let runtime = (capacity > 0.0).then(|| load.get() / capacity);
        // A hair of tolerance: a load that equals the capacity needs one unit, not two.
        let units = if load.get() <= 0.0 { Some(0) } else { runtime.map(|r| (r - 1e-9).ceil().max(1.0) as u64) };
        Running { capacity, runtime, units, frosts: t.get() < FROSTS_UNDER }
    }
}

/// Rule of thumb of the drying trade, L/day: the volume in ft³ over 50 gives pints at the start (common practice, from
/// memory). A cross-check only, never the sizing.
#[must_use]
pub fn restoration_rule(volume: Volume) -> f64 {
    volume.get() * 35.314_67 / 50.0 * 0.473_176_473
}

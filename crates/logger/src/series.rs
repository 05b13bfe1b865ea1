//! What a sensor read over time: single readings, and hours made of them.

use chrono::{DateTime, DurationRound, TimeDelta, Utc};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};

/// One reading of a sensor. Air has a temperature and a relative humidity, a surface a temperature; all else is a value in the
/// core's own unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Point {
    /// When.
    pub at: DateTime<Utc>,
    /// Temperature, °C.
    pub t_c: Option<f64>,
    /// Relative humidity over liquid water, %.
    pub rh_pct: Option<f64>,
    /// Any other figure.
    pub value: Option<f64>,
}

/// The mean of readings, and the lowest and highest of them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spread {
    /// How many they are.
    pub n: u32,
    /// Their mean.
    pub mean: f64,
    /// The lowest.
    pub low: f64,
    /// The highest.
    pub high: f64,
}

/// A sensor's readings of one hour, or of a longer span.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hour {
    /// When it begins.
    pub at: DateTime<Utc>,
    /// Readings in it.
    pub points: u32,
    /// Temperature, °C.
    pub t_c: Option<Spread>,
    /// Relative humidity over liquid water, %.
    pub rh_pct: Option<Spread>,
    /// Dew point of the air, °C.
    pub dew_c: Option<Spread>,
    /// Any other figure.
    pub value: Option<Spread>,
}

impl Spread {
    /// Of these readings and others together.
    #[must_use]
    pub fn with(self, other: Self) -> Self {
        let n = self.n + other.n;
        let sum = self.mean * f64::from(self.n) + other.mean * f64::from(other.n);
        Self { n, mean: sum / f64::from(n), low: self.low.min(other.low), high: self.high.max(other.high) }
    }
}

impl Hour {
    /// Of these readings and others together, beginning when this one does.
    #[must_use]
    pub fn with(&self, other: &Self) -> Self {
        let both = |of: fn(&Self) -> Option<Spread>| match (of(self), of(other)) {
            (Some(a), Some(b)) => Some(a.with(b)),
            (a, b) => a.or(b),
        };
        Self {
            at: self.at,
            points: self.points + other.points,
            t_c: both(|h| h.t_c),
            rh_pct: both(|h| h.rh_pct),
            dew_c: both(|h| h.dew_c),
            value: both(|h| h.value),
        }
    }
}

/// The dew point of air as logged, °C; `None` where there is none.
#[must_use]
pub fn dew_c(t_c: f64, rh_pct: f64) -> Option<f64> {
    let t = Temperature::new(t_c).ok()?;
    let rh = RelativeHumidity::new(rh_pct.clamp(0.0, 100.0)).ok()?;
    // A frosted sensor shows more than ice can hold: the air is saturated.
    let air = MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD)
        .or_else(|_| MoistAir::saturated(t, Pressure::STANDARD));
    air.ok()?.dew_point().map(Temperature::get)
}

#[derive(Default)]
struct Sum {
    of: f64,
    n: u32,
    low: f64,
    high: f64,
}

impl Sum {
    fn add(&mut self, x: Option<f64>) {
        let Some(x) = x else { return };
        (self.low, self.high) = if self.n == 0 { (x, x) } else { (self.low.min(x), self.high.max(x)) };
        self.of += x;
        self.n += 1;
    }

    fn spread(&self) -> Option<Spread> {
        (self.n > 0).then(|| Spread { n: self.n, mean: self.of / f64::from(self.n), low: self.low, high: self.high })
    }
}

/// Makes hours, or spans of another length, of readings that come in the order of time.
pub struct Hours {
    step: TimeDelta,
    at: Option<DateTime<Utc>>,
    points: u32,
    sums: [Sum; 4],
}

impl Default for Hours {
    fn default() -> Self {
        Self::of(TimeDelta::hours(1))
    }
}

impl Hours {
    /// Spans of a length that divides a day.
    #[must_use]
    pub fn of(step: TimeDelta) -> Self {
        Self { step, at: None, points: 0, sums: Default::default() }
    }

    /// Takes a reading; gives the hour before it where that is over.
    pub fn take(&mut self, point: &Point) -> Option<Hour> {
        let hour = point.at.duration_trunc(self.step).unwrap_or(point.at);
        let done = if self.at == Some(hour) { None } else { self.end() };
        self.at = Some(hour);
        self.points += 1;
        let dew = point.t_c.zip(point.rh_pct).and_then(|(t, rh)| dew_c(t, rh));
        for (sum, x) in self.sums.iter_mut().zip([point.t_c, point.rh_pct, dew, point.value]) {
            sum.add(x);
        }
        done
    }

    /// The last hour, if any.
    pub fn end(&mut self) -> Option<Hour> {
        let fresh = Self::of(self.step);
        let Self { at, points, sums, .. } = std::mem::replace(self, fresh);
        let [t_c, rh_pct, dew_c, value] = sums.map(|s| s.spread());
        Some(Hour { at: at?, points, t_c, rh_pct, dew_c, value })
    }
}

/// The beginning of the hour a moment lies in, by universal time.
#[must_use]
pub fn hour_of(at: DateTime<Utc>) -> DateTime<Utc> {
    at.duration_trunc(TimeDelta::hours(1)).unwrap_or(at)
}

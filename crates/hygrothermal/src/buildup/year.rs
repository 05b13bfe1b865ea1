//! A year month by month: what collects, what dries, what is carried over.

use super::layer::{BuildUp, Sides};
use super::profile::{LEAST_RATE, rate};
use super::taut::Taut;
use crate::quantity::{Days, Temperature};

/// A month's mean airs.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Month {
    /// Inside and outside air.
    pub sides: Sides,
    /// Its length.
    pub days: Days,
}

/// Water a plane gained in a month; negative dried.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gain {
    /// Which interface.
    pub interface: usize,
    /// How much, g/m².
    pub grams: f64,
    /// Whether the plane was below 0 °C: frost, which thaws all at once.
    pub frozen: bool,
}

/// What one month did.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct MonthResult {
    /// Planes that gained or lost water.
    pub gains: Vec<Gain>,
    /// Water held in all planes at its end, g/m².
    pub held: f64,
}

/// What the year did.
#[derive(Debug, Clone, PartialEq)]
pub struct Year {
    /// Month the reckoning began with, 0 the first given.
    pub start: usize,
    /// In the order given.
    pub months: [MonthResult; 12],
    /// Most water held at the end of any month, g/m².
    pub peak: f64,
    /// Whether nothing is held after twelve months.
    pub dries_out: bool,
}

impl BuildUp {
    /// Reckons twelve months by ISO 13788:2012, beginning with `start` (0 to 11) or, by default, the first month with
    /// condensation after one without.
    ///
    /// Planes wet at a month's start stay at saturation for the whole month; drying is limited to what is held. A
    /// surface's own condensate is wiped or runs off: it is not held.
    #[must_use]
    pub fn year(&self, months: &[Month; 12], start: Option<usize>) -> Year {
        let mut taut = Taut::new();
        let start = start.map_or_else(|| self.first_wet_month(months, &mut taut), |s| s % 12);
        let mut held = vec![0.0_f64; self.interfaces()];
        let mut wet = vec![false; held.len()];
        let mut results: [MonthResult; 12] = Default::default();
        let mut peak = 0.0_f64;
        for m in (0..12).map(|i| (start + i) % 12) {
            let Month { sides, days } = &months[m];
            taut.pull(self, sides, &wet);
            let (warm, cold) = (sides.inside.temperature(), sides.outside.temperature());
            let result = &mut results[m];
            for corner in taut.bends() {
                let rate = rate(&corner);
                if !wet[corner.place] && rate < LEAST_RATE {
                    continue; // rounding, as in the steady profile
                }
                let grams = (rate * days.get()).max(-held[corner.place]);
                held[corner.place] += grams;
                let frozen = self.temperature(corner.interface, warm, cold) < FREEZING;
                result.gains.push(Gain { interface: corner.interface, grams, frozen });
            }
            for (w, h) in wet.iter_mut().zip(&held) {
                *w = *h > 0.0;
            }
            result.held = held.iter().sum();
            peak = peak.max(result.held);
        }
        let dries_out = held.iter().all(|h| *h <= 0.0);
        Year { start, months: results, peak, dries_out }
    }

    fn first_wet_month(&self, months: &[Month; 12], taut: &mut Taut) -> usize {
        let condenses = months.each_ref().map(|m| {
            taut.pull(self, &m.sides, &[]);
            taut.bends().any(|c| rate(&c) >= LEAST_RATE)
        });
        (0..12).find(|&m| condenses[m] && !condenses[(m + 11) % 12]).unwrap_or(0)
    }
}

const FREEZING: Temperature = Temperature::const_checked(0.0);

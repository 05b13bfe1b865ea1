//! Invented weather to come: a climate's typical year with waves of days and hours, the same for whoever asks twice.

use crate::scenario::Noise;
use building::Climate;
use chrono::{DateTime, Datelike, Timelike, Utc};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, Temperature};
use judgment::climate::year;
use std::f64::consts::TAU;

/// A figure that wanders smoothly over days: waves of seeded phases.
pub(crate) struct Waves([(f64, f64, f64); 6]);

impl Waves {
    pub(crate) fn new(noise: &mut Noise) -> Self {
        Self(
            [31.0, 47.0, 66.0, 97.0, 139.0, 211.0]
                .map(|period| (period, TAU / 2.0 * noise.next(), 0.8 + 0.2 * noise.next())),
        )
    }

    pub(crate) fn at(&self, hours: f64) -> f64 {
        self.0.iter().map(|(period, phase, share)| share * (TAU * hours / period + phase).sin()).sum::<f64>() / 2.2
    }
}

/// Outdoor air of an invented hour.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WeatherHour {
    /// When it begins.
    pub at: DateTime<Utc>,
    /// Temperature, °C.
    pub t_c: f64,
    /// Relative humidity over water, %.
    pub rh_pct: f64,
    /// Rain, mm.
    pub rain_mm: f64,
}

/// Weather of a climate from the hour a moment lies in, so many hours of it.
#[must_use]
pub fn weather(seed: u64, climate: Climate, from: DateTime<Utc>, hours: usize) -> Vec<WeatherHour> {
    let mut noise = Noise(seed ^ climate.id().bytes().fold(11_u64, |h, b| h.wrapping_mul(31).wrapping_add(b.into())));
    let (warm, moist, wet) = (Waves::new(&mut noise), Waves::new(&mut noise), Waves::new(&mut noise));
    let first = from.timestamp().div_euclid(3600);
    let hour = |i: usize| {
        let since = first + i64::try_from(i).ok()?;
        let at = DateTime::from_timestamp(since * 3600, 0)?;
        let (h, clock) = (since as f64, f64::from(at.hour()));
        let of = |row: &[f64; 12]| {
            // Between the middles of two months.
            let month = at.month0() as usize;
            let part = (f64::from(at.day0()) - 15.0) / 30.0;
            let next = if part < 0.0 { (month + 11) % 12 } else { (month + 1) % 12 };
            row[month] + part.abs() * (row[next] - row[month])
        };
        let typical = year(climate);
        let t_c = of(&typical.t) + 3.2 * warm.at(h) + 4.2 * (TAU * (clock - 15.0) / 24.0).cos();
        let dew = (of(&typical.dew) + 2.6 * moist.at(h) + 0.8 * (TAU * (clock - 11.0) / 24.0).cos()).min(t_c - 0.3);
        let air =
            MoistAir::from_dew_point(Temperature::new(t_c).ok()?, Temperature::new(dew).ok()?, Pressure::STANDARD)
                .ok()?;
        let round = |x: f64| (10.0 * x).round() / 10.0;
        let rain_mm = if t_c > 0.5 && t_c - dew < 2.5 { round((3.0 * wet.at(h)).max(0.0)) } else { 0.0 };
        Some(WeatherHour { at, t_c: round(t_c), rh_pct: round(air.rh(Over::Water).clamp(1.0, 100.0)), rain_mm })
    };
    (0..hours).filter_map(hour).collect()
}

/// Hours of a forecast: five days.
pub const AHEAD: usize = 120;

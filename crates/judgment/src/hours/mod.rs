//! What the hours between visits say: how each surface stood, at which time of day it was wet, what the building adds to the
//! outdoor air, and how it follows it.

mod change;
mod decay;
mod exchanged;
mod faults;
mod fit;
mod pattern;
mod rain;
mod response;
mod two_weeks;

pub use change::{Change, change};
pub use decay::{AirChanges, air_changes};
pub use exchanged::{Exchanged, exchanged};
pub use faults::{AIR, DailyWave, Fault, Heard, RH, clock, daily_wave, faults};
pub use pattern::{Clocked, MeanDay, mean_day};
pub(crate) use rain::told;
pub use rain::{AfterRain, after_rain};
pub use response::{Response, response};
pub use two_weeks::{BothSides, TwoWeeks, two_weeks};

use hygrothermal::air::{MoistAir, Over, saturation_pressure, saturation_pressure_over};
use hygrothermal::quantity::Temperature;
use hygrothermal::surface::{MOLD_RH, Verdict};

/// How a surface stood in an hour; `None` where its air or its temperature is not known. `band_k` is how far the margin above the
/// dew point may be off, K.
#[must_use]
pub fn stood(inside: Option<MoistAir>, surface: Option<Temperature>, band_k: f64) -> Option<Verdict> {
    let (air, surface) = (inside?, surface?);
    let vapor = air.vapor_pressure();
    let limit = |k: f64| Temperature::new(surface.get() + k).map_or(f64::INFINITY, saturation_pressure);
    Some(if vapor >= limit(band_k) {
        Verdict::Condensing
    } else if vapor >= limit(-band_k) {
        Verdict::Uncertain
    } else if 100.0 * vapor >= MOLD_RH * saturation_pressure_over(surface, Over::Ice) {
        Verdict::MoldRisk
    } else {
        Verdict::Dry
    })
}

/// When in the day something happens.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Daytime {
    /// Mostly from evening to morning.
    Night,
    /// Mostly in the first hours after sunrise.
    Morning,
    /// Mostly by day.
    Day,
    /// Around the clock.
    Always,
}

/// The time of day at which most of some hours lie, by their hours of the local clock (0–23), against those of all hours known;
/// `None` for fewer than six.
#[must_use]
pub fn daytime(some: &[u32], all: &[u32]) -> Option<Daytime> {
    if some.len() < 6 {
        return None;
    }
    let share = |of: fn(u32) -> bool| {
        let count = |hours: &[u32]| hours.iter().filter(|h| of(**h)).count() as f64 / hours.len().max(1) as f64;
        (count(some), count(all))
    };
    // Twice as many as by chance, and most of them.
    let mostly = |of: fn(u32) -> bool, most: f64| {
        let (here, usual) = share(of);
        here >= most && here >= 1.3 * usual
    };
    Some(if mostly(|h| (5..=10).contains(&h), 0.6) {
        Daytime::Morning
    } else if mostly(|h| h >= 20 || h <= 8, 0.72) {
        Daytime::Night
    } else if mostly(|h| (9..=19).contains(&h), 0.72) {
        Daytime::Day
    } else {
        Daytime::Always
    })
}

/// What a building adds to the outdoor air, as a class of use.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum MoistureClass {
    /// As a very dry store.
    VeryDry,
    /// As an office or a dry dwelling.
    Dry,
    /// As a dwelling with few people.
    Ordinary,
    /// As a dwelling with many people, a kitchen or a sports hall.
    Humid,
    /// As a laundry or a pool.
    VeryHumid,
}

/// Upper limits of the moisture excess of each class at outdoor temperatures of 0 °C and under, Pa (ISO 13788:2012, annex A, from
/// memory).
const CLASS_LIMITS: [f64; 4] = [270.0, 540.0, 810.0, 1080.0];

/// The same for laundries and pools.
const HIGHEST: f64 = 1360.0;

/// How much of a class's limit at 0 °C is left at an outdoor temperature, °C: in a line from 0 °C to nothing at 20 °C.
fn share_at(outdoor_c: f64) -> f64 {
    ((20.0 - outdoor_c) / 20.0).clamp(0.0, 1.0)
}

impl MoistureClass {
    /// Every class, driest first.
    pub const ALL: [Self; 5] = [Self::VeryDry, Self::Dry, Self::Ordinary, Self::Humid, Self::VeryHumid];

    /// Moisture excess to reckon with at an outdoor temperature, Pa: the class's upper limit (ISO 13788:2012, annex A, from memory).
    #[must_use]
    pub fn design_excess(self, outdoor_c: f64) -> f64 {
        CLASS_LIMITS.get(self as usize).unwrap_or(&HIGHEST) * share_at(outdoor_c)
    }
}

/// The class of a moisture excess, Pa, at an outdoor temperature, °C: limits fall in a line from 0 °C to nothing at 20 °C; `None`
/// from 20 °C on, where they say nothing.
#[must_use]
pub fn moisture_class(excess_pa: f64, outdoor_c: f64) -> Option<MoistureClass> {
    let share = share_at(outdoor_c);
    if share <= 0.05 {
        return None;
    }
    let classes = [MoistureClass::VeryDry, MoistureClass::Dry, MoistureClass::Ordinary, MoistureClass::Humid];
    let under = CLASS_LIMITS.iter().zip(classes).find(|(limit, _)| excess_pa <= **limit * share);
    Some(under.map_or(MoistureClass::VeryHumid, |(_, class)| class))
}

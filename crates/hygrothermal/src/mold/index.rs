//! The mold index by hour.

use super::class::{Class, Sensitivity};
use crate::quantity::{MoldIndex, RelativeHumidity, Temperature};
use std::fmt;

/// Highest temperature the model speaks about, °C.
const HOTTEST: f64 = 50.0;
/// Hours of decline at the first rate, and hours until the last rate begins.
const FIRST_DECLINE: u32 = 6;
const REST_UNTIL: u32 = 24;

/// Too hot for the model.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MoldError {
    /// Hour counted from 0.
    pub hour: usize,
    /// What was given, °C.
    pub got: f64,
}

impl fmt::Display for MoldError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "temperature must be at most {HOTTEST} °C for the mold index, got {}", self.got)
    }
}

impl std::error::Error for MoldError {}

/// How fast a class declines in unfavorable hours against the pine original: 0.1 by default (ASHRAE 160), 1 for pine.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Decline(f64);

impl Decline {
    /// The cautious default of ASHRAE 160.
    pub const ASHRAE_160: Self = Self(0.1);

    /// A factor of 0 to 1; `None` outside.
    #[must_use]
    pub fn new(factor: f64) -> Option<Self> {
        (0.0..=1.0).contains(&factor).then_some(Self(factor))
    }

    pub(super) const fn factor(self) -> f64 {
        self.0
    }
}

/// What a series of hours does to a surface.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Growth {
    /// Highest index, the start included.
    pub peak: f64,
    /// Index after the last hour.
    pub end: f64,
    /// First hour, counted from 1, after which the index is above 1.
    pub first_over_1: Option<usize>,
    /// First hour, counted from 1, after which the index is above 3.
    pub first_over_3: Option<usize>,
}

impl Class {
    /// RH (%) above which this class grows at a temperature (°C).
    fn critical_rh(&self, t: f64) -> f64 {
        if t > 20.0 {
            return self.rh_min;
        }
        (100.0 + t * (-3.13 + t * (0.160 - t * 0.002_67))).max(self.rh_min)
    }

    /// Growth per hour before k₁ and k₂ (1/h) and the index it tends to; `None` in an unfavorable hour.
    pub(super) fn conditions(&self, t: f64, rh: f64) -> Option<(f64, f64)> {
        let critical = self.critical_rh(t);
        if t <= 0.0 || rh <= critical {
            return None;
        }
        let x = (critical - rh) / (critical - 100.0);
        let limit = self.a + x * (self.b - x * self.c);
        let slowness = -0.68 * t.ln() - 13.9 * rh.ln() + 0.14 * self.w + 66.02;
        Some((1.0 / (168.0 * slowness.exp()), limit))
    }

    pub(super) fn k1(&self, index: f64) -> f64 {
        if index < 1.0 { self.k1_below } else { self.k1_above }
    }
}

/// One surface as the hours pass over it.
struct Surface {
    class: Class,
    decline: f64,
    index: f64,
    unfavorable: u32,
}

impl Surface {
    fn hour(&mut self, t: f64, rh: f64) {
        if let Some((rate, limit)) = self.class.conditions(t, rh) {
            self.unfavorable = 0;
            let k2 = (1.0 - (2.3 * (self.index - limit)).exp()).max(0.0);
            self.index += rate * self.class.k1(self.index) * k2;
        } else {
            self.unfavorable = self.unfavorable.saturating_add(1);
            let rate = if self.unfavorable <= FIRST_DECLINE {
                0.001_33
            } else if self.unfavorable <= REST_UNTIL {
                0.0
            } else {
                0.000_667
            };
            self.index = (self.index - self.decline * rate).max(0.0);
        }
    }
}

/// Runs the index over hours of surface temperature and RH (over ice below 0 °C, where nothing grows anyway), calling
/// `after` with each hour's index.
///
/// # Formula
/// While T > 0 °C and RH > RH_crit: ΔM = k₁ k₂ / (168 exp(−0.68 ln T − 13.9 ln RH + 0.14 W + 66.02)) per hour, with
/// RH_crit = −0.00267 T³ + 0.160 T² − 3.13 T + 100 up to 20 °C and never below the class's RH_min;
/// k₂ = max(1 − exp(2.3 (M − M_max)), 0), M_max = A + B x − C x², x = (RH_crit − RH)/(RH_crit − 100). Otherwise M
/// falls by `decline` times 0.00133 for the first 6 h, 0 up to 24 h and 0.000667 after. M is never below 0.
/// Source: Hukka and Viitanen 1999; Ojanen et al. 2010; ASHRAE 160-2016 (from memory).
///
/// # Errors
/// [`MoldError`] at the first hour above 50 °C.
pub fn course(
    hours: &[(Temperature, RelativeHumidity)],
    class: Sensitivity,
    start: MoldIndex,
    decline: Decline,
    mut after: impl FnMut(usize, f64),
) -> Result<(), MoldError> {
    let mut surface = Surface { class: class.class(), decline: decline.0, index: start.get(), unfavorable: 0 };
    for (hour, (t, rh)) in hours.iter().enumerate() {
        if t.get() > HOTTEST {
            return Err(MoldError { hour, got: t.get() });
        }
        surface.hour(t.get(), rh.get());
        after(hour, surface.index);
    }
    Ok(())
}

/// The course in four figures. See [`course`].
///
/// # Errors
/// [`MoldError`] at the first hour above 50 °C.
pub fn mold_index(
    hours: &[(Temperature, RelativeHumidity)],
    class: Sensitivity,
    start: MoldIndex,
    decline: Decline,
) -> Result<Growth, MoldError> {
    let mut growth = Growth { peak: start.get(), end: start.get(), first_over_1: None, first_over_3: None };
    course(hours, class, start, decline, |hour, index| {
        growth.peak = growth.peak.max(index);
        growth.end = index;
        if index > 1.0 && growth.first_over_1.is_none() {
            growth.first_over_1 = Some(hour + 1);
        }
        if index > super::CRITERION && growth.first_over_3.is_none() {
            growth.first_over_3 = Some(hour + 1);
        }
    })?;
    Ok(growth)
}

/// Hours at these very conditions until a clean surface reaches an index; `None` if it never does. A spot reading has
/// no history: this says what would follow if it lasted.
///
/// # Formula
/// dM/dt = r k₁ (1 − e^(2.3 (M − M_max))) has the solution u − 1 = (u₀ − 1) e^(−2.3 r k₁ t) with u = e^(2.3 (M_max − M)),
/// taken in two pieces where k₁ changes at M = 1. Source as [`course`].
#[must_use]
pub fn hours_to_reach(t: Temperature, rh: RelativeHumidity, class: Sensitivity, goal: MoldIndex) -> Option<f64> {
    let class = class.class();
    let (rate, limit) = class.conditions(t.get(), rh.get())?;
    let goal = goal.get();
    if goal >= limit || t.get() > HOTTEST {
        return None;
    }
    let above = |index: f64| (2.3 * (limit - index)).exp() - 1.0;
    let piece = |from: f64, to: f64, k1: f64| (above(from) / above(to)).ln() / (2.3 * rate * k1);
    let below_one = piece(0.0, goal.min(1.0), class.k1_below);
    Some(if goal > 1.0 { below_one + piece(1.0, goal, class.k1_above) } else { below_one })
}

//! Moisture budget of a well-mixed space through changing hours.

use crate::air::{MoistAir, dew_point, saturation_pressure, vapor_pressure_of_ratio};
use crate::quantity::{AirFlow, Pressure, Temperature, Volume, WaterFlow};

/// Seconds of an hour.
const HOUR: f64 = 3600.0;

/// What holds through an hour.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BudgetHour {
    /// The air that comes in.
    pub outdoor: MoistAir,
    /// How much of it, measured at the outdoor state.
    pub flow: AirFlow,
    /// What people, ground and things give off.
    pub source: WaterFlow,
    /// What machines and salts take out, as far as there is any.
    pub removal: WaterFlow,
}

/// Air that comes in: kg of dry air a second, and its humidity ratio, kg/kg.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Inlet {
    /// Flow.
    pub kg_s: f64,
    /// Humidity ratio.
    pub ratio: f64,
}

/// How an hour ended, and what went where in it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HourEnd {
    /// Humidity ratio, kg/kg.
    pub ratio: f64,
    /// Relative humidity at the space's temperature, %; may pass 100, which means water on the surfaces.
    pub rh: f64,
    /// Taken out, kg.
    pub removed: f64,
    /// Carried out by air less carried in, kg.
    pub air_out: f64,
    /// What the air holds more than at the hour's start, kg.
    pub stored: f64,
}

impl HourEnd {
    /// Vapor pressure at standard pressure, Pa.
    #[must_use]
    pub fn vapor_pressure(&self) -> f64 {
        vapor_pressure_of_ratio(self.ratio, Pressure::STANDARD)
    }

    /// Dew point; `None` of air without any water.
    #[must_use]
    pub fn dew_point(&self) -> Option<Temperature> {
        dew_point(self.vapor_pressure())
    }
}

/// The air of a space at constant temperature that is stepped through hours: its dry-air mass (kg), humidity ratio (kg/kg) and
/// saturation pressure (Pa).
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RoomAir {
    saturation: f64,
    /// What it holds saturated, kg/kg.
    most: f64,
    mass: f64,
    ratio: f64,
}

impl RoomAir {
    /// From its start state.
    #[must_use]
    pub fn new(volume: Volume, start: &MoistAir) -> Self {
        Self {
            saturation: saturation_pressure(start.temperature()),
            most: MoistAir::saturated(start.temperature(), Pressure::STANDARD)
                .map_or(f64::INFINITY, |a| a.humidity_ratio()),
            mass: volume.get() / start.specific_volume(),
            ratio: start.humidity_ratio(),
        }
    }

    /// Humidity ratio of the air, kg/kg.
    #[must_use]
    pub fn ratio(&self) -> f64 {
        self.ratio
    }

    /// Relative humidity, %.
    #[must_use]
    pub fn rh(&self) -> f64 {
        100.0 * self.vapor_pressure() / self.saturation
    }

    /// Vapor pressure at standard pressure, Pa.
    #[must_use]
    pub fn vapor_pressure(&self) -> f64 {
        vapor_pressure_of_ratio(self.ratio, Pressure::STANDARD)
    }

    /// Lets go of what the air cannot hold at its temperature, kg: it lies on surfaces.
    pub fn condense(&mut self) -> f64 {
        let over = (self.ratio - self.most).max(0.0);
        self.ratio -= over;
        over * self.mass
    }

    /// One hour further.
    pub fn step(&mut self, hour: &BudgetHour) -> HourEnd {
        let inlet =
            Inlet { kg_s: hour.flow.get() / hour.outdoor.specific_volume(), ratio: hour.outdoor.humidity_ratio() };
        self.over(HOUR, inlet, hour.source.get(), hour.removal.get())
    }

    /// Some seconds further with an inlet, a source and a removal (kg/s).
    ///
    /// # Formula
    /// M dW/dt = ṁ (W_in − W) + S − R, exact: W = W_ss + (W₀ − W_ss) e^(−t/τ), W_ss = W_in + (S − R)/ṁ, τ = M/ṁ, a straight line
    /// without any air change. Where the water would run out, W stays 0 from then on and what comes in is taken out.
    /// Source: mass balance of a well-mixed zone.
    pub fn over(&mut self, seconds: f64, inlet: Inlet, source: f64, removal: f64) -> HourEnd {
        let inflow = inlet.kg_s * inlet.ratio + source;
        let start = self.ratio;
        let x = inlet.kg_s * seconds / self.mass;
        // The careful form is slow, and needed only where next to nothing is exchanged.
        let gone = if x > 0.05 { 1.0 - (-x).exp() } else { -(-x).exp_m1() };
        // (1 − e^(−x))/x, which is 1 where nothing is exchanged: without division by an air change that may be none.
        let share = if x > 1e-12 { gone / x } else { 1.0 };
        // As if it could fall below nothing.
        let mut ratio = start * (1.0 - gone) + (inflow - removal) * seconds / self.mass * share;
        let mut removed = removal * seconds;
        if ratio < 0.0 && inflow < removal {
            let dry_at = self.runs_out(inlet.kg_s, inflow - removal).clamp(0.0, seconds);
            ratio = 0.0;
            removed = removal * dry_at + inflow * (seconds - dry_at);
        }
        let ratio = ratio.max(0.0);
        self.ratio = ratio;
        let stored = self.mass * (ratio - start);
        let air_out = source * seconds - removed - stored;
        HourEnd { ratio, rh: self.rh(), removed, air_out, stored }
    }

    /// Seconds until no water is left, where more is taken out than comes in: `net` (kg/s) is negative.
    fn runs_out(&self, exchanged: f64, net: f64) -> f64 {
        if exchanged > 0.0 {
            // W_ss = net/ṁ is negative: e^(−t/τ) = −W_ss/(W₀ − W_ss).
            self.mass / exchanged * (self.ratio * exchanged / -net).ln_1p()
        } else {
            self.mass * self.ratio / -net
        }
    }
}

//! The state of moist air, from any measured pair.

use super::ratio::{self, humidity_ratio};
use super::saturation::{Over, dew_point, saturation_pressure, saturation_pressure_over, saturation_rh};
use super::{GAS_CONSTANT_DRY_AIR, wet_bulb};
use crate::quantity::{Pressure, RelativeHumidity, Temperature};
use std::fmt;

/// Why two readings cannot both be true of the same air.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum AirError {
    /// The dew point given lies above the air temperature.
    DewAboveAir {
        /// Dew point given, °C.
        dew: f64,
        /// Air temperature, °C.
        air: f64,
    },
    /// The wet bulb given lies above the air temperature.
    WetBulbAboveAir {
        /// Wet bulb given, °C.
        wet: f64,
        /// Air temperature, °C.
        air: f64,
    },
    /// The wet bulb given is lower than even perfectly dry air would have.
    WetBulbTooLow {
        /// Wet bulb given, °C.
        wet: f64,
        /// Air temperature, °C.
        air: f64,
    },
    /// More vapor than ice allows: RH over liquid water above what ice saturation reads.
    BeyondIceSaturation {
        /// RH given over liquid water, %.
        rh: f64,
        /// RH over liquid water at which the air is saturated over ice, %.
        limit: f64,
    },
    /// Vapor would fill the whole pressure: the water boils.
    Boiling {
        /// Vapor pressure asked for, Pa.
        vapor: f64,
        /// Total pressure, Pa.
        pressure: f64,
    },
}

impl fmt::Display for AirError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::DewAboveAir { dew, air } => {
                write!(f, "dew point must not be above the air temperature ({air} °C), got {dew}")
            }
            Self::WetBulbAboveAir { wet, air } => {
                write!(f, "wet bulb must not be above the air temperature ({air} °C), got {wet}")
            }
            Self::WetBulbTooLow { wet, air } => {
                write!(f, "wet bulb is lower than perfectly dry air at {air} °C would show, got {wet}")
            }
            Self::BeyondIceSaturation { rh, limit } => {
                write!(
                    f,
                    "relative humidity over water must be at most {limit:.1} % here, where ice is saturated, got {rh}"
                )
            }
            Self::Boiling { vapor, pressure } => {
                write!(f, "vapor pressure must stay below the air pressure ({pressure} Pa), got {vapor:.0}")
            }
        }
    }
}

impl std::error::Error for AirError {}

/// How far RH over water may pass ice saturation and still be a hygrometer's error, %: a good one's accuracy (common practice).
const ICE_SLACK: f64 = 3.0;

/// Air with its vapor, never above saturation.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MoistAir {
    t: Temperature,
    vapor: f64,
    p: Pressure,
}

impl MoistAir {
    /// From temperature and relative humidity, the latter over ice or over water below 0 °C. Over water up to 3 % beyond ice
    /// saturation count as saturated: hygrometers drift there in frost.
    ///
    /// # Errors
    /// - [`AirError::BeyondIceSaturation`] below 0 °C when RH over water means more vapor than that.
    /// - [`AirError::Boiling`] when the vapor would fill the whole pressure.
    ///
    /// # Examples
    /// Room air (dew point 9.27 °C by PsychroLib):
    /// ```
    /// # use hygrothermal::air::{MoistAir, Over};
    /// # use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
    /// let (t, rh) = (Temperature::new(20.0)?, RelativeHumidity::new(50.0)?);
    /// let room = MoistAir::from_rh(t, rh, Over::Water, Pressure::STANDARD)?;
    /// assert!((room.dew_point().unwrap().get() - 9.27).abs() < 0.01);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[inline]
    pub fn from_rh(t: Temperature, rh: RelativeHumidity, over: Over, p: Pressure) -> Result<Self, AirError> {
        // Only over water in frost can a relative humidity mean more vapor than ice allows.
        if over == Over::Water && t.get() < 0.0 {
            let limit = saturation_rh(t, over);
            if rh.get() > limit + ICE_SLACK {
                return Err(AirError::BeyondIceSaturation { rh: rh.get(), limit });
            }
            if rh.get() > limit {
                return Self::saturated(t, p);
            }
        }
        Self::with_vapor(t, rh.get() / 100.0 * saturation_pressure_over(t, over), p)
    }

    /// From temperature and dew point (frost point below 0 °C).
    ///
    /// # Errors
    /// - [`AirError::DewAboveAir`] when the dew point is above the temperature.
    /// - [`AirError::Boiling`] when the vapor would fill the whole pressure.
    pub fn from_dew_point(t: Temperature, dew: Temperature, p: Pressure) -> Result<Self, AirError> {
        if dew > t {
            return Err(AirError::DewAboveAir { dew: dew.get(), air: t.get() });
        }
        Self::with_vapor(t, saturation_pressure(dew), p)
    }

    /// From temperature and thermodynamic wet bulb; liquid water on the bulb at and above 0 °C, ice below.
    ///
    /// # Errors
    /// - [`AirError::WetBulbAboveAir`], [`AirError::WetBulbTooLow`] when no air has this pair.
    /// - [`AirError::Boiling`] when the bulb would boil.
    pub fn from_wet_bulb(t: Temperature, wet: Temperature, p: Pressure) -> Result<Self, AirError> {
        if wet > t {
            return Err(AirError::WetBulbAboveAir { wet: wet.get(), air: t.get() });
        }
        let on_bulb = saturation_pressure(wet);
        if on_bulb >= p.get() {
            return Err(AirError::Boiling { vapor: on_bulb, pressure: p.get() });
        }
        let w = wet_bulb::humidity_ratio_from_wet_bulb(t, wet, p);
        // Perfectly dry air comes back from its own wet bulb a rounding below 0.
        if w < -1e-9 {
            return Err(AirError::WetBulbTooLow { wet: wet.get(), air: t.get() });
        }
        // At wet == t rounding could lift the vapor a hair over saturation.
        let vapor = ratio::vapor_pressure(w.max(0.0), p.get()).min(saturation_pressure(t));
        Self::with_vapor(t, vapor, p)
    }

    /// Air at `t` just saturated: over ice below 0 °C, over water above.
    ///
    /// # Errors
    /// [`AirError::Boiling`] when the vapor would fill the whole pressure.
    pub fn saturated(t: Temperature, p: Pressure) -> Result<Self, AirError> {
        Self::with_vapor(t, saturation_pressure(t), p)
    }

    #[inline]
    fn with_vapor(t: Temperature, vapor: f64, p: Pressure) -> Result<Self, AirError> {
        if vapor >= p.get() {
            return Err(AirError::Boiling { vapor, pressure: p.get() });
        }
        Ok(Self { t, vapor, p })
    }

    /// Dry-bulb temperature.
    #[must_use]
    pub const fn temperature(&self) -> Temperature {
        self.t
    }

    /// Vapor pressure, Pa.
    #[must_use]
    pub const fn vapor_pressure(&self) -> f64 {
        self.vapor
    }

    /// Relative humidity, %, over the named phase below 0 °C.
    #[must_use]
    pub fn rh(&self, over: Over) -> f64 {
        100.0 * self.vapor / saturation_pressure_over(self.t, over)
    }

    /// Dew point, or frost point below 0 °C; `None` below −100 °C.
    #[must_use]
    #[inline]
    pub fn dew_point(&self) -> Option<Temperature> {
        dew_point(self.vapor)
    }

    /// Thermodynamic wet bulb; `None` below −100 °C.
    #[must_use]
    pub fn wet_bulb(&self) -> Option<Temperature> {
        wet_bulb::wet_bulb(self.t, self.vapor, self.p)
    }

    /// Humidity ratio, kg of vapor per kg of dry air (ASHRAE 2017 ch. 1 eq. 20).
    #[must_use]
    pub fn humidity_ratio(&self) -> f64 {
        humidity_ratio(self.vapor, self.p.get())
    }

    /// Volume of the mixture, m³ per kg of dry air (ASHRAE 2017 ch. 1 eq. 26, written with partial pressure).
    #[must_use]
    pub fn specific_volume(&self) -> f64 {
        GAS_CONSTANT_DRY_AIR * self.t.kelvin() / (self.p.get() - self.vapor)
    }

    /// Density of the mixture, kg of moist air per m³.
    #[must_use]
    pub fn density(&self) -> f64 {
        (1.0 + self.humidity_ratio()) / self.specific_volume()
    }

    /// Vapor in the air, kg per m³.
    #[must_use]
    pub fn absolute_humidity(&self) -> f64 {
        self.humidity_ratio() / self.specific_volume()
    }

    /// Enthalpy, kJ per kg of dry air, zero for dry air at 0 °C (ASHRAE 2017 ch. 1 eq. 30).
    #[must_use]
    pub fn enthalpy(&self) -> f64 {
        let t = self.t.get();
        1.006 * t + self.humidity_ratio() * (2501.0 + 1.86 * t)
    }
}

//! Quantities that cannot be out of range or mixed up.
//!
//! One table gives each quantity its name, unit and limits; the type, its check and its message come from that row.
//! A temperature and a difference between temperatures are different types:
//!
//! ```compile_fail
//! use hygrothermal::quantity::{Temperature, TemperatureDifference};
//! let reading = Temperature::new(20.0).unwrap();
//! let margin: TemperatureDifference = reading; // a reading is not a margin
//! ```

mod measured;

pub use measured::Measured;

use std::fmt;

/// A value outside its quantity's range (or not a number).
///
/// Prints as `relative humidity must be 0 to 100 %, got 112`.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OutOfRange {
    /// The quantity's name in plain words.
    pub quantity: &'static str,
    /// Its unit as printed.
    pub unit: &'static str,
    /// Lowest value accepted.
    pub min: f64,
    /// Highest value accepted.
    pub max: f64,
    /// What was given.
    pub got: f64,
}

impl fmt::Display for OutOfRange {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { quantity, unit, min, max, got } = self;
        let gap = if unit.is_empty() { "" } else { " " };
        write!(f, "{quantity} must be {min} to {max}{gap}{unit}, got {got}")
    }
}

impl std::error::Error for OutOfRange {}

macro_rules! quantities {
    ($($(#[$doc:meta])* $name:ident, $words:literal, $unit:literal, $min:literal, $max:literal;)*) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd)]
        pub struct $name(f64);

        impl $name {
            /// The quantity's name in plain words.
            pub const NAME: &'static str = $words;
            /// Its unit as printed.
            pub const UNIT: &'static str = $unit;
            /// Lowest value accepted.
            pub const MIN: f64 = $min;
            /// Highest value accepted.
            pub const MAX: f64 = $max;

            #[doc = concat!("Checks a value in ", $unit, " (", stringify!($min), " to ", stringify!($max), ").")]
            ///
            /// # Errors
            /// [`OutOfRange`] outside the limits or when not a finite number.
            pub fn new(value: f64) -> Result<Self, OutOfRange> {
                if (Self::MIN..=Self::MAX).contains(&value) {
                    Ok(Self(value))
                } else {
                    Err(OutOfRange {
                        quantity: Self::NAME,
                        unit: Self::UNIT,
                        min: Self::MIN,
                        max: Self::MAX,
                        got: value,
                    })
                }
            }

            /// A value known to be in range where it is written.
            #[allow(dead_code, reason = "made for every quantity, used by those that have named constants")]
            pub(crate) const fn const_checked(value: f64) -> Self {
                assert!(value >= Self::MIN && value <= Self::MAX);
                Self(value)
            }

            #[doc = concat!("The value in ", $unit, ".")]
            #[must_use]
            pub const fn get(self) -> f64 {
                self.0
            }
        }
    )*};
}

quantities! {
    /// A temperature. Range of the saturation formulas of ASHRAE 2017 ch. 1.
    Temperature, "temperature", "°C", -100.0, 200.0;
    /// A difference between two temperatures, or an uncertainty of one.
    TemperatureDifference, "temperature difference", "K", -300.0, 300.0;
    /// Relative humidity of air: what a hygrometer shows.
    RelativeHumidity, "relative humidity", "%", 0.0, 100.0;
    /// Pressure of the air as a whole.
    Pressure, "pressure", "Pa", 10_000.0, 200_000.0;
    /// Height above sea level.
    Altitude, "altitude", "m", -5000.0, 11_000.0;
    /// Volume of air moved in a second.
    AirFlow, "airflow", "m³/s", 0.0, 1000.0;
    /// Thermal resistance of a construction or a layer.
    ThermalResistance, "thermal resistance", "m²K/W", 0.0, 100.0;
    /// A floor, wall or soil area.
    Area, "area", "m²", 0.0, 1_000_000.0;
    /// Accuracy of a thermometer, as ± K.
    TemperatureAccuracy, "temperature accuracy", "K", 0.0, 20.0;
    /// Accuracy of a hygrometer, as ± percentage points.
    HumidityAccuracy, "humidity accuracy", "%", 0.0, 50.0;
}

impl Temperature {
    /// Kelvin: the absolute temperature the gas laws want.
    #[must_use]
    pub fn kelvin(self) -> f64 {
        self.0 + 273.15
    }

    /// How much warmer `self` is than `other`.
    #[must_use]
    pub fn above(self, other: Self) -> TemperatureDifference {
        TemperatureDifference(self.0 - other.0)
    }

    /// A computed temperature, kept only where the formulas hold.
    pub(crate) fn computed(value: f64) -> Option<Self> {
        Self::new(value).ok()
    }
}

impl Pressure {
    /// The standard atmosphere at sea level, 101 325 Pa.
    pub const STANDARD: Self = Self(101_325.0);

    /// Standard pressure at an altitude.
    ///
    /// # Formula
    /// p = 101 325 (1 − 2.25577·10⁻⁵ z)^5.2559, z in m (ASHRAE 2017 ch. 1 eq. 3).
    #[must_use]
    pub fn at_altitude(z: Altitude) -> Self {
        Self(101_325.0 * (1.0 - 2.25577e-5 * z.get()).powf(5.2559))
    }
}

impl AirFlow {
    /// The flow that renews a volume `changes_per_hour` times each hour (`volume_m3` in m³).
    ///
    /// # Errors
    /// [`OutOfRange`] when the product is negative or beyond 1000 m³/s.
    pub fn from_air_changes(changes_per_hour: f64, volume_m3: f64) -> Result<Self, OutOfRange> {
        Self::new(changes_per_hour * volume_m3 / 3600.0)
    }
}

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

/// Seconds in a day.
pub(crate) const DAY: f64 = 86_400.0;

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
        let (min, max) = (Plain(*min), Plain(*max));
        write!(f, "{quantity} must be {min} to {max}{gap}{unit}, got {got}")
    }
}

impl std::error::Error for OutOfRange {}

/// A limit as people write it: 0.01, 200, but 1e-18 and 1e9.
struct Plain(f64);

impl fmt::Display for Plain {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let size = self.0.abs();
        if size != 0.0 && !(1e-6..1e8).contains(&size) { write!(f, "{:e}", self.0) } else { write!(f, "{}", self.0) }
    }
}

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
    /// Share of thermal radiation a surface emits compared with a black body.
    Emissivity, "emissivity", "", 0.01, 1.0;
    /// A length of a run, a height or a perimeter.
    Length, "length", "m", 0.0, 10_000.0;
    /// Thickness of a layer of a build-up.
    Thickness, "thickness", "m", 0.000_001, 10.0;
    /// Inside diameter of a duct or outside diameter of a pipe.
    Diameter, "diameter", "m", 0.005, 3.0;
    /// Volume of a space.
    Volume, "volume", "m³", 0.001, 10_000_000.0;
    /// Thermal conductivity of a material (λ).
    Conductivity, "thermal conductivity", "W/(m·K)", 0.001, 1000.0;
    /// How many times more a material resists vapor than still air of the same thickness (μ).
    VaporResistanceFactor, "vapor resistance factor", "", 0.0, 1_000_000_000.0;
    /// Thickness of still air that resists vapor as much (s_d).
    DiffusionThickness, "vapor diffusion thickness", "m", 0.0, 1_000_000_000.0;
    /// Vapor passing a layer per area and vapor pressure difference.
    Permeance, "permeance", "kg/(Pa·s·m²)", 1e-18, 1.0;
    /// Density of a material.
    Density, "density", "kg/m³", 0.1, 30_000.0;
    /// Specific heat capacity of a material.
    HeatCapacity, "heat capacity", "J/(kg·K)", 1.0, 10_000.0;
    /// Mass of a sheet or shell per area.
    ArealMass, "mass per area", "kg/m²", 0.0, 10_000.0;
    /// Mass of a thing.
    Mass, "mass", "kg", 0.0, 10_000_000.0;
    /// Liquid water or vapor moved in a second.
    WaterFlow, "moisture source", "kg/s", 0.0, 1000.0;
    /// Liquid water moved in a day; 1 kg is 1 L.
    DailyWater, "water", "L/day", 0.0, 1_000_000.0;
    /// Moisture content of wood by dry mass.
    MoistureContent, "moisture content", "%", 0.0, 300.0;
    /// What a relative-scale moisture meter shows; means nothing but against itself.
    ScaleReading, "relative reading", "", 0.0, 1000.0;
    /// A span of hours.
    Hours, "time", "h", 0.0, 1_000_000.0;
    /// A span of minutes.
    Minutes, "time", "min", 0.0, 100_000.0;
    /// A span of days.
    Days, "time", "days", 0.0, 100_000.0;
    /// Mold index on its scale from none to full cover.
    MoldIndex, "mold index", "", 0.0, 6.0;
    /// Area one liter of coating covers in one coat.
    SpreadRate, "spread rate", "m²/L", 0.01, 1000.0;
    /// Electrical energy price, dehumidifier efficiency and other positive factors.
    Factor, "value", "", 0.0, 1_000_000.0;
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

    /// The temperature a share (0 to 1) of the way from `self` to `other`: never outside the two.
    #[must_use]
    pub fn toward(self, other: Self, share: f64) -> Self {
        let (low, high) = if self.0 <= other.0 { (self.0, other.0) } else { (other.0, self.0) };
        Self((self.0 + share * (other.0 - self.0)).clamp(low, high))
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

impl Permeance {
    /// Vapor permeability of still air, kg/(m·s·Pa) (ISO 13788:2012).
    pub const STILL_AIR: f64 = 2e-10;

    /// One US perm (grain per hour, square foot and inch of mercury) in kg/(Pa·s·m²).
    pub const US_PERM: f64 = 5.721_35e-11;

    /// The still-air thickness that lets as much vapor through: s_d = δ₀ / W.
    #[must_use]
    pub fn diffusion_thickness(self) -> DiffusionThickness {
        DiffusionThickness(Self::STILL_AIR / self.0)
    }
}

impl Emissivity {
    /// A black body.
    pub const BLACK: Self = Self(1.0);
}

impl MoldIndex {
    /// No growth.
    pub const CLEAN: Self = Self(0.0);
}

impl DailyWater {
    /// None at all.
    pub const NONE: Self = Self(0.0);
}

impl Conductivity {
    /// R = d/λ of a slab.
    ///
    /// # Errors
    /// [`OutOfRange`] beyond 100 m²K/W.
    pub fn resistance(self, thickness: Thickness) -> Result<ThermalResistance, OutOfRange> {
        ThermalResistance::new(thickness.get() / self.0)
    }
}

impl VaporResistanceFactor {
    /// s_d = μ d of a slab.
    ///
    /// # Errors
    /// [`OutOfRange`] beyond 10⁹ m.
    pub fn diffusion_thickness(self, thickness: Thickness) -> Result<DiffusionThickness, OutOfRange> {
        DiffusionThickness::new(self.0 * thickness.get())
    }
}

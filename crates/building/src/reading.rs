//! A reading as judgment sees it: corrected, with its instrument's accuracy.

use hygrothermal::air::{AirError, MoistAir, Over};
use hygrothermal::quantity::{Measured, MoistureContent, Pressure, RelativeHumidity, ScaleReading, Temperature};
use hygrothermal::surface::Accuracy;
use hygrothermal::wood::{MeterError, MeterReading, Species, pin_meter};
use uuid::Uuid;

/// What was read, after correction.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Observed {
    /// Air of a space or outdoors.
    Air(AirValue),
    /// Temperature of a surface.
    Surface(Temperature),
    /// Wood moisture by pins, corrected.
    Wood(WoodValue),
    /// A meter's own scale: comparable with the same meter on the same spot only.
    Relative(ScaleReading),
    /// Water a dehumidifier collected.
    Water(Collected),
    /// Air moved, m³/s.
    Airflow(f64),
    /// Rain of the two days before, mm.
    Rain(f64),
    /// Only words.
    Note,
}

/// Water a dehumidifier collected while it ran.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Collected {
    /// Liters.
    pub liters: f64,
    /// Hours it ran.
    pub hours: f64,
}

impl Collected {
    /// Liters in a day of running.
    #[must_use]
    pub fn per_day(self) -> f64 {
        self.liters * 24.0 / self.hours
    }
}

/// Wood moisture as a pin meter showed it, and what that means in this wood at its temperature.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WoodValue {
    /// What the meter showed, %.
    pub shown: MoistureContent,
    /// Id of the wood.
    pub species: &'static str,
    /// The wood's temperature.
    pub at: Temperature,
    /// Corrected.
    pub value: MeterReading,
}

impl WoodValue {
    /// Corrects what a meter scaled for Douglas fir showed.
    ///
    /// # Errors
    /// [`MeterError`] for wood too cold or hot to correct.
    pub fn corrected(shown: MoistureContent, species: &'static Species, at: Temperature) -> Result<Self, MeterError> {
        Ok(Self { shown, species: &species.id, at, value: pin_meter(shown, at, species)? })
    }

    /// The same as read by a meter of this accuracy, % of moisture: its doubt and the correction's are independent.
    #[must_use]
    pub fn by_meter(self, accuracy_pct: f64) -> Self {
        let value = match self.value {
            MeterReading::Percent(m) => MeterReading::Percent(Measured { err: m.err.hypot(accuracy_pct), ..m }),
            MeterReading::Wet => MeterReading::Wet,
        };
        Self { value, ..self }
    }
}

/// Air as stored: temperature and relative humidity in the convention of its instrument.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirValue {
    /// Air temperature.
    pub t: Temperature,
    /// Relative humidity.
    pub rh: RelativeHumidity,
    /// What the RH refers to below 0 °C.
    pub over: Over,
}

impl AirValue {
    /// The moist air this is. RH over water beyond what ice allows is read as saturated: instruments drift past the
    /// limit, and [`crate::question`] asks about it at entry.
    ///
    /// # Errors
    /// [`AirError::Boiling`] when the vapor would fill the whole pressure.
    pub fn air(&self) -> Result<MoistAir, AirError> {
        self.air_at(Pressure::STANDARD)
    }

    /// The same at another pressure.
    ///
    /// # Errors
    /// [`AirError::Boiling`] when the vapor would fill the whole pressure.
    pub fn air_at(&self, pressure: Pressure) -> Result<MoistAir, AirError> {
        match MoistAir::from_rh(self.t, self.rh, self.over, pressure) {
            Err(AirError::BeyondIceSaturation { .. }) => MoistAir::saturated(self.t, pressure),
            state => state,
        }
    }
}

/// One effective reading: superseded ones are already left out.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// Identity.
    pub id: Uuid,
    /// Where.
    pub station_id: Uuid,
    /// By which instrument.
    pub instrument_id: Uuid,
    /// When, milliseconds since 1970.
    pub taken_ms: i64,
    /// What.
    pub observed: Observed,
    /// How far the instrument may be off.
    pub accuracy: Accuracy,
}

/// Air with its band, ready to be compared.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirState {
    /// The reading behind it.
    pub reading_id: Uuid,
    /// When, milliseconds since 1970.
    pub taken_ms: i64,
    /// As read.
    pub value: AirValue,
    /// As moist air.
    pub air: MoistAir,
    /// Accuracy behind it.
    pub accuracy: Accuracy,
    /// Dew point with its band, °C; `None` for air too dry to have one.
    pub dew: Option<Measured>,
}

impl AirState {
    /// The state behind an air reading; `None` for a surface reading.
    #[must_use]
    pub fn of(reading: &Reading) -> Option<Self> {
        let Observed::Air(value) = reading.observed else { return None };
        let air = value.air().ok()?;
        Some(Self {
            reading_id: reading.id,
            taken_ms: reading.taken_ms,
            value,
            air,
            accuracy: reading.accuracy,
            dew: reading.accuracy.dew_point(&air, value.over),
        })
    }

    /// Temperature with its band, °C.
    #[must_use]
    pub fn temperature(&self) -> Measured {
        Measured { value: self.value.t.get(), err: self.accuracy.air.get() }
    }
}

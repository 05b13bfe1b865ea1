//! Air as instruments read it: temperature and relative humidity, each with its band.

use super::{MoistAir, Over};
use crate::quantity::{HumidityAccuracy, Measured, Pressure, RelativeHumidity, Temperature, TemperatureAccuracy};

/// A reading of air whose uncertainty goes wherever its values go.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirReading {
    t: Temperature,
    rh: RelativeHumidity,
    over: Over,
    t_err: TemperatureAccuracy,
    rh_err: HumidityAccuracy,
}

impl AirReading {
    /// A thermometer's and a hygrometer's reading with their accuracies, at standard pressure.
    #[must_use]
    pub const fn new(
        (t, t_err): (Temperature, TemperatureAccuracy),
        (rh, rh_err): (RelativeHumidity, HumidityAccuracy),
        over: Over,
    ) -> Self {
        Self { t, rh, over, t_err, rh_err }
    }

    /// The two figures with their bands: °C and %.
    #[must_use]
    pub const fn measured(&self) -> [Measured; 2] {
        [
            Measured { value: self.t.get(), err: self.t_err.get() },
            Measured { value: self.rh.get(), err: self.rh_err.get() },
        ]
    }

    /// The moist air that a temperature (°C) and a humidity (%) near this reading's would be; `None` out of range.
    #[must_use]
    pub fn air_at(&self, [t, rh]: [f64; 2]) -> Option<MoistAir> {
        MoistAir::from_rh(Temperature::new(t).ok()?, RelativeHumidity::new(rh).ok()?, self.over, Pressure::STANDARD)
            .ok()
    }

    /// Any figure of this air with its band; `None` where it has none.
    #[must_use]
    pub fn figure(&self, of: impl Fn(&MoistAir) -> Option<f64>) -> Option<Measured> {
        Measured::propagated(self.measured(), |x| of(&self.air_at(x)?))
    }
}

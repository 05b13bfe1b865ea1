//! Checking instruments against known humidities.

mod calibration;
mod salt;

pub use calibration::{Calibration, CalibrationError, calibrate};
pub use salt::{Salt, salt};

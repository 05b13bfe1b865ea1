//! A typical year of outdoor air by month and hour of the day, as a weather file of a practice's own says it.

use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// A practice's own weather. Hours are those of local standard time, each by its beginning.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Weather {
    /// Identity.
    pub id: Uuid,
    /// What it is called.
    pub name: String,
    /// Where the file says it is from.
    pub station: String,
    /// Mean temperature by month and hour, °C.
    pub celsius: [[f64; 24]; 12],
    /// Mean vapor pressure by month and hour, Pa.
    pub vapor: [[f64; 24]; 12],
}

impl Weather {
    /// Mean temperature of each month, °C, and mean vapor pressure, Pa.
    #[must_use]
    pub fn months(&self) -> [[f64; 12]; 2] {
        [&self.celsius, &self.vapor].map(|of| of.map(|day| day.iter().sum::<f64>() / 24.0))
    }
}

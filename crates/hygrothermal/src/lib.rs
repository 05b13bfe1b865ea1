//! The physics of damp buildings: moist air, the surfaces it touches and the air it is exchanged for.
//!
//! Air holds water vapor. How much it *can* hold depends on temperature alone (the saturation vapor pressure);
//! how much it *does* hold is its vapor pressure, and the temperature at which the two meet is its dew point. A
//! surface colder than the dew point of the air beside it gets wet. Relative humidity says only how near the air is
//! to that at its own temperature, so two airs are compared by dew point or humidity ratio, never by relative
//! humidity.
//!
//! Everything here is values in, values out: no clock, no files, no network, no randomness. A quantity is checked
//! once, when it is made; after that it cannot be out of range.
//!
//! ```
//! use hygrothermal::air::{MoistAir, Over};
//! use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
//! use hygrothermal::surface::{self, Accuracy, Verdict};
//!
//! // A crawl space in July: 21.5 °C and 91 %, and a rim joist read at 18.6 °C.
//! let air = MoistAir::from_rh(
//!     Temperature::new(21.5)?,
//!     RelativeHumidity::new(91.0)?,
//!     Over::Ice,
//!     Pressure::STANDARD,
//! )?;
//! let joist = surface::judge(&air, Temperature::new(18.6)?, Over::Ice, &Accuracy::TYPICAL);
//! assert_eq!(joist.verdict, Verdict::Condensing);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod air;
pub mod buildup;
pub mod drying;
pub mod hours;
pub mod instrument;
pub mod machine;
pub mod material;
pub mod mold;
pub mod proof;
pub mod quantity;
pub mod space;
pub mod surface;
mod table;
pub mod takeoff;
pub mod vent;
pub mod wood;

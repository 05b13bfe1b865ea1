//! Figures, units, moments and money as people write and read them, in either unit system.
//!
//! The only place where text becomes a number and a number text: forms, the shorthand line, the calculator, drawings,
//! pages and reports all come here, so a figure is read and printed alike everywhere.

mod moment;
mod money;
pub mod number;
mod prose;
mod show;
pub mod unit;

pub use moment::{day, is_time_zone, months};
pub use money::{cents, money};
pub use prose::prose;
pub use show::Show;
pub use unit::{Kind, Unit, Units};

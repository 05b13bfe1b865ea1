//! Mold: how far growth has come, hour by hour, and how soon it would start.

mod class;
mod index;
mod steady;

pub use class::{CRITERION, Class, Sensitivity};
pub use index::{Decline, Growth, MoldError, course, hours_to_reach, mold_index};
pub use steady::{MonthAt, steady_year};

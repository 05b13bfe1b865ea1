//! What people type, parsed into values that cannot be wrong; either unit system, errors that say what to change.

mod shorthand;
mod typed;

pub use shorthand::{Line, LineError, Reads, complete, name_on_line, parse_line};
pub use typed::{
    AirEntry, DewAboveAir, EntryError, Field, Humidity, parse_air, parse_moisture, parse_scale, parse_surface,
    parse_temperature, parse_water,
};

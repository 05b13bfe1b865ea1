//! The log of a job: files brought into it, and what loggers read between visits.

mod keep;
mod look;
mod place;
mod spool;
mod work;

pub use keep::Became;
pub use look::{Found, Sensor, Unread, guessed};
pub use place::{Goes, Wished, sensor_kind};
pub use work::{WorkError, work};

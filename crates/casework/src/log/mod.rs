//! The log of a job: files brought into it, and what loggers read between visits.

mod keep;
mod look;
mod place;
mod post;
mod spool;
mod view;
mod work;

pub use keep::Became;
pub use look::{Found, Sensor, Unread, guessed};
pub use place::{Goes, Wished, sensor_kind};
pub use post::{LiveSensor, MOST_ROWS, Posted, post};
pub use view::{Flaw, HourAir, LONGEST, LogView, Row, Source, SpaceLog, Span, Spot, SurfaceLog, spots};
pub use work::{WorkError, work};

//! The log of a job: files brought into it, and what loggers read between visits.

mod airing;
mod deliver;
mod fine;
mod gather;
mod keep;
mod look;
mod months;
mod place;
mod post;
mod says;
mod spool;
mod spots;
mod view;
mod watch;
mod work;

pub use airing::{Aired, Airing, OLDEST};
pub use deliver::{secret_of, signature};
pub use keep::Became;
pub use look::{Found, Sensor, Unread, guessed};
pub use months::{LoggedYear, is_outdoors};
pub use place::{Goes, Wished, sensor_kind};
pub use post::{LiveSensor, MOST_ROWS, Posted, Posts};
pub use says::{Machine, Mean, MoldCourse, TimeSays};
pub use spots::{Spot, spots};
pub use view::{Event, Flaw, HourAir, LONGEST, LogView, Logged, Row, Since, Source, SpaceLog, Span, SurfaceLog};
pub use watch::{Finding, found};
pub use work::{Telling, WorkError, work};

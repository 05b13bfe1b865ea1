//! What a construction does over the year: whether it stays dry, dries again or gathers water, how sure that is, and what would
//! change it.

mod answer;
mod levers;
mod months;
mod planes;

pub use answer::{Answer, MOST_HELD, Said, Sureness, Turn, Water, answer, corner_factor, quick};
pub use levers::{LEAK, Leak, Levers};
pub use months::{Around, Outdoors, around};
pub use planes::{PlaneYear, planes};

//! A job as it stands: what is known of it, what may be kept, what is decided about its plan.
//!
//! The one place between the store and what is shown: it loads a job in one statement and gives typed places, sources and
//! reasons, without a word for a reader and without an address.

pub mod budget;
pub mod coating;
pub mod conflict;
pub mod drying;
pub mod entry;
pub mod evidence;
mod file;
mod load;
pub mod log;
pub mod mapped;
pub mod outside;
pub mod parcel;
pub mod plan;
pub mod proof;
mod shelf;
pub mod special;
pub mod standing;
mod together;
mod weather;
mod worked;

pub use file::{CHECK_HOLDS, CaseFile, FileError, InView};
pub use shelf::Shelf;
pub use weather::read_weather;
pub use worked::Argued;

//! What readings mean: verdicts, questions about odd values, causes, advice and cautions.
//!
//! Pure like the physics below it: no clock, no database, no interface. Tables of the trade live in `data/`.

pub mod advice;
pub mod budget;
pub mod cause;
pub mod cautions;
pub mod climate;
pub mod coating;
pub mod construction;
pub mod drying;
pub mod finding;
pub mod hours;
pub mod limits;
pub mod map;
pub mod picture;
pub mod plan;
pub mod question;
pub mod special;
pub mod thermal;

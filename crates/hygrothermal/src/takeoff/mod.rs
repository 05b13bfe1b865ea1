//! Quantities to buy: coatings, ground film, pipe cover, sealant.

mod coating;
mod film;
mod pieces;
mod weather;

pub use coating::{Coating, CoatingNeed, Dilution};
pub use film::{GroundFilm, GroundFilmNeed};
pub use pieces::{boards, pipe_cover_length, sealant_tubes};
pub use weather::{CoatingHour, CoatingLimits, CoatingWindow, WhyNot, coating_window};

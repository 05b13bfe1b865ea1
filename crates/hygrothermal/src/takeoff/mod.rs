//! Quantities to buy: coatings, ground film, pipe cover, sealant.

mod coating;
mod film;
mod sealant;

pub use coating::{Coating, CoatingNeed, Dilution};
pub use film::{GroundFilm, GroundFilmNeed};
pub use sealant::{pipe_cover_length, sealant_tubes};

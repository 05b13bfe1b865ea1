//! Quantities to buy: coatings, ground film, pipe cover, sealant.

mod coating;
mod film;
mod pieces;

pub use coating::{Coating, CoatingNeed, CoatingWindow, Dilution, coating_window};
pub use film::{GroundFilm, GroundFilmNeed};
pub use pieces::{boards, pipe_cover_length, sealant_tubes};

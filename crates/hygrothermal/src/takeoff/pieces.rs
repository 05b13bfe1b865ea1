//! Sealant, pipe cover and boards: pieces to buy.

use crate::quantity::{Area, Length, Thickness};

/// Tubes for a joint: length × width × depth over a tube's volume (`tube_ml`, 300 usual), a tenth for waste, rounded up.
#[must_use]
pub fn sealant_tubes(joint: Length, width: Thickness, depth: Thickness, tube_ml: f64) -> u32 {
    const WASTE: f64 = 1.1;
    let ml = joint.get() * width.get() * depth.get() * 1e6 * WASTE;
    if tube_ml > 0.0 { (ml / tube_ml - 1e-9).ceil().max(0.0) as u32 } else { 0 }
}

/// Pieces of pipe cover of `piece` length for a run, rounded up; 0 for pieces of no length.
#[must_use]
pub fn pipe_cover_length(run: Length, piece: Length) -> u32 {
    if piece.get() > 0.0 { (run.get() / piece.get() - 1e-9).ceil().max(0.0) as u32 } else { 0 }
}

/// Boards (foam, gypsum) of `board` area for an area with a tenth for waste, rounded up; 0 for boards of no area.
#[must_use]
pub fn boards(area: Area, board: Area) -> u32 {
    const WASTE: f64 = 1.1;
    if board.get() > 0.0 { (area.get() * WASTE / board.get() - 1e-9).ceil().max(0.0) as u32 } else { 0 }
}

//! Ground film of a crawl space: laps, turn-ups, piers and tape.

use crate::quantity::Length;

/// A rectangle of ground to be covered.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GroundFilm {
    /// Longer side, along which the sheets run.
    pub length: Length,
    /// Shorter side.
    pub width: Length,
    /// Width of the sheet on the roll.
    pub sheet: Length,
    /// How far sheets lap (0.15 to 0.3 m, common practice).
    pub lap: Length,
    /// How far the film turns up the walls.
    pub turn_up: Length,
    /// Piers it is cut around.
    pub piers: u32,
    /// Girth of a pier.
    pub pier_girth: Length,
}

/// What to buy.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GroundFilmNeed {
    /// Sheets side by side.
    pub sheets: u32,
    /// Film, m², with laps, turn-ups and a collar of the turn-up's height round each pier.
    pub film: f64,
    /// Tape, m: every lap, and round every pier.
    pub tape: f64,
    /// Film's edge to be fastened to the walls, m.
    pub edge: f64,
}

impl GroundFilm {
    /// Counts sheets, film and tape; `None` when the lap eats the sheet or the ground has no area.
    #[must_use]
    pub fn need(&self) -> Option<GroundFilmNeed> {
        let run = self.length.get() + 2.0 * self.turn_up.get();
        let across = self.width.get() + 2.0 * self.turn_up.get();
        let gain = self.sheet.get() - self.lap.get();
        if gain <= 0.0 || self.length.get() <= 0.0 || self.width.get() <= 0.0 {
            return None;
        }
        // The first sheet covers its whole width, each further one its width less the lap.
        let further = ((across - self.sheet.get()) / gain - 1e-9).ceil().max(0.0);
        let sheets = further + 1.0;
        let collars = f64::from(self.piers) * self.pier_girth.get();
        let lapped = further * self.lap.get();
        Some(GroundFilmNeed {
            sheets: sheets as u32,
            film: run * (across + lapped) + collars * self.turn_up.get(),
            tape: further * run + collars,
            edge: 2.0 * (self.length.get() + self.width.get()),
        })
    }
}

//! Layers of air, and the films at either face.

use super::film;
use crate::quantity::{ThermalResistance, Thickness};

/// Which way heat goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HeatFlow {
    /// Through a ceiling or roof.
    Up,
    /// Through a wall.
    Sideways,
    /// Through a floor.
    Down,
}

/// Thickness in mm and resistance in m²K/W up, sideways and down.
const CLOSED: [(f64, [f64; 3]); 8] = [
    (0.0, [0.0, 0.0, 0.0]),
    (5.0, [0.11, 0.11, 0.11]),
    (7.0, [0.13, 0.13, 0.13]),
    (10.0, [0.15, 0.15, 0.15]),
    (15.0, [0.16, 0.17, 0.17]),
    (25.0, [0.16, 0.18, 0.19]),
    (50.0, [0.16, 0.18, 0.21]),
    (300.0, [0.16, 0.18, 0.23]),
];

impl HeatFlow {
    /// Film on the inside face, m²K/W.
    #[must_use]
    pub const fn inside_film(self) -> ThermalResistance {
        match self {
            Self::Up => film::UP,
            Self::Sideways => film::WALL,
            Self::Down => film::DOWN,
        }
    }

    /// Resistance of a closed layer of air, m²K/W; wider than 300 mm it gains nothing.
    ///
    /// Source: ISO 6946:2017, table 8 (from memory), straight between its rows.
    #[must_use]
    pub fn closed_gap(self, width: Thickness) -> ThermalResistance {
        let mm = 1000.0 * width.get();
        let column = |row: &[f64; 3]| row[self as usize];
        let at = CLOSED.windows(2).find(|w| mm <= w[1].0);
        let r = at.map_or(column(&CLOSED[CLOSED.len() - 1].1), |w| {
            let ((from, low), (to, high)) = ((w[0].0, column(&w[0].1)), (w[1].0, column(&w[1].1)));
            low + (high - low) * (mm - from) / (to - from)
        });
        ThermalResistance::new(r).unwrap_or(film::WALL)
    }
}

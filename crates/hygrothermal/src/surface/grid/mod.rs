//! A thermal picture: a matrix of surface temperatures, read against the room's air.

mod contour;
mod patch;
mod read;

pub use patch::Patch;
pub use read::{BELOW_WET_BULB, GridReading, GridWarning, Room, Spot};

use super::infrared::{Apparent, Balance, InfraredError, Scene};
use crate::quantity::{OutOfRange, Temperature};
use std::fmt;

/// Why a matrix of temperatures is not a picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum GridError {
    /// No cells at all.
    Empty,
    /// A row is longer or shorter than the first.
    Ragged {
        /// Its number, counted from 0.
        row: usize,
        /// Cells in it.
        got: usize,
        /// Cells in the first row.
        want: usize,
    },
    /// A cell is no temperature.
    Cell {
        /// Row, counted from 0.
        row: usize,
        /// Column, counted from 0.
        column: usize,
        /// What is wrong with it.
        why: OutOfRange,
    },
    /// A cell says nothing about the surface under these settings.
    Infrared {
        /// Row, counted from 0.
        row: usize,
        /// Column, counted from 0.
        column: usize,
        /// Why.
        why: InfraredError,
    },
}

impl fmt::Display for GridError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Empty => write!(f, "the picture has no cells"),
            Self::Ragged { row, got, want } => {
                write!(f, "row {} must have {want} cells like the first, got {got}", row + 1)
            }
            Self::Cell { row, column, why } => write!(f, "row {}, column {}: {why}", row + 1, column + 1),
            Self::Infrared { row, column, why } => write!(f, "row {}, column {}: {why}", row + 1, column + 1),
        }
    }
}

impl std::error::Error for GridError {}

/// A matrix of surface temperatures, row by row from the top left. Cells that were not read are holes.
#[derive(Debug, Clone, PartialEq)]
pub struct ThermalGrid {
    columns: usize,
    /// °C; not a number where nothing was read. Kept bare because a picture has three hundred thousand of them.
    cells: Vec<f64>,
}

/// What a camera was set to while it looked at a scene.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Settings {
    /// Surface and surroundings as they are.
    pub scene: Scene,
    /// Emissivity and reflected temperature it was set to; its `shown` is not looked at.
    pub set: Apparent,
}

impl ThermalGrid {
    /// From rows of temperatures in °C, `None` where nothing was read.
    ///
    /// # Errors
    /// [`GridError::Empty`], [`GridError::Ragged`], [`GridError::Cell`].
    ///
    /// # Examples
    /// ```
    /// # use hygrothermal::surface::ThermalGrid;
    /// let picture = ThermalGrid::from_rows([[Some(18.0), Some(9.5)], [None, Some(17.2)]])?;
    /// assert_eq!((picture.rows(), picture.columns(), picture.missing()), (2, 2, 1));
    /// assert!(ThermalGrid::from_rows([vec![Some(18.0)], vec![]]).is_err());
    /// # Ok::<(), hygrothermal::surface::GridError>(())
    /// ```
    pub fn from_rows<R: AsRef<[Option<f64>]>>(rows: impl IntoIterator<Item = R>) -> Result<Self, GridError> {
        let (mut columns, mut cells) = (0, Vec::new());
        for (r, row) in rows.into_iter().enumerate() {
            let row = row.as_ref();
            if r == 0 {
                columns = row.len();
            } else if row.len() != columns {
                return Err(GridError::Ragged { row: r, got: row.len(), want: columns });
            }
            for (c, cell) in row.iter().enumerate() {
                let read = cell.map(|t| Temperature::new(t).map_err(|why| GridError::Cell { row: r, column: c, why }));
                cells.push(read.transpose()?.map_or(f64::NAN, Temperature::get));
            }
        }
        if cells.is_empty() { Err(GridError::Empty) } else { Ok(Self { columns, cells }) }
    }

    /// Rows in the picture.
    #[must_use]
    pub fn rows(&self) -> usize {
        self.cells.len() / self.columns
    }

    /// Cells in a row.
    #[must_use]
    pub const fn columns(&self) -> usize {
        self.columns
    }

    /// All cells in °C, row by row from the top left; not a number where nothing was read.
    #[must_use]
    pub fn cells(&self) -> &[f64] {
        &self.cells
    }

    /// Cells that were not read.
    #[must_use]
    pub fn missing(&self) -> usize {
        self.cells.iter().filter(|c| c.is_nan()).count()
    }

    /// Lowest and highest temperature, °C; `None` where nothing was read.
    #[must_use]
    pub fn span(&self) -> Option<(f64, f64)> {
        let (low, high) = self.cells.iter().fold((f64::NAN, f64::NAN), |(low, high), &c| (low.min(c), high.max(c)));
        (!low.is_nan()).then_some((low, high))
    }

    /// The surface behind the picture: every cell corrected for emissivity and reflection (see [`super::infrared`]).
    ///
    /// # Errors
    /// [`GridError::Infrared`] at the first cell to which no surface temperature belongs.
    pub fn corrected(&self, settings: &Settings) -> Result<Self, GridError> {
        let at =
            |index: usize, why| GridError::Infrared { row: index / self.columns, column: index % self.columns, why };
        let first = self.cells.iter().position(|c| !c.is_nan());
        let Some(first) = first else { return Ok(self.clone()) };
        let balance = Balance::new(&settings.set, &settings.scene).map_err(|why| at(first, why))?;
        let one = |(index, &cell): (usize, &f64)| {
            let Ok(shown) = Temperature::new(cell) else { return Ok(cell) };
            balance.object(shown).map(Temperature::get).map_err(|why| at(index, why))
        };
        let cells = self.cells.iter().enumerate().map(one).collect::<Result<_, _>>()?;
        Ok(Self { columns: self.columns, cells })
    }
}

//! A thermal picture read against the room's dew point.

use super::verdict::MOLD_RH;
use crate::air::{MoistAir, dew_point};
use crate::quantity::Temperature;
use std::fmt;

/// Why a matrix of temperatures is not a picture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum GridError {
    /// No cells at all.
    Empty,
    /// A row is longer or shorter than the first.
    Ragged {
        /// Its number, counted from 1.
        row: usize,
        /// Cells in it.
        got: usize,
        /// Cells in the first row.
        want: usize,
    },
    /// A cell outside −100 to 200 °C.
    Cell {
        /// Row, counted from 1.
        row: usize,
        /// Column, counted from 1.
        column: usize,
        /// What was given.
        got: f64,
    },
    /// Two pictures that shall be compared differ in size.
    Shape,
}

impl fmt::Display for GridError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Empty => write!(f, "the picture has no cells"),
            Self::Ragged { row, got, want } => write!(f, "row {row} must have {want} cells like the first, got {got}"),
            Self::Cell { row, column, got } => {
                write!(f, "row {row}, column {column}: temperature must be -100 to 200 °C, got {got}")
            }
            Self::Shape => write!(f, "the two pictures must have the same rows and columns"),
        }
    }
}

impl std::error::Error for GridError {}

/// A matrix of surface temperatures, row by row from the top left.
#[derive(Debug, Clone, PartialEq)]
pub struct ThermalGrid {
    columns: usize,
    cells: Vec<Temperature>,
}

/// A connected patch of cells colder than a line; cells touch by their sides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Patch {
    /// Cells in it.
    pub cells: usize,
    /// Its coldest cell, as (row, column) from 0.
    pub coldest: (usize, usize),
    /// Temperature there.
    pub temperature: Temperature,
    /// Top left and bottom right corner, as (row, column) from 0, both inside.
    pub corners: ((usize, usize), (usize, usize)),
}

/// A picture read against air.
#[derive(Debug, Clone, PartialEq)]
pub struct GridReading {
    /// Share of cells at or below the dew point, 0 to 1.
    pub wet_share: f64,
    /// Share of cells whose own RH is 80 % or more, the wet ones among them, 0 to 1.
    pub mold_share: f64,
    /// Coldest cell, as (row, column) from 0.
    pub coldest: (usize, usize),
    /// Temperature there.
    pub coldest_temperature: Temperature,
    /// Connected patches at mold risk or wet, largest first.
    pub patches: Vec<Patch>,
}

impl ThermalGrid {
    /// From rows of temperatures in °C.
    ///
    /// # Errors
    /// [`GridError::Empty`], [`GridError::Ragged`], [`GridError::Cell`].
    pub fn from_rows<R: AsRef<[f64]>>(rows: impl IntoIterator<Item = R>) -> Result<Self, GridError> {
        let (mut columns, mut cells) = (0, Vec::new());
        for (r, row) in rows.into_iter().enumerate() {
            let row = row.as_ref();
            if r == 0 {
                columns = row.len();
            } else if row.len() != columns {
                return Err(GridError::Ragged { row: r + 1, got: row.len(), want: columns });
            }
            for (c, &got) in row.iter().enumerate() {
                let cell = Temperature::new(got).map_err(|_| GridError::Cell { row: r + 1, column: c + 1, got })?;
                cells.push(cell);
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

    /// All cells, row by row from the top left.
    #[must_use]
    pub fn cells(&self) -> &[Temperature] {
        &self.cells
    }

    /// Lowest and highest temperature.
    #[must_use]
    pub fn span(&self) -> (Temperature, Temperature) {
        let first = self.cells[0];
        self.cells
            .iter()
            .fold((first, first), |(low, high), &c| (if c < low { c } else { low }, if c > high { c } else { high }))
    }

    /// Reads the picture against the room's air: surface RH = p_v / p_sat(T) in each cell (ISO 13788:2012 criterion).
    #[must_use]
    pub fn read(&self, air: &MoistAir) -> GridReading {
        let total = self.cells.len() as f64;
        let wet_line = air.dew_point();
        let mold_line = dew_point(100.0 * air.vapor_pressure() / MOLD_RH);
        let below = |line: Option<Temperature>| move |cell: &Temperature| line.is_some_and(|l| *cell <= l);
        let share = |line| self.cells.iter().filter(|c| below(line)(c)).count() as f64 / total;
        let coldest = self.coldest_of(0..self.cells.len());
        GridReading {
            wet_share: share(wet_line),
            mold_share: share(mold_line),
            coldest: self.place(coldest),
            coldest_temperature: self.cells[coldest],
            patches: self.patches(below(mold_line)),
        }
    }

    /// Lowest and highest temperature of a pair, so that before and after are shown on one scale.
    ///
    /// # Errors
    /// [`GridError::Shape`] when the two differ in rows or columns.
    pub fn common_span(&self, other: &Self) -> Result<(Temperature, Temperature), GridError> {
        if self.columns != other.columns || self.cells.len() != other.cells.len() {
            return Err(GridError::Shape);
        }
        let ((a, b), (c, d)) = (self.span(), other.span());
        Ok((if a < c { a } else { c }, if b > d { b } else { d }))
    }

    fn place(&self, index: usize) -> (usize, usize) {
        (index / self.columns, index % self.columns)
    }

    fn coldest_of(&self, indices: impl Iterator<Item = usize>) -> usize {
        indices.reduce(|a, b| if self.cells[b] < self.cells[a] { b } else { a }).unwrap_or(0)
    }

    /// Flood fill with a stack of its own, so that a picture of any size cannot exhaust the call stack.
    fn patches(&self, inside: impl Fn(&Temperature) -> bool) -> Vec<Patch> {
        let mut open: Vec<bool> = self.cells.iter().map(inside).collect();
        let mut patches = Vec::new();
        for start in 0..open.len() {
            if !std::mem::take(&mut open[start]) {
                continue;
            }
            let (mut members, mut stack) = (Vec::new(), vec![start]);
            while let Some(here) = stack.pop() {
                members.push(here);
                for next in self.neighbors(here).into_iter().flatten() {
                    if std::mem::take(&mut open[next]) {
                        stack.push(next);
                    }
                }
            }
            patches.push(self.patch(&members));
        }
        patches.sort_by_key(|p| std::cmp::Reverse(p.cells));
        patches
    }

    fn neighbors(&self, index: usize) -> [Option<usize>; 4] {
        let (row, column) = self.place(index);
        [
            (row > 0).then(|| index - self.columns),
            (row + 1 < self.rows()).then(|| index + self.columns),
            (column > 0).then(|| index - 1),
            (column + 1 < self.columns).then(|| index + 1),
        ]
    }

    fn patch(&self, members: &[usize]) -> Patch {
        let coldest = self.coldest_of(members.iter().copied());
        let corners = members
            .iter()
            .map(|&m| self.place(m))
            .fold(((usize::MAX, usize::MAX), (0, 0)), |((top, left), (bottom, right)), (r, c)| {
                ((top.min(r), left.min(c)), (bottom.max(r), right.max(c)))
            });
        Patch { cells: members.len(), coldest: self.place(coldest), temperature: self.cells[coldest], corners }
    }
}

//! Connected patches of cold cells.

use super::ThermalGrid;
use super::read::Spot;

/// A connected patch of cells at or under a line; cells touch by their sides.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Patch {
    /// Cells in it.
    pub cells: usize,
    /// Its coldest cell; the first of equals.
    pub coldest: Spot,
    /// Mean of its cells, °C.
    pub mean: f64,
    /// First and last row, counted from 0.
    pub rows: (usize, usize),
    /// First and last column, counted from 0.
    pub columns: (usize, usize),
}

impl ThermalGrid {
    /// Patches at or under a line in °C, largest first, then by their first cell in reading order.
    ///
    /// Flood fill with a stack of its own, so that a picture of any size cannot exhaust the call stack.
    pub(super) fn patches(&self, line: f64) -> Vec<Patch> {
        let mut open: Vec<bool> = self.cells.iter().map(|c| *c <= line).collect();
        let (mut patches, mut stack) = (Vec::new(), Vec::new());
        for start in 0..open.len() {
            if !open[start] {
                continue;
            }
            open[start] = false;
            stack.push(start);
            patches.push(self.patch(&mut open, &mut stack));
        }
        // The sort keeps the order of equals: that of their first cells.
        patches.sort_by_key(|p| std::cmp::Reverse(p.cells));
        patches
    }

    /// The patch that what lies on the stack belongs to.
    fn patch(&self, open: &mut [bool], stack: &mut Vec<usize>) -> Patch {
        let width = self.columns;
        let (mut cells, mut sum, mut coldest) = (0_usize, 0.0, usize::MAX);
        let (mut rows, mut columns) = ((usize::MAX, 0), (usize::MAX, 0));
        while let Some(here) = stack.pop() {
            let (row, column, cell) = (here / width, here % width, self.cells[here]);
            cells += 1;
            sum += cell;
            let colder = coldest == usize::MAX || (cell, here) < (self.cells[coldest], coldest);
            coldest = if colder { here } else { coldest };
            rows = (rows.0.min(row), rows.1.max(row));
            columns = (columns.0.min(column), columns.1.max(column));
            let mut look = |next: usize| {
                if std::mem::take(&mut open[next]) {
                    stack.push(next);
                }
            };
            if row > 0 {
                look(here - width);
            }
            if here + width < self.cells.len() {
                look(here + width);
            }
            if column > 0 {
                look(here - 1);
            }
            if column + 1 < width {
                look(here + 1);
            }
        }
        Patch { cells, coldest: self.spot(coldest), mean: sum / cells as f64, rows, columns }
    }
}

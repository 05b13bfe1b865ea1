//! Lines of one temperature through a picture.

use super::ThermalGrid;

/// No end of a piece yet.
const NONE: u32 = u32::MAX;

/// Where a line crosses the sides of the squares between four cells' centers: each crossing knows up to two neighbors.
struct Crossings {
    joined: Vec<[u32; 2]>,
}

impl Crossings {
    fn join(&mut self, a: u32, b: u32) {
        for (from, to) in [(a, b), (b, a)] {
            let ends = &mut self.joined[from as usize];
            if ends[0] == NONE {
                ends[0] = to;
            } else {
                ends[1] = to;
            }
        }
    }

    /// Follows a line from one of its crossings to its end, taking it out on the way.
    fn follow(&mut self, start: u32) -> Vec<u32> {
        let mut line = vec![start];
        let mut here = start;
        loop {
            let ends = std::mem::replace(&mut self.joined[here as usize], [NONE; 2]);
            let next = ends.into_iter().find(|&e| e != NONE && self.joined[e as usize] != [NONE; 2]);
            let Some(next) = next else {
                // A ring closes on the crossing it began with.
                if line.len() > 2 && ends.contains(&start) {
                    line.push(start);
                }
                return line;
            };
            line.push(next);
            here = next;
        }
    }
}

impl ThermalGrid {
    /// Lines along which the picture stands at a temperature in °C: points (x, y) in cells from the picture's top left corner,
    /// a cell's center at its half; rings end where they begin. A line ends at the picture's edge and at cells that were not
    /// read.
    ///
    /// # Method
    /// Marching squares over the cells' centers, linear between them; where a square is crossed twice its mean decides.
    #[must_use]
    pub fn contour(&self, level: f64) -> Vec<Vec<[f32; 2]>> {
        let (width, height) = (self.columns, self.rows());
        // Crossing of the side to the right of a cell: twice its index; of the side below it: one more.
        let mut crossings = Crossings { joined: vec![[NONE; 2]; 2 * self.cells.len()] };
        let mut any = Vec::new();
        for row in 0..height.saturating_sub(1) {
            for column in 0..width.saturating_sub(1) {
                self.square(row * width + column, level, |a, b| {
                    crossings.join(a, b);
                    any.extend([a, b]);
                });
            }
        }
        let mut lines = Vec::new();
        // Open lines are followed from an end, what is left are rings.
        for only_ends in [true, false] {
            for &at in &any {
                let [first, second] = crossings.joined[at as usize];
                if first != NONE && (second == NONE || !only_ends) {
                    lines.push(crossings.follow(at));
                }
            }
        }
        lines.into_iter().map(|line| line.into_iter().map(|c| self.crossing(c, level)).collect()).collect()
    }

    /// The pieces of the line in the square whose top left cell this is.
    fn square(&self, cell: usize, level: f64, mut piece: impl FnMut(u32, u32)) {
        let corners = [cell, cell + 1, cell + 1 + self.columns, cell + self.columns].map(|i| self.cells[i]);
        if corners.iter().any(|c| c.is_nan()) {
            return;
        }
        let above = corners.map(|c| c > level);
        let of = |index: usize, below: u32| 2 * index as u32 + below;
        let sides = [of(cell, 0), of(cell + 1, 1), of(cell + self.columns, 0), of(cell, 1)];
        let crossed = [0, 1, 2, 3].map(|i| above[i] != above[(i + 1) % 4]);
        let mut sides = sides.into_iter().zip(crossed).filter_map(|(side, is_crossed)| is_crossed.then_some(side));
        match [(); 4].map(|()| sides.next()) {
            [Some(a), Some(b), None, None] => piece(a, b),
            [Some(top), Some(right), Some(bottom), Some(left)] => {
                let middle = corners.iter().sum::<f64>() / 4.0 > level;
                // The middle belongs to the corners on its side of the level: the line cuts off the two others.
                if middle == above[0] {
                    piece(top, right);
                    piece(bottom, left);
                } else {
                    piece(left, top);
                    piece(right, bottom);
                }
            }
            _ => {}
        }
    }

    /// Where a crossing lies.
    fn crossing(&self, crossing: u32, level: f64) -> [f32; 2] {
        let (index, below) = (crossing as usize / 2, crossing % 2 == 1);
        let other = if below { index + self.columns } else { index + 1 };
        let (from, to) = (self.cells[index], self.cells[other]);
        let part = (level - from) / (to - from);
        let (x, y) = ((index % self.columns) as f64 + 0.5, (index / self.columns) as f64 + 0.5);
        let at = if below { [x, y + part] } else { [x + part, y] };
        at.map(|v| v as f32)
    }
}

//! Where spaces, faces and the ground lie in the cut. Coordinates are SVG user units, about one pixel on a desk.

use judgement::building::{Boundary, Building, Face, Level, Shell, Side, Space};
use uuid::Uuid;

/// Room to the left for outdoor air and arrows, and to the right for arrows.
const LEFT: f64 = 176.0;
const RIGHT: f64 = 150.0;
/// Least width a cell needs for its text and its ladder.
const CELL_WIDTH: f64 = 304.0;
/// Least width of the whole building.
const BODY_WIDTH: f64 = 560.0;
const TOP: f64 = 26.0;
/// Room above a flat roof for its arrow and drop mark.
const FLAT_TOP: f64 = 52.0;
const BOTTOM: f64 = 30.0;
const EAVES: f64 = 30.0;

/// A rectangle.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rect {
    pub x: f64,
    pub y: f64,
    pub w: f64,
    pub h: f64,
}

impl Rect {
    pub fn right(self) -> f64 {
        self.x + self.w
    }

    pub fn middle(self) -> f64 {
        self.x + self.w / 2.0
    }
}

/// A space's place in the cut.
#[derive(Clone, Debug)]
pub struct Cell {
    pub space: Uuid,
    pub rect: Rect,
    /// Whether it lies under the roof slopes, which narrow it towards the top.
    pub gable: bool,
}

/// A face of a cell as a line (a gable's roof is two).
#[derive(Clone, Debug, PartialEq)]
pub struct Edge {
    pub points: Vec<(f64, f64)>,
    pub face: Face,
}

/// The whole cut.
pub struct Layout {
    pub width: f64,
    pub height: f64,
    pub cells: Vec<Cell>,
    pub ground: f64,
    pub body: Rect,
}

fn row(building: &Building, level: Level) -> Vec<&Space> {
    let mut spaces: Vec<&Space> = building.spaces.iter().filter(|s| s.level == level).collect();
    spaces.sort_by_key(|s| s.column);
    spaces
}

/// Lays out every space: roof row, living row, row below the floor.
pub fn lay_out(building: &Building, shell: Shell) -> Layout {
    let rows: Vec<(Level, Vec<&Space>)> = [Level::Roof, Level::Living, Level::Under]
        .into_iter()
        .map(|l| (l, row(building, l)))
        .filter(|(_, r)| !r.is_empty())
        .collect();
    let most = rows.iter().map(|(_, r)| r.len()).max().unwrap_or(1);
    let body_width = BODY_WIDTH.max(CELL_WIDTH * most as f64);
    let mut cells = Vec::new();
    let gable = rows.first().is_some_and(|(l, _)| *l == Level::Roof);
    let top = if gable { TOP } else { FLAT_TOP };
    let mut y = top;
    let mut ground = None;
    for (level, spaces) in &rows {
        let height = row_height(*level, spaces);
        let width = body_width / spaces.len() as f64;
        for (i, space) in spaces.iter().enumerate() {
            let rect = Rect { x: LEFT + width * i as f64, y, w: width, h: height };
            cells.push(Cell { space: space.id, rect, gable: *level == Level::Roof });
        }
        if *level == Level::Under && shell == Shell::House {
            ground = Some(y + height * 0.22);
        }
        y += height;
    }
    let ground = ground.unwrap_or(if shell == Shell::Vehicle { y + 46.0 } else { y });
    let height = y.max(ground) + if shell == Shell::House { BOTTOM + 14.0 } else { BOTTOM + 24.0 };
    let body = Rect { x: LEFT, y: top, w: body_width, h: y - top };
    Layout { width: LEFT + body_width + RIGHT, height, cells, ground, body }
}

fn row_height(level: Level, spaces: &[&Space]) -> f64 {
    let tallest = spaces.iter().map(|s| s.height_m).fold(0.0, f64::max);
    match level {
        Level::Roof => 168.0,
        Level::Living => 206.0,
        Level::Under if tallest < 1.2 => 162.0,
        Level::Under => 186.0,
    }
}

impl Layout {
    pub fn cell(&self, space: Uuid) -> Option<&Cell> {
        self.cells.iter().find(|c| c.space == space)
    }

    /// The line a boundary is drawn along: a shared one spans only what both cells share.
    pub fn edge(&self, boundary: &Boundary) -> Option<Edge> {
        let cell = self.cell(boundary.space_id)?;
        let Rect { x, y, w, h } = cell.rect;
        let (mut left, mut right) = (x, x + w);
        if let Side::Space(other) = boundary.beyond {
            let other = self.cell(other)?.rect;
            if matches!(boundary.face, Face::Floor | Face::Ceiling) {
                left = left.max(other.x);
                right = right.min(other.right());
            }
        }
        let points = match boundary.face {
            Face::North => vec![(x, y), (x, y + h)],
            Face::South => vec![(x + w, y), (x + w, y + h)],
            Face::Floor => vec![(left, y + h), (right, y + h)],
            Face::Ceiling if cell.gable => self.slopes(cell),
            Face::Ceiling => vec![(left, y), (right, y)],
        };
        (points[0] != points[points.len() - 1]).then_some(Edge { points, face: boundary.face })
    }

    /// The roof over a gable cell, with eaves where it meets the building's ends.
    fn slopes(&self, cell: &Cell) -> Vec<(f64, f64)> {
        let Rect { x, y, w, h } = cell.rect;
        let over = |at_end: bool| if at_end { EAVES } else { 0.0 };
        let left = x - over((x - self.body.x).abs() < 1.0);
        let right = x + w + over((x + w - self.body.right()).abs() < 1.0);
        vec![(left, y + h), (cell.rect.middle(), y), (right, y + h)]
    }

    /// Heights at which the slopes stand over a gable cell's left wall, its middle and its right wall.
    pub fn slope_points(&self, cell: &Cell) -> [f64; 3] {
        let [(left, foot), (middle, apex), (right, _)] = self.slopes(cell)[..] else { return [cell.rect.y; 3] };
        let over = |wall: f64, eave: f64| foot - (foot - apex) * (wall - eave) / (middle - eave);
        [over(cell.rect.x, left), apex, over(cell.rect.right(), right)]
    }

    /// Where across a cell its text and its ladder begin: under slopes both draw to the middle.
    pub fn columns(cell: &Cell) -> (f64, f64) {
        if cell.gable {
            (cell.rect.middle() - 122.0, cell.rect.middle() + 34.0)
        } else {
            (cell.rect.x + 20.0, cell.rect.x + cell.rect.w - 132.0)
        }
    }
}

//! Where spaces, faces and the ground lie in the cut. Coordinates are SVG user units, about one pixel on a desk.

use building::{Boundary, Building, Face, Level, Shell, Side, Space};
use std::collections::HashMap;
use uuid::Uuid;

/// Room to the left for outdoor air and arrows, and to the right for arrows.
const LEFT: f64 = 176.0;
const RIGHT: f64 = 150.0;
/// Least width a cell needs for its text and its ladder; under slopes it needs more.
const CELL_WIDTH: f64 = 304.0;
const GABLE_WIDTH: f64 = 520.0;
/// Least width of the whole building.
const BODY_WIDTH: f64 = 560.0;
const TOP: f64 = 26.0;
/// Room above a flat roof for its arrow and drop mark.
const FLAT_TOP: f64 = 60.0;
const BOTTOM: f64 = 30.0;
const EAVES: f64 = 30.0;
/// Height of a round dwelling's low cone over its wall, and half the width of the crown ring it ends at.
const CROWN: f64 = 96.0;
const RING: f64 = 44.0;
/// Height a sheet has for its rows; a building of few is drawn taller, to use it.
const SHEET: f64 = 540.0;
/// Height of a line of a space's name, and the width of one of its letters.
pub const NAME_LINE: f64 = 18.0;
/// Signs beside each other below a space's air.
pub const SIGNS_PER_LINE: usize = 3;
const LETTER: f64 = 9.2;
/// Room a ladder takes from the right, and its scale's figures from the text.
const LADDER: f64 = 132.0;
const SCALE: f64 = 30.0;
/// Distance between the labels of a ladder.
pub const LABEL_GAP: f64 = 15.0;
/// Faces shorter than this are not drawn.
const SHORTEST: f64 = 24.0;

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

    pub fn bottom(self) -> f64 {
        self.y + self.h
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
    /// Height of the slopes that narrow it toward the top: all of it in a roof void, 0 under a flat ceiling.
    pub slope: f64,
    /// Its name in lines that fit.
    pub name: Vec<String>,
    /// Lines of signs below its air beyond the first.
    signs: usize,
}

impl Cell {
    /// Whether it is all roof.
    pub fn gable(&self) -> bool {
        self.slope >= self.rect.h
    }

    /// Whether a point lies in its box.
    pub fn covers(&self, x: f64, y: f64) -> bool {
        let r = self.rect;
        x > r.x && x < r.right() && y > r.y && y < r.bottom()
    }

    /// Height of the foot of its slopes, or of its ceiling.
    pub fn eaves(&self) -> f64 {
        self.rect.y + self.slope
    }

    /// Where across the cell its text and its ladder begin: in a roof void both draw to the middle.
    pub fn columns(&self) -> (f64, f64) {
        if self.gable() {
            (self.rect.middle() - 122.0, self.rect.middle() + 34.0)
        } else {
            (self.rect.x + 20.0, self.rect.right() - LADDER)
        }
    }

    /// Baseline of the first line of its name.
    pub fn text_y(&self) -> f64 {
        let more = NAME_LINE * (self.name.len() + self.signs - 1) as f64;
        if self.gable() { self.rect.bottom() - 68.0 - more } else { self.eaves() + 30.0 }
    }

    /// Top and bottom of its ladder.
    pub fn ladder(&self) -> (f64, f64) {
        let top = if self.gable() { self.rect.y + self.rect.h * 0.5 } else { self.eaves() + 24.0 };
        (top, self.rect.bottom() - 20.0)
    }
}

/// A face of a cell as a line (a whole roof is two).
#[derive(Clone, Debug, PartialEq)]
pub struct Edge {
    pub points: Vec<(f64, f64)>,
    pub face: Face,
    /// Whether it lies on a slope.
    pub sloped: bool,
    /// Which part of its face it is, of how many.
    pub part: (usize, usize),
}

/// The whole cut.
pub struct Layout {
    pub width: f64,
    pub height: f64,
    pub cells: Vec<Cell>,
    pub ground: f64,
    pub body: Rect,
    /// Ground that reaches up to a floor beside a dug-out space.
    pub plinths: Vec<Rect>,
    /// The crown ring of a round dwelling.
    pub ring: Option<Rect>,
}

fn row(building: &Building, level: Level) -> Vec<&Space> {
    let mut spaces: Vec<&Space> = building.spaces.iter().filter(|s| s.level == level).collect();
    spaces.sort_by_key(|s| s.column);
    spaces
}

type Row<'a> = (Level, Vec<&'a Space>);
type Spans = HashMap<Uuid, (f64, f64)>;

/// Lays out every space: roof, upper floor, living floor, row below the floor.
pub fn lay_out(building: &Building, shell: Shell) -> Layout {
    let rows: Vec<Row<'_>> =
        Level::ALL.iter().map(|l| (*l, row(building, *l))).filter(|(_, r)| !r.is_empty()).collect();
    let widest = |(level, spaces): &Row<'_>| least_width(*level) * spaces.len() as f64;
    let body_width = rows.iter().map(widest).fold(BODY_WIDTH, f64::max);
    let spans = spans(building, &rows, body_width);
    let sloped =
        |level: Level| level == Level::Roof || (shell == Shell::Tent && Some(level) == rows.first().map(|r| r.0));
    let top = if rows.first().is_some_and(|(l, _)| sloped(*l)) { TOP } else { FLAT_TOP };
    let named = |(level, spaces): &Row<'_>| -> Vec<Vec<String>> {
        spaces.iter().map(|s| wrap(&s.name, letters(*level, spans[&s.id]))).collect()
    };
    let least: Vec<f64> = rows.iter().map(|r| row_height(building, r.0, &r.1, &named(r))).collect();
    let taller = (SHEET / least.iter().sum::<f64>()).clamp(1.0, tallest(shell));
    let mut cells = Vec::new();
    let mut y = top;
    let mut ground = None;
    let mut ring = None;
    for (row, least) in rows.iter().zip(&least) {
        let (level, spaces) = row;
        let names = named(row);
        let crown = if sloped(*level) && *level != Level::Roof { CROWN } else { 0.0 };
        let height = least * taller + crown;
        for (space, name) in spaces.iter().zip(names) {
            let (x, right) = spans[&space.id];
            let slope = if *level == Level::Roof { height } else { crown };
            let rect = Rect { x, y, w: right - x, h: height };
            if crown > 0.0 && spaces.len() == 1 {
                ring = Some(Rect { x: rect.middle() - RING, y: y - 12.0, w: 2.0 * RING, h: 12.0 });
            }
            cells.push(Cell { space: space.id, rect, slope, name, signs: sign_lines(building, space) });
        }
        ground = match shell {
            Shell::House if *level == Level::Under => Some(y + height * 0.22),
            Shell::Boat if *level == Level::Living => Some(y + height * 0.62),
            _ => ground,
        };
        y += height;
    }
    let ground = ground.unwrap_or(if shell == Shell::Vehicle { y + 46.0 } else { y });
    let below = match shell {
        Shell::House => BOTTOM + 14.0,
        Shell::Boat => BOTTOM + 56.0,
        _ => BOTTOM + 24.0,
    };
    let body = Rect { x: LEFT, y: top, w: body_width, h: y - top };
    let plinths = if shell == Shell::House { plinths(&rows, &cells, ground) } else { Vec::new() };
    Layout { width: LEFT + body_width + RIGHT, height: y.max(ground) + below, cells, ground, body, plinths, ring }
}

/// How much taller than it must be a building may be drawn: what is low stays low.
const fn tallest(shell: Shell) -> f64 {
    match shell {
        Shell::Tent => 1.1,
        Shell::Vehicle | Shell::Boat => 1.25,
        Shell::House | Shell::Cabin => 1.5,
    }
}

fn least_width(level: Level) -> f64 {
    if level == Level::Roof { GABLE_WIDTH } else { CELL_WIDTH }
}

/// Left and right of every space. The living floor is shared evenly; a row above or below stands over or under what it
/// borders where that is told and leaves room, and is shared evenly too where it is not.
fn spans(building: &Building, rows: &[Row<'_>], width: f64) -> Spans {
    let main = rows.iter().position(|(l, _)| *l == Level::Living).unwrap_or(0);
    let mut out = Spans::new();
    let even = |spaces: &[&Space], out: &mut Spans| {
        let w = width / spaces.len() as f64;
        for (i, s) in spaces.iter().enumerate() {
            out.insert(s.id, (LEFT + w * i as f64, LEFT + w * (i + 1) as f64));
        }
    };
    if let Some((_, spaces)) = rows.get(main) {
        even(spaces, &mut out);
    }
    let outward = (0..main).rev().map(|i| (i, i + 1)).chain((main + 1..rows.len()).map(|i| (i, i - 1)));
    for (i, beside) in outward {
        let (level, spaces) = &rows[i];
        let bordered = |s: &&Space| {
            let links = rows[beside]
                .1
                .iter()
                .filter(|o| building.boundaries_of(s.id).any(|b| b.touches(o.id) && b.touches(s.id)));
            links.map(|o| out[&o.id]).reduce(|a, b| (a.0.min(b.0), a.1.max(b.1)))
        };
        let told: Option<Vec<(f64, f64)>> = spaces.iter().map(bordered).collect();
        let fits = |spans: &Vec<(f64, f64)>| {
            spans.iter().all(|(l, r)| r - l >= least_width(*level)) && spans.windows(2).all(|w| w[0].1 <= w[1].0 + 0.1)
        };
        match told.filter(fits) {
            Some(spans) => out.extend(spaces.iter().map(|s| s.id).zip(spans)),
            None => even(spaces, &mut out),
        }
    }
    out
}

/// Letters of a name that fit beside the ladder.
fn letters(level: Level, (left, right): (f64, f64)) -> usize {
    let room = if level == Level::Roof { 156.0 - SCALE } else { right - left - LADDER - 20.0 - SCALE };
    (room / LETTER) as usize
}

/// A name in lines of at most `most` letters; a longer word is broken.
fn wrap(name: &str, most: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for word in name.split_whitespace() {
        let letters: Vec<char> = word.chars().collect();
        for piece in letters.chunks(most.max(1)) {
            let last = lines.last().map_or(0, |l| l.chars().count());
            if last > 0 && last + 1 + piece.len() > most {
                lines.push(String::new());
            }
            if let Some(line) = lines.last_mut() {
                if !line.is_empty() {
                    line.push(' ');
                }
                line.extend(piece);
            }
        }
    }
    lines
}

/// High enough for the longest name and the most labels in the row.
fn row_height(building: &Building, level: Level, spaces: &[&Space], names: &[Vec<String>]) -> f64 {
    let tallest = spaces.iter().map(|s| s.height_m).fold(0.0, f64::max);
    let signs = spaces.iter().map(|s| sign_lines(building, s)).max().unwrap_or(0);
    let lines = names.iter().map(Vec::len).max().unwrap_or(1) - 1 + signs;
    let more = NAME_LINE * lines as f64;
    let most = spaces.iter().map(|s| building.surfaces_in(s.id).count()).max().unwrap_or(0) as f64;
    let labels = LABEL_GAP * (most - 1.0).max(0.0);
    let least = match level {
        Level::Roof => 168.0,
        Level::Upper | Level::Living => 206.0,
        Level::Under if tallest < 1.2 => 162.0,
        Level::Under => 186.0,
    };
    let ladder = if level == Level::Roof { (labels + 24.0) * 2.0 } else { labels + 60.0 };
    (least + more).max(ladder)
}

/// Lines beyond the first that the signs of a space take: of walls behind and before the cut, and of what was found.
fn sign_lines(building: &Building, space: &Space) -> usize {
    let across = |b: &&Boundary| b.space_id == space.id && matches!(b.face, Face::East | Face::West);
    building.boundaries.iter().filter(across).count() / SIGNS_PER_LINE
}

/// What of the living floor has nothing dug below it stands on ground.
fn plinths(rows: &[Row<'_>], cells: &[Cell], ground: f64) -> Vec<Rect> {
    let of = |level: Level| {
        let row = rows.iter().find(|(l, _)| *l == level);
        let ids: Vec<Uuid> = row.map(|(_, r)| r.iter().map(|s| s.id).collect()).unwrap_or_default();
        cells.iter().filter(move |c| ids.contains(&c.space)).map(|c| c.rect).collect::<Vec<_>>()
    };
    let under = of(Level::Under);
    if under.is_empty() {
        return Vec::new();
    }
    let bare = |r: Rect| {
        uncovered((r.x, r.right()), under.iter().map(|u| (u.x, u.right()))).map(|(left, right)| Rect {
            x: left,
            y: r.bottom(),
            w: right - left,
            h: ground - r.bottom(),
        })
    };
    of(Level::Living).into_iter().filter_map(bare).collect()
}

/// The widest part of a span that others leave; `None` when they leave nothing worth drawing.
fn uncovered(span: (f64, f64), others: impl Iterator<Item = (f64, f64)>) -> Option<(f64, f64)> {
    let mut covered: Vec<(f64, f64)> = others.filter(|o| o.1 > span.0 && o.0 < span.1).collect();
    covered.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut gaps = Vec::new();
    let mut from = span.0;
    for (left, right) in covered {
        gaps.push((from, left));
        from = from.max(right);
    }
    gaps.push((from, span.1));
    gaps.into_iter().max_by(|a, b| (a.1 - a.0).total_cmp(&(b.1 - b.0))).filter(|g| g.1 - g.0 >= SHORTEST)
}

impl Layout {
    pub fn cell(&self, space: Uuid) -> Option<&Cell> {
        self.cells.iter().find(|c| c.space == space)
    }

    /// The line a boundary is drawn along: between two spaces only what both share, and where several lie on one face
    /// each gets its part. `None` where the cut does not show it.
    pub fn edge(&self, building: &Building, boundary: &Boundary) -> Option<Edge> {
        let cell = self.cell(boundary.space_id)?;
        let Rect { x, y, w, h } = cell.rect;
        let eaves = cell.eaves();
        let across = |y: f64| -> Option<Vec<(f64, f64)>> {
            let (left, right) = self.shared(cell, boundary, y)?;
            Some(vec![(left, y), (right, y)])
        };
        let beside = |edge: f64| match boundary.beyond {
            Side::Space(other) => {
                self.cell(other).is_some_and(|o| (o.rect.x - edge).abs() < 1.0 || (o.rect.right() - edge).abs() < 1.0)
            }
            _ => true,
        };
        let points = match boundary.face {
            Face::North if beside(x) => vec![(x, eaves), (x, y + h)],
            Face::South if beside(x + w) => vec![(x + w, eaves), (x + w, y + h)],
            Face::Floor => across(y + h)?,
            Face::Ceiling if cell.slope > 0.0 => self.slopes(cell),
            Face::Ceiling => across(y)?,
            _ => return None,
        };
        let alike: Vec<Uuid> = building.boundaries.iter().filter(|b| b.along(boundary)).map(|b| b.id).collect();
        let part = (alike.iter().position(|id| *id == boundary.id)?, alike.len());
        let points = portion(&points, part);
        let sloped = boundary.face == Face::Ceiling && cell.slope > 0.0;
        (points[0] != points[points.len() - 1]).then_some(Edge { points, face: boundary.face, sloped, part })
    }

    /// What a horizontal boundary spans at a height.
    fn shared(&self, cell: &Cell, boundary: &Boundary, y: f64) -> Option<(f64, f64)> {
        let own = (cell.rect.x, cell.rect.right());
        let meets = |o: &&Cell| (o.rect.y - y).abs() < 1.0 || (o.rect.bottom() - y).abs() < 1.0;
        match boundary.beyond {
            Side::Space(other) => {
                let other = self.cell(other).filter(meets)?.rect;
                let both = (own.0.max(other.x), own.1.min(other.right()));
                (both.1 - both.0 >= SHORTEST).then_some(both)
            }
            _ => {
                let row = |o: &&Cell| (o.rect.y - cell.rect.y).abs() > 1.0;
                let others = self.cells.iter().filter(row).filter(meets).map(|o| (o.rect.x, o.rect.right()));
                uncovered(own, others)
            }
        }
    }

    /// The roof over a cell, with eaves where it meets the building's ends; a round dwelling's goes up to its ring.
    fn slopes(&self, cell: &Cell) -> Vec<(f64, f64)> {
        let Rect { x, y, w, .. } = cell.rect;
        if let Some(ring) = self.ring {
            return vec![(x, cell.eaves()), (ring.x, y), (ring.right(), y), (x + w, cell.eaves())];
        }
        let over = |at_end: bool| if at_end { EAVES } else { 0.0 };
        let left = x - over((x - self.body.x).abs() < 1.0);
        let right = x + w + over((x + w - self.body.right()).abs() < 1.0);
        vec![(left, cell.eaves()), (cell.rect.middle(), y), (right, cell.eaves())]
    }

    /// The slopes from a cell's left wall to its right: they pass the walls on their way to the eaves, so that they meet
    /// them some way up.
    pub fn slopes_inside(&self, cell: &Cell) -> Vec<(f64, f64)> {
        let mut points = self.slopes(cell);
        let last = points.len() - 1;
        let meet =
            |(ax, ay): (f64, f64), (ex, ey): (f64, f64), wall: f64| (wall, ey - (ey - ay) * (wall - ex) / (ax - ex));
        let (left, right) =
            (meet(points[1], points[0], cell.rect.x), meet(points[last - 1], points[last], cell.rect.right()));
        (points[0], points[last]) = (left, right);
        points
    }
}

/// Part `i` of `n` of a line of two points or more.
fn portion(points: &[(f64, f64)], (i, n): (usize, usize)) -> Vec<(f64, f64)> {
    let segments = points.len() - 1;
    let at = |share: f64| {
        let along = share * segments as f64;
        let k = (along as usize).min(segments - 1);
        let ((x0, y0), (x1, y1), f) = (points[k], points[k + 1], along - k as f64);
        (x0 + (x1 - x0) * f, y0 + (y1 - y0) * f)
    };
    let (from, to) = (i as f64 / n as f64, (i + 1) as f64 / n as f64);
    let inner = (1..segments).map(|k| k as f64 / segments as f64).filter(|s| *s > from + 1e-9 && *s < to - 1e-9);
    std::iter::once(from).chain(inner).chain(std::iter::once(to)).map(at).collect()
}

//! A space laid flat: its faces, what is built in, what is placed on them, and the places of a moisture map.

use crate::Px;
use building::Structure;
use building::unfold::{At, Facet, FixtureKind, Layout, Panel, Sheet, Stop};
use judgment::map::Damp;
use notation::Units;
use notation::unit::LENGTH;
use std::fmt::Write;

/// Room around the faces, for names and ticks, px.
const MARGIN: f64 = 26.0;
/// Radius of a place by what it amounts to, as a share of the distance to the next, and its bounds, px.
const DOT: [f64; 3] = [0.42, 2.4, 7.5];

/// Breadth of a letter of a name, px.
const LETTER: f64 = 6.4;

/// A space laid flat, ready to be drawn.
pub struct FlatSheet {
    /// Width and height, px.
    pub size: [Px; 2],
    /// px for each m, to turn a place on the drawing into one on the sheet.
    pub scale: f64,
    /// Where the sheet begins, px.
    pub origin: f64,
    /// Faces.
    pub faces: Vec<FlatFace>,
    /// What is built in.
    pub fixtures: Vec<FlatFixture>,
    /// Marks along the north-south and the east-west edge of the floor.
    pub ticks: Vec<(Px, Px, String)>,
    /// The scale bar: where it begins and ends, at which height, and its length in words.
    pub bar: ([Px; 3], String),
}

/// A face.
pub struct FlatFace {
    /// Its id.
    pub id: &'static str,
    /// Its name.
    pub name: &'static str,
    /// Its outline.
    pub path: String,
    /// Where its name stands.
    pub label: [Px; 2],
}

/// Something built in.
pub struct FlatFixture {
    /// Its id.
    pub id: String,
    /// Its name.
    pub name: String,
    /// Whether its name has room in it.
    pub named: bool,
    /// Its outline.
    pub path: String,
    /// Its middle.
    pub middle: [Px; 2],
    /// Whether it is a hole in a face, or a machine.
    pub look: &'static str,
}

/// A place of a map, drawn.
pub struct Dot {
    /// Its number in the map.
    pub n: usize,
    /// Middle.
    pub at: [Px; 2],
    /// Radius.
    pub r: Px,
    /// What it amounts to: `dry`, `raised`, `high`, `out`, `unread` or `untold`.
    pub look: &'static str,
}

/// The sheet of a layout with the way onto the drawing.
pub struct Flat {
    sheet: Sheet,
    scale: f64,
}

/// What a place amounts to, for its look.
#[must_use]
pub const fn look(damp: Damp) -> &'static str {
    match damp {
        Damp::Dry => "dry",
        Damp::Raised => "raised",
        Damp::High => "high",
        Damp::LeftOut => "out",
        Damp::Unread => "unread",
        Damp::Untold => "untold",
    }
}

fn path(points: impl IntoIterator<Item = [f64; 2]>) -> String {
    let mut out = String::new();
    for (i, [x, y]) in points.into_iter().enumerate() {
        let _ = write!(out, "{}{} {}", if i == 0 { "M" } else { "L" }, Px(x), Px(y));
    }
    out.push('Z');
    out
}

impl Flat {
    /// A layout fitted into a width and a height, px.
    #[must_use]
    pub fn new(layout: &Layout, [width, height]: [f64; 2]) -> Self {
        let sheet = layout.sheet();
        let [w, h] = sheet.size;
        let scale = ((width - 2.0 * MARGIN) / w).min((height - 2.0 * MARGIN - 22.0) / h);
        Self { sheet, scale }
    }

    fn px(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        [MARGIN + x * self.scale, MARGIN + y * self.scale]
    }

    /// Where a place lies on the drawing, px; `None` for a face this space does not have.
    #[must_use]
    pub fn place(&self, at: &At) -> Option<[f64; 2]> {
        self.sheet.place(at).map(|p| self.px(p))
    }

    /// Where a stop lies on the drawing, px.
    #[must_use]
    pub fn stop(&self, stop: &Stop) -> Option<[f64; 2]> {
        self.sheet.panel(stop.facet).map(|p| self.px(p.on_sheet(stop.point)))
    }

    /// How far to turn something that lies upright on a face, degrees clockwise.
    #[must_use]
    pub fn turn(facet: Facet) -> f64 {
        match facet {
            Facet::North => -90.0,
            Facet::South => 90.0,
            Facet::West => 180.0,
            Facet::East | Facet::Around | Facet::Floor | Facet::Ceiling => 0.0,
        }
    }

    /// A length on the drawing, px.
    #[must_use]
    pub fn length(&self, m: f64) -> f64 {
        m * self.scale
    }

    /// A place of a map.
    #[must_use]
    pub fn dot(&self, n: usize, at: &At, damp: Damp, spacing: f64) -> Option<Dot> {
        let [x, y] = self.place(at)?;
        let [share, least, most] = DOT;
        let grow = match damp {
            Damp::High => 1.6,
            Damp::Raised => 1.15,
            _ => 1.0,
        };
        let r = (spacing * self.scale * share).clamp(least, most) * grow;
        Some(Dot { n, at: [Px(x), Px(y)], r: Px(r), look: look(damp) })
    }

    /// The faces with what is built in, named as in a kind of structure.
    #[must_use]
    pub fn drawn(&self, layout: &Layout, structure: Structure, units: Units) -> FlatSheet {
        let [w, h] = self.px(self.sheet.size);
        let face = |p: &Panel| {
            let outline = p.drawn().into_iter().map(|q| self.px(q));
            let [x, y] = self.px(p.on_sheet(self.name_at(p, layout)));
            let name = p.facet.called(structure);
            FlatFace { id: p.facet.id(), name, path: path(outline), label: [Px(x), Px(y)] }
        };
        let fixture = |f: &building::unfold::Fixture| {
            let panel = self.sheet.panel(f.at.facet)?;
            let [x, y] = panel.point(&f.at);
            let (a, b) = (f.width_m / 2.0, f.height_m / 2.0);
            let corners = [[x - a, y - b], [x + a, y - b], [x + a, y + b], [x - a, y + b]];
            let [mx, my] = self.px(panel.on_sheet([x, y]));
            let drawn = corners.map(|c| panel.on_sheet(c));
            let across = drawn.iter().map(|c| (c[0] - drawn[0][0]).abs()).fold(0.0, f64::max) * self.scale;
            Some(FlatFixture {
                id: f.id.to_string(),
                name: f.name.clone(),
                named: f.name.chars().count() as f64 * LETTER <= across + 2.0,
                path: path(drawn.map(|c| self.px(c))),
                middle: [Px(mx), Px(my)],
                look: if f.kind.opening() {
                    "opening"
                } else if f.kind == FixtureKind::Machine {
                    "device"
                } else {
                    "built"
                },
            })
        };
        let unit = LENGTH.si(1.0, units);
        let (x0, y0) = (MARGIN, h + 20.0);
        FlatSheet {
            size: [Px(w + MARGIN), Px(h + MARGIN + 22.0)],
            scale: self.scale,
            origin: MARGIN,
            faces: self.sheet.panels.iter().map(face).collect(),
            fixtures: layout.fixtures.iter().filter_map(fixture).collect(),
            ticks: self.ticks(unit),
            bar: ([Px(x0), Px(x0 + unit * self.scale), Px(y0)], LENGTH.text(unit, units)),
        }
    }

    /// Where a face is named: at its outer edge or its middle, wherever nothing is built in.
    fn name_at(&self, p: &Panel, layout: &Layout) -> [f64; 2] {
        let ([w, h], line) = (p.size, 15.0 / self.scale);
        let wanted = match p.facet {
            Facet::Floor | Facet::Ceiling => {
                [[0.5, 0.5], [0.5, 0.3], [0.5, 0.7], [0.8, 0.5], [0.2, 0.5], [0.8, 0.8]].map(|[a, b]| [a * w, b * h])
            }
            // Names lie level: on walls left and right of the floor they stand at the lower end of the drawing.
            Facet::North => [
                [line, h / 2.0],
                [w - line, h / 2.0],
                [w / 2.0, h / 2.0],
                [w * 0.3, h / 2.0],
                [w * 0.7, h / 2.0],
                [line, h / 2.0],
            ],
            Facet::South => [
                [w - line, h / 2.0],
                [line, h / 2.0],
                [w / 2.0, h / 2.0],
                [w * 0.3, h / 2.0],
                [w * 0.7, h / 2.0],
                [line, h / 2.0],
            ],
            _ => [0.5, 0.25, 0.75, 0.12, 0.88, 0.5].map(|a| [a * w, h - line]),
        };
        let built = |[x, y]: &[f64; 2]| {
            layout.fixtures.iter().filter(|f| f.at.facet == p.facet).any(|f| {
                let [fx, fy] = p.point(&f.at);
                (x - fx).abs() <= f.width_m / 2.0 + 2.0 * line && (y - fy).abs() <= f.height_m / 2.0 + line
            })
        };
        wanted.into_iter().find(|at| !built(at)).unwrap_or(wanted[0])
    }

    /// Marks each length unit along the west and the north edge of the floor.
    fn ticks(&self, unit: f64) -> Vec<(Px, Px, String)> {
        let Some(floor) = self.sheet.panel(Facet::Floor) else { return Vec::new() };
        if self.sheet.panel(Facet::Around).is_some() {
            return Vec::new();
        }
        let step = unit * (28.0 / (unit * self.scale)).ceil().max(1.0);
        let along = |axis: usize| {
            let count = (floor.size[axis] / step - 0.2).floor().max(0.0) as usize;
            (1..=count).map(move |i| i as f64 * step)
        };
        let mut ticks = Vec::new();
        for x in along(0) {
            let [px, py] = self.px(floor.on_sheet([x, floor.size[1]]));
            ticks.push((Px(px), Px(py - 16.0), format!("{:.0}", x / unit)));
        }
        for y in along(1) {
            let [px, py] = self.px(floor.on_sheet([0.0, y]));
            ticks.push((Px(px + 20.0), Px(py + 4.0), format!("{:.0}", y / unit)));
        }
        ticks
    }
}

//! The flat sheet: where each face lies on it, and the way between a face, the sheet and the space.

use super::{Along, At, Facet, Roof, Shape};
use std::f64::consts::TAU;

/// Between the ceiling and the rest, m.
const GAP: f64 = 0.6;
/// Width to height of what the sheet is fitted into.
const ASPECT: f64 = 1.45;
/// How far beside a face a point still means it, m.
const BESIDE: f64 = 0.25;
/// Pieces a curve is drawn in.
const PIECES: usize = 96;

/// How a face lies on the sheet.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Lies {
    /// Turned and shifted: where its corner lies, and which way its two axes go.
    Turned { origin: [f64; 2], x: [f64; 2], y: [f64; 2] },
    /// A cone rolled out around its tip.
    Fan { tip: [f64; 2], radius: f64, sweep: f64 },
}

/// A face on the sheet.
#[derive(Debug, Clone, PartialEq)]
pub struct Panel {
    /// Which.
    pub facet: Facet,
    /// Its length and height; of a gable end the height under its ridge, m.
    pub size: [f64; 2],
    /// Its outline in its own measure.
    outline: Vec<[f64; 2]>,
    lies: Lies,
}

/// A space laid flat, in m from the top left.
#[derive(Debug, Clone, PartialEq)]
pub struct Sheet {
    /// Its width and height.
    pub size: [f64; 2],
    /// Its faces.
    pub panels: Vec<Panel>,
    shape: Shape,
}

fn rectangle([w, h]: [f64; 2]) -> Vec<[f64; 2]> {
    vec![[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]]
}

fn curve(point: impl Fn(f64) -> [f64; 2]) -> impl Iterator<Item = [f64; 2]> {
    (0..=PIECES).map(move |i| point(i as f64 / PIECES as f64))
}

impl Panel {
    fn new(facet: Facet, outline: Vec<[f64; 2]>, lies: Lies) -> Self {
        let most = |axis: usize| outline.iter().map(|p| p[axis]).fold(0.0, f64::max);
        Self { facet, size: [most(0), most(1)], outline, lies }
    }

    /// A point of it on the sheet.
    #[must_use]
    pub fn on_sheet(&self, [a, b]: [f64; 2]) -> [f64; 2] {
        match self.lies {
            Lies::Turned { origin, x, y } => [origin[0] + a * x[0] + b * y[0], origin[1] + a * x[1] + b * y[1]],
            Lies::Fan { tip, radius, sweep } => {
                let (turn, out) = (sweep * (a / self.size[0] - 0.5), radius - b);
                [tip[0] + out * turn.sin(), tip[1] + out * turn.cos()]
            }
        }
    }

    /// The point of it that lies there on the sheet; it may be outside its outline.
    fn off_sheet(&self, [px, py]: [f64; 2]) -> [f64; 2] {
        match self.lies {
            Lies::Turned { origin, x, y } => {
                let (dx, dy) = (px - origin[0], py - origin[1]);
                [dx * x[0] + dy * x[1], dx * y[0] + dy * y[1]]
            }
            Lies::Fan { tip, radius, sweep } => {
                let (dx, dy) = (px - tip[0], py - tip[1]);
                [(dx.atan2(dy) / sweep + 0.5) * self.size[0], radius - dx.hypot(dy)]
            }
        }
    }

    /// Its outline on the sheet.
    #[must_use]
    pub fn drawn(&self) -> Vec<[f64; 2]> {
        match self.lies {
            Lies::Turned { .. } => self.outline.iter().map(|p| self.on_sheet(*p)).collect(),
            Lies::Fan { .. } => {
                let [w, h] = self.size;
                let rim = curve(|t| self.on_sheet([w * t, 0.0]));
                rim.chain([self.on_sheet([w, h])]).collect()
            }
        }
    }

    /// Whether a point, in its own measure, lies on it.
    #[must_use]
    pub fn holds(&self, [x, y]: [f64; 2]) -> bool {
        if matches!(self.lies, Lies::Fan { .. }) {
            return (0.0..=self.size[0]).contains(&x) && (0.0..=self.size[1]).contains(&y);
        }
        let crosses = |a: &[f64; 2], b: &[f64; 2]| {
            (a[1] > y) != (b[1] > y) && x < (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]) + a[0]
        };
        let next = self.outline.iter().cycle().skip(1);
        self.outline.iter().zip(next).filter(|(a, b)| crosses(a, b)).count() % 2 == 1
    }

    /// Its area, m².
    #[must_use]
    pub fn area_m2(&self) -> f64 {
        if let Lies::Fan { radius, sweep, .. } = self.lies {
            return sweep * radius * radius / 2.0;
        }
        let next = self.outline.iter().cycle().skip(1);
        let twice: f64 = self.outline.iter().zip(next).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum();
        twice.abs() / 2.0
    }

    /// Where an [`At`] of this face is, in its own measure.
    #[must_use]
    pub fn point(&self, at: &At) -> [f64; 2] {
        [at.x.on(self.size[0]), at.y.on(self.size[1])]
    }

    /// The place at a point of it, kept from its nearer ends; heights on a wall are kept from the floor.
    #[must_use]
    pub fn at(&self, [x, y]: [f64; 2]) -> At {
        let [w, h] = self.size;
        let y = y.clamp(0.0, h);
        let across = if self.facet.upright() { Along { m: y, far: false } } else { Along::of(y, h) };
        At { facet: self.facet, x: Along::of(x.clamp(0.0, w), w), y: across }
    }
}

impl Sheet {
    pub(super) fn of(shape: &Shape) -> Self {
        match *shape {
            Shape::Straight { length_m, width_m, height_m, roof } => {
                straight(shape, [length_m, width_m, height_m], roof)
            }
            Shape::Round { diameter_m, wall_m, crown_m } => round(shape, diameter_m, wall_m, crown_m),
        }
    }

    /// A face of it.
    #[must_use]
    pub fn panel(&self, facet: Facet) -> Option<&Panel> {
        self.panels.iter().find(|p| p.facet == facet)
    }

    /// Where a place lies on the sheet; `None` for a face this space does not have.
    #[must_use]
    pub fn place(&self, at: &At) -> Option<[f64; 2]> {
        let panel = self.panel(at.facet)?;
        Some(panel.on_sheet(panel.point(at)))
    }

    /// The place under a point of the sheet, or the nearest within a hand's width; `None` beside all faces.
    #[must_use]
    pub fn locate(&self, point: [f64; 2]) -> Option<At> {
        let own = |p: &Panel| p.off_sheet(point);
        if let Some(panel) = self.panels.iter().find(|p| p.holds(own(p))) {
            return Some(panel.at(own(panel)));
        }
        let beside = |p: &Panel| {
            let [x, y] = own(p);
            let [dx, dy] = [x - x.clamp(0.0, p.size[0]), y - y.clamp(0.0, p.size[1])];
            dx.hypot(dy)
        };
        let nearest = self.panels.iter().min_by(|a, b| beside(a).total_cmp(&beside(b)))?;
        (beside(nearest) <= BESIDE).then(|| nearest.at(own(nearest)))
    }

    /// A place in the space: from the north wall, from the east wall, above the floor, m. In a round space from the square
    /// around it.
    #[must_use]
    pub fn in_space(&self, at: &At) -> Option<[f64; 3]> {
        let panel = self.panel(at.facet)?;
        let [x, y] = panel.point(at);
        Some(match self.shape {
            Shape::Straight { length_m: l, width_m: w, height_m: h, roof } => match at.facet {
                Facet::North => [0.0, w - x, y],
                Facet::East => [x, 0.0, y],
                Facet::South => [l, x, y],
                Facet::West => [l - x, w, y],
                Facet::Floor => [x, y, 0.0],
                Facet::Ceiling | Facet::Around => {
                    // Down the slope the run is in proportion to the length.
                    let across = w * y / panel.size[1];
                    [x, across, under(roof, h, across / w)]
                }
            },
            Shape::Round { diameter_m, wall_m, crown_m } => {
                let r = diameter_m / 2.0;
                let around = |out: f64, up: f64| {
                    // Clockwise from north, which is toward smaller x; east is toward smaller y.
                    let turn = TAU * x / panel.size[0];
                    [r - out * turn.cos(), r - out * turn.sin(), up]
                };
                match at.facet {
                    Facet::Floor => [x, y, 0.0],
                    Facet::Ceiling => {
                        let share = y / panel.size[1];
                        around(r * (1.0 - share), wall_m + (crown_m - wall_m) * share)
                    }
                    _ => around(r, y),
                }
            }
        })
    }
}

/// Height under a roof at a share of the way from the east to the west wall.
fn under(roof: Roof, h: f64, share: f64) -> f64 {
    match roof {
        Roof::Flat => h,
        Roof::Gable { ridge_m } => h + (ridge_m - h) * (1.0 - (2.0 * share - 1.0).abs()),
        Roof::Shed { ridge_m } => h + (ridge_m - h) * (1.0 - share),
    }
}

fn straight(shape: &Shape, [l, w, h]: [f64; 3], roof: Roof) -> Sheet {
    let [east, west] = [under(roof, h, 0.0), under(roof, h, 1.0)];
    let (tall, slope) = match roof {
        Roof::Flat => (h, w),
        Roof::Gable { ridge_m } => (ridge_m, 2.0 * (w / 2.0).hypot(ridge_m - h)),
        Roof::Shed { ridge_m } => (ridge_m, w.hypot(ridge_m - h)),
    };
    // Seen from inside the north wall has east on its right, the south wall on its left.
    let end = |left: f64, right: f64| {
        let mut outline = vec![[0.0, 0.0], [w, 0.0], [w, right]];
        if matches!(roof, Roof::Gable { .. }) {
            outline.push([w / 2.0, tall]);
        }
        outline.push([0.0, left]);
        outline
    };
    let beside = [tall + l + tall + GAP + l, east.max(west) + w.max(slope) + east.max(west)];
    let below = [tall + l + tall, east + w + west + GAP + slope];
    let scale = |[a, b]: [f64; 2]| (ASPECT / a).min(1.0 / b);
    let is_beside = scale(beside) > scale(below);
    let (left, top) = (tall, if is_beside { east.max((slope - w) / 2.0) } else { east });
    let turned = |origin, x, y| Lies::Turned { origin, x, y };
    let ceiling =
        if is_beside { [left + l + tall + GAP, top + (w - slope) / 2.0] } else { [left, top + w + west + GAP] };
    let panels = vec![
        Panel::new(Facet::Floor, rectangle([l, w]), turned([left, top], [1.0, 0.0], [0.0, 1.0])),
        Panel::new(Facet::North, end(west, east), turned([left, top + w], [0.0, -1.0], [-1.0, 0.0])),
        Panel::new(Facet::East, rectangle([l, east]), turned([left, top], [1.0, 0.0], [0.0, -1.0])),
        Panel::new(Facet::South, end(east, west), turned([left + l, top], [0.0, 1.0], [1.0, 0.0])),
        Panel::new(Facet::West, rectangle([l, west]), turned([left + l, top + w], [-1.0, 0.0], [0.0, 1.0])),
        Panel::new(Facet::Ceiling, rectangle([l, slope]), turned(ceiling, [1.0, 0.0], [0.0, 1.0])),
    ];
    Sheet::fitted(shape, panels)
}

fn round(shape: &Shape, diameter: f64, wall: f64, crown: f64) -> Sheet {
    let r = diameter / 2.0;
    let around = TAU * r;
    let slant = r.hypot(crown - wall);
    let sweep = around / slant;
    let turned = |origin| Lies::Turned { origin, x: [1.0, 0.0], y: [0.0, 1.0] };
    let disc = curve(|t| [r + r * (TAU * t).cos(), r + r * (TAU * t).sin()]).collect();
    let fan = Lies::Fan { tip: [diameter + GAP + slant, slant], radius: slant, sweep };
    let mut ceiling = Panel::new(Facet::Ceiling, rectangle([around, slant]), fan);
    ceiling.size = [around, slant];
    let foot = diameter.max(2.0 * slant) + GAP + wall;
    let strip = Lies::Turned { origin: [0.0, foot], x: [1.0, 0.0], y: [0.0, -1.0] };
    let panels = vec![
        Panel::new(Facet::Floor, disc, turned([0.0, (2.0 * slant - diameter).max(0.0) / 2.0])),
        ceiling,
        Panel::new(Facet::Around, rectangle([around, wall]), strip),
    ];
    Sheet::fitted(shape, panels)
}

impl Sheet {
    /// Shifted so that its faces begin at the top left.
    fn fitted(shape: &Shape, mut panels: Vec<Panel>) -> Self {
        let all: Vec<[f64; 2]> = panels.iter().flat_map(Panel::drawn).collect();
        let low = |axis: usize| all.iter().map(|p| p[axis]).fold(f64::INFINITY, f64::min);
        let high = |axis: usize| all.iter().map(|p| p[axis]).fold(f64::NEG_INFINITY, f64::max);
        let least = [low(0), low(1)];
        for panel in &mut panels {
            let (Lies::Turned { origin: from, .. } | Lies::Fan { tip: from, .. }) = &mut panel.lies;
            *from = [from[0] - least[0], from[1] - least[1]];
        }
        Self { size: [high(0) - least[0], high(1) - least[1]], panels, shape: *shape }
    }
}

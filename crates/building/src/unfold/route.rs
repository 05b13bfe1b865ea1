//! Ways to walk with a meter: along an edge, around an opening, or over a face in a grid, a stop each spacing.

use super::{Facet, Layout, Panel};
use crate::kinds::Structure;

/// Most stops of one way.
pub const MOST_STOPS: usize = 600;
/// Spacings allowed, m: a finger to a pace.
pub const SPACING: [f64; 2] = [0.02, 1.0];
/// How far from the joint a meter is held, m: half a hand.
const INSET: f64 = 0.05;

/// What kind of way it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum RouteKind {
    /// Along lines: what is wet has a length.
    Edge,
    /// Over a face: what is wet has an area.
    Grid,
}

/// A way to walk.
#[derive(Debug, Clone, PartialEq)]
pub struct Route {
    /// Stable id within its space.
    pub id: String,
    /// What it is called.
    pub name: String,
    /// Kind.
    pub kind: RouteKind,
    legs: Vec<Leg>,
}

/// A straight piece of a way, in the measure of its face.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Leg {
    facet: Facet,
    from: [f64; 2],
    to: [f64; 2],
}

impl Leg {
    fn length(&self) -> f64 {
        (self.to[0] - self.from[0]).hypot(self.to[1] - self.from[1])
    }
}

/// A place to hold the meter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stop {
    /// The face.
    pub facet: Facet,
    /// Where on it, in its measure, m.
    pub point: [f64; 2],
    /// How far along its leg, m.
    pub along: f64,
}

fn rounded(x: f64) -> f64 {
    (x * 1000.0).round() / 1000.0
}

/// Places along a line, half a spacing from its ends on.
fn steps(length: f64, spacing: f64) -> impl Iterator<Item = f64> {
    let count = ((length / spacing).round() as usize).max(1);
    // A line that is no whole number of spacings ends with a shorter or longer half; one shorter than that has its middle.
    (0..count).map(move |i| rounded(if count == 1 { length / 2.0 } else { (spacing * (i as f64 + 0.5)).min(length) }))
}

impl Route {
    /// Its length, m; of a grid the sum of its rows is not meant, and this is 0.
    #[must_use]
    pub fn length_m(&self) -> f64 {
        match self.kind {
            RouteKind::Edge => self.legs.iter().map(Leg::length).sum(),
            RouteKind::Grid => 0.0,
        }
    }

    /// The places to hold the meter, in walking order; more than [`MOST_STOPS`] are counted, not given.
    ///
    /// # Errors
    /// How many there would be.
    pub fn stops(&self, layout: &Layout, spacing: f64) -> Result<Vec<Stop>, usize> {
        let sheet = layout.sheet();
        let mut stops = Vec::new();
        match self.kind {
            RouteKind::Edge => {
                let count: f64 = self.legs.iter().map(|l| (l.length() / spacing).round().max(1.0)).sum();
                if count > MOST_STOPS as f64 {
                    return Err(count as usize);
                }
                for leg in &self.legs {
                    let length = leg.length();
                    stops.extend(steps(length, spacing).map(|along| {
                        let t = along / length.max(1e-9);
                        let point = [0, 1].map(|i| rounded(leg.from[i] + t * (leg.to[i] - leg.from[i])));
                        Stop { facet: leg.facet, point, along }
                    }));
                }
            }
            RouteKind::Grid => {
                let Some(panel) = self.legs.first().and_then(|l| sheet.panel(l.facet)) else { return Ok(stops) };
                let [w, h] = panel.size;
                let count = (w / spacing).ceil() * (h / spacing).ceil();
                if count > 4.0 * MOST_STOPS as f64 {
                    return Err(count as usize);
                }
                stops = grid(panel, spacing);
                if stops.len() > MOST_STOPS {
                    return Err(stops.len());
                }
            }
        }
        Ok(stops)
    }
}

/// Rows over a face, there and back, from the foot of a wall up.
fn grid(panel: &Panel, spacing: f64) -> Vec<Stop> {
    let [w, h] = panel.size;
    let mut stops = Vec::new();
    for (row, y) in steps(h, spacing).enumerate() {
        let mut across: Vec<f64> = steps(w, spacing).filter(|x| panel.holds([*x, y])).collect();
        if row % 2 == 1 {
            across.reverse();
        }
        stops.extend(across.into_iter().map(|x| Stop { facet: panel.facet, point: [x, y], along: x }));
    }
    stops
}

impl Layout {
    /// Every way to walk in this space, named as in its kind of structure; the first is the usual one.
    #[must_use]
    pub fn routes(&self, structure: Structure) -> Vec<Route> {
        let sheet = self.sheet();
        let mut routes = Vec::new();
        let edge = |id: String, name: String, legs: Vec<Leg>| Route { id, name, kind: RouteKind::Edge, legs };
        let called = |f: Facet| f.called(structure);
        if let Some(around) = sheet.panel(Facet::Around) {
            let [w, h] = around.size;
            let line = |y: f64| vec![Leg { facet: Facet::Around, from: [0.0, y], to: [w, y] }];
            routes.push(edge("foot".into(), "Foot of the wall, all round".into(), line(INSET.min(h))));
            routes.push(edge("head".into(), "Head of the wall, all round".into(), line((h - INSET).max(0.0))));
        } else {
            for (facet, what) in [(Facet::Floor, "Floor edge"), (Facet::Ceiling, "Ceiling edge")] {
                let Some(panel) = sheet.panel(facet) else { continue };
                let sides = sides(panel);
                let all = sides.iter().map(|(_, leg)| *leg).collect();
                routes.push(edge(facet.id().into(), format!("{what}, all round"), all));
                routes.extend(sides.into_iter().map(|(side, leg)| {
                    edge(format!("{} {}", facet.id(), side.id()), format!("{what}, {}", called(side)), vec![leg])
                }));
            }
            for (wall, [left, right]) in
                [(Facet::North, [Facet::West, Facet::East]), (Facet::South, [Facet::East, Facet::West])]
            {
                let Some(panel) = sheet.panel(wall) else { continue };
                let w = panel.size[0];
                for (x, side) in [(INSET.min(w), left), ((w - INSET).max(0.0), right)] {
                    let top = sheet.panel(side).map_or(0.0, |p| p.size[1]);
                    let leg = Leg { facet: wall, from: [x, 0.0], to: [x, top] };
                    let name = format!("Corner, {} and {}", called(wall), called(side));
                    routes.push(edge(format!("corner {} {}", wall.id(), side.id()), name, vec![leg]));
                }
            }
        }
        for f in self.fixtures.iter().filter(|f| f.kind.has_edge()) {
            let Some(panel) = sheet.panel(f.at.facet) else { continue };
            let [x, y] = panel.point(&f.at);
            let (a, b) = (f.width_m / 2.0, f.height_m / 2.0);
            let within = |[x, y]: [f64; 2]| [x.clamp(0.0, panel.size[0]), y.clamp(0.0, panel.size[1])];
            let corners = [[x - a, y - b], [x + a, y - b], [x + a, y + b], [x - a, y + b]].map(within);
            let legs = (0..4).map(|i| Leg { facet: f.at.facet, from: corners[i], to: corners[(i + 1) % 4] });
            let legs = legs.filter(|l| l.length() > 1e-6).collect();
            routes.push(edge(format!("around {}", f.id), format!("Around the {}", f.name), legs));
        }
        routes.extend(sheet.panels.iter().map(|p| {
            let leg = Leg { facet: p.facet, from: [0.0, 0.0], to: [0.0, 0.0] };
            let name = format!("Grid over the {}", called(p.facet));
            Route { id: format!("grid {}", p.facet.id()), name, kind: RouteKind::Grid, legs: vec![leg] }
        }));
        routes
    }
}

/// The four edges of a level face, clockwise from the north-east corner as seen from above, with the wall along each.
fn sides(panel: &Panel) -> Vec<(Facet, Leg)> {
    let [l, w] = panel.size;
    let (near, far) = (INSET.min(l / 2.0).min(w / 2.0), |x: f64| x - INSET.min(l / 2.0).min(w / 2.0));
    let leg = |from, to| Leg { facet: panel.facet, from, to };
    vec![
        (Facet::East, leg([0.0, near], [l, near])),
        (Facet::South, leg([far(l), 0.0], [far(l), w])),
        (Facet::West, leg([l, far(w)], [0.0, far(w)])),
        (Facet::North, leg([near, w], [near, 0.0])),
    ]
}

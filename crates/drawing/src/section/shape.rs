//! Lines, outlines and heads, as an SVG path or a list of points.

use super::layout::{Cell, Layout, Rect};
use crate::px::Px;

/// A point.
pub type Point = (f64, f64);

/// Points of a polygon.
fn points(of: &[Point]) -> String {
    let each: Vec<String> = of.iter().map(|(x, y)| format!("{},{}", Px(*x), Px(*y))).collect();
    each.join(" ")
}

/// A path through points.
pub fn path(of: &[Point]) -> String {
    let each: Vec<String> = of.iter().map(|(x, y)| format!("{} {}", Px(*x), Px(*y))).collect();
    format!("M{}", each.join(" L"))
}

/// A cubic curve through two handles to a point.
fn curve(to: [Point; 3]) -> String {
    let each: Vec<String> = to.iter().map(|(x, y)| format!("{} {}", Px(*x), Px(*y))).collect();
    format!("C{}", each.join(" "))
}

/// The outline of a space, under its roof where it stands under one.
pub fn outline(layout: &Layout, c: &Cell) -> String {
    let Rect { x, y, w, h } = c.rect;
    if c.slope > 0.0 {
        let roof = layout.slopes_inside(c).into_iter();
        let around: Vec<Point> = std::iter::once((x, y + h)).chain(roof).chain([(x + w, y + h)]).collect();
        points(&around)
    } else {
        points(&[(x, y), (x + w, y), (x + w, y + h), (x, y + h)])
    }
}

/// A hull around the cells: flaring sides, rounded bilges, a keel, and a deck beside the cabin.
pub fn hull(layout: &Layout) -> String {
    let Rect { x, .. } = layout.body;
    let (right, bottom, middle) = (layout.body.right(), layout.body.bottom(), layout.body.middle());
    let deck = layout.ground - 70.0;
    // The bilge passes the cells' lower corners with a hand to spare.
    let turn = |from: f64, out: f64| {
        let at = |dx: f64| from + out * dx;
        [(at(54.0), bottom - 20.0), (at(58.0), bottom + 34.0), (at(-90.0), bottom + 36.0)]
    };
    let [a, b, c] = turn(x, -1.0);
    let [d, e, f] = turn(right, 1.0);
    let (port, starboard) = ((x - 58.0, deck), (right + 58.0, deck));
    let keel = path(&[c, (middle, bottom + 54.0), f]);
    format!("{} {} {} {} Z", path(&[port]), curve([a, b, c]), keel.replacen('M', "L", 1), curve([e, d, starboard]))
}

/// Felt laid over the lattice of a round dwelling: a second line outside its walls and roof, and ropes round it.
pub fn felt(layout: &Layout) -> Vec<String> {
    let Some(ring) = layout.ring else { return Vec::new() };
    let (body, out) = (layout.body, 9.0);
    let eaves = layout.cells.iter().filter(|c| c.slope > 0.0).map(Cell::eaves).fold(body.y, f64::max);
    let cover = |wall: f64, top: f64| path(&[(wall, body.bottom()), (wall, eaves - 2.0), (top, ring.y + 2.0)]);
    let ropes = [0.25, 0.5, 0.75].map(|part| eaves + (body.bottom() - eaves) * part);
    let ends = [(body.x - out, body.x), (body.right(), body.right() + out)];
    let rope = |y: f64| ends.map(|(a, b)| path(&[(a, y), (b, y)]));
    [cover(body.x - out, ring.x), cover(body.right() + out, ring.right())]
        .into_iter()
        .chain(ropes.into_iter().flat_map(rope))
        .collect()
}

fn direction(from: Point, to: Point) -> Point {
    let (dx, dy) = (to.0 - from.0, to.1 - from.1);
    let length = dx.hypot(dy).max(1e-9);
    (dx / length, dy / length)
}

/// The way to a point, but so much shorter.
pub fn shorten(from: Point, to: Point, by: f64) -> Point {
    let (dx, dy) = direction(from, to);
    (to.0 - dx * by, to.1 - dy * by)
}

/// A triangular head ending at `to`.
pub fn head(from: Point, to: Point, size: f64) -> String {
    let (dx, dy) = direction(from, to);
    let (bx, by) = (to.0 - dx * size * 1.6, to.1 - dy * size * 1.6);
    points(&[to, (bx - dy * size, by + dx * size), (bx + dy * size, by - dx * size)])
}

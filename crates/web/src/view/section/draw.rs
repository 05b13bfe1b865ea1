//! The cut as shapes: cells with their air, boundaries with their worst surface, arrows of vapor drive.

use super::super::Mark;
use super::ladder::{Ladder, ladder};
use super::layout::{Cell, Edge, Layout, Rect, lay_out};
use crate::view::show::Show;
use judgement::building::{Building, Face, Shell, Side};
use judgement::picture::{BoundaryState, Picture};
use judgement::reading::AirState;
use uuid::Uuid;

/// Everything the template draws.
pub struct Drawing {
    pub width: f64,
    pub height: f64,
    pub cells: Vec<CellView>,
    pub bands: Vec<Band>,
    pub arrows: Vec<Arrow>,
    pub outdoors: Outdoors,
    pub ground: f64,
    /// Where a vehicle's wheels stand, x.
    pub wheels: Vec<f64>,
}

/// A space.
pub struct CellView {
    pub id: Uuid,
    /// Corners as an SVG points list.
    pub outline: String,
    pub text_x: f64,
    pub text_y: f64,
    pub name: String,
    /// All its text, as a screen reader says it.
    pub label: String,
    pub air: Option<AirText>,
    pub ladder: Option<Ladder>,
    pub chosen: bool,
}

/// Air in two lines.
pub struct AirText {
    pub state: String,
    pub dew: String,
}

/// Outdoor air.
pub struct Outdoors {
    pub y: f64,
    pub air: Option<AirText>,
    pub chosen: bool,
}

/// A boundary.
pub struct Band {
    pub path: String,
    pub mark: Mark,
    pub title: String,
    /// Where its drop mark stands; `None` where nothing was judged.
    pub drop: Option<(f64, f64)>,
}

/// Vapor drive across a boundary.
pub struct Arrow {
    pub path: String,
    pub head: String,
    pub width: f64,
    pub label: String,
    pub label_x: f64,
    pub label_y: f64,
    pub anchor: &'static str,
    pub title: String,
}

/// Draws the building as read on one visit. `chosen` is the space or surface in view.
pub fn draw(show: &Show, building: &Building, shell: Shell, picture: &Picture, chosen: Option<Uuid>) -> Drawing {
    let layout = lay_out(building, shell);
    let cells = layout.cells.iter().filter_map(|c| cell(show, building, &layout, picture, c, chosen)).collect();
    let placed: Vec<(&BoundaryState, Edge)> = picture
        .boundaries
        .iter()
        .filter_map(|state| Some((state, layout.edge(building.boundary(state.boundary_id)?)?)))
        .collect();
    let bands = placed.iter().filter_map(|(state, edge)| band(building, &layout, state, edge)).collect();
    let arrows = placed.iter().filter_map(|(state, edge)| arrow(show, building, &layout, state, edge)).collect();
    let living = layout.cells.iter().find(|c| !c.gable).map_or(40.0, |c| c.rect.y);
    Drawing {
        width: layout.width,
        height: layout.height,
        cells,
        bands,
        arrows,
        outdoors: Outdoors {
            y: living + 18.0,
            air: picture.outdoor.as_ref().map(|a| air_text(show, a)),
            chosen: chosen == Some(Uuid::nil()),
        },
        ground: layout.ground,
        wheels: if shell == Shell::Vehicle {
            vec![layout.body.x + 110.0, layout.body.right() - 120.0]
        } else {
            Vec::new()
        },
    }
}

fn air_text(show: &Show, air: &AirState) -> AirText {
    let v = &air.value;
    AirText {
        state: format!("{}  {}", show.temperature(v.t.get()), show.percent(v.rh.get())),
        dew: air.dew.map_or_else(|| "no dew point".into(), |d| format!("dew point {}", show.degrees(d.value))),
    }
}

fn cell(
    show: &Show,
    building: &Building,
    layout: &Layout,
    picture: &Picture,
    c: &Cell,
    chosen: Option<Uuid>,
) -> Option<CellView> {
    let space = building.space(c.space)?;
    let state = picture.space(c.space)?;
    let (text_x, ladder_x) = Layout::columns(c);
    let Rect { x, y, w, h } = c.rect;
    let outline = if c.gable {
        // The slopes pass the walls on their way to the eaves, so the outline meets them some way up.
        let [left, apex, right] = layout.slope_points(c);
        format!("{x},{} {x},{left} {},{apex} {},{right} {},{}", y + h, x + w / 2.0, x + w, x + w, y + h)
    } else {
        format!("{x},{y} {},{y} {},{} {x},{}", x + w, x + w, y + h, y + h)
    };
    let top = if c.gable { y + h * 0.42 } else { y + 24.0 };
    let air = state.air.as_ref().map(|a| air_text(show, a));
    let said = air.as_ref().map_or_else(|| "air not read".into(), |a| format!("{} {}", a.state, a.dew));
    Some(CellView {
        id: c.space,
        label: format!("{} {said}", space.name),
        outline,
        text_x,
        text_y: if c.gable { y + h * 0.60 } else { y + 30.0 },
        name: space.name.clone(),
        air,
        ladder: ladder(show, building, state, ladder_x, (top, y + h - 20.0), chosen),
        chosen: chosen == Some(c.space),
    })
}

fn path(points: &[(f64, f64)]) -> String {
    let steps: Vec<String> = points
        .iter()
        .enumerate()
        .map(|(i, (x, y))| format!("{}{x:.1} {y:.1}", if i == 0 { "M" } else { "L" }))
        .collect();
    steps.join(" ")
}

fn band(building: &Building, layout: &Layout, state: &BoundaryState, edge: &Edge) -> Option<Band> {
    let boundary = building.boundary(state.boundary_id)?;
    let mark = state.worst.map_or(Mark::NONE, Mark::from);
    let drop = state.worst.map(|_| drop_place(layout, edge, boundary.beyond));
    Some(Band { path: path(&edge.points), mark, title: format!("{}: {}", boundary.name, mark.word), drop })
}

/// Drop marks stand outside the building where there is an outside, else on the line.
fn drop_place(layout: &Layout, edge: &Edge, beyond: Side) -> (f64, f64) {
    let (x0, y0) = edge.points[0];
    let (x1, y1) = edge.points[edge.points.len() - 1];
    let between = matches!(beyond, Side::Space(_));
    match edge.face {
        Face::North if between => (x0, f64::midpoint(y0, y1)),
        Face::South if between => (x1, f64::midpoint(y0, y1)),
        Face::North => (x0 - 22.0, y0 + (y1 - y0) * 0.74),
        Face::South => (x1 + 22.0, y0 + (y1 - y0) * 0.74),
        Face::Ceiling if edge.points.len() == 3 => {
            let (ax, ay) = edge.points[1];
            (ax + (x1 - ax) * 0.42 + 16.0, ay + (y1 - ay) * 0.42 - 16.0)
        }
        Face::Ceiling if !between && layout.body.y + 1.0 > y0 => (x0 + (x1 - x0) * 0.75, y0 - 21.0),
        Face::Floor | Face::Ceiling => (x0 + (x1 - x0) * 0.5, y0),
    }
}

/// An arrow for a drive that is certain in direction; thicker the stronger it is.
fn arrow(show: &Show, building: &Building, layout: &Layout, state: &BoundaryState, edge: &Edge) -> Option<Arrow> {
    let boundary = building.boundary(state.boundary_id)?;
    let drive = state.drive.filter(|d| !d.spans_zero())?;
    let inward = drive.value > 0.0;
    let place = arrow_place(layout, edge, boundary.beyond)?;
    let (from, to) = if inward { (place.outer, place.inner) } else { (place.inner, place.outer) };
    let width = 2.0 + (drive.value.abs() / 250.0).min(3.0);
    let amount = show.pressure(drive.value.abs());
    let title = format!(
        "{}: vapor is driven {} by {} ± {}",
        boundary.name,
        if inward { "in" } else { "out" },
        amount,
        show.pressure(drive.err)
    );
    Some(Arrow {
        path: path(&[from, shorten(from, to, 4.0 + width)]),
        head: head(from, to, 4.0 + width),
        width,
        label: amount,
        label_x: place.label.0,
        label_y: place.label.1,
        anchor: place.anchor,
        title,
    })
}

struct ArrowPlace {
    outer: (f64, f64),
    inner: (f64, f64),
    label: (f64, f64),
    anchor: &'static str,
}

fn arrow_place(layout: &Layout, edge: &Edge, beyond: Side) -> Option<ArrowPlace> {
    let (x0, y0) = edge.points[0];
    let (x1, y1) = edge.points[edge.points.len() - 1];
    let between = matches!(beyond, Side::Space(_));
    let at = |share: f64| y0 + (y1 - y0) * share;
    let place = match edge.face {
        Face::North if !between => {
            let y = at(0.52);
            ArrowPlace { outer: (x0 - 58.0, y), inner: (x0 - 7.0, y), label: (x0 - 64.0, y + 5.0), anchor: "end" }
        }
        Face::South if !between => {
            let y = at(0.52);
            ArrowPlace { outer: (x1 + 58.0, y), inner: (x1 + 7.0, y), label: (x1 + 64.0, y + 5.0), anchor: "start" }
        }
        // Between two rooms: across the partition near its foot, the label in the room to the right.
        Face::North | Face::South => {
            let (x, y) = (x0, at(0.80));
            let side = if edge.face == Face::South { 1.0 } else { -1.0 };
            let label = (x + 34.0, y - 12.0);
            ArrowPlace { outer: (x + 26.0 * side, y), inner: (x - 26.0 * side, y), label, anchor: "start" }
        }
        Face::Ceiling if edge.points.len() == 3 => {
            let (ax, ay) = edge.points[1];
            let (x, y) = (x0 + (ax - x0) * 0.52, y0 + (ay - y0) * 0.52);
            ArrowPlace {
                outer: (x - 24.0, y - 36.0),
                inner: (x - 3.0, y - 6.0),
                label: (x - 32.0, y - 28.0),
                anchor: "end",
            }
        }
        Face::Ceiling if !between && layout.body.y + 1.0 > y0 => {
            let x = x0 + 70.0;
            ArrowPlace { outer: (x, y0 - 24.0), inner: (x, y0 + 16.0), label: (x + 12.0, y0 - 10.0), anchor: "start" }
        }
        // Under the roof slopes there is room only some way in from the eaves.
        Face::Ceiling if under_gable(layout, beyond) => {
            let left = f64::midpoint(x0, x1) < layout.body.middle() + 1.0;
            let (x, side, anchor) = if left { (x0 + 52.0, 1.0, "start") } else { (x1 - 52.0, -1.0, "end") };
            ArrowPlace { outer: (x, y0 - 32.0), inner: (x, y0 + 12.0), label: (x + 12.0 * side, y0 - 12.0), anchor }
        }
        // A ceiling's far side is above it; its label stands in the upper cell, foot left.
        Face::Ceiling => {
            let x = x0 + 32.0;
            ArrowPlace { outer: (x, y0 - 34.0), inner: (x, y0 + 14.0), label: (x + 12.0, y0 - 14.0), anchor: "start" }
        }
        Face::Floor => {
            let x = x0 + 32.0;
            ArrowPlace { outer: (x, y0 + 14.0), inner: (x, y0 - 34.0), label: (x + 12.0, y0 - 14.0), anchor: "start" }
        }
    };
    Some(place)
}

fn under_gable(layout: &Layout, beyond: Side) -> bool {
    matches!(beyond, Side::Space(id) if layout.cell(id).is_some_and(|c| c.gable))
}

fn direction(from: (f64, f64), to: (f64, f64)) -> (f64, f64) {
    let (dx, dy) = (to.0 - from.0, to.1 - from.1);
    let length = dx.hypot(dy).max(1e-9);
    (dx / length, dy / length)
}

fn shorten(from: (f64, f64), to: (f64, f64), by: f64) -> (f64, f64) {
    let (dx, dy) = direction(from, to);
    (to.0 - dx * by, to.1 - dy * by)
}

/// A triangular head ending at `to`.
fn head(from: (f64, f64), to: (f64, f64), size: f64) -> String {
    let (dx, dy) = direction(from, to);
    let (bx, by) = (to.0 - dx * size * 1.6, to.1 - dy * size * 1.6);
    format!(
        "{:.1},{:.1} {:.1},{:.1} {:.1},{:.1}",
        to.0,
        to.1,
        bx - dy * size,
        by + dx * size,
        bx + dy * size,
        by - dx * size
    )
}

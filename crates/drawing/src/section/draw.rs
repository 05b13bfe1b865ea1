//! The cut as shapes: cells with their air, boundaries with their worst surface, arrows of vapor drive.

use super::ladder::{Ladder, ladder};
use super::layout::{Cell, Edge, LABEL_GAP, Layout, NAME_LINE, Rect, SIGNS_PER_LINE, lay_out};
use super::shape::{felt, head, hull, outline, path, shorten};
use crate::DropMark;
use building::reading::AirState;
use building::{Boundary, Building, Face, Shell, Side};
use judgment::picture::{BoundaryState, Picture};
use language::{known, say};
use notation::Show;
use uuid::Uuid;

/// The place in view.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Chosen {
    /// The outdoor air.
    Outdoors,
    /// A space, boundary or surface.
    Part(Uuid),
}

/// Room an arrow with its label takes to the right, and a ladder with its labels.
const LABEL: f64 = 86.0;
const LADDER_WIDTH: f64 = 122.0;

/// Everything the template draws.
pub struct Drawing {
    /// Width.
    pub width: f64,
    /// Height.
    pub height: f64,
    /// Spaces.
    pub cells: Vec<CellView>,
    /// Boundaries drawn as a band.
    pub bands: Vec<Band>,
    /// Vapor drives.
    pub arrows: Vec<Arrow>,
    /// Boundaries to the ground and outdoors.
    pub ends: Vec<End>,
    /// The outdoor air.
    pub outdoors: Outdoors,
    /// Height of the ground line.
    pub ground: f64,
    /// Whether the building floats.
    pub afloat: bool,
    /// What a cabin stands on.
    pub plinths: Vec<Rect>,
    /// Where a vehicle's wheels stand, x.
    pub wheels: Vec<f64>,
    /// Outline of a boat's hull as an SVG path; empty for everything else.
    pub hull: String,
    /// Lines of a round dwelling's felt as SVG paths, and its crown ring.
    pub felt: Vec<String>,
    /// The ring of a round dwelling.
    pub ring: Option<Rect>,
}

/// A space.
pub struct CellView {
    pub id: Uuid,
    /// Corners as an SVG points list.
    pub outline: String,
    pub text_x: f64,
    /// Its name in lines, each with its baseline.
    pub name: Vec<(f64, String)>,
    /// Baseline of the last line of its name.
    pub text_y: f64,
    /// All its text, as a screen reader says it.
    pub label: String,
    pub air: Option<AirText>,
    /// Where its count of findings stands, and how many there are.
    pub flag_x: f64,
    pub flag_y: f64,
    pub found: usize,
    /// What stands in place of its air while that is not read.
    pub missing: String,
    pub ladder: Option<Ladder>,
    /// Its surfaces while there is no ladder to put them on.
    pub unread: Vec<Unread>,
    pub chosen: bool,
}

/// A surface of a space whose air has not been read.
pub struct Unread {
    pub id: Uuid,
    pub x: f64,
    pub y: f64,
    pub label: String,
    pub name: String,
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
    /// Findings that belong to the whole building.
    pub found: usize,
    pub air: Option<AirText>,
    pub chosen: bool,
}

/// A boundary.
pub struct Band {
    pub id: Uuid,
    pub chosen: bool,
    pub path: String,
    pub mark: DropMark,
    pub title: String,
    /// Where its drop mark stands; `None` where nothing was judged.
    pub drop: Option<(f64, f64)>,
}

/// A boundary before or behind the cut, as a short line in its space.
pub struct End {
    pub id: Uuid,
    pub chosen: bool,
    pub x: f64,
    pub y: f64,
    pub label: &'static str,
    pub mark: DropMark,
    pub title: String,
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

/// Draws the building as read on one visit. `chosen` is the space, boundary or surface in view.
pub fn draw(show: &Show, building: &Building, shell: Shell, picture: &Picture, chosen: Option<Chosen>) -> Drawing {
    let layout = lay_out(building, shell);
    let cells = layout.cells.iter().filter_map(|c| cell(show, building, &layout, picture, c, chosen)).collect();
    let placed: Vec<(&BoundaryState, Edge)> = picture
        .boundaries
        .iter()
        .filter_map(|state| Some((state, layout.edge(building, building.boundary(state.boundary_id)?)?)))
        .collect();
    let bands = placed.iter().filter_map(|(state, edge)| band(building, &layout, state, edge, chosen)).collect();
    let arrows = placed.iter().filter_map(|(state, edge)| arrow(show, building, &layout, state, edge)).collect();
    let ends = layout.cells.iter().flat_map(|c| ends(building, picture, c, chosen)).collect();
    let body = layout.body;
    Drawing {
        width: layout.width,
        height: layout.height,
        cells,
        bands,
        arrows,
        ends,
        outdoors: Outdoors {
            y: 26.0,
            found: 0,
            air: picture.outdoor.as_ref().map(|a| air_text(show, a)),
            chosen: chosen == Some(Chosen::Outdoors),
        },
        ground: layout.ground,
        afloat: shell == Shell::Boat,
        wheels: if shell == Shell::Vehicle { vec![body.x + 110.0, body.right() - 120.0] } else { Vec::new() },
        hull: if shell == Shell::Boat { hull(&layout) } else { String::new() },
        felt: felt(&layout),
        ring: layout.ring,
        plinths: layout.plinths,
    }
}

impl Drawing {
    /// Shows a space's size where its air would stand.
    pub fn measure(&mut self, space: Uuid, size: &str) {
        if let Some(cell) = self.cells.iter_mut().find(|c| c.id == space) {
            cell.label = cell.label.replace(&cell.missing, size);
            size.clone_into(&mut cell.missing);
        }
    }

    /// Counts something found in a space, or on the whole building, for the flag it is drawn with.
    pub fn flag(&mut self, space: Option<Uuid>) {
        match space {
            None => self.outdoors.found += 1,
            Some(id) => {
                if let Some(cell) = self.cells.iter_mut().find(|c| c.id == id) {
                    cell.found += 1;
                }
            }
        }
    }
}

/// Where the `i`th small sign below a space's air stands, from the first.
fn glyph(i: usize) -> (f64, f64) {
    (38.0 * (i % SIGNS_PER_LINE) as f64, NAME_LINE * (i / SIGNS_PER_LINE) as f64)
}

fn ends_of(building: &Building, space: Uuid) -> impl Iterator<Item = &Boundary> {
    let across = move |b: &&Boundary| b.space_id == space && matches!(b.face, Face::East | Face::West);
    building.boundaries.iter().filter(across)
}

/// East and west boundaries of a space, side by side below its air.
fn ends(building: &Building, picture: &Picture, c: &Cell, chosen: Option<Chosen>) -> Vec<End> {
    let more = NAME_LINE * (c.name.len() as f64 - 1.0);
    let (x, y) = (c.columns().0, c.text_y() + more + 60.0);
    ends_of(building, c.space)
        .enumerate()
        .map(|(i, b)| {
            let (dx, dy) = glyph(i);
            let worst = picture.boundaries.iter().find(|s| s.boundary_id == b.id).and_then(|s| s.worst);
            let mark = worst.map_or(DropMark::NONE, DropMark::from);
            End {
                id: b.id,
                chosen: chosen == Some(Chosen::Part(b.id)),
                x: x + dx,
                y: y + dy,
                label: if b.face == Face::East { "E" } else { "W" },
                mark,
                title: format!("{}: {}", b.name, known(mark.word)),
            }
        })
        .collect()
}

fn air_text(show: &Show, air: &AirState) -> AirText {
    let v = &air.value;
    AirText {
        state: format!("{}  {}", show.temperature(v.t.get()), show.percent(v.rh.get())),
        dew: air
            .dew
            .map_or_else(|| say!("no dew point").into(), |d| say!("dew point {dew}", dew = show.degrees(d.value))),
    }
}

fn cell(
    show: &Show,
    building: &Building,
    layout: &Layout,
    picture: &Picture,
    c: &Cell,
    chosen: Option<Chosen>,
) -> Option<CellView> {
    let space = building.space(c.space)?;
    let state = picture.space(c.space)?;
    let (text_x, ladder_x) = c.columns();
    let outline = outline(layout, c);
    let air = state.air.as_ref().map(|a| air_text(show, a));
    let said = air.as_ref().map_or_else(|| "air not read".into(), |a| format!("{} {}", a.state, a.dew));
    let ladder = ladder(show, building, state, ladder_x, c.ladder(), chosen);
    let unread = if ladder.is_none() { unread(building, c, ladder_x, chosen) } else { Vec::new() };
    let first = c.text_y();
    let name: Vec<(f64, String)> =
        c.name.iter().enumerate().map(|(i, line)| (first + NAME_LINE * i as f64, line.clone())).collect();
    let last = name.last().map_or(first, |l| l.0);
    let flag = glyph(ends_of(building, c.space).count());
    Some(CellView {
        id: c.space,
        label: format!("{} {said}", space.name),
        outline,
        text_x,
        text_y: last,
        name,
        air,
        flag_x: text_x + flag.0,
        flag_y: last + 60.0 + flag.1,
        found: 0,
        missing: "air not read".into(),
        ladder,
        unread,
        chosen: chosen == Some(Chosen::Part(c.space)),
    })
}

fn unread(building: &Building, c: &Cell, x: f64, chosen: Option<Chosen>) -> Vec<Unread> {
    let top = c.ladder().0;
    let surfaces = building.surfaces_in(c.space).enumerate();
    let label = |(i, s): (usize, &building::Surface)| Unread {
        id: s.id,
        x,
        y: top + LABEL_GAP * i as f64,
        label: s.short.clone(),
        name: s.name.clone(),
        chosen: chosen == Some(Chosen::Part(s.id)),
    };
    surfaces.map(label).collect()
}

fn band(
    building: &Building,
    layout: &Layout,
    state: &BoundaryState,
    edge: &Edge,
    chosen: Option<Chosen>,
) -> Option<Band> {
    let boundary = building.boundary(state.boundary_id)?;
    let mark = state.worst.map_or(DropMark::NONE, DropMark::from);
    let drop = state.worst.map(|_| drop_place(layout, edge, boundary.beyond));
    let title = format!("{}: {}", boundary.name, known(mark.word));
    Some(Band {
        id: boundary.id,
        chosen: chosen == Some(Chosen::Part(boundary.id)),
        path: path(&edge.points),
        mark,
        title,
        drop,
    })
}

/// How far down a wall its arrow and its drop mark stand: short parts of a wall spread them more.
fn down(y0: f64, y1: f64) -> (f64, f64) {
    let h = y1 - y0;
    if h < 120.0 { (y0 + h * 0.30, y0 + h * 0.76) } else { (y0 + h * 0.52, y0 + h * 0.74) }
}

/// Drop marks stand outside the building where there is an outside, else on the line.
fn drop_place(layout: &Layout, edge: &Edge, beyond: Side) -> (f64, f64) {
    let (x0, y0) = edge.points[0];
    let (x1, y1) = edge.points[edge.points.len() - 1];
    let between = matches!(beyond, Side::Space(_));
    let on = |share: f64| (x0 + (x1 - x0) * share, y0 + (y1 - y0) * share);
    match edge.face {
        Face::North if between => (x0, f64::midpoint(y0, y1)),
        Face::South if between => (x1, f64::midpoint(y0, y1)),
        Face::North | Face::South => {
            let side = if edge.face == Face::South { 1.0 } else { -1.0 };
            let y = down(y0, y1).1;
            let free = !layout.cells.iter().any(|c| c.covers(x0 + 22.0 * side, y));
            (if free { x0 + 22.0 * side } else { x0 }, y)
        }
        _ if edge.sloped && edge.points.len() >= 3 => {
            let (ax, ay) = edge.points[edge.points.len() - 2];
            (ax + (x1 - ax) * 0.42 + 16.0, ay + (y1 - ay) * 0.42 - 16.0)
        }
        _ if edge.sloped && y1 < y0 => (on(0.80).0 - 16.0, on(0.80).1 - 16.0),
        _ if edge.sloped => (on(0.20).0 + 16.0, on(0.20).1 - 16.0),
        Face::Ceiling if !between && layout.body.y + 1.0 > y0 => (x0 + (x1 - x0) * 0.75, y0 - 21.0),
        _ => on(0.5),
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
    let (name, doubt) = (&boundary.name, show.pressure(drive.err));
    let title = if inward {
        say!("{name}: vapor is driven in by {amount} ± {doubt}", name, amount, doubt)
    } else {
        say!("{name}: vapor is driven out by {amount} ± {doubt}", name, amount, doubt)
    };
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

/// Where a boundary's arrow stands; `None` where the drawing has no room for it. The drive is the same all along a face,
/// so of several parts only one carries it.
fn arrow_place(layout: &Layout, edge: &Edge, beyond: Side) -> Option<ArrowPlace> {
    let (x0, y0) = edge.points[0];
    let (x1, y1) = edge.points[edge.points.len() - 1];
    let between = matches!(beyond, Side::Space(_));
    let (part, parts) = edge.part;
    match edge.face {
        // Before and behind the cut there is no line to cross.
        Face::East | Face::West => None,
        // Between two rooms: across the partition near its foot, the label in the room to the right.
        Face::North | Face::South if between => (part + 1 == parts).then(|| {
            let (x, y) = (x0, y0 + (y1 - y0) * 0.80);
            let side = if edge.face == Face::South { 1.0 } else { -1.0 };
            let label = (x + 34.0, y - 12.0);
            ArrowPlace { outer: (x + 26.0 * side, y), inner: (x - 26.0 * side, y), label, anchor: "start" }
        }),
        _ if part > 0 => None,
        Face::North | Face::South => {
            let side = if edge.face == Face::South { 1.0 } else { -1.0 };
            let y = down(y0, y1).0;
            let free = [30.0, 75.0, 125.0].iter().all(|d| !layout.cells.iter().any(|c| c.covers(x0 + d * side, y)));
            let (outer, inner, label) = ((x0 + 58.0 * side, y), (x0 + 7.0 * side, y), (x0 + 64.0 * side, y + 5.0));
            free.then_some(ArrowPlace { outer, inner, label, anchor: if side > 0.0 { "start" } else { "end" } })
        }
        _ if edge.sloped => {
            let (ax, ay) = if edge.points.len() >= 3 { edge.points[1] } else { (x1, y1) };
            let (x, y) = (x0 + (ax - x0) * 0.52, y0 + (ay - y0) * 0.52);
            let (outer, inner, label) = ((x - 24.0, y - 36.0), (x - 3.0, y - 6.0), (x - 32.0, y - 28.0));
            let free = !layout.cells.iter().any(|c| c.covers(label.0 - 30.0, label.1));
            free.then_some(ArrowPlace { outer, inner, label, anchor: "end" })
        }
        Face::Floor | Face::Ceiling => across(layout, edge),
    }
}

/// An arrow through a floor or ceiling; its label stands in the space above, or over a flat roof.
fn across(layout: &Layout, edge: &Edge) -> Option<ArrowPlace> {
    let (x0, y) = edge.points[0];
    let (x1, _) = edge.points[edge.points.len() - 1];
    let above = layout.cells.iter().find(|c| c.covers(f64::midpoint(x0, x1), y - 2.0));
    let (x, side, up, down) = match above {
        None => (x0 + 70.0, 1.0, 24.0, 16.0),
        // Under the roof slopes there is room only some way in from the eaves.
        Some(c) if c.gable() => {
            let (text, ladder) = c.columns();
            let left = (x0.max(c.rect.x) + 52.0, 1.0);
            let right = (x1.min(c.rect.right()) - 52.0, -1.0);
            let free = |(x, side): &(f64, f64)| {
                let end = x + (LABEL - 4.0) * side;
                x.min(end) > ladder + LADDER_WIDTH || x.max(end) < text - 4.0
            };
            let (x, side) = [left, right].into_iter().find(free)?;
            (x, side, 32.0, 12.0)
        }
        Some(c) => {
            let ladder = c.columns().1;
            let free =
                |x: &f64| *x > x0 && *x + LABEL < x1 && (x + LABEL < ladder - 30.0 || *x > ladder + LADDER_WIDTH);
            ([x0 + 32.0, x1 - LABEL - 8.0].into_iter().find(free)?, 1.0, 34.0, 14.0)
        }
    };
    let (over, under) = ((x, y - up), (x, y + down));
    let (outer, inner) = if edge.face == Face::Ceiling { (over, under) } else { (under, over) };
    let label = (x + 12.0 * side, y - if above.is_some() { 13.0 } else { 10.0 });
    Some(ArrowPlace { outer, inner, label, anchor: if side > 0.0 { "start" } else { "end" } })
}

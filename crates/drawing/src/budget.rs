//! A time table: what goes on in lanes, and below it the dew point against each surface.

use crate::Px;
use crate::log::nice;
use std::fmt::Write;

/// Left edge of the field; room above a lane's bar; heights of a lane and of the field.
const LEFT: f64 = 46.0;
const LANE: f64 = 26.0;
/// Height of a lane whose name stands above its bars.
const TALL: f64 = 38.0;
const TOP: f64 = 4.0;
const FIELD: f64 = 210.0;
const GAP: f64 = 16.0;
const FOOT: f64 = 26.0;

/// A block of a lane.
pub struct LaneBlock {
    /// Which row of the time table.
    pub row: usize,
    /// From and until, hours.
    pub from: f64,
    /// Until.
    pub until: f64,
    /// What is written in it.
    pub words: String,
}

/// A lane.
pub struct Lane {
    /// What goes on in it.
    pub name: String,
    /// Whether it puts water in; the rest takes it out.
    pub source: bool,
    /// Its blocks.
    pub blocks: Vec<LaneBlock>,
}

/// A line over the hours: its values at the ends of them.
pub struct Course {
    /// What it is called.
    pub name: String,
    /// Values; none breaks the line.
    pub at: Vec<Option<f64>>,
}

/// What a sheet is drawn from.
pub struct BudgetOf {
    /// Width, px.
    pub width: f64,
    /// Room right of the field for names of lines.
    pub right: f64,
    /// Hours.
    pub hours: usize,
    /// The clock at the beginning.
    pub begins: usize,
    /// Lanes.
    pub lanes: Vec<Lane>,
    /// Dew point: little, usual and much.
    pub dew: [Vec<Option<f64>>; 3],
    /// Outdoor temperature.
    pub outdoors: Vec<Option<f64>>,
    /// Surfaces, coldest first.
    pub surfaces: Vec<Course>,
    /// Hours in which a surface is wet.
    pub wet: Vec<bool>,
}

/// A bar drawn.
pub struct BarDrawn {
    /// Which row of the time table.
    pub row: usize,
    /// Left, top, width, height.
    pub at: [Px; 4],
    /// What is written in it, where it fits.
    pub words: String,
    /// What it says to who cannot see it.
    pub label: String,
}

/// A lane drawn.
pub struct LaneDrawn {
    /// What goes on in it.
    pub name: String,
    /// Where the name stands.
    pub at: [Px; 2],
    /// Class of its bars.
    pub class: &'static str,
    /// Its bars.
    pub bars: Vec<BarDrawn>,
}

/// A line drawn.
pub struct LineDrawn {
    /// Its path.
    pub path: String,
    /// Its class.
    pub class: &'static str,
    /// Its name, where there is room.
    pub name: String,
    /// Where the name stands.
    pub at: Px,
}

/// A sheet drawn.
pub struct BudgetSheet {
    /// Width and height.
    pub size: [Px; 2],
    /// Left and right of the field, its top and foot.
    pub field: [Px; 4],
    /// Px an hour.
    pub hour: Px,
    /// Lanes.
    pub lanes: Vec<LaneDrawn>,
    /// Hours on the axis: where, and the clock or the day.
    pub clock: Vec<(Px, String, bool)>,
    /// Temperatures on the axis.
    pub figures: Vec<(Px, String)>,
    /// Band of the dew point.
    pub halo: String,
    /// Lines, the dew point last.
    pub lines: Vec<LineDrawn>,
    /// Wet hours: left and width.
    pub wet: Vec<[Px; 2]>,
}

fn path(at: &[Option<f64>], x: impl Fn(usize) -> f64, y: impl Fn(f64) -> f64) -> String {
    let mut out = String::new();
    let mut pen = false;
    for (i, value) in at.iter().enumerate() {
        if let Some(v) = value {
            let _ = write!(out, "{}{} {}", if pen { 'L' } else { 'M' }, Px(x(i)), Px(y(*v)));
        }
        pen = value.is_some();
    }
    out
}

/// The field between little and much.
fn band(dew: &[Vec<Option<f64>>; 3], x: impl Fn(usize) -> f64 + Copy, y: impl Fn(f64) -> f64 + Copy) -> String {
    let mut out = path(&dew[2], x, y);
    let before = out.len();
    for (i, v) in dew[0].iter().enumerate().rev().filter_map(|(i, v)| Some((i, (*v)?))) {
        let _ = write!(out, "L{} {}", Px(x(i)), Px(y(v)));
    }
    if before == 0 || before == out.len() { String::new() } else { out + "Z" }
}

/// Hours that follow one another, joined: left and width.
fn stretches(wet: &[bool], x: impl Fn(f64) -> f64) -> Vec<[Px; 2]> {
    let runs = wet.chunk_by(|a, b| a == b).scan(0, |at, run| {
        let from = *at;
        *at += run.len();
        Some((run[0], from, *at))
    });
    runs.filter(|(wet, ..)| *wet).map(|(_, from, to)| [Px(x(from as f64)), Px(x(to as f64) - x(from as f64))]).collect()
}

/// Places a time table and what it comes to.
#[must_use]
pub fn budget_sheet(of: &BudgetOf) -> BudgetSheet {
    let end = of.width - of.right;
    let hours = of.hours.max(1) as f64;
    let x = |hour: f64| LEFT + (end - LEFT) * hour / hours;
    // Without room beside the field names stand above their bars.
    let beside = of.right > 50.0;
    let each = if beside { LANE } else { TALL };
    let top = TOP + each * of.lanes.len() as f64 + GAP;
    let foot = top + FIELD;
    let values = of.dew.iter().flatten().chain(&of.outdoors).chain(of.surfaces.iter().flat_map(|s| &s.at)).flatten();
    let (low, high) = values.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(*v), h.max(*v)));
    let (low, high) = if low > high { (0.0, 20.0) } else { (low - 1.0, high + 1.0) };
    let y = |t: f64| foot - FIELD * (t - low) / (high - low);
    let at_end = |i: usize| x(i as f64 + 1.0);
    let lane = |(i, lane): (usize, &Lane)| {
        let y = TOP + each * i as f64 + (each - LANE);
        let bar = |b: &LaneBlock| {
            let (left, right) = (x(b.from), x(b.until.min(hours)));
            let room = (right - left - 6.0) / 6.8;
            let fits = b.words.chars().count() as f64 <= room;
            BarDrawn {
                row: b.row,
                at: [Px(left), Px(y + 3.0), Px((right - left).max(2.0)), Px(LANE - 6.0)],
                words: if fits { b.words.clone() } else { String::new() },
                label: format!("{}, {}", lane.name, b.words),
            }
        };
        LaneDrawn {
            name: lane.name.clone(),
            at: if beside { [Px(end + 6.0), Px(y + 17.5)] } else { [Px(LEFT), Px(y + 0.5)] },
            class: if lane.source { "into" } else { "out-of" },
            bars: lane.blocks.iter().map(bar).collect(),
        }
    };
    // A mark at least every 44 px, on whole parts of a day.
    let every = [1, 2, 3, 6, 12, 24].into_iter().find(|s| f64::from(*s) * (end - LEFT) / hours >= 44.0).unwrap_or(24);
    let mark = |h: usize| {
        let clock = (of.begins + h) % 24;
        let day = (of.begins + h) / 24 + 1;
        let words = if clock == 0 { format!("day {day}") } else { format!("{clock:02}:00") };
        (Px(x(h as f64)), words, clock == 0)
    };
    let clock = (0..=of.hours).filter(|h| (of.begins + h).is_multiple_of(every as usize)).map(mark).collect();
    let halo = band(&of.dew, at_end, y);
    let line = |course: &[Option<f64>], class, name: &str| LineDrawn {
        path: path(course, at_end, y),
        class,
        name: name.to_owned(),
        at: Px(course.iter().rev().flatten().next().map_or(foot, |v| y(*v))),
    };
    let mut lines: Vec<LineDrawn> = vec![line(&of.outdoors, "outdoors", "outdoors")];
    lines.extend(of.surfaces.iter().map(|s| line(&s.at, "", &s.name)));
    lines.push(line(&of.dew[1], "dew", "dew point"));
    apart(&mut lines);
    BudgetSheet {
        size: [Px(of.width), Px(foot + FOOT)],
        field: [Px(LEFT), Px(end), Px(top), Px(foot)],
        hour: Px((end - LEFT) / hours),
        lanes: of.lanes.iter().enumerate().map(lane).collect(),
        clock,
        figures: nice(low, high, 6).into_iter().map(|(t, words)| (Px(y(t)), words)).collect(),
        halo,
        lines,
        wet: stretches(&of.wet, x),
    }
}

/// Least distance of two names, px.
const NAMES: f64 = 15.0;

/// Moves names that would lie on one another, from the top down.
fn apart(lines: &mut [LineDrawn]) {
    let mut order: Vec<usize> = (0..lines.len()).collect();
    order.sort_by(|a, b| lines[*a].at.0.total_cmp(&lines[*b].at.0));
    for pair in 1..order.len() {
        let above = lines[order[pair - 1]].at.0;
        let own = &mut lines[order[pair]].at.0;
        *own = own.max(above + NAMES);
    }
}

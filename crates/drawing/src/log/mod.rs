//! The drawn log: the dew point of a space's air over time with its band, the surfaces in it, what is wet hatched, rain, flags, and
//! a ribbon with a row for each surface.

mod air;
mod axis;
mod columns;
mod measure;
mod ribbon;
mod strip;

pub use air::{AirChart, AirOf, Cloud, PlacedCloud, PlacedTick, State, SurfaceTick, air_chart};
pub use axis::Tick;
pub(crate) use axis::{nice, time_ticks};
pub use columns::{Cell, columns};
pub use measure::Measure;
pub use ribbon::{Run, ribbon};
pub use strip::{Bar, Strip, StripOf, strip};

use crate::Px;

use chrono::{DateTime, Utc};
use notation::Show;
use std::fmt::Write;

/// The sheet a log is drawn on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Sheet {
    width: f64,
    height: f64,
    /// Room right of the field: for the names of lines, or none.
    right: f64,
    /// Most columns: finer than the screen shows.
    pub columns: usize,
}

impl Sheet {
    /// At a desk: the names stand beside their lines.
    pub const DESK: Self = Self { width: 1232.0, height: 372.0, right: 222.0, columns: 480 };
    /// On a phone: the names stand in a list below.
    pub const PHONE: Self = Self { width: 520.0, height: 430.0, right: 10.0, columns: 200 };

    /// Printed across a page.
    pub const PAGE: Self = Self { width: 760.0, height: 280.0, right: 150.0, columns: 380 };

    const fn end(self) -> f64 {
        self.width - self.right
    }

    const fn foot(self) -> f64 {
        self.height - BOTTOM
    }

    /// Hours or steps to a column.
    #[must_use]
    pub fn each(self, steps: usize) -> usize {
        steps.div_ceil(self.columns).max(1)
    }
}

/// Room around the plotted field.
const LEFT: f64 = 54.0;
const TOP: f64 = 62.0;
const BOTTOM: f64 = 30.0;
/// Least distance of two words beside the field.
const LINE: f64 = 17.0;
/// A line to be drawn: the mean, lowest and highest of each column, °C.
pub struct Line {
    /// What it is called.
    pub name: String,
    /// What it is drawn as.
    pub kind: Kind,
    /// Its columns.
    pub cells: Vec<Option<Cell>>,
}

/// What a line is drawn as.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// The dew point of the air.
    Dew,
    /// The dew point outdoors.
    Outdoors,
    /// A surface with a sensor on it.
    Surface,
    /// A surface estimated.
    Estimated,
    /// Another space.
    Beside,
    /// The span before.
    Before,
}

impl Kind {
    /// Its class in a drawing.
    #[must_use]
    pub const fn class(self) -> &'static str {
        match self {
            Self::Dew => "dew",
            Self::Outdoors => "outdoors",
            Self::Surface => "surface",
            Self::Estimated => "estimated",
            Self::Beside => "beside",
            Self::Before => "before",
        }
    }
}

/// A flag on the axis.
pub struct Flag {
    /// When.
    pub at: DateTime<Utc>,
    /// Until when, for something that lasts.
    pub until: Option<DateTime<Utc>>,
    /// What.
    pub words: String,
}

/// A point read by hand.
pub struct Dot {
    /// When.
    pub at: DateTime<Utc>,
    /// °C.
    pub t_c: f64,
    /// What, for whoever points at it.
    pub words: String,
}

/// What a log is drawn from.
pub struct Drawn<'a> {
    /// What it is drawn on.
    pub sheet: Sheet,
    /// What its side shows.
    pub measure: Measure,
    /// A figure not to be passed, and its words.
    pub limit: Option<(f64, String)>,
    /// From when to when.
    pub span: [DateTime<Utc>; 2],
    /// The air of the space first.
    pub lines: Vec<Line>,
    /// How far the dew point may be off, K.
    pub band_k: f64,
    /// Rain of each column, mm.
    pub rain: Vec<Option<f64>>,
    /// What was marked.
    pub flags: Vec<Flag>,
    /// What was read by hand.
    pub dots: Vec<Dot>,
    /// Stretches whose readings are left out.
    pub left_out: Vec<[DateTime<Utc>; 2]>,
    /// How figures and days are shown.
    pub show: &'a Show,
}

/// A line as it is placed.
pub struct PlacedLine {
    /// Its class.
    pub class: &'static str,
    /// Its way.
    pub path: String,
    /// Between its lowest and highest, where columns hold more than one hour; else empty.
    pub envelope: String,
    /// Its name, beside its end.
    pub name: String,
    /// Where the name stands.
    pub name_y: Px,
}

/// A flag as it is placed.
pub struct PlacedFlag {
    /// Where.
    pub x: Px,
    /// How wide, for something that lasts.
    pub width: Px,
    /// Where its words stand.
    pub y: Px,
    /// What.
    pub words: String,
}

/// The drawn log.
pub struct Chart {
    /// Size of the drawing.
    pub size: [Px; 2],
    /// The plotted field: left, top, right, bottom.
    pub field: [Px; 4],
    /// Figures beside it.
    pub figures: Vec<Tick>,
    /// Days under it.
    pub days: Vec<Tick>,
    /// The unit of its figures.
    pub unit: &'static str,
    /// What its side shows, by its id.
    pub measure: &'static str,
    /// A figure not to be passed.
    pub limit: Option<Tick>,
    /// The band of the dew point.
    pub halo: String,
    /// Where surfaces lie under the dew point.
    pub wet: Vec<String>,
    /// The lines.
    pub lines: Vec<PlacedLine>,
    /// Rain: left, height, width.
    pub rain: Vec<[Px; 3]>,
    /// The most rain in a column, in words.
    pub most_rain: Option<String>,
    /// Flags.
    pub flags: Vec<PlacedFlag>,
    /// Stretches left out: where, and how wide.
    pub left_out: Vec<[Px; 2]>,
    /// Points read by hand: where, and what.
    pub dots: Vec<(Px, Px, String)>,
}

struct Field<'a> {
    sheet: Sheet,
    span: [DateTime<Utc>; 2],
    columns: usize,
    low: f64,
    high: f64,
    measure: Measure,
    show: &'a Show,
}

impl Field<'_> {
    fn x(&self, column: f64) -> f64 {
        LEFT + (self.sheet.end() - LEFT) * column / self.columns.max(1) as f64
    }

    fn at(&self, at: DateTime<Utc>) -> f64 {
        let of = |a: DateTime<Utc>, b: DateTime<Utc>| (b - a).num_seconds() as f64;
        let share = of(self.span[0], at) / of(self.span[0], self.span[1]).max(1.0);
        self.x(self.columns as f64 * share)
    }

    fn y(&self, t_c: f64) -> f64 {
        self.sheet.foot() - (self.sheet.foot() - TOP) * (t_c - self.low) / (self.high - self.low)
    }

    /// A way through the middles of columns; gaps are left open.
    fn path(&self, values: impl Iterator<Item = Option<f64>>) -> String {
        let mut out = String::new();
        let mut pen = 'M';
        for (i, value) in values.enumerate() {
            match value {
                None => pen = 'M',
                Some(v) => {
                    let _ = write!(out, "{pen}{} {}", Px(self.x(i as f64 + 0.5)), Px(self.y(v)));
                    pen = 'L';
                }
            }
        }
        out
    }

    /// The areas between two rows of figures, for each stretch that has both.
    fn areas(&self, rows: impl Iterator<Item = Option<(f64, f64)>>) -> String {
        let mut out = String::new();
        let mut stretch: Vec<(f64, f64, f64)> = Vec::new();
        let mut close = |stretch: &mut Vec<(f64, f64, f64)>| {
            let (Some(first), Some(last)) = (stretch.first().copied(), stretch.last().copied()) else { return };
            // A single column is as wide as it is, not a line.
            let half = (self.x(1.0) - self.x(0.0)) / 2.0;
            stretch.insert(0, (first.0 - half, first.1, first.2));
            stretch.push((last.0 + half, last.1, last.2));
            let there = stretch.iter().map(|(x, high, _)| (*x, *high));
            let back = stretch.iter().rev().map(|(x, _, low)| (*x, *low));
            for (i, (x, y)) in there.chain(back).enumerate() {
                let _ = write!(out, "{}{} {}", if i == 0 { 'M' } else { 'L' }, Px(x), Px(y));
            }
            out.push('Z');
            stretch.clear();
        };
        for (i, row) in rows.enumerate() {
            match row {
                Some((high, low)) => stretch.push((self.x(i as f64 + 0.5), self.y(high), self.y(low))),
                None => close(&mut stretch),
            }
        }
        close(&mut stretch);
        out
    }
}

/// Draws a log.
#[must_use]
pub fn chart(drawn: &Drawn) -> Chart {
    let columns = drawn.lines.iter().map(|l| l.cells.len()).max().unwrap_or(0);
    let all = || drawn.lines.iter().flat_map(|l| l.cells.iter().flatten()).flat_map(|c| [c.low, c.high]);
    // How far it is from outdoors is seen against that.
    let zero = (drawn.measure == Measure::Excess).then_some(0.0);
    let all = || all().chain(drawn.dots.iter().map(|d| d.t_c)).chain(zero);
    let low = all().fold(f64::INFINITY, f64::min);
    let high = all().fold(f64::NEG_INFINITY, f64::max);
    let (low, high) = if low <= high { (low, high) } else { (0.0, 20.0) };
    let room = (0.05 * (high - low)).max(drawn.measure.room());
    let (sheet, span, measure, show) = (drawn.sheet, drawn.span, drawn.measure, drawn.show);
    let field = Field { sheet, span, columns, low: low - room, high: high + room, measure, show };
    let dew = drawn.lines.iter().find(|l| l.kind == Kind::Dew && measure == Measure::Dew);
    let halo = dew.map(|l| {
        let band = l.cells.iter().map(|c| c.map(|c| (c.mean + drawn.band_k, c.mean - drawn.band_k)));
        field.areas(band)
    });
    let wet = drawn.lines.iter().filter(|l| matches!(l.kind, Kind::Surface | Kind::Estimated)).filter_map(|l| {
        let under = dew?.cells.iter().zip(&l.cells).map(|(d, s)| {
            let (d, s) = ((*d)?, (*s)?);
            (d.mean >= s.mean).then_some((d.mean, s.mean))
        });
        Some(field.areas(under)).filter(|p| !p.is_empty())
    });
    let end = drawn.sheet.end();
    let within = |at: DateTime<Utc>| field.at(at).clamp(LEFT, end);
    let left_out = drawn.left_out.iter().map(|[a, b]| [Px(within(*a)), Px(within(*b) - within(*a))]).collect();
    let (rain, most_rain) = rain(&field, drawn);
    let time = time_ticks(field.span, drawn.show, if drawn.sheet == Sheet::DESK { 14 } else { 6 });
    Chart {
        size: [Px(drawn.sheet.width), Px(drawn.sheet.height)],
        field: [Px(LEFT), Px(TOP), Px(end), Px(drawn.sheet.foot())],
        figures: figures(&field),
        days: time.into_iter().map(|(at, words)| Tick { at: Px(field.at(at)), words }).collect(),
        unit: measure.unit(show),
        measure: measure.id(),
        limit: measure::limit(drawn.limit.clone(), [field.low, field.high], |f| field.y(f)),
        halo: halo.unwrap_or_default(),
        wet: wet.collect(),
        lines: lines(&field, drawn),
        rain,
        most_rain,
        flags: flags(&field, &drawn.flags),
        left_out,
        dots: drawn.dots.iter().map(|d| (Px(field.at(d.at)), Px(field.y(d.t_c)), d.words.clone())).collect(),
    }
}

/// Round figures beside the field, in the reader's unit.
fn figures(field: &Field) -> Vec<Tick> {
    let [low, high] = [field.low, field.high].map(|f| field.measure.shown(f, field.show));
    let y = |shown: f64| field.y(field.low + (shown - low) / (high - low) * (field.high - field.low));
    nice(low, high, 6).into_iter().map(|(shown, words)| Tick { at: Px(y(shown)), words }).collect()
}

/// Lines with their names at their ends, spread so that each can be read.
fn lines(field: &Field, drawn: &Drawn) -> Vec<PlacedLine> {
    let end = |l: &Line| l.cells.iter().rev().flatten().next().map_or(0.0, |c| field.y(c.mean));
    let mut order: Vec<(usize, f64)> = drawn.lines.iter().map(end).enumerate().collect();
    order.sort_by(|a, b| a.1.total_cmp(&b.1));
    let mut last = f64::NEG_INFINITY;
    for (_, y) in &mut order {
        *y = y.max(last + LINE);
        last = *y;
    }
    // What was pushed out below comes up again.
    let mut most = drawn.sheet.height - 6.0;
    for (_, y) in order.iter_mut().rev() {
        *y = y.min(most);
        most = *y - LINE;
    }
    let placed = |(i, l): (usize, &Line)| {
        let spiky = l.cells.iter().flatten().any(|c| c.high - c.low > 0.15);
        let spread = || field.areas(l.cells.iter().map(|c| c.map(|c| (c.high, c.low))));
        PlacedLine {
            class: l.kind.class(),
            path: field.path(l.cells.iter().map(|c| c.map(|c| c.mean))),
            envelope: if spiky { spread() } else { String::new() },
            name: l.name.clone(),
            name_y: Px(order.iter().find(|(of, _)| *of == i).map_or(0.0, |(_, y)| *y) + 4.5),
        }
    };
    drawn.lines.iter().enumerate().map(placed).collect()
}

/// Rain hangs from the top.
fn rain(field: &Field, drawn: &Drawn) -> (Vec<[Px; 3]>, Option<String>) {
    let most = drawn.rain.iter().flatten().copied().fold(0.0, f64::max);
    if most <= 0.0 {
        return (Vec::new(), None);
    }
    let width = (field.x(1.0) - field.x(0.0)).max(1.2);
    let one = |(i, mm): (usize, &Option<f64>)| {
        let mm = mm.filter(|mm| *mm > 0.0)?;
        Some([Px(field.x(i as f64)), Px(2.0 + 22.0 * mm / most), Px(width * 0.9)])
    };
    let words = notation::unit::RAIN.text(most, drawn.show.units);
    (drawn.rain.iter().enumerate().filter_map(one).collect(), Some(words))
}

/// Flags with their words, in two rows where they would meet.
fn flags(field: &Field, flags: &[Flag]) -> Vec<PlacedFlag> {
    let mut ends = [f64::NEG_INFINITY; 2];
    let mut out = Vec::new();
    for flag in flags {
        let end = field.sheet.end();
        let x = field.at(flag.at).clamp(LEFT, end);
        let until = flag.until.map_or(x, |u| field.at(u).clamp(x, end));
        let row = (0..2).find(|r| ends[*r] < x - 6.0).unwrap_or(0);
        ends[row] = x + 14.0 + 7.0 * flag.words.chars().count() as f64;
        out.push(PlacedFlag {
            x: Px(x),
            width: Px(until - x),
            y: Px(TOP - 22.0 + 16.0 * row as f64),
            words: flag.words.clone(),
        });
    }
    out
}

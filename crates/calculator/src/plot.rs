//! A drawing with two axes.

use crate::sketch::{Anchor, Sketch};
use notation::Units;
use notation::unit::Kind;

/// Room for the words around the plotted field.
const LEFT: f64 = 64.0;
const RIGHT: f64 = 24.0;
const TOP: f64 = 24.0;
const BOTTOM: f64 = 46.0;

/// One axis: what it measures, from where to where, in SI.
pub struct Axis {
    /// What stands beside it.
    pub name: &'static str,
    /// Its kind of figure.
    pub kind: &'static Kind,
    /// Low end.
    pub low: f64,
    /// High end.
    pub high: f64,
}

impl Axis {
    /// From the lowest to the highest of some values, with a little room; never empty.
    #[must_use]
    pub fn around(name: &'static str, kind: &'static Kind, values: impl IntoIterator<Item = f64>, least: f64) -> Self {
        let (low, high) = values
            .into_iter()
            .filter(|v| v.is_finite())
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
        let (low, high) = if low <= high { (low, high) } else { (0.0, 1.0) };
        let room = (0.08 * (high - low)).max((least - (high - low)) / 2.0).max(1e-9);
        Self { name, kind, low: low - room, high: high + room }
    }

    fn title(&self, units: Units) -> String {
        match self.kind.unit(units).name() {
            "" => self.name.to_owned(),
            unit => format!("{}, {unit}", self.name),
        }
    }
}

/// Round figures between two values (SI) in a system's own unit, about `count` of them: (SI, text).
#[must_use]
pub fn ticks(kind: &Kind, (low, high): (f64, f64), count: f64, units: Units) -> Vec<(f64, String)> {
    let (low, high) = (kind.shown(low, units), kind.shown(high, units));
    let rough = ((high - low) / count).max(1e-12);
    let ten = 10.0_f64.powf(rough.log10().floor());
    let step = [1.0, 2.0, 5.0, 10.0].map(|m| m * ten).into_iter().find(|s| *s >= rough).unwrap_or(rough);
    let decimals = (-step.log10().floor()).clamp(0.0, 9.0) as usize;
    let first = (low / step - 1e-9).ceil() as i64;
    (first..)
        .map(|i| i as f64 * step)
        .take_while(|f| *f <= high + 1e-9 * step)
        .take(20)
        .map(|f| (kind.si(f, units), format!("{:.decimals$}", f + 0.0).replace('-', "−")))
        .collect()
}

/// A field between two axes on a sheet.
pub struct Plot {
    /// What is drawn.
    pub sketch: Sketch,
    x: Axis,
    y: Axis,
}

impl Plot {
    /// Draws the axes with their figures.
    #[must_use]
    pub fn new(label: impl Into<String>, (width, height): (f64, f64), x: Axis, y: Axis, units: Units) -> Self {
        let mut plot = Self::bare_x(label, (width, height), x, y, units);
        let (right, top, bottom) = (width - RIGHT, TOP, height - BOTTOM);
        for (at, text) in ticks(plot.x.kind, plot.x_span(), 6.0, units) {
            let x = plot.at(at, plot.y.low).0;
            plot.sketch.line("grid", [(x, top), (x, bottom)]);
            plot.sketch.text("tick", (x, bottom + 16.0), Anchor::Middle, text);
        }
        plot.sketch.text("title", (right, bottom + 36.0), Anchor::End, plot.x.title(units));
        plot
    }

    /// The same without figures along the bottom, for those who write their own there.
    #[must_use]
    pub fn bare_x(label: impl Into<String>, (width, height): (f64, f64), x: Axis, y: Axis, units: Units) -> Self {
        let mut plot = Self { sketch: Sketch::new(width, height, label), x, y };
        let (left, right, top, bottom) = (LEFT, width - RIGHT, TOP, height - BOTTOM);
        plot.sketch.rect("field", (left, top), (right, bottom));
        for (at, text) in ticks(plot.y.kind, plot.y_span(), 6.0, units) {
            let y = plot.at(plot.x.low, at).1;
            plot.sketch.line("grid", [(left, y), (right, y)]);
            plot.sketch.text("tick", (left - 7.0, y + 4.0), Anchor::End, text);
        }
        plot.sketch.line("axis", [(left, top), (left, bottom), (right, bottom)]);
        plot.sketch.text("title", (left - 40.0, top - 9.0), Anchor::Start, plot.y.title(units));
        plot
    }

    /// Place of a point on the sheet, held at the field's edges a little outside of them.
    #[must_use]
    pub fn at(&self, x: f64, y: f64) -> (f64, f64) {
        let (width, height) = (self.sketch.width - LEFT - RIGHT, self.sketch.height - TOP - BOTTOM);
        let share = |v: f64, a: &Axis| ((v - a.low) / (a.high - a.low)).clamp(0.0, 1.0);
        (LEFT + share(x, &self.x) * width, TOP + (1.0 - share(y, &self.y)) * height)
    }

    /// Low and high end of the axis along the bottom.
    #[must_use]
    pub const fn x_span(&self) -> (f64, f64) {
        (self.x.low, self.x.high)
    }

    /// Low and high end of the upright axis.
    #[must_use]
    pub const fn y_span(&self) -> (f64, f64) {
        (self.y.low, self.y.high)
    }

    /// Whether a point lies in the field.
    #[must_use]
    pub fn holds(&self, x: f64, y: f64) -> bool {
        (self.x.low..=self.x.high).contains(&x) && (self.y.low..=self.y.high).contains(&y)
    }

    /// A line through points; pieces outside of the field are left out.
    pub fn line(&mut self, class: &'static str, points: impl IntoIterator<Item = (f64, f64)>) {
        let inside: Vec<_> =
            points.into_iter().filter(|(x, y)| self.holds(*x, *y)).map(|(x, y)| self.at(x, y)).collect();
        self.sketch.line(class, inside);
    }

    /// A filled shape, held at the field's edges.
    pub fn area(&mut self, class: &'static str, points: impl IntoIterator<Item = (f64, f64)>) {
        let placed: Vec<_> = points.into_iter().map(|(x, y)| self.at(x, y)).collect();
        self.sketch.area(class, placed);
    }

    /// A dot with words beside it, on the side that has room.
    pub fn point(&mut self, class: &'static str, (x, y): (f64, f64), words: impl Into<String>) {
        let (px, py) = self.at(x, y);
        self.sketch.dot(class, (px, py));
        self.words_beside((px, py), words);
    }

    /// Words beside a place on the sheet.
    pub fn words_beside(&mut self, (px, py): (f64, f64), words: impl Into<String>) {
        let (dx, anchor) = if px > self.sketch.width * 0.66 { (-11.0, Anchor::End) } else { (11.0, Anchor::Start) };
        let dy = if py < TOP + 20.0 { 18.0 } else { -9.0 };
        self.sketch.text("word", (px + dx, py + dy), anchor, words);
    }

    /// A level line across the field with words at its left end, above it or, at the top, below.
    pub fn level(&mut self, class: &'static str, y: f64, words: impl Into<String>) {
        let (low, high) = self.x_span();
        self.line(class, [(low, y), (high, y)]);
        if self.holds(low, y) {
            let (px, py) = self.at(low, y);
            let dy = if py < TOP + 16.0 { 15.0 } else { -6.0 };
            self.sketch.text("word", (px + 8.0, py + dy), Anchor::Start, words);
        }
    }

    /// An upright line with words at its top.
    pub fn upright(&mut self, class: &'static str, x: f64, words: impl Into<String>) {
        let (low, high) = self.y_span();
        self.line(class, [(x, low), (x, high)]);
        if self.holds(x, low) {
            let (px, py) = self.at(x, high);
            let (dx, anchor) = if px > self.sketch.width * 0.66 { (-6.0, Anchor::End) } else { (6.0, Anchor::Start) };
            self.sketch.text("word", (px + dx, py + 15.0), anchor, words);
        }
    }
}

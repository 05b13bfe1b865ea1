//! The strip of airing: what opening up would carry out or bring in, hour by hour, and when to do it.

use super::axis::{Tick, time_ticks};
use super::{LEFT, Sheet};
use crate::Px;
use chrono::{DateTime, Utc};
use notation::Show;
use notation::number::fixed;
use notation::unit::LITERS;

/// Height of the strip, and of its field.
const HEIGHT: f64 = 132.0;
const TOP: f64 = 12.0;
const FOOT: f64 = 104.0;

/// What a strip is drawn from.
pub struct StripOf<'a> {
    /// What it is drawn on.
    pub sheet: Sheet,
    /// Liters carried out in each hour if open; negative wets.
    pub liters: &'a [f64],
    /// Windows to open up in: first hour and the one after the last.
    pub open: &'a [[usize; 2]],
    /// From when to when.
    pub span: [DateTime<Utc>; 2],
    /// How figures and days are shown.
    pub show: &'a Show,
}

/// A bar of hours.
pub struct Bar {
    /// Left, top, width and height.
    pub at: [Px; 4],
    /// What it is drawn as: `dries`, `wets`, or `shut` where it would dry and yet wet a surface.
    pub class: &'static str,
}

/// The strip.
pub struct Strip {
    /// Size of the drawing.
    pub size: [Px; 2],
    /// Left and right end of its field, and its line of nothing.
    pub field: [Px; 3],
    /// Bars.
    pub bars: Vec<Bar>,
    /// Windows: left end and width.
    pub open: Vec<[Px; 2]>,
    /// Figures at its top and foot.
    pub figures: [Tick; 2],
    /// Days.
    pub days: Vec<Tick>,
}

/// Places a strip.
#[must_use]
pub fn strip(of: &StripOf) -> Strip {
    let hours = of.liters.len().max(1);
    let each = of.sheet.each(hours);
    let end = of.sheet.width - 12.0;
    let x = |hour: usize| LEFT + (end - LEFT) * hour.min(hours) as f64 / hours as f64;
    let is_open = |hour: usize| of.open.iter().any(|[first, end]| (*first..*end).contains(&hour));
    let columns: Vec<f64> = of.liters.chunks(each).map(|c| c.iter().sum::<f64>() / c.len() as f64).collect();
    let most = columns.iter().copied().fold(0.0, f64::max);
    let least = columns.iter().copied().fold(0.0, f64::min);
    let height = (most - least).max(1e-9);
    let y = |liters: f64| TOP + (FOOT - TOP) * (most - liters) / height;
    let bar = |(i, liters): (usize, &f64)| {
        let (left, right) = (x(i * each), x((i + 1) * each));
        let (top, foot) = (y(liters.max(0.0)), y(liters.min(0.0)));
        let class = match (*liters > 0.0, is_open(i * each)) {
            (true, true) => "dries",
            (true, false) => "shut",
            _ => "wets",
        };
        Bar { at: [Px(left), Px(top), Px((right - left - 0.4).max(0.3)), Px(foot - top)], class }
    };
    let bars = columns.iter().enumerate().filter(|(_, l)| l.abs() > 0.002 * height).map(bar).collect();
    let length = (of.span[1] - of.span[0]).num_seconds().max(1) as f64;
    let at = |t: DateTime<Utc>| LEFT + (end - LEFT) * (t - of.span[0]).num_seconds() as f64 / length;
    let ticks = time_ticks(of.span, of.show, if of.sheet == Sheet::DESK { 14 } else { 5 });
    let shown = |liters: f64| fixed(LITERS.shown(liters, of.show.units), 1);
    let figure = |liters: f64| Tick {
        at: Px(y(liters)),
        words: format!("{} {}", shown(liters), LITERS.unit(of.show.units).name()),
    };
    Strip {
        size: [Px(of.sheet.width), Px(HEIGHT)],
        field: [Px(LEFT), Px(end), Px(y(0.0))],
        bars,
        open: of.open.iter().map(|[first, end]| [Px(x(*first)), Px(x(*end) - x(*first))]).collect(),
        figures: [figure(most), figure(least)],
        days: ticks.into_iter().map(|(t, words)| Tick { at: Px(at(t)), words }).collect(),
    }
}

//! Drying over time: a point's curve with its goal and the band of its day, small curves for a list, and grains at the places air is
//! read with the machines below.

use crate::Px;
use crate::log::{nice, time_ticks};
use building::drying::Run;
use chrono::DateTime;
use hygrothermal::drying::DryingFit;
use notation::Show;
use std::fmt::Write;

const LEFT: f64 = 54.0;
const TOP: f64 = 14.0;
const FOOT: f64 = 30.0;
const DAY: f64 = 86_400_000.0;
/// Points a curve is drawn by.
const FINE: i64 = 80;
/// Height of a machine's bar, px.
const BAR: f64 = 15.0;

/// A mark beside or below: where and what.
pub type Mark = (Px, String);

/// What a curve is drawn from.
pub struct CurveOf<'a> {
    /// Moments (ms since 1970) and figures read; none where more than the scale holds.
    pub reads: &'a [(i64, Option<f64>)],
    /// The curve, and the moment of its day 0.
    pub fit: Option<(DryingFit, i64)>,
    /// The goal, and what it settles at or its dry standard.
    pub lines: [Option<f64>; 2],
    /// The day of its goal with the band.
    pub day: Option<[i64; 3]>,
    /// Readings before count no more.
    pub since: Option<i64>,
    /// How days are shown.
    pub show: &'a Show,
}

/// A point's curve.
pub struct CurveSheet {
    /// Width and height.
    pub size: [Px; 2],
    /// Left, right, top and foot.
    pub field: [Px; 4],
    /// Readings; at the top where the scale was passed.
    pub dots: Vec<([Px; 2], bool)>,
    /// The curve up to the last reading, and on from there.
    pub curve: [String; 2],
    /// Goal, and what it settles at: height and figure.
    pub lines: [Option<Px>; 2],
    /// The band of the day: left and right; and the day.
    pub band: Option<[Px; 3]>,
    /// Where counting begins.
    pub since: Option<Px>,
    /// Figures beside.
    pub beside: Vec<Mark>,
    /// Days below.
    pub below: Vec<Mark>,
}

/// Places a point's curve.
#[must_use]
pub fn curve_sheet(width: f64, of: &CurveOf<'_>) -> Option<CurveSheet> {
    let (first, last) = (of.reads.first()?.0, of.reads.last()?.0);
    let height = (0.42 * width).clamp(210.0, 330.0);
    let (right, foot) = (width - 14.0, height - FOOT);
    // Of a band far out only its beginning is worth the room.
    let far = of.day.map_or(last, |d| d[2].min(last + 3 * (last - first).max(3 * DAY as i64)));
    let until = far.max(last) + (DAY * 0.5) as i64;
    let figures = || of.reads.iter().filter_map(|r| r.1).chain(of.lines.iter().copied().flatten());
    let (low, high) = figures().fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
    if low > high {
        return None;
    }
    let room = (0.08 * (high - low)).max(0.5);
    let (low, high) = ((low - room).max(0.0), high + room);
    let x = |at: i64| LEFT + (right - LEFT) * (at - first) as f64 / (until - first).max(1) as f64;
    let y = |v: f64| foot - (foot - TOP) * (v - low) / (high - low);
    let path = |from: i64, to: i64| {
        let Some((fit, zero)) = of.fit.filter(|_| to > from) else { return String::new() };
        let mut d = String::new();
        for i in 0..=FINE {
            let at = from + (to - from) * i / FINE;
            let v = fit.moisture((at - zero) as f64 / DAY).clamp(low, high);
            let _ = write!(d, "{}{} {}", if i == 0 { "M" } else { "L" }, Px(x(at)), Px(y(v)));
        }
        d
    };
    let moment = |ms: i64| DateTime::from_timestamp_millis(ms).unwrap_or_default();
    let ticks = time_ticks([moment(first), moment(until)], of.show, if width > 600.0 { 10 } else { 4 });
    Some(CurveSheet {
        size: [Px(width), Px(height)],
        field: [Px(LEFT), Px(right), Px(TOP), Px(foot)],
        dots: of.reads.iter().map(|(at, v)| ([Px(x(*at)), Px(v.map_or(TOP, y))], v.is_none())).collect(),
        curve: [path(of.fit.map_or(first, |f| f.1), last), path(last, until)],
        lines: of.lines.map(|l| l.map(|v| Px(y(v)))),
        band: of.day.map(|d| d.map(|ms| Px(x(ms.min(until))))),
        since: of.since.filter(|s| *s > first).map(|s| Px(x(s))),
        beside: nice(low, high, 6).into_iter().map(|(v, words)| (Px(y(v)), words)).collect(),
        below: ticks.into_iter().map(|(t, words)| (Px(x(t.timestamp_millis())), words)).collect(),
    })
}

/// A small curve for a list.
pub struct Spark {
    /// The line through the readings.
    pub line: String,
    /// The last reading.
    pub last: [Px; 2],
    /// Height of the goal.
    pub goal: Option<Px>,
}

/// Width and height of a small curve, px.
pub const SPARK: [f64; 2] = [110.0, 24.0];

/// Places a small curve over a span of moments.
#[must_use]
pub fn spark(reads: &[(i64, f64)], goal: Option<f64>, [from, until]: [i64; 2]) -> Option<Spark> {
    let all = || reads.iter().map(|r| r.1).chain(goal);
    let (low, high) = all().fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
    let x = |at: i64| 3.0 + (SPARK[0] - 6.0) * (at - from) as f64 / (until - from).max(1) as f64;
    let y = |v: f64| SPARK[1] - 3.0 - (SPARK[1] - 6.0) * (v - low) / (high - low).max(1e-9);
    let mut line = String::new();
    for (i, (at, v)) in reads.iter().enumerate() {
        let _ = write!(line, "{}{} {}", if i == 0 { "M" } else { "L" }, Px(x(*at)), Px(y(*v)));
    }
    let (at, v) = reads.last()?;
    Some(Spark { line, last: [Px(x(*at)), Px(y(*v))], goal: goal.map(|g| Px(y(g))) })
}

/// Air of a place over the rounds.
pub struct AirLine {
    /// What it is called.
    pub name: String,
    /// `outdoors`, `dew`, `surface` or `outlet`.
    pub class: &'static str,
    /// Moments and humidity ratios as shown.
    pub reads: Vec<(i64, f64)>,
}

/// A machine's times.
pub struct MachineBar {
    /// What it is called.
    pub name: String,
    /// When it ran.
    pub runs: Vec<Run>,
}

/// Grains over time, and machines below.
pub struct AirSheet {
    /// Width and height.
    pub size: [Px; 2],
    /// Left, right, top and foot.
    pub field: [Px; 4],
    /// Class, path, dots, and where its name stands.
    pub lines: Vec<(&'static str, String, Vec<[Px; 2]>, Mark)>,
    /// Names and heights of machines, and their bars: left and width.
    pub bars: Vec<(Mark, Vec<[Px; 2]>)>,
    /// Height of a bar.
    pub bar: Px,
    /// Figures beside.
    pub beside: Vec<Mark>,
    /// Days below.
    pub below: Vec<Mark>,
}

/// Places it.
#[must_use]
pub fn air_sheet(
    width: f64,
    lines: &[AirLine],
    bars: &[MachineBar],
    [from, until]: [i64; 2],
    show: &Show,
) -> Option<AirSheet> {
    let all = || lines.iter().flat_map(|l| l.reads.iter().map(|r| r.1));
    let (low, high) = all().fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
    if low > high {
        return None;
    }
    let wide = width > 600.0;
    let (right, names) = (if wide { width - 150.0 } else { width - 14.0 }, wide);
    let tall = (0.3 * width).clamp(170.0, 250.0);
    let foot = tall - FOOT;
    let room = (0.08 * (high - low)).max(0.3);
    let (low, high) = ((low - room).max(0.0), high + room);
    let x = |at: i64| LEFT + (right - LEFT) * ((at - from) as f64 / (until - from).max(1) as f64).clamp(0.0, 1.0);
    let y = |v: f64| foot - (foot - TOP) * (v - low) / (high - low);
    let drawn = |l: &AirLine| {
        let mut d = String::new();
        for (i, (at, v)) in l.reads.iter().enumerate() {
            let _ = write!(d, "{}{} {}", if i == 0 { "M" } else { "L" }, Px(x(*at)), Px(y(*v)));
        }
        let dots = l.reads.iter().map(|(at, v)| [Px(x(*at)), Px(y(*v))]).collect();
        let end = l.reads.last().map_or(foot, |(_, v)| y(*v));
        (l.class, d, dots, end)
    };
    let mut placed: Vec<_> = lines.iter().filter(|l| !l.reads.is_empty()).map(|l| (drawn(l), l.name.clone())).collect();
    placed.sort_by(|a, b| a.0.3.total_cmp(&b.0.3));
    // Names keep a line apart.
    let mut free = f64::NEG_INFINITY;
    let lines = placed
        .into_iter()
        .map(|((class, d, dots, end), name)| {
            let at = end.max(free);
            free = at + 16.0;
            (class, d, dots, (Px(at), if names { name } else { String::new() }))
        })
        .collect();
    let moment = |ms: i64| DateTime::from_timestamp_millis(ms).unwrap_or_default();
    let ticks = time_ticks([moment(from), moment(until)], show, if wide { 10 } else { 4 });
    let bar = |(i, b): (usize, &MachineBar)| {
        let top = tall + 4.0 + i as f64 * (BAR + 7.0);
        let one = |r: &Run| {
            let (left, end) = (x(r.from), x(r.until.unwrap_or(until)));
            [Px(left), Px((end - left).max(1.0))]
        };
        ((Px(top), b.name.clone()), b.runs.iter().map(one).collect())
    };
    Some(AirSheet {
        size: [Px(width), Px(tall + 8.0 + bars.len() as f64 * (BAR + 7.0))],
        field: [Px(LEFT), Px(right), Px(TOP), Px(foot)],
        lines,
        bars: bars.iter().enumerate().map(bar).collect(),
        bar: Px(BAR),
        beside: nice(low, high, 5).into_iter().map(|(v, words)| (Px(y(v)), words)).collect(),
        below: ticks.into_iter().map(|(t, words)| (Px(x(t.timestamp_millis())), words)).collect(),
    })
}

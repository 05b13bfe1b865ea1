//! A thermal picture: its colors on a fixed scale, its lines and its patches.

use crate::Px;
use crate::log::{Tick, nice};
use hygrothermal::surface::{GridReading, ThermalGrid};
use notation::Show;
use std::fmt::Write;

/// Most points of all lines together: more than a screen shows.
const MOST_POINTS: usize = 6000;
/// Lines shorter than this are noise, points.
const SHORTEST: usize = 5;
/// Patches numbered.
const NUMBERED: usize = 9;
/// Colors of the wetness scale, from well under the dew point to well over the 80 % line.
const COLORS: [[f64; 3]; 6] = [
    [9.0, 30.0, 52.0],
    [20.0, 59.0, 94.0],
    [63.0, 127.0, 149.0],
    [122.0, 160.0, 140.0],
    [201.0, 164.0, 94.0],
    [243.0, 231.0, 204.0],
];
/// Color of a cell that was not read.
const HOLE: [u8; 3] = [216, 207, 189];

/// The scale a picture, or a pair of them, is drawn on, °C.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ThermalScale {
    /// Coldest.
    pub low: f64,
    /// Warmest.
    pub high: f64,
    /// Dew point of the room's air, and its 80 % line.
    pub lines: [Option<f64>; 2],
}

impl ThermalScale {
    /// From the coldest to the warmest of some pictures, to whole degrees, with the lines of the first.
    #[must_use]
    pub fn of(spans: impl IntoIterator<Item = (f64, f64)>, said: &GridReading) -> Self {
        let ends = spans.into_iter().fold((f64::INFINITY, f64::NEG_INFINITY), |e, s| (e.0.min(s.0), e.1.max(s.1)));
        let (low, high) = if ends.0 <= ends.1 { ends } else { (0.0, 20.0) };
        let lines = [said.dew, said.mold].map(|t| t.map(hygrothermal::quantity::Temperature::get));
        Self { low: low.floor(), high: high.ceil().max(low.floor() + 1.0), lines }
    }

    /// Where the colors stand, °C, rising.
    fn stops(&self) -> [f64; 6] {
        let third = (self.high - self.low) / 3.0;
        let dew = self.lines[0].unwrap_or(self.low + third);
        let mold = self.lines[1].unwrap_or(self.low + 2.0 * third);
        let under = (dew - 3.0).min(self.low);
        [under, dew - 0.01, dew, mold, mold + 0.01, self.high.max(mold + 3.0)]
    }

    /// The color of a temperature.
    #[must_use]
    pub fn color(&self, celsius: f64) -> [u8; 3] {
        if celsius.is_nan() {
            return HOLE;
        }
        let stops = self.stops();
        let at = stops.windows(2).position(|w| celsius < w[1]).unwrap_or(stops.len() - 2);
        let part = ((celsius - stops[at]) / (stops[at + 1] - stops[at]).max(1e-9)).clamp(0.0, 1.0);
        let (from, to) = (COLORS[at], COLORS[at + 1]);
        std::array::from_fn(|i| (from[i] + part * (to[i] - from[i])).round() as u8)
    }
}

/// The cells as colors, row by row, three bytes each.
#[must_use]
pub fn colors(grid: &ThermalGrid, scale: &ThermalScale) -> Vec<u8> {
    grid.cells().iter().flat_map(|c| scale.color(*c)).collect()
}

/// A numbered patch.
pub struct ThermalMark {
    /// Its number, from 1.
    pub number: usize,
    /// Its coldest cell.
    pub at: [Px; 2],
    /// Where its number stands beside it.
    pub words_at: [Px; 2],
}

/// What lies over a picture.
pub struct ThermalSheet {
    /// Width and height of the drawing.
    pub size: [Px; 2],
    /// The dew-point line and the 80 % line.
    pub lines: [String; 2],
    /// Patches.
    pub marks: Vec<ThermalMark>,
}

/// Draws what lies over a picture, so wide.
#[must_use]
pub fn sheet(grid: &ThermalGrid, said: &GridReading, width: f64) -> ThermalSheet {
    let each = width / grid.columns() as f64;
    let line = |level: Option<hygrothermal::quantity::Temperature>| {
        level.map_or_else(String::new, |t| ways(&grid.contour(t.get()), each))
    };
    let mark = |(i, p): (usize, &hygrothermal::surface::Patch)| {
        let (x, y) = ((p.coldest.column as f64 + 0.5) * each, (p.coldest.row as f64 + 0.5) * each);
        // The number stands where there is room for it.
        let right = x + 22.0 < width;
        let words_at = [Px(if right { x + 8.0 } else { x - 18.0 }), Px(if y > 20.0 { y - 6.0 } else { y + 18.0 })];
        ThermalMark { number: i + 1, at: [Px(x), Px(y)], words_at }
    };
    ThermalSheet {
        size: [Px(width), Px(each * grid.rows() as f64)],
        lines: [line(said.dew), line(said.mold)],
        marks: said.patches.iter().take(NUMBERED).enumerate().map(mark).collect(),
    }
}

/// Lines as one way; of very many points every so many stand.
fn ways(lines: &[Vec<[f32; 2]>], each: f64) -> String {
    let points: usize = lines.iter().map(Vec::len).sum();
    let every = points.div_ceil(MOST_POINTS).max(1);
    let mut way = String::new();
    for line in lines.iter().filter(|l| l.len() >= SHORTEST) {
        let kept = line.iter().enumerate().filter(|(i, _)| i % every == 0 || i + 1 == line.len());
        for (n, (_, p)) in kept.enumerate() {
            let [x, y] = p.map(|v| Px(f64::from(v) * each));
            let _ = write!(way, "{}{x} {y}", if n == 0 { "M" } else { "L" });
        }
    }
    way
}

/// The scale beside a picture.
pub struct ThermalLegend {
    /// Size of the drawing.
    pub size: [Px; 2],
    /// Bars from the coldest up: left, width and color.
    pub bars: Vec<(Px, Px, String)>,
    /// Figures.
    pub ticks: Vec<Tick>,
    /// The dew point and the 80 % line: where, and their words.
    pub lines: Vec<(Px, String)>,
}

/// Draws the scale.
#[must_use]
pub fn legend(scale: &ThermalScale, width: f64, show: &Show) -> ThermalLegend {
    const BARS: u32 = 60;
    let x = |t: f64| (t - scale.low) / (scale.high - scale.low) * width;
    let bar = |i: u32| {
        let at = scale.low + (f64::from(i) + 0.5) / f64::from(BARS) * (scale.high - scale.low);
        let [r, g, b] = scale.color(at);
        (
            Px(width * f64::from(i) / f64::from(BARS)),
            Px(width / f64::from(BARS) + 0.3),
            format!("#{r:02x}{g:02x}{b:02x}"),
        )
    };
    let kind = &notation::unit::TEMPERATURE;
    let [low, high] = [scale.low, scale.high].map(|t| kind.shown(t, show.units));
    let tick = |(figure, words): (f64, String)| Tick { at: Px(x(kind.si(figure, show.units))), words };
    let named = ["dew point", "80 %"].into_iter().zip(scale.lines);
    let line = |(name, at): (&str, Option<f64>)| {
        let at = at.filter(|t| (scale.low..=scale.high).contains(t))?;
        Some((Px(x(at)), format!("{name} {}", show.degrees(at))))
    };
    ThermalLegend {
        size: [Px(width), Px(58.0)],
        bars: (0..BARS).map(bar).collect(),
        ticks: nice(low, high, 6).into_iter().map(tick).collect(),
        lines: named.filter_map(line).collect(),
    }
}

#[cfg(test)]
#[allow(clippy::unwrap_used, reason = "tests")]
mod tests {
    use super::*;
    use hygrothermal::air::{MoistAir, Over};
    use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
    use hygrothermal::surface::Room;

    #[test]
    fn a_pair_on_one_scale_shows_one_temperature_in_one_color() {
        let (t, rh) = (Temperature::new(20.0).unwrap(), RelativeHumidity::new(50.0).unwrap());
        let air = MoistAir::from_rh(t, rh, Over::Ice, Pressure::STANDARD).unwrap();
        let grid = |cold: f64| ThermalGrid::from_rows([[Some(cold), Some(18.0)], [None, Some(12.0)]]).unwrap();
        let (before, after) = (grid(6.0), grid(14.0));
        let said = before.read(&Room { air, outdoor: None, design: None });
        let scale = ThermalScale::of([before.span().unwrap(), after.span().unwrap()], &said);
        assert_eq!((scale.low, scale.high), (6.0, 18.0));
        let (b, a) = (colors(&before, &scale), colors(&after, &scale));
        assert_eq!((b.len(), &b[3..6], &b[9..]), (12, &a[3..6], &a[9..]));
        assert_eq!(b[6..9], HOLE);
        // Wet is bluer than damp, damp than dry: the wetness scale, never red against green.
        let bluer = |t: f64| f64::from(scale.color(t)[2]) - f64::from(scale.color(t)[0]);
        assert!(bluer(8.0) > bluer(11.5) && bluer(11.5) > bluer(15.0));
    }
}

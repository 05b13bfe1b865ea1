//! The moist-air chart of a log: the hours of each space as a cloud, its mean and mean day, its dew-point line, surfaces as ticks.

use super::axis::{Tick, nice};
use crate::Px;
use hygrothermal::air::{MoistAir, Over, dew_point, vapor_pressure_of_ratio};
use hygrothermal::quantity::{Pressure, RelativeHumidity, Temperature};
use notation::Show;
use notation::unit::{RATIO, TEMPERATURE};
use std::collections::BTreeMap;
use std::fmt::Write;

/// Room around the field.
const LEFT: f64 = 58.0;
const TOP: f64 = 16.0;
/// Room under it: a row for each surface, and the figures.
const FIGURES: f64 = 42.0;
const ROW: f64 = 20.0;
/// Hours nearer to each other than this share a dot.
const GRID: f64 = 3.0;
/// How far a mean day must reach before its hours are named.
const WIDE: f64 = 90.0;
/// Names nearer to each other than this are moved apart.
const APART: [f64; 2] = [170.0, 17.0];
/// Relative humidities whose curves are drawn, %.
const CURVES: [f64; 5] = [20.0, 40.0, 60.0, 80.0, 100.0];

/// An hour: temperature, °C, and humidity ratio, kg/kg.
pub type State = [f64; 2];

/// Hours of one air.
pub struct Cloud {
    /// What it is called.
    pub name: String,
    /// What it is drawn as: `here`, `beside` or `outdoors`.
    pub class: &'static str,
    /// Its hours.
    pub hours: Vec<State>,
    /// Its mean by the hour of the day.
    pub day: Vec<Option<State>>,
}

/// A surface of the space in view.
pub struct SurfaceTick {
    /// What it is called.
    pub name: String,
    /// Its mean, lowest and highest temperature, °C.
    pub t_c: [f64; 3],
}

/// What a chart is drawn from.
pub struct AirOf<'a> {
    /// Width of the sheet.
    pub width: f64,
    /// Height of its field.
    pub height: f64,
    /// Air pressure of the site.
    pub pressure: Pressure,
    /// The space in view last.
    pub clouds: &'a [Cloud],
    /// Surfaces of the space in view.
    pub surfaces: &'a [SurfaceTick],
    /// How figures are shown.
    pub show: &'a Show,
}

/// A cloud as it is placed.
pub struct PlacedCloud {
    /// What it is drawn as.
    pub class: &'static str,
    /// Dots of few, of several and of many hours.
    pub dots: [String; 3],
    /// Its mean.
    pub mean: [Px; 2],
    /// Its mean day, a closed way; empty where some hour is not known.
    pub day: String,
    /// Hours of the clock along it.
    pub clock: Vec<(Px, Px, String)>,
    /// Its name, beside its mean.
    pub name: String,
    /// Where the name stands.
    pub name_at: [Px; 2],
    /// Whether it ends there.
    pub name_ends: bool,
}

/// A surface as it is placed.
pub struct PlacedTick {
    /// Its mean, its ends, and its row.
    pub at: [Px; 4],
    /// Its name with its temperature.
    pub name: String,
    /// Whether the mean air would wet it.
    pub wet: bool,
    /// Whether its name stands before it.
    pub name_before: bool,
}

/// The chart.
pub struct AirChart {
    /// Size of the drawing.
    pub size: [Px; 2],
    /// The field: left, top, right, bottom.
    pub field: [Px; 4],
    /// Curves of relative humidity: the way, where its name stands, its name, and whether it is saturation.
    pub curves: Vec<(String, [Px; 2], String, bool)>,
    /// Temperatures under it.
    pub temperatures: Vec<Tick>,
    /// Humidity ratios beside it.
    pub ratios: Vec<Tick>,
    /// Units of both.
    pub units: [&'static str; 2],
    /// Clouds.
    pub clouds: Vec<PlacedCloud>,
    /// The dew-point line of the space in view: from its mean to saturation, and down to the axis; its temperature in words.
    pub dew: Option<([Px; 4], String)>,
    /// Whether there is room for its words left of it.
    pub dew_before: bool,
    /// Surfaces.
    pub surfaces: Vec<PlacedTick>,
}

struct Field {
    t: [f64; 2],
    w: [f64; 2],
    right: f64,
    bottom: f64,
}

impl Field {
    fn x(&self, t: f64) -> f64 {
        LEFT + (self.right - LEFT) * (t - self.t[0]) / (self.t[1] - self.t[0])
    }

    fn y(&self, w: f64) -> f64 {
        self.bottom - (self.bottom - TOP) * (w - self.w[0]) / (self.w[1] - self.w[0])
    }
}

fn mean(hours: &[State]) -> Option<State> {
    let n = hours.len() as f64;
    let sum = hours.iter().fold([0.0, 0.0], |s, h| [s[0] + h[0], s[1] + h[1]]);
    (!hours.is_empty()).then(|| sum.map(|x| x / n))
}

/// Dew point of a humidity ratio, °C.
fn dew(w: f64, pressure: Pressure) -> Option<f64> {
    dew_point(vapor_pressure_of_ratio(w, pressure)).map(Temperature::get)
}

/// Humidity ratio at a temperature and a relative humidity, kg/kg.
fn ratio(t: f64, rh: f64, pressure: Pressure) -> Option<f64> {
    let (t, rh) = (Temperature::new(t).ok()?, RelativeHumidity::new(rh).ok()?);
    Some(MoistAir::from_rh(t, rh, Over::Ice, pressure).ok()?.humidity_ratio())
}

/// Places a chart; `None` where there is no hour to place.
#[must_use]
pub fn air_chart(of: &AirOf) -> Option<AirChart> {
    let all = || of.clouds.iter().flat_map(|c| &c.hours);
    let last = mean(&of.clouds.last()?.hours)?;
    let dew_c = dew(last[1], of.pressure);
    let temperatures = || {
        let surfaces = of.surfaces.iter().flat_map(|s| s.t_c);
        all().map(|h| h[0]).chain(surfaces).chain(dew_c)
    };
    let t =
        [temperatures().fold(f64::INFINITY, f64::min) - 1.5, temperatures().fold(f64::NEG_INFINITY, f64::max) + 1.5];
    let most = all().map(|h| h[1]).fold(0.001, f64::max);
    let field = Field { t, w: [0.0, 1.12 * most], right: of.width - 16.0, bottom: TOP + of.height };
    let foot = field.bottom + FIGURES + ROW * of.surfaces.len() as f64;
    let (low, high) = (of.show.scale(t[0]), of.show.scale(t[1]));
    let at = |shown: f64| field.x(t[0] + (shown - low) / (high - low) * (t[1] - t[0]));
    let top = RATIO.shown(1000.0 * field.w[1], of.show.units);
    Some(AirChart {
        size: [Px(of.width), Px(foot)],
        field: [Px(LEFT), Px(TOP), Px(field.right), Px(field.bottom)],
        curves: CURVES.iter().filter_map(|rh| curve(&field, *rh, of.pressure)).collect(),
        temperatures: nice(low, high, 10).into_iter().map(|(f, words)| Tick { at: Px(at(f)), words }).collect(),
        ratios: nice(0.0, top, 6)
            .into_iter()
            .map(|(f, words)| Tick { at: Px(field.y(f / top * field.w[1])), words })
            .collect(),
        units: [TEMPERATURE.unit(of.show.units).name(), RATIO.unit(of.show.units).name()],
        clouds: apart(of.clouds.iter().filter_map(|c| cloud(&field, c)).collect()),
        dew_before: dew_c.is_some_and(|d| field.x(d) > LEFT + 90.0),
        dew: dew_c
            .map(|d| ([field.x(last[0]), field.y(last[1]), field.x(d), foot - 4.0].map(Px), of.show.temperature(d))),
        surfaces: of.surfaces.iter().enumerate().map(|(i, s)| tick(&field, i, s, dew_c, of.show)).collect(),
    })
}

/// The curve of a relative humidity as far as it lies in the field.
fn curve(field: &Field, rh: f64, pressure: Pressure) -> Option<(String, [Px; 2], String, bool)> {
    let mut way = String::new();
    let mut end = None;
    for i in 0..=60 {
        let t = field.t[0] + (field.t[1] - field.t[0]) * f64::from(i) / 60.0;
        let w = ratio(t, rh, pressure)?;
        if w > field.w[1] {
            break;
        }
        let _ = write!(way, "{}{} {}", if way.is_empty() { "M" } else { "L" }, Px(field.x(t)), Px(field.y(w)));
        end = Some([Px(field.x(t)), Px(field.y(w))]);
    }
    Some((way, end?, format!("{rh:.0} %"), rh >= 100.0))
}

fn cloud(field: &Field, of: &Cloud) -> Option<PlacedCloud> {
    let mut cells: BTreeMap<(i64, i64), usize> = BTreeMap::new();
    for [t, w] in &of.hours {
        let cell = |x: f64| (x / GRID).round() as i64;
        *cells.entry((cell(field.x(*t)), cell(field.y(*w)))).or_default() += 1;
    }
    let mut dots = [String::new(), String::new(), String::new()];
    for ((x, y), hours) in cells {
        let size = match hours {
            1 => 0,
            2..=4 => 1,
            _ => 2,
        };
        // A way without length and a round pen makes a dot.
        let _ = write!(dots[size], "M{} {}h0", Px(x as f64 * GRID), Px(y as f64 * GRID));
    }
    let [t, w] = mean(&of.hours)?;
    let whole: Option<Vec<State>> = of.day.iter().copied().collect();
    // Hours along a day that hardly moves would lie on each other.
    let reach = |of: fn(&Field, &State) -> f64| {
        let all = || whole.iter().flatten().map(|s| of(field, s));
        all().fold(f64::NEG_INFINITY, f64::max) - all().fold(f64::INFINITY, f64::min)
    };
    let wide = reach(|f, s| f.x(s[0])).hypot(reach(|f, s| f.y(s[1]))) > WIDE;
    let mut day = String::new();
    let mut clock = Vec::new();
    for (hour, [t, w]) in whole.iter().flatten().enumerate() {
        let (x, y) = (Px(field.x(*t)), Px(field.y(*w)));
        let _ = write!(day, "{}{x} {y}", if day.is_empty() { "M" } else { "L" });
        if hour % 6 == 0 && wide {
            clock.push((x, y, format!("{hour}:00")));
        }
    }
    if !day.is_empty() {
        day.push('Z');
    }
    let mean = [Px(field.x(t)), Px(field.y(w))];
    // A name near the right edge stands to the left.
    let name_ends = field.x(t) > field.right - 160.0;
    let name_at = [Px(field.x(t) + if name_ends { -12.0 } else { 12.0 }), Px(field.y(w) - 10.0)];
    Some(PlacedCloud { class: of.class, dots, mean, day, clock, name: of.name.clone(), name_at, name_ends })
}

/// Moves names down that would lie on each other.
fn apart(mut clouds: Vec<PlacedCloud>) -> Vec<PlacedCloud> {
    let mut order: Vec<usize> = (0..clouds.len()).collect();
    order.sort_by(|a, b| clouds[*a].name_at[1].0.total_cmp(&clouds[*b].name_at[1].0));
    for i in 1..order.len() {
        let (before, own) = (clouds[order[i - 1]].name_at, clouds[order[i]].name_at);
        if (before[0].0 - own[0].0).abs() < APART[0] && own[1].0 - before[1].0 < APART[1] {
            clouds[order[i]].name_at[1] = Px(before[1].0 + APART[1]);
        }
    }
    clouds
}

fn tick(field: &Field, row: usize, of: &SurfaceTick, dew_c: Option<f64>, show: &Show) -> PlacedTick {
    let [mean, low, high] = of.t_c;
    let y = field.bottom + FIGURES + ROW * row as f64;
    PlacedTick {
        at: [field.x(mean), field.x(low), field.x(high), y].map(Px),
        name: format!("{} {}", of.name, show.temperature(mean)),
        wet: dew_c.is_some_and(|d| mean <= d),
        name_before: field.x(high) > field.right - 190.0,
    }
}

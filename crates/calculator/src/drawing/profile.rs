//! A build-up cut through: its layers, temperature above, vapor pressure below.

use super::t;
use crate::case::Case;
use crate::plot::{Axis, Plot, ticks};
use crate::sketch::{Anchor, Sketch};
use hygrothermal::air::saturation_pressure;
use hygrothermal::buildup::leakage_condensate;
use hygrothermal::quantity::AirFlow;
use language::{known_of, say};
use notation::Units;
use notation::months;
use notation::unit::{FLOW, GAIN, GAIN_RATE, Kind, NUMBER, PRESSURE, TEMPERATURE};
use serde_json::Value;

const WIDTH: f64 = 820.0;
const LEFT: f64 = 78.0;
const RIGHT: f64 = 796.0;
/// Room for the air on either side.
const AIR: f64 = 44.0;
/// Narrowest a layer is drawn.
const THINNEST: f64 = 16.0;

/// A leak to set diffusion against, m³/s for each m² (common practice: a tenth of a liter per second is an ordinary wall).
const LEAK: f64 = 1e-4;

/// One panel with its own upright scale.
struct Panel {
    top: f64,
    bottom: f64,
    low: f64,
    high: f64,
}

impl Panel {
    fn y(&self, v: f64) -> f64 {
        self.bottom - ((v - self.low) / (self.high - self.low)).clamp(0.0, 1.0) * (self.bottom - self.top)
    }

    fn scale(&self, sketch: &mut Sketch, name: &str, kind: &Kind, units: Units) {
        sketch.line("axis", [(LEFT, self.top), (LEFT, self.bottom)]);
        sketch.text("title", (10.0, self.top - 9.0), Anchor::Start, format!("{name}, {}", kind.unit(units).name()));
        for (v, text) in ticks(kind, (self.low, self.high), 4.0, units) {
            let y = self.y(v);
            sketch.line("grid", [(LEFT, y), (RIGHT, y)]);
            sketch.text("tick", (LEFT - 7.0, y + 4.0), Anchor::End, text);
        }
    }
}

fn span(values: impl Iterator<Item = f64>) -> (f64, f64) {
    let (low, high) =
        values.filter(|v| v.is_finite()).fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
    if low <= high { (low, high.max(low + 1.0)) } else { (0.0, 1.0) }
}

/// Where each interface is drawn: thick layers wide, thin ones still to be seen.
fn interfaces(layers: &[Value]) -> Vec<f64> {
    // A layer given by its resistance alone is drawn like 40 mm.
    let thickness = |l: &Value| l.get("thickness_m").and_then(Value::as_f64).unwrap_or(0.04).max(1e-6).sqrt();
    let total: f64 = layers.iter().map(thickness).sum();
    let room = RIGHT - LEFT - 2.0 * AIR - THINNEST * layers.len() as f64;
    let mut x = LEFT + AIR;
    std::iter::once(x)
        .chain(layers.iter().map(|l| {
            x += THINNEST + room * thickness(l) / total;
            x
        }))
        .collect()
}

/// Steady temperature and vapor pressure with the planes where water collects.
pub fn steady(c: &Case) -> Sketch {
    let layers = c.request.get("layers").and_then(Value::as_array).map_or(&[][..], Vec::as_slice);
    let planes = c.list("interfaces");
    let mut sketch = Sketch::new(
        WIDTH,
        452.0 + 19.0 * (layers.len().div_ceil(3) as f64 - 1.0),
        say!("Temperature and vapor pressure through the build-up"),
    );
    if layers.is_empty() || planes.len() != layers.len() + 1 {
        return sketch;
    }
    let xs = interfaces(layers);
    let of = |key: &str| -> Vec<f64> { planes.iter().map(|p| p[key].as_f64().unwrap_or(f64::NAN)).collect() };
    let (temps, sats, vapors) = (of("t_c"), of("sat_pa"), of("vapor_pa"));
    let (inside, outside) = (c.given("inside.t_c"), c.given("outside.t_c"));
    let (low, high) = span(temps.iter().copied().chain([inside, outside]));
    let heat = Panel { top: 34.0, bottom: 170.0, low: low - 1.0, high: high + 1.0 };
    let vapor = Panel { top: 212.0, bottom: 400.0, low: 0.0, high: 1.08 * span(sats.iter().chain(&vapors).copied()).1 };
    draw_layers(&mut sketch, layers, &xs, heat.top, vapor.bottom);
    heat.scale(&mut sketch, say!("temperature"), &TEMPERATURE, c.units);
    vapor.scale(&mut sketch, say!("vapor pressure"), &PRESSURE, c.units);
    let ends = [(LEFT, heat.y(inside)), (RIGHT, heat.y(outside))];
    let through = xs.iter().zip(&temps).map(|(&x, &t)| (x, heat.y(t)));
    sketch.line("main", std::iter::once(ends[0]).chain(through).chain([ends[1]]));
    // Temperature is straight within a layer, so saturation pressure is not.
    let curve = (0..layers.len()).flat_map(|i| {
        let (xs, temps, vapor) = (&xs, &temps, &vapor);
        super::spread(0.0, 1.0, 12).filter_map(move |s| {
            let at = t(temps[i] + s * (temps[i + 1] - temps[i]))?;
            Some((xs[i] + s * (xs[i + 1] - xs[i]), vapor.y(saturation_pressure(at))))
        })
    });
    sketch.line("saturation", curve.collect::<Vec<_>>());
    sketch.line("dew", xs.iter().zip(&vapors).map(|(&x, &p)| (x, vapor.y(p))));
    sketch.text("word", (xs[0] + 6.0, vapor.y(sats[0]) - 7.0), Anchor::Start, say!("saturation"));
    sketch.text("word dew-word", (xs[0] + 6.0, vapor.y(vapors[0]) + 17.0), Anchor::Start, say!("vapor"));
    for plane in c.list("condensation") {
        let Some(i) = plane["interface"].as_u64().map(|i| i as usize).filter(|i| *i < xs.len()) else { continue };
        sketch.line("plane", [(xs[i], heat.top), (xs[i], vapor.bottom)]);
        let words = plane["rate_g_m2_day"]
            .as_f64()
            .map_or_else(|| say!("the surface itself is wet").to_owned(), |r| GAIN_RATE.text(r, c.units));
        let (dx, anchor) = if xs[i] > WIDTH / 2.0 { (-8.0, Anchor::End) } else { (8.0, Anchor::Start) };
        sketch.text("word strong", (xs[i] + dx, heat.bottom + 20.0), anchor, words);
    }
    sketch
}

/// What diffusion leaves out: air leaking to the coldest plane inside, and whether what collects there is frost.
pub fn leak_and_frost(c: &Case) -> Vec<String> {
    let planes = c.list("interfaces");
    let inner = planes.get(1..planes.len().saturating_sub(1)).unwrap_or_default();
    let wet: Vec<usize> =
        c.list("condensation").iter().filter_map(|p| Some(p["interface"].as_u64()? as usize)).collect();
    let temperature = |i: usize| planes.get(i).and_then(|p| p["t_c"].as_f64());
    // Where water collects by diffusion, or else the outermost boundary between layers.
    let at = wet.first().copied().unwrap_or(inner.len());
    let mut notes = Vec::new();
    let room = super::air(c.given("inside.t_c"), c.given("inside.rh_pct"));
    let leak = AirFlow::new(LEAK).ok();
    if let (Some(room), Some(plane), Some(leak), false) = (room, temperature(at).and_then(t), leak, inner.is_empty()) {
        let grams = leakage_condensate(&room, plane, leak);
        let flow = FLOW.text(LEAK, c.units);
        let text = GAIN_RATE.text(grams, c.units);
        notes.push(say!(
            "Room air leaking out at {flow} for each m² would leave {text} at plane {at}, beside what diffuses.",
            flow,
            text,
            at
        ));
    }
    if wet.iter().any(|i| temperature(*i).is_some_and(|t| t < 0.0)) {
        notes.push(say!("It collects as frost, which comes down all at once when it thaws.").into());
    }
    notes
}

fn draw_layers(sketch: &mut Sketch, layers: &[Value], xs: &[f64], top: f64, bottom: f64) {
    const SHADES: [&str; 2] = ["layer-a", "layer-b"];
    for (i, pair) in xs.windows(2).enumerate() {
        sketch.rect(SHADES[i % 2], (pair[0], top), (pair[1], bottom));
        let number = (f64::midpoint(pair[0], pair[1]), bottom + 17.0);
        sketch.text("tick", number, Anchor::Middle, (i + 1).to_string());
    }
    // Names stand below in three columns, numbered as the layers are: they never have to fit the layers' widths.
    for (i, layer) in layers.iter().enumerate() {
        let (row, column) = ((i / 3) as f64, (i % 3) as f64);
        let name = format!("{}  {}", i + 1, known_of(layer.get("name").and_then(Value::as_str).unwrap_or("layer")));
        sketch.text("key", (LEFT + 245.0 * column, bottom + 42.0 + 19.0 * row), Anchor::Start, name);
    }
    sketch.text("word", (LEFT + AIR - 6.0, bottom - 8.0), Anchor::End, say!("in"));
    sketch.text("word", (RIGHT - AIR + 6.0, bottom - 8.0), Anchor::Start, say!("out"));
}

/// Water held at the end of each month.
pub fn year(c: &Case) -> Sketch {
    let held: Vec<f64> = c.list("months").iter().map(|m| m["held_g_m2"].as_f64().unwrap_or(0.0)).collect();
    let most = held.iter().copied().fold(0.0, f64::max);
    let x = Axis { name: "", kind: &NUMBER, low: 0.4, high: 12.6 };
    let y =
        Axis { name: say!("water held"), kind: &GAIN, low: 0.0, high: if most > 0.0 { 1.18 * most } else { 100.0 } };
    let mut plot = Plot::bare_x(say!("Water held at the end of each month"), (WIDTH, 360.0), x, y, c.units);
    for (i, grams) in held.iter().enumerate() {
        let month = i as f64 + 1.0;
        plot.area("bar", [(month - 0.32, 0.0), (month + 0.32, 0.0), (month + 0.32, *grams), (month - 0.32, *grams)]);
        let (px, floor) = plot.at(month, 0.0);
        plot.sketch.text("tick", (px, floor + 16.0), Anchor::Middle, months()[i % 12].get(..3).unwrap_or_default());
        if *grams > 0.0 {
            let y = plot.at(month, *grams).1;
            plot.sketch.text("tick", (px, y - 5.0), Anchor::Middle, GAIN.figure(*grams, c.units));
        }
    }
    plot.sketch
}

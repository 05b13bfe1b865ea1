//! Temperatures on one line: the dew point, what lies colder than it, and the surfaces beside it.

use super::{air, t};
use crate::case::Case;
use crate::sketch::{Anchor, Sketch};
use hygrothermal::air::dew_point;
use language::say;
use notation::Units;
use notation::unit::TEMPERATURE;

const WIDTH: f64 = 820.0;
const LEFT: f64 = 40.0;
const RIGHT: f64 = 780.0;
/// The band between these heights is the strip.
const TOP: f64 = 92.0;
const BOTTOM: f64 = 158.0;
/// Rough width of a letter, for keeping words apart.
const LETTER: f64 = 7.6;

/// A temperature marked on the strip.
struct Tick {
    at: f64,
    err: f64,
    name: &'static str,
    class: &'static str,
}

fn tick(at: f64, err: f64, name: &'static str, class: &'static str) -> Tick {
    Tick { at, err, name, class }
}

/// The strip of a surface beside air, with its margin.
pub fn surface(c: &Case) -> Sketch {
    let dew = c.got_if("dew_c");
    let vapor = air(c.given("t_c"), c.given("rh_pct")).map_or(f64::NAN, |a| a.vapor_pressure());
    let mold = dew.and_then(|_| dew_point(vapor / 0.8)).map(hygrothermal::quantity::Temperature::get);
    let (own, whole) = (c.given_if("surface_err_c").unwrap_or(1.0), c.got("margin_err_c"));
    let dew_err = (whole * whole - own * own).max(0.0).sqrt();
    let mut ticks =
        vec![tick(c.given("t_c"), 0.0, say!("air"), "air"), tick(c.given("surface_c"), own, say!("surface"), "point")];
    if let Some(design) = c.got_if("design_surface_c") {
        ticks.push(tick(design, 0.0, say!("on the design night"), "open"));
    }
    strip(c.units, say!("The surface against the dew point"), dew.map(|d| (d, dew_err)), mold, &ticks)
}

/// What was shown, what is mirrored and what the surface is.
pub fn infrared(c: &Case) -> Sketch {
    let ticks = [
        tick(c.given("apparent_c"), 0.0, say!("shown"), "open"),
        tick(c.given("reflected_c"), 0.0, say!("reflected"), "air"),
        tick(c.got("object_c"), 2.0, say!("surface"), "point"),
    ];
    strip(c.units, say!("Shown, reflected and true temperature"), None, None, &ticks)
}

/// The surface now and with the insulation.
pub fn insulation(c: &Case) -> Sketch {
    let vapor = air(c.given("inside.t_c"), c.given("inside.rh_pct")).map_or(f64::NAN, |a| a.vapor_pressure());
    let (dew, mold) = (
        dew_point(vapor).map(hygrothermal::quantity::Temperature::get),
        dew_point(vapor / 0.8).map(hygrothermal::quantity::Temperature::get),
    );
    let mut ticks = vec![
        tick(c.given("inside.t_c"), 0.0, say!("inside"), "air"),
        tick(c.given("outside_c"), 0.0, say!("outside"), "air"),
        tick(c.got("surface_c_before"), 0.0, say!("surface now"), "open"),
    ];
    let no_mold = c.request.get("target").and_then(|t| t.as_str()) == Some("no_mold");
    if let (Some(after), true) = (if no_mold { mold } else { dew }, c.got("r_added_m2k_w") > 0.0) {
        ticks.push(tick(after, 0.0, say!("surface then"), "point"));
    }
    strip(c.units, say!("The surface before and after"), dew.map(|d| (d, 0.0)), mold, &ticks)
}

fn strip(units: Units, label: &str, dew: Option<(f64, f64)>, mold: Option<f64>, ticks: &[Tick]) -> Sketch {
    let mut sketch = Sketch::new(WIDTH, 232.0, label);
    let values = ticks
        .iter()
        .flat_map(|k| [k.at - k.err, k.at + k.err])
        .chain(dew.iter().map(|d| d.0))
        .filter(|v| v.is_finite());
    let (low, high) = values.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), v| (l.min(v), h.max(v)));
    if !low.is_finite() || t(low).is_none() {
        return sketch;
    }
    let room = (0.1 * (high - low)).max(2.0);
    let (low, high) = (low - room, high + room);
    let x = |celsius: f64| LEFT + ((celsius - low) / (high - low)).clamp(0.0, 1.0) * (RIGHT - LEFT);
    sketch.rect("field", (LEFT, TOP), (RIGHT, BOTTOM));
    if let (Some((dew, err)), Some(mold)) = (dew, mold) {
        sketch.rect("risk", (x(dew), TOP), (x(mold), BOTTOM));
        sketch.rect("wet", (LEFT, TOP), (x(dew), BOTTOM));
        sketch.rect("band", (x(dew - err), TOP), (x(dew + err), BOTTOM));
        sketch.line("dew", [(x(dew), TOP - 8.0), (x(dew), BOTTOM + 8.0)]);
        if x(dew) - LEFT > 60.0 {
            sketch.text("inside", (LEFT + 10.0, BOTTOM - 12.0), Anchor::Start, say!("wet"));
        }
        if x(mold) - x(dew) > 84.0 {
            sketch.text("inside dark", (x(mold) - 8.0, BOTTOM - 12.0), Anchor::End, say!("mold risk"));
        }
    }
    sketch.line("axis", [(LEFT, BOTTOM), (RIGHT, BOTTOM)]);
    let middle = f64::midpoint(TOP, BOTTOM);
    let mut words: Vec<(f64, String, &'static str)> = Vec::new();
    if let Some((dew, err)) = dew {
        let text = if err > 0.0 { TEMPERATURE.band(dew, err, units) } else { TEMPERATURE.text(dew, units) };
        words.push((x(dew), say!("dew point {text}", text), "word dew-word"));
    }
    for k in ticks.iter().filter(|k| k.at.is_finite()) {
        sketch.line("err", [(x(k.at - k.err), middle), (x(k.at + k.err), middle)]);
        sketch.dot(k.class, (x(k.at), middle));
        words.push((x(k.at), format!("{} {}", k.name, TEMPERATURE.text(k.at, units)), "word"));
    }
    place_words(&mut sketch, words, middle);
    margin(&mut sketch, units, &x, dew, ticks);
    sketch
}

/// Words above the strip, each in the lowest row where it has room, with a thin line down to its place.
fn place_words(sketch: &mut Sketch, mut words: Vec<(f64, String, &'static str)>, middle: f64) {
    words.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut ends = [f64::NEG_INFINITY; 4];
    for (x, text, class) in words {
        let half = text.chars().count() as f64 * LETTER / 2.0;
        let center = x.clamp(half + 4.0, WIDTH - half - 4.0);
        let row = ends.iter().position(|end| center - half > end + 10.0).unwrap_or(ends.len() - 1);
        ends[row] = center + half;
        let y = TOP - 16.0 - 21.0 * row as f64;
        sketch.line("lead", [(x, y + 5.0), (x, if class == "word" { middle - 8.0 } else { TOP - 8.0 })]);
        sketch.text(class, (center, y), Anchor::Middle, text);
    }
}

/// The margin as an arrow under the strip, from the dew point to the surface.
fn margin(sketch: &mut Sketch, units: Units, x: &impl Fn(f64) -> f64, dew: Option<(f64, f64)>, ticks: &[Tick]) {
    let Some(((dew, _), surface)) = dew.zip(ticks.iter().find(|k| k.class == "point" && k.name == "surface")) else {
        return;
    };
    let y = BOTTOM + 34.0;
    if (x(surface.at) - x(dew)).abs() > 12.0 {
        sketch.arrow("arrow", (x(dew), y), (x(surface.at), y));
    }
    let text = say!("margin {margin}", margin = notation::unit::DIFFERENCE.text(surface.at - dew, units));
    let at = f64::midpoint(x(dew), x(surface.at)).clamp(80.0, WIDTH - 80.0);
    sketch.text("word", (at, y + 24.0), Anchor::Middle, text);
}

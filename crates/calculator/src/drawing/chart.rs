//! The moist-air chart: temperature across, humidity ratio up, the dew-point line running left to saturation.

use super::{SIZE, air, spread, t};
use crate::case::Case;
use crate::plot::{Axis, Plot};
use crate::sketch::{Anchor, Sketch};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Altitude, Pressure, RelativeHumidity};
use language::say;
use notation::Units;
use notation::unit::{PERCENT, RATIO, TEMPERATURE};

/// One air on the chart: °C, g/kg, dew point in °C.
pub struct State {
    t: f64,
    ratio: f64,
    dew: f64,
    rh: f64,
    name: &'static str,
}

/// The air of the sheet about one air.
pub fn state(c: &Case) -> State {
    State { t: c.given("t_c"), rh: c.got("rh_pct"), ratio: c.got("ratio_g_kg"), dew: c.got("dew_c"), name: "" }
}

fn nested(c: &Case, side: &'static str) -> State {
    let (celsius, rh) = (c.given(&format!("{side}.t_c")), c.given(&format!("{side}.rh_pct")));
    let found = air(celsius, rh);
    State {
        t: celsius,
        rh,
        ratio: found.map_or(f64::NAN, |a| 1000.0 * a.humidity_ratio()),
        dew: found.and_then(|a| a.dew_point()).map_or(f64::NAN, hygrothermal::quantity::Temperature::get),
        name: side,
    }
}

/// Two airs and, where it is known, the coldest surface.
pub fn two_airs(c: &Case) -> Sketch {
    let states = [nested(c, "inside"), nested(c, "outside")];
    let mut plot = plot(c.units, &states, 0.0, c.given_if("coldest_surface_c"));
    if let Some(surface) = c.given_if("coldest_surface_c") {
        plot.upright("surface", surface, say!("coldest surface"));
    }
    plot.sketch
}

/// Airs at a height above sea level.
pub fn moist_air(units: Units, states: &[State], altitude: f64) -> Sketch {
    plot(units, states, altitude, None).sketch
}

fn plot(units: Units, states: &[State], altitude: f64, also: Option<f64>) -> Plot {
    let p = Altitude::new(altitude).map_or(Pressure::STANDARD, Pressure::at_altitude);
    let temperatures = states.iter().flat_map(|s| [s.t + 6.0, s.dew.max(s.t - 35.0) - 4.0]).chain(also);
    let x = Axis::around(say!("temperature"), &TEMPERATURE, temperatures, 30.0);
    let most = states.iter().map(|s| s.ratio).filter(|r| r.is_finite()).fold(4.0, f64::max);
    let y = Axis { name: say!("humidity ratio"), kind: &RATIO, low: 0.0, high: 1.45 * most };
    let mut plot = Plot::new(say!("Moist-air chart"), SIZE, x, y, units);
    for rh in [20.0, 40.0, 60.0, 80.0] {
        curve(&mut plot, "faint", rh, p);
    }
    above_saturation(&mut plot, p);
    curve(&mut plot, "saturation", 100.0, p);
    for (row, s) in states.iter().enumerate() {
        plot.line("dew", [(s.dew.max(plot.x_span().0), s.ratio), (s.t, s.ratio)]);
        plot.line("drop", [(s.dew, s.ratio), (s.dew, 0.0)]);
        if plot.holds(s.dew, 0.0) {
            let (px, py) = plot.at(s.dew, 0.0);
            plot.sketch.text(
                "word dew-word",
                (px + 5.0, py - 6.0 - 18.0 * row as f64),
                Anchor::Start,
                say!("{name} dew point {dew}", name = s.name, dew = TEMPERATURE.text(s.dew, units))
                    .trim_start()
                    .to_owned(),
            );
        }
        plot.point(
            "point",
            (s.t, s.ratio),
            format!("{} {}, {}", s.name, TEMPERATURE.text(s.t, units), PERCENT.text(s.rh, units))
                .trim_start()
                .to_owned(),
        );
    }
    plot
}

fn ratio(celsius: f64, rh: f64, p: Pressure) -> Option<f64> {
    let air = MoistAir::from_rh(t(celsius)?, RelativeHumidity::new(rh).ok()?, Over::Ice, p).ok()?;
    Some(1000.0 * air.humidity_ratio())
}

fn curve(plot: &mut Plot, class: &'static str, rh: f64, p: Pressure) {
    let (low, high) = plot.x_span();
    let points: Vec<_> = spread(low, high, 160).filter_map(|x| Some((x, ratio(x, rh, p)?))).collect();
    let last = points.iter().copied().rfind(|&(x, y)| plot.holds(x, y));
    plot.line(class, points);
    if let Some((x, y)) = last {
        let (px, py) = plot.at(x, y);
        // At the right edge the figure stands left of its curve, at the top right of it.
        let (dx, dy, anchor) =
            if px > plot.sketch.width - 40.0 { (-4.0, -5.0, Anchor::End) } else { (5.0, 12.0, Anchor::Start) };
        plot.sketch.text("tick", (px + dx, py + dy), anchor, PERCENT.text(rh, Units::Metric).replace(".0", ""));
    }
}

fn above_saturation(plot: &mut Plot, p: Pressure) {
    let ((low, high), top) = (plot.x_span(), plot.y_span().1);
    let mut points: Vec<_> = spread(low, high, 160).filter_map(|x| Some((x, ratio(x, 100.0, p)?.min(top)))).collect();
    points.extend([(high, top), (low, top)]);
    plot.area("fog", points);
}

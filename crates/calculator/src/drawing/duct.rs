//! A duct along its length: wall temperature against the dew point of what it carries.

use super::{SIZE, air, spread, t};
use crate::case::Case;
use crate::plot::{Axis, Plot};
use crate::sketch::Sketch;
use hygrothermal::quantity::{AirFlow, ArealMass, Diameter, HeatCapacity, Length, Minutes, ThermalResistance};
use hygrothermal::vent::{Duct, DuctWall, Exhaust};
use language::say;
use notation::unit::{LENGTH, MINUTES, TEMPERATURE};

fn exhaust(c: &Case) -> Option<Exhaust> {
    let wall = DuctWall {
        mass: ArealMass::new(c.given("wall_kg_m2")).ok()?,
        heat: HeatCapacity::new(c.given("wall_c_j_kgk")).ok()?,
        insulation: ThermalResistance::new(c.given("r_m2k_w")).ok()?,
    };
    let duct = Duct {
        diameter: Diameter::new(c.given("diameter_m")).ok()?,
        length: Length::new(c.given("length_m")).ok()?,
        wall,
    };
    let flow = AirFlow::new(c.given("flow_m3_s")).ok()?;
    Exhaust::new(air(c.given("air.t_c"), c.given("air.rh_pct"))?, t(c.given("around_c"))?, flow, duct).ok()
}

/// Wall temperature along the run: at the start, when the fan stops, and in the end.
pub fn along(c: &Case) -> Sketch {
    let length = c.given("length_m");
    let dew = air(c.given("air.t_c"), c.given("air.rh_pct"))
        .and_then(|a| a.dew_point())
        .map_or(f64::NAN, hygrothermal::quantity::Temperature::get);
    let (warm, cold) = (c.given("air.t_c"), c.given("around_c"));
    // Room above the warmest wall for the duct itself and its words.
    let values = [warm, cold, dew, warm + 0.2 * (warm - cold).abs()];
    let x =
        Axis { name: say!("along the duct"), kind: &LENGTH, low: 0.0, high: if length > 0.0 { length } else { 1.0 } };
    let y = Axis::around(say!("wall temperature"), &TEMPERATURE, values, 10.0);
    let mut plot = Plot::new(say!("Wall temperature along the duct"), SIZE, x, y, c.units);
    let ((low, high), bottom) = (plot.x_span(), plot.y_span().0);
    plot.area("wet", [(low, bottom), (high, bottom), (high, dew), (low, dew)]);
    plot.level("dew", dew, say!("dew point {dew}", dew = TEMPERATURE.text(dew, c.units)));
    plot.level("drop", c.given("around_c"), say!("around it, and the wall at the start"));
    let Some((exhaust, minutes)) = exhaust(c).zip(Minutes::new(c.given("minutes")).ok()) else { return plot.sketch };
    plot.line("faint", spread(0.0, 1.0, 60).map(|s| (s * length, exhaust.steady_wall(s))));
    let course = exhaust.run(minutes);
    let slices = course.wall.len() as f64;
    let wall: Vec<_> = course.wall.iter().enumerate().map(|(i, t)| ((i as f64 + 0.5) / slices * length, *t)).collect();
    let outlet = wall.last().copied();
    shell(&mut plot, &wall, dew, length);
    plot.line("main", wall);
    if let Some(outlet) = outlet {
        plot.point("point", outlet, say!("outlet after {minutes}", minutes = MINUTES.text(minutes.get(), c.units)));
    }
    plot.sketch
}

/// The duct itself along the top: filled where its wall is wet when the fan stops.
fn shell(plot: &mut Plot, wall: &[(f64, f64)], dew: f64, length: f64) {
    let (bottom, top) = plot.y_span();
    let low = top - 0.07 * (top - bottom);
    // The wall cools along the run, so what is wet is its far end.
    let dry = wall.iter().filter(|(_, t)| *t > dew).count() as f64 / wall.len().max(1) as f64 * length;
    plot.area("layer-b", [(0.0, low), (length, low), (length, top), (0.0, top)]);
    plot.area("bar", [(dry, low), (length, low), (length, top), (dry, top)]);
    let (px, py) = plot.at(0.0, low);
    let words = match dry / length {
        share if share >= 1.0 => say!("the duct is dry when the fan stops"),
        share if share <= 0.0 => say!("the whole duct is wet when the fan stops"),
        _ => say!("the filled part of the duct is wet when the fan stops"),
    };
    plot.sketch.text("word", (px + 8.0, py + 17.0), crate::sketch::Anchor::Start, words);
}

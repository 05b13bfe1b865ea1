//! Curves: over time, over humidity, over temperature.

use super::{SIZE, air, spread, t};
use crate::case::Case;
use crate::plot::{Axis, Plot};
use crate::sketch::Sketch;
use hygrothermal::air::saturation_pressure;
use hygrothermal::drying::drying_fit;
use hygrothermal::machine::relative_capacity;
use hygrothermal::mold::{Decline, Sensitivity, course};
use hygrothermal::quantity::{
    AirFlow, Days, Hours, MoistureContent, MoldIndex, RelativeHumidity, Temperature, Volume, WaterFlow,
};
use hygrothermal::space::Budget;
use hygrothermal::wood::equilibrium_moisture;
use judgment::limits::Limited;
use language::{known, say};
use notation::unit::{DAILY, DAYS, FRACTION, HOURS, PERCENT, TEMPERATURE};

/// Humidity of a space as the hours go by.
pub fn budget(c: &Case) -> Sketch {
    let hours = c.given("hours").max(c.got_if("hours_to_dew").unwrap_or(0.0).min(4.0 * c.given("hours")) * 1.1);
    let wet = t(c.given("surface_c"))
        .zip(t(c.given("t_c")))
        .map_or(f64::NAN, |(s, room)| 100.0 * saturation_pressure(s) / saturation_pressure(room));
    let curve = budget_of(c).map_or_else(Vec::new, |b| {
        spread(0.0, hours, 200).filter_map(|h| Some((h, b.rh_after(Hours::new(h).ok()?)))).collect::<Vec<_>>()
    });
    let values = curve.iter().map(|p| p.1).chain([wet.min(130.0)]);
    let y = Axis::around(say!("relative humidity"), &PERCENT, values, 30.0);
    let x = Axis { name: say!("time"), kind: &HOURS, low: 0.0, high: hours.max(0.1) };
    let mut plot = Plot::new(say!("Humidity over time"), SIZE, x, y, c.units);
    let ((low, high), top) = (plot.x_span(), plot.y_span().1);
    if wet < top {
        plot.area("wet", [(low, wet), (high, wet), (high, top), (low, top)]);
    }
    plot.level("dew", wet, say!("coldest surface wet from {wet}", wet = PERCENT.text(wet, c.units)));
    if let Some(steady) = c.got_if("steady_rh_pct") {
        plot.level("drop", steady, say!("in the long run"));
    }
    plot.line("main", curve);
    if let Some(at) = c.got_if("hours_to_dew").filter(|h| *h > 0.0) {
        plot.upright("drop", at, say!("wet after {time}", time = HOURS.text(at, c.units)));
    }
    plot.point("point", (c.given("hours"), c.got("end_rh_pct")), PERCENT.text(c.got("end_rh_pct"), c.units));
    plot.sketch
}

fn budget_of(c: &Case) -> Option<Budget> {
    Some(Budget {
        volume: Volume::new(c.given("volume_m3")).ok()?,
        start: air(c.given("t_c"), c.given("start_rh_pct"))?,
        outdoor: air(c.given("outdoor.t_c"), c.given("outdoor.rh_pct"))?,
        flow: AirFlow::new(c.given("flow_m3_s")).ok()?,
        source: WaterFlow::new(c.given("source_kg_s")).ok()?,
    })
}

/// Mold index over the days.
pub fn mold(c: &Case) -> Sketch {
    let hours: Vec<(Temperature, RelativeHumidity)> = c
        .pairs("hours")
        .into_iter()
        .filter_map(|(celsius, rh)| Some((t(celsius)?, RelativeHumidity::new(rh).ok()?)))
        .collect();
    let class = c.request.get("class").and_then(|v| v.as_str()).unwrap_or_default();
    let class = Sensitivity::ALL.into_iter().find(|s| s.id() == class).unwrap_or(Sensitivity::Sensitive);
    let start = MoldIndex::new(c.given_if("start").unwrap_or(0.0)).unwrap_or(MoldIndex::CLEAN);
    let decline = c.given_if("decline").and_then(Decline::new).unwrap_or(Decline::ASHRAE_160);
    let mut points = vec![(0.0, start.get())];
    // At most some hundred points are drawn, however long the series is.
    let every = (hours.len() / 600).max(1);
    let last = hours.len().saturating_sub(1);
    let drawn = course(&hours, class, start, decline, |hour, index| {
        if hour % every == 0 || hour == last {
            points.push(((hour + 1) as f64 / 24.0, index));
        }
    });
    let x = Axis { name: say!("time"), kind: &DAYS, low: 0.0, high: (hours.len() as f64 / 24.0).max(0.1) };
    let y = Axis { name: say!("mold index"), kind: &FRACTION, low: 0.0, high: 6.0 };
    let mut plot = Plot::new(say!("Mold index over time"), SIZE, x, y, c.units);
    let (low, high) = plot.x_span();
    plot.area("risk", [(low, 3.0), (high, 3.0), (high, 6.0), (low, 6.0)]);
    plot.level("dew", 3.0, say!("unacceptable from 3"));
    plot.level("drop", 1.0, say!("first growth under the microscope at 1"));
    if drawn.is_ok() {
        plot.line("main", points);
        plot.point("point", (high, c.got("end")), FRACTION.figure(c.got("end"), c.units));
    }
    plot.sketch
}

/// Equilibrium moisture over humidity at this temperature.
pub fn emc(c: &Case) -> Sketch {
    let x = Axis { name: say!("relative humidity"), kind: &PERCENT, low: 0.0, high: 100.0 };
    let y = Axis { name: say!("moisture content"), kind: &PERCENT, low: 0.0, high: 30.0 };
    let label = say!("Moisture content over humidity at {given}", given = TEMPERATURE.text(c.given("t_c"), c.units));
    let mut plot = Plot::new(label, SIZE, x, y, c.units);
    let (goal, wet) = (c.limits.percent(Limited::WoodGoal), c.limits.percent(Limited::WoodWet));
    plot.area("risk", [(0.0, wet), (100.0, wet), (100.0, 30.0), (0.0, 30.0)]);
    plot.level("drop", goal, c.limits.fill(known("close in below {wood_goal} %")));
    plot.level("dew", wet, c.limits.fill(known("wet from {wood_wet} %")));
    let at = |rh: f64| Some((rh, equilibrium_moisture(t(c.given("t_c"))?, RelativeHumidity::new(rh).ok()?).ok()?));
    plot.line("main", spread(0.0, 100.0, 200).filter_map(at));
    let (rh, emc) = (c.given("rh_pct"), c.got("emc_pct"));
    plot.line("drop", [(rh, 0.0), (rh, emc), (0.0, emc)]);
    plot.point("point", (rh, emc), PERCENT.text(emc, c.units));
    plot.sketch
}

/// Readings, the curve through them and the day of the goal.
pub fn drying(c: &Case) -> Sketch {
    let readings = c.pairs("readings");
    let typed: Vec<_> =
        readings.iter().filter_map(|&(day, mc)| Some((Days::new(day).ok()?, MoistureContent::new(mc).ok()?))).collect();
    let fit = MoistureContent::new(c.given("equilibrium_pct")).ok().and_then(|e| drying_fit(&typed, e).ok());
    let last = readings.iter().map(|r| r.0).fold(1.0, f64::max);
    let late = c.got_if("day_high").or(c.got_if("day_of_goal")).unwrap_or(last).clamp(last, 4.0 * last);
    let (goal, dry) = (c.given("goal_pct"), c.given("equilibrium_pct"));
    let y = Axis::around(say!("moisture content"), &PERCENT, readings.iter().map(|r| r.1).chain([goal, dry]), 6.0);
    let x = Axis { name: say!("time"), kind: &DAYS, low: 0.0, high: 1.12 * late };
    let mut plot = Plot::new(say!("Moisture content over time"), SIZE, x, y, c.units);
    let (bottom, top) = plot.y_span();
    if let Some((low, high)) = c.got_if("day_low").zip(c.got_if("day_high")) {
        plot.area("band", [(low, bottom), (high, bottom), (high, top), (low, top)]);
    }
    plot.level("drop", dry, say!("dry standard"));
    plot.level("dew", goal, say!("goal"));
    if let Some(fit) = fit {
        let end = plot.x_span().1;
        plot.line("main", spread(0.0, end, 200).map(|day| (day, fit.moisture(day))));
    }
    for reading in readings {
        let at = plot.at(reading.0, reading.1);
        plot.sketch.dot("open", at);
    }
    if let Some(day) = c.got_if("day_of_goal") {
        plot.point("point", (day, goal), say!("day {day}", day = DAYS.figure(day, c.units)));
    }
    plot.sketch
}

/// Capacity over temperature at this humidity.
pub fn dehumidifier(c: &Case) -> Sketch {
    let (here, capacity) = (c.given("t_c"), c.got("capacity_l_day"));
    let rated = t(c.given_if("rated_t_c").unwrap_or(18.3))
        .zip(RelativeHumidity::new(c.given_if("rated_rh_pct").unwrap_or(60.0)).ok())
        .map_or(f64::NAN, |(t, rh)| relative_capacity(t, rh));
    let rh = RelativeHumidity::new(c.given("rh_pct")).ok();
    let at = |celsius: f64| Some((celsius, c.given("rated_l_day") * relative_capacity(t(celsius)?, rh?) / rated));
    let curve: Vec<_> = spread(5.0, 35.0, 120).filter_map(at).collect();
    let load = c.given_if("load_l_day");
    let most = curve.iter().map(|p| p.1).chain(load).chain([capacity]).filter(|y| y.is_finite()).fold(1.0, f64::max);
    let x =
        Axis { name: say!("air temperature"), kind: &TEMPERATURE, low: 5.0_f64.min(here), high: 35.0_f64.max(here) };
    let y = Axis { name: say!("capacity"), kind: &DAILY, low: 0.0, high: 1.15 * most };
    let mut plot = Plot::new(say!("Capacity over temperature"), SIZE, x, y, c.units);
    let (low, top) = (plot.x_span().0, plot.y_span().1);
    plot.area("cold", [(low, 0.0), (18.0, 0.0), (18.0, top), (low, top)]);
    let (px, py) = plot.at(low, top);
    plot.sketch.text("word", (px + 8.0, py + 16.0), crate::sketch::Anchor::Start, say!("a standard coil frosts"));
    if let Some(load) = load {
        plot.level("dew", load, say!("to take out"));
    }
    plot.line("main", curve);
    plot.point("point", (here, capacity), DAILY.text(capacity, c.units));
    plot.sketch
}

/// Readings against references and the line through them.
pub fn calibration(c: &Case) -> Sketch {
    let x = Axis { name: say!("it shows"), kind: &PERCENT, low: 0.0, high: 100.0 };
    let y = Axis { name: say!("true humidity"), kind: &PERCENT, low: 0.0, high: 100.0 };
    let mut plot = Plot::new(say!("Reference against reading"), SIZE, x, y, c.units);
    plot.line("drop", [(0.0, 0.0), (100.0, 100.0)]);
    let (slope, offset) = (c.got("slope"), c.got("offset"));
    plot.line("main", spread(0.0, 100.0, 200).map(|read| (read, slope * read + offset)));
    for (reference, read) in c.pairs("points") {
        plot.point(
            "point",
            (read, reference),
            say!(
                "{read} for {reference}",
                read = PERCENT.text(read, c.units),
                reference = PERCENT.text(reference, c.units)
            ),
        );
    }
    plot.sketch
}

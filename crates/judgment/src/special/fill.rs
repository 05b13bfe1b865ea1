//! Filling the empty cavity of an old wall.

use super::{Given, Mark, Reply, Told, Where};
use crate::construction::around;
use crate::plan::Measure;
use building::construction::{Construction, Substance, Variant};
use hygrothermal::buildup::{Month, Sides, leakage_condensate};
use hygrothermal::quantity::AirFlow;

/// Potential after filling must be so many times what comes in (ours).
const TIMES: f64 = 2.0;
/// Vapor in a cubic meter for each Pa and kelvin, J/(kg·K).
const GAS: f64 = 461.5;

/// What a plane dries in a year, and what leaking air leaves there, g/m².
struct Plane {
    dries: f64,
    leaks: f64,
}

/// The plane outside of a course over the year; with a cavity that air moves through it dries that way too.
fn plane(
    built: &Construction,
    interface: usize,
    months: &[Month; 12],
    cavity: Option<(f64, f64)>,
    leak: AirFlow,
) -> Plane {
    let mut out = Plane { dries: 0.0, leaks: 0.0 };
    for month in months {
        let profile = built.between.profile(&month.sides);
        let at = &profile.interfaces[interface];
        let by_air = cavity.map_or(0.0, |(width, changes)| {
            let Sides { outside, .. } = month.sides;
            let kelvin = at.temperature.get() + 273.15;
            let more = (at.sat - outside.vapor_pressure()).max(0.0) / (GAS * kelvin);
            1000.0 * more * width * changes * 24.0
        });
        let diffuses = built.between.drying(interface, &month.sides).map_or(0.0, hygrothermal::buildup::Drying::sum);
        let days = month.days.get();
        out.dries += (diffuses + by_air).max(0.0) * days;
        out.leaks += leakage_condensate(&month.sides.inside, at.temperature, leak) * days;
    }
    out
}

pub fn answer(given: &Given, at: Where) -> Option<Reply> {
    let none = || Reply { outcome: "no_cavity", options: Vec::new(), figures: [].into() };
    let Some((boundary, variant)) = at.of else { return Some(none()) };
    let is_fill = |s: Substance| s.family() == "insulation" || s.family() == "fiber";
    let gap = variant.courses.iter().position(|c| c.of == Substance::ClosedGap);
    let full = || {
        let fills = variant.courses.iter().enumerate().filter(|(_, c)| is_fill(c.of));
        fills.max_by(|a, b| a.1.thickness_m.total_cmp(&b.1.thickness_m)).map(|(i, _)| i)
    };
    let Some(course) = gap.or_else(full) else { return Some(none()) };
    let fill = Substance::from_id(given.word("fill"))?;
    let with = |of: Substance| {
        let mut courses = variant.courses.clone();
        courses[course].of = of;
        at.building.stock().construct(&Variant { courses, ..variant.clone() }, boundary.face).ok()
    };
    let empty = with(Substance::ClosedGap)?;
    let filled =
        if gap.is_some() { with(fill)? } else { at.building.stock().construct(variant, boundary.face).ok()? };
    let months = around(at.building, boundary, at.class).months(at.outdoors)?;
    let leak = AirFlow::new(given.get("leak") / 1000.0 / 100.0).ok()?;
    let width = variant.courses[course].thickness_m;
    let before = plane(&empty, course + 1, &months, Some((width, given.get("air_changes"))), leak);
    let after = plane(&filled, course + 1, &months, None, leak);
    // Behind a drained, vented cavity no rain arrives: the gate is green.
    let gate = !filled.beyond.is_empty();
    let rain = if gate { 0.0 } else { given.get("rain") * given.get("let_in") / 100.0 * 1000.0 };
    let row = |id, built: &Construction, p: &Plane| {
        let comes = rain + p.leaks;
        let mark = if p.dries >= TIMES * comes { Mark::Dry } else { Mark::Wet };
        Told { id, mark, figures: vec![Some(p.dries), Some(comes), Some(1.0 / built.combined.resistance())] }
    };
    let options = vec![row("empty", &empty, &before), row("filled", &filled, &after)];
    let outcome = match (gate, options[1].mark) {
        (true, Mark::Dry) => "fill_gate",
        (true, _) => "leak_first",
        (false, Mark::Dry) => "fill",
        (false, _) => "leave_empty",
    };
    let figures = [("dries", (Measure::Gain, after.dries)), ("comes_in", (Measure::Gain, rain + after.leaks))];
    Some(Reply { outcome, options, figures: figures.into() })
}

//! Questions people ask before they build, and their answers, in a person's units.

use crate::plan::kind_of;
use casework::special::Known;
use judgment::plan::Measure;
use judgment::special::{Outcome, Reply, Special};
use language::{known_of, say};
use notation::Show;

/// A figure with its unit.
#[must_use]
pub fn figure(show: &Show, measure: Measure, x: f64) -> String {
    match measure {
        Measure::Gain if x.abs() >= 1000.0 => format!("{} L/m²", notation::number::fixed(x / 1000.0, 1)),
        Measure::Difference => show.difference(x),
        Measure::Temperature => show.temperature(x),
        Measure::Percent => show.percent(x),
        _ => kind_of(measure).text(x, show.units),
    }
}

/// The outcome of an answer.
#[must_use]
pub fn outcome(asked: &'static Special, reply: &Reply) -> Option<&'static Outcome> {
    asked.outcome.iter().find(|o| o.id == reply.outcome)
}

/// Why, and what to do, its figures written in.
#[must_use]
pub fn text(show: &Show, outcome: &Outcome, reply: &Reply) -> String {
    let write = |text: String, (name, (measure, x)): (&&str, &(Measure, f64))| {
        text.replace(&format!("{{{name}}}"), &figure(show, *measure, *x))
    };
    reply.figures.iter().fold(known_of(&outcome.text), write)
}

/// Where a figure that nobody typed comes from.
#[must_use]
pub fn source(known: &Known) -> String {
    match known {
        Known::Read(space) => say!("read in {space}", space),
        Known::Job => say!("the job’s coldest night").into(),
        Known::Climate => say!("the climate’s typical year").into(),
        Known::Measured(space) => say!("dimensions of {space}", space),
    }
}

//! What every report says: what changed since the one before, what its words of certainty mean, and where its limits are.

use crate::page_one::PageOne;
use crate::plan::PlanReport;
use language::say;
use serde::{Deserialize, Serialize};

/// What words and figures of certainty mean in a report.
pub const CERTAINTY: [(&str, &str); 7] = [
    (
        "±",
        "How far a figure may be off: the stated accuracy of the instruments, after their last check, carried through the \
        arithmetic to first order.",
    ),
    ("condensing", "The surface stood at or under the dew point of its air, by more than the figures may be off."),
    ("dry", "It stood above the dew point, with less than 80 % relative humidity at the surface, the band included."),
    ("mold risk", "80 % relative humidity or more at the surface, though no water yet."),
    ("can’t tell", "The band holds both: the instruments are not good enough to say."),
    (
        "share",
        "How what was found, tested and read divides between the causes weighed. It is an argument, not the chance of damage.",
    ),
    ("likely active", "How believable it is that a cause is at work here, whatever else is."),
];

/// Where every report ends.
pub const LIMITS: [&str; 3] = [
    "Readings hold for the hour they were taken in; other weather and other habits give others.",
    "Nothing was opened up, moved or taken apart unless it is said above. What was not inspected may hide more.",
    "Thermal and humidity readings are indications, not proof.",
];

/// What a fact is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum About {
    /// What is wrong.
    Wrong,
    /// A surface and its verdict.
    Surface,
    /// A step of the plan and how it stands.
    Step,
    /// What all of it costs.
    Cost,
}

/// Something a version said, by which the next one tells what changed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Fact {
    /// What it is about.
    pub about: About,
    /// Which.
    pub name: String,
    /// How it stands.
    pub value: String,
}

/// What a report says, for the one after it. `surfaces` have their names and verdicts.
#[must_use]
pub fn facts(one: &PageOne, plan: &PlanReport, surfaces: impl Iterator<Item = (String, String)>) -> Vec<Fact> {
    let fact = |about, name: String, value: String| Fact { about, name, value };
    let wrong = one.wrong.iter().map(|(head, _)| head.trim_end_matches(['.', ':'])).collect::<Vec<_>>().join("; ");
    let step = |s: &crate::plan::ReportStep| {
        let d = &s.detail;
        let stands = match &d.done {
            Some(_) if d.proof.is_empty() => say!("done"),
            Some(_) => say!("done and proven"),
            None if d.open || !d.overridden.is_empty() => say!("may be done now"),
            None => say!("waits"),
        };
        fact(About::Step, d.name.to_owned(), stands.to_owned())
    };
    let mut all = vec![fact(About::Wrong, String::new(), wrong)];
    all.extend(surfaces.map(|(name, verdict)| fact(About::Surface, name, verdict)));
    all.extend(plan.steps.iter().map(step));
    all.push(fact(About::Cost, String::new(), plan.total.clone()));
    all
}

/// What is different from one report to the next, a line each.
#[must_use]
pub fn changes(before: &[Fact], now: &[Fact]) -> Vec<String> {
    let same = |f: &Fact, all: &[Fact]| all.iter().find(|b| b.about == f.about && b.name == f.name).cloned();
    let told = |f: &Fact| {
        let was = same(f, before);
        if was.as_ref().is_some_and(|w| w.value == f.value) {
            return None;
        }
        let (name, value) = (&f.name, &f.value);
        Some(match (f.about, was.map(|w| w.value)) {
            (About::Wrong, Some(was)) => say!("What is wrong: “{value}”; before, “{was}”.", value, was),
            (About::Wrong, None) => say!("What is wrong: “{value}”.", value),
            (About::Surface, Some(was)) => say!("{name}: {was} before, {value} now.", name, was, value),
            (About::Surface, None) => say!("{name}: judged for the first time, {value}.", name, value),
            (About::Step, Some(was)) => say!("{name}: {value}; before, {was}.", name, value, was),
            (About::Step, None) => say!("New in the plan: {name}, {value}.", name, value),
            (About::Cost, Some(was)) => say!("Cost of what is left: {value}; before, {was}.", value, was),
            (About::Cost, None) => say!("Cost of what is left: {value}.", value),
        })
    };
    let gone = |b: &&Fact| same(b, now).is_none();
    let lost = |b: &Fact| match b.about {
        About::Surface => Some(say!("{name}: {value} before, not judged now.", name = b.name, value = b.value)),
        About::Step => Some(say!("No longer in the plan: {name}.", name = b.name)),
        About::Wrong | About::Cost => None,
    };
    now.iter().filter_map(told).chain(before.iter().filter(gone).filter_map(lost)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fact(about: About, name: &str, value: &str) -> Fact {
        Fact { about, name: name.into(), value: value.into() }
    }

    #[test]
    fn a_version_tells_what_is_new_what_changed_and_what_is_gone_and_nothing_else() {
        let before = [
            fact(About::Wrong, "", "Wet soil"),
            fact(About::Surface, "Rim joist", "condensing"),
            fact(About::Surface, "Sill", "dry"),
            fact(About::Step, "Cover the soil", "may be done now"),
            fact(About::Step, "Close the vents", "waits"),
        ];
        let now = [
            fact(About::Wrong, "", "Wet soil"),
            fact(About::Surface, "Rim joist", "dry"),
            fact(About::Surface, "Pipe", "condensing"),
            fact(About::Step, "Cover the soil", "done and proven"),
            fact(About::Step, "Dehumidify", "waits"),
        ];
        let expected = [
            "Rim joist: condensing before, dry now.",
            "Pipe: judged for the first time, condensing.",
            "Cover the soil: done and proven; before, may be done now.",
            "New in the plan: Dehumidify, waits.",
            "Sill: dry before, not judged now.",
            "No longer in the plan: Close the vents.",
        ];
        assert_eq!(changes(&before, &now), expected);
        assert!(changes(&now, &now).is_empty());
    }
}

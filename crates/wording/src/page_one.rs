//! The first page of a report: what is wrong, how sure, what to do first, what it costs and what can hurt.

use crate::argument::Argument;
use crate::plan::{PlanReport, StageRow};
use judgment::cautions::LOCAL_CODE;
use language::say;

/// Most causes named with how sure they are.
const MOST_CAUSES: usize = 3;
/// Most steps said to come first.
const MOST_STEPS: usize = 5;
/// Most cautions said here; all of them stand further on.
const MOST_CAUTIONS: usize = 5;

/// The first page of a report.
pub struct PageOne {
    /// What is wrong, in a sentence or two; the consultant's own conclusion where one was drawn.
    pub wrong: Vec<(String, String)>,
    /// How sure: a cause, its share of the belief, and how likely it is active.
    pub sure: Vec<(&'static str, String, String)>,
    /// The most useful next test where it is not sure enough.
    pub next: Option<&'static str>,
    /// What to do first.
    pub first: Vec<FirstStep>,
    /// How many more may be done now.
    pub more: usize,
    /// How many wait for a measurement.
    pub waiting: usize,
    /// What it costs, by priority, and altogether.
    pub stages: Vec<StageRow>,
    /// Altogether.
    pub total: String,
    /// What can hurt: red flags, then what the first steps bring with them.
    pub cautions: Vec<&'static str>,
}

/// A step that may be done now.
pub struct FirstStep {
    /// Its name.
    pub name: &'static str,
    /// Who does it.
    pub who: &'static str,
    /// What it costs.
    pub cost: String,
}

impl PageOne {
    /// From the argument, the consultant's conclusions (a place, or nothing for the whole building, and the words), and the
    /// plan.
    #[must_use]
    pub fn of(argument: &Argument, own: &[(String, String)], plan: &PlanReport) -> Self {
        let computed = || vec![(argument.head.clone(), argument.text.clone())];
        let concluded = |(place, said): &(String, String)| {
            let whose =
                if place.is_empty() { say!("The consultant’s conclusion:").into() } else { format!("{place}:") };
            (whose, said.clone())
        };
        let left = || plan.steps.iter().filter(|s| s.detail.done.is_none());
        let may = |s: &&crate::plan::ReportStep| s.detail.open || !s.detail.overridden.is_empty();
        let first: Vec<_> = left().filter(may).take(MOST_STEPS).collect();
        let mut cautions: Vec<&'static str> = argument.flags.clone();
        for text in first.iter().flat_map(|s| &s.detail.cautions).filter(|c| **c != LOCAL_CODE) {
            if !cautions.contains(text) {
                cautions.push(text);
            }
        }
        cautions.truncate(argument.flags.len().max(MOST_CAUTIONS));
        let able = left().filter(may).count();
        Self {
            wrong: if own.is_empty() { computed() } else { own.iter().map(concluded).collect() },
            sure: argument.causes.iter().take(MOST_CAUSES).map(|c| (c.name, c.share.clone(), c.acts.clone())).collect(),
            next: argument.next.first().map(|t| t.name),
            more: able - first.len(),
            waiting: left().count() - able,
            first: first
                .iter()
                .map(|s| FirstStep { name: s.detail.name, who: s.detail.who, cost: s.detail.total.clone() })
                .collect(),
            stages: plan.stages.clone(),
            total: plan.total.clone(),
            cautions,
        }
    }
}

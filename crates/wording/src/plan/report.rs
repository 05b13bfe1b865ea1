//! A plan as a report tells it.

use super::amount::{CostRow, cost_row};
use super::detail::{StepDetail, detail};
use super::rows::{QuestionRow, RefusedRow, StageRow, headline, question_row, refused, said, stage_of, stages};
use casework::plan::Planned;
use judgment::plan::{Cost, CostLine, Sizing, Step, fix};
use language::known;
use notation::{Show, day};
use store::FollowUpState;

/// The plan as a report tells it.
pub struct PlanReport {
    /// In a sentence.
    pub headline: String,
    /// Steps.
    pub steps: Vec<ReportStep>,
    /// Everything still to be bought and done, added up.
    pub materials: Vec<CostRow>,
    /// Priorities with their sums.
    pub stages: Vec<StageRow>,
    /// Sum.
    pub total: String,
    /// What was left out, and why.
    pub left_out: Vec<(&'static str, String)>,
    /// What is held back, and why.
    pub refused: Vec<RefusedRow>,
    /// Where practice differs.
    pub questions: Vec<QuestionRow>,
    /// Day and name of what is looked at again.
    pub follow_ups: Vec<(String, String)>,
    /// What can hurt.
    pub cautions: Vec<&'static str>,
}

/// A step as a report tells it.
pub struct ReportStep {
    /// Its place in the order.
    pub phase: &'static str,
    /// Everything about it.
    pub detail: StepDetail,
    /// Its priority.
    pub stage: &'static str,
    /// What it waits for.
    pub needs: String,
}

impl PlanReport {
    /// The plan as it stands now. `who` tells who chose a school, and why.
    pub fn of(show: &Show, planned: Planned<'_>, who: impl Fn(&str) -> Option<(String, String)> + Copy) -> Self {
        let undone = |s: &Step| planned.decided(&s.fix.id).is_none_or(|d| d.done_on.is_none());
        let mut all: Vec<CostLine> = Vec::new();
        for line in planned.sized().filter(|(s, _)| undone(s)).flat_map(|(_, (_, c))| &c.lines) {
            match all.iter_mut().find(|l| l.item.id == line.item.id) {
                Some(l) => {
                    l.quantity += line.quantity;
                    l.cents = l.cents.zip(line.cents).map(|(a, b)| a + b);
                }
                None => all.push(line.clone()),
            }
        }
        let (stages, total) = stages(planned);
        let mut cautions: Vec<&'static str> = Vec::new();
        let kinds = planned.file.building.kinds();
        for c in planned.plan.steps.iter().flat_map(|s| s.cautions(&kinds)) {
            if !cautions.contains(&c.text.as_str()) {
                cautions.push(&c.text);
            }
        }
        let step = |(s, sized): (&Step, &(Sizing, Cost))| ReportStep {
            phase: known(s.phase.words()),
            stage: known(stage_of(planned, s).words()),
            needs: said(s).join("; "),
            detail: detail(show, planned, s, sized),
        };
        let left_out = planned.file.decided.steps.iter().filter(|s| !s.left_out.is_empty());
        let left_out = left_out.filter_map(|s| Some((fix(&s.fix)?.name.as_str(), s.left_out.clone())));
        let open = planned.file.decided.follow_ups.iter().filter(|f| f.state == FollowUpState::Open);
        Self {
            headline: headline(planned),
            steps: planned.sized().map(step).collect(),
            materials: all.iter().map(|l| cost_row(show, l, planned.currency())).collect(),
            stages,
            total,
            left_out: left_out.collect(),
            refused: refused(planned),
            questions: planned.asked().iter().map(|(q, b)| question_row(show, planned, q, b.as_ref(), who)).collect(),
            follow_ups: open.map(|f| (day(f.due_on), f.name.clone())).collect(),
            cautions,
        }
    }
}

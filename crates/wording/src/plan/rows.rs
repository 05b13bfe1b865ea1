//! A plan as a list: its steps by phase, its stages with their sums, what is held back, and where practice differs.

use super::amount::{figure, sum};
use crate::argument::{cause_name, lower};
use casework::plan::{ChosenBy, Planned};
use judgment::plan::{BothSides, Cost, Phase, Question, Refused, Stage, Step, Total, fix};
use language::{known, retold, say};
use notation::{Show, day};

/// A step in the list.
pub struct StepRow {
    /// Its number.
    pub number: usize,
    /// Id.
    pub id: &'static str,
    /// Name.
    pub name: &'static str,
    /// Whether it may be done.
    pub open: bool,
    /// What it waits for.
    pub needs: Vec<String>,
    /// Why somebody let it through all the same.
    pub overridden: String,
    /// Day it was done.
    pub done: Option<String>,
    /// Its priority.
    pub stage: &'static str,
    /// Who does it.
    pub who: &'static str,
    /// What it costs.
    pub cost: String,
    /// Whether it is the one in view.
    pub chosen: bool,
}

/// Steps of one phase.
pub struct PhaseRows {
    /// Name.
    pub name: &'static str,
    /// Steps.
    pub steps: Vec<StepRow>,
}

/// A stage with its steps and sum.
#[derive(Clone)]
pub struct StageRow {
    /// Name.
    pub name: &'static str,
    /// Steps.
    pub steps: Vec<&'static str>,
    /// Sum.
    pub sum: String,
}

/// A question with its sides.
pub struct QuestionRow {
    /// Id.
    pub id: &'static str,
    /// Name.
    pub name: &'static str,
    /// Causes it answers.
    pub because: &'static str,
    /// Approaches.
    pub sides: Vec<SideRow>,
    /// What the figures rest on.
    pub basis: String,
    /// Who settled it, in words.
    pub by: String,
    /// Why.
    pub reason: String,
}

/// A school with what it comes to here.
pub struct SideRow {
    /// Id.
    pub id: &'static str,
    /// Name.
    pub name: &'static str,
    /// What it says.
    pub says: &'static str,
    /// Figures.
    pub figures: Vec<(String, String)>,
    /// Whether it is the one in view.
    pub chosen: bool,
    /// Whether the figures point here.
    pub points_here: bool,
}

/// What the rules forbid now.
pub struct RefusedRow {
    /// Names.
    pub names: String,
    /// Why it counts.
    pub why: String,
}

/// The stage a step is in.
pub fn stage_of(planned: Planned<'_>, step: &Step) -> Stage {
    planned.decided(&step.fix.id).and_then(|s| Stage::from_id(s.stage.as_deref()?)).unwrap_or(step.fix.stage)
}

/// Phases with their steps, in order.
pub fn phases(planned: Planned<'_>, wanted: Option<&str>) -> Vec<PhaseRows> {
    let currency = planned.currency();
    let mut out: Vec<(Phase, PhaseRows)> = Vec::new();
    for (i, (step, (_, cost))) in planned.sized().enumerate() {
        let own = planned.decided(&step.fix.id);
        let row = StepRow {
            number: i + 1,
            id: &step.fix.id,
            name: known(&step.fix.name),
            open: step.is_open(),
            needs: said(step),
            overridden: own.map(|s| s.override_reason.clone()).unwrap_or_default(),
            done: own.and_then(|s| s.done_on).map(day),
            stage: known(stage_of(planned, step).words()),
            who: known(step.who.words()),
            cost: sum(cost.total(), currency),
            chosen: wanted == Some(step.fix.id.as_str()),
        };
        match out.last_mut() {
            Some((phase, rows)) if *phase == step.phase => rows.steps.push(row),
            _ => out.push((step.phase, PhaseRows { name: known(step.phase.words()), steps: vec![row] })),
        }
    }
    out.into_iter().map(|(_, rows)| rows).collect()
}

/// What a step waits for, each once.
pub(super) fn said(step: &Step) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    for text in step.unmet.iter().flat_map(|u| &u.says).map(|t| retold(t)) {
        if !out.contains(&text) {
            out.push(text);
        }
    }
    out
}

/// Stages with their sums, of what is still to be done; those without steps too, so that the three stand side by side.
pub fn stages(planned: Planned<'_>) -> (Vec<StageRow>, String) {
    let currency = planned.currency();
    let undone = |s: &Step| planned.decided(&s.fix.id).is_none_or(|d| d.done_on.is_none());
    let open = || planned.sized().map(|(s, (_, cost))| (s, cost)).filter(|(s, _)| undone(s));
    let row = |stage: &Stage| {
        let own: Vec<(&Step, &Cost)> = open().filter(|(s, _)| stage_of(planned, s) == *stage).collect();
        let total = own.iter().map(|(_, c)| c.total()).fold(Total::default(), |a, b| a + b);
        StageRow {
            name: known(stage.words()),
            steps: own.iter().map(|(s, _)| known(&s.fix.name)).collect(),
            sum: sum(total, currency),
        }
    };
    let all = open().map(|(_, c)| c.total()).fold(Total::default(), |a, b| a + b);
    (Stage::ALL.iter().map(row).collect(), sum(all, currency))
}

/// What is refused, the same reasons together; those of the plan's own closed steps are said there. Only what somebody would
/// think of for this building: what answers nothing here, or is done in a space it lacks, needs no refusing.
pub fn refused(planned: Planned<'_>) -> Vec<RefusedRow> {
    let mut out: Vec<(String, Vec<&str>)> = Vec::new();
    let spaces = planned.file.building.kinds();
    let here =
        |r: &&Refused| r.thought_of && (r.fix.at.is_empty() || r.fix.at.iter().any(|kind| spaces.contains(kind)));
    for r in planned.plan.refused.iter().filter(|r| planned.plan.step(&r.fix.id).is_none()).filter(here) {
        match out.iter_mut().find(|(why, _)| *why == r.why) {
            Some((_, names)) => names.push(known(&r.fix.name)),
            None => out.push((r.why.clone(), vec![known(&r.fix.name)])),
        }
    }
    out.into_iter().map(|(why, names)| RefusedRow { names: names.join(" · "), why: retold(&why) }).collect()
}

/// A question in words.
pub fn question_row(
    show: &Show,
    planned: Planned<'_>,
    question: &'static Question,
    both: Option<&BothSides>,
    who: impl Fn(&str) -> Option<(String, String)>,
) -> QuestionRow {
    let chosen = planned.choices.get(&question.id);
    let side = |s: &'static judgment::plan::School| {
        let computed = both.and_then(|b| b.sides.iter().find(|x| x.school == s.id));
        SideRow {
            id: &s.id,
            name: known(&s.name),
            says: &s.says,
            figures: computed.map(|c| c.figures.iter().map(|f| figure(show, f)).collect()).unwrap_or_default(),
            chosen: chosen == Some(s.id.as_str()),
            points_here: both.and_then(|b| b.points_to) == Some(s.id.as_str()),
        }
    };
    let (name, reason) = who(&question.id).unwrap_or_default();
    QuestionRow {
        id: &question.id,
        name: known(&question.name),
        because: &question.because,
        sides: question.schools.iter().map(side).collect(),
        basis: both.map(|b| retold(&b.basis)).unwrap_or_default(),
        by: match planned.chosen_by.get(question.id.as_str()) {
            Some(ChosenBy::Job) => say!("chosen by {name}", name),
            Some(ChosenBy::Practice) => say!("the practice’s way").into(),
            Some(ChosenBy::Figures) => say!("by this building’s figures").into(),
            _ => say!("by default").into(),
        },
        reason,
    }
}

/// What the plan is made against, in a sentence.
pub fn headline(planned: Planned<'_>) -> String {
    let names: Vec<String> = planned.causes.iter().map(|id| lower(cause_name(id))).collect();
    let done = |s: &&Step| planned.decided(&s.fix.id).is_some_and(|d| d.done_on.is_some());
    let through = |s: &&Step| planned.decided(&s.fix.id).is_some_and(|d| !d.override_reason.is_empty());
    let left: Vec<&Step> = planned.plan.steps.iter().filter(|s| !done(s)).collect();
    let open = left.iter().filter(|s| s.is_open() || through(s)).count();
    let closed = left.len() - open;
    let against = match names.as_slice() {
        [] => say!("No cause is named yet, so nothing is planned against one").into(),
        [one] => say!("Against {one}", one),
        [rest @ .., last] => say!("Against {rest} and {last}", rest = rest.join(", "), last),
    };
    let steps = |n: usize| if n == 1 { say!("1 step").to_owned() } else { say!("{n} steps", n) };
    let waits = match closed {
        0 => String::new(),
        1 => say!(", 1 waits for a measurement").into(),
        n => say!(", {n} wait for a measurement", n),
    };
    say!("{against}: {steps} may be done now{waits}.", against, steps = steps(open), waits)
}

/// Whose causes a plan is made against.
pub fn whose(planned: Planned<'_>) -> String {
    let places: Vec<&str> = planned.of_places.iter().map(|(name, _)| name.as_str()).collect();
    match (planned.own, places.is_empty()) {
        (true, true) => say!("The causes are your conclusion.").into(),
        (true, false) => {
            say!("The causes are your conclusions: for the whole building, {places}.", places = places.join(", "))
        }
        (false, true) => say!("The causes are computed; nobody has concluded yet.").into(),
        (false, false) => {
            let many = if places.len() > 1 { "s" } else { "" };
            say!(
                "The causes are computed for the whole building, and your conclusion{many} for {places}.",
                many,
                places = places.join(", ")
            )
        }
    }
}

/// A fix's name.
pub fn fix_name(id: &str) -> &str {
    fix(id).map_or(id, |f| known(&f.name))
}

//! One step of a plan: why it is there, what it waits for, how large it is and what it costs.

use super::amount::{CostRow, cost_row, figure, kind_of, sum};
use super::rows::stage_of;
use crate::argument::{cause_name, lower};
use crate::evidence::Lead;
use casework::CaseFile;
use casework::plan::Planned;
use judgment::cautions::LOCAL_CODE;
use judgment::plan::{Condition, Cost, FigureOrigin, Situation, Sizing, Stage, Step};
use language::{known, retold, say};
use notation::{Show, day};

/// Everything about one step.
pub struct StepDetail {
    /// Id.
    pub id: &'static str,
    /// Name.
    pub name: &'static str,
    /// How it is done.
    pub how: &'static str,
    /// How to verify it.
    pub verify: &'static str,
    /// Who does it.
    pub who: &'static str,
    /// Its place in the order.
    pub phase: &'static str,
    /// Its priority.
    pub stage: Stage,
    /// Causes it answers.
    pub because: Vec<String>,
    /// What was found that calls for it.
    pub found: Vec<String>,
    /// Whether it may be done.
    pub open: bool,
    /// What it waits for.
    pub gates: Vec<GateRow>,
    /// Why somebody let it through without its measurement.
    pub overridden: String,
    /// Day it was done.
    pub done: Option<String>,
    /// What showed that it worked, or did not.
    pub proof: String,
    /// Steps it is put before that open it.
    pub late: Vec<String>,
    /// Figures it rests on.
    pub given: Vec<GivenRow>,
    /// Choices it rests on.
    pub picks: Vec<PickRow>,
    /// What it may show, and what that means.
    pub results: Vec<(String, String)>,
    /// How it is sized.
    pub formula: Vec<&'static str>,
    /// Where the formula comes from.
    pub source: &'static str,
    /// The same sum in the calculator.
    pub link: Option<String>,
    /// What else to know.
    pub notes: Vec<String>,
    /// What it costs, line by line.
    pub costs: Vec<CostRow>,
    /// Sum.
    pub total: String,
    /// What can hurt.
    pub cautions: Vec<&'static str>,
}

/// A gate a step waits at.
pub struct GateRow {
    /// Name.
    pub name: &'static str,
    /// Why it counts.
    pub why: &'static str,
    /// What it says.
    pub says: Vec<String>,
    /// Where it is measured: words and address.
    pub measure: Vec<(&'static str, Lead)>,
}

/// Figures of a sizing, ready for a field or a line.
pub struct GivenRow {
    /// Key in forms.
    pub key: &'static str,
    /// Name.
    pub name: &'static str,
    /// Figure with its unit.
    pub value: String,
    /// Unit.
    pub unit: &'static str,
    /// Where it comes from.
    pub from: String,
    /// Whether somebody typed it.
    pub typed: bool,
}

/// A choice of material.
pub struct PickRow {
    /// Key in forms.
    pub key: &'static str,
    /// Name.
    pub name: &'static str,
    /// Options: id, name, and whether it is chosen.
    pub options: Vec<(&'static str, &'static str, bool)>,
}

/// Everything about one step.
pub fn detail(show: &Show, planned: Planned<'_>, step: &Step, (sizing, cost): &(Sizing, Cost)) -> StepDetail {
    let file = planned.file;
    let own = planned.decided(&step.fix.id);
    let stage = stage_of(planned, step);
    let later = step.after.iter().filter_map(|id| planned.plan.step(id)).filter(|s| stage_of(planned, s) > stage);
    let situation = planned.situation();
    let told = |c: &&'static Condition| match c {
        Condition::Is(id, _) if judgment::plan::question(id).is_some() => None,
        Condition::There(id) => judgment::finding::finding(id).map(|f| known(&f.name).to_owned()),
        other => Some(retold(&other.stands(&situation))),
    };
    StepDetail {
        id: &step.fix.id,
        name: known(&step.fix.name),
        how: known(&step.fix.how),
        verify: &step.fix.verify,
        who: known(step.who.words()),
        phase: known(step.phase.words()),
        stage,
        because: step.because.iter().map(|id| lower(cause_name(id))).collect(),
        found: step.found.iter().filter_map(told).collect(),
        open: step.is_open(),
        gates: gates(file, &situation, step),
        overridden: own.map(|s| s.override_reason.clone()).unwrap_or_default(),
        done: own.and_then(|s| s.done_on).map(day),
        proof: own.map(|s| s.proof.clone()).unwrap_or_default(),
        late: later.map(|s| known(&s.fix.name).to_owned()).collect(),
        given: given(show, sizing),
        picks: picks(sizing),
        results: sizing.found.iter().map(|f| figure(show, f)).collect(),
        formula: sizing.formula.iter().map(|f| known(f)).collect(),
        source: known(sizing.source),
        link: link(show, sizing),
        notes: sizing.notes.iter().map(|n| retold(n)).collect(),
        costs: cost.lines.iter().map(|l| cost_row(show, l, planned.currency())).collect(),
        total: sum(cost.total(), planned.currency()),
        cautions: step.cautions(&file.building.kinds()).iter().map(|c| c.text.as_str()).chain([LOCAL_CODE]).collect(),
    }
}

/// The gates a step waits at, each once, with where their measurements are made.
fn gates(file: &CaseFile, situation: &Situation, step: &Step) -> Vec<GateRow> {
    let mut out: Vec<GateRow> = Vec::new();
    for u in &step.unmet {
        let at = out.iter().position(|g| g.name == known(&u.gate.name)).unwrap_or_else(|| {
            out.push(GateRow {
                name: known(&u.gate.name),
                why: known(&u.gate.why),
                says: Vec::new(),
                measure: Vec::new(),
            });
            out.len() - 1
        });
        let row = &mut out[at];
        let says: Vec<String> = u.says.iter().map(|t| retold(t)).filter(|t| !row.says.contains(t)).collect();
        row.says.extend(says);
        // What shuts it, where something does; else whatever would open it.
        let shut: Vec<&Condition> = u.shut.iter().filter(|c| c.holds(situation)).collect();
        let asked = if shut.is_empty() { u.open.iter().collect() } else { shut };
        for link in asked.into_iter().filter_map(|c| measured_at(file, c)) {
            if !row.measure.contains(&link) {
                row.measure.push(link);
            }
        }
    }
    out
}

/// Where what a condition is about is measured.
fn measured_at(file: &CaseFile, condition: &'static Condition) -> Option<(&'static str, Lead)> {
    let id = condition.about();
    if let Some(test) = judgment::finding::test(id) {
        return Some((known(&test.name), Lead::Test));
    }
    let fits = |f: &&judgment::finding::Finding| f.fits(file.job.structure, &file.building);
    if let Some(finding) = judgment::finding::finding(id).filter(fits) {
        return Some((known(&finding.name), Lead::Look(&finding.id)));
    }
    let figure = matches!(condition, Condition::AtLeast(..) | Condition::Under(..));
    figure.then(|| (known(judgment::plan::figure_name(id).0), Lead::Round))
}

fn given(show: &Show, sizing: &Sizing) -> Vec<GivenRow> {
    let row = |g: &judgment::plan::Given| {
        let kind = kind_of(g.measure);
        GivenRow {
            key: g.key,
            name: known(g.name),
            value: kind.figure(g.value, show.units).replace('−', "-"),
            unit: kind.unit(show.units).name(),
            from: match &g.origin {
                FigureOrigin::Building => say!("as drawn").into(),
                FigureOrigin::Read(place) => say!("read: {place}", place),
                FigureOrigin::Assumed(why) => say!("assumed: {why}", why = retold(why)),
                FigureOrigin::Typed => say!("typed").into(),
            },
            typed: g.origin == FigureOrigin::Typed,
        }
    };
    sizing.given.iter().map(row).collect()
}

fn picks(sizing: &Sizing) -> Vec<PickRow> {
    let row = |p: &judgment::plan::Pick| PickRow {
        key: p.key,
        name: known(p.name),
        options: p.options.iter().map(|(id, name)| (*id, known(name), *id == p.chosen)).collect(),
    };
    sizing.picks.iter().map(row).collect()
}

/// Address of the calculator's page that does the same sum.
fn link(show: &Show, sizing: &Sizing) -> Option<String> {
    let same = sizing.same.as_ref()?;
    calculator::address(same.op, &same.figures, &same.words, show.units)
}

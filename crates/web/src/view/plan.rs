//! A plan in words, figures and links.

use super::argument::{cause_name, lower};
use crate::job_page::JobPage;
use crate::planning::{ChosenBy, Planned};
use building::SpaceKind;
use judgment::cautions::LOCAL_CODE;
use judgment::plan::{
    BothSides, Condition, Cost, Found, Line, Measure, Origin, Phase, Question, Refused, Situation, Sizing, Stage, Step,
    Total, fix,
};
use notation::unit::{self, Kind};
use notation::{Show, day, money};
use store::FollowUpState;
use store::StepDecision;

/// The kind of figure a measure is, for units and fields.
pub fn kind_of(measure: Measure) -> &'static Kind {
    match measure {
        Measure::Area => &unit::AREA,
        Measure::FreeArea => &unit::FREE_AREA,
        Measure::Length => &unit::LENGTH,
        Measure::Thickness => &unit::THICKNESS,
        Measure::Volume => &unit::VOLUME,
        Measure::Temperature => &unit::TEMPERATURE,
        Measure::Percent => &unit::PERCENT,
        Measure::Share => &unit::SHARE,
        Measure::Flow => &unit::FLOW,
        Measure::Daily => &unit::DAILY,
        Measure::Liters => &unit::LITERS,
        Measure::Milliliters => &unit::MILLILITERS,
        Measure::Spread => &unit::SPREAD,
        Measure::Resistance => &unit::RESISTANCE,
        Measure::Conductivity => &unit::CONDUCTIVITY,
        Measure::Pressure => &unit::PRESSURE,
        Measure::Minutes => &unit::MINUTES,
        Measure::Hours => &unit::HOURS,
        Measure::Days => &unit::DAYS,
        Measure::YearlyEnergy => &unit::YEARLY_ENERGY,
        Measure::Efficiency => &unit::EFFICIENCY,
        Measure::Number => &unit::NUMBER,
    }
}

/// How the price book's quantities are shown: the kind of figure, and the factor to its SI.
fn unit_of(item: &judgment::plan::Item) -> Option<&'static Kind> {
    Some(match item.unit.as_str() {
        "m2" => &unit::AREA,
        "m" => &unit::LENGTH,
        "m3" => &unit::VOLUME,
        "l" => &unit::LITERS,
        _ => return None,
    })
}

/// What one price of an item is for, in a person's units.
pub fn priced_for(show: &Show, item: &judgment::plan::Item) -> String {
    match (unit_of(item), item.unit.as_str()) {
        (Some(kind), _) => kind.unit(show.units).name.to_owned(),
        (None, "kwh_year") => "kWh".into(),
        (None, other) => other.to_owned(),
    }
}

/// Hundredths in a person's unit of an item from hundredths in SI, and back by the inverse.
pub fn price_factor(show: &Show, item: &judgment::plan::Item) -> f64 {
    unit_of(item).map_or(1.0, |kind| kind.si(1.0, show.units))
}

/// A sum in words: what it comes to once, each year, and what is not priced.
pub fn sum(total: Total, currency: &str) -> String {
    let mut parts = Vec::new();
    if total.cents > 0 || (total.yearly_cents == 0 && total.unpriced == 0) {
        parts.push(money(total.cents, currency));
    }
    if total.yearly_cents > 0 {
        parts.push(format!("{} a year", money(total.yearly_cents, currency)));
    }
    if total.unpriced > 0 {
        parts.push(format!("{} without a price", total.unpriced));
    }
    parts.join(" + ")
}

/// A step in the list.
pub struct StepRow {
    pub number: usize,
    pub id: &'static str,
    pub name: &'static str,
    pub open: bool,
    /// What it waits for.
    pub needs: Vec<String>,
    /// Why somebody let it through all the same.
    pub overridden: String,
    pub done: Option<String>,
    pub stage: &'static str,
    pub who: &'static str,
    pub cost: String,
    pub chosen: bool,
}

/// Steps of one phase.
pub struct PhaseRows {
    pub name: &'static str,
    pub steps: Vec<StepRow>,
}

/// Figures of a sizing, ready for a field or a line.
pub struct GivenRow {
    pub key: &'static str,
    pub name: &'static str,
    pub value: String,
    pub unit: &'static str,
    pub from: String,
    pub typed: bool,
}

/// A choice of material.
pub struct PickRow {
    pub key: &'static str,
    pub name: &'static str,
    pub options: Vec<(&'static str, &'static str, bool)>,
}

/// A line of what it costs.
pub struct CostRow {
    pub name: &'static str,
    pub quantity: String,
    pub cost: String,
}

/// Everything about one step.
pub struct StepDetail {
    pub id: &'static str,
    pub name: &'static str,
    pub how: &'static str,
    pub verify: &'static str,
    pub who: &'static str,
    pub phase: &'static str,
    pub stage: Stage,
    pub because: Vec<String>,
    pub found: Vec<String>,
    pub open: bool,
    pub gates: Vec<GateRow>,
    /// Why somebody let it through without its measurement.
    pub overridden: String,
    pub done: Option<String>,
    pub late: Vec<String>,
    pub given: Vec<GivenRow>,
    pub picks: Vec<PickRow>,
    pub results: Vec<(String, String)>,
    pub formula: Vec<&'static str>,
    pub source: &'static str,
    pub link: Option<String>,
    pub notes: Vec<String>,
    pub costs: Vec<CostRow>,
    pub total: String,
    pub cautions: Vec<&'static str>,
}

/// A gate a step waits at.
pub struct GateRow {
    pub name: &'static str,
    pub why: &'static str,
    pub says: Vec<String>,
    /// Where it is measured: words and address.
    pub measure: Vec<(&'static str, String)>,
}

/// A stage with its steps and sum.
pub struct StageRow {
    pub name: &'static str,
    pub steps: Vec<&'static str>,
    pub sum: String,
}

/// A question with its sides.
pub struct QuestionRow {
    pub id: &'static str,
    pub name: &'static str,
    pub because: &'static str,
    pub sides: Vec<SideRow>,
    pub basis: String,
    /// Who settled it, in words.
    pub by: String,
    pub reason: String,
}

/// A school with what it comes to here.
pub struct SideRow {
    pub id: &'static str,
    pub name: &'static str,
    pub says: &'static str,
    pub figures: Vec<(String, String)>,
    pub chosen: bool,
    pub points_here: bool,
}

/// What the rules forbid now.
pub struct RefusedRow {
    pub names: String,
    pub why: String,
}

/// What was decided about a step.
pub fn decided<'a>(planned: &'a Planned, id: &str) -> Option<&'a StepDecision> {
    planned.rows.steps.iter().find(|s| s.fix == id)
}

/// The stage a step is in.
pub fn stage_of(planned: &Planned, step: &Step) -> Stage {
    decided(planned, &step.fix.id).and_then(|s| Stage::from_id(s.stage.as_deref()?)).unwrap_or(step.fix.stage)
}

/// Phases with their steps, in order.
pub fn phases(planned: &Planned, costs: &[Cost], wanted: Option<&str>) -> Vec<PhaseRows> {
    let currency = &planned.book.currency;
    let mut out: Vec<(Phase, PhaseRows)> = Vec::new();
    for (i, (step, cost)) in planned.plan.steps.iter().zip(costs).enumerate() {
        let own = decided(planned, &step.fix.id);
        let row = StepRow {
            number: i + 1,
            id: &step.fix.id,
            name: &step.fix.name,
            open: step.is_open(),
            needs: said(step),
            overridden: own.map(|s| s.override_reason.clone()).unwrap_or_default(),
            done: own.and_then(|s| s.done_on).map(day),
            stage: stage_of(planned, step).words(),
            who: step.who.words(),
            cost: sum(cost.total(), currency),
            chosen: wanted == Some(step.fix.id.as_str()),
        };
        match out.last_mut() {
            Some((phase, rows)) if *phase == step.phase => rows.steps.push(row),
            _ => out.push((step.phase, PhaseRows { name: step.phase.words(), steps: vec![row] })),
        }
    }
    out.into_iter().map(|(_, rows)| rows).collect()
}

/// What a step waits for, each once.
fn said(step: &Step) -> Vec<String> {
    let mut out: Vec<String> = Vec::new();
    for text in step.unmet.iter().flat_map(|u| &u.says) {
        if !out.contains(text) {
            out.push(text.clone());
        }
    }
    out
}

/// A figure of a sizing in a person's units.
pub fn figure(show: &Show, f: &Found) -> (String, String) {
    (f.name.clone(), kind_of(f.measure).text(f.value, show.units))
}

/// Everything about one step.
pub fn detail(show: &Show, page: &JobPage, planned: &Planned, step: &Step) -> StepDetail {
    let (sizing, cost) = planned.sized(page, step);
    let own = decided(planned, &step.fix.id);
    let stage = stage_of(planned, step);
    let later = step.after.iter().filter_map(|id| planned.plan.step(id)).filter(|s| stage_of(planned, s) > stage);
    let situation = planned.situation();
    let told = |c: &&'static Condition| match c {
        Condition::Is(id, _) if judgment::plan::question(id).is_some() => None,
        Condition::There(id) => judgment::finding::finding(id).map(|f| f.name.clone()),
        other => Some(other.stands(&situation)),
    };
    StepDetail {
        id: &step.fix.id,
        name: &step.fix.name,
        how: &step.fix.how,
        verify: &step.fix.verify,
        who: step.who.words(),
        phase: step.phase.words(),
        stage,
        because: step.because.iter().map(|id| lower(cause_name(id))).collect(),
        found: step.found.iter().filter_map(told).collect(),
        open: step.is_open(),
        gates: gates(page, &situation, step),
        overridden: own.map(|s| s.override_reason.clone()).unwrap_or_default(),
        done: own.and_then(|s| s.done_on).map(day),
        late: later.map(|s| s.fix.name.clone()).collect(),
        given: given(show, &sizing),
        picks: picks(&sizing),
        results: sizing.found.iter().map(|f| figure(show, f)).collect(),
        formula: sizing.formula.clone(),
        source: sizing.source,
        link: link(show, &sizing),
        notes: sizing.notes.clone(),
        costs: cost.lines.iter().map(|l| cost_row(show, l, &planned.book.currency)).collect(),
        total: sum(cost.total(), &planned.book.currency),
        cautions: step.cautions(&page.building.kinds()).iter().map(|c| c.text.as_str()).chain([LOCAL_CODE]).collect(),
    }
}

/// The gates a step waits at, each once, with where their measurements are made.
fn gates(page: &JobPage, situation: &Situation, step: &Step) -> Vec<GateRow> {
    let mut out: Vec<GateRow> = Vec::new();
    for u in &step.unmet {
        let at = out.iter().position(|g| g.name == u.gate.name).unwrap_or_else(|| {
            out.push(GateRow { name: &u.gate.name, why: &u.gate.why, says: Vec::new(), measure: Vec::new() });
            out.len() - 1
        });
        let row = &mut out[at];
        row.says.extend(u.says.iter().filter(|t| !row.says.contains(t)).cloned().collect::<Vec<_>>());
        // What shuts it, where something does; else whatever would open it.
        let shut: Vec<&Condition> = u.shut.iter().filter(|c| c.holds(situation)).collect();
        let asked = if shut.is_empty() { u.open.iter().collect() } else { shut };
        for link in asked.into_iter().filter_map(|c| measured_at(page, c)) {
            if !row.measure.contains(&link) {
                row.measure.push(link);
            }
        }
    }
    out
}

/// Where what a condition is about is measured.
fn measured_at(page: &JobPage, condition: &'static Condition) -> Option<(&'static str, String)> {
    let id = condition.about();
    let job = page.job.id;
    if let Some(test) = judgment::finding::test(id) {
        return Some((&test.name, format!("/jobs/{job}/tests")));
    }
    let fits = |f: &&judgment::finding::Finding| f.fits(page.job.structure, &page.building);
    if let Some(finding) = judgment::finding::finding(id).filter(fits) {
        return Some((&finding.name, format!("/jobs/{job}/findings?search={id}")));
    }
    let figure = matches!(condition, Condition::AtLeast(..) | Condition::Under(..));
    figure.then(|| (judgment::plan::figure_name(id).0, format!("/jobs/{job}/round")))
}

fn given(show: &Show, sizing: &Sizing) -> Vec<GivenRow> {
    let row = |g: &judgment::plan::Given| {
        let kind = kind_of(g.measure);
        GivenRow {
            key: g.key,
            name: g.name,
            value: kind.figure(g.value, show.units).replace('−', "-"),
            unit: kind.unit(show.units).name,
            from: match &g.origin {
                Origin::Building => "as drawn".into(),
                Origin::Read(place) => format!("read: {place}"),
                Origin::Assumed(why) => format!("assumed: {why}"),
                Origin::Typed => "typed".into(),
            },
            typed: g.origin == Origin::Typed,
        }
    };
    sizing.given.iter().map(row).collect()
}

fn picks(sizing: &Sizing) -> Vec<PickRow> {
    let row = |p: &judgment::plan::Pick| PickRow {
        key: p.key,
        name: p.name,
        options: p.options.iter().map(|(id, name)| (*id, *name, *id == p.chosen)).collect(),
    };
    sizing.picks.iter().map(row).collect()
}

/// Address of the calculator's page that does the same sum.
fn link(show: &Show, sizing: &Sizing) -> Option<String> {
    let same = sizing.same.as_ref()?;
    calculator::address(same.op, &same.figures, &same.words, show.units)
}

pub fn cost_row(show: &Show, line: &Line, currency: &str) -> CostRow {
    let quantity = match unit_of(line.item) {
        Some(kind) => kind.text(line.quantity, show.units),
        None => {
            let unit = match line.item.unit.as_str() {
                "piece" => "",
                "hour" => " h",
                "day" => " days",
                "week" => " weeks",
                "kwh_year" => " kWh a year",
                other => other,
            };
            format!("{}{unit}", unit::NUMBER.text(line.quantity, show.units))
        }
    };
    let cost = line.cents.map_or_else(|| "no price".to_owned(), |c| money(c, currency));
    CostRow { name: &line.item.name, quantity, cost: if line.yearly { format!("{cost} a year") } else { cost } }
}

/// Stages with their sums, of what is still to be done; those without steps too, so that the three stand side by side.
pub fn stages(planned: &Planned, costs: &[Cost]) -> (Vec<StageRow>, String) {
    let currency = &planned.book.currency;
    let undone = |s: &Step| decided(planned, &s.fix.id).is_none_or(|d| d.done_on.is_none());
    let open = || planned.plan.steps.iter().zip(costs).filter(|(s, _)| undone(s));
    let row = |stage: &Stage| {
        let own: Vec<(&Step, &Cost)> = open().filter(|(s, _)| stage_of(planned, s) == *stage).collect();
        let total = own.iter().map(|(_, c)| c.total()).fold(Total::default(), |a, b| a + b);
        StageRow {
            name: stage.words(),
            steps: own.iter().map(|(s, _)| s.fix.name.as_str()).collect(),
            sum: sum(total, currency),
        }
    };
    let all = open().map(|(_, c)| c.total()).fold(Total::default(), |a, b| a + b);
    (Stage::ALL.iter().map(row).collect(), sum(all, currency))
}

/// What is refused, the same reasons together; those of the plan's own closed steps are said there. Only what somebody would
/// think of for this building: what answers nothing here, or is done in a space it lacks, needs no refusing.
pub fn refused(planned: &Planned, spaces: &[SpaceKind]) -> Vec<RefusedRow> {
    let mut out: Vec<(String, Vec<&str>)> = Vec::new();
    let here =
        |r: &&Refused| r.thought_of && (r.fix.at.is_empty() || r.fix.at.iter().any(|kind| spaces.contains(kind)));
    for r in planned.plan.refused.iter().filter(|r| planned.plan.step(&r.fix.id).is_none()).filter(here) {
        match out.iter_mut().find(|(why, _)| *why == r.why) {
            Some((_, names)) => names.push(&r.fix.name),
            None => out.push((r.why.clone(), vec![&r.fix.name])),
        }
    }
    out.into_iter().map(|(why, names)| RefusedRow { names: names.join(" · "), why }).collect()
}

/// A question in words.
pub fn question_row(
    show: &Show,
    planned: &Planned,
    question: &'static Question,
    both: Option<&BothSides>,
    who: impl Fn(&str) -> Option<(String, String)>,
) -> QuestionRow {
    let chosen = planned.choices.get(&question.id);
    let side = |s: &'static judgment::plan::School| {
        let computed = both.and_then(|b| b.sides.iter().find(|x| x.school == s.id));
        SideRow {
            id: &s.id,
            name: &s.name,
            says: &s.says,
            figures: computed.map(|c| c.figures.iter().map(|f| figure(show, f)).collect()).unwrap_or_default(),
            chosen: chosen == Some(s.id.as_str()),
            points_here: both.and_then(|b| b.points_to) == Some(s.id.as_str()),
        }
    };
    let (name, reason) = who(&question.id).unwrap_or_default();
    QuestionRow {
        id: &question.id,
        name: &question.name,
        because: &question.because,
        sides: question.schools.iter().map(side).collect(),
        basis: both.map(|b| b.basis.clone()).unwrap_or_default(),
        by: match planned.chosen_by.get(question.id.as_str()) {
            Some(ChosenBy::Job) => format!("chosen by {name}"),
            Some(ChosenBy::Practice) => "the practice’s way".into(),
            Some(ChosenBy::Figures) => "by this building’s figures".into(),
            _ => "by default".into(),
        },
        reason,
    }
}

/// What the plan is made against, in a sentence.
pub fn headline(planned: &Planned) -> String {
    let names: Vec<String> = planned.causes.iter().map(|id| lower(cause_name(id))).collect();
    let done = |s: &&Step| decided(planned, &s.fix.id).is_some_and(|d| d.done_on.is_some());
    let through = |s: &&Step| decided(planned, &s.fix.id).is_some_and(|d| !d.override_reason.is_empty());
    let left: Vec<&Step> = planned.plan.steps.iter().filter(|s| !done(s)).collect();
    let open = left.iter().filter(|s| s.is_open() || through(s)).count();
    let closed = left.len() - open;
    let against = match names.as_slice() {
        [] => "No cause is named yet, so nothing is planned against one".into(),
        [one] => format!("Against {one}"),
        [rest @ .., last] => format!("Against {} and {last}", rest.join(", ")),
    };
    let steps = |n: usize| if n == 1 { "1 step".to_owned() } else { format!("{n} steps") };
    let waits = match closed {
        0 => String::new(),
        1 => ", 1 waits for a measurement".into(),
        n => format!(", {n} wait for a measurement"),
    };
    format!("{against}: {} may be done now{waits}.", steps(open))
}

/// Whose causes a plan is made against.
pub fn whose(planned: &Planned) -> String {
    let places: Vec<&str> = planned.of_places.iter().map(|(name, _)| name.as_str()).collect();
    match (planned.own, places.is_empty()) {
        (true, true) => "The causes are your conclusion.".into(),
        (true, false) => format!("The causes are your conclusions: for the whole building, {}.", places.join(", ")),
        (false, true) => "The causes are computed; nobody has concluded yet.".into(),
        (false, false) => {
            let many = if places.len() > 1 { "s" } else { "" };
            format!(
                "The causes are computed for the whole building, and your conclusion{many} for {}.",
                places.join(", ")
            )
        }
    }
}

/// A fix's name.
pub fn fix_name(id: &str) -> &str {
    fix(id).map_or(id, |f| f.name.as_str())
}

/// The plan as a report tells it.
pub struct PlanReport {
    pub headline: String,
    pub steps: Vec<ReportStep>,
    /// Everything still to be bought and done, added up.
    pub materials: Vec<CostRow>,
    pub stages: Vec<StageRow>,
    pub total: String,
    pub left_out: Vec<(&'static str, String)>,
    pub refused: Vec<RefusedRow>,
    pub questions: Vec<QuestionRow>,
    /// Day and name of what is looked at again.
    pub follow_ups: Vec<(String, String)>,
    pub cautions: Vec<&'static str>,
}

/// A step as a report tells it.
pub struct ReportStep {
    pub phase: &'static str,
    pub detail: StepDetail,
    pub stage: &'static str,
    pub needs: String,
}

impl PlanReport {
    /// The plan as it stands now. `who` tells who chose a school, and why.
    pub fn of(
        show: &Show,
        page: &JobPage,
        planned: &Planned,
        who: impl Fn(&str) -> Option<(String, String)> + Copy,
    ) -> Self {
        let costs: Vec<Cost> = planned.plan.steps.iter().map(|s| planned.sized(page, s).1).collect();
        let undone = |s: &Step| decided(planned, &s.fix.id).is_none_or(|d| d.done_on.is_none());
        let mut all: Vec<Line> = Vec::new();
        for line in planned.plan.steps.iter().zip(&costs).filter(|(s, _)| undone(s)).flat_map(|(_, c)| &c.lines) {
            match all.iter_mut().find(|l| l.item.id == line.item.id) {
                Some(l) => {
                    l.quantity += line.quantity;
                    l.cents = l.cents.zip(line.cents).map(|(a, b)| a + b);
                }
                None => all.push(line.clone()),
            }
        }
        let (stages, total) = stages(planned, &costs);
        let mut cautions: Vec<&'static str> = Vec::new();
        let kinds = page.building.kinds();
        for c in planned.plan.steps.iter().flat_map(|s| s.cautions(&kinds)) {
            if !cautions.contains(&c.text.as_str()) {
                cautions.push(&c.text);
            }
        }
        let step = |s: &Step| ReportStep {
            phase: s.phase.words(),
            stage: stage_of(planned, s).words(),
            needs: said(s).join("; "),
            detail: detail(show, page, planned, s),
        };
        let left_out = planned.rows.steps.iter().filter(|s| !s.left_out.is_empty());
        let left_out = left_out.filter_map(|s| Some((fix(&s.fix)?.name.as_str(), s.left_out.clone())));
        let open = planned.rows.follow_ups.iter().filter(|f| f.state == FollowUpState::Open);
        Self {
            headline: headline(planned),
            steps: planned.plan.steps.iter().map(step).collect(),
            materials: all.iter().map(|l| cost_row(show, l, &planned.book.currency)).collect(),
            stages,
            total,
            left_out: left_out.collect(),
            refused: refused(planned, &kinds),
            questions: planned
                .asked(page)
                .iter()
                .map(|(q, b)| question_row(show, planned, q, b.as_ref(), who))
                .collect(),
            follow_ups: open.map(|f| (day(f.due_on), f.name.clone())).collect(),
            cautions,
        }
    }
}

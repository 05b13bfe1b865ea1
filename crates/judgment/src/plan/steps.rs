//! Which fixes belong into a plan, in which order, and what each still waits for.

use super::school::Choices;
use super::table::{Applies, Fix, Gate, Need, Phase, Worker, among, fix, fixes, forbidden, gate};
use super::{Condition, Limit};
use crate::cause::{Case, When, held};
use crate::cautions::{Caution, Work};
use building::SpaceKind;
use std::collections::BTreeSet;

/// What a plan is made for: everything known, the causes accepted, the schools chosen.
#[derive(Debug, Clone)]
pub struct Situation<'a> {
    /// Everything known.
    pub case: &'a Case,
    /// Ids of the causes accepted.
    pub causes: &'a [&'a str],
    /// Ids of the causes that what is known holds likely, accepted or not.
    pub held: Vec<&'static str>,
    /// Schools chosen.
    pub choices: &'a Choices,
    /// Ids of the fixes in the plan.
    pub plan: BTreeSet<&'static str>,
}

/// From this probability on a cause closes what it would harm, whether anybody accepted it or not.
const HELD: f64 = 0.3;
/// Findings and words that are an event: what it wetted is dried at once.
const EVENTS: [&str; 2] = ["flood_event", "pipe_burst_event"];

impl<'a> Situation<'a> {
    /// The situation before anything is planned.
    #[must_use]
    pub fn new(case: &'a Case, causes: &'a [&'a str], choices: &'a Choices) -> Self {
        Self { case, causes, held: held(case, HELD), choices, plan: BTreeSet::new() }
    }

    /// Whether a cause was accepted, or is held likely.
    fn acts(&self, cause: &str) -> bool {
        self.causes.contains(&cause) || self.held.contains(&cause)
    }

    /// Whether something happened that wetted it.
    fn is_emergency(&self) -> bool {
        EVENTS.iter().any(|id| self.case.has(id)) || self.case.word_of("trouble_when") == Some("after_event")
    }

    /// The part of the order a fix belongs to, and its place in it: the table's, or right behind what it comes after.
    fn place(&self, fix: &Fix) -> (Phase, usize, bool) {
        let at = |f: &Fix, behind| (self.phase(f), fixes().iter().position(|x| x.id == f.id).unwrap_or(0), behind);
        let behind = fix.behind.iter().filter(|id| self.plan.contains(id.as_str())).filter_map(|id| self::fix(id));
        behind.map(|f| at(f, true)).chain([at(fix, false)]).max().unwrap_or_else(|| at(fix, false))
    }

    /// Whether a fix acts against a cause that acts, or answers something found.
    fn answers(&self, fix: &Fix) -> bool {
        let found = |a: &Applies| among(&a.on, self.case.structure) && a.any.iter().any(|c| self.holds(c));
        fix.treats.iter().any(|c| self.acts(c)) || fix.applies.iter().any(found)
    }

    fn phase(&self, fix: &Fix) -> Phase {
        let stops = fix.stops.iter().any(|c| self.acts(c));
        if stops { fix.phase.min(Phase::Stop) } else { fix.phase }
    }

    /// A test's latest result, a context's word or the school chosen.
    #[must_use]
    pub fn word(&self, id: &str) -> Option<&str> {
        self.choices.get(id).or_else(|| self.case.word_of(id))
    }

    pub(super) fn limit(&self, limit: &Limit) -> Option<f64> {
        match limit {
            Limit::Figure(x) => Some(*x),
            Limit::Chosen(question) => self.choices.percent(question),
        }
    }

    pub(super) fn is_word(&self, when: &When, word: &str) -> bool {
        matches!(when, When::Is(w) if w == word)
    }

    fn holds(&self, condition: &Condition) -> bool {
        match condition {
            Condition::Is(id, fix) if id == "plan" => self.plan.contains(fix.as_str()),
            other => other.holds(self),
        }
    }

    fn applies(&self, a: &Applies) -> bool {
        among(&a.on, self.case.structure)
            && (a.causes.is_empty() || a.causes.iter().any(|c| self.causes.contains(&c.as_str())))
            && (a.any.is_empty() || a.any.iter().any(|c| self.holds(c)))
            && a.all.iter().all(|c| self.holds(c))
            && !a.none.iter().any(|c| self.holds(c))
    }
}

/// Something a gate still asks for.
#[derive(Debug, Clone, PartialEq)]
pub struct Unmet {
    /// The gate.
    pub gate: &'static Gate,
    /// How things stand, or what is missing.
    pub says: Vec<String>,
    /// Whether what is known forbids the step, rather than something not being known.
    pub forbids: bool,
    /// What would open it: one of these, and none of the second.
    pub open: &'static [Condition],
    /// What must no longer hold.
    pub shut: &'static [Condition],
}

impl PartialEq for Gate {
    fn eq(&self, other: &Self) -> bool {
        self.id == other.id
    }
}

/// A step of a plan.
#[derive(Debug, Clone)]
pub struct Step {
    /// What is done.
    pub fix: &'static Fix,
    /// What still keeps it closed; nothing when it is open.
    pub unmet: Vec<Unmet>,
    /// Ids of the accepted causes it acts against.
    pub because: Vec<&'static str>,
    /// What was found, tested or read that brought it into the plan.
    pub found: Vec<&'static Condition>,
    /// Ids of the steps of this plan that come first because they open its gates.
    pub after: Vec<&'static str>,
    /// The part of the order it belongs to here.
    pub phase: Phase,
    /// Who does it here.
    pub who: Worker,
    called: Vec<Work>,
}

impl Step {
    /// Whether it may be done now.
    #[must_use]
    pub fn is_open(&self) -> bool {
        self.unmet.is_empty()
    }

    /// Cautions to show where it is planned, on a building with these kinds of space.
    #[must_use]
    pub fn cautions(&self, spaces: &[SpaceKind]) -> Vec<&'static Caution> {
        self.fix.cautions(spaces, &self.called)
    }

    /// What it still waits for, in a sentence; empty when it is open.
    #[must_use]
    pub fn needs(&self) -> String {
        joined(&self.unmet)
    }
}

fn joined(unmet: &[Unmet]) -> String {
    let mut texts: Vec<&str> = Vec::new();
    for text in unmet.iter().flat_map(|u| &u.says) {
        if !texts.contains(&text.as_str()) {
            texts.push(text);
        }
    }
    texts.join("; ")
}

/// A fix the rules forbid now.
#[derive(Debug, Clone)]
pub struct Refused {
    /// What is refused.
    pub fix: &'static Fix,
    /// Why.
    pub why: String,
    /// Whether nothing that could be measured would change it: it contradicts the building or the plan.
    pub for_good: bool,
    /// Whether somebody would think of it here: it was planned, acts against a cause that acts, or answers something found.
    pub thought_of: bool,
}

/// Steps in order, and what is refused.
#[derive(Debug, Clone)]
pub struct Plan {
    /// In the order of work.
    pub steps: Vec<Step>,
    /// In the order of the table.
    pub refused: Vec<Refused>,
}

impl Plan {
    /// A step.
    #[must_use]
    pub fn step(&self, id: &str) -> Option<&Step> {
        self.steps.iter().find(|s| s.fix.id == id)
    }

    /// Ids of its steps.
    #[must_use]
    pub fn ids(&self) -> BTreeSet<&'static str> {
        self.steps.iter().map(|s| s.fix.id.as_str()).collect()
    }
}

/// Makes the plan, without the fixes somebody left out of it.
///
/// # Examples
/// Against vapor from the ground the soil is covered.
/// ```
/// # use building::Structure;
/// # use judgment::cause::Case;
/// # use judgment::plan::{Choices, plan};
/// # use std::collections::BTreeMap;
/// let mut case = Case::new(Structure::CrawlVented);
/// case.finding("soil_bare", true)?;
/// let plan = plan(&case, &["ground_vapor"], &Choices::of(&case, &BTreeMap::new()), &[]);
/// assert!(plan.ids().contains("ground_film"), "{:?}", plan.ids());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[must_use]
pub fn plan(case: &Case, causes: &[&str], choices: &Choices, left_out: &[&str]) -> Plan {
    let mut s = Situation::new(case, causes, choices);
    let fitting = || fixes().iter().filter(|f| f.fits(case.structure));
    let wanted = |f: &&Fix| !left_out.contains(&f.id.as_str()) && f.applies.iter().any(|a| s.applies(a));
    s.plan = fitting().filter(wanted).map(|f| f.id.as_str()).collect();
    let proposed = s.plan.clone();
    let contradicted: Vec<(&'static Fix, &'static str)> =
        fitting().filter_map(|f| Some((f, contradiction(&s, f)?))).collect();
    for (fix, _) in &contradicted {
        s.plan.remove(fix.id.as_str());
    }
    let mut planned: Vec<&'static Fix> = fitting().filter(|f| s.plan.contains(f.id.as_str())).collect();
    planned.sort_by_key(|f| s.place(f));
    let steps: Vec<Step> = planned.into_iter().map(|f| step(&s, f)).collect();
    let mut refused = Vec::new();
    for fix in fitting() {
        let why = contradicted.iter().find(|(f, _)| f.id == fix.id).map(|(_, why)| (*why).to_owned());
        // What nobody proposed is named only where people would reach for it, not for being unsafe today.
        let planned = s.plan.contains(fix.id.as_str());
        let counts = |u: &Unmet| u.forbids && (planned || u.gate.always_named);
        let shut: Vec<Unmet> = unmet(&s, fix).into_iter().filter(counts).collect();
        let for_good = why.is_some();
        let why = why.or_else(|| (!shut.is_empty()).then(|| joined(&shut)));
        let thought_of = proposed.contains(fix.id.as_str()) || s.answers(fix);
        refused.extend(why.map(|why| Refused { fix, why, for_good, thought_of }));
    }
    Plan { steps, refused }
}

fn step(s: &Situation, fix: &'static Fix) -> Step {
    let met = fix.applies.iter().filter(|a| s.applies(a));
    let mut found: Vec<&'static Condition> = Vec::new();
    for c in met.flat_map(|a| a.any.iter().chain(&a.all)).filter(|c| s.holds(c)) {
        if !found.contains(&c) {
            found.push(c);
        }
    }
    let by = gates_of(s, fix).flat_map(|g| &g.by).chain(&fix.behind);
    let first = |id: &str| self::fix(id).is_some_and(|f| s.place(f) < s.place(fix));
    let mut after: Vec<&'static str> =
        by.map(String::as_str).filter(|id| *id != fix.id && s.plan.contains(id) && first(id)).collect();
    after.sort_unstable();
    after.dedup();
    Step {
        fix,
        unmet: unmet(s, fix),
        because: fix.treats.iter().map(String::as_str).filter(|c| s.causes.contains(c)).collect(),
        found,
        after,
        phase: s.place(fix).0,
        who: fix.who_when.as_ref().filter(|w| w.any.iter().any(|c| s.holds(c))).map_or(fix.who, |w| w.who),
        called: fix.work_when.iter().filter(|w| w.any.iter().any(|c| s.holds(c))).map(|w| w.work).collect(),
    }
}

/// Gates a fix waits at here: after an event what dries waits for nothing but safety.
fn gates_of(s: &Situation, fix: &'static Fix) -> impl Iterator<Item = &'static Gate> {
    let only_safety = fix.emergency && s.is_emergency();
    fix.gates.iter().filter_map(|id| gate(id)).filter(move |g| !only_safety || g.id == "safe")
}

fn contradiction(s: &Situation, fix: &Fix) -> Option<&'static str> {
    let planned = |ids: &[String]| ids.iter().any(|f| s.plan.contains(f.as_str()));
    let found = forbidden().iter().find(|f| {
        f.fix == fix.id
            && among(&f.on, s.case.structure)
            && f.when.iter().all(|c| s.holds(c))
            && (f.beside.is_empty() || planned(&f.beside))
            && (f.without.is_empty() || !planned(&f.without))
    });
    found.map(|f| f.why.as_str())
}

fn unmet(s: &Situation, fix: &'static Fix) -> Vec<Unmet> {
    gates_of(s, fix).flat_map(|g| g.needs.iter().map(move |n| (g, n))).filter_map(|(g, n)| asked(s, g, n)).collect()
}

/// What a need still asks for; `None` when it is met or not asked here.
fn asked(s: &Situation, gate: &'static Gate, need: &'static Need) -> Option<Unmet> {
    let about = match need.cause.as_deref() {
        None => true,
        Some("") => s.causes.is_empty(),
        Some(cause) => s.acts(cause),
    };
    let here = about
        && among(&need.on, s.case.structure)
        && (need.when.is_empty() || need.when.iter().any(|c| s.holds(c)))
        && !need.unless.iter().any(|c| s.holds(c));
    if !here {
        return None;
    }
    let unmet = |says: Vec<String>, forbids: bool| Unmet { gate, says, forbids, open: &need.open, shut: &need.shut };
    let shut: Vec<String> = need.shut.iter().filter(|c| s.holds(c)).map(|c| c.stands(s)).collect();
    if !shut.is_empty() {
        return Some(unmet(shut, true));
    }
    let held = |c: &&Condition| s.holds(c);
    if need.open.iter().filter(held).any(|c| c.is_trusted(s)) || (need.open.is_empty() && need.missing.is_empty()) {
        return None;
    }
    if need.open.iter().any(|c| s.holds(c)) {
        let text = format!("{}, with a hygrometer whose salt check holds", need.missing);
        return Some(unmet(vec![text], false));
    }
    // A source that nobody has shown to be stopped still acts.
    Some(unmet(vec![need.missing.clone()], need.cause.is_some()))
}

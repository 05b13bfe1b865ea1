//! A job's plan as it stands now: what is known, what was decided, and what follows from both.

use crate::evidence::{AsOf, Gathered, gather};
use crate::file::CaseFile;
use crate::worked::Argued;
use building::reading::Observed;
use hygrothermal::wood::MeterReading;
use judgment::cause::{Diagnosis, cause};
use judgment::plan::{
    BothSides, Choices, Cost, Plan, Question, Site, Situation, Sizing, Step, both_sides, plan, question, questions,
    size,
};
use notation::{Show, Units};
use std::collections::BTreeMap;
use std::ops::Deref;
use std::sync::{Arc, OnceLock};
use store::StepDecision;
use uuid::Uuid;

/// Steps that put a machine under test.
const MACHINES: [&str; 2] = ["dehumidifier", "fix_dehumidifier"];

/// Who answered a question.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum ChosenBy {
    /// Somebody, for this job.
    Job,
    /// The practice works this way.
    Practice,
    /// The figures of this building point there.
    Figures,
    /// What is known points there.
    Case,
}

/// A plan with the job it is for.
#[derive(Clone, Copy)]
pub struct Planned<'a> {
    /// The job it is for.
    pub file: &'a CaseFile,
    made: &'a Made,
}

impl Deref for Planned<'_> {
    type Target = Made;
    fn deref(&self) -> &Made {
        self.made
    }
}

/// Everything a plan's page and report are made of.
pub struct Made {
    /// As it is now.
    pub gathered: Gathered,
    /// What was argued of the whole building as it was on the visit.
    argued: Arc<Argued>,
    /// Ids of the causes it is made against.
    pub causes: Vec<&'static str>,
    /// Whether those of the whole building are the consultant's own conclusion.
    pub own: bool,
    /// Places with a conclusion of their own, and its causes.
    pub of_places: Vec<(String, Vec<&'static str>)>,
    /// Approaches settled, by question.
    pub choices: Choices,
    /// Who settled each.
    pub chosen_by: BTreeMap<&'static str, ChosenBy>,
    /// The plan.
    pub plan: Plan,
    typed: BTreeMap<(String, String), String>,
    wood: Vec<(Uuid, f64, f64)>,
    sized: OnceLock<Vec<(Sizing, Cost)>>,
    asked: OnceLock<Vec<(&'static Question, Option<BothSides>)>>,
}

impl Made {
    /// Makes the plan with the readings of the visit in view and everything else as it is now.
    pub(crate) fn of(file: &CaseFile) -> Self {
        let mut gathered = gather(file, None, AsOf::Now);
        // What was mended since no longer speaks of the cause, but it was the cause.
        let argued = file.argued(None);
        let concluded = |space: Option<Uuid>| {
            let drawn = file.conclusions.iter().find(|c| c.space_id == space)?;
            let known = drawn.causes.iter().filter_map(|id| cause(id));
            Some(known.map(|c| c.id.as_str()).collect::<Vec<&'static str>>())
        };
        let whole = concluded(None);
        let spaces = file.building.spaces.iter();
        let of_places: Vec<_> = spaces.filter_map(|s| Some((s.name.clone(), concluded(Some(s.id))?))).collect();
        let own = whole.is_some();
        let mut causes = whole.unwrap_or_else(|| argued.diagnosis.acting());
        for id in of_places.iter().flat_map(|(_, ids)| ids) {
            if !causes.contains(id) {
                causes.push(id);
            }
        }
        if let Some(days) = days_under_test(file) {
            // The id is one the table knows; a test says so.
            let _ = gathered.case.figure("dehumidifier_days", days);
        }
        let figures = file.decided.figures.iter();
        let mut made = Self {
            choices: Choices::of(&gathered.case, &BTreeMap::new()),
            chosen_by: BTreeMap::new(),
            plan: Plan { steps: Vec::new(), refused: Vec::new() },
            gathered,
            argued,
            causes,
            own,
            of_places,
            typed: figures.map(|f| ((f.fix.clone(), f.name.clone()), f.value.clone())).collect(),
            wood: wood_series(file),
            sized: OnceLock::new(),
            asked: OnceLock::new(),
        };
        made.choose(file);
        made.plan = made.drawn_up(file);
        made
    }

    /// The causes it is made against, argued.
    #[must_use]
    pub fn diagnosis(&self) -> &Diagnosis {
        &self.argued.diagnosis
    }

    /// Steps and their order with what is settled so far.
    fn drawn_up(&self, file: &CaseFile) -> Plan {
        let left_out = file.decided.steps.iter().filter(|s| !s.left_out.is_empty());
        let left_out: Vec<&str> = left_out.map(|s| s.fix.as_str()).collect();
        plan(&self.gathered.case, &self.causes, &self.choices, &left_out)
    }

    /// Settles every question: by somebody for the job, else by the practice, else by this building's figures, else by
    /// what is known.
    fn choose(&mut self, file: &CaseFile) {
        let practice = file.practice_schools.iter().map(|(q, id)| (q.as_str(), id.as_str(), ChosenBy::Practice));
        let own = file.decided.schools.iter().map(|s| (s.question.as_str(), s.choice.as_str(), ChosenBy::Job));
        let mut chosen: BTreeMap<&'static str, &'static str> = BTreeMap::new();
        let mut by = BTreeMap::new();
        for (q, id, who) in practice.chain(own) {
            if let Some((q, school)) = question(q).and_then(|q| Some((q.id.as_str(), q.school(id)?))) {
                chosen.insert(q, &school.id);
                by.insert(q, who);
            }
        }
        self.choices = Choices::of(&self.gathered.case, &chosen);
        // Only what this plan asks is computed; an answer may raise the next question.
        loop {
            let steps = self.drawn_up(file);
            let situation =
                Situation { plan: steps.ids(), ..Situation::new(&self.gathered.case, &self.causes, &self.choices) };
            let open = |q: &&'static Question| !by.contains_key(q.id.as_str()) && q.is_asked(&situation);
            let asked: Vec<&'static Question> = questions().iter().filter(open).collect();
            if asked.is_empty() {
                break;
            }
            for q in asked {
                let pointed = both_sides(&Planned::of(file, self).site(), q).and_then(|b| b.points_to);
                by.insert(q.id.as_str(), if pointed.is_some() { ChosenBy::Figures } else { ChosenBy::Case });
                if let Some(school) = pointed {
                    chosen.insert(&q.id, school);
                }
            }
            self.choices = Choices::of(&self.gathered.case, &chosen);
        }
        self.chosen_by = by;
    }
}

impl<'a> Planned<'a> {
    pub(crate) fn of(file: &'a CaseFile, made: &'a Made) -> Self {
        Self { file, made }
    }

    /// What sizes rest on.
    #[must_use]
    pub fn site(self) -> Site<'a> {
        let file = self.file;
        Site {
            building: &file.building,
            picture: &file.picture,
            wood: &self.made.wood,
            climate: file.job.climate,
            design_outdoor_c: file.job.design_outdoor_c,
            case: &self.made.gathered.case,
            choices: &self.made.choices,
            typed: &self.made.typed,
        }
    }

    /// The situation its tables are asked in.
    #[must_use]
    pub fn situation(self) -> Situation<'a> {
        let made = self.made;
        Situation { plan: made.plan.ids(), ..Situation::new(&made.gathered.case, &made.causes, &made.choices) }
    }

    /// What was decided about a fix.
    #[must_use]
    pub fn decided(self, fix: &str) -> Option<&'a StepDecision> {
        self.file.decided.steps.iter().find(|s| s.fix == fix)
    }

    /// What stands behind its amounts.
    #[must_use]
    pub fn currency(self) -> &'a str {
        &self.file.book.currency
    }

    /// Every step with its size and price.
    pub fn sized(self) -> impl Iterator<Item = (&'a Step, &'a (Sizing, Cost))> {
        let made = self.made;
        let sized = made.sized.get_or_init(|| {
            let one = |step: &Step| {
                let sizing = size(&self.site(), step.fix);
                let cost = Cost::of(step.who, &sizing, &self.file.book.cents);
                (sizing, cost)
            };
            made.plan.steps.iter().map(one).collect()
        });
        made.plan.steps.iter().zip(sized)
    }

    /// Questions asked of this plan, with their sides.
    #[must_use]
    pub fn asked(self) -> &'a [(&'static Question, Option<BothSides>)] {
        self.made.asked.get_or_init(|| {
            let situation = self.situation();
            let asked = questions().iter().filter(|q| q.is_asked(&situation));
            asked.map(|q| (q, both_sides(&self.site(), q))).collect()
        })
    }
}

/// Days over which a dehumidifier was read since it was put in or put right; `None` before that.
fn days_under_test(file: &CaseFile) -> Option<f64> {
    let since =
        file.decided.steps.iter().filter(|s| MACHINES.contains(&s.fix.as_str())).filter_map(|s| s.done_on).max()?;
    // The day is one of the practice's own time zone.
    let clock = Show::new(Units::Metric, &file.time_zone);
    let since = clock.instant(since.and_time(chrono::NaiveTime::MIN))?.timestamp_millis();
    let mut read: BTreeMap<Uuid, (i64, i64)> = BTreeMap::new();
    let water = file.ever.iter().filter(|r| matches!(r.observed, Observed::Water(_)) && r.taken_ms >= since);
    for r in water {
        let (first, last) = read.entry(r.station_id).or_insert((r.taken_ms, r.taken_ms));
        (*first, *last) = ((*first).min(r.taken_ms), (*last).max(r.taken_ms));
    }
    let longest = read.values().map(|(first, last)| last - first).max()?;
    Some(longest as f64 / 86_400_000.0)
}

/// Wood readings of all visits that stand: station, days since the first, %.
fn wood_series(file: &CaseFile) -> Vec<(Uuid, f64, f64)> {
    let first = file.ever.iter().map(|r| r.taken_ms).min().unwrap_or(0);
    let mut out: Vec<(Uuid, f64, f64)> = file
        .ever
        .iter()
        .filter_map(|r| match r.observed {
            Observed::Wood(w) => match w.value {
                MeterReading::Percent(m) => Some((r.station_id, (r.taken_ms - first) as f64 / 86_400_000.0, m.value)),
                MeterReading::Wet => None,
            },
            _ => None,
        })
        .collect();
    out.sort_by(|a, b| a.1.total_cmp(&b.1));
    out
}

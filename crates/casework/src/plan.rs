//! A job's plan as it stands now: what is known, what was decided, and what follows from both.

use crate::evidence::{AsOf, Gathered, gather};
use crate::file::CaseFile;
use building::reading::Observed;
use chrono::{DateTime, Utc};
use hygrothermal::wood::MeterReading;
use judgment::cause::{Diagnosis, cause, diagnose};
use judgment::plan::{
    BothSides, Choices, Cost, Plan, Question, Site, Situation, Sizing, Step, both_sides, plan, question, questions,
    size,
};
use notation::Show;
use std::collections::BTreeMap;
use std::sync::OnceLock;
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

/// Everything a plan's page and report are made of.
pub struct Planned<'a> {
    /// The job it is for.
    pub file: &'a CaseFile,
    /// As it is now.
    pub gathered: Gathered,
    /// As it was on the visit.
    pub diagnosis: Diagnosis,
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
}

impl<'a> Planned<'a> {
    /// Makes the plan with the readings of the visit in view and everything else as it is now. `clock` tells the days of
    /// whoever asks.
    #[must_use]
    pub fn of(file: &'a CaseFile, clock: &Show, now: DateTime<Utc>) -> Self {
        let mut gathered = gather(file, None, AsOf::Now, now);
        // What was mended since no longer speaks of the cause, but it was the cause.
        let diagnosis = diagnose(&gather(file, None, AsOf::Visit, now).case);
        let concluded = |space: Option<Uuid>| {
            let drawn = file.conclusions.iter().find(|c| c.space_id == space)?;
            let known = drawn.causes.iter().filter_map(|id| cause(id));
            Some(known.map(|c| c.id.as_str()).collect::<Vec<&'static str>>())
        };
        let whole = concluded(None);
        let spaces = file.building.spaces.iter();
        let of_places: Vec<_> = spaces.filter_map(|s| Some((s.name.clone(), concluded(Some(s.id))?))).collect();
        let own = whole.is_some();
        let mut causes = whole.unwrap_or_else(|| diagnosis.acting());
        for id in of_places.iter().flat_map(|(_, ids)| ids) {
            if !causes.contains(id) {
                causes.push(id);
            }
        }
        if let Some(days) = days_under_test(clock, file) {
            // The id is one the table knows; a test says so.
            let _ = gathered.case.figure("dehumidifier_days", days);
        }
        let figures = file.decided.figures.iter();
        let mut planned = Self {
            file,
            choices: Choices::of(&gathered.case, &BTreeMap::new()),
            chosen_by: BTreeMap::new(),
            plan: Plan { steps: Vec::new(), refused: Vec::new() },
            gathered,
            diagnosis,
            causes,
            own,
            of_places,
            typed: figures.map(|f| ((f.fix.clone(), f.name.clone()), f.value.clone())).collect(),
            wood: wood_series(file),
            sized: OnceLock::new(),
        };
        planned.choose();
        planned.plan = plan(&planned.gathered.case, &planned.causes, &planned.choices, &planned.left_out());
        planned
    }

    /// Settles every question: by somebody for the job, else by the practice, else by this building's figures, else by
    /// what is known.
    fn choose(&mut self) {
        let file = self.file;
        let mut chosen: BTreeMap<&'static str, &'static str> = BTreeMap::new();
        let mut by = BTreeMap::new();
        let school = |q: &str, id: &str| question(q).and_then(|q| Some((q.id.as_str(), q.school(id)?.id.as_str())));
        for (q, id) in &file.practice_schools {
            if let Some((q, s)) = school(q, id) {
                chosen.insert(q, s);
                by.insert(q, ChosenBy::Practice);
            }
        }
        for row in &file.decided.schools {
            if let Some((q, s)) = school(&row.question, &row.choice) {
                chosen.insert(q, s);
                by.insert(q, ChosenBy::Job);
            }
        }
        self.choices = Choices::of(&self.gathered.case, &chosen);
        // Only what this plan asks is computed; an answer may raise the next question.
        loop {
            let steps = plan(&self.gathered.case, &self.causes, &self.choices, &self.left_out());
            let situation =
                Situation { plan: steps.ids(), ..Situation::new(&self.gathered.case, &self.causes, &self.choices) };
            let open = |q: &&'static Question| !by.contains_key(q.id.as_str()) && q.is_asked(&situation);
            let asked: Vec<&'static Question> = questions().iter().filter(open).collect();
            if asked.is_empty() {
                break;
            }
            for q in asked {
                let pointed = both_sides(&self.site(), q).and_then(|b| b.points_to);
                by.insert(q.id.as_str(), if pointed.is_some() { ChosenBy::Figures } else { ChosenBy::Case });
                if let Some(school) = pointed {
                    chosen.insert(&q.id, school);
                }
            }
            self.choices = Choices::of(&self.gathered.case, &chosen);
        }
        self.chosen_by = by;
    }

    /// Fixes somebody left out.
    fn left_out(&self) -> Vec<&'a str> {
        let left_out = self.file.decided.steps.iter().filter(|s| !s.left_out.is_empty());
        left_out.map(|s| s.fix.as_str()).collect()
    }

    /// What sizes rest on.
    #[must_use]
    pub fn site(&self) -> Site<'_> {
        let file = self.file;
        Site {
            building: &file.building,
            picture: &file.picture,
            wood: &self.wood,
            climate: file.job.climate,
            design_outdoor_c: file.job.design_outdoor_c,
            case: &self.gathered.case,
            choices: &self.choices,
            typed: &self.typed,
        }
    }

    /// The situation its tables are asked in.
    #[must_use]
    pub fn situation(&self) -> Situation<'_> {
        Situation { plan: self.plan.ids(), ..Situation::new(&self.gathered.case, &self.causes, &self.choices) }
    }

    /// What was decided about a fix.
    #[must_use]
    pub fn decided(&self, fix: &str) -> Option<&'a StepDecision> {
        self.file.decided.steps.iter().find(|s| s.fix == fix)
    }

    /// What stands behind its amounts.
    #[must_use]
    pub fn currency(&self) -> &'a str {
        &self.file.book.currency
    }

    /// Every step with its size and price, computed once.
    pub fn sized(&self) -> impl Iterator<Item = (&Step, &(Sizing, Cost))> {
        let sized = self.sized.get_or_init(|| {
            let one = |step: &Step| {
                let sizing = size(&self.site(), step.fix);
                let cost = Cost::of(step.who, &sizing, &self.file.book.cents);
                (sizing, cost)
            };
            self.plan.steps.iter().map(one).collect()
        });
        self.plan.steps.iter().zip(sized)
    }

    /// Questions asked of this plan, with their sides.
    #[must_use]
    pub fn asked(&self) -> Vec<(&'static Question, Option<BothSides>)> {
        let situation = self.situation();
        let asked = questions().iter().filter(|q| q.is_asked(&situation));
        asked.map(|q| (q, both_sides(&self.site(), q))).collect()
    }
}

/// Days over which a dehumidifier was read since it was put in or put right; `None` before that.
fn days_under_test(clock: &Show, file: &CaseFile) -> Option<f64> {
    let since =
        file.decided.steps.iter().filter(|s| MACHINES.contains(&s.fix.as_str())).filter_map(|s| s.done_on).max()?;
    // The day is one of the person's own time zone.
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

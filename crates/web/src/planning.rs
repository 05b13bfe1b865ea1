//! A job's plan as it stands now: what is known, what was decided, and what follows from both.

use crate::auth::Who;
use crate::error::Failure;
use crate::evidence::{AsOf, Gathered, gather};
use crate::job_page::JobPage;
use building::reading::Observed;
use hygrothermal::wood::MeterReading;
use judgment::cause::{Diagnosis, cause, diagnose};
use judgment::plan::{
    BothSides, Choices, Cost, Plan, Question, Site, Situation, Sizing, Step, both_sides, plan, question, questions,
    size,
};
use notation::Show;
use std::collections::BTreeMap;
use store::{PlanRows, PriceBook, Scope, StepDecision};
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
pub struct Planned {
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
    pub choices: Choices,
    pub chosen_by: BTreeMap<&'static str, ChosenBy>,
    pub plan: Plan,
    pub rows: PlanRows,
    pub book: PriceBook,
    typed: BTreeMap<(String, String), String>,
    wood: Vec<(Uuid, f64, f64)>,
}

impl Planned {
    /// Makes the plan with the readings of the visit in view and everything else as it is now.
    pub async fn load(who: &Who, scope: &Scope, page: &JobPage) -> Result<Self, Failure> {
        let job = page.job.id;
        let call = scope.call_sheet(job).await?.map(|s| s.call).unwrap_or_default();
        let tests = scope.test_runs(job).await?;
        let show = who.show();
        let mut gathered = gather(&show, page, (&call, &tests), None, AsOf::Now);
        // What was mended since no longer speaks of the cause, but it was the cause.
        let diagnosis = diagnose(&gather(&show, page, (&call, &tests), None, AsOf::Visit).case);
        let mut conclusions = scope.conclusions(job).await?;
        let mut concluded = |space: Option<Uuid>| {
            let row = conclusions.swap_remove(conclusions.iter().position(|r| r.space_id == space)?);
            let known = row.causes.iter().filter_map(|id| cause(id));
            Some(known.map(|c| c.id.as_str()).collect::<Vec<&'static str>>())
        };
        let whole = concluded(None);
        let spaces = page.building.spaces.iter();
        let of_places: Vec<_> = spaces.filter_map(|s| Some((s.name.clone(), concluded(Some(s.id))?))).collect();
        let own = whole.is_some();
        let mut causes = whole.unwrap_or_else(|| diagnosis.acting());
        for id in of_places.iter().flat_map(|(_, ids)| ids) {
            if !causes.contains(id) {
                causes.push(id);
            }
        }
        let rows = scope.plan_rows(job).await?;
        if let Some(days) = days_under_test(&show, page, &rows.steps) {
            // The id is one the table knows; a test says so.
            let _ = gathered.case.figure("dehumidifier_days", days);
        }
        let typed = rows.figures.iter().map(|f| ((f.fix.clone(), f.name.clone()), f.value.clone())).collect();
        let practice = scope.practice_schools().await?;
        let wood = wood_series(page);
        let mut planned = Self {
            choices: Choices::of(&gathered.case, &BTreeMap::new()),
            chosen_by: BTreeMap::new(),
            plan: Plan { steps: Vec::new(), refused: Vec::new() },
            book: scope.price_book().await?,
            gathered,
            diagnosis,
            causes,
            own,
            of_places,
            rows,
            typed,
            wood,
        };
        planned.choose(page, &practice);
        let left_out: Vec<&str> =
            planned.rows.steps.iter().filter(|s| !s.left_out.is_empty()).map(|s| s.fix.as_str()).collect();
        planned.plan = plan(&planned.gathered.case, &planned.causes, &planned.choices, &left_out);
        Ok(planned)
    }

    /// Settles every question: by somebody for the job, else by the practice, else by this building's figures, else by
    /// what is known.
    fn choose(&mut self, page: &JobPage, practice: &BTreeMap<String, String>) {
        let mut chosen: BTreeMap<&'static str, &'static str> = BTreeMap::new();
        let mut by = BTreeMap::new();
        let school = |q: &str, id: &str| question(q).and_then(|q| Some((q.id.as_str(), q.school(id)?.id.as_str())));
        for (q, id) in practice {
            if let Some((q, s)) = school(q, id) {
                chosen.insert(q, s);
                by.insert(q, ChosenBy::Practice);
            }
        }
        for row in &self.rows.schools {
            if let Some((q, s)) = school(&row.question, &row.choice) {
                chosen.insert(q, s);
                by.insert(q, ChosenBy::Job);
            }
        }
        self.choices = Choices::of(&self.gathered.case, &chosen);
        let open: Vec<&'static Question> = questions().iter().filter(|q| !by.contains_key(q.id.as_str())).collect();
        for q in open {
            let pointed = both_sides(&self.site(page), q).and_then(|b| b.points_to);
            by.insert(&q.id, if pointed.is_some() { ChosenBy::Figures } else { ChosenBy::Case });
            if let Some(school) = pointed {
                chosen.insert(&q.id, school);
            }
        }
        self.choices = Choices::of(&self.gathered.case, &chosen);
        self.chosen_by = by;
    }

    /// What sizes rest on.
    pub fn site<'a>(&'a self, page: &'a JobPage) -> Site<'a> {
        Site {
            building: &page.building,
            picture: &page.picture,
            wood: &self.wood,
            climate: page.job.climate,
            design_outdoor_c: page.job.design_outdoor_c,
            case: &self.gathered.case,
            choices: &self.choices,
            typed: &self.typed,
        }
    }

    /// The situation its tables are asked in.
    pub fn situation(&self) -> Situation<'_> {
        Situation { plan: self.plan.ids(), ..Situation::new(&self.gathered.case, &self.causes, &self.choices) }
    }

    /// A step of it sized and priced.
    pub fn sized(&self, page: &JobPage, step: &Step) -> (Sizing, Cost) {
        let sizing = size(&self.site(page), step.fix);
        let cost = Cost::of(step.who, &sizing, &self.book.cents);
        (sizing, cost)
    }

    /// Questions asked of this plan, with their sides.
    pub fn asked(&self, page: &JobPage) -> Vec<(&'static Question, Option<BothSides>)> {
        let situation = self.situation();
        let asked = questions().iter().filter(|q| q.is_asked(&situation));
        asked.map(|q| (q, both_sides(&self.site(page), q))).collect()
    }
}

/// Days over which a dehumidifier was read since it was put in or put right; `None` before that.
fn days_under_test(show: &Show, page: &JobPage, steps: &[StepDecision]) -> Option<f64> {
    let since = steps.iter().filter(|s| MACHINES.contains(&s.fix.as_str())).filter_map(|s| s.done_on).max()?;
    // The day is one of the person's own time zone.
    let since = show.instant(since.and_time(chrono::NaiveTime::MIN))?.timestamp_millis();
    let mut read: BTreeMap<Uuid, (i64, i64)> = BTreeMap::new();
    let water = page.ever.iter().filter(|r| matches!(r.observed, Observed::Water(_)) && r.taken_ms >= since);
    for r in water {
        let (first, last) = read.entry(r.station_id).or_insert((r.taken_ms, r.taken_ms));
        (*first, *last) = ((*first).min(r.taken_ms), (*last).max(r.taken_ms));
    }
    let longest = read.values().map(|(first, last)| last - first).max()?;
    Some(longest as f64 / 86_400_000.0)
}

/// Wood readings of all visits that stand: station, days since the first, %.
fn wood_series(page: &JobPage) -> Vec<(Uuid, f64, f64)> {
    let first = page.ever.iter().map(|r| r.taken_ms).min().unwrap_or(0);
    let mut out: Vec<(Uuid, f64, f64)> = page
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

//! A job's plan as it stands now: what is known, what was decided, and what follows from both.

use crate::auth::Who;
use crate::error::Failure;
use crate::evidence::{AsOf, Gathered, gather};
use crate::job_page::JobPage;
use hygrothermal::wood::MeterReading;
use judgement::cause::{Diagnosis, cause, diagnose};
use judgement::plan::{
    BothSides, Choices, Cost, Plan, Question, Site, Situation, Sizing, both_sides, plan, question, questions, size,
};
use judgement::reading::Observed;
use std::collections::BTreeMap;
use store::{PlanRows, PriceBook, ReadingRow, Scope};
use uuid::Uuid;

/// Days a salt check holds for what is read after it (common practice: yearly).
const CHECK_HOLDS: i64 = 365;
/// Figures that rest on a hygrometer.
const BY_HYGROMETER: [&str; 4] = ["worst_margin_c", "surface_rh_pct", "air_rh_pct", "air_dew_c"];

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
        extra_figures(page, &mut gathered);
        // What was mended since no longer speaks of the cause, but it was the cause.
        let diagnosis = diagnose(&gather(&show, page, (&call, &tests), None, AsOf::Visit).case);
        let mut conclusions = scope.conclusions(job).await?;
        let mut concluded = |space: Option<Uuid>| {
            let row = conclusions.swap_remove(conclusions.iter().position(|r| r.space_id == space)?);
            let known = row.causes.split_whitespace().filter_map(cause);
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
        Situation { case: &self.gathered.case, causes: &self.causes, choices: &self.choices, plan: self.plan.ids() }
    }

    /// A fix of it sized and priced.
    pub fn sized(&self, page: &JobPage, fix: &'static judgement::plan::Fix) -> (Sizing, Cost) {
        let sizing = size(&self.site(page), fix);
        let cost = Cost::of(fix, &sizing, &self.book.cents);
        (sizing, cost)
    }

    /// Questions asked of this plan, with their sides.
    pub fn asked(&self, page: &JobPage) -> Vec<(&'static Question, Option<BothSides>)> {
        let situation = self.situation();
        let asked = questions().iter().filter(|q| q.is_asked(&situation));
        asked.map(|q| (q, both_sides(&self.site(page), q))).collect()
    }
}

/// Figures that only gates ask for, and those a gate must not trust.
fn extra_figures(page: &JobPage, gathered: &mut Gathered) {
    let water: Vec<&ReadingRow> = page.rows.iter().filter(|r| r.kind == "water").collect();
    if let (Some(first), Some(last)) = (water.first(), water.last()) {
        let days = (last.taken_at - first.taken_at).num_hours() as f64 / 24.0;
        // The id is one the table knows; a test says so.
        let _ = gathered.case.figure("dehumidifier_days", days);
    }
    let mut air = page.visit_rows().filter(|r| r.kind == "air");
    let unchecked = |r: &ReadingRow| {
        let by = page.instrument(r.instrument_id);
        let checked = by.and_then(|i| i.checked_on);
        checked.is_none_or(|day| (r.taken_at.date_naive() - day).num_days() > CHECK_HOLDS)
    };
    if air.any(unchecked) {
        BY_HYGROMETER.iter().for_each(|id| gathered.case.distrust(id));
    }
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

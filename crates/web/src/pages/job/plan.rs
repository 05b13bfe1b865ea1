//! Plan: steps in order with their gates, sized and priced; schools; what is decided about each.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::PLAN;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::plan::Planned;
use casework::{CaseFile, InView};
use chrono::{DateTime, NaiveDate, Utc};
use judgment::cautions::LOCAL_CODE;
use judgment::plan::{Fix, Stage, fix, question, size};
use language::{known, say};
use notation::day;
use serde::Deserialize;
use std::collections::HashMap;
use store::{Act, ChosenSchool, Depth, PracticeAct, Setting, StepDecision, TypedFigure, plan_row_id};
use uuid::Uuid;
use wording::plan::{
    PhaseRows, QuestionRow, RefusedRow, StageRow, StepDetail, detail, fix_name, headline, kind_of, phases,
    question_row, refused, stages, whose,
};

/// Longest reason, characters.
const LONGEST_REASON: usize = 2000;
/// Tables a plan's changes are in.
const TABLES: [&str; 4] = ["plan_step", "plan_figure", "school", "follow_up"];

#[derive(Template, WebTemplate)]
#[template(path = "plan.html")]
struct PlanPage {
    frame: Frame,
    job: JobFrame,
    headline: String,
    /// Whose causes it is made against.
    whose: String,
    /// The test that would decide, while nothing is named.
    next: Option<&'static str>,
    flags: Vec<&'static str>,
    phases: Vec<PhaseRows>,
    chosen: Option<StepDetail>,
    /// Steps somebody left out, with the reason.
    left_out: Vec<(String, &'static str, String)>,
    /// Steps done whose reason is gone since.
    settled: Vec<(&'static str, String)>,
    stages: Vec<StageRow>,
    all_stages: &'static [Stage],
    total: String,
    priced: bool,
    refused: Vec<RefusedRow>,
    questions: Vec<QuestionRow>,
    follow_ups: Vec<super::follow_ups::Row>,
    proposed: Vec<super::follow_ups::Proposed>,
    last: Option<LastChange>,
    wrong: Wrong,
    local_code: &'static str,
}

impl PlanPage {
    /// An id for what a form does: each has its own, so that one sent twice is done once and two are done both.
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// What was typed that needs changing, and why.
#[derive(Default)]
struct Wrong {
    /// What is wrong with the form as a whole.
    said: String,
    /// The form it is about: a fix, a question, a follow-up.
    about: String,
    /// Fields by name: what was typed, and what is wrong with it; empty for nothing.
    fields: HashMap<String, (String, String)>,
}

impl Wrong {
    fn said(about: &str, said: impl Into<String>, typed: &HashMap<String, String>) -> Self {
        let fields = typed.iter().map(|(k, v)| (k.clone(), (v.clone(), String::new()))).collect();
        Self { said: said.into(), about: about.to_owned(), fields }
    }

    fn is_about(&self, what: &str) -> bool {
        self.about == what && !self.said.is_empty()
    }

    fn typed(&self, about: &str, field: &str) -> Option<&str> {
        self.fields.get(field).filter(|_| self.about == about).map(|(typed, _)| typed.as_str())
    }

    /// Whether a reason was asked for.
    fn wants_reason(&self, about: &str) -> bool {
        self.is_about(about) && matches!(self.typed(about, "act"), Some("leave_out" | "override"))
    }

    /// Whether a school is ticked: as typed, else as chosen.
    fn ticks(&self, question: &str, school: &str, chosen: bool) -> bool {
        self.typed(question, "choice").map_or(chosen, |typed| typed == school)
    }

    fn error(&self, field: &str) -> Option<&str> {
        self.fields.get(field).map(|(_, e)| e.as_str()).filter(|e| !e.is_empty())
    }
}

#[derive(Deserialize, Default)]
pub struct View {
    /// The step looked at; the first open one without.
    step: Option<String>,
}

/// The plan.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    Ok(view_of(&who, file.planned(), view.step, Wrong::default()).into_response())
}

fn view_of(who: &Who, planned: Planned<'_>, wanted: Option<String>, wrong: Wrong) -> PlanPage {
    let show = who.show();
    let page = planned.file;
    let undone = |s: &&judgment::plan::Step| planned.decided(&s.fix.id).is_none_or(|d| d.done_on.is_none());
    let first = || planned.plan.steps.iter().filter(undone).find(|s| s.is_open());
    let chosen = match &wanted {
        Some(id) => planned.plan.step(id),
        None => first().or(planned.plan.steps.first()),
    };
    let by = |q: &str| {
        let row = page.decided.schools.iter().find(|s| s.question == q)?;
        Some((page.people.get(&row.updated_by).cloned().unwrap_or_default(), row.reason.clone()))
    };
    let (stages, total) = stages(planned);
    let gone = page.decided.steps.iter().filter(|s| planned.plan.step(&s.fix).is_none());
    let name = |id: &str| fix(id).map(|f| known(&f.name));
    PlanPage {
        frame: Frame::of(who, page),
        headline: headline(planned),
        whose: whose(planned),
        next: planned.diagnosis().next_tests.first().filter(|_| planned.causes.is_empty()).map(|t| known(&t.test.name)),
        flags: planned.gathered.case.flags().map(|f| f.text.as_str()).collect(),
        phases: phases(planned, chosen.map(|s| s.fix.id.as_str())),
        left_out: gone
            .clone()
            .filter(|s| !s.left_out.is_empty())
            .filter_map(|s| Some((s.fix.clone(), name(&s.fix)?, s.left_out.clone())))
            .collect(),
        settled: gone.filter_map(|s| Some((name(&s.fix)?, day(s.done_on?)))).collect(),
        chosen: chosen
            .and_then(|s| planned.sized().find(|(x, _)| x.fix.id == s.fix.id))
            .map(|(s, sized)| detail(&show, planned, s, sized)),
        stages,
        all_stages: Stage::ALL,
        total,
        priced: !page.book.cents.is_empty(),
        refused: refused(planned),
        questions: planned.asked().iter().map(|(q, b)| question_row(&show, planned, q, b.as_ref(), by)).collect(),
        follow_ups: super::follow_ups::rows(&page.decided.follow_ups, show.today(Utc::now())),
        proposed: super::follow_ups::proposed(planned, show.today(Utc::now())),
        last: last_change(who, page, &TABLES),
        job: JobFrame::new(page, PLAN),
        wrong,
        local_code: LOCAL_CODE,
    }
}

building::kinds! {
    /// What is decided about a step.
    StepAct {
        /// Its priority.
        Stage = "stage", "put in a stage";
        /// It was done.
        Done = "done", "done";
        /// It was not done after all.
        Undone = "undone", "not done after all";
        /// It is left out, with a reason.
        LeaveOut = "leave_out", "left out";
        /// It is back in the plan.
        TakeBack = "take_back", "back in the plan";
        /// It goes on without its measurement, with a reason.
        Override = "override", "overridden";
        /// It waits for its measurement again.
        Withdraw = "withdraw", "waits again";
    }
}

#[derive(Deserialize)]
pub struct DecisionForm {
    id: Uuid,
    act: StepAct,
    #[serde(default)]
    stage: String,
    #[serde(default)]
    reason: String,
}

/// What is decided about a step.
pub struct Decision {
    act: StepAct,
    stage: String,
    reason: String,
}

impl Decision {
    /// By the ids of what is decided and of its stage; none for another act.
    pub fn new(act: &str, stage: String, reason: String) -> Option<Self> {
        Some(Self { act: StepAct::from_id(act)?, stage, reason })
    }

    /// A reason that must be there, or what is wrong with it.
    fn reason(&self, wanted: &str) -> Result<String, String> {
        let reason = self.reason.trim();
        match reason.chars().count() {
            0 => Err(wanted.to_owned()),
            n if n > LONGEST_REASON => Err(say!(
                "The reason is {n} characters long; {longest_reason} at most.",
                n,
                longest_reason = LONGEST_REASON
            )),
            _ => Ok(reason.to_owned()),
        }
    }

    /// Changes a decision, and says what was done; a step that is still closed is not done.
    fn change(
        &self,
        row: &mut StepDecision,
        name: &str,
        closed: Option<&judgment::plan::Step>,
        today: NaiveDate,
    ) -> Result<String, String> {
        match self.act {
            StepAct::Stage => {
                let stage = Stage::from_id(&self.stage).ok_or(say!("Choose when it is to be done."))?;
                row.stage = Some(stage.id().to_owned());
                Ok(format!("{}: {name}", known(stage.words())))
            }
            StepAct::Done => {
                if let Some(step) = closed {
                    return Err(say!("It is still closed: {step}. A measurement opens it.", step = step.needs()));
                }
                row.done_on = Some(today);
                Ok(say!("Done: {name}", name))
            }
            StepAct::Undone => {
                row.done_on = None;
                row.proof = String::new();
                Ok(say!("Not done after all: {name}", name))
            }
            StepAct::LeaveOut => {
                row.left_out = self.reason(say!("Say why it is left out: the reason goes into the report."))?;
                Ok(say!("Left out: {name}", name))
            }
            StepAct::TakeBack => {
                row.left_out = String::new();
                Ok(say!("Back in the plan: {name}", name))
            }
            StepAct::Override => {
                let wanted = say!("Say why it may go on without the measurement: the reason goes into the report.");
                row.override_reason = self.reason(wanted)?;
                Ok(say!("Overridden without the measurement: {name}", name))
            }
            StepAct::Withdraw => {
                row.override_reason = String::new();
                Ok(say!("Waits for its measurement again: {name}", name))
            }
        }
    }
}

/// A step of which nothing is decided.
pub fn undecided(by: Uuid, job: Uuid, fix: &str, now: DateTime<Utc>) -> StepDecision {
    StepDecision {
        id: plan_row_id(job, &format!("step {fix}")),
        job_id: job,
        fix: fix.to_owned(),
        stage: None,
        override_reason: String::new(),
        left_out: String::new(),
        done_on: None,
        proof: String::new(),
        updated_by: by,
        updated_at: now,
        removed: false,
    }
}

/// A step with a decision made about it by somebody, and what was done in words; else what stands in its way.
pub fn decided(
    planned: &Planned,
    known: &Fix,
    decision: &Decision,
    (by, now): (Uuid, DateTime<Utc>),
    today: NaiveDate,
) -> Result<(StepDecision, String), String> {
    let (id, job) = (&known.id, planned.file.job.id);
    let row = planned.decided(id).cloned().unwrap_or_else(|| undecided(by, job, id, now));
    let mut row = StepDecision { updated_by: by, updated_at: now, ..row };
    let closed = planned.plan.step(id).filter(|s| !s.is_open()).filter(|_| row.override_reason.is_empty());
    let what = decision.change(&mut row, &known.name, closed, today)?;
    Ok((row, what))
}

/// Decides about a step: its stage, that it is done, that it is left out or overridden, each with its reason.
pub async fn decide(
    who: Who,
    Path((job, id)): Path<(Uuid, String)>,
    Form(form): Form<DecisionForm>,
) -> Result<Response, Failure> {
    let known = fix(&id).ok_or(Failure::NotFound)?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let page = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let planned = page.planned();
    let (now, by) = (Utc::now(), who.person.consultant_id);
    let decision = Decision { act: form.act, stage: form.stage, reason: form.reason };
    let (row, what) = match decided(&planned, known, &decision, (by, now), who.show().today(now)) {
        Ok(done) => done,
        Err(said) => {
            let typed = HashMap::from([
                ("reason".to_owned(), decision.reason.clone()),
                ("act".to_owned(), form.act.id().to_owned()),
            ]);
            let wrong = Wrong::said(&id, said, &typed);
            let again = view_of(&who, planned, Some(id), wrong);
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
        }
    };
    let act = Act::new(form.id, job, who.person.consultant_id, now, what);
    scope.keep_plan_step(&act, row).await?;
    scope.commit().await?;
    let back = if form.act == StepAct::LeaveOut { String::new() } else { format!("?step={id}") };
    Ok(Redirect::to(&format!("/jobs/{job}/plan{back}")).into_response())
}

/// Keeps figures typed over what the job knows; an empty field goes back to it.
pub async fn figures(
    who: Who,
    Path((job, id)): Path<(Uuid, String)>,
    Form(fields): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let known = fix(&id).ok_or(Failure::NotFound)?;
    let act_id: Uuid = fields.get("id").and_then(|id| id.parse().ok()).ok_or_else(|| Failure::BadForm("id".into()))?;
    let scope = who.scope().await?;
    let page = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let planned = page.planned();
    let show = who.show();
    let now = Utc::now();
    let sizing = size(&planned.site(), known);
    let kept = |name: &str| page.decided.figures.iter().find(|f| f.fix == id && f.name == name);
    let row = |name: &str, value: String, removed: bool| TypedFigure {
        id: plan_row_id(job, &format!("figure {id} {name}")),
        job_id: job,
        fix: id.clone(),
        name: name.to_owned(),
        value,
        updated_by: who.person.consultant_id,
        updated_at: now,
        removed,
    };
    let (mut rows, mut told) = (Vec::new(), Vec::new());
    let mut wrong = Wrong::said(&id, "", &fields);
    for g in &sizing.given {
        let Some(typed) = fields.get(&format!("g-{}", g.key)).map(|t| t.trim()) else { continue };
        let kind = kind_of(g.measure);
        // What was not touched stays what it was, to the last digit, whoever changed it meanwhile.
        if fields.get(&format!("was-{key}", key = g.key)).is_some_and(|was| was == typed) {
            continue;
        }
        if typed.is_empty() {
            rows.extend(kept(g.key).map(|f| row(g.key, f.value.clone(), true)));
            continue;
        }
        match kind.parse(typed, show.units).and_then(|si| in_bounds(g.measure, si).map(|()| si)) {
            Ok(si) => {
                told.push(format!("{} {}", lower_first(g.name), kind.text(si, show.units)));
                rows.push(row(g.key, si.to_string(), false));
            }
            Err(said) => drop(wrong.fields.insert(format!("g-{}", g.key), (typed.to_owned(), said))),
        }
    }
    for p in &sizing.picks {
        let typed = fields.get(&format!("p-{}", p.key)).filter(|t| **t != p.chosen);
        if let Some((id, name)) = typed.and_then(|t| p.options.iter().find(|(id, _)| id == t)) {
            told.push(format!("{} {name}", lower_first(p.name)));
            rows.push(row(p.key, (*id).to_owned(), false));
        }
    }
    if wrong.fields.values().any(|(_, e)| !e.is_empty()) {
        wrong.said = say!("Something needs changing. What you typed is kept.").into();
        let again = view_of(&who, planned, Some(id), wrong);
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let said = if told.is_empty() { say!("as the job knows").to_owned() } else { told.join(", ") };
    let act = Act::new(
        act_id,
        job,
        who.person.consultant_id,
        now,
        say!("Sized {fix_name}: {said}", fix_name = fix_name(&id), said),
    );
    scope.keep_plan_figures(&act, rows).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/plan?step={id}#sizes")).into_response())
}

/// Sizes are not negative, shares not over one, and nothing is as large as a town.
fn in_bounds(measure: judgment::plan::Measure, si: f64) -> Result<(), String> {
    use judgment::plan::Measure;
    let (low, high) = match measure {
        Measure::Temperature => (-60.0, 80.0),
        Measure::Percent => (0.0, 100.0),
        Measure::Share => (0.0, 1.0),
        Measure::Thickness => (0.0005, 2.0),
        _ => (0.0, 100_000.0),
    };
    if (low..=high).contains(&si) { Ok(()) } else { Err(say!("It lies outside of what can be.").into()) }
}

fn lower_first(text: &str) -> String {
    wording::argument::lower(text)
}

#[derive(Deserialize)]
pub struct SchoolForm {
    id: Uuid,
    #[serde(default)]
    choice: String,
    #[serde(default)]
    reason: String,
    /// Whether it becomes the practice's way.
    #[serde(default)]
    practice: String,
}

/// Chooses a school for the job, and for the practice where that is asked.
pub async fn choose(
    who: Who,
    Path((job, id)): Path<(Uuid, String)>,
    Form(form): Form<SchoolForm>,
) -> Result<Response, Failure> {
    let asked = question(&id).ok_or(Failure::NotFound)?;
    let scope = who.scope().await?;
    let page = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let now = Utc::now();
    let school = asked.schools.iter().find(|s| s.id == form.choice);
    let long = form.reason.chars().count();
    let said = match school {
        None => Some(say!("Choose one of them.").to_owned()),
        Some(_) if form.reason.trim().is_empty() => {
            Some(say!("Say why: the job records who chose and for what reason.").into())
        }
        Some(_) if long > LONGEST_REASON => Some(say!(
            "The reason is {long} characters long; {longest_reason} at most.",
            long,
            longest_reason = LONGEST_REASON
        )),
        Some(_) => None,
    };
    let (Some(school), None) = (school, &said) else {
        let typed =
            HashMap::from([("reason".to_owned(), form.reason.clone()), ("choice".to_owned(), form.choice.clone())]);
        let wrong = Wrong::said(&id, said.unwrap_or_default(), &typed);
        let again = view_of(&who, page.planned(), None, wrong);
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    };
    let row = ChosenSchool {
        id: plan_row_id(job, &format!("school {id}")),
        job_id: job,
        question: asked.id.clone(),
        choice: school.id.clone(),
        reason: form.reason.trim().to_owned(),
        updated_by: who.person.consultant_id,
        updated_at: now,
        removed: false,
    };
    let act = Act::new(form.id, job, who.person.consultant_id, now, format!("{} {}", asked.name, school.name));
    scope.keep_school(&act, row).await?;
    if !form.practice.is_empty() {
        let settled = (Setting::School(asked.id.clone()), Some(school.id.clone()));
        // Under the form's own id: sent twice it is settled once.
        let act = PracticeAct { id: form.id, by: who.person.consultant_id, at: now };
        scope.settle(act, [settled].into()).await?;
    }
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/plan#schools")).into_response())
}

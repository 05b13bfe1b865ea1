//! A job's plan: computed from what is known, with what was decided about it.

use super::caller::Caller;
use super::exchange::{Made, Path, Sent, one};
use super::problem::Problem;
use crate::pages::job::plan::{Decision, decided};
use axum::http::HeaderMap;
use axum::response::Response;
use casework::plan::Planned;
use casework::{CaseFile, InView};
use chrono::{NaiveDate, Utc};
use judgment::cautions::LOCAL_CODE;
use judgment::plan::fix;
use serde::{Deserialize, Serialize};
use store::{Act, Depth, Scope};
use utoipa::ToSchema;
use uuid::Uuid;

/// A plan.
#[derive(Debug, Serialize, ToSchema)]
pub struct PlanView {
    /// Ids of the causes it is made against.
    causes: Vec<&'static str>,
    /// Whether somebody concluded these; else they are computed.
    concluded: bool,
    /// Steps in the order in which they may be done.
    steps: Vec<StepView>,
    /// What stands above all of them: local code, and licensed people.
    local_code: &'static str,
}

/// A step.
#[derive(Debug, Serialize, ToSchema)]
pub struct StepView {
    /// Id of the fix.
    id: String,
    /// What it is called.
    name: String,
    /// Whether its gate is met.
    open: bool,
    /// What it waits for; empty where it is open.
    needs: String,
    /// What can hurt whoever does it.
    cautions: Vec<&'static str>,
    /// Id of the stage it was put in.
    stage: Option<String>,
    /// Day it was done.
    done_on: Option<NaiveDate>,
    /// Why it is left out; empty where it is not.
    left_out: String,
    /// Why it goes on without its measurement; empty where it waits for it.
    override_reason: String,
}

/// A decision about a step.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DecisionNew {
    /// `stage`, `done`, `undone`, `leave_out`, `take_back`, `override` or `withdraw`.
    act: String,
    /// For `stage`: which.
    #[serde(default)]
    stage: String,
    /// For `leave_out` and `override`: why.
    #[serde(default)]
    reason: String,
}

fn view(planned: &Planned) -> PlanView {
    let kinds = planned.file.building.kinds();
    let step = |s: &judgment::plan::Step| {
        let row = planned.decided(&s.fix.id);
        StepView {
            id: s.fix.id.clone(),
            name: s.fix.name.clone(),
            open: s.is_open(),
            cautions: s.cautions(&kinds).into_iter().map(|c| c.text.as_str()).collect(),
            needs: if s.is_open() { String::new() } else { s.needs() },
            stage: row.and_then(|r| r.stage.clone()),
            done_on: row.and_then(|r| r.done_on),
            left_out: row.map(|r| r.left_out.clone()).unwrap_or_default(),
            override_reason: row.map(|r| r.override_reason.clone()).unwrap_or_default(),
        }
    };
    PlanView {
        causes: planned.causes.clone(),
        concluded: planned.own,
        steps: planned.plan.steps.iter().map(step).collect(),
        local_code: LOCAL_CODE,
    }
}

async fn load(caller: &Caller, scope: &Scope, job: Uuid) -> Result<CaseFile, Problem> {
    caller.file(scope, job, InView::Latest, Depth::Plan).await
}

/// A job’s plan
#[utoipa::path(get, path = "/api/v1/jobs/{job}/plan", tag = "plans", params(("job" = Uuid, Path)),
    responses((status = 200, body = PlanView), (status = 304),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn get(caller: Caller, headers: HeaderMap, Path(job): Path<Uuid>) -> Result<Response, Problem> {
    let file = load(&caller, &caller.scope().await?, job).await?;
    one(&headers, &view(&file.planned()))
}

/// Decide about a step: its stage, that it is done, that it is left out or goes on without its measurement
#[utoipa::path(post, path = "/api/v1/jobs/{job}/plan/{fix}/decisions", tag = "plans", request_body = DecisionNew,
    params(("job" = Uuid, Path), ("fix" = String, Path), ("If-Match" = String, Header, description = "ETag of the plan.")),
    responses((status = 200, body = PlanView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn decide(caller: Caller, Path((job, id)): Path<(Uuid, String)>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        if !scope.hold_job(job).await? {
            return Err(Problem::not_found());
        }
        let known = fix(&id).ok_or_else(Problem::not_found)?;
        let file = load(&caller, scope, job).await?;
        sent.is_of(&view(&file.planned()))?;
        let said: DecisionNew = sent.read()?;
        let wrong = || Problem::field("act", "There is no such decision.");
        let decision = Decision::new(&said.act, said.stage, said.reason).ok_or_else(wrong)?;
        let (now, by) = (Utc::now(), caller.by());
        let today = caller.show().today(now);
        let (row, what) =
            decided(&file.planned(), known, &decision, (by, now), today).map_err(|e| Problem::field("", e))?;
        scope.keep_plan_step(&Act::new(names.id(None, 0), job, by, now, what), row).await?;
        Made::changed(&view(&load(&caller, scope, job).await?.planned()))
    })
    .await
}

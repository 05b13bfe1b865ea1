//! Why: what wets the building, as an argument that can be followed and disputed, and the consultant's own conclusion.

use crate::auth::Who;
use crate::error::Failure;
use crate::evidence::{AsOf, Gathered, gather};
use crate::extract::{Path, Query};
use crate::job_page::JobPage;
use crate::token::Token;
use crate::view::argument::{Argument, Cause, argument, cause_name};
use crate::view::history::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::http::{StatusCode, Uri};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use judgement::cause::{Diagnosis, causes, diagnose};
use judgement::cautions::LOCAL_CODE;
use serde::Deserialize;
use std::collections::HashMap;
use store::{Act, Scope, TestRun};
use uuid::Uuid;

/// Longest reason, characters.
const LONGEST_REASON: usize = 2000;
/// A cause ticked in the conclusion's form.
const TICKED: &str = "cause-";

#[derive(Template, WebTemplate)]
#[template(path = "why.html")]
struct WhyPage {
    frame: Frame,
    job: JobFrame,
    /// Address of this view, ready for `cause=`.
    base: String,
    places: Vec<(String, String, bool)>,
    argument: Argument,
    /// Day of the visit the movement is told from.
    since: Option<String>,
    form: ConclusionForm,
    /// Likely causes and those ticked, then all others this building can have.
    ticks: Vec<Tick>,
    other_ticks: Vec<Tick>,
    error: Option<String>,
    kept: Option<String>,
    last: Option<LastChange>,
    local_code: &'static str,
}

/// A cause in the conclusion's form.
struct Tick {
    id: &'static str,
    name: &'static str,
    on: bool,
}

impl WhyPage {
    /// An id for what a form does: each has its own, so that one sent twice is done once and two are done both.
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    fn chosen(&self) -> Option<&Cause> {
        self.argument.causes.iter().find(|c| c.chosen)
    }

    /// The other of the leading two.
    fn rival(&self) -> Option<&Cause> {
        self.argument.causes.iter().take(2).find(|c| !c.chosen)
    }
}

#[derive(Deserialize, Default)]
pub struct View {
    /// The space looked at; the whole building without one.
    place: Option<Uuid>,
    /// The cause whose argument is shown; the first without one.
    cause: Option<String>,
}

#[derive(Default)]
struct ConclusionForm {
    causes: Vec<&'static str>,
    reason: String,
}

/// A job's evidence on its visit in view and on the one before.
struct Loaded {
    page: JobPage,
    now: Gathered,
    before: Option<(Diagnosis, String)>,
}

async fn load(who: &Who, scope: &Scope, job: Uuid, place: Option<Uuid>) -> Result<Loaded, Failure> {
    let show = who.show();
    let page = JobPage::load(scope, job, None).await?;
    if place.is_some_and(|id| page.building.space(id).is_none()) {
        return Err(Failure::NotFound);
    }
    let call = scope.call_sheet(job).await?.map(|s| s.call).unwrap_or_default();
    let tests: Vec<TestRun> = scope.test_runs(job).await?;
    let at = page.visit.as_ref().and_then(|v| page.visits.iter().position(|x| x.id == v.id));
    let earlier = at.and_then(|i| page.visits.get(i + 1)).map(|v| (v.id, show.day(v.started_at)));
    let before = match earlier {
        Some((id, day)) => {
            let page = JobPage::load(scope, job, Some(id)).await?;
            Some((diagnose(&gather(&show, &page, (&call, &tests), place, AsOf::Visit).case), day))
        }
        None => None,
    };
    Ok(Loaded { now: gather(&show, &page, (&call, &tests), place, AsOf::Visit), page, before })
}

/// The argument for the whole building and its report, with the conclusion drawn from it.
pub async fn of_visit(who: &Who, scope: &Scope, page: &JobPage) -> Result<(Argument, Option<String>), Failure> {
    let call = scope.call_sheet(page.job.id).await?.map(|s| s.call).unwrap_or_default();
    let tests = scope.test_runs(page.job.id).await?;
    let gathered = gather(&who.show(), page, (&call, &tests), None, AsOf::Visit);
    let diagnosis = diagnose(&gathered.case);
    let shown = argument(&page.job, &page.building, &gathered, &diagnosis, None, None);
    let own = scope.conclusion(page.job.id).await?.map(|row| {
        let names: Vec<&str> = row.causes.split_whitespace().map(cause_name).collect();
        let reason = if row.reason.is_empty() { String::new() } else { format!(" {}", row.reason) };
        format!("{}.{reason}", names.join("; "))
    });
    Ok((shown, own))
}

/// The argument.
pub async fn page(
    who: Who,
    Extension(token): Extension<Token>,
    uri: Uri,
    Path(job): Path<Uuid>,
    Query(view): Query<View>,
) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let loaded = load(&who, &scope, job, view.place).await?;
    let kept = scope.conclusion(job).await?;
    let form = kept.as_ref().map(|row| ConclusionForm {
        causes: row.causes.split_whitespace().filter_map(judgement::cause::cause).map(|c| c.id.as_str()).collect(),
        reason: row.reason.clone(),
    });
    let said = match &kept {
        Some(row) => {
            let by = scope.consultant_name(row.updated_by).await?.unwrap_or_default();
            Some(format!("{by}, {}", who.show().moment(row.updated_at)))
        }
        None => None,
    };
    let mut shown = view_of(&who, &token, &uri, &scope, loaded, &view, form.unwrap_or_default()).await?;
    shown.kept = said;
    Ok(shown.into_response())
}

async fn view_of(
    who: &Who,
    token: &Token,
    uri: &Uri,
    scope: &Scope,
    loaded: Loaded,
    view: &View,
    form: ConclusionForm,
) -> Result<WhyPage, Failure> {
    let Loaded { page, now, before } = loaded;
    let job = page.job.id;
    let diagnosis = diagnose(&now.case);
    let shown =
        argument(&page.job, &page.building, &now, &diagnosis, before.as_ref().map(|(d, _)| d), view.cause.as_deref());
    let place = |id: Option<Uuid>, name: &str| {
        let href = id.map_or_else(|| format!("/jobs/{job}/why"), |id| format!("/jobs/{job}/why?place={id}"));
        (href, name.to_owned(), view.place == id)
    };
    let whole = std::iter::once(place(None, "Whole building"));
    let tick = |c: &'static judgement::cause::Cause| Tick {
        id: &c.id,
        name: &c.name,
        on: form.causes.contains(&c.id.as_str()),
    };
    let in_view = |t: &Tick| t.on || shown.causes.iter().any(|c| c.id == t.id);
    let (ticks, other_ticks) = diagnosis.causes.iter().map(|r| tick(r.cause)).partition(in_view);
    Ok(WhyPage {
        frame: Frame::new(who, token, uri),
        base: view.place.map_or_else(|| format!("/jobs/{job}/why?"), |id| format!("/jobs/{job}/why?place={id}&")),
        places: whole.chain(page.building.spaces.iter().map(|s| place(Some(s.id), &s.name))).collect(),
        argument: shown,
        since: before.map(|(_, day)| day),
        ticks,
        other_ticks,
        form,
        error: None,
        kept: None,
        last: last_change(who, scope, job, &["conclusion"]).await?,
        job: page.frame("why"),
        local_code: LOCAL_CODE,
    })
}

/// Keeps the consultant's conclusion; one that differs from the computed needs its reason.
pub async fn conclude(
    who: Who,
    Extension(token): Extension<Token>,
    uri: Uri,
    Path(job): Path<Uuid>,
    crate::extract::Form(fields): crate::extract::Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let id: Uuid = fields.get("id").and_then(|id| id.parse().ok()).ok_or_else(|| Failure::BadForm("id".into()))?;
    let scope = who.scope().await?;
    let loaded = load(&who, &scope, job, None).await?;
    let possible = causes().iter().filter(|c| c.odds(loaded.page.job.structure) > 0.0);
    let ticked = possible.filter(|c| fields.contains_key(&format!("{TICKED}{}", c.id))).map(|c| c.id.as_str());
    let form = ConclusionForm {
        causes: ticked.collect(),
        reason: fields.get("reason").map(|r| r.trim().to_owned()).unwrap_or_default(),
    };
    let computed = diagnose(&loaded.now.case).acting();
    let differs = {
        let mut own = form.causes.clone();
        let mut theirs = computed.clone();
        own.sort_unstable();
        theirs.sort_unstable();
        own != theirs
    };
    let length = form.reason.chars().count();
    let error = if form.causes.is_empty() {
        Some("Tick at least one cause.".to_owned())
    } else if length > LONGEST_REASON {
        Some(format!("The reason is {length} characters long; {LONGEST_REASON} at most."))
    } else if differs && form.reason.is_empty() {
        Some("This differs from what was computed: say why. The reason goes into the report.".into())
    } else {
        None
    };
    if error.is_some() {
        let mut again = view_of(&who, &token, &uri, &scope, loaded, &View::default(), form).await?;
        again.error = error;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let names: Vec<&str> = form.causes.iter().map(|id| cause_name(id)).collect();
    let act = Act::new(id, job, who.person.consultant_id, Utc::now(), format!("Concluded: {}", names.join("; ")));
    scope.keep_conclusion(&act, &form.causes, &computed, &form.reason).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/why")).into_response())
}

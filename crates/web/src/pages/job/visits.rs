//! Visits: begun after the cautions, finished, opened again.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::places::ROUND;
use crate::stations::carried;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::Redirect;
use building::call::{Construction, FALSE_WET};
use casework::CaseFile;
use casework::entry;
use judgment::cautions::{self, LOCAL_CODE};
use language::say;
use serde::Deserialize;
use store::{Role, Visit};
use uuid::Uuid;
use wording::instrument::salt_check;

#[derive(Template, WebTemplate)]
#[template(path = "round_start.html")]
pub struct StartPage {
    frame: Frame,
    job: JobFrame,
    /// The finished visit in view, if any.
    last: Option<(Uuid, String)>,
    cautions: Vec<&'static str>,
    instruments: Vec<(String, String)>,
    stations: Vec<(String, Vec<String>)>,
    visit_id: Uuid,
    /// Where the round begins, and the pages to carry along for starting it without a signal.
    first: String,
    pages: String,
    /// How this construction is tested, from the call sheet; empty while nobody has said how it is built.
    tests: Vec<&'static Construction>,
    false_wet: &'static str,
    local_code: &'static str,
}

#[derive(Deserialize)]
pub struct StartForm {
    id: Uuid,
    /// When a device without a signal started it, ms since 1970.
    #[serde(default)]
    at: String,
}

/// Starts a visit, or goes on with the open one.
pub async fn start(who: Who, Path(job): Path<Uuid>, Form(form): Form<StartForm>) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    scope.job(job).await?.ok_or(Failure::NotFound)?;
    let at = entry::moment(&form.at, chrono::Utc::now());
    // What a trainee reads on a real job is looked through by somebody.
    let for_review = who.person.role == Role::Trainee && !who.person.rehearsal;
    let row = Visit { for_review, ..Visit::begun(form.id, job, who.person.consultant_id, at) };
    scope.start_visit(row).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/round")))
}

#[derive(Deserialize)]
pub struct FinishForm {
    /// When a device without a signal finished it, ms since 1970.
    #[serde(default)]
    at: String,
}

/// Finishes a visit and shows its report.
pub async fn finish(
    who: Who,
    Path((job, visit)): Path<(Uuid, Uuid)>,
    Form(form): Form<FinishForm>,
) -> Result<Redirect, Failure> {
    set_end(&who, job, visit, Some(entry::moment(&form.at, chrono::Utc::now()))).await?;
    Ok(Redirect::to(&format!("/jobs/{job}/visits/{visit}/report")))
}

/// Opens a finished visit again; when another is open, that one is shown instead.
pub async fn reopen(who: Who, Path((job, visit)): Path<(Uuid, Uuid)>) -> Result<Redirect, Failure> {
    set_end(&who, job, visit, None).await?;
    Ok(Redirect::to(&format!("/jobs/{job}/round")))
}

#[derive(Deserialize)]
pub struct ReviewForm {
    id: Uuid,
}

/// Says that somebody looked through a trainee's visit.
pub async fn review(
    who: Who,
    Path((job, visit)): Path<(Uuid, Uuid)>,
    Form(form): Form<ReviewForm>,
) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    let visits = scope.visits(job).await?;
    let row = visits.iter().find(|v| v.id == visit).ok_or(Failure::NotFound)?;
    let by = who.person.consultant_id;
    if scope.review_visit(row, by, chrono::Utc::now()).await? {
        let day = who.show().day(row.started_at);
        scope.audit(form.id, Some(by), &say!("Looked through the visit of {day}", day), Some(job)).await?;
    }
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/visits/{visit}/report")))
}

async fn set_end(who: &Who, job: Uuid, visit: Uuid, end: Option<chrono::DateTime<chrono::Utc>>) -> Result<(), Failure> {
    let scope = who.scope().await?;
    let visits = scope.visits(job).await?;
    let row = visits.iter().find(|v| v.id == visit).ok_or(Failure::NotFound)?;
    // Finished twice, it ended the first time.
    if end.is_none() || row.ended_at.is_none() {
        scope.set_visit_end(row, end).await?;
    }
    Ok(scope.commit().await?)
}

/// What stands before a round: cautions, where to test, instruments, the way.
pub fn start_page(who: &Who, page: &CaseFile) -> StartPage {
    let said = page.call.as_ref().map(|s| s.call.clone()).unwrap_or_default();
    let call = &said;
    let show = who.show();
    let mut seen = Vec::new();
    for space in &page.building.spaces {
        for caution in cautions::cautions(space.kind, &[]) {
            if !seen.contains(&caution.text.as_str()) {
                seen.push(caution.text.as_str());
            }
        }
    }
    StartPage {
        frame: Frame::of(who, page),
        job: JobFrame::new(page, ROUND),
        last: page.visit.as_ref().map(|v| {
            (
                v.id,
                say!(
                    "visit {page} of {started_at}",
                    page = page.visit_number(v.id),
                    started_at = show.day(v.started_at)
                ),
            )
        }),
        cautions: seen,
        instruments: page
            .at_hand()
            .into_iter()
            .filter(|i| i.kind != building::InstrumentKind::Logger)
            .map(|i| (i.name.clone(), salt_check(i)))
            .collect(),
        stations: page
            .building
            .spaces
            .iter()
            .map(|s| (s.name.clone(), page.building.surfaces_in(s.id).map(|x| x.name.clone()).collect()))
            .collect(),
        visit_id: Uuid::now_v7(),
        first: page
            .building
            .stations
            .first()
            .map(|s| format!("/jobs/{}/round?at={}", page.job.id, s.id))
            .unwrap_or_default(),
        pages: carried(page, true),
        tests: call.suggests().test,
        false_wet: FALSE_WET,
        local_code: LOCAL_CODE,
    }
}

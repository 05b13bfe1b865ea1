//! What a reader gets: the visit, plainly, on paper; and reports put together for one of them.

mod body;
mod builder;
mod form;
mod remarks;
mod rows;
mod sharing;
mod versions;

pub use builder::{act, page as builder_page};
pub use remarks::{about_version, about_visit};
pub use sharing::{act as share, page as sharing_page};
pub use versions::{image, page as version_page, pdf, picture, printed, publish, sign};

use crate::access::Right;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::places::{REPORT, ROUND, report_of};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::Redirect;
use body::{Heading, Loaded, ReportBody, practice};
use building::report::{ReportDraft, ReportReader};
use casework::{CaseFile, InView};
use language::{Language, aloud, say};
use remarks::{Refused, Remarks};
use store::{Depth, ReportVersion};
use uuid::Uuid;

/// Tables reports are kept in.
const TABLES: &[&str] = &["report"];

#[derive(Template, WebTemplate)]
#[template(path = "report/visit.html")]
pub struct ReportPage {
    frame: Frame,
    job: JobFrame,
    visit: Uuid,
    title: String,
    reports: Vec<builder::ReportRow>,
    readers: Vec<(&'static str, &'static str)>,
    act_id: Uuid,
    body: String,
    remarks: Remarks,
    open: bool,
    /// How a trainee’s visit stands, and the id of saying that it was looked through.
    review: Option<(String, Option<Uuid>)>,
}

/// The report of the latest visit with readings; a job without a visit begins with one.
pub async fn latest(who: Who, Path(job): Path<Uuid>) -> Result<Redirect, Failure> {
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    Ok(Redirect::to(&match &file.visit {
        Some(visit) => report_of(job, visit.id),
        None => ROUND.of(&job.to_string()),
    }))
}

/// The report of a visit: everything, to be checked.
pub async fn page(who: Who, Path((job, visit)): Path<(Uuid, Uuid)>) -> Result<ReportPage, Failure> {
    shown(&who, job, visit, None).await
}

/// The same with a remark that was not kept.
async fn shown(who: &Who, job: Uuid, visit: Uuid, refused: Option<Refused>) -> Result<ReportPage, Failure> {
    // Loaded for itself: its thermal pictures are read in the same turn.
    let scope = who.scope().await?;
    let page = CaseFile::load(&scope, job, InView::Visit(visit), Depth::Plan).await?;
    let row = page.visit.clone().ok_or(Failure::NotFound)?;
    let all = ReportDraft::usual(Uuid::nil(), ReportReader::Engineer, String::new());
    let loaded = Loaded::of(&scope, &page, &all).await?;
    drop(scope);
    let title = say!("Visit {page} of {who}", page = page.visit_number(visit), who = who.show().day(row.started_at));
    let heading = Heading { title: title.clone(), made: practice(who, &page), before: None };
    let body = ReportBody::of(who, &page, &row, &all, heading, loaded).await?;
    let said = Remarks::of(who, &page, visit, &format!("/jobs/{job}/visits/{visit}"));
    Ok(ReportPage {
        reports: builder::rows(&who.show(), &page),
        readers: builder::readers(),
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, &page),
        job: JobFrame::new(&page, REPORT),
        visit,
        title,
        open: row.ended_at.is_none(),
        review: review(who, &page, &row),
        remarks: match refused {
            Some(refused) => said.refused(refused),
            None => said,
        },
        body: rendered(&body)?,
    })
}

/// The language a version is in.
pub fn language_of(version: &ReportVersion) -> Language {
    let said: Option<ReportDraft> = serde_json::from_value(version.said.clone()).ok();
    said.map(|d| d.language).unwrap_or_default()
}

/// A report's pages as HTML.
fn rendered(body: &ReportBody) -> Result<String, Failure> {
    aloud(body.frame.language, || body.render()).map_err(|e| Failure::Defect(e.to_string()))
}

/// How a trainee’s visit stands: in words, and the id of the act where this person may say that they looked through it.
fn review(who: &Who, page: &CaseFile, visit: &store::Visit) -> Option<(String, Option<Uuid>)> {
    if !visit.for_review {
        return None;
    }
    let name = |id: Uuid| page.people.get(&id).cloned().unwrap_or_default();
    Some(match visit.reviewed_by.zip(visit.reviewed_at) {
        Some((by, at)) => (say!("Looked through by {by} on {who}.", by = name(by), who = who.show().day(at)), None),
        None => (
            say!(
                "{visit} is a trainee, and nobody has looked through this visit yet.",
                visit = name(visit.consultant_id)
            ),
            who.may(Right::Review).then(Uuid::now_v7),
        ),
    })
}

//! Putting a report together: for whom, how technical, which parts in which order, one's own words, and page by page how it reads.

use super::body::{Heading, Loaded, ReportBody, show_of};
use super::form::{ItemRow, change, details, languages, papers, read, rows as item_rows, units, visits};
use super::{TABLES, language_of, rendered};
use crate::access::Right;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::fields::{Options, Typed, Wrongs, kinds};
use crate::places::REPORT;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::report::{ReportDraft, ReportReader};
use casework::{CaseFile, InView};
use chrono::Utc;
use language::{aloud, known, say};
use notation::Show;
use store::{Act, Depth, ReportVersion, Scope};
use uuid::Uuid;
use wording::report::Fact;

/// A report in the list, with its versions, the latest first.
pub struct ReportRow {
    pub id: Uuid,
    pub title: String,
    pub reader: &'static str,
    pub versions: Vec<VersionRow>,
}

/// A version in the list.
pub struct VersionRow {
    pub id: Uuid,
    pub n: i32,
    pub when: String,
    /// Who signed it.
    pub signed: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "report/builder.html")]
struct BuilderPage {
    frame: Frame,
    job: JobFrame,
    report: Uuid,
    title: String,
    reader: &'static str,
    detail: &'static str,
    paper: &'static str,
    units: &'static str,
    language: &'static str,
    visit: String,
    items: Vec<ItemRow>,
    choices: [Options; 6],
    blocks: Vec<(Uuid, String)>,
    versions: Vec<VersionRow>,
    next: i32,
    /// Nothing before a visit was begun.
    body: Option<String>,
    wrong: Wrongs,
    may_sign: bool,
    signs_as: &'static str,
    last: Option<LastChange>,
    act_id: Uuid,
}

impl BuilderPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| f == field).map(|(_, e)| e.as_str())
    }

    fn error_at(&self, field: &str, n: &usize) -> Option<&str> {
        self.error(&format!("{field}.{n}"))
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// Readers reports are for.
pub fn readers() -> Vec<(&'static str, &'static str)> {
    ReportReader::ALL.iter().map(|r| (r.id(), known(r.words()))).collect()
}

fn version_rows(show: &Show, file: &CaseFile, report: Uuid) -> Vec<VersionRow> {
    let signed = |id: Uuid| {
        let all = file.reports.signatures.iter().filter(|s| s.version_id == id);
        all.map(|s| s.name.as_str()).collect::<Vec<_>>().join(", ")
    };
    let row = |v: &ReportVersion| VersionRow { id: v.id, n: v.n, when: show.day(v.made_at), signed: signed(v.id) };
    file.reports.versions.iter().rev().filter(|v| v.report_id == report).map(row).collect()
}

/// Every report of a job.
pub fn rows(show: &Show, file: &CaseFile) -> Vec<ReportRow> {
    let row = |d: &ReportDraft| ReportRow {
        id: d.id,
        title: d.title.clone(),
        reader: known(d.reader.words()),
        versions: version_rows(show, file, d.id),
    };
    file.reports.drafts.iter().map(row).collect()
}

/// The latest version of a report, where it is in the same language: what it is called, and what it said.
pub(super) fn before(show: &Show, file: &CaseFile, draft: &ReportDraft) -> Option<(String, Vec<Fact>)> {
    let last = file.reports.versions.iter().rev().find(|v| v.report_id == draft.id)?;
    let last = Some(last).filter(|v| language_of(v) == draft.language)?;
    let facts = serde_json::from_value(last.facts.clone()).ok()?;
    Some((say!("version {last}, {last2}", last = last.n, last2 = show.day(last.made_at)), facts))
}

/// The number the next version of a report has.
pub(super) fn next_number(file: &CaseFile, report: Uuid) -> i32 {
    file.reports.versions.iter().filter(|v| v.report_id == report).map(|v| v.n).max().unwrap_or(0) + 1
}

/// What stands under the job’s name.
pub(super) fn title_of(show: &Show, file: &CaseFile, draft: &ReportDraft) -> String {
    let visit = file.visit.as_ref();
    let of = visit.map(|v| {
        say!(", visit {file} of {started_at}", file = file.visit_number(v.id), started_at = show.day(v.started_at))
    });
    say!(
        "{draft} for the {draft2}{of}",
        draft = draft.title,
        draft2 = known(draft.reader.words()),
        of = of.unwrap_or_default()
    )
}

/// A job’s file with one of its reports, as saved.
pub(super) async fn load(scope: &Scope, job: Uuid, report: Uuid) -> Result<(CaseFile, ReportDraft), Failure> {
    let draft = scope.report(job, report).await?.ok_or(Failure::NotFound)?;
    let of = draft.visit.map_or(InView::Latest, InView::Visit);
    Ok((CaseFile::load(scope, job, of, Depth::Plan).await?, draft))
}

async fn view(
    who: &Who,
    file: &CaseFile,
    draft: &ReportDraft,
    loaded: Option<Loaded>,
    wrong: Wrongs,
) -> Result<BuilderPage, Failure> {
    let show = show_of(who, draft);
    let next = next_number(file, draft.id);
    let body = match file.visit.as_ref().zip(loaded) {
        Some((visit, loaded)) => {
            let heading = aloud(draft.language, || Heading {
                title: title_of(&show, file, draft),
                made: say!("Draft of version {next}. {body}", next, body = super::body::practice(who, file)),
                before: before(&show, file, draft),
            });
            Some(rendered(&ReportBody::of(who, file, visit, draft, heading, loaded).await?)?)
        }
        None => None,
    };
    Ok(BuilderPage {
        report: draft.id,
        title: draft.title.clone(),
        reader: draft.reader.id(),
        detail: draft.detail.id(),
        paper: draft.paper.id(),
        units: draft.us_units.map_or("", |us| if us { "us" } else { "metric" }),
        language: draft.language.id(),
        visit: draft.visit.map(|v| v.to_string()).unwrap_or_default(),
        items: item_rows(file, draft),
        choices: [
            kinds(ReportReader::ALL, |r| (r.id(), known(r.words()))),
            details(),
            units(),
            papers(),
            visits(&who.show(), file),
            languages(),
        ],
        blocks: file.reports.blocks.iter().map(|b| (b.id, b.heading.clone())).collect(),
        versions: version_rows(&show, file, draft.id),
        next,
        body,
        wrong,
        may_sign: who.may(Right::Review),
        signs_as: known(who.person.role.words()),
        last: last_change(who, file, TABLES),
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, REPORT),
    })
}

/// A report being put together.
pub async fn page(who: Who, Path((job, report)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let (file, draft) = load(&scope, job, report).await?;
    let loaded = Loaded::of(&scope, &file, &draft).await?;
    drop(scope);
    Ok(view(&who, &file, &draft, Some(loaded), Vec::new()).await?.into_response())
}

/// A name no other report of the job has.
fn unlike(file: &CaseFile, reader: ReportReader) -> String {
    let named = |n: usize| if n == 1 { say!("Report").to_owned() } else { say!("Report {n}", n) };
    let taken = |name: &str| file.reports.drafts.iter().any(|d| d.reader == reader && d.title == name);
    (1..=file.reports.drafts.len() + 1).map(named).find(|n| !taken(n)).unwrap_or_else(|| named(1))
}

/// Begins a report, changes it, or takes it away.
pub async fn act(who: Who, Path(job): Path<Uuid>, Form(typed): Form<Typed>) -> Result<Response, Failure> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let act = |what: String| Act::new(id, job, who.person.consultant_id, Utc::now(), what);
    let address = |report: Uuid| format!("/jobs/{job}/reports/{report}");
    if text("act") == "begin" {
        let reader = ReportReader::from_id(text("reader")).ok_or_else(|| Failure::BadForm("reader".into()))?;
        if scope.acted(job, id).await? {
            return Ok(Redirect::to(&address(id)).into_response());
        }
        let draft = ReportDraft::usual(id, reader, unlike(&file, reader));
        let what = say!("Began a report for the {reader}", reader = known(reader.words()));
        if !scope.keep_report(&act(what), &draft, false).await? {
            return Err(Failure::Busy);
        }
        scope.commit().await?;
        return Ok(Redirect::to(&address(id)).into_response());
    }
    let report: Uuid = text("report").parse().map_err(|_| Failure::BadForm("report".into()))?;
    let was = file.reports.drafts.iter().find(|d| d.id == report).ok_or(Failure::NotFound)?;
    if text("act") == "delete" {
        scope.keep_report(&act(say!("Removed the report {was}", was = was.title)), was, true).await?;
        scope.commit().await?;
        return Ok(Redirect::to(&REPORT.of(&job.to_string())).into_response());
    }
    let (mut draft, wrong) = read(&file, was, &typed, &who.show());
    let at = change(&file, &mut draft, text("act")).ok_or_else(|| Failure::BadForm("act".into()))?;
    if !wrong.is_empty() {
        drop(scope);
        let page = view(&who, &file, &draft, None, wrong).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    if !scope.acted(job, id).await? {
        scope.keep_report(&act(say!("Changed the report {draft}", draft = draft.title)), &draft, false).await?;
    }
    scope.commit().await?;
    let at = if text("act") == "save" { String::new() } else { format!("#item-{at}") };
    Ok(Redirect::to(&format!("{}{at}", address(report))).into_response())
}

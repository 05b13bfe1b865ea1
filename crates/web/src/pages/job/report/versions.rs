//! Versions of a report: made once, never changed, signed, printed.

use super::body::{Heading, Loaded, ReportBody, practice, show_of};
use super::builder::{before, load, next_number, title_of};
use super::remarks::{Refused, Remarks};
use super::{language_of, rendered};
use crate::access::Right;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::pages::job::thermal;
use crate::pages::shared::{Signed, signed};
use crate::places::REPORT;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::header;
use axum::response::{IntoResponse, Redirect, Response};
use casework::{CaseFile, InView};
use chrono::Utc;
use language::{Language, aloud, known, say};
use report::{at_home, seal};
use serde::Deserialize;
use store::{Depth, PhotoSize, ReportImage, ReportVersion, Scope, Signature, TaskKind, TaskState};
use uuid::Uuid;

/// Longest words one signs as, characters.
const LONGEST: usize = 120;

#[derive(Template, WebTemplate)]
#[template(path = "report/version.html")]
struct VersionPage {
    frame: Frame,
    job: JobFrame,
    version: Uuid,
    report: Uuid,
    n: i32,
    title: String,
    body: String,
    /// The language it is in.
    speaks: Language,
    signed: Vec<Signed>,
    /// Whether it is printed with these signatures.
    printed: bool,
    /// Why it could not be.
    failed: Option<String>,
    remarks: Remarks,
    may_sign: bool,
    signs_as: &'static str,
    act_id: Uuid,
}

impl VersionPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// A version, by the job it is of.
async fn version_of(scope: &Scope, job: Uuid, id: Uuid) -> Result<(ReportVersion, String), Failure> {
    scope.version(id).await?.filter(|(v, _)| v.job_id == job).ok_or(Failure::NotFound)
}

/// A version as it went out.
pub async fn page(who: Who, Path((job, id)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    Ok(shown(&who, job, id, None).await?.into_response())
}

/// The same with a remark that was not kept.
pub async fn shown(who: &Who, job: Uuid, id: Uuid, refused: Option<Refused>) -> Result<impl IntoResponse, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let scope = who.scope().await?;
    let (version, html) = version_of(&scope, job, id).await?;
    let signatures: Vec<Signature> = file.reports.signatures.iter().filter(|s| s.version_id == id).cloned().collect();
    let printed = scope.has_pdf(id, signatures.len()).await?;
    let task = scope.tasks(job).await?.into_iter().find(|t| t.kind == TaskKind::Print && t.subject_id == id);
    drop(scope);
    let speaks = language_of(&version);
    let remarks = Remarks::of(who, &file, id, &format!("/jobs/{job}/reports/versions/{id}"));
    Ok(VersionPage {
        frame: Frame::of(who, &file),
        job: JobFrame::new(&file, REPORT),
        version: id,
        report: version.report_id,
        n: version.n,
        speaks,
        title: version.title,
        body: at_home(&html, &format!("/jobs/{job}/reports/versions/{id}")),
        may_sign: who.may(Right::Review) && signatures.iter().all(|s| s.consultant_id != who.person.consultant_id),
        signed: aloud(speaks, || signed(&who.show(), &signatures)),
        remarks: match refused {
            Some(refused) => remarks.refused(refused),
            None => remarks,
        },
        printed,
        failed: task.filter(|t| t.state == TaskState::Failed).map(|t| t.said),
        signs_as: known(who.person.role.words()),
        act_id: Uuid::now_v7(),
    })
}

#[derive(Deserialize)]
#[serde(default)]
#[derive(Default)]
pub struct Publishing {
    id: Option<Uuid>,
    /// Whether whoever makes it signs it at once.
    sign: Option<String>,
    signs_as: String,
}

impl Publishing {
    fn signs_as(&self) -> String {
        self.signs_as.chars().filter(|c| !c.is_control()).take(LONGEST).collect::<String>().trim().to_owned()
    }
}

/// Makes the next version of a report.
pub async fn publish(
    who: Who,
    Path((job, report)): Path<(Uuid, Uuid)>,
    Form(form): Form<Publishing>,
) -> Result<Redirect, Failure> {
    let id = form.id.ok_or_else(|| Failure::BadForm("id of a version".into()))?;
    let address = format!("/jobs/{job}/reports/versions/{id}");
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    if scope.version(id).await?.is_some() {
        return Ok(Redirect::to(&address));
    }
    let (file, draft) = load(&scope, job, report).await?;
    let visit = file.visit.clone().ok_or(Failure::NotFound)?;
    let loaded = Loaded::of(&scope, &file, &draft).await?;
    let (show, now, n) = (show_of(&who, &draft), Utc::now(), next_number(&file, report));
    let heading = aloud(draft.language, || Heading {
        title: title_of(&show, &file, &draft),
        made: say!(
            "Version {n}, {now}, by {who}. {practice}",
            n,
            now = show.day(now),
            who = who.person.name,
            practice = practice(&who, &file)
        ),
        before: before(&show, &file, &draft),
    });
    let title = heading.title.clone();
    let body = ReportBody::of(&who, &file, &visit, &draft, heading, loaded).await?;
    let sealed = seal(&rendered(&body)?);
    let images = pictures(&scope, &file, &sealed.images).await?;
    let said = serde_json::to_value(&draft).map_err(|e| Failure::Defect(e.to_string()))?;
    let facts = serde_json::to_value(body.says()).map_err(|e| Failure::Defect(e.to_string()))?;
    let by = who.person.consultant_id;
    let title = title.chars().take(200).collect();
    let version =
        ReportVersion { id, job_id: job, report_id: report, n, title, said, facts, consultant_id: by, made_at: now };
    scope.keep_version(version, sealed.html, images).await?;
    if form.sign.is_some() && who.may(Right::Review) {
        scope.sign(signature(&who, job, id, &form)).await?;
    }
    scope.audit(Uuid::now_v7(), Some(by), &say!("Made version {n} of a report", n), Some(job)).await?;
    scope.commit().await?;
    Ok(Redirect::to(&address))
}

fn signature(who: &Who, job_id: Uuid, version_id: Uuid, form: &Publishing) -> Signature {
    Signature {
        id: Uuid::now_v7(),
        job_id,
        version_id,
        consultant_id: who.person.consultant_id,
        name: who.person.name.clone(),
        signs_as: form.signs_as(),
        at: Utc::now(),
    }
}

/// Pictures of a report, read from where they stand in the program.
async fn pictures(scope: &Scope, file: &CaseFile, addresses: &[String]) -> Result<Vec<ReportImage>, Failure> {
    let mut all = Vec::new();
    for address in addresses {
        let path: Vec<&str> = address.trim_start_matches('/').split('/').collect();
        let image = |kind: &str, bytes| ReportImage { media_type: kind.into(), bytes };
        let one = match path.as_slice() {
            ["jobs", _, "photos", id, _] => {
                let id = id.parse().map_err(|_| Failure::NotFound)?;
                let (_, bytes) = scope.photo_file(file.job.id, id, PhotoSize::View).await?.ok_or(Failure::NotFound)?;
                image("image/jpeg", bytes)
            }
            ["jobs", _, "thermal", id, _] => {
                let id = id.parse().map_err(|_| Failure::NotFound)?;
                image("image/png", thermal::alone(scope, file, id).await?)
            }
            ["practice", "logo"] => image("image/jpeg", scope.logo().await?.ok_or(Failure::NotFound)?),
            other => return Err(Failure::Defect(format!("a report with a picture at {other:?}"))),
        };
        all.push(one);
    }
    Ok(all)
}

/// Signs a version, or has it printed again.
pub async fn sign(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<Publishing>,
) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    version_of(&scope, job, id).await?;
    if form.sign.is_some() {
        scope.sign(signature(&who, job, id, &form)).await?;
    } else {
        scope.ask(TaskKind::Print, id, job).await?;
    }
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/reports/versions/{id}")))
}

/// A picture of a version.
pub async fn image(who: Who, Path((job, id, n)): Path<(Uuid, Uuid, i32)>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    version_of(&scope, job, id).await?;
    picture(&scope, id, n).await
}

/// A picture of a version, as an answer.
pub async fn picture(scope: &Scope, version: Uuid, n: i32) -> Result<Response, Failure> {
    let image = scope.report_image(version, n).await?.ok_or(Failure::NotFound)?;
    // What came in with a job says of itself what it is: nothing but a picture is given out as one.
    if !["image/jpeg", "image/png"].contains(&image.media_type.as_str()) {
        return Err(Failure::NotFound);
    }
    let head = [(header::CONTENT_TYPE, image.media_type), (header::CACHE_CONTROL, "private, max-age=3600".to_owned())];
    Ok((head, image.bytes).into_response())
}

/// A version as printed.
pub async fn pdf(who: Who, Path((job, id)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let (version, _) = version_of(&scope, job, id).await?;
    printed(&scope, &version).await
}

/// A version as printed, as an answer.
pub async fn printed(scope: &Scope, version: &ReportVersion) -> Result<Response, Failure> {
    let signed = scope.signatures(version.id).await?.len();
    let bytes = scope.pdf(version.id, signed).await?.ok_or(Failure::NotFound)?;
    let name: String = version.title.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let head = [
        (header::CONTENT_TYPE, "application/pdf".to_owned()),
        (header::CONTENT_DISPOSITION, format!("inline; filename=\"{}-{}.pdf\"", name.trim_matches('-'), version.n)),
    ];
    Ok((head, bytes).into_response())
}

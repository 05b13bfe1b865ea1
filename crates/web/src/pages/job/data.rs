//! The whole job as open data, and its erasing.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::fields::Typed;
use crate::pages::parcels::{self, ParcelRow, rows};
use crate::places::DATA;
use crate::state::App;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::{CaseFile, InView};
use language::say;
use store::{Depth, ParcelKind, Scope};
use uuid::Uuid;

#[derive(Template, WebTemplate)]
#[template(path = "data/job.html")]
struct DataPage {
    frame: Frame,
    job: JobFrame,
    parcels: Vec<ParcelRow>,
    wrong: Option<String>,
    typed: String,
    act_id: Uuid,
}

impl DataPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    fn busy(&self) -> bool {
        self.parcels.iter().any(|p| p.busy)
    }
}

async fn view(
    who: &Who,
    scope: &Scope,
    file: &CaseFile,
    wrong: Option<String>,
    typed: String,
) -> Result<DataPage, Failure> {
    let id = file.job.id;
    let (all, tasks) = (scope.parcels(Some(id)).await?, scope.tasks(id).await?);
    Ok(DataPage {
        parcels: rows(&who.show(), &all, &tasks, &format!("/jobs/{id}/data")),
        wrong,
        typed,
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, DATA),
    })
}

/// Files of a job.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let scope = who.scope().await?;
    Ok(view(&who, &scope, &file, None, String::new()).await?.into_response())
}

/// Asks for a file, or erases the job.
pub async fn act(who: Who, Path(job): Path<Uuid>, Form(typed): Form<Typed>) -> Result<Response, Failure> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id".into()))?;
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    if text("act") == "erase" {
        if text("name") != file.job.name {
            let why = say!("Type its name as it stands: {file}", file = file.job.name);
            let page = view(&who, &scope, &file, Some(why), text("name").to_owned()).await?;
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
        }
        scope.erase_job(job).await?;
        scope
            .audit(Uuid::now_v7(), Some(who.person.consultant_id), say!("Erased a job with everything of it"), None)
            .await?;
        scope.commit().await?;
        return Ok(Redirect::to("/docket").into_response());
    }
    let kind = [ParcelKind::Json, ParcelKind::Csv, ParcelKind::Xlsx].into_iter().find(|k| k.id() == text("act"));
    let kind = kind.ok_or_else(|| Failure::BadForm("act".into()))?;
    if !parcels::ask(&who, &scope, id, kind, Some((job, &file.job.name))).await? {
        return Err(Failure::Busy);
    }
    scope.commit().await?;
    Ok(Redirect::to(&DATA.of(&job.to_string())).into_response())
}

/// A file of a job.
pub async fn give(
    State(app): State<App>,
    who: Who,
    Path((job, parcel)): Path<(Uuid, Uuid)>,
) -> Result<Response, Failure> {
    let row = who.scope().await?.parcel(parcel).await?.filter(|p| p.job_id == Some(job)).ok_or(Failure::NotFound)?;
    parcels::give(app, &who, row)
}

//! What people of the practice say to one another about a version of a report or a visit.

use super::{shown, versions};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::CaseFile;
use chrono::Utc;
use language::say;
use serde::Deserialize;
use store::{MOST_REMARKS, Remark};
use uuid::Uuid;

/// Longest, characters.
const LONGEST: usize = 4000;

/// What was said, and where more is said.
pub struct Remarks {
    /// Where a form goes.
    pub to: String,
    pub all: Vec<Said>,
    pub id: Uuid,
    /// What was typed and could not be kept, and why.
    pub typed: String,
    pub wrong: Option<String>,
}

/// Something said.
pub struct Said {
    pub by: String,
    pub when: String,
    pub words: String,
}

impl Remarks {
    /// About a version or a visit of a job, at its address.
    pub fn of(who: &Who, file: &CaseFile, about: Uuid, at: &str) -> Self {
        let show = who.show();
        let own = file.reports.remarks.iter().filter(|r| r.version_id == Some(about) || r.visit_id == Some(about));
        let said = |r: &Remark| Said {
            by: file.people.get(&r.consultant_id).cloned().unwrap_or_default(),
            when: show.moment(r.at),
            words: r.words.clone(),
        };
        Self {
            to: format!("{at}/remarks"),
            all: own.map(said).collect(),
            id: Uuid::now_v7(),
            typed: String::new(),
            wrong: None,
        }
    }

    /// With what was typed and why it was not kept.
    pub fn refused(self, refused: Refused) -> Self {
        Self { typed: refused.words, wrong: Some(refused.why), ..self }
    }
}

/// A remark that was not kept.
pub struct Refused {
    words: String,
    why: String,
}

#[derive(Deserialize)]
pub struct RemarkForm {
    id: Uuid,
    #[serde(default)]
    words: String,
}

impl RemarkForm {
    /// Keeps it, or gives it back with the reason.
    async fn keep(
        self,
        who: &Who,
        job: Uuid,
        (version_id, visit_id): (Option<Uuid>, Option<Uuid>),
    ) -> Result<Option<Refused>, Failure> {
        let scope = who.scope().await?;
        let known = match (version_id, visit_id) {
            (Some(id), _) => scope.version(id).await?.is_some_and(|(v, _)| v.job_id == job),
            (_, Some(id)) => scope.visits(job).await?.iter().any(|v| v.id == id),
            _ => false,
        };
        if !known {
            return Err(Failure::NotFound);
        }
        let words = self.words.replace("\r\n", "\n").trim().to_owned();
        let length = words.chars().count();
        let (by, at) = (who.person.consultant_id, Utc::now());
        let said =
            Remark { id: self.id, job_id: job, version_id, visit_id, consultant_id: by, words: words.clone(), at };
        let why = match length {
            0 => say!("Write a few words.").to_owned(),
            1..=LONGEST if scope.remark(said).await? => {
                scope.commit().await?;
                return Ok(None);
            }
            1..=LONGEST => {
                say!("{most_remarks} remarks about a job are there: it takes no more.", most_remarks = MOST_REMARKS)
            }
            _ => say!("{length} characters; {longest} at most.", length, longest = LONGEST),
        };
        Ok(Some(Refused { words, why }))
    }
}

/// Says something about a version.
pub async fn about_version(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<RemarkForm>,
) -> Result<Response, Failure> {
    match form.keep(&who, job, (Some(id), None)).await? {
        None => Ok(Redirect::to(&format!("/jobs/{job}/reports/versions/{id}#remarks")).into_response()),
        refused => {
            Ok((StatusCode::UNPROCESSABLE_ENTITY, versions::shown(&who, job, id, refused).await?).into_response())
        }
    }
}

/// Says something about a visit.
pub async fn about_visit(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<RemarkForm>,
) -> Result<Response, Failure> {
    match form.keep(&who, job, (None, Some(id))).await? {
        None => Ok(Redirect::to(&format!("/jobs/{job}/visits/{id}/report#remarks")).into_response()),
        refused => Ok((StatusCode::UNPROCESSABLE_ENTITY, shown(&who, job, id, refused).await?).into_response()),
    }
}

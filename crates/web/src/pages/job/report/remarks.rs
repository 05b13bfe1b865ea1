//! What people of the practice say to one another about a version of a report or a visit.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use axum::response::Redirect;
use casework::CaseFile;
use chrono::Utc;
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
    pub longest: usize,
    /// Nothing more is taken.
    pub full: bool,
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
            longest: LONGEST,
            full: file.reports.remarks.len() as u64 >= MOST_REMARKS,
        }
    }
}

#[derive(Deserialize)]
pub struct RemarkForm {
    id: Uuid,
    #[serde(default)]
    words: String,
}

impl RemarkForm {
    /// As it may be kept: nothing of it is lost but what is too long for any remark.
    fn words(&self) -> String {
        self.words.replace("\r\n", "\n").trim().chars().take(LONGEST).collect()
    }

    async fn keep(self, who: &Who, job: Uuid, version: Option<Uuid>, visit: Option<Uuid>) -> Result<(), Failure> {
        let words = self.words();
        let scope = who.scope().await?;
        let known = match (version, visit) {
            (Some(id), _) => scope.version(id).await?.is_some_and(|(v, _)| v.job_id == job),
            (_, Some(id)) => scope.visits(job).await?.iter().any(|v| v.id == id),
            _ => false,
        };
        if !known {
            return Err(Failure::NotFound);
        }
        // Nothing said is nothing kept.
        if words.is_empty() {
            return Ok(());
        }
        scope
            .remark(Remark {
                id: self.id,
                job_id: job,
                version_id: version,
                visit_id: visit,
                consultant_id: who.person.consultant_id,
                words,
                at: Utc::now(),
            })
            .await?;
        Ok(scope.commit().await?)
    }
}

/// Says something about a version.
pub async fn about_version(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<RemarkForm>,
) -> Result<Redirect, Failure> {
    form.keep(&who, job, Some(id), None).await?;
    Ok(Redirect::to(&format!("/jobs/{job}/reports/versions/{id}#remarks")))
}

/// Says something about a visit.
pub async fn about_visit(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<RemarkForm>,
) -> Result<Redirect, Failure> {
    form.keep(&who, job, None, Some(id)).await?;
    Ok(Redirect::to(&format!("/jobs/{job}/visits/{id}/report#remarks")))
}

//! Loading a job: its records, the part of its log that counts, and what its moisture maps amount to.

use crate::file::{CaseFile, FileError, InView};
use crate::log::Logged;
use crate::mapped;
use chrono::{DateTime, Utc};
use std::sync::Arc;
use store::{Depth, Scope};
use uuid::Uuid;

impl CaseFile {
    /// Loads a job of this practice.
    ///
    /// # Errors
    /// [`FileError::NotFound`] for another practice's job or another job's visit, [`FileError::Store`] when the database does
    /// not answer.
    pub async fn load(scope: &Scope, job: Uuid, view: InView, depth: Depth) -> Result<Self, FileError> {
        let mut records = scope.job_file(job, depth).await?.ok_or(FileError::NotFound)?;
        let mut logged = Logged::of(std::mem::take(&mut records.log));
        let series = logged.series.clone();
        let mut file = Self::of(records, view, Utc::now())?;
        file.series = series;
        if depth >= Depth::Argument {
            let before = file.before_the_one_in_view();
            let ends = [file.visit.as_ref(), before].map(|visit| file.counts(&logged, visit));
            let mut spans: Vec<[DateTime<Utc>; 2]> = ends.into_iter().flatten().collect();
            spans.dedup();
            if !spans.is_empty() {
                logged.load(scope, &spans).await?;
                file.logged = Some(Arc::new(logged));
            }
            file.mapped = mapped::facts(&file);
        }
        Ok(file)
    }
}

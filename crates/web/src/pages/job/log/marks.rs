//! What somebody marks in a log: an event, a note on a moment, readings left out and taken back.

use super::view::shown;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::pages::office::preferences::local;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::MarkKind;
use casework::InView;
use chrono::{DateTime, Datelike, NaiveDateTime, TimeDelta, Utc};
use language::say;
use notation::Show;
use serde::Deserialize;
use store::{Act, Depth, LogMark};
use uuid::Uuid;

/// What usually happens between visits.
pub const USUAL: [&str; 8] = [
    "vents closed",
    "vents opened",
    "fan on",
    "fan off",
    "dehumidifier on",
    "dehumidifier off",
    "people away",
    "heating on",
];
/// Longest words of a mark, characters.
const LONGEST: usize = 120;
/// Longest note, characters.
const LONGEST_NOTE: usize = 2000;
/// Most marks of a job.
const MOST: usize = 1000;
/// Longest stretch of readings left out at once.
const LONGEST_SPAN: TimeDelta = TimeDelta::days(3 * 366);

#[derive(Deserialize, Default)]
pub struct MarkForm {
    pub id: Uuid,
    #[serde(default)]
    pub kind: String,
    #[serde(default)]
    pub what: String,
    #[serde(default)]
    pub note: String,
    #[serde(default)]
    pub from: String,
    #[serde(default)]
    pub until: String,
    #[serde(default)]
    pub space: String,
    #[serde(default)]
    pub series: String,
    #[serde(default)]
    pub next: String,
}

/// A moment as a field holds it, by the practice's clock; one that ends in Z is universal.
pub fn moment(show: &Show, text: &str) -> Option<DateTime<Utc>> {
    let text = text.trim().replace(' ', "T");
    let (clock, universal) = text.strip_suffix('Z').map_or((text.as_str(), false), |clock| (clock, true));
    let clock =
        ["%Y-%m-%dT%H:%M:%S", "%Y-%m-%dT%H:%M"].iter().find_map(|f| NaiveDateTime::parse_from_str(clock, f).ok())?;
    let at = if universal { Some(clock.and_utc()) } else { show.instant(clock) };
    // No log has a moment outside of these, and the database none of those a calendar of ours can write.
    at.filter(|at| (1970..2200).contains(&at.year()))
}

impl MarkForm {
    /// The mark it makes; what is wrong with it, in words.
    fn mark(&self, show: &Show, job: Uuid, by: Uuid) -> Result<LogMark, String> {
        let kind = MarkKind::from_id(&self.kind).unwrap_or(MarkKind::Event);
        let from_at = moment(show, &self.from).ok_or(say!("Say when: a day and a time, like 2026-07-14 13:30."))?;
        let until_at = match self.until.trim() {
            "" => None,
            text => Some(moment(show, text).ok_or(say!("Until when is a day and a time, like 2026-07-14 13:30."))?),
        };
        if until_at.is_some_and(|u| u <= from_at) {
            return Err(say!("It ends before it begins.").into());
        }
        let what = self.what.trim();
        if what.is_empty() && kind != MarkKind::LeftOut {
            return Err(say!("Say what happened, in a few words.").into());
        }
        if what.chars().count() > LONGEST || self.note.chars().count() > LONGEST_NOTE {
            return Err(say!("{longest} characters at most; more goes into the note.", longest = LONGEST));
        }
        if kind == MarkKind::LeftOut && until_at.is_none_or(|u| u - from_at > LONGEST_SPAN) {
            return Err(say!("Say from when until when readings are to be left out, three years at most.").into());
        }
        Ok(LogMark {
            id: self.id,
            job_id: job,
            consultant_id: by,
            kind,
            series_id: self.series.parse().ok(),
            // What is left out is left out wherever it is looked at.
            space_id: self.space.parse().ok().filter(|_| kind != MarkKind::LeftOut),
            from_at,
            until_at,
            what: if what.is_empty() { say!("left out").into() } else { what.to_owned() },
            note: self.note.trim().to_owned(),
            removed: false,
        })
    }
}

/// The log with the form as it was sent, and what is wrong with it.
async fn again(who: &Who, job: Uuid, form: MarkForm, why: String) -> Result<Response, Failure> {
    let query = form.next.split_once('?').map_or("", |(_, query)| query);
    let view = serde_urlencoded::from_str(query).unwrap_or_default();
    let page = shown(who, job, &view, Typed { form, error: Some(why) }).await?;
    Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response())
}

/// The form of a mark, and what is wrong with it.
#[derive(Default)]
pub struct Typed {
    pub form: MarkForm,
    pub error: Option<String>,
}

/// Keeps a mark.
pub async fn add(who: Who, Path(job): Path<Uuid>, Form(form): Form<MarkForm>) -> Result<Response, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let own = format!("/jobs/{job}/log");
    let next = Some(local(&form.next)).filter(|n| n.starts_with(&own)).unwrap_or(&own).to_owned();
    let mark = match form.mark(&who.show(), job, who.person.consultant_id) {
        Ok(mark) => mark,
        Err(why) => return again(&who, job, form, why).await,
    };
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let parts = scope.log_parts(job).await?;
    if mark.space_id.is_some_and(|id| loaded.building.space(id).is_none()) {
        return again(&who, job, form, say!("That space is no longer there.").into()).await;
    }
    if let Some(id) = mark.series_id
        && !parts.series.iter().any(|s| s.id == id)
    {
        return again(&who, job, form, say!("That sensor is no longer there.").into()).await;
    }
    if parts.marks.len() >= MOST {
        let why = say!("This log has {most} marks, the most there can be: remove some first.", most = MOST);
        return again(&who, job, form, why).await;
    }
    let words = if mark.kind == MarkKind::LeftOut { say!("Left readings out") } else { say!("Marked in the log") };
    let act = Act::new(form.id, job, who.person.consultant_id, Utc::now(), format!("{words}: {}", mark.what));
    scope.keep_mark(&act, mark).await?;
    scope.commit().await?;
    Ok(Redirect::to(&next).into_response())
}

#[derive(Deserialize)]
pub struct Gone {
    id: Uuid,
    #[serde(default)]
    next: String,
}

/// Takes a mark away: readings left out come back.
pub async fn remove(
    who: Who,
    Path((job, mark)): Path<(Uuid, Uuid)>,
    Form(form): Form<Gone>,
) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let own = format!("/jobs/{job}/log");
    let next = Some(local(&form.next)).filter(|n| n.starts_with(&own)).unwrap_or(&own).to_owned();
    let row = scope.log_mark(job, mark).await?.ok_or(Failure::NotFound)?;
    let words = if row.kind == MarkKind::LeftOut { say!("Took readings back") } else { say!("Removed from the log") };
    let act = Act::new(form.id, job, who.person.consultant_id, Utc::now(), format!("{words}: {}", row.what));
    scope.keep_mark(&act, LogMark { removed: true, ..row }).await?;
    scope.commit().await?;
    Ok(Redirect::to(&next).into_response())
}

//! What is looked at again: put on the calendar from a plan, done, moved or dropped with a reason.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::PLAN;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Climate;
use casework::plan::Planned;
use casework::{CaseFile, InView};
use chrono::{DateTime, Datelike, NaiveDate, Utc};
use judgment::plan::{FollowUp, follow_up, follow_ups};
use language::{known, known_of, retold, say};
use notation::day;
use serde::Deserialize;
use std::collections::HashMap;
use store::FollowUpState;
use store::{Act, Depth, FollowUpRecord};
use uuid::Uuid;

/// Longest reason, characters.
const LONGEST_REASON: usize = 2000;
/// Farthest a follow-up can be moved, days.
const FARTHEST: i64 = 3660;

/// One that stands on the calendar, or stood.
pub struct Row {
    pub id: Uuid,
    pub name: String,
    pub note: String,
    pub due: String,
    /// As a field of a form takes it.
    pub due_on: NaiveDate,
    pub open: bool,
    pub late: bool,
    /// How it ended.
    pub ended: String,
    pub act_id: Uuid,
}

/// One the plan asks for that is not on the calendar yet.
pub struct Proposed {
    pub name: &'static str,
    pub rhythm: String,
    pub due: String,
}

/// Days since 1970 and back.
fn count(date: NaiveDate) -> i64 {
    date.signed_duration_since(NaiveDate::default()).num_days()
}

fn date(days: i64) -> NaiveDate {
    NaiveDate::default() + chrono::Duration::days(days)
}

/// The next day a follow-up is due.
fn next(f: &FollowUp, begun: NaiveDate, after: NaiveDate, climate: Climate) -> Option<NaiveDate> {
    f.next(count(begun), count(after), climate, |d| i64::from(date(d).ordinal0())).map(date)
}

/// Rows in words, open ones first.
pub fn rows(all: &[FollowUpRecord], today: NaiveDate) -> Vec<Row> {
    let row = |f: &FollowUpRecord| Row {
        id: f.id,
        name: known_of(&f.name),
        note: known_of(&f.note),
        due: day(f.due_on),
        due_on: f.due_on,
        open: f.state == FollowUpState::Open,
        late: f.state == FollowUpState::Open && f.due_on < today,
        ended: match (f.state, f.reason.is_empty()) {
            (FollowUpState::Open, _) => String::new(),
            (state, true) => known(state.words()).to_owned(),
            (state, false) => format!("{}: {}", known(state.words()), f.reason),
        },
        act_id: Uuid::now_v7(),
    };
    let (open, ended): (Vec<&FollowUpRecord>, Vec<&FollowUpRecord>) =
        all.iter().partition(|f| f.state == FollowUpState::Open);
    open.into_iter().chain(ended.into_iter().rev()).map(row).collect()
}

/// What the plan asks for and nobody has put on the calendar.
pub fn proposed(planned: Planned<'_>, today: NaiveDate) -> Vec<Proposed> {
    missing(planned)
        .filter_map(|f| {
            let due = next(f, today, today, planned.file.job.climate)?;
            Some(Proposed { name: known(&f.name), rhythm: retold(&f.rhythm()), due: day(due) })
        })
        .collect()
}

fn missing(planned: Planned<'_>) -> impl Iterator<Item = &'static FollowUp> {
    let situation = planned.situation();
    let there = |f: &FollowUp| planned.file.decided.follow_ups.iter().any(|r| r.what == f.id);
    let all: Vec<&'static FollowUp> = follow_ups().iter().filter(|f| f.belongs(&situation) && !there(f)).collect();
    all.into_iter()
}

fn row_of(
    f: &FollowUp,
    (job, by): (Uuid, Uuid),
    begun: NaiveDate,
    due: NaiveDate,
    at: DateTime<Utc>,
) -> FollowUpRecord {
    FollowUpRecord {
        id: Uuid::now_v7(),
        job_id: job,
        what: f.id.clone(),
        name: f.name.clone(),
        note: f.note.clone(),
        begun_on: begun,
        due_on: due,
        state: FollowUpState::Open,
        reason: String::new(),
        updated_by: by,
        updated_at: at,
        removed: false,
    }
}

#[derive(Deserialize)]
pub struct Put {
    id: Uuid,
}

/// Puts what the plan asks for on the calendar.
pub async fn put(who: Who, Path(job): Path<Uuid>, Form(form): Form<Put>) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let page = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let now = Utc::now();
    let planned = page.planned();
    let today = who.show().today(now);
    let owner = (job, who.person.consultant_id);
    let rows: Vec<FollowUpRecord> = missing(planned)
        .filter_map(|f| Some(row_of(f, owner, today, next(f, today, today, page.job.climate)?, now)))
        .collect();
    let act = Act::new(
        form.id,
        job,
        who.person.consultant_id,
        now,
        say!("Put {rows} follow-ups on the calendar", rows = rows.len()),
    );
    scope.keep_follow_ups(&act, rows).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/plan#again")))
}

#[derive(Template, WebTemplate)]
#[template(path = "follow_up.html")]
struct FollowUpPage {
    frame: Frame,
    job: JobFrame,
    row: Row,
    rhythm: String,
    /// Where to go on.
    back: String,
    reason: String,
    due_on: String,
    error: Option<String>,
}

#[derive(Deserialize, Default)]
pub struct View {
    #[serde(default)]
    back: String,
}

/// One follow-up, to be done, moved or dropped.
pub async fn page(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Query(view): Query<View>,
) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    Ok(view_of(&who, &file, id, view.back)?.into_response())
}

fn view_of(who: &Who, file: &CaseFile, id: Uuid, back: String) -> Result<FollowUpPage, Failure> {
    let kept = file.decided.follow_ups.iter().find(|f| f.id == id).ok_or(Failure::NotFound)?;
    let row = rows(std::slice::from_ref(kept), who.show().today(Utc::now())).pop().ok_or(Failure::NotFound)?;
    Ok(FollowUpPage {
        frame: Frame::of(who, file),
        job: JobFrame::new(file, PLAN),
        rhythm: follow_up(&kept.what).map(|f| retold(&f.rhythm())).unwrap_or_default(),
        due_on: row.due_on.to_string(),
        row,
        back,
        reason: String::new(),
        error: None,
    })
}

building::kinds! {
    /// What is done to a follow-up.
    FollowUpAct {
        /// It was looked at.
        Done = "done", "Done";
        /// It is looked at on another day.
        Moved = "moved", "Moved";
        /// It is no longer wanted.
        Dropped = "dropped", "Dropped";
    }
}

/// Done, moved or dropped; what comes back is put on the calendar again.
pub async fn keep(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let field = |name: &str| form.get(name).map_or("", |t| t.trim());
    let act_id: Uuid = field("id").parse().map_err(|_| Failure::BadForm("id".into()))?;
    let back = if field("back") == "docket" { "/docket".to_owned() } else { format!("/jobs/{job}/plan#again") };
    let scope = who.scope().await?;
    // Two who end the same one do so one after the other.
    scope.hold_job(job).await?;
    if scope.acted(job, act_id).await? {
        return Ok(Redirect::to(&back).into_response());
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let row = file.decided.follow_ups.iter().find(|f| f.id == id).cloned().ok_or(Failure::NotFound)?;
    let now = Utc::now();
    let today = who.show().today(now);
    let reason = field("reason").to_owned();
    let due_on = field("due_on").parse::<NaiveDate>().ok();
    let away = due_on.map(|d| (d - today).num_days());
    let Some(act) = FollowUpAct::from_id(field("act")) else { return Err(Failure::BadForm("act".into())) };
    let said = match act {
        _ if row.state != FollowUpState::Open => {
            Some(say!("It is {row} already: nothing was changed.", row = known(row.state.words())))
        }
        _ if reason.chars().count() > LONGEST_REASON => {
            Some(say!("A reason has {longest_reason} characters at most.", longest_reason = LONGEST_REASON))
        }
        FollowUpAct::Dropped if reason.is_empty() => Some(say!("Say why it is dropped.").into()),
        FollowUpAct::Moved if away.is_none() => Some(say!("A day is written like 2027-03-14.").into()),
        FollowUpAct::Moved if away.is_some_and(|d| !(0..=FARTHEST).contains(&d)) => {
            Some(say!("That day is past, or more than ten years away.").into())
        }
        FollowUpAct::Moved if reason.is_empty() => Some(say!("Say why it is moved.").into()),
        _ => None,
    };
    if said.is_some() {
        let mut again = view_of(&who, &file, id, field("back").to_owned())?;
        (again.error, again.reason, again.due_on) = (said, reason, field("due_on").to_owned());
        let status =
            if row.state == FollowUpState::Open { StatusCode::UNPROCESSABLE_ENTITY } else { StatusCode::CONFLICT };
        return Ok((status, again).into_response());
    }
    let name = row.name.clone();
    let changed = match act {
        FollowUpAct::Done => {
            let begun = row.begun_on;
            let again = follow_up(&row.what).and_then(|f| Some((f, next(f, begun, today, file.job.climate)?)));
            let owner = (job, who.person.consultant_id);
            let again = again.map(|(f, due)| row_of(f, owner, begun, due, now));
            let done = FollowUpRecord { state: FollowUpState::Done, reason, ..row };
            std::iter::once(done).chain(again).collect()
        }
        FollowUpAct::Dropped => vec![FollowUpRecord { state: FollowUpState::Dropped, reason, ..row }],
        FollowUpAct::Moved => vec![FollowUpRecord { due_on: due_on.unwrap_or(row.due_on), reason, ..row }],
    };
    let act = Act::new(act_id, job, who.person.consultant_id, now, format!("{}: {name}", known(act.words())));
    scope.keep_follow_ups(&act, changed).await?;
    scope.commit().await?;
    Ok(Redirect::to(&back).into_response())
}

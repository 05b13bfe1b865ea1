//! A job's history: every change, visit and reading with who and when, and the button that takes a change back.

use crate::access::Right;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::SECTION;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::InView;
use chrono::{DateTime, Utc};
use language::say;
use serde::Deserialize;
use store::{Act, Depth, RESTORABLE_DAYS, Undone};
use uuid::Uuid;
use wording::history::told;
use wording::log;

/// Events on a page.
const PER_PAGE: usize = 100;
/// As far back as pages go.
const LAST_PAGE: usize = 1_000;

#[derive(Template, WebTemplate)]
#[template(path = "history.html")]
struct HistoryPage {
    frame: Frame,
    job: JobFrame,
    days: Vec<(String, Vec<Event>)>,
    refused: Option<String>,
    page: usize,
    older: bool,
    restorable_days: i64,
}

struct Event {
    at: DateTime<Utc>,
    clock: String,
    who: String,
    what: String,
    lines: Vec<String>,
    /// A change that can be taken back, with the id its undoing will have.
    undo: Option<(Uuid, Uuid)>,
    undone: bool,
}

#[derive(Deserialize)]
pub struct View {
    page: Option<usize>,
}

/// The history, latest first.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    Ok(show(&who, job, view.page.unwrap_or(1), None).await?.into_response())
}

async fn show(who: &Who, job: Uuid, page: usize, refused: Option<String>) -> Result<HistoryPage, Failure> {
    let scope = who.scope().await?;
    let loaded = who.file(job, InView::Latest, Depth::Argument).await?;
    let names = &loaded.people;
    let name = |id: &Uuid| names.get(id).cloned().unwrap_or_default();
    let (shown, now) = (who.show(), Utc::now());
    let event =
        |at, who, what| Event { at, clock: shown.clock(at), who, what, lines: Vec::new(), undo: None, undone: false };
    let mut events = Vec::new();
    // Any of the events shown may be a change, and one more says that there are older ones.
    let page = page.clamp(1, LAST_PAGE);
    for change in scope.changes(job, Some((page * PER_PAGE + 1) as u64)).await? {
        let recent = (now - change.at).num_days() < RESTORABLE_DAYS;
        events.push(Event {
            lines: if change.id == job { Vec::new() } else { told(&shown, &change) },
            undo: (recent && !change.undone && change.id != job).then(|| (change.id, Uuid::now_v7())),
            undone: change.undone,
            ..event(change.at, name(&change.by), change.what.clone())
        });
    }
    for visit in &loaded.visits {
        let number = loaded.visit_number(visit.id);
        events.push(event(visit.started_at, name(&visit.consultant_id), say!("Started visit {number}", number)));
        events.extend(
            visit.ended_at.map(|at| event(at, name(&visit.consultant_id), say!("Finished visit {number}", number))),
        );
    }
    for row in &loaded.rows {
        let place = loaded.station_name(row.station_id);
        let what = match row.replaces {
            None => say!("Read {place}: {log}", place, log = log::value(&shown, row)),
            Some(id) => {
                let before = loaded.row(id).map(|b| log::value(&shown, b)).unwrap_or_default();
                say!("Corrected {place}: {before} → {log}", place, before, log = log::value(&shown, row))
            }
        };
        let lines = if row.reason.is_empty() { Vec::new() } else { vec![row.reason.clone()] };
        events.push(Event { lines, ..event(row.taken_at, name(&row.consultant_id), what) });
    }
    events.sort_by_key(|e| std::cmp::Reverse(e.at));
    let page = page.clamp(1, events.len().div_ceil(PER_PAGE).max(1));
    let older = events.len() > page * PER_PAGE;
    let mut days: Vec<(String, Vec<Event>)> = Vec::new();
    for event in events.into_iter().skip((page - 1) * PER_PAGE).take(PER_PAGE) {
        let day = shown.day(event.at);
        match days.last_mut() {
            Some((last, list)) if *last == day => list.push(event),
            _ => days.push((day, vec![event])),
        }
    }
    Ok(HistoryPage {
        frame: Frame::new(who),
        job: JobFrame::new(&loaded, SECTION),
        days,
        refused,
        page,
        older,
        restorable_days: RESTORABLE_DAYS,
    })
}

#[derive(Deserialize)]
pub struct UndoForm {
    id: Uuid,
    change: Uuid,
    #[serde(default)]
    back: String,
}

/// Takes a change back, or says what stands in the way.
pub async fn undo(who: Who, Path(job): Path<Uuid>, Form(form): Form<UndoForm>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let change = scope.change(job, form.change).await?.ok_or(Failure::NotFound)?;
    // Who only visits takes back what they did themselves; what was decided, those who decide.
    if change.by != who.person.consultant_id && !who.may(Right::Decide) {
        return Err(Failure::NotAllowed(Right::Decide));
    }
    let what = change.what;
    let act = Act::new(form.id, job, who.person.consultant_id, Utc::now(), say!("Undid: {what}", what));
    let refused = match scope.undo(&act, form.change).await? {
        Undone::Done => {
            scope.commit().await?;
            let back = match form.back.as_str() {
                "building" | "build-ups" | "call" | "findings" | "photos" | "why" | "plan" | "thermal" | "log"
                | "log/files" | "log/alerts" | "log/budget" | "drying" | "coating" => {
                    format!("/jobs/{job}/{}", form.back)
                }
                "docket" => "/docket".into(),
                _ => format!("/jobs/{job}/history"),
            };
            return Ok(Redirect::to(&back).into_response());
        }
        Undone::Unknown => return Err(Failure::NotFound),
        Undone::TooOld => {
            say!("“{what}” is more than {restorable_days} days old.", what, restorable_days = RESTORABLE_DAYS)
        }
        Undone::Blocked(why) => say!("“{what}” was not undone: {why}.", what, why),
    };
    drop(scope);
    let again = show(&who, job, 1, Some(refused)).await?;
    Ok((StatusCode::CONFLICT, again).into_response())
}

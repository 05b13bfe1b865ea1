//! Follow-ups as an iCalendar feed (RFC 5545) under a secret address that can be taken back.
//!
//! The secret stands in the query, which is never logged; only its hash is kept.

use crate::auth::{Who, csrf};
use crate::error::Failure;
use crate::extract::{Form, Query};
use crate::state::App;
use crate::view::Frame;
use crate::view::pages::{At, Pages};
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::State;
use axum::http::{HeaderMap, header};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use icalendar::{Calendar, Component, Event, EventLike};
use language::say;
use serde::Deserialize;
use uuid::Uuid;

#[derive(Template, WebTemplate)]
#[template(path = "calendar.html")]
struct CalendarPage {
    frame: Frame,
    /// The address just made: shown once.
    address: Option<String>,
    /// Id of the next one.
    new_id: Uuid,
    feeds: Vec<Row>,
    due: Vec<super::docket::Due>,
    pages: Pages,
}

/// Follow-ups on a page, and in the feed: no calendar program is served by more.
const PER_PAGE: u64 = 100;
const FEED: u64 = 2_000;

struct Row {
    key: String,
    /// By whom, and when.
    made: String,
    read: String,
}

async fn view_of(who: &Who, address: Option<String>, at: At) -> Result<CalendarPage, Failure> {
    let scope = who.scope().await?;
    let (show, tongue) = (who.show(), who.language());
    let names = scope.consultant_names().await?;
    let feeds = scope.feeds().await?.into_iter().map(|f| Row {
        key: f.key,
        made: {
            let by = names.get(&f.by).cloned().unwrap_or_default();
            tongue.say_with("calendar-made", &[("by", by.into()), ("moment", show.moment(f.created_at).into())])
        },
        read: match f.read_at {
            None => tongue.say("calendar-never"),
            Some(at) => tongue.say_with("calendar-was-read", &[("moment", show.moment(at).into())]),
        },
    });
    let feeds = feeds.collect();
    let (due, found) = super::docket::due(who, &scope, None, at.from(PER_PAGE).1, PER_PAGE).await?;
    Ok(CalendarPage {
        frame: Frame::new(who),
        address,
        new_id: Uuid::now_v7(),
        feeds,
        due,
        pages: Pages::new("/calendar", "found-follow-ups", at, PER_PAGE, found).speaking(who.language()),
    })
}

/// Every follow-up of the practice, and the calendars that read them.
pub async fn page(who: Who, Query(at): Query<At>) -> Result<impl IntoResponse, Failure> {
    view_of(&who, None, at).await
}

#[derive(Deserialize)]
pub struct Change {
    /// `open` or `revoke`.
    act: CalendarAct,
    #[serde(default)]
    key: String,
    id: Option<Uuid>,
}

/// What is done to a calendar's address.
#[derive(Clone, Copy, Deserialize)]
#[serde(rename_all = "snake_case")]
enum CalendarAct {
    /// A new one is made.
    Open,
    /// One is taken back.
    Revoke,
}

/// Lets a calendar in, or shuts one out.
pub async fn change(
    State(app): State<App>,
    who: Who,
    headers: HeaderMap,
    Form(form): Form<Change>,
) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    match form.act {
        CalendarAct::Open => {
            // Follows from the form's id and what only this server knows: sent twice, it is the same address.
            let id = form.id.unwrap_or_else(Uuid::new_v4);
            let secret = csrf::mark(&app, &format!("calendar {who} {id}", who = who.person.consultant_id))?;
            scope.open_feed(&secret, who.person.consultant_id, Utc::now()).await?;
            scope.commit().await?;
            let host = headers.get(header::HOST).and_then(|h| h.to_str().ok()).unwrap_or("localhost");
            let https = headers.get("x-forwarded-proto").is_some_and(|p| p == "https");
            let address =
                format!("{https}://{host}/calendar.ics?key={secret}", https = if https { "https" } else { "http" });
            Ok(view_of(&who, Some(address), At::default()).await?.into_response())
        }
        CalendarAct::Revoke => {
            scope.revoke_feed(&form.key, Utc::now()).await?;
            scope.commit().await?;
            Ok(Redirect::to("/calendar").into_response())
        }
    }
}

#[derive(Deserialize)]
pub struct Key {
    #[serde(default)]
    key: String,
}

/// The feed: open follow-ups as days, the soonest when there are very many.
pub async fn feed(State(app): State<App>, Query(key): Query<Key>) -> Result<Response, Failure> {
    let scope = app.store.feed_reader(&key.key, Utc::now()).await?.ok_or(Failure::NotFound)?;
    let (rows, _) = scope.open_follow_ups(None, 0, FEED).await?;
    let jobs = scope.jobs_by_id(&rows.iter().map(|f| f.job_id).collect::<Vec<_>>()).await?;
    // Not prefilled: what makes this file is Gutteral.
    let mut calendar = Calendar::empty();
    for property in [("VERSION", "2.0"), ("PRODID", "-//Gutteral//Follow-ups//EN"), ("CALSCALE", "GREGORIAN")] {
        calendar.append_property(property);
    }
    calendar.name(say!("Gutteral follow-ups"));
    for f in rows {
        let Some(job) = jobs.get(&f.job_id) else { continue };
        let event = Event::new()
            .uid(&format!("{id}@gutteral", id = f.id))
            .timestamp(f.updated_at)
            .summary(&format!("{}: {}", job.name, f.name))
            .description(&f.note)
            .location(&job.address)
            // A day without an end lasts that day; an end would have to be the next.
            .starts(f.due_on)
            .done();
        calendar.push(event);
    }
    scope.commit().await?;
    let kind = [(header::CONTENT_TYPE, "text/calendar; charset=utf-8")];
    Ok((kind, calendar.done().to_string()).into_response())
}

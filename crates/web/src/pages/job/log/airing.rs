//! When to open up: over what was logged, and over the weather to come.

use super::view::{SPANS, Tab};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::AIRING;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::RawQuery;
use axum::http::header;
use axum::response::{IntoResponse, Redirect, Response};
use casework::log::{Aired, Airing, LogView, OLDEST, SpaceLog, Span};
use casework::{CaseFile, InView};
use chrono::{DateTime, TimeDelta, Utc};
use drawing::log::{Sheet, Strip, StripOf, strip};
use icalendar::{Calendar, Component, Event, EventLike};
use language::say;
use notation::Show;
use notation::number::{brief, fixed, plain_number};
use serde::Deserialize;
use std::sync::Arc;
use store::{Depth, Forecast, TaskKind, TaskState};
use uuid::Uuid;
use wording::airing::{ahead, past, window};
use wording::hours::Stretch;

/// Air changes an hour of a space opened up, where nobody says: a window tilted or two hatches (common practice).
const USUAL: f64 = 4.0;
/// What can be said of it.
const CHANGES: [f64; 2] = [0.1, 60.0];
/// A forecast older than this is asked for again.
const FRESH: TimeDelta = TimeDelta::hours(1);

#[derive(Template, WebTemplate)]
#[template(path = "log/airing.html")]
struct AiringPage {
    frame: Frame,
    job: JobFrame,
    spaces: Vec<Tab>,
    spans: Vec<Tab>,
    shown: Option<Shown>,
    typed: String,
    error: Option<String>,
    /// How the forecast stands.
    told: Told,
}

/// What is shown of a space.
struct Shown {
    space: Uuid,
    past: Vec<Stretch>,
    past_strips: [Strip; 2],
    ahead: Option<Ahead>,
    /// Why nothing is said of the weather to come.
    no_ahead: String,
    coldest: Option<String>,
    flow: String,
}

/// The weather to come.
struct Ahead {
    words: Vec<Stretch>,
    strips: [Strip; 2],
    windows: Vec<(String, String)>,
}

/// How the forecast stands.
struct Told {
    /// When it was told.
    when: Option<String>,
    /// Whether to ask for it now.
    ask: bool,
    /// Whether it is being asked for.
    asking: bool,
    /// Why it was not told.
    failed: Option<String>,
    /// Where it is asked for.
    address: String,
}

#[derive(Deserialize, Default)]
pub struct View {
    space: Option<Uuid>,
    span: Option<String>,
    changes: Option<String>,
}

impl View {
    fn changes(&self) -> Result<f64, String> {
        let Some(typed) = self.changes.as_deref().map(str::trim).filter(|t| !t.is_empty()) else { return Ok(USUAL) };
        let [low, high] = CHANGES;
        match plain_number(typed) {
            Ok(n) if (low..=high).contains(&n) => Ok(n),
            _ => Err(say!("Air changes an hour must be {low} to {high}.", low = fixed(low, 1), high = fixed(high, 0))),
        }
    }
}

/// What a page or a calendar is made of.
struct Loaded {
    file: Arc<CaseFile>,
    log: Option<LogView>,
    forecast: Forecast,
    now: DateTime<Utc>,
}

impl Loaded {
    async fn of(who: &Who, job: Uuid, view: &View) -> Result<Self, Failure> {
        let file = who.file(job, InView::Latest, Depth::Visit).await?;
        let scope = who.scope().await?;
        let parts = scope.log_parts(job).await?;
        let days = SPANS.iter().find(|s| Some(s.0) == view.span.as_deref()).unwrap_or(&SPANS[1]).2;
        let log = LogView::load(&scope, &file, parts, Span::Last(TimeDelta::days(days))).await?;
        Ok(Self { file, log, forecast: scope.forecast(job).await?, now: Utc::now() })
    }

    fn space(&self, asked: Option<Uuid>) -> Option<(&LogView, &SpaceLog)> {
        let log = self.log.as_ref()?;
        Some((log, asked.and_then(|id| log.space(id)).or_else(|| log.worst())?))
    }

    fn airing(&self, view: &View) -> Option<(&SpaceLog, Airing)> {
        let (log, space) = self.space(view.space)?;
        let changes = view.changes().unwrap_or(USUAL);
        let airing = Airing::of(&self.file, log, space, changes, (self.now, &self.forecast.hours))?;
        Some((space, airing))
    }

    fn told(&self, show: &Show, airing: Option<&Airing>, address: String) -> Told {
        let state = self.forecast.asking.as_ref();
        let asking = self.forecast.is_asked();
        let old = self.forecast.told_at.is_none_or(|at| self.now - at > FRESH);
        let failed = state.filter(|(s, _)| *s == TaskState::Failed).map(|(_, said)| said.clone());
        // Without the space’s own air the weather says nothing of it.
        let heard = airing.is_some_and(|a| a.last_at.is_some_and(|at| self.now - at <= OLDEST));
        Told {
            address,
            when: self.forecast.told_at.map(|at| show.moment(at)),
            ask: heard && old && !asking && failed.is_none(),
            asking,
            failed,
        }
    }
}

fn strips(show: &Show, aired: &Aired) -> [Strip; 2] {
    let hours = i64::try_from(aired.said.removal_l.len()).unwrap_or(0);
    [Sheet::DESK, Sheet::PHONE].map(|sheet| {
        strip(&StripOf {
            sheet,
            liters: &aired.said.removal_l,
            open: &aired.said.open,
            span: [aired.from, aired.from + TimeDelta::hours(hours)],
            show,
        })
    })
}

impl Shown {
    fn of(show: &Show, loaded: &Loaded, space: &SpaceLog, airing: &Airing) -> Self {
        let building = &loaded.file.building;
        let told = airing.ahead.as_ref().map(|aired| Ahead {
            words: ahead(show, building, space.id, aired),
            strips: strips(show, aired),
            windows: aired.said.open.iter().map(|w| (window(show, aired, *w), gives(show, aired, *w))).collect(),
        });
        let no_ahead = match airing.last_at {
            Some(at) if loaded.now - at > OLDEST => say!(
                "It was logged last on {at}: how its air is now nobody knows. Hang a live logger, or bring its file in.",
                at = show.moment(at)
            ),
            _ => String::new(),
        };
        let coldest = airing.coldest.and_then(|(id, t)| {
            Some(say!("{building} at {t}", building = building.surface(id)?.name, t = show.temperature(t)))
        });
        Self {
            space: space.id,
            past: past(show, building, space.id, airing),
            past_strips: strips(show, &airing.past),
            ahead: told,
            no_ahead,
            coldest,
            flow: show.airflow(airing.flow.get()),
        }
    }
}

fn gives(show: &Show, aired: &Aired, [first, last]: [usize; 2]) -> String {
    let liters: f64 = aired.said.removal_l[first..last].iter().sum();
    notation::unit::LITERS.text(liters, show.units)
}

/// When to open up.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let loaded = Loaded::of(&who, job, &view).await?;
    let show = who.show();
    let airing = loaded.airing(&view);
    let here = airing.as_ref().map(|(space, _)| space.id);
    let base = format!("/jobs/{job}/log/airing");
    let changes = view.changes.clone().unwrap_or_default();
    let tab = |href: String, name: &str, here: bool| Tab { href, name: name.to_owned(), here };
    let span = view.span.as_deref().unwrap_or("2w");
    let building = &loaded.file.building;
    let logged = || loaded.log.iter().flat_map(|l| &l.spaces);
    let kept = if changes.is_empty() {
        String::new()
    } else {
        format!("&changes={brief}", brief = brief(view.changes().unwrap_or(USUAL)))
    };
    Ok(AiringPage {
        frame: Frame::of(&who, &loaded.file),
        job: JobFrame::new(&loaded.file, AIRING),
        spaces: logged()
            .map(|s| {
                let name = building.space(s.id).map_or("", |x| x.name.as_str());
                tab(format!("{base}?space={id}&span={span}{kept}", id = s.id), name, Some(s.id) == here)
            })
            .collect(),
        spans: SPANS
            .iter()
            .map(|(id, words, _)| {
                let space = here.map(|id| format!("&space={id}")).unwrap_or_default();
                tab(format!("{base}?span={id}{space}{kept}"), words, *id == span)
            })
            .collect(),
        shown: airing.as_ref().map(|(space, airing)| Shown::of(&show, &loaded, space, airing)),
        error: view.changes().err(),
        typed: if changes.is_empty() { brief(USUAL) } else { changes },
        told: loaded.told(
            &show,
            airing.as_ref().map(|(_, a)| a),
            format!(
                "{base}/forecast?span={span}{here}{kept}",
                here = here.map(|id| format!("&space={id}")).unwrap_or_default()
            ),
        ),
    })
}

/// Asks for the weather to come.
pub async fn ask(who: Who, Path(job): Path<Uuid>, RawQuery(query): RawQuery) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    scope.job(job).await?.ok_or(Failure::NotFound)?;
    scope.ask(TaskKind::Forecast, job, job).await?;
    scope.commit().await?;
    Ok(Redirect::to(&match query.as_deref() {
        Some("back=drying") => format!("/jobs/{job}/drying"),
        Some("back=coating") => format!("/jobs/{job}/coating"),
        Some(query) => format!("/jobs/{job}/log/airing?{query}"),
        None => format!("/jobs/{job}/log/airing"),
    }))
}

/// The windows to come as calendar entries.
pub async fn calendar(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let loaded = Loaded::of(&who, job, &view).await?;
    let show = who.show();
    let mut calendar = Calendar::empty();
    for property in [("VERSION", "2.0"), ("PRODID", "-//Gutteral//Airing//EN"), ("CALSCALE", "GREGORIAN")] {
        calendar.append_property(property);
    }
    calendar.name(&say!("Airing: {loaded}", loaded = loaded.file.job.name));
    let airing = loaded.airing(&view);
    let ahead = airing.iter().filter_map(|(space, airing)| Some((space.id, airing.ahead.as_ref()?)));
    for (space, aired) in ahead {
        let name = loaded.file.building.space(space).map_or("", |s| s.name.as_str());
        for w in &aired.said.open {
            let at = |hour: usize| aired.from + TimeDelta::hours(i64::try_from(hour).unwrap_or(0));
            let event = Event::new()
                .uid(&format!("{space}-{timestamp}@gutteral", timestamp = at(w[0]).timestamp()))
                .timestamp(loaded.now)
                .summary(&say!("Open up: {name}", name))
                .description(&say!("Outdoor air carries {gives} out.", gives = gives(&show, aired, *w)))
                .location(&loaded.file.job.address)
                .starts(at(w[0]))
                .ends(at(w[1]))
                .done();
            calendar.push(event);
        }
    }
    let kind = [(header::CONTENT_TYPE, "text/calendar; charset=utf-8")];
    Ok((kind, calendar.done().to_string()).into_response())
}

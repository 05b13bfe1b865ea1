//! Loggers that post to a job by themselves: which sensor hangs where; and the word that new readings are there.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::places::LOG;
use crate::state::App;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::extract::State;
use axum::http::StatusCode;
use axum::response::sse::{Event, KeepAlive, Sse};
use axum::response::{IntoResponse, Redirect, Response};
use building::{Building, Place, SensorKind};
use casework::InView;
use casework::log::LiveSensor;
use language::{known, say};
use logger::Reads;
use serde::Deserialize;
use serde_json::json;
use std::convert::Infallible;
use std::time::Duration;
use store::{Depth, LogSeries};
use uuid::Uuid;

/// Longest name of a sensor, characters.
const LONGEST: usize = 80;
/// Most sensors of a logger.
const MOST: usize = 100;

#[derive(Template, WebTemplate)]
#[template(path = "log/live.html")]
struct LivePage {
    frame: Frame,
    job: JobFrame,
    loggers: Vec<LoggerRow>,
    choices: Vec<(String, String)>,
    kinds: &'static [SensorKind],
    places: Vec<(&'static str, Vec<(String, String)>)>,
    form: SensorForm,
    error: Option<String>,
}

/// A logger with the sensors it posts of.
struct LoggerRow {
    id: Uuid,
    name: String,
    heard: String,
    here: Vec<(String, &'static str, String, Uuid)>,
    unplaced: Vec<(String, &'static str)>,
    elsewhere: usize,
}

#[derive(Deserialize, Default)]
pub struct SensorForm {
    #[serde(default)]
    logger: String,
    #[serde(default)]
    channel: String,
    #[serde(default)]
    kind: String,
    #[serde(default)]
    place: String,
}

async fn view(who: &Who, job: Uuid, form: SensorForm, error: Option<String>) -> Result<LivePage, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let live = who.scope().await?.live_loggers().await?;
    let show = who.show();
    let b = &loaded.building;
    let row = |l: &store::Live| {
        let sensors: Vec<LiveSensor> = serde_json::from_value(l.goes.clone()).unwrap_or_default();
        let unplaced: Vec<(String, Reads)> = serde_json::from_value(l.unplaced.clone()).unwrap_or_default();
        let instrument = loaded.instrument(l.instrument)?;
        let here = sensors.iter().filter(|s| s.job == job);
        let here: Vec<_> = here
            .filter_map(|s| {
                let words = s.sensor()?.words();
                Some((s.channel.clone(), words, wording::sensor::place(b, s.place()).to_owned(), s.series))
            })
            .collect();
        Some(LoggerRow {
            id: instrument.id,
            name: instrument.name.clone(),
            heard: match (l.token_made_at, l.heard_at) {
                (None, _) => say!("has no token").into(),
                (_, None) => say!("never heard yet").into(),
                (_, Some(at)) => say!("last heard {at}", at = show.moment(at)),
            },
            elsewhere: sensors.len() - here.len(),
            here,
            unplaced: unplaced.into_iter().map(|(channel, r)| (channel, wording::sensor::reads(r))).collect(),
        })
    };
    let loggers = live.iter().filter(|l| l.token_made_at.is_some() || l.goes.as_array().is_some_and(|g| !g.is_empty()));
    Ok(LivePage {
        frame: Frame::of(who, &loaded),
        job: JobFrame::new(&loaded, LOG),
        loggers: loggers.filter_map(row).collect(),
        choices: super::files::loggers(&loaded.instruments),
        kinds: SensorKind::ALL,
        places: places(b),
        form,
        error,
    })
}

fn places(building: &Building) -> Vec<(&'static str, Vec<(String, String)>)> {
    let spaces = building.spaces.iter().map(|s| (s.id.to_string(), s.name.clone()));
    let surfaces = building.surfaces.iter().map(|s| (s.id.to_string(), s.name.clone()));
    let spaces = spaces.chain([("outdoors".to_owned(), say!("Outdoors").to_owned())]).collect();
    vec![(say!("Space"), spaces), (say!("Surface"), surfaces.collect())]
}

/// Which loggers post here.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<impl IntoResponse, Failure> {
    view(&who, job, SensorForm::default(), None).await
}

/// Whether a kind of sensor can be at a place.
fn fits(kind: SensorKind, place: Place) -> bool {
    match kind {
        SensorKind::Air | SensorKind::Pressure | SensorKind::Power => !matches!(place, Place::Surface(_)),
        SensorKind::Surface | SensorKind::Wood | SensorKind::Relative => matches!(place, Place::Surface(_)),
        SensorKind::Rain => place == Place::Outdoors,
        SensorKind::Water => matches!(place, Place::Space(_)),
    }
}

/// Says where a sensor belongs from now on.
pub async fn place(who: Who, Path(job): Path<Uuid>, Form(form): Form<SensorForm>) -> Result<Response, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let building = &loaded.building;
    let place = match form.place.as_str() {
        "outdoors" => Some(Place::Outdoors),
        text => text.parse().ok().and_then(|id: Uuid| {
            let space = building.space(id).map(|s| Place::Space(s.id));
            space.or_else(|| building.surface(id).map(|s| Place::Surface(s.id)))
        }),
    };
    let logger = loaded.instruments.iter().find(|i| i.id.to_string() == form.logger);
    let kind = SensorKind::from_id(&form.kind);
    let wrong = match (logger, kind, place) {
        (None, ..) => Some(say!("Choose the logger; a new one is added on the Bench.").to_owned()),
        (_, None, _) => Some(say!("Say what the sensor reads.").to_owned()),
        (.., None) => Some(say!("Say where it is.").to_owned()),
        (_, Some(kind), Some(place)) if !fits(kind, place) => {
            Some(say!("{kind} is not read there.", kind = known(kind.words())))
        }
        _ if form.channel.chars().count() > LONGEST => {
            Some(say!("A name of {longest} characters at most.", longest = LONGEST))
        }
        _ => None,
    };
    let (Some(logger), Some(kind), Some(place), None) = (logger, kind, place, &wrong) else {
        let page = view(&who, job, form, wrong).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    };
    let scope = who.scope().await?;
    let channel = form.channel.trim().to_owned();
    let new = LogSeries::at((job, logger.id), &channel, kind, place.columns());
    let series = scope.series_at(new).await?;
    let known = scope.live_loggers().await?.into_iter().find(|l| l.instrument == logger.id);
    let (goes, unplaced) = known.map_or((json!([]), json!([])), |l| (l.goes, l.unplaced));
    let mut sensors: Vec<LiveSensor> = serde_json::from_value(goes).unwrap_or_default();
    // Hung elsewhere, it posts there from now on.
    sensors.retain(|s| s.channel != channel || s.sensor() != Some(kind));
    if sensors.len() >= MOST {
        let page = view(&who, job, form, Some(say!("A logger has {most} sensors at most.", most = MOST))).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    let (space, surface) = place.columns();
    let id = space.or(surface);
    let on_surface = surface.is_some();
    sensors.push(LiveSensor { channel: channel.clone(), kind: kind.id().into(), job, id, on_surface, series });
    let mut waiting: Vec<(String, Reads)> = serde_json::from_value(unplaced).unwrap_or_default();
    waiting.retain(|(c, r)| *c != channel || casework::log::sensor_kind(*r, place) != Some(kind));
    scope.place_sensors(logger.id, &json!(sensors), &json!(waiting)).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/log/live")).into_response())
}

#[derive(Deserialize)]
pub struct Taken {
    logger: Uuid,
    series: Uuid,
}

/// A sensor is taken down: what it read stays.
pub async fn take_down(who: Who, Path(job): Path<Uuid>, Form(form): Form<Taken>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    if let Some(live) = scope.live_loggers().await?.into_iter().find(|l| l.instrument == form.logger) {
        let mut sensors: Vec<LiveSensor> = serde_json::from_value(live.goes).unwrap_or_default();
        sensors.retain(|s| s.job != job || s.series != form.series);
        scope.place_sensors(form.logger, &json!(sensors), &live.unplaced).await?;
        scope.commit().await?;
    }
    Ok(Redirect::to(&format!("/jobs/{job}/log/live")).into_response())
}

/// Tells an open page that its log has new readings, whichever process took them.
pub async fn told(State(app): State<App>, who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    who.file(job, InView::Latest, Depth::Visit).await?;
    let place = app.bell.place()?;
    let about = (who.person.practice_id, job);
    let events = futures_util::stream::unfold((app.bell.listen(), place), move |(mut heard, place)| async move {
        loop {
            match heard.recv().await {
                Ok(word) if word == about => {
                    return Some((Ok::<_, Infallible>(Event::default().event("log").data("new")), (heard, place)));
                }
                Ok(_) => {}
                // Too many at once to count: it may have been this one.
                Err(tokio::sync::broadcast::error::RecvError::Lagged(_)) => {
                    return Some((Ok(Event::default().event("log").data("new")), (heard, place)));
                }
                Err(tokio::sync::broadcast::error::RecvError::Closed) => return None,
            }
        }
    });
    Ok(Sse::new(events).keep_alive(KeepAlive::new().interval(Duration::from_secs(20))).into_response())
}

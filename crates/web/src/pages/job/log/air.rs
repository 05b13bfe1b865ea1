//! The air of a job on a moist-air chart: hours of the log, else what a visit read.

use super::view::{SPANS, Tab};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::AIR;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::IntoResponse;
use building::Material;
use casework::log::{HourAir, LogView, Row, Span};
use casework::{CaseFile, InView};
use chrono::TimeDelta;
use drawing::log::{AirChart, AirOf, Cloud, State, SurfaceTick, air_chart};
use notation::{Show, months};
use serde::Deserialize;
use store::Depth;
use uuid::Uuid;

/// Width and height of the chart at a desk and on a phone.
const SHEETS: [[f64; 2]; 2] = [[1232.0, 470.0], [520.0, 480.0]];

#[derive(Template, WebTemplate)]
#[template(path = "log/air.html")]
struct AirPage {
    frame: Frame,
    job: JobFrame,
    spaces: Vec<Tab>,
    spans: Vec<Tab>,
    /// At a desk, and on a phone.
    charts: Option<[AirChart; 2]>,
    head: String,
    here: String,
    span: String,
    /// The month chosen, 1–12; 0 for all.
    month: usize,
    /// The hours chosen, empty for all.
    hours: [String; 2],
    months: [&'static str; 12],
    /// Whether it is of a log, not of a visit.
    logged: bool,
}

#[derive(Deserialize, Default)]
pub struct View {
    space: Option<String>,
    span: Option<String>,
    /// 1–12, or empty for all.
    month: Option<String>,
    /// First and last hour of the day, 0–23; empty for all.
    from_h: Option<String>,
    until_h: Option<String>,
}

impl View {
    fn hour(text: Option<&String>, usual: u32) -> u32 {
        text.and_then(|t| t.trim().parse().ok()).filter(|h| *h < 24).unwrap_or(usual)
    }

    /// Whether an hour of the clock is looked at; from evening to morning runs over midnight.
    fn holds(&self, hour: u32, month: u32) -> bool {
        let (from, until) = (Self::hour(self.from_h.as_ref(), 0), Self::hour(self.until_h.as_ref(), 23));
        let of_day = if from <= until { (from..=until).contains(&hour) } else { hour >= from || hour <= until };
        let asked: Option<u32> = self.month.as_ref().and_then(|m| m.parse().ok());
        of_day && asked.is_none_or(|m| m == month)
    }
}

/// Hours of an air that are looked at, and its mean day.
fn cloud(show: &Show, log: &LogView, view: &View, (name, class): (&str, &'static str), row: &Row<HourAir>) -> Cloud {
    let mut hours: Vec<State> = Vec::new();
    let mut day = vec![([0.0, 0.0], 0_usize); 24];
    for (i, h) in row.iter().enumerate() {
        let Some(h) = h else { continue };
        let at = log.at(i);
        let (hour, month) = (show.hour(at), show.month(at));
        if !view.holds(hour, month) {
            continue;
        }
        let state = [h.t_c.mean, h.air.humidity_ratio()];
        hours.push(state);
        if let Some((sum, n)) = day.get_mut(hour as usize) {
            *sum = [sum[0] + state[0], sum[1] + state[1]];
            *n += 1;
        }
    }
    let day = day.into_iter().map(|(sum, n)| (n > 0).then(|| sum.map(|x| x / n as f64))).collect();
    Cloud { name: name.to_owned(), class, hours, day }
}

/// The log's clouds, the space in view last.
fn of_log(show: &Show, file: &CaseFile, log: &LogView, view: &View, here: Uuid) -> (Vec<Cloud>, Vec<SurfaceTick>) {
    let name = |id| file.building.space(id).map_or("", |s| s.name.as_str());
    let mut clouds = vec![cloud(show, log, view, ("outdoors", "outdoors"), &log.outdoors)];
    let beside = log.spaces.iter().filter(|s| s.id != here);
    clouds.extend(beside.map(|s| cloud(show, log, view, (name(s.id), "beside"), &s.air)));
    let Some(space) = log.space(here) else { return (clouds, Vec::new()) };
    clouds.push(cloud(show, log, view, (name(here), "here"), &space.air));
    clouds.retain(|c| !c.hours.is_empty());
    let tick = |s: &casework::log::SurfaceLog| {
        let surface = file.building.surface(s.id).filter(|x| x.material != Material::Soil)?;
        let hours = s.t_c.iter().enumerate().filter(|(i, _)| {
            let at = log.at(*i);
            view.holds(show.hour(at), show.month(at))
        });
        let known: Vec<_> = hours.filter_map(|(_, t)| *t).collect();
        let low = known.iter().map(|t| t.low).fold(f64::INFINITY, f64::min);
        let high = known.iter().map(|t| t.high).fold(f64::NEG_INFINITY, f64::max);
        let mean = known.iter().map(|t| t.mean).sum::<f64>() / known.len() as f64;
        (!known.is_empty()).then(|| SurfaceTick { name: surface.name.clone(), t_c: [mean, low, high] })
    };
    (clouds, space.surfaces.iter().filter_map(tick).take(8).collect())
}

/// What the visit in view read, as clouds of one hour.
fn of_visit(file: &CaseFile, here: Uuid) -> (Vec<Cloud>, Vec<SurfaceTick>) {
    let one =
        |name: &str, class, state: State| Cloud { name: name.to_owned(), class, hours: vec![state], day: Vec::new() };
    let state =
        |air: &building::reading::AirValue| Some([air.t.get(), air.air_at(file.pressure()).ok()?.humidity_ratio()]);
    let mut clouds: Vec<Cloud> = Vec::new();
    clouds.extend(file.picture.outdoor.as_ref().and_then(|o| Some(one("outdoors", "outdoors", state(&o.value)?))));
    let read = file.picture.spaces.iter().filter_map(|s| Some((s.space_id, s.air.as_ref()?)));
    let (own, beside): (Vec<_>, Vec<_>) = read.partition(|(id, _)| *id == here);
    for ((id, air), class) in beside.into_iter().map(|x| (x, "beside")).chain(own.into_iter().map(|x| (x, "here"))) {
        let name = file.building.space(id).map_or("", |s| s.name.as_str());
        clouds.extend(state(&air.value).map(|s| one(name, class, s)));
    }
    let surfaces = file.picture.space(here).map(|s| s.surfaces.as_slice()).unwrap_or_default();
    let tick = |s: &judgment::picture::SurfaceState| {
        let t = s.read.as_ref()?.t.get();
        let surface = file.building.surface(s.surface_id).filter(|x| x.material != Material::Soil)?;
        Some(SurfaceTick { name: surface.name.clone(), t_c: [t; 3] })
    };
    (clouds, surfaces.iter().filter_map(tick).take(8).collect())
}

/// The air.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    let show = who.show();
    let scope = who.scope().await?;
    let parts = scope.log_parts(job).await?;
    let span = view.span.as_deref().unwrap_or("2w");
    let days = SPANS.iter().find(|s| s.0 == span).unwrap_or(&SPANS[1]).2;
    let log = LogView::load(&scope, &file, parts, Span::Last(TimeDelta::days(days))).await?;
    let log = log.filter(|l| !l.spaces.is_empty());
    let asked: Option<Uuid> = view.space.as_deref().and_then(|s| s.parse().ok());
    let known: Vec<Uuid> = match &log {
        Some(log) => log.spaces.iter().map(|s| s.id).collect(),
        None => file.picture.spaces.iter().filter(|s| s.air.is_some()).map(|s| s.space_id).collect(),
    };
    let usual = log.as_ref().and_then(|l| l.worst()).map(|s| s.id).or(known.first().copied());
    let here = asked.filter(|id| known.contains(id)).or(usual);
    let (clouds, surfaces) = match (&log, here) {
        (Some(log), Some(here)) => of_log(&show, &file, log, &view, here),
        (None, Some(here)) => of_visit(&file, here),
        _ => (Vec::new(), Vec::new()),
    };
    let is_here = clouds.last().is_some_and(|c| c.class == "here");
    let head = wording::airing::state(&show, file.pressure(), clouds.last().filter(|_| is_here), &surfaces);
    let drawn = |[width, height]: [f64; 2]| {
        air_chart(&AirOf {
            width,
            height,
            pressure: file.pressure(),
            clouds: &clouds,
            surfaces: &surfaces,
            show: &show,
        })
    };
    let [desk, phone] = SHEETS.map(drawn);
    let base = format!("/jobs/{job}/log/air");
    let kept = format!(
        "&month={view}&from_h={view2}&until_h={view3}",
        view = view.month.as_deref().and_then(|m| m.parse::<u8>().ok()).map_or_else(String::new, |m| m.to_string()),
        view2 = view.from_h.as_ref().map_or_else(String::new, |_| View::hour(view.from_h.as_ref(), 0).to_string()),
        view3 = view.until_h.as_ref().map_or_else(String::new, |_| View::hour(view.until_h.as_ref(), 23).to_string())
    );
    let tab = |href: String, name: &str, here: bool| Tab { href, name: name.to_owned(), here };
    let name = |id| file.building.space(id).map_or("", |s| s.name.as_str());
    let of_space = here.map(|id| format!("&space={id}")).unwrap_or_default();
    Ok(AirPage {
        frame: Frame::of(&who, &file),
        job: JobFrame::new(&file, AIR),
        spaces: known
            .iter()
            .map(|id| tab(format!("{base}?space={id}&span={span}{kept}"), name(*id), Some(*id) == here))
            .collect(),
        spans: SPANS
            .iter()
            .map(|(id, words, _)| tab(format!("{base}?span={id}{of_space}{kept}"), words, *id == span))
            .collect(),
        charts: desk.zip(phone).filter(|_| is_here).map(|(a, b)| [a, b]),
        head,
        logged: log.is_some(),
        here: here.map(|id| id.to_string()).unwrap_or_default(),
        span: span.to_owned(),
        month: view.month.as_deref().and_then(|m| m.parse().ok()).unwrap_or(0),
        hours: [view.from_h.unwrap_or_default(), view.until_h.unwrap_or_default()],
        months: months(),
    })
}

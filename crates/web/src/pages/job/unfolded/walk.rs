//! Walking an edge or a grid with a meter: one figure a key press, place after place.

use super::form::Wrong;
use super::sight::{faces, materials, scales, too_many};
use super::{address as sheet_address, laid};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::pages::job::round::usual_instrument;
use crate::places::UNFOLDED;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::{IntoResponse, Response};
use building::unfold::{FalseWet, MapScale, Route, RouteKind, SPACING, Stop};
use building::{InstrumentKind, Material};
use casework::mapped::false_wets;
use casework::{CaseFile, InView};
use drawing::unfolded::{Flat, FlatSheet};
use judgment::limits::Limited;
use judgment::map::refusal;
use language::{known, known_of, retold};
use notation::Show;
use notation::unit::LENGTH;
use serde::Deserialize;
use std::fmt::Write;
use store::{Depth, Instrument, MapReading, MoistureMap};
use uuid::Uuid;
use wording::map::whereabouts;

/// Width and height of the sheet on a phone, px.
const SHEET: [f64; 2] = [700.0, 620.0];

/// The usual spacing of a way, m.
pub const fn usual_spacing(kind: RouteKind) -> f64 {
    match kind {
        RouteKind::Edge => 0.1,
        RouteKind::Grid => 0.25,
    }
}

/// The address of a way at a spacing.
pub fn address(job: Uuid, space: Uuid, route: &str, spacing: f64) -> String {
    let route = route.replace(' ', "+");
    format!("/jobs/{job}/unfolded/walk?space={space}&route={route}&every={spacing}")
}

/// The address of a walk begun before.
pub fn resumed(job: Uuid, map: &MoistureMap) -> String {
    format!("{address}&map={map}", address = address(job, map.space_id, &map.route, map.spacing_m), map = map.id)
}

/// Which way, and a walk begun before.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct Way {
    space: Option<Uuid>,
    route: String,
    /// m, or as typed.
    every: String,
    map: Option<Uuid>,
}

/// A walk as it is sent: all its figures so far, each time.
#[derive(Deserialize, Default, Clone)]
#[serde(default)]
pub struct WalkForm {
    pub id: String,
    pub space: String,
    pub route: String,
    pub every: String,
    pub instrument: String,
    pub scale: String,
    pub material: String,
    pub species: String,
    pub standard: String,
    pub standard_at: String,
    pub reason: String,
    pub figures: String,
    /// One more, where no script put it behind the others.
    pub figure: String,
    pub at: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "unfolded_walk.html")]
pub(super) struct WalkPage {
    frame: Frame,
    job: JobFrame,
    /// Back to the sheet.
    back: String,
    name: String,
    space_name: String,
    sheet: FlatSheet,
    /// Places on the drawing, `x y` each.
    stops: String,
    /// Where each is, in words.
    labels: String,
    form: WalkForm,
    instruments: Vec<Instrument>,
    scales: Vec<(String, String)>,
    materials: Vec<(String, String)>,
    species: Vec<(String, String)>,
    /// Scale, material and why: where a meter may not speak on this way.
    refusals: String,
    /// Percent of the standard up to which it is dry, and from which high; and the same of wood.
    limits: [f64; 4],
    false_wets: &'static [FalseWet],
    wrong: Vec<Wrong>,
    routes: Vec<(String, String)>,
    spacings: Vec<(String, String, bool)>,
    space: Uuid,
    route: String,
}

impl WalkPage {
    fn error(&self, field: &str) -> Option<String> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.clone())
    }
}

/// The way named, with its places.
pub(super) fn find(
    file: &CaseFile,
    space: Option<Uuid>,
    route: &str,
    every: f64,
) -> Result<(Route, Result<Vec<Stop>, usize>), Failure> {
    let here = laid(file, space)?;
    let mut routes = here.layout.routes(file.job.structure);
    let at = routes.iter().position(|r| r.id == route).or((route.is_empty()).then_some(0));
    let route = routes.swap_remove(at.ok_or(Failure::NotFound)?);
    let stops = route.stops(&here.layout, every);
    Ok((route, stops))
}

pub(super) fn spacing(text: &str) -> Option<f64> {
    let m: f64 = text.trim().parse().ok()?;
    (SPACING[0]..=SPACING[1]).contains(&m).then_some(m)
}

/// A way to walk, or one begun before.
pub async fn walk(who: Who, Path(job): Path<Uuid>, Query(way): Query<Way>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    let begun = way.map.and_then(|id| file.maps.iter().find(|m| m.id == id));
    let form = match begun {
        Some(map) => {
            let there: Vec<&MapReading> = file.map_readings.iter().filter(|r| r.map_id == map.id).collect();
            begun_form(map, &there)
        }
        None => WalkForm {
            id: Uuid::now_v7().to_string(),
            space: way.space.map_or_else(String::new, |s| s.to_string()),
            route: way.route,
            every: way.every,
            instrument: usual_meter(&file).map_or_else(String::new, |i| i.id.to_string()),
            scale: MapScale::Pinless.id().to_owned(),
            material: Material::Wood.id().to_owned(),
            species: "spruce".to_owned(),
            ..WalkForm::default()
        },
    };
    Ok(walked(&who, &file, form, Vec::new())?.into_response())
}

/// The meter last walked with, else the first moisture meter, else what was last read with.
fn usual_meter(file: &CaseFile) -> Option<&Instrument> {
    let last = file.maps.last().and_then(|m| file.instrument(m.instrument_id));
    let meter = || file.at_hand().into_iter().find(|i| i.kind == InstrumentKind::Moisture);
    last.or_else(meter).or_else(|| usual_instrument(file))
}

/// A walk begun before, as it was typed.
fn begun_form(map: &MoistureMap, there: &[&MapReading]) -> WalkForm {
    let wets = false_wets(map);
    let most = there.iter().map(|r| r.n).max().unwrap_or(-1);
    let typed = (0..=most).map(|n| {
        let figure = there.iter().find(|r| r.n == n).map_or("-", |r| r.as_typed.as_str());
        wets.get(&n).map_or_else(|| figure.to_owned(), |w| format!("{figure}!{}", w.id()))
    });
    WalkForm {
        id: map.id.to_string(),
        space: map.space_id.to_string(),
        route: map.route.clone(),
        every: map.spacing_m.to_string(),
        instrument: map.instrument_id.to_string(),
        scale: map.scale.id().to_owned(),
        material: map.material.id().to_owned(),
        species: map.species.clone(),
        standard: map.standard.map_or_else(String::new, |s| s.to_string()),
        standard_at: map.standard_at.clone(),
        reason: map.reason.clone(),
        figures: typed.collect::<Vec<_>>().join(" "),
        ..WalkForm::default()
    }
}

pub(super) fn walked(who: &Who, file: &CaseFile, form: WalkForm, mut wrong: Vec<Wrong>) -> Result<WalkPage, Failure> {
    let (job, structure, show) = (file.job.id, file.job.structure, who.show());
    let here = laid(file, form.space.parse().ok())?;
    let routes = here.layout.routes(structure);
    let kind = routes.iter().find(|r| r.id == form.route).map_or(RouteKind::Edge, |r| r.kind);
    let every = spacing(&form.every).unwrap_or_else(|| usual_spacing(kind));
    let (route, stops) = find(file, Some(here.space.id), &form.route, every)?;
    let stops = stops.unwrap_or_else(|count| {
        wrong.push(("every", too_many(count, route.kind)));
        Vec::new()
    });
    let flat = Flat::new(&here.layout, SHEET);
    let sheet = here.layout.sheet();
    let place = |s: &Stop| sheet.panel(s.facet).map(|p| whereabouts(&show, &sheet, structure, &p.at(s.point)));
    let mut drawn = String::new();
    for [x, y] in stops.iter().filter_map(|s| flat.stop(s)) {
        let _ = write!(drawn, "{} {} ", drawing::Px(x), drawing::Px(y));
    }
    let limits = file.limits();
    Ok(WalkPage {
        back: sheet_address(job, here.space.id, None),
        name: retold(&route.name),
        space_name: here.space.name.clone(),
        sheet: flat.drawn(&here.layout, structure, who.units()),
        stops: drawn.trim_end().to_owned(),
        labels: stops.iter().filter_map(place).collect::<Vec<_>>().join("|"),
        instruments: file.at_hand().into_iter().cloned().collect(),
        scales: scales(),
        materials: materials(),
        species: hygrothermal::wood::species().iter().map(|s| (s.id.clone(), known_of(&s.name))).collect(),
        refusals: refusals(file, &stops),
        limits: [Limited::MapDry, Limited::MapHigh, Limited::WoodGoal, Limited::WoodWet].map(|l| limits.percent(l)),
        false_wets: FalseWet::ALL,
        wrong,
        routes: routes.into_iter().map(|r| (r.id, retold(&r.name))).collect(),
        spacings: spacings(&show, every),
        space: here.space.id,
        route: route.id,
        form: WalkForm { every: every.to_string(), space: here.space.id.to_string(), ..form },
        frame: Frame::of(who, file),
        job: JobFrame::new(file, UNFOLDED),
    })
}

/// Spacings offered.
fn spacings(show: &Show, every: f64) -> Vec<(String, String, bool)> {
    let mut all = vec![0.05, 0.1, 0.2, 0.25, 0.5, 1.0];
    if !all.iter().any(|m| (m - every).abs() < 1e-9) {
        all.push(every);
        all.sort_by(f64::total_cmp);
    }
    let text = |m: f64| match show.units {
        notation::Units::Metric => format!("{:.0} cm", m * 100.0),
        notation::Units::Us => LENGTH.text(m, show.units),
    };
    all.into_iter().map(|m| (m.to_string(), text(m), (m - every).abs() < 1e-9)).collect()
}

/// What was said of the construction on the call.
pub(super) fn built(file: &CaseFile) -> Vec<String> {
    file.call.as_ref().map(|c| c.call.built.clone()).unwrap_or_default()
}

/// Where a meter may not speak on a way: `scale material why` in lines.
fn refusals(file: &CaseFile, stops: &[Stop]) -> String {
    let (built, faces) = (built(file), faces(stops));
    let mut out = String::new();
    for scale in MapScale::ALL {
        for material in Material::ALL {
            if let Some(why) = faces.iter().find_map(|f| refusal(&built, *f, *scale, *material)) {
                let _ = writeln!(out, "{} {} {}", scale.id(), material.id(), known(why));
            }
        }
    }
    out
}

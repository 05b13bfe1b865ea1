//! A job's home: the drawn cut, and beside it the place in view.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::filters;
use crate::pages::job::findings::{self, Found, weighed};
use crate::pages::job::tests::{self, Run};
use crate::places::SECTION;
use crate::view::at::At;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use building::Spot;
use building::construction::{Construction, Variant};
use building::reading::AirState;
use building::reading::Observed;
use building::{Boundary, Building, Place, Side};
use casework::CaseFile;
use casework::evidence::during;
use drawing::DropMark;
use drawing::section::{Chosen, Drawing, draw};
use judgment::cautions::LOCAL_CODE;
use judgment::picture::severity;
use language::{known, say};
use notation::Show;
use notation::unit::{THICKNESS, TRANSMITTANCE};
use serde::Deserialize;
use std::sync::Arc;
use store::Depth;
use uuid::Uuid;
use wording::advice::{self, SpaceLines};
use wording::log::{self, Entry};
use wording::meter;
use wording::part::part;
use wording::picture::{Shown, Subject, shown};
use wording::{Working, verdict};

/// Most pictures beside the drawing.
const MOST_SHOWN: usize = 6;

#[derive(Template, WebTemplate)]
#[template(path = "section.html")]
pub struct SectionPage {
    frame: Frame,
    job: JobFrame,
    drawing: Option<Arc<Drawing>>,
    /// Address of the section's places, ready for `at=`.
    base: String,
    side: Beside,
    visits: Vec<VisitChoice>,
    /// What was found at the place in view, or anywhere, and which tests run.
    found: Vec<Found>,
    /// The latest pictures of it, and how many more there are.
    photos: Vec<Shown>,
    more_photos: usize,
    running: Vec<Run>,
    open_visit: bool,
    shorthand_id: Uuid,
    local_code: &'static str,
}

/// What stands beside the drawing.
pub enum Beside {
    /// The building as a whole.
    Whole(Whole),
    /// A space or the outdoor air.
    Air(AirPlace),
    /// A boundary.
    Boundary(BoundaryPlace),
    /// A surface.
    Surface(SurfacePlace),
}

/// The building as a whole.
pub struct Whole {
    pub sentence: String,
    /// Surfaces that are not dry, worst first.
    pub worst: Vec<WorstRow>,
    pub dry: Vec<WorstRow>,
    pub advice: Vec<SpaceLines>,
    pub read: bool,
}

/// A surface in the list of the worst.
pub struct WorstRow {
    pub id: Uuid,
    pub name: String,
    pub space: String,
    pub mark: DropMark,
    pub margin: String,
}

/// A space or outdoors.
pub struct AirPlace {
    pub name: String,
    pub kind: String,
    pub dew: Option<(String, String)>,
    pub figures: Vec<(&'static str, String)>,
    pub drives: Vec<(String, String)>,
    pub advice: Option<SpaceLines>,
    pub working: Option<Working>,
    pub entries: Vec<Entry>,
}

/// A surface.
pub struct SurfacePlace {
    pub name: String,
    pub place: String,
    pub margin: Option<(String, String)>,
    pub mark: DropMark,
    pub head: String,
    pub text: String,
    pub figures: Vec<(&'static str, String)>,
    pub working: Option<Working>,
    pub advice: Vec<advice::Line>,
    pub entries: Vec<Entry>,
}

/// A boundary.
pub struct BoundaryPlace {
    pub id: Uuid,
    pub name: String,
    pub place: String,
    pub mark: DropMark,
    pub figures: Vec<(&'static str, String)>,
    pub surfaces: Vec<(Uuid, String)>,
    pub buildup: Option<BuiltUp>,
}

/// A boundary's layers.
pub struct BuiltUp {
    pub name: String,
    /// Material and thickness, inside first.
    pub plies: Vec<(String, String)>,
}

/// A visit to choose.
pub struct VisitChoice {
    pub id: Uuid,
    pub label: String,
    pub current: bool,
}

impl SectionPage {
    /// Whether one place is in view rather than the whole.
    fn place(&self) -> bool {
        !matches!(self.side, Beside::Whole(_))
    }

    fn all_quiet(&self, advice: &SpaceLines) -> bool {
        advice.lines.iter().all(|l| l.quiet)
    }
}

#[derive(Deserialize)]
pub struct View {
    /// The place in view; the whole building without one.
    at: Option<At>,
    visit: Option<Uuid>,
}

/// The section.
pub async fn page(who: Who, Path(id): Path<Uuid>, Query(view): Query<View>) -> Result<SectionPage, Failure> {
    let page = who.file(id, view.visit, Depth::Visit).await?;
    let show = who.show();
    let shell = page.job.structure.shell();
    let findings = weighed(during(&page.findings, page.visit.as_ref()));
    let drawn = || {
        let mut drawing = draw(&show, &page.building, shell, &page.picture, view.at.map(|at| at.0));
        findings.iter().for_each(|f| drawing.flag(f.spot.space_in(&page.building)));
        drawing
    };
    // The whole of it is looked at most: it is drawn once for either system of units.
    let drawing = part(|| match view.at {
        None => page.beside(show.units as u8, drawn),
        Some(_) => Arc::new(drawn()),
    });
    let here = |spot: Spot| match view.at {
        None => true,
        Some(At(Chosen::Outdoors)) => spot == Spot::Whole,
        Some(At(Chosen::Part(at))) => spot.id() == Some(at) || spot.space_in(&page.building) == Some(at),
    };
    let found = findings
        .iter()
        .filter(|f| here(f.spot))
        .map(|f| findings::found(&show, &page.building, f, &page.photos))
        .collect();
    let mut photos: Vec<Shown> = page
        .photos
        .iter()
        .rev()
        .filter(|p| here(Subject::of(p).place(&page.findings)))
        .map(|p| shown(&show, &page.building, &page.findings, p))
        .collect();
    let more_photos = photos.len().saturating_sub(MOST_SHOWN);
    photos.truncate(MOST_SHOWN);
    let now = chrono::Utc::now();
    let running =
        page.tests.iter().filter(|r| r.result.is_none()).map(|r| tests::run(&show, &page.building, r, now)).collect();
    Ok(SectionPage {
        frame: Frame::of(&who, &page),
        base: page.visit.as_ref().map_or_else(|| format!("/jobs/{id}?"), |v| format!("/jobs/{id}?visit={}&", v.id)),
        job: JobFrame::new(&page, SECTION),
        side: side(&show, &page, view.at)?,
        visits: visits(&show, &page),
        found,
        photos,
        more_photos,
        running,
        open_visit: page.open_visit().is_some(),
        shorthand_id: Uuid::now_v7(),
        drawing,
        local_code: LOCAL_CODE,
    })
}

fn visits(show: &Show, page: &CaseFile) -> Vec<VisitChoice> {
    let current = page.visit.as_ref().map(|v| v.id);
    page.visits
        .iter()
        .map(|v| VisitChoice {
            id: v.id,
            label: say!(
                "visit {page}, {started_at}",
                page = page.visit_number(v.id),
                started_at = show.day(v.started_at)
            ),
            current: current == Some(v.id),
        })
        .collect()
}

fn side(show: &Show, page: &CaseFile, at: Option<At>) -> Result<Beside, Failure> {
    let id = match at {
        None => return Ok(Beside::Whole(whole(show, page))),
        Some(At(Chosen::Outdoors)) => return Ok(Beside::Air(air_place(show, page, Place::Outdoors))),
        Some(At(Chosen::Part(id))) => id,
    };
    if page.building.space(id).is_some() {
        return Ok(Beside::Air(air_place(show, page, Place::Space(id))));
    }
    if let Some(b) = page.building.boundary(id) {
        return Ok(Beside::Boundary(boundary_place(show, page, b)));
    }
    surface_place(show, page, id).map(Beside::Surface).ok_or(Failure::NotFound)
}

/// Judged surfaces, worst first.
pub fn worst_first(show: &Show, page: &CaseFile) -> Vec<WorstRow> {
    let mut judged: Vec<_> = page
        .picture
        .spaces
        .iter()
        .flat_map(|s| &s.surfaces)
        .filter_map(|s| Some((s.surface_id, s.read.as_ref()?.judged?)))
        .collect();
    judged.sort_by(|a, b| {
        let margin = |j: &hygrothermal::surface::Judged| j.margin.map_or(f64::INFINITY, |m| m.value);
        severity(b.1.verdict).cmp(&severity(a.1.verdict)).then(margin(&a.1).total_cmp(&margin(&b.1)))
    });
    judged
        .into_iter()
        .map(|(id, j)| WorstRow {
            id,
            name: page.building.place_name(Place::Surface(id)).to_owned(),
            space: page.building.space_of(Place::Surface(id)).map_or_else(String::new, |s| s.name.clone()),
            mark: DropMark::from(j.verdict),
            margin: j.margin.map_or_else(|| "—".into(), |m| show.difference_band(m)),
        })
        .collect()
}

/// Advice for every space, in walking order.
pub fn all_advice(show: &Show, page: &CaseFile) -> Vec<SpaceLines> {
    let of = |s| part(|| advice::tell(show, &page.building, s, &page.advice(s)));
    page.building.spaces.iter().filter_map(of).collect()
}

fn whole(show: &Show, page: &CaseFile) -> Whole {
    let worst = worst_first(show, page);
    let count = |symbol: &str| worst.iter().filter(|w| w.mark.symbol == symbol).count();
    let (wet, unsure, mold) = (count("wet"), count("unsure"), count("mold"));
    let sentence = if worst.is_empty() {
        String::new()
    } else if wet + unsure + mold == 0 {
        say!("Every surface read on this visit is dry.").into()
    } else {
        let parts = [(wet, say!("condensing")), (mold, say!("at mold risk")), (unsure, say!("too close to tell"))];
        let said: Vec<String> = parts.iter().filter(|(n, _)| *n > 0).map(|(n, w)| format!("{n} {w}")).collect();
        let surfaces = if worst.len() == 1 { "surface" } else { "surfaces" };
        say!("Of {worst} {surfaces} read: {said}.", worst = worst.len(), surfaces, said = said.join(", "))
    };
    let (dry, worst) = worst.into_iter().partition(|w| w.mark.symbol == "dry");
    let in_short = |s| part(|| advice::tell_in_short(show, &page.building, s, &page.advice(s)));
    let advice = page.building.spaces.iter().filter_map(in_short).collect();
    Whole { sentence, worst, dry, advice, read: page.visit_rows().next().is_some() }
}

fn row_line(show: &Show, page: &CaseFile, air: &AirState) -> String {
    page.row(air.reading_id).map_or_else(String::new, |r| log::air_line(show, r, page.instrument(r.instrument_id)))
}

fn entries(show: &Show, page: &CaseFile, place: Place) -> Vec<Entry> {
    let station = page.building.station_at(place).map(|s| s.id);
    station.map(|id| log::entries(show, &page.rows, &page.instruments, id)).unwrap_or_default()
}

fn air_place(show: &Show, page: &CaseFile, place: Place) -> AirPlace {
    let space = page.building.space_of(place);
    let air = match (place, space) {
        (Place::Outdoors, _) => page.picture.outdoor.as_ref(),
        (_, Some(s)) => page.picture.space(s.id).and_then(|s| s.air.as_ref()),
        _ => None,
    };
    let figures = air.map(|a| air_figures(show, a)).unwrap_or_default();
    AirPlace {
        name: page.building.place_name(place).to_owned(),
        kind: space.map_or_else(String::new, |s| {
            format!("{}, {} × {}", known(s.kind.words()), show.area(s.area_m2), show.length(s.height_m))
        }),
        dew: air.and_then(|a| a.dew).map(|d| (show.degrees(d.value), show.spread(d.err))),
        figures,
        drives: space.map(|s| drives(show, &page.building, page, s.id)).unwrap_or_default(),
        advice: space.map(|s| advice::tell(show, &page.building, s, &page.advice(s))),
        working: air.and_then(|a| verdict::dew_working(show, a, &row_line(show, page, a))),
        entries: entries(show, page, place),
    }
}

fn air_figures(show: &Show, a: &AirState) -> Vec<(&'static str, String)> {
    vec![
        (say!("Temperature"), show.temperature_band(a.temperature())),
        (say!("Relative humidity"), format!("{} ± {} %", a.value.rh.get().round(), a.accuracy.rh.get())),
        (say!("Humidity ratio"), show.humidity_ratio(a.air.humidity_ratio())),
        (say!("Vapor pressure"), show.pressure(a.air.vapor_pressure())),
    ]
}

fn drives(show: &Show, building: &Building, page: &CaseFile, space: Uuid) -> Vec<(String, String)> {
    page.picture
        .boundaries
        .iter()
        .filter_map(|state| {
            let b = building.boundary(state.boundary_id)?;
            let drive = state.drive?;
            // A boundary seen from its far side drives the other way.
            let sign = match (b.space_id == space, b.beyond) {
                (true, _) => 1.0,
                (false, Side::Space(far)) if far == space => -1.0,
                _ => return None,
            };
            let value = sign * drive.value;
            let text = if drive.spans_zero() {
                say!(
                    "can’t tell ({pressure_difference} ± {pressure})",
                    pressure_difference = show.pressure_difference(value),
                    pressure = show.pressure(drive.err)
                )
            } else if value > 0.0 {
                format!("in, {}", show.pressure(value))
            } else {
                say!("out, {pressure}", pressure = show.pressure(-value))
            };
            Some((b.name.clone(), text))
        })
        .collect()
}

fn surface_place(show: &Show, page: &CaseFile, id: Uuid) -> Option<SurfacePlace> {
    let surface = page.building.surface(id)?;
    let space = page.building.space(surface.space_id)?;
    let read = page.picture.surface(id).and_then(|s| s.read.as_ref());
    let judged = read.and_then(|r| Some((r, r.judged.as_ref()?)));
    let (mark, head, text) = match (read, judged) {
        (_, Some((r, j))) => {
            let told = verdict::tell(show, surface, r, j);
            (told.mark, told.head.to_owned(), told.text)
        }
        (Some(r), None) => (
            DropMark::NONE,
            say!("No verdict yet.").into(),
            say!(
                "Read at {get}; the air of this space has not been read on this visit.",
                get = show.temperature(r.t.get())
            ),
        ),
        (None, _) => (
            DropMark::NONE,
            say!("Not read on this visit.").into(),
            say!("Start a round, or write it on the shorthand line.").into(),
        ),
    };
    let lines = advice::tell(show, &page.building, space, &page.advice(space)).lines;
    let own = lines.into_iter().filter(|l| l.about == Some(id)).collect();
    Some(SurfacePlace {
        name: surface.name.clone(),
        place: format!("{}, {}", space.name, known(surface.material.words())),
        margin: judged
            .and_then(|(_, j)| j.margin)
            .map(|m| (show.span(m.value), format!("± {} {}", show.span(m.err), show.difference_unit()))),
        mark,
        head,
        text,
        figures: judged
            .map(|(r, j)| verdict::figures(show, r, j))
            .into_iter()
            .flatten()
            .chain(meters(page, Place::Surface(id)))
            .collect(),
        working: judged.and_then(|(r, j)| {
            let beside = r.beside.as_ref()?;
            Some(verdict::margin_working(show, r, j, &row_line(show, page, beside)))
        }),
        advice: own,
        entries: entries(show, page, Place::Surface(id)),
    })
}

fn boundary_place(show: &Show, page: &CaseFile, b: &Boundary) -> BoundaryPlace {
    let state = page.picture.boundaries.iter().find(|s| s.boundary_id == b.id);
    let inside = page.picture.space(b.space_id).and_then(|s| s.air.as_ref());
    let (beyond_name, beyond) = match b.beyond {
        Side::Outdoors => ("outdoors", page.picture.outdoor.as_ref()),
        Side::Ground => (say!("the ground"), None),
        Side::Space(id) => (
            page.building.space(id).map_or("", |s| s.name.as_str()),
            page.picture.space(id).and_then(|s| s.air.as_ref()),
        ),
    };
    let space = page.building.space(b.space_id).map_or("", |s| &s.name);
    let construction = page.building.construction(b);
    let mut figures = Vec::new();
    if let Some(c) = &construction {
        let factor = c.between.temperature_factor();
        figures.push((say!("Transmittance U"), TRANSMITTANCE.text(1.0 / c.combined.resistance(), show.units)));
        figures.push((say!("Temperature factor f_Rsi"), format!("{factor:.2}")));
        if let (Some(i), Some(o)) = (inside, beyond) {
            let (i, o) = (i.value.t.get(), o.value.t.get());
            figures.push((say!("Inner surface, by this build-up"), show.temperature(o + factor * (i - o))));
        }
    }
    if let Some(d) = state.and_then(|s| s.drive) {
        figures.push((say!("Vapor pressure beyond less inside"), show.pressure_difference(d.value)));
    }
    BoundaryPlace {
        id: b.id,
        name: b.name.clone(),
        place: say!("{face} side of {space}, toward {beyond_name}", face = known(b.face.words()), space, beyond_name),
        mark: state.and_then(|s| s.worst).map_or(DropMark::NONE, DropMark::from),
        figures,
        surfaces: page
            .building
            .surfaces
            .iter()
            .filter(|s| s.boundary_id == b.id)
            .map(|s| (s.id, s.name.clone()))
            .collect(),
        buildup: page.building.variants_of(b).first().zip(construction.as_ref()).map(|(v, c)| built_up(show, v, c)),
    }
}

fn built_up(show: &Show, variant: &Variant, construction: &Construction) -> BuiltUp {
    let own = construction.plies.iter().map(|p| (p.name.clone(), p.thickness_m));
    let beyond = construction.beyond.iter().map(|b| (b.name.clone(), b.thickness_m));
    let plies = own.chain(beyond).map(|(name, d)| (name, THICKNESS.text(d, show.units))).collect();
    BuiltUp { name: variant.name.clone(), plies }
}

/// What moisture meters last showed at a place on this visit.
fn meters(page: &CaseFile, place: Place) -> Vec<(&'static str, String)> {
    let Some(station) = page.building.station_at(place) else { return Vec::new() };
    let here = || page.standing.iter().filter(|r| r.station_id == station.id).rev();
    let wood = here().find_map(|r| match r.observed {
        Observed::Wood(w) => Some((say!("Wood moisture"), meter::moisture(w.value))),
        _ => None,
    });
    let relative = here().find_map(|r| match r.observed {
        Observed::Relative(shown) => Some((say!("Relative scale"), shown.get().to_string())),
        _ => None,
    });
    wood.into_iter().chain(relative).collect()
}

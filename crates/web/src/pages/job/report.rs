//! What a reader gets: the visit, plainly, on paper.

use crate::access::Right;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::filters;
use crate::pages::job::findings::{self, Found, weighed};
use crate::pages::job::section::{WorstRow, all_advice, worst_first};
use crate::pages::job::tests::{self, Run};
use crate::pages::job::thermal::{Reported, reported};
use crate::pages::job::unfolded::{Mapsheet, mapsheets};
use crate::pages::job::why;
use crate::places::{REPORT, ROUND, report_of};
use crate::stations::missing;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::Redirect;
use building::Place;
use building::reading::{AirState, Reading};
use casework::evidence::during;
use casework::{CaseFile, InView};
use drawing::DropMark;
use drawing::section::{Drawing, draw};
use judgment::cautions::LOCAL_CODE;
use judgment::climate;
use judgment::construction::{Outdoors, answer, around};
use judgment::hours::MoistureClass;
use judgment::picture::SurfaceRead;
use notation::Show;
use store::{CallSheet, Depth, TestRun, Visit};
use uuid::Uuid;
use wording::advice::SpaceLines;
use wording::argument::Argument;
use wording::construction::{Told, told};
use wording::instrument::salt_check;
use wording::log;
use wording::page_one::PageOne;
use wording::part::part;
use wording::picture::{Shown, shown};
use wording::plan::PlanReport;

#[derive(Template, WebTemplate)]
#[template(path = "report.html")]
pub struct ReportPage {
    frame: Frame,
    job: JobFrame,
    visit: Uuid,
    title: String,
    facts: Vec<(&'static str, String)>,
    drawing: Option<Drawing>,
    /// Address of the section's places, ready for `at=`.
    base: String,
    worst: Vec<WorstRow>,
    rooms: Vec<Room>,
    /// Stations not read, each with the reason where one was given.
    unread: Vec<String>,
    found: Vec<Found>,
    maps: Vec<Mapsheet>,
    thermals: Vec<Reported>,
    built: Vec<Built>,
    photos: Vec<Shown>,
    tested: Vec<Run>,
    advice: Vec<SpaceLines>,
    cautions: Vec<&'static str>,
    instruments: Vec<InstrumentRow>,
    /// What wets the building, and what the consultant concludes.
    argument: Argument,
    own: Vec<(String, String)>,
    places: Vec<why::PlaceTold>,
    /// What to do about it, as it stands now.
    plan: PlanReport,
    one: PageOne,
    as_of: String,
    open: bool,
    /// How a trainee’s visit stands, and the id of saying that it was looked through.
    review: Option<(String, Option<Uuid>)>,
    local_code: &'static str,
}

/// How a boundary stands, in words.
struct Built {
    boundary: String,
    variant: String,
    told: Told,
}

/// Thermal pictures in a report, at most, and their breadth, px.
const PICTURES: usize = 8;
const BREADTH: f64 = 380.0;

/// Readings of a space, or of the outdoor air.
struct Room {
    name: String,
    rows: Vec<ReadRow>,
}

struct ReadRow {
    name: String,
    when: String,
    value: String,
    raw: String,
    dew: String,
    margin: String,
    surface_rh: String,
    mark: Option<DropMark>,
}

struct InstrumentRow {
    name: String,
    serial: String,
    accuracy: String,
    check: String,
}

/// The report of the latest visit with readings; a job without a visit begins with one.
pub async fn latest(who: Who, Path(job): Path<Uuid>) -> Result<Redirect, Failure> {
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    Ok(Redirect::to(&match &file.visit {
        Some(visit) => report_of(job, visit.id),
        None => ROUND.of(&job.to_string()),
    }))
}

/// The report of a visit.
pub async fn page(who: Who, Path((job, visit)): Path<(Uuid, Uuid)>) -> Result<ReportPage, Failure> {
    // Loaded for itself: its thermal pictures are read in the same turn.
    let scope = who.scope().await?;
    let page = CaseFile::load(&scope, job, InView::Visit(visit), Depth::Plan).await?;
    let show = who.show();
    let row = page.visit.clone().ok_or(Failure::NotFound)?;
    // The latest report holds what was done since its visit; an earlier one what was known by its end.
    let until = row.ended_at.filter(|_| page.visits.first().is_some_and(|v| v.id != visit));
    let taken_by_then = page.thermals.iter().filter(|t| until.is_none_or(|u| t.taken_at <= u));
    let latest: Vec<store::Thermal> = taken_by_then.rev().take(PICTURES).cloned().collect();
    let maps = mapsheets(&who, &page, until);
    let cells = scope.thermal_cells_of(&latest).await?;
    drop(scope);
    let lines = page.practice_address.lines().map(str::trim).filter(|l| !l.is_empty());
    let reached = std::iter::once(who.person.practice_name.as_str()).chain(lines).collect::<Vec<_>>().join(", ");
    let thermals = reported(&who, &page, cells, BREADTH).await?;
    let by = page.people.get(&row.consultant_id).cloned().unwrap_or_default();
    let findings = weighed(during(&page.findings, Some(&row)));
    let begun = |r: &TestRun| row.ended_at.is_none_or(|end| r.started_at <= end);
    let tested = page.tests.iter().filter(|r| begun(r));
    let taken = page.photos.iter().filter(|p| p.visit_id == Some(visit));
    let causes = why::of_visit(&show, &page);
    let advice = all_advice(&show, &page);
    let planned = page.planned();
    let chose = |q: &str| {
        let row = page.decided.schools.iter().find(|s| s.question == q)?;
        Some((page.people.get(&row.updated_by).cloned().unwrap_or_default(), row.reason.clone()))
    };
    let plan = PlanReport::of(&show, planned, chose);
    let mut cautions: Vec<&'static str> = Vec::new();
    for text in advice.iter().flat_map(|a| &a.cautions).map(|c| c.text.as_str()).chain(plan.cautions.iter().copied()) {
        if !cautions.contains(&text) {
            cautions.push(text);
        }
    }
    Ok(ReportPage {
        frame: Frame::of(&who, &page),
        base: format!("/jobs/{job}?visit={visit}&"),
        job: JobFrame::new(&page, REPORT),
        visit,
        title: format!("Visit {} of {}", page.visit_number(visit), show.day(row.started_at)),
        facts: facts(&show, &page, &row, &by, &reached),
        drawing: part(|| draw(&show, &page.building, page.job.structure.shell(), &page.picture, None)),
        worst: worst_first(&show, &page),
        rooms: rooms(&who, &page),
        maps,
        thermals,
        built: built(&show, &page),
        unread: unread(&page),
        found: findings.iter().map(|f| findings::found(&show, &page.building, f, &page.photos)).collect(),
        photos: taken.map(|p| shown(&show, &page.building, &page.findings, p)).collect(),
        tested: tested.map(|r| tests::run(&show, &page.building, r, chrono::Utc::now())).collect(),
        cautions,
        advice,
        instruments: instruments(&who, &page),
        one: PageOne::of(&causes.argument, &causes.own, &plan),
        argument: causes.argument,
        places: causes.places,
        own: causes.own,
        plan,
        as_of: show.day(chrono::Utc::now()),
        open: row.ended_at.is_none(),
        review: review(&who, &page, &row),
        local_code: LOCAL_CODE,
    })
}

/// How a trainee’s visit stands: in words, and the id of the act where this person may say that they looked through it.
fn review(who: &Who, page: &CaseFile, visit: &store::Visit) -> Option<(String, Option<Uuid>)> {
    if !visit.for_review {
        return None;
    }
    let name = |id: Uuid| page.people.get(&id).cloned().unwrap_or_default();
    Some(match visit.reviewed_by.zip(visit.reviewed_at) {
        Some((by, at)) => (format!("Looked through by {} on {}.", name(by), who.show().day(at)), None),
        None => (
            format!("{} is a trainee, and nobody has looked through this visit yet.", name(visit.consultant_id)),
            who.may(Right::Review).then(Uuid::now_v7),
        ),
    })
}

/// Boundaries somebody said the layers of.
fn built(show: &Show, page: &CaseFile) -> Vec<Built> {
    let outdoors = Outdoors::of(climate::year(page.job.climate));
    let b = &page.building;
    let one = |x: &building::Boundary| {
        let variant = b.variants.iter().find(|v| v.boundary_id == x.id)?;
        let made = b.construction(x)?;
        let said = answer(&made, &around(b, x, MoistureClass::Ordinary), &outdoors)?;
        Some(Built { boundary: x.name.clone(), variant: variant.name.clone(), told: told(show, &made, &said) })
    };
    b.boundaries.iter().filter_map(one).collect()
}

/// What the visit was.
fn facts(show: &Show, page: &CaseFile, visit: &Visit, by: &str, practice: &str) -> Vec<(&'static str, String)> {
    let facts = [
        ("Address", if page.job.address.is_empty() { "not given".into() } else { page.job.address.clone() }),
        ("Structure", page.job.structure.words().into()),
        ("Climate", page.job.climate.words().into()),
        ("Design outdoor temperature", show.temperature(page.job.design_outdoor_c)),
        ("Read by", by.to_owned()),
        ("Of", practice.to_owned()),
        ("Begun", format!("{} ({})", show.moment(visit.started_at), show.zone_name())),
        ("Finished", visit.ended_at.map_or_else(|| "still open".into(), |t| show.moment(t))),
    ];
    facts.into_iter().chain(page.call.iter().flat_map(said)).collect()
}

/// The call in the report: what was said, where anything was.
fn said(sheet: &CallSheet) -> Vec<(&'static str, String)> {
    let call = &sheet.call;
    let points: Vec<&str> = call.points().map(|p| p.name.as_str()).collect();
    let figure = |x: Option<i32>| x.map(|x| x.to_string()).unwrap_or_default();
    let facts = [
        ("Complaint", sheet.complaint.clone()),
        ("Said on the call", points.join("; ")),
        ("Built", figure(call.year)),
        ("People", figure(call.occupants)),
    ];
    facts.into_iter().filter(|(_, text)| !text.is_empty()).collect()
}

fn unread(page: &CaseFile) -> Vec<String> {
    let passed = page.building.stations.iter().filter_map(|s| Some((s.id, page.skipped(s.id)?)));
    let passed = passed.map(|(id, skip)| {
        let name = page.station_name(id);
        if skip.reason.is_empty() { format!("{name} (skipped)") } else { format!("{name} ({})", skip.reason) }
    });
    passed.chain(missing(page)).collect()
}

fn rooms(who: &Who, page: &CaseFile) -> Vec<Room> {
    let show = who.show();
    let mut rooms = vec![Room { name: "Outdoors".into(), rows: read_rows(who, page, Place::Outdoors) }];
    for space in &page.building.spaces {
        let mut rows = read_rows(who, page, Place::Space(space.id));
        for surface in page.building.surfaces_in(space.id) {
            rows.extend(read_rows(who, page, Place::Surface(surface.id)));
        }
        rooms.push(Room { name: space.name.clone(), rows });
    }
    let gone = page.standing.iter().filter(|r| page.building.station(r.station_id).is_none());
    let rows = gone.filter_map(|r| read_row(&show, page, r, None)).collect();
    rooms.push(Room { name: "Stations removed since".into(), rows });
    rooms.retain(|r| !r.rows.is_empty());
    rooms
}

/// Standing readings at a place; the judged one is the latest.
fn read_rows(who: &Who, page: &CaseFile, place: Place) -> Vec<ReadRow> {
    let show = who.show();
    let Some(station) = page.building.station_at(place) else { return Vec::new() };
    let surface = match place {
        Place::Surface(id) => page.picture.surface(id).and_then(|s| s.read.as_ref()),
        _ => None,
    };
    let here = page.standing.iter().filter(|r| r.station_id == station.id);
    here.filter_map(|r| read_row(&show, page, r, surface)).collect()
}

fn read_row(show: &Show, page: &CaseFile, r: &Reading, surface: Option<&SurfaceRead>) -> Option<ReadRow> {
    let row = page.row(r.id)?;
    let judged = surface.filter(|s| s.reading_id == r.id).and_then(|s| s.judged);
    let dew = AirState::of(r).and_then(|a| a.dew);
    Some(ReadRow {
        name: page.station_name(r.station_id).to_owned(),
        when: show.clock(row.taken_at),
        value: log::value(show, row),
        raw: row.as_typed.clone(),
        dew: dew.map_or_else(String::new, |d| show.temperature_band(d)),
        margin: judged.and_then(|j| j.margin).map_or_else(String::new, |m| show.difference_band(m)),
        surface_rh: judged.map_or_else(String::new, |j| show.percent(j.surface_rh)),
        mark: judged.map(|j| DropMark::from(j.verdict)),
    })
}

fn instruments(who: &Who, page: &CaseFile) -> Vec<InstrumentRow> {
    let show = who.show();
    page.instruments
        .iter()
        .filter(|i| page.visit_rows().any(|r| r.instrument_id == i.id))
        .map(|i| InstrumentRow {
            name: i.name.clone(),
            serial: i.serial.clone(),
            accuracy: wording::instrument::accuracy(&show, i),
            check: salt_check(i),
        })
        .collect()
}

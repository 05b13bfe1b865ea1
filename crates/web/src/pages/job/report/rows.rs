//! Rows of a report's tables: readings, instruments, how constructions stand, what was not read.

use crate::stations::missing;
use building::Place;
use building::reading::{AirState, Reading};
use casework::CaseFile;
use drawing::DropMark;
use judgment::climate;
use judgment::construction::{Outdoors, answer, around};
use judgment::hours::MoistureClass;
use judgment::picture::SurfaceRead;
use language::{known, say};
use notation::Show;
use store::{CallSheet, Visit};
use wording::construction::{Told, told};
use wording::instrument::salt_check;
use wording::log;

/// How a boundary stands, in words.
pub(super) struct Built {
    pub boundary: String,
    pub variant: String,
    pub told: Told,
}

/// Readings of a space, or of the outdoor air.
pub(super) struct Room {
    pub name: String,
    pub rows: Vec<ReadRow>,
}

pub(super) struct ReadRow {
    pub name: String,
    pub when: String,
    pub value: String,
    pub raw: String,
    pub dew: String,
    pub margin: String,
    pub surface_rh: String,
    pub mark: Option<DropMark>,
}

pub(super) struct InstrumentRow {
    pub name: String,
    pub serial: String,
    pub accuracy: String,
    pub check: String,
}

/// Boundaries somebody said the layers of.
pub(super) fn built(show: &Show, page: &CaseFile) -> Vec<Built> {
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
pub(super) fn facts(
    show: &Show,
    page: &CaseFile,
    visit: &Visit,
    by: &str,
    practice: &str,
) -> Vec<(&'static str, String)> {
    let facts = [
        (
            say!("Address"),
            if page.job.address.is_empty() { say!("not given").into() } else { page.job.address.clone() },
        ),
        (say!("Structure"), known(page.job.structure.words()).into()),
        (say!("Climate"), known(page.job.climate.words()).into()),
        (say!("Design outdoor temperature"), show.temperature(page.job.design_outdoor_c)),
        (say!("Read by"), by.to_owned()),
        (say!("Of"), practice.to_owned()),
        (say!("Begun"), format!("{} ({})", show.moment(visit.started_at), show.zone_name())),
        (say!("Finished"), visit.ended_at.map_or_else(|| say!("still open").into(), |t| show.moment(t))),
    ];
    facts.into_iter().chain(page.call.iter().flat_map(said)).collect()
}

/// The call in the report: what was said, where anything was.
fn said(sheet: &CallSheet) -> Vec<(&'static str, String)> {
    let call = &sheet.call;
    let points: Vec<&str> = call.points().map(|p| known(&p.name)).collect();
    let figure = |x: Option<i32>| x.map(|x| x.to_string()).unwrap_or_default();
    let facts = [
        (say!("Complaint"), sheet.complaint.clone()),
        (say!("Said on the call"), points.join("; ")),
        (say!("Built"), figure(call.year)),
        (say!("People"), figure(call.occupants)),
    ];
    facts.into_iter().filter(|(_, text)| !text.is_empty()).collect()
}

pub(super) fn unread(page: &CaseFile) -> Vec<String> {
    let passed = page.building.stations.iter().filter_map(|s| Some((s.id, page.skipped(s.id)?)));
    let passed = passed.map(|(id, skip)| {
        let name = page.station_name(id);
        if skip.reason.is_empty() { say!("{name} (skipped)", name) } else { format!("{name} ({})", skip.reason) }
    });
    let blank = page.building.spaces.iter().filter(|s| page.building.station_at(Place::Space(s.id)).is_none());
    let blank = blank.map(|s| say!("{name} (no station in it)", name = s.name));
    passed.chain(missing(page)).chain(blank).collect()
}

pub(super) fn rooms(show: &Show, page: &CaseFile) -> Vec<Room> {
    let mut rooms = vec![Room { name: say!("Outdoors").into(), rows: read_rows(show, page, Place::Outdoors) }];
    for space in &page.building.spaces {
        let mut rows = read_rows(show, page, Place::Space(space.id));
        for surface in page.building.surfaces_in(space.id) {
            rows.extend(read_rows(show, page, Place::Surface(surface.id)));
        }
        rooms.push(Room { name: space.name.clone(), rows });
    }
    let gone = page.standing.iter().filter(|r| page.building.station(r.station_id).is_none());
    let rows = gone.filter_map(|r| read_row(show, page, r, None)).collect();
    rooms.push(Room { name: say!("Stations removed since").into(), rows });
    rooms.retain(|r| !r.rows.is_empty());
    rooms
}

/// Standing readings at a place; the judged one is the latest.
fn read_rows(show: &Show, page: &CaseFile, place: Place) -> Vec<ReadRow> {
    let Some(station) = page.building.station_at(place) else { return Vec::new() };
    let surface = match place {
        Place::Surface(id) => page.picture.surface(id).and_then(|s| s.read.as_ref()),
        _ => None,
    };
    let here = page.standing.iter().filter(|r| r.station_id == station.id);
    here.filter_map(|r| read_row(show, page, r, surface)).collect()
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

pub(super) fn instruments(show: &Show, page: &CaseFile) -> Vec<InstrumentRow> {
    page.instruments
        .iter()
        .filter(|i| page.visit_rows().any(|r| r.instrument_id == i.id))
        .map(|i| InstrumentRow {
            name: i.name.clone(),
            serial: i.serial.clone(),
            accuracy: wording::instrument::accuracy(show, i),
            check: salt_check(i),
        })
        .collect()
}

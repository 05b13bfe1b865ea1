//! Readings of a visit as open files: raw and corrected values, units in the names, verdicts.

mod json;

pub use json::json;

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use building::Place;
use building::ReadingKind;
use building::entry::Humidity;
use building::reading::AirState;
use casework::{CaseFile, InView};
use notation::Show;
use serde::Serialize;
use std::collections::HashSet;
use std::sync::Arc;
use store::Depth;
use store::ReadingRecord;
use uuid::Uuid;

/// One reading; the field names are the columns. SI throughout.
#[derive(Serialize, Default)]
struct Record {
    reading_id: Uuid,
    visit_id: Uuid,
    space: String,
    station: String,
    kind: &'static str,
    status: &'static str,
    taken_at_utc: String,
    taken_at_local: String,
    as_typed: String,
    t_raw_c: Option<f64>,
    rh_raw_pct: Option<f64>,
    dew_raw_c: Option<f64>,
    wet_bulb_raw_c: Option<f64>,
    t_c: Option<f64>,
    rh_pct: Option<f64>,
    rh_over: Option<String>,
    dew_c: Option<f64>,
    dew_err_k: Option<f64>,
    humidity_ratio_g_kg: Option<f64>,
    surface_rh_pct: Option<f64>,
    margin_k: Option<f64>,
    margin_err_k: Option<f64>,
    condensing_rh_pct: Option<f64>,
    verdict: Option<&'static str>,
    wood_raw_pct: Option<f64>,
    wood_pct: Option<f64>,
    wood_species: String,
    wood_t_c: Option<f64>,
    relative_scale: Option<f64>,
    infrared_emissivity: Option<f64>,
    infrared_reflected_c: Option<f64>,
    water_l: Option<f64>,
    water_hours: Option<f64>,
    airflow_m3_s: Option<f64>,
    rain_mm: Option<f64>,
    instrument: String,
    instrument_serial: String,
    instrument_t_err_k: Option<f64>,
    instrument_rh_err_pct: Option<f64>,
    instrument_surface_err_k: Option<f64>,
    questions_kept: String,
    replaces: Option<Uuid>,
    reason: String,
}

async fn load(who: &Who, job: Uuid, visit: Uuid) -> Result<Arc<CaseFile>, Failure> {
    who.file(job, InView::Visit(visit), Depth::Visit).await
}

fn records(show: &Show, page: &CaseFile) -> Vec<Record> {
    let replaced: HashSet<Uuid> = page.rows.iter().filter_map(|r| r.replaces).collect();
    page.visit_rows().map(|row| record(show, page, row, replaced.contains(&row.id))).collect()
}

fn record(show: &Show, page: &CaseFile, row: &ReadingRecord, replaced: bool) -> Record {
    let there = page.building.station(row.station_id);
    let place = there.map_or(Place::Outdoors, |s| s.place);
    let instrument = page.instrument(row.instrument_id);
    let air = page.standing.iter().find(|r| r.id == row.id).and_then(AirState::of);
    let judged = match place {
        Place::Surface(id) => page.picture.surface(id).and_then(|s| s.read.as_ref()),
        _ => None,
    }
    .filter(|r| r.reading_id == row.id)
    .and_then(|r| r.judged);
    let raw = |kind: Humidity| row.raw_humidity.filter(|_| row.humidity_kind == Some(kind));
    Record {
        reading_id: row.id,
        visit_id: row.visit_id,
        space: match (there, page.building.space_of(place)) {
            (Some(_), None) => "Outdoors".into(),
            (_, space) => space.map_or_else(String::new, |s| s.name.clone()),
        },
        station: page.station_name(row.station_id).to_owned(),
        kind: row.kind.id(),
        status: match (replaced, row.kind) {
            (true, _) => "replaced",
            (false, ReadingKind::Withdrawn) => "withdrawn",
            _ => "stands",
        },
        taken_at_utc: row.taken_at.to_rfc3339_opts(chrono::SecondsFormat::Secs, true),
        taken_at_local: show.stamp(row.taken_at),
        as_typed: row.as_typed.clone(),
        t_raw_c: row.raw_t_c,
        rh_raw_pct: raw(Humidity::Rh),
        dew_raw_c: raw(Humidity::Dew),
        wet_bulb_raw_c: raw(Humidity::Wet),
        t_c: row.t_c,
        rh_pct: row.rh_pct,
        rh_over: row.rh_over.clone(),
        dew_c: air.and_then(|a| a.dew).map(|d| d.value),
        dew_err_k: air.and_then(|a| a.dew).map(|d| d.err),
        humidity_ratio_g_kg: air.map(|a| a.air.humidity_ratio() * 1000.0),
        surface_rh_pct: judged.map(|j| j.surface_rh),
        margin_k: judged.and_then(|j| j.margin).map(|m| m.value),
        margin_err_k: judged.and_then(|j| j.margin).map(|m| m.err),
        condensing_rh_pct: judged.map(|j| j.condensing_rh),
        verdict: judged.map(|j| j.verdict.id()),
        wood_raw_pct: row.raw_value.filter(|_| row.kind == ReadingKind::Wood),
        wood_pct: row.value.filter(|_| row.kind == ReadingKind::Wood),
        wood_species: row.species.clone().unwrap_or_default(),
        wood_t_c: row.wood_t_c,
        relative_scale: row.raw_value.filter(|_| row.kind == ReadingKind::Relative),
        infrared_emissivity: row.emissivity,
        infrared_reflected_c: row.reflected_c,
        water_l: row.raw_value.filter(|_| row.kind == ReadingKind::Water),
        water_hours: row.hours,
        airflow_m3_s: row.raw_value.filter(|_| row.kind == ReadingKind::Airflow),
        rain_mm: row.raw_value.filter(|_| row.kind == ReadingKind::Rain),
        instrument: instrument.map_or_else(String::new, |i| i.name.clone()),
        instrument_serial: instrument.map_or_else(String::new, |i| i.serial.clone()),
        instrument_t_err_k: instrument.map(|i| i.air_err_k),
        instrument_rh_err_pct: instrument.map(|i| i.rh_err_pct),
        instrument_surface_err_k: instrument.map(|i| i.surface_err_k),
        questions_kept: row.questions.clone(),
        replaces: row.replaces,
        reason: row.reason.clone(),
    }
}

/// Text a spreadsheet would run as a formula gets an apostrophe before it.
fn harmless(text: String) -> String {
    if text.starts_with(['=', '+', '-', '@', '\t', '\r', '\n']) { format!("'{text}") } else { text }
}

impl Record {
    /// The same record with its free text safe to open in a spreadsheet. Figures are left alone: −3.2 is no formula.
    fn for_spreadsheet(self) -> Self {
        Self {
            space: harmless(self.space),
            station: harmless(self.station),
            as_typed: harmless(self.as_typed),
            instrument: harmless(self.instrument),
            instrument_serial: harmless(self.instrument_serial),
            questions_kept: harmless(self.questions_kept),
            reason: harmless(self.reason),
            ..self
        }
    }
}

fn attachment(kind: &'static str, name: &str, body: Vec<u8>) -> Response {
    let disposition = format!("attachment; filename=\"{name}\"");
    ([(header::CONTENT_TYPE, kind.to_owned()), (header::CONTENT_DISPOSITION, disposition)], body).into_response()
}

/// A file name from a job's name: letters, digits and dashes only.
fn file_name(page: &CaseFile, visit: Uuid, ending: &str) -> String {
    let plain: String = page
        .job
        .name
        .to_lowercase()
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c } else { '-' })
        .take(60)
        .collect();
    format!("{}-visit-{}.{ending}", plain.trim_matches('-'), page.visit_number(visit))
}

/// CSV with one header line.
pub async fn csv(who: Who, Path((job, visit)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let page = load(&who, job, visit).await?;
    let defect = |e: &dyn std::fmt::Display| Failure::Defect(format!("csv: {e}"));
    let mut writer = csv::Writer::from_writer(Vec::new());
    let records = records(&who.show(), &page);
    let nothing_read = records.is_empty();
    let rows = if nothing_read { vec![Record::default()] } else { records };
    for record in rows {
        writer.serialize(record.for_spreadsheet()).map_err(|e| defect(&e))?;
    }
    let mut body = writer.into_inner().map_err(|e| defect(&e))?;
    if nothing_read {
        // The header alone: a file without columns would puzzle whoever reads it by machine.
        body.truncate(body.iter().position(|b| *b == b'\n').map_or(0, |end| end + 1));
    }
    Ok(attachment("text/csv; charset=utf-8", &file_name(&page, visit, "csv"), body))
}

//! Readings of a place, newest first, with the trace of every correction.

use crate::meter;
use building::ReadingKind;
use building::entry::Humidity;
use language::say;
use notation::Show;
use notation::number::signed;
use notation::unit::{FLOW, RAIN};
use std::collections::HashMap;
use store::{Instrument, ReadingRecord};
use uuid::Uuid;

/// One reading as listed.
pub struct Entry {
    /// Id.
    pub id: Uuid,
    /// When.
    pub when: String,
    /// Figure with its unit.
    pub value: String,
    /// Read with.
    pub instrument: String,
    /// `typed 64F 78%` where that differs from what is shown.
    pub note: String,
    /// Superseded by a later row.
    pub replaced: bool,
    /// Can be corrected: it stands and is not a withdrawal.
    pub open: bool,
}

/// The rows of one station, newest first.
pub fn entries(show: &Show, rows: &[ReadingRecord], instruments: &[Instrument], station: Uuid) -> Vec<Entry> {
    let replaced: std::collections::HashSet<Uuid> = rows.iter().filter_map(|r| r.replaces).collect();
    let names: HashMap<Uuid, &str> = instruments.iter().map(|i| (i.id, i.name.as_str())).collect();
    let mut out: Vec<Entry> = rows
        .iter()
        .filter(|r| r.station_id == station)
        .map(|r| {
            let gone = replaced.contains(&r.id);
            Entry {
                id: r.id,
                when: show.moment(r.taken_at),
                value: value(show, r),
                instrument: names.get(&r.instrument_id).copied().unwrap_or("").to_owned(),
                note: note(r),
                replaced: gone,
                open: !gone && r.kind != ReadingKind::Withdrawn,
            }
        })
        .collect();
    out.reverse();
    out
}

/// A row's corrected value.
pub fn value(show: &Show, r: &ReadingRecord) -> String {
    match (r.t_c, r.rh_pct) {
        _ if r.kind == ReadingKind::Wood => meter::wood_row(show, r),
        _ if r.kind == ReadingKind::Water => {
            format!("{} L in {} h", r.raw_value.unwrap_or_default(), r.hours.unwrap_or_default())
        }
        _ if r.kind == ReadingKind::Airflow => FLOW.text(r.raw_value.unwrap_or_default(), show.units),
        _ if r.kind == ReadingKind::Rain => {
            say!("{raw_value} of rain", raw_value = RAIN.text(r.raw_value.unwrap_or_default(), show.units))
        }
        _ if r.kind == ReadingKind::Note => format!("“{}”", r.as_typed),
        (Some(t), None) if r.emissivity.is_some() => say!("{t} by infrared", t = show.temperature(t)),
        _ if r.kind == ReadingKind::Relative => {
            say!("{raw_value} on its own scale", raw_value = r.raw_value.unwrap_or_default())
        }
        (Some(t), Some(rh)) => format!("{}, {}", show.temperature(t), show.percent(rh)),
        (Some(t), None) => show.temperature(t),
        _ => say!("withdrawn").into(),
    }
}

/// What stands behind a row: the typing, the reason, the doubts kept despite.
fn note(r: &ReadingRecord) -> String {
    let mut parts = Vec::new();
    if r.replaces.is_some() {
        parts.push(say!("corrects an earlier reading: {reason}", reason = r.reason));
    }
    if !r.questions.is_empty() {
        parts.push(say!("saved although asked: {questions}", questions = r.questions));
    }
    parts.join(" · ")
}

/// How an air reading was taken: raw value and correction.
pub fn air_line(show: &Show, row: &ReadingRecord, instrument: Option<&Instrument>) -> String {
    let mut text = say!("Read at {clock}: {row}", clock = show.clock(row.taken_at), row = value(show, row));
    match (row.humidity_kind, row.raw_humidity) {
        (Some(Humidity::Rh), Some(raw)) => {
            // What its salt check of that day made of it, not what today's would.
            let by = row.rh_pct.map_or(0.0, |rh| rh - raw);
            if by.abs() > 0.05 {
                text += &say!(" (raw {raw} %, corrected by {signed} %)", raw, signed = signed(by, 1));
            }
        }
        (Some(Humidity::Dew), Some(raw)) => text += &say!(" (read as dew point {raw})", raw = show.temperature(raw)),
        (Some(Humidity::Wet), Some(raw)) => text += &say!(" (read as wet bulb {raw})", raw = show.temperature(raw)),
        _ => {}
    }
    if let Some(i) = instrument {
        text += &say!(", by {name}", name = i.name);
        if i.checked_on.is_none() {
            text += say!(" (never salt-checked)");
        }
    }
    if row.t_c.is_some_and(|t| t < 0.0) && row.rh_over.as_deref() == Some(say!("water")) {
        text += say!(", RH over liquid water");
    }
    text + "."
}

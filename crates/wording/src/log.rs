//! Readings of a place, newest first, with the trace of every correction.

use crate::meter;
use building::ReadingKind;
use building::entry::Humidity;
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
            format!("{} of rain", RAIN.text(r.raw_value.unwrap_or_default(), show.units))
        }
        _ if r.kind == ReadingKind::Note => format!("“{}”", r.as_typed),
        (Some(t), None) if r.emissivity.is_some() => format!("{} by infrared", show.temperature(t)),
        _ if r.kind == ReadingKind::Relative => format!("{} on its own scale", r.raw_value.unwrap_or_default()),
        (Some(t), Some(rh)) => format!("{}, {}", show.temperature(t), show.percent(rh)),
        (Some(t), None) => show.temperature(t),
        _ => "withdrawn".into(),
    }
}

/// What stands behind a row: the typing, the reason, the doubts kept despite.
fn note(r: &ReadingRecord) -> String {
    let mut parts = Vec::new();
    if r.replaces.is_some() {
        parts.push(format!("corrects an earlier reading: {}", r.reason));
    }
    if !r.questions.is_empty() {
        parts.push(format!("saved although asked: {}", r.questions));
    }
    parts.join(" · ")
}

/// How an air reading was taken: raw value and correction.
pub fn air_line(show: &Show, row: &ReadingRecord, instrument: Option<&Instrument>) -> String {
    let mut text = format!("Read at {}: {}", show.clock(row.taken_at), value(show, row));
    match (row.humidity_kind, row.raw_humidity) {
        (Some(Humidity::Rh), Some(raw)) => {
            // What its salt check of that day made of it, not what today's would.
            let by = row.rh_pct.map_or(0.0, |rh| rh - raw);
            if by.abs() > 0.05 {
                text += &format!(" (raw {raw} %, corrected by {} %)", signed(by, 1));
            }
        }
        (Some(Humidity::Dew), Some(raw)) => text += &format!(" (read as dew point {})", show.temperature(raw)),
        (Some(Humidity::Wet), Some(raw)) => text += &format!(" (read as wet bulb {})", show.temperature(raw)),
        _ => {}
    }
    if let Some(i) = instrument {
        text += &format!(", by {}", i.name);
        if i.checked_on.is_none() {
            text += " (never salt-checked)";
        }
    }
    if row.t_c.is_some_and(|t| t < 0.0) && row.rh_over.as_deref() == Some("water") {
        text += ", RH over liquid water";
    }
    text + "."
}

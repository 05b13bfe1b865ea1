//! What sensors of loggers read, and what a file of one holds, in words.

use building::{Building, Place};
use casework::log::Became;
use language::say;
use logger::Reads;
use notation::Show;
use notation::number::fixed;
use notation::unit::{LITERS, RAIN};

/// What a column can read, in the order offered, and the units it can be in.
pub const READS: [(Reads, &str, &[&str]); 12] = [
    (Reads::TC, "air temperature", &["°C", "°F", "K"]),
    (Reads::RhPct, "relative humidity", &["%", "1"]),
    (Reads::DewC, "dew point", &["°C", "°F", "K"]),
    (Reads::SurfaceC, "surface temperature", &["°C", "°F", "K"]),
    (Reads::OutdoorTC, "outdoor temperature", &["°C", "°F", "K"]),
    (Reads::OutdoorRhPct, "outdoor humidity", &["%", "1"]),
    (Reads::McPct, "wood moisture", &["%"]),
    (Reads::Rel, "relative scale", &[]),
    (Reads::PPa, "air pressure", &["hPa", "Pa", "kPa", "inHg", "mmHg", "bar"]),
    (Reads::RainMm, "rain", &["mm", "in"]),
    (Reads::Liters, "water collected", &["L", "mL", "pints", "gal"]),
    (Reads::PowerW, "electric power", &["W", "kW"]),
];

/// The id of what a column reads, as the headless interface names it.
#[must_use]
pub fn reads_id(reads: Reads) -> String {
    serde_json::to_value(reads).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// What a column reads, in words.
#[must_use]
pub fn reads(reads: Reads) -> &'static str {
    READS.iter().find(|(r, ..)| *r == reads).map_or(say!("not used"), |(_, words, _)| words)
}

/// A figure of a column as a person reads it.
#[must_use]
pub fn figure(show: &Show, reads: Reads, x: f64) -> String {
    match reads {
        r if r.is_temperature() => show.temperature(x),
        r if r.is_humidity() || r == Reads::McPct => show.percent(x),
        Reads::PPa => show.pressure(x),
        Reads::RainMm => RAIN.text(x, show.units),
        Reads::Liters => LITERS.text(x, show.units),
        Reads::PowerW => fixed(x, 0) + " W",
        _ => fixed(x, 0),
    }
}

/// Where a sensor is, in words.
#[must_use]
pub fn place(building: &Building, place: Place) -> &str {
    match place {
        Place::Outdoors => say!("Outdoors"),
        other => building.place_name(other),
    }
}

/// What the values of a file could not settle, as a question to whoever knows.
#[must_use]
pub fn asked(what: &str) -> String {
    match what.split_once(':') {
        Some(("unit", name)) => say!("Nothing says the unit of “{name}”: is it right?", name),
        _ if what == "order" => say!("Day and month could be either way round: which comes first?").into(),
        _ => say!("Nothing says whose clock it shows: is it right?").into(),
    }
}

/// A count as a person reads it: `1,344`.
#[must_use]
pub fn count(n: u64) -> String {
    let digits = n.to_string();
    let groups: Vec<&str> =
        digits.as_bytes().rchunks(3).rev().map(|g| std::str::from_utf8(g).unwrap_or_default()).collect();
    groups.join(",")
}

/// What became of a file that was brought in.
#[must_use]
pub fn became(show: &Show, came: &Became) -> String {
    let plural = |n: u64, one: &str| if n == 1 { format!("1 {one}") } else { format!("{} {one}s", count(n)) };
    let mut said = match (came.new, came.known) {
        (0, known) => say!("nothing new: its {plural} were there already", plural = plural(known, "reading")),
        (new, 0) => plural(new, "reading"),
        (new, known) => {
            say!("{plural} new, {count} there already", plural = plural(new, "reading"), count = count(known))
        }
    };
    if came.differ > 0 {
        said += &say!(" ({count} say something else; what was there stays)", count = count(came.differ));
    }
    if let (Some(first), Some(last)) = (came.first, came.last) {
        said += &say!(", {first} to {last}", first = show.day(first), last = show.day(last));
    }
    if came.refused > 0 {
        said += &say!("; {plural} not read", plural = plural(came.refused, "line"));
    }
    said
}

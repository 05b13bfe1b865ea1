//! Units no name states, and the names of sensors.

use super::Survey;
use super::seen::Seen;
use crate::columns::{Column, Reads};

/// A mean that no air has in °C.
const TOO_HOT: f64 = 45.0;

/// A temperature of the file that is in °F, by its unit, the head or its figures.
fn fahrenheit(found: &Survey, seen: &Seen, head: &str) -> Option<String> {
    let temperatures = found.columns.iter().enumerate().filter(|(_, c)| c.reads.is_some_and(Reads::is_temperature));
    let is = |(i, c): &(usize, &Column)| {
        let unit = if c.unit.is_empty() { seen.behind[*i].as_deref().unwrap_or("") } else { c.unit.as_str() };
        let (_, sum, count) = seen.figures[*i];
        unit == "°F" || unit.is_empty() && (head.contains("fahrenheit") || count > 0 && sum / count as f64 > TOO_HOT)
    };
    temperatures.filter(|t| is(t)).map(|(_, c)| c.name.clone()).next()
}

/// The scale of a temperature that has none, why, and whether to ask.
fn scale(head: &str, mean: f64, fahrenheit: Option<&str>) -> (&'static str, String, bool) {
    let stated = if head.contains("fahrenheit") || head.contains("°f") {
        Some("°F")
    } else if head.contains("celsius") || head.contains("°c") {
        Some("°C")
    } else {
        None
    };
    match (stated, fahrenheit) {
        (Some(unit), _) => (unit, "the file’s head says so".to_owned(), false),
        (None, _) if mean > TOO_HOT => ("°F", format!("its mean, {mean:.0}, would be far too hot in °C"), true),
        (None, Some(other)) => ("°F", format!("{other} is, and a logger writes one scale"), true),
        (None, None) => ("°C", format!("its mean is {mean:.0}"), true),
    }
}

/// Units no name states: those behind figures, in the head, or by the figures.
pub(super) fn units(found: &mut Survey, seen: &Seen, titles: &[String]) {
    let head = titles.join(" ").to_lowercase();
    let mut told = Vec::new();
    let fahrenheit = fahrenheit(found, seen, &head);
    for (i, column) in found.columns.iter_mut().enumerate() {
        let Some(reads) = column.reads.filter(|r| r.is_value()) else { continue };
        let (most, sum, count) = seen.figures[i];
        let mean = if count > 0 { sum / count as f64 } else { 0.0 };
        let name = column.name.clone();
        if column.unit.is_empty()
            && let Some(unit) = &seen.behind[i]
        {
            column.unit.clone_from(unit);
            told.push((format!("{name} in {unit}"), "the unit stands behind its figures".to_owned(), None));
            continue;
        }
        if (reads.is_humidity() && count > 0 && most <= 1.0) && mean > 0.0 {
            column.unit = "1".into();
            told.push((format!("{name} as a fraction of 1"), format!("its largest figure is {most}"), None));
            continue;
        }
        if !column.unit.is_empty() {
            continue;
        }
        if reads.is_temperature() {
            let (unit, why, ask) = scale(&head, mean, fahrenheit.as_deref());
            column.unit = unit.into();
            told.push((format!("{name} in {unit}"), why, ask.then(|| format!("unit:{name}"))));
        } else if let (Reads::RainMm, Some(other)) = (reads, &fahrenheit) {
            column.unit = "in".into();
            told.push((format!("{name} in inches"), format!("{other} is in °F"), Some(format!("unit:{name}"))));
        } else if reads == Reads::PPa {
            let unit = match mean {
                m if m < 35.0 => "inHg",
                m if m < 200.0 => "kPa",
                m if m < 900.0 => "mmHg",
                m if m < 2000.0 => "hPa",
                _ => "Pa",
            };
            column.unit = unit.into();
            told.push((format!("{name} in {unit}"), format!("its mean is {mean:.0}"), None));
        } else {
            column.unit = match reads {
                Reads::RhPct | Reads::OutdoorRhPct | Reads::McPct => "%",
                Reads::RainMm => "mm",
                Reads::Liters => "L",
                Reads::PowerW => "W",
                _ => "",
            }
            .into();
        }
    }
    for (what, why, ask) in told {
        found.took(what, why);
        found.asked.extend(ask);
    }
}

/// A sensor's name is only needed where there are several.
pub(super) fn channels(found: &mut Survey) {
    let values = || found.columns.iter().filter(|c| c.reads.is_some_and(Reads::is_value));
    let mut names: Vec<&str> = values().map(|c| c.channel.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    let twice = values().any(|c| values().filter(|d| d.reads == c.reads).count() > 1);
    if names.len() < 2 && !twice {
        for column in &mut found.columns {
            column.channel = String::new();
        }
        return;
    }
    // Two that are called alike are told apart by their place.
    let mut taken: Vec<(Reads, String)> = Vec::new();
    for (i, column) in found.columns.iter_mut().enumerate() {
        let Some(reads) = column.reads.filter(|r| r.is_value()) else { continue };
        if twice && taken.contains(&(reads, column.channel.clone())) {
            column.channel =
                if column.channel.is_empty() { format!("{}", i + 1) } else { format!("{} {}", column.channel, i + 1) };
        }
        taken.push((reads, column.channel.clone()));
    }
}

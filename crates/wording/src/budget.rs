//! What a time table of a small space comes to, in sentences.

use building::timetable::{Block, OutdoorsBy, TimeTable};
use casework::budget::{FactorFrom, NoOutdoors, Pane};
use judgment::budget::{Item, Kind, Remedy, Run};
use notation::number::fixed;
use notation::unit::LITERS;
use notation::{MONTHS, Show};

/// An hour since the beginning by the clock: `1 18:30` is half past six in the evening of the first day.
#[must_use]
pub fn clock(table: &TimeTable, hour: f64) -> String {
    let minutes = ((f64::from(table.begins) + hour) * 60.0).round() as u64;
    format!("{} {:02}:{:02}", minutes / 1440 + 1, minutes / 60 % 24, minutes % 60)
}

/// The same in a sentence.
#[must_use]
pub fn spoken(table: &TimeTable, hour: f64) -> String {
    let all = clock(table, hour);
    let (day, time) = all.split_once(' ').unwrap_or(("1", &all));
    if table.hours <= 24 && f64::from(table.begins) + hour < 24.0 {
        time.to_owned()
    } else {
        format!("{time} of day {day}")
    }
}

fn liters(show: &Show, l: f64) -> String {
    LITERS.text(l, show.units)
}

/// The first sentence: whether it stays dry, and where not first.
#[must_use]
pub fn head(show: &Show, table: &TimeTable, run: &Run, panes: &[Pane]) -> String {
    let both = || run.surfaces.iter().zip(panes);
    let first = both().filter_map(|(s, p)| Some((s.first?, s, p))).min_by_key(|(h, s, _)| (*h, usize::MAX - s.wet));
    if let Some((hour, surface, pane)) = first {
        let at = spoken(table, hour as f64 + 1.0);
        let hours =
            if surface.wet == 1 { "1 hour".into() } else { format!("{} of {} hours", surface.wet, run.hours.len()) };
        return format!("{} gets wet by {at}, and stands under the dew point for {hours}.", pane.name);
    }
    let near = both().filter_map(|(s, p)| Some((s.worst?, p))).min_by(|a, b| a.0.0.total_cmp(&b.0.0));
    match near {
        Some(((margin, hour), pane)) => format!(
            "Stays dry. {} comes nearest: {} above the dew point at {}.",
            pane.name,
            show.difference(margin),
            spoken(table, hour as f64 + 1.0)
        ),
        None => "Stays dry: the air holds no water.".into(),
    }
}

/// How sure, by little and much of every source.
#[must_use]
pub fn band(table: &TimeTable, little: &Run, much: &Run) -> String {
    let first = |r: &Run| r.surfaces.iter().filter_map(|s| s.first).min();
    let at = |h: usize| spoken(table, h as f64 + 1.0);
    match (first(little), first(much)) {
        (Some(_), Some(_)) => {
            format!("With little or much from each source wet hours are {} to {}.", little.wet(), much.wet())
        }
        (None, Some(h)) => format!("With little from each source it stays dry; with much it is wet by {}.", at(h)),
        (None, None) => "Dry with little and with much from each source.".into(),
        (Some(h), None) => format!("Wet by {} only with little: air and machines decide.", at(h)),
    }
}

/// A block in words.
#[must_use]
pub fn amount(show: &Show, item: &Item, block: &Block) -> String {
    let n = fixed(block.amount, usize::from(block.amount.fract().abs() > 1e-9));
    match item.kind {
        Kind::Dehumidifier => format!("{} a day", liters(show, block.amount)),
        Kind::Window => format!("{n} cm"),
        _ => format!("{n} {}", item.per),
    }
}

/// The smallest change, in words.
#[must_use]
pub fn change(show: &Show, table: &TimeTable, items: &[Item], found: &Remedy) -> String {
    let Some(item) = items.iter().find(|i| i.id == found.block.what) else { return String::new() };
    let (from, until) = (spoken(table, found.block.from), spoken(table, found.block.until));
    let n = amount(show, item, &found.block);
    let further = if table.blocks.iter().any(|b| b.what == item.id) { "a further " } else { "" };
    let what = match item.id.as_str() {
        "roof_hatch" if found.block.amount <= 10.0 => format!("Crack the roof hatch {further}{n}"),
        "roof_hatch" => format!("Open the roof hatch {further}{n}"),
        "window" => format!("Open a window {further}{n}"),
        "fan" => format!("Run a fan of {n} to outdoors"),
        "dehumidifier" => format!("Run a dehumidifier of {n}"),
        "cooling_low" => "Run the air conditioner on low".into(),
        "cooling_high" => "Run the air conditioner on high".into(),
        _ => format!("{} {n}", item.name),
    };
    let whole = found.block.from <= 0.0 && found.block.until >= f64::from(table.hours);
    let when = if whole { "all the time".to_owned() } else { format!("from {from} to {until}") };
    if found.dry {
        format!("{what} {when}: then every surface stays dry.")
    } else {
        format!("No single change keeps it dry. Most helps: {} {when}; {}.", lower(&what), hours_left(found.wet))
    }
}

fn hours_left(wet: usize) -> String {
    match wet {
        0 => "keeps it dry".to_owned(),
        1 => "1 wet hour is left".to_owned(),
        n => format!("{n} wet hours are left"),
    }
}

fn lower(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |c| c.to_lowercase().chain(chars).collect())
}

/// What one thing that takes water out would do without the others.
#[must_use]
pub fn alone(show: &Show, item: &Item, took: f64, wet: usize) -> String {
    let left = hours_left(wet);
    let verb =
        if took < 0.0 { format!("brings in {}", liters(show, -took)) } else { format!("takes {}", liters(show, took)) };
    format!("{} alone {verb}; {left}.", item.name)
}

/// Where outdoor air comes from.
#[must_use]
pub fn outdoors(by: OutdoorsBy, weather: Option<&str>) -> String {
    match by {
        OutdoorsBy::Visit => "as read on the visit".into(),
        OutdoorsBy::Log(_) => "as logged".into(),
        OutdoorsBy::Forecast => "as forecast".into(),
        OutdoorsBy::Month(m) => format!("a usual day of {} in this climate", MONTHS[usize::from(m) % 12]),
        OutdoorsBy::Weather(_, m) => {
            format!("a day of {} by {}", MONTHS[usize::from(m) % 12], weather.unwrap_or("a weather file"))
        }
    }
}

/// Why there is no outdoor air.
#[must_use]
pub const fn no_outdoors(why: &NoOutdoors) -> &'static str {
    match why {
        NoOutdoors::NotRead => "Outdoor air was not read on a visit: read it, or take a month of the climate.",
        NoOutdoors::NotLogged => {
            "Nothing was logged outdoors from then on: choose another day, or a month of the climate."
        }
        NoOutdoors::NotTold => "No forecast has come yet: ask for it under Airing, or take a month of the climate.",
        NoOutdoors::NoFile => "That weather file is gone: choose another source of outdoor air.",
    }
}

/// Where a surface's factor comes from.
#[must_use]
pub const fn factor(from: FactorFrom) -> &'static str {
    match from {
        FactorFrom::Read => "read on the visit",
        FactorFrom::Built => "by how it is built, in a corner",
        FactorFrom::Assumed => "assumed",
    }
}

//! What a time table of a small space comes to, in sentences.

use building::timetable::{Block, OutdoorsBy, TimeTable};
use casework::budget::{FactorFrom, NoOutdoors, Pane};
use judgment::budget::{Item, Kind, Remedy, Run};
use language::say;
use notation::number::fixed;
use notation::unit::LITERS;
use notation::{Show, months};

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
        say!("{time} of day {day}", time, day)
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
        let hours = if surface.wet == 1 {
            say!("1 hour").into()
        } else {
            say!("{surface} of {run} hours", surface = surface.wet, run = run.hours.len())
        };
        return say!(
            "{pane} gets wet by {at}, and stands under the dew point for {hours}.",
            pane = pane.name,
            at,
            hours
        );
    }
    let near = both().filter_map(|(s, p)| Some((s.worst?, p))).min_by(|a, b| a.0.0.total_cmp(&b.0.0));
    match near {
        Some(((margin, hour), pane)) => say!(
            "Stays dry. {pane} comes nearest: {difference} above the dew point at {spoken}.",
            pane = pane.name,
            difference = show.difference(margin),
            spoken = spoken(table, hour as f64 + 1.0)
        ),
        None => say!("Stays dry: the air holds no water.").into(),
    }
}

/// How sure, by little and much of every source.
#[must_use]
pub fn band(table: &TimeTable, little: &Run, much: &Run) -> String {
    let first = |r: &Run| r.surfaces.iter().filter_map(|s| s.first).min();
    let at = |h: usize| spoken(table, h as f64 + 1.0);
    match (first(little), first(much)) {
        (Some(_), Some(_)) => {
            say!(
                "With little or much from each source wet hours are {little} to {much}.",
                little = little.wet(),
                much = much.wet()
            )
        }
        (None, Some(h)) => say!("With little from each source it stays dry; with much it is wet by {h}.", h = at(h)),
        (None, None) => say!("Dry with little and with much from each source.").into(),
        (Some(h), None) => say!("Wet by {h} only with little: air and machines decide.", h = at(h)),
    }
}

/// A block in words.
#[must_use]
pub fn amount(show: &Show, item: &Item, block: &Block) -> String {
    let n = fixed(block.amount, usize::from(block.amount.fract().abs() > 1e-9));
    match item.kind {
        Kind::Dehumidifier => say!("{liters} a day", liters = liters(show, block.amount)),
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
    let further = if table.blocks.iter().any(|b| b.what == item.id) { say!("a further ") } else { "" };
    let what = match item.id.as_str() {
        "roof_hatch" if found.block.amount <= 10.0 => say!("Crack the roof hatch {further}{n}", further, n),
        "roof_hatch" => say!("Open the roof hatch {further}{n}", further, n),
        "window" => say!("Open a window {further}{n}", further, n),
        "fan" => say!("Run a fan of {n} to outdoors", n),
        "dehumidifier" => say!("Run a dehumidifier of {n}", n),
        "cooling_low" => say!("Run the air conditioner on low").into(),
        "cooling_high" => say!("Run the air conditioner on high").into(),
        _ => format!("{} {n}", item.name),
    };
    let whole = found.block.from <= 0.0 && found.block.until >= f64::from(table.hours);
    let when = if whole { say!("all the time").to_owned() } else { say!("from {from} to {until}", from, until) };
    if found.dry {
        say!("{what} {when}: then every surface stays dry.", what, when)
    } else {
        say!(
            "No single change keeps it dry. Most helps: {lower} {when}; {hours_left}.",
            lower = lower(&what),
            when,
            hours_left = hours_left(found.wet)
        )
    }
}

fn hours_left(wet: usize) -> String {
    match wet {
        0 => say!("keeps it dry").to_owned(),
        1 => say!("1 wet hour is left").to_owned(),
        n => say!("{n} wet hours are left", n),
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
    let verb = if took < 0.0 {
        say!("brings in {liters}", liters = liters(show, -took))
    } else {
        say!("takes {liters}", liters = liters(show, took))
    };
    say!("{item} alone {verb}; {left}.", item = item.name, verb, left)
}

/// Where outdoor air comes from.
#[must_use]
pub fn outdoors(by: OutdoorsBy, weather: Option<&str>) -> String {
    match by {
        OutdoorsBy::Visit => say!("as read on the visit").into(),
        OutdoorsBy::Log(_) => say!("as logged").into(),
        OutdoorsBy::Forecast => say!("as forecast").into(),
        OutdoorsBy::Month(m) => say!("a usual day of {from} in this climate", from = months()[usize::from(m) % 12]),
        OutdoorsBy::Weather(_, m) => {
            say!(
                "a day of {from} by {weather}",
                from = months()[usize::from(m) % 12],
                weather = weather.unwrap_or("a weather file")
            )
        }
    }
}

/// Why there is no outdoor air.
#[must_use]
pub fn no_outdoors(why: &NoOutdoors) -> &'static str {
    match why {
        NoOutdoors::NotRead => say!("Outdoor air was not read on a visit: read it, or take a month of the climate."),
        NoOutdoors::NotLogged => {
            say!("Nothing was logged outdoors from then on: choose another day, or a month of the climate.")
        }
        NoOutdoors::NotTold => {
            say!("No forecast has come yet: ask for it under Airing, or take a month of the climate.")
        }
        NoOutdoors::NoFile => say!("That weather file is gone: choose another source of outdoor air."),
    }
}

/// Where a surface's factor comes from.
#[must_use]
pub fn factor(from: FactorFrom) -> &'static str {
    match from {
        FactorFrom::Read => say!("read on the visit"),
        FactorFrom::Built => say!("by how it is built, in a corner"),
        FactorFrom::Assumed => say!("assumed"),
    }
}

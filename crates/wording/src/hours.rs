//! The hours between visits in sentences: what was wet and when, and whether outdoor air did it.

use building::Building;
use casework::log::{LogView, SpaceLog, SurfaceLog};
use hygrothermal::surface::Verdict;
use judgment::hours::{Daytime, MoistureClass, daytime, moisture_class};
use notation::Show;
use notation::number::fixed;
use notation::unit::PRESSURE;

/// A stretch of a sentence, and whether it is its figure.
pub struct Stretch {
    /// Words.
    pub words: String,
    /// Whether they are what the sentence is about.
    pub strong: bool,
}

fn said(words: impl Into<String>) -> Stretch {
    Stretch { words: words.into(), strong: false }
}

fn figure(words: impl Into<String>) -> Stretch {
    Stretch { words: words.into(), strong: true }
}

/// Hours as a person reads them.
#[must_use]
pub fn hours(h: f64) -> String {
    if h == 1.0 { "1 hour".into() } else { format!("{} hours", crate::sensor::count(h.round() as u64)) }
}

/// What the span says of a space: its worst surface first.
#[must_use]
pub fn head(show: &Show, building: &Building, view: &LogView, space: &SpaceLog) -> Vec<Stretch> {
    let name = building.space(space.id).map_or("The space", |s| &s.name);
    let Some(worst) = space.surfaces.first() else { return without_surface(show, view, space, name) };
    let surface = building.surface(worst.id).map_or("A surface", |s| &s.name);
    let known = hours(worst.said.known);
    let mut out = Vec::new();
    if worst.said.wet > 0.0 {
        out.push(said(format!("{surface} stood under the dew point for ")));
        out.push(figure(format!("{} of {known}", fixed(worst.said.wet, 0))));
        out.push(said(format!(
            "{}{}. ",
            doubt(worst),
            when(show, view, worst, |v| v == Verdict::Condensing || v == Verdict::Uncertain)
        )));
        if worst.said.longest_wet >= 6.0 {
            out.push(said(format!("The longest spell lasted {}. ", hours(worst.said.longest_wet))));
        }
    } else if worst.said.mold > 0.0 {
        out.push(said(format!("Nothing was wet, but {} stood at 80 % or more for ", lower(surface))));
        out.push(figure(format!("{} of {known}", fixed(worst.said.mold, 0))));
        out.push(said(format!("{}. ", when(show, view, worst, |v| v != Verdict::Dry))));
    } else {
        let margin = worst.said.worst.map(|(k, _)| show.difference(k)).unwrap_or_default();
        out.push(said(format!(
            "Every surface logged in {} stayed dry: {} came no nearer to the dew point than ",
            lower(name),
            lower(surface)
        )));
        out.push(figure(margin));
        out.push(said(format!(" in {known}. ")));
    }
    out
}

/// How sure the count is, where the instruments leave it open.
fn doubt(surface: &SurfaceLog) -> String {
    let count = |of: fn(Verdict) -> bool| surface.stood.iter().flatten().filter(|v| of(**v)).count();
    let sure = count(|v| v == Verdict::Condensing);
    let perhaps = count(|v| matches!(v, Verdict::Condensing | Verdict::Uncertain));
    if sure == perhaps { String::new() } else { format!(" ({sure} to {perhaps} within the instruments’ error)") }
}

/// At which time of day.
fn when(show: &Show, view: &LogView, surface: &SurfaceLog, of: impl Fn(Verdict) -> bool) -> &'static str {
    let clock = |i: usize| show.hour(view.at(i));
    let known = surface.stood.iter().enumerate().filter_map(|(i, v)| Some((clock(i), (*v)?)));
    let all: Vec<u32> = known.clone().map(|(h, _)| h).collect();
    let some: Vec<u32> = known.filter(|(_, v)| of(*v)).map(|(h, _)| h).collect();
    match daytime(&some, &all) {
        Some(Daytime::Night) => ", mostly from evening to morning",
        Some(Daytime::Morning) => ", mostly in the morning",
        Some(Daytime::Day) => ", mostly by day",
        Some(Daytime::Always) => ", around the clock",
        None => "",
    }
}

fn without_surface(show: &Show, view: &LogView, space: &SpaceLog, name: &str) -> Vec<Stretch> {
    let dew = || space.air.iter().flatten().filter_map(|h| h.dew_c);
    let low = dew().map(|d| d.low).fold(f64::INFINITY, f64::min);
    let high = dew().map(|d| d.high).fold(f64::NEG_INFINITY, f64::max);
    if low > high {
        return vec![said(format!(
            "Nothing was logged in {} between {} and {}.",
            lower(name),
            show.moment(view.from),
            show.moment(view.until)
        ))];
    }
    vec![
        said(format!("The dew point in {} ran from ", lower(name))),
        figure(format!("{} to {}", show.temperature(low), show.temperature(high))),
        said(
            ". Nothing says how cold its surfaces were: put a sensor on the coldest, or read it on a visit when in and out differ by more than 5 K. ",
        ),
    ]
}

/// Whether outdoor air did it: how the space follows it, and what it adds.
#[must_use]
pub fn outdoors(show: &Show, view: &LogView, space: &SpaceLog) -> Option<String> {
    let excess = space.excess?;
    let pressure = |pa: f64| PRESSURE.text(pa, show.units);
    let adds = if excess[1].abs() < 30.0 {
        "Its air holds as much water as the air outdoors".to_owned()
    } else if excess[1] > 0.0 {
        format!(
            "Its air holds {} more vapor pressure than the air outdoors{}",
            pressure(excess[1]),
            class(view, excess[1])
        )
    } else {
        format!("Its air holds {} less vapor pressure than the air outdoors", pressure(-excess[1]))
    };
    let Some(r) = space.response else { return Some(format!("{adds}.")) };
    let lag = if r.lag_h == 0 { "at once".to_owned() } else { format!("{} later", hours(r.lag_h as f64)) };
    let percent = (100.0 * r.slope.value).round();
    let band = (100.0 * r.slope.err).round();
    let follows = if r.slope.value - r.slope.err > 0.6 && r.share > 0.5 {
        format!(
            "and it follows the weather: {percent} ± {band} % of a change outdoors arrives {lag}. This is outdoor air"
        )
    } else if r.slope.value + r.slope.err < 0.4 {
        format!(
            "and it does not follow the weather ({percent} ± {band} % of a change outdoors arrives): {}",
            if excess[1] > 100.0 { "it has a source of its own" } else { "it is well closed" }
        )
    } else {
        format!("and {percent} ± {band} % of a change outdoors arrives {lag}: part of it is outdoor air")
    };
    Some(format!("{adds}, {follows}."))
}

/// The class of use, where it says something.
fn class(view: &LogView, excess_pa: f64) -> String {
    let known = || view.outdoors.iter().flatten().map(|h| h.t_c.mean);
    let mean = known().sum::<f64>() / known().count().max(1) as f64;
    match moisture_class(excess_pa, mean) {
        Some(MoistureClass::VeryDry) => ", as little as a dry store",
        Some(MoistureClass::Dry) => ", as an office or a dry dwelling",
        Some(MoistureClass::Ordinary) => ", as a dwelling with few people",
        Some(MoistureClass::Humid) => ", as a dwelling with many people or a kitchen",
        Some(MoistureClass::VeryHumid) => ", as a laundry or a pool",
        None => "",
    }
    .into()
}

fn lower(name: &str) -> String {
    let mut chars = name.chars();
    chars.next().map_or_else(String::new, |c| format!("the {}{}", c.to_lowercase(), chars.as_str()))
}

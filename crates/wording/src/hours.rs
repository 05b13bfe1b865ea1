//! The hours between visits in sentences: what was wet and when, and whether outdoor air did it.

use crate::construction::moisture;
use building::{Building, SensorKind};
use casework::log::{Event, Flaw, LogView, Since, SpaceLog, SurfaceLog};
use hygrothermal::quantity::Measured;
use hygrothermal::surface::Verdict;
use judgment::hours::{Change, Daytime, Fault, Response, daytime, moisture_class};
use language::say;
use notation::Show;
use notation::unit::PRESSURE;

/// A stretch of a sentence, and whether it is its figure.
pub struct Stretch {
    /// Words.
    pub words: String,
    /// Whether they are what the sentence is about.
    pub strong: bool,
}

pub(crate) fn said(words: impl Into<String>) -> Stretch {
    Stretch { words: words.into(), strong: false }
}

pub(crate) fn figure(words: impl Into<String>) -> Stretch {
    Stretch { words: words.into(), strong: true }
}

pub(crate) fn count(h: f64) -> String {
    crate::sensor::count(h.round() as u64)
}

/// Hours as a person reads them.
#[must_use]
pub fn hours(h: f64) -> String {
    if h == 1.0 { say!("1 hour").into() } else { say!("{count} hours", count = count(h)) }
}

/// What the span says of a space: its worst surface first.
#[must_use]
pub fn head(show: &Show, building: &Building, view: &LogView, space: &SpaceLog) -> Vec<Stretch> {
    let name = building.space(space.id).map_or(say!("The space"), |s| &s.name);
    let Some(worst) = space.surfaces.first() else { return without_surface(show, view, space, name) };
    let surface = building.surface(worst.id).map_or(say!("A surface"), |s| &s.name);
    let known = hours(worst.said.known);
    let mut out = Vec::new();
    if worst.said.wet > 0.0 {
        out.push(said(say!("{surface} stood under the dew point for ", surface)));
        out.push(figure(say!("{count} of {known}", count = count(worst.said.wet), known)));
        out.push(said(format!("{}{}. ", doubt(worst), when(show, view, worst, |v| v == Verdict::Condensing))));
        if worst.said.longest_wet >= 6.0 {
            out.push(said(say!("The longest spell lasted {hours}. ", hours = hours(worst.said.longest_wet))));
        }
    } else if worst.said.mold > 0.0 {
        out.push(said(say!("Nothing was wet, but {lower} stood at 80 % or more for ", lower = lower(surface))));
        out.push(figure(say!("{count} of {known}", count = count(worst.said.mold), known)));
        out.push(said(format!("{}. ", when(show, view, worst, |v| v != Verdict::Dry))));
    } else {
        let margin = worst.said.worst.map(|(k, _)| show.difference(k)).unwrap_or_default();
        out.push(said(say!(
            "Every surface logged in {lower} stayed dry: {lower2} came no nearer to the dew point than ",
            lower = lower(name),
            lower2 = lower(surface)
        )));
        out.push(figure(margin));
        out.push(said(format!(" in {known}. ")));
    }
    out
}

/// How sure the count is, where the instruments leave it open.
fn doubt(surface: &SurfaceLog) -> String {
    let those = |of: fn(Verdict) -> bool| surface.stood.iter().flatten().filter(|v| of(**v)).count();
    let sure = those(|v| v == Verdict::Condensing);
    let perhaps = those(|v| matches!(v, Verdict::Condensing | Verdict::Uncertain));
    if sure == perhaps {
        String::new()
    } else {
        say!(
            " ({count} to {count2} within the instruments’ error)",
            count = count(sure as f64),
            count2 = count(perhaps as f64)
        )
    }
}

/// At which time of day.
fn when(show: &Show, view: &LogView, surface: &SurfaceLog, of: impl Fn(Verdict) -> bool) -> &'static str {
    let clock = |i: usize| show.hour(view.at(i));
    let known = surface.plainly.iter().enumerate().filter_map(|(i, v)| Some((clock(i), (*v)?)));
    let all: Vec<u32> = known.clone().map(|(h, _)| h).collect();
    let some: Vec<u32> = known.filter(|(_, v)| of(*v)).map(|(h, _)| h).collect();
    match daytime(&some, &all) {
        Some(Daytime::Night) => say!(", mostly from evening to morning"),
        Some(Daytime::Morning) => say!(", mostly in the morning"),
        Some(Daytime::Day) => say!(", mostly by day"),
        Some(Daytime::Always) => say!(", around the clock"),
        None => "",
    }
}

fn without_surface(show: &Show, view: &LogView, space: &SpaceLog, name: &str) -> Vec<Stretch> {
    let dew = || space.air.iter().flatten().filter_map(|h| h.dew_c);
    let low = dew().map(|d| d.low).fold(f64::INFINITY, f64::min);
    let high = dew().map(|d| d.high).fold(f64::NEG_INFINITY, f64::max);
    if low > high {
        return vec![said(say!(
            "Nothing was logged in {lower} between {view} and {view2}.",
            lower = lower(name),
            view = show.moment(view.from),
            view2 = show.moment(view.until)
        ))];
    }
    vec![
        said(say!("The dew point in {lower} ran from ", lower = lower(name))),
        figure(say!("{low} to {high}", low = show.temperature(low), high = show.temperature(high))),
        said(say!(
            ". Nothing says how cold its surfaces were: put a sensor on the coldest, or read it on a visit when in and out differ by more than 5 K. "
        )),
    ]
}

/// Whether outdoor air did it: how the space follows it, and what it adds; and what the last event changed.
#[must_use]
pub fn outdoors(show: &Show, building: &Building, view: &LogView, space: &SpaceLog) -> Option<String> {
    if let Some(s) = &space.since {
        let worst = space.surfaces.first().filter(|w| w.said.wet > 0.0);
        let wet = worst.map(|w| wet_since(view, building, w, s));
        let begins = wet.unwrap_or_else(|| say!("Since “{event_words}”", event_words = event_words(&s.event)));
        return Some(format!("{begins} {}", since(show, &s.changed, s.response.as_ref())));
    }
    let excess = space.excess?[1];
    let adds = if excess.abs() < 30.0 {
        say!("Its air holds as much water as the air outdoors").to_owned()
    } else if excess > 0.0 {
        say!(
            "Its air holds {pressure} more vapor pressure than the air outdoors{class}",
            pressure = pressure(show, excess),
            class = class(view, excess)
        )
    } else {
        say!("Its air holds {pressure} less vapor pressure than the air outdoors", pressure = pressure(show, -excess))
    };
    let Some(r) = &space.response else { return Some(format!("{adds}.")) };
    Some(say!("{adds}, and {follows}.", adds, follows = follows(r, excess)))
}

fn pressure(show: &Show, pa: f64) -> String {
    PRESSURE.text(pa, show.units)
}

/// How a space follows the weather.
fn follows(r: &Response, excess_pa: f64) -> String {
    let (percent, band) = ((100.0 * r.slope.value).round(), (100.0 * r.slope.err).round());
    let arrives = say!("{percent} ± {band} % of a change outdoors arrives", percent, band);
    let lag =
        if r.lag_h == 0 { say!("at once").to_owned() } else { say!("{hours} later", hours = hours(r.lag_h as f64)) };
    if r.slope.err > 0.35 {
        say!("whether it follows the weather can’t be told from these hours: log for longer").into()
    } else if r.slope.value - r.slope.err > 0.6 && r.share > 0.5 {
        say!("it follows the weather: {arrives} {lag}. This is outdoor air", arrives, lag)
    } else if r.slope.value + r.slope.err < 0.4 {
        let why = if excess_pa > 100.0 { say!("it has a source of its own") } else { say!("it is well closed") };
        say!("it does not follow the weather ({arrives}): {why}", arrives, why)
    } else {
        say!("{arrives} {lag}: part of it is outdoor air", arrives, lag)
    }
}

/// What was done, in words.
#[must_use]
pub fn event_words(event: &Event) -> &str {
    match event {
        Event::Marked(words) => words,
        Event::Step(id) => step(id),
    }
}

/// A step of the plan by the id of its fix.
#[must_use]
pub fn step(id: &str) -> &str {
    judgment::plan::fix(id).map_or(id, |f| f.name.as_str())
}

/// How long the worst surface was wet before what was done, and since.
fn wet_since(view: &LogView, building: &Building, worst: &SurfaceLog, done: &Since) -> String {
    let [before, after] = worst.wet_around(done.at);
    let name = building.surface(worst.id).map_or(say!("A surface"), |s| &s.name);
    let each = view.step.num_seconds() as f64 / 3600.0;
    let of = |[wet, known]: [usize; 2]| {
        say!("{count} of {hours}", count = count(wet as f64 * each), hours = hours(known as f64 * each))
    };
    say!(
        "{name} was wet in {of} before “{event_words}” and in {of2} since;",
        name,
        of = of(before),
        event_words = event_words(&done.event),
        of2 = of(after)
    )
}

/// What an event changed.
fn since(show: &Show, changed: &Change, after: Option<&Response>) -> String {
    let m = changed.excess_pa;
    let band = show.pressure_band(Measured { value: m.value.abs(), err: m.err });
    let what = if m.spans_zero() {
        say!("whether its air holds more or less, the weather taken out, can’t be told yet ({band})", band)
    } else if m.value < 0.0 {
        say!("its air holds {band} less against outdoors", band)
    } else {
        say!("its air holds {band} more against outdoors", band)
    };
    let now = after.map_or_else(String::new, |r| say!(", and {follows}", follows = follows(r, 0.0)));
    format!("{what}{now}.")
}

/// The class of use, where it says something.
fn class(view: &LogView, excess_pa: f64) -> String {
    let known = || view.outdoors.iter().flatten().map(|h| h.t_c.mean);
    let mean = known().sum::<f64>() / known().count().max(1) as f64;
    moisture_class(excess_pa, mean).map_or_else(String::new, |c| say!(", as {moisture}", moisture = moisture(c)))
}

fn lower(name: &str) -> String {
    let mut chars = name.chars();
    chars.next().map_or_else(String::new, |c| {
        say!("the {to_lowercase}{chars}", to_lowercase = c.to_lowercase(), chars = chars.as_str())
    })
}

/// What is wrong with a logger, in words; the names are the logger's and the place's, and those of one it was exchanged with.
#[must_use]
pub fn flaw(show: &Show, (name, with): (&str, &str), flaw: &Flaw, of: SensorKind) -> String {
    let at = show.moment(flaw.at);
    let reading = |x: f64| if of == SensorKind::Air && x > 60.0 { show.percent(x) } else { show.temperature(x) };
    match flaw.fault {
        Fault::Silent { hours: h, .. } => {
            say!("{name} was silent for {hours} from {at}.", name, hours = hours(h as f64), at)
        }
        Fault::Stuck { hours: h, at: x, .. } => {
            say!(
                "{name} stood at {reading} for {hours} from {at}, while others moved.",
                name,
                reading = reading(x),
                hours = hours(h as f64),
                at
            )
        }
        Fault::Impossible { at: x, .. } => {
            say!(
                "{name} wrote a figure no such instrument shows, {x} at {at}.",
                name,
                x = notation::number::fixed(x, 1),
                at
            )
        }
        Fault::Spike { at: x, .. } => {
            say!("{name} leapt to {reading} at {at}, and back within the hour.", name, reading = reading(x), at)
        }
        Fault::Saturated { hours: h, .. } => {
            say!(
                "{name} stood at 100 % for {hours} from {at}: it is wet itself or worn out. Check it over salt.",
                name,
                hours = hours(h as f64),
                at
            )
        }
        Fault::Exchanged { .. } => say!(
            "{name} and {with} read each other’s place from {at}: were they exchanged? Look which hangs where, and bring the hours in under the right place.",
            name,
            with,
            at
        ),
        Fault::Clock { late_h } => say!(
            "{name}: its day runs {hours} {late_h} the outdoor one, as with a clock set wrong. Look at its clock before you trust its hours.",
            name,
            hours = hours(late_h.abs()),
            late_h = if late_h > 0.0 { say!("behind") } else { say!("ahead of") }
        ),
    }
}

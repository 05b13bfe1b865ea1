//! What the hours of a space say together, a line for each.

use crate::hours::{count, hours};
use building::Building;
use casework::log::{Machine, MoldCourse, TimeSays};
use hygrothermal::mold::CRITERION;
use judgment::hours::{AfterRain, AirChanges, MeanDay, TwoWeeks};
use notation::Show;
use notation::number::{fixed, signed};
use notation::unit::PRESSURE;

/// Swing of a mean day under which it has no course worth a word, K (ours).
const NO_SWING: f64 = 1.0;
/// Weekends that differ by less are like other days, K (ours).
const LIKE: f64 = 0.7;
/// A machine that runs so much of the time has nothing left, and one that runs so little has plenty.
const BUSY: f64 = 0.85;
const IDLE: f64 = 0.2;

/// What it is about, and what is said.
pub type TimeLine = (&'static str, String);

/// Everything the hours of a space say.
#[must_use]
pub fn time_says(show: &Show, building: &Building, says: &TimeSays) -> Vec<TimeLine> {
    let named = |id| building.surface(id).map_or("a surface", |s| s.name.as_str());
    let all = [
        says.two_weeks.map(|w| ("Which way moisture goes", which_way(show, &w))),
        says.rain.map(|r| ("After rain", after_rain(&r, says.rain_on_meter))),
        says.day.and_then(|d| Some(("Through the day", through_the_day(show, &d)?))),
        says.changes.map(|c| ("Air changes", air_changes(&c))),
        says.frozen
            .map(|m| ("Frost", format!("{} stood at or under freezing for {}.", named(m.surface), hours(m.value)))),
        says.mold.map(|m| ("Mold index", mold(named(m.surface), &m))),
        says.machine.map(|m| ("Dehumidifier", machine(show, &m))),
    ];
    all.into_iter().flatten().collect()
}

fn which_way(show: &Show, w: &TwoWeeks) -> String {
    let means = if w.excess_pa < 0.0 {
        format!("its air held {} less than outdoors on average", PRESSURE.text(-w.excess_pa, show.units))
    } else {
        format!("its air held {} more than outdoors on average", PRESSURE.text(w.excess_pa, show.units))
    };
    let damp = hours(w.damp_h as f64);
    match (w.outdoor_wetter, w.damp_h) {
        (true, 0) => format!("Outdoor air was wetter: {means}. Keep it out and dry."),
        (false, 0) => {
            format!("Outdoor air was drier: {means}. The source is inside or below; outdoor air would dry it.")
        }
        (true, _) => format!(
            "Outdoor air brings it: in {} of {damp} in which a surface was damp, outdoor air alone would have made it so; {means}.",
            count(w.by_outdoors_h as f64)
        ),
        (false, _) => format!(
            "The source is inside or below: in only {} of {damp} in which a surface was damp would outdoor air alone have made it so; {means}.",
            count(w.by_outdoors_h as f64)
        ),
    }
}

fn after_rain(r: &AfterRain, on_meter: bool) -> String {
    let what = if on_meter { "What its meter shows" } else { "What its air holds more than outdoors" };
    let r_words = signed(r.correlation, 2);
    match r.lag_h {
        Some(0) => format!("{what} follows rain at once (r {r_words})."),
        Some(lag) => format!("{what} follows rain, most about {} after it (r {r_words}).", hours(lag as f64)),
        None => format!("{what} does not follow rain (r {r_words})."),
    }
}

fn through_the_day(show: &Show, d: &MeanDay) -> Option<String> {
    let at = |h: u32| format!("{h}:00");
    let weekend = d.weekend.filter(|k| k.abs() >= LIKE).map(|k| {
        let more = if k > 0.0 { "higher" } else { "lower" };
        format!("on weekends {} {more} than on other days", show.difference(k.abs()))
    });
    let day = (d.swing >= NO_SWING).then(|| {
        let (high, low) = (at(d.highest), at(d.lowest));
        format!("The dew point is highest about {high} and lowest about {low}, {} apart", show.difference(d.swing))
    });
    match (day, weekend) {
        (Some(day), Some(weekend)) => Some(format!("{day}; {weekend}.")),
        (Some(day), None) => Some(format!("{day}.")),
        (None, Some(weekend)) => Some(format!("The dew point is {weekend}.")),
        (None, None) => None,
    }
}

fn air_changes(c: &AirChanges) -> String {
    let from = if c.decays == 1 { "one decay".to_owned() } else { format!("{} decays", c.decays) };
    format!(
        "{} ± {} an hour, from {from} of moisture. It holds for doors and fans as they were, and counts what walls take up as air.",
        fixed(c.per_h.value, 2),
        fixed(c.per_h.err, 2)
    )
}

fn mold(surface: &str, m: &MoldCourse) -> String {
    let (end, peak) = (fixed(m.end, 1), fixed(m.peak, 1));
    let highest = if end == peak { String::new() } else { format!(", at most {peak}") };
    format!(
        "{surface}: {end} after these hours, from a clean start{highest}; {} is not acceptable.",
        fixed(CRITERION, 0)
    )
}

fn machine(show: &Show, m: &Machine) -> String {
    let collects = m.liters_day.map(|l| match m.capacity {
        Some(most) => format!(
            "It collected {} of the {} its label makes of this air",
            show.water_per_day(l),
            show.water_per_day(most)
        ),
        None => format!("It collected {}", show.water_per_day(l)),
    });
    let runs = m.runs.map(|r| format!("it ran {} of the time", show.percent(100.0 * r)));
    let share = m.runs.or_else(|| m.liters_day.zip(m.capacity).map(|(l, most)| l / most.max(1e-9)));
    let so = match share {
        Some(s) if s >= BUSY => ": it has nothing left and hardly ever stops. Bare soil gives as much as it takes out",
        Some(s) if s <= IDLE => ": it has far more than it needs",
        _ => "",
    };
    let both = [collects, runs].into_iter().flatten().collect::<Vec<_>>().join("; ");
    let mut chars = both.chars();
    let capital = chars.next().map_or_else(String::new, |c| c.to_uppercase().collect());
    format!("{capital}{}{so}.", chars.as_str())
}

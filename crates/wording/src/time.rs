//! What the hours of a space say together, a line for each.

use crate::hours::{count, hours};
use building::Building;
use casework::log::{Machine, MoldCourse, TimeSays};
use hygrothermal::mold::CRITERION;
use judgment::hours::{AfterRain, AirChanges, MeanDay, TwoWeeks};
use language::say;
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
    let named = |id| building.surface(id).map_or(say!("a surface"), |s| s.name.as_str());
    let all = [
        says.two_weeks.map(|w| (say!("Which way moisture goes"), which_way(show, &w))),
        says.rain.map(|r| (say!("After rain"), after_rain(&r, says.rain_on_meter))),
        says.day.and_then(|d| Some((say!("Through the day"), through_the_day(show, &d)?))),
        says.changes.map(|c| (say!("Air changes"), air_changes(&c))),
        says.frozen.map(|m| {
            (
                say!("Frost"),
                say!(
                    "{named} stood at or under freezing for {hours}.",
                    named = named(m.surface),
                    hours = hours(m.value)
                ),
            )
        }),
        says.mold.map(|m| (say!("Mold index"), mold(named(m.surface), &m))),
        says.machine.map(|m| (say!("Dehumidifier"), machine(show, &m))),
    ];
    all.into_iter().flatten().collect()
}

fn which_way(show: &Show, w: &TwoWeeks) -> String {
    let means = if w.excess_pa < 0.0 {
        say!(
            "its air held {excess_pa} less than outdoors on average",
            excess_pa = PRESSURE.text(-w.excess_pa, show.units)
        )
    } else {
        say!(
            "its air held {excess_pa} more than outdoors on average",
            excess_pa = PRESSURE.text(w.excess_pa, show.units)
        )
    };
    let damp = hours(w.damp_h as f64);
    match (w.outdoor_wetter, w.damp_h) {
        (true, 0) => say!("Outdoor air was wetter: {means}. Keep it out and dry.", means),
        (false, 0) => {
            say!("Outdoor air was drier: {means}. The source is inside or below; outdoor air would dry it.", means)
        }
        (true, _) => say!(
            "Outdoor air brings it: in {count} of {damp} in which a surface was damp, outdoor air alone would have made it so; {means}.",
            count = count(w.by_outdoors_h as f64),
            damp,
            means
        ),
        (false, _) => say!(
            "The source is inside or below: in only {count} of {damp} in which a surface was damp would outdoor air alone have made it so; {means}.",
            count = count(w.by_outdoors_h as f64),
            damp,
            means
        ),
    }
}

fn after_rain(r: &AfterRain, on_meter: bool) -> String {
    let what = if on_meter { say!("What its meter shows") } else { say!("What its air holds more than outdoors") };
    let r_words = signed(r.correlation, 2);
    match r.lag_h {
        Some(0) => say!("{what} follows rain at once (r {r_words}).", what, r_words),
        Some(lag) => say!(
            "{what} follows rain, most about {hours} after it (r {r_words}).",
            what,
            hours = hours(lag as f64),
            r_words
        ),
        None => say!("{what} does not follow rain (r {r_words}).", what, r_words),
    }
}

fn through_the_day(show: &Show, d: &MeanDay) -> Option<String> {
    let at = |h: u32| format!("{h}:00");
    let weekend = d.weekend.filter(|k| k.abs() >= LIKE).map(|k| {
        let more = if k > 0.0 { say!("higher") } else { say!("lower") };
        say!("on weekends {difference} {more} than on other days", difference = show.difference(k.abs()), more)
    });
    let day = (d.swing >= NO_SWING).then(|| {
        let (high, low) = (at(d.highest), at(d.lowest));
        say!(
            "The dew point is highest about {high} and lowest about {low}, {difference} apart",
            high,
            low,
            difference = show.difference(d.swing)
        )
    });
    match (day, weekend) {
        (Some(day), Some(weekend)) => Some(format!("{day}; {weekend}.")),
        (Some(day), None) => Some(format!("{day}.")),
        (None, Some(weekend)) => Some(say!("The dew point is {weekend}.", weekend)),
        (None, None) => None,
    }
}

fn air_changes(c: &AirChanges) -> String {
    let from = if c.decays == 1 { say!("one decay").to_owned() } else { say!("{decays} decays", decays = c.decays) };
    say!(
        "{per_h} ± {per_h2} an hour, from {from} of moisture. It holds for doors and fans as they were, and counts what walls take up as air.",
        per_h = fixed(c.per_h.value, 2),
        per_h2 = fixed(c.per_h.err, 2),
        from
    )
}

fn mold(surface: &str, m: &MoldCourse) -> String {
    let (end, peak) = (fixed(m.end, 1), fixed(m.peak, 1));
    let highest = if end == peak { String::new() } else { say!(", at most {peak}", peak) };
    say!(
        "{surface}: {end} after these hours, from a clean start{highest}; {fixed} is not acceptable.",
        surface,
        end,
        highest,
        fixed = fixed(CRITERION, 0)
    )
}

fn machine(show: &Show, m: &Machine) -> String {
    let collects = m.liters_day.map(|l| match m.capacity {
        Some(most) => say!(
            "It collected {water_per_day} of the {water_per_day2} its label makes of this air",
            water_per_day = show.water_per_day(l),
            water_per_day2 = show.water_per_day(most)
        ),
        None => say!("It collected {water_per_day}", water_per_day = show.water_per_day(l)),
    });
    let runs = m.runs.map(|r| say!("it ran {r} of the time", r = show.percent(100.0 * r)));
    let share = m.runs.or_else(|| m.liters_day.zip(m.capacity).map(|(l, most)| l / most.max(1e-9)));
    let so = match share {
        Some(s) if s >= BUSY => {
            say!(": it has nothing left and hardly ever stops. Bare soil gives as much as it takes out")
        }
        Some(s) if s <= IDLE => say!(": it has far more than it needs"),
        _ => "",
    };
    let both = [collects, runs].into_iter().flatten().collect::<Vec<_>>().join("; ");
    let mut chars = both.chars();
    let capital = chars.next().map_or_else(String::new, |c| c.to_uppercase().collect());
    format!("{capital}{}{so}.", chars.as_str())
}

//! A coating in sentences.

use building::coating::CoatingJob;
use casework::coating::When;
use chrono::{DateTime, Utc};
use hygrothermal::proof::Paired;
use hygrothermal::takeoff::WhyNot;
use judgment::coating::{Jar, Mix};
use notation::number::{fixed, significant};
use notation::unit::{LITERS, MILLILITERS};
use notation::{MONTHS, Show, money};

/// Windows that are told.
const TOLD: usize = 6;
/// A jar under this is told in milliliters, L.
const SMALL: f64 = 1.0;

fn liters(show: &Show, l: f64) -> String {
    if l < SMALL { MILLILITERS.text(1000.0 * l, show.units) } else { LITERS.text(l, show.units) }
}

/// What to buy and mix.
#[must_use]
pub fn head(show: &Show, c: &CoatingJob, mix: &Mix, area: f64) -> [String; 2] {
    let coats = if c.coats == 1 { "one coat".to_owned() } else { format!("{} coats", c.coats) };
    let all = format!("{} for {coats} on {}", liters(show, mix.liters), show.area(area));
    let packs = mix.packs.zip(c.pack_l).map_or_else(String::new, |(n, l)| {
        let cans = if n == 1 { "can" } else { "cans" };
        format!(", {n} {cans} of {}", liters(show, l))
    });
    match c.parts {
        Some([a, b]) => [
            format!("Buy {} of concentrate{packs}.", liters(show, mix.bought)),
            format!("Mixed {} to {} it makes {all}.", significant(a), significant(b)),
        ],
        None => [format!("Buy {}{packs}.", liters(show, mix.bought)), format!("That is {all}.")],
    }
}

/// Coats one by one, where they differ.
#[must_use]
pub fn coats(show: &Show, mix: &Mix) -> Option<String> {
    let differ = mix.coats.windows(2).any(|w| (w[0] - w[1]).abs() > 0.01 * w[0]);
    let each = || mix.coats.iter().map(|l| liters(show, *l)).collect::<Vec<_>>().join(", then ");
    differ.then(|| format!("The first coat drinks more: {}.", each()))
}

/// A jar: how many, and what goes in.
#[must_use]
pub fn jar(show: &Show, j: &Jar) -> String {
    let times = if j.count == 1 { "Once".to_owned() } else { format!("{} times", j.count) };
    match j.parts {
        Some([a, b]) => format!("{times}: {} of concentrate and {} of water", liters(show, a), liters(show, b)),
        None => format!("{times}: {}", liters(show, j.liters)),
    }
}

/// Why a start does not stand.
#[must_use]
pub const fn why_not(w: WhyNot) -> &'static str {
    match w {
        WhyNot::Rain => "rain before, during or after",
        WhyNot::Cold => "surface too cold",
        WhyNot::Hot => "surface too hot",
        WhyNot::Humid => "air too humid",
        WhyNot::NearDew => "surface too near the dew point",
        WhyNot::ColdAfter => "too cold while it cures",
    }
}

/// When to begin: the verdict, and the windows.
#[must_use]
pub fn when(show: &Show, c: &CoatingJob, w: Option<&When>) -> [String; 2] {
    let Some(w) = w else {
        return if c.outdoors {
            ["No forecast yet.".into(), "Ask for it under Airing, and the hours it can be put on stand here.".into()]
        } else {
            ["Its air was not read.".into(), "Read the air of its space and the surface on a visit.".into()]
        };
    };
    let starts = &w.window.starts;
    if w.window.each.is_empty() {
        return ["The forecast is too short.".into(), "It must reach over the work and the dry hours after it.".into()];
    }
    let most = WhyNot::ALL.iter().zip(w.window.why_not).max_by_key(|(_, n)| *n).filter(|(_, n)| *n > 0);
    if starts.is_empty() {
        let why = most.map_or("the limits", |(why, _)| why_not(*why));
        return ["No hour to begin.".into(), format!("Most of all: {why}.")];
    }
    if !c.outdoors {
        return [
            "It can be put on now.".into(),
            "By the air and the surface as last read; keep them so while it cures.".into(),
        ];
    }
    let mut runs: Vec<[usize; 2]> = Vec::new();
    for s in starts {
        match runs.last_mut() {
            Some(last) if last[1] + 1 == *s => last[1] = *s,
            _ => runs.push([*s, *s]),
        }
    }
    let one = |r: &[usize; 2]| {
        let (from, until) = (w.at(r[0]), w.at(r[1]));
        if r[0] == r[1] {
            format!("{}, {}", show.short_day(from), show.clock(from))
        } else if show.day(from) == show.day(until) {
            format!("{}, {} to {}", show.short_day(from), show.clock(from), show.clock(until))
        } else {
            format!(
                "{}, {} to {}, {}",
                show.short_day(from),
                show.clock(from),
                show.short_day(until),
                show.clock(until)
            )
        }
    };
    let more = if runs.len() > TOLD { format!(" and {} times more", runs.len() - TOLD) } else { String::new() };
    let told: Vec<String> = runs.iter().take(TOLD).map(one).collect();
    [
        format!("Begin {}.", told[0]),
        if runs.len() > 1 { format!("Or {}{more}.", told[1..].join("; ")) } else { String::new() },
    ]
}

/// Months that usually allow it.
#[must_use]
pub fn months(can: [bool; 12]) -> String {
    let all: Vec<usize> = (0..12).filter(|m| can[*m]).collect();
    match all.len() {
        0 => {
            "No month’s usual afternoon allows it in this climate: wait for an unusual one, or choose another product."
                .into()
        }
        12 => "Every month’s usual afternoon allows it in this climate, rain aside.".into(),
        _ => {
            let names: Vec<&str> = all.iter().map(|m| MONTHS[*m]).collect();
            format!("Usual afternoons allow it in {}, rain aside.", names.join(", "))
        }
    }
}

/// Whether the substrate is dry enough; nothing where the sheet asks for nothing.
#[must_use]
pub fn substrate(c: &CoatingJob) -> Option<(bool, String)> {
    let most = c.limits.moisture?;
    Some(match c.moisture {
        None => (false, format!("Read the substrate: the sheet allows {} at most.", significant(most))),
        Some(x) if x <= most => {
            (true, format!("The substrate reads {}, at most {} is allowed.", significant(x), significant(most)))
        }
        Some(x) => {
            (false, format!("The substrate reads {}: over {} nothing is put on.", significant(x), significant(most)))
        }
    })
}

/// The second coat on the first.
#[must_use]
pub fn again(show: &Show, c: &CoatingJob, now: DateTime<Utc>) -> Option<String> {
    let first = DateTime::from_timestamp_millis(c.first_coat?)?;
    let [from, until] = c.limits.again.map(|m| first + chrono::TimeDelta::minutes(i64::from(m)));
    Some(match () {
        () if now < from => format!("Second coat from {} to {}.", show.clock(from), show.clock(until)),
        () if now <= until => format!("Now: the second coat until {}.", show.clock(until)),
        () => format!(
            "Wet on wet ended {}: what dried sheds the second coat. Touch dry spots while wet next time.",
            show.moment(until)
        ),
    })
}

/// What places read before and after say.
#[must_use]
pub fn paired(p: Option<&Paired>, open: usize) -> [String; 2] {
    let Some(p) = p else {
        return [
            "Before and after.".into(),
            "Three places read with the same meter before and after say whether it worked.".into(),
        ];
    };
    let share = |x: f64| format!("{} %", fixed(100.0 * x.abs() / p.before.max(1e-9), 0));
    let all = format!(
        "{} of {} places fell, by {} on average (95 % band {} to {})",
        p.fell,
        p.count,
        significant(-p.change),
        significant(-p.high),
        significant(-p.low)
    );
    let verdict = match p.fell_beyond_doubt() {
        Some(true) => format!("It fell by {}.", share(p.change)),
        Some(false) => format!("It rose by {}.", share(p.change)),
        None => "Can’t tell yet.".into(),
    };
    let open = if open > 0 { format!(" {open} are still to be read after.") } else { String::new() };
    [verdict, format!("{all}. A meter’s own scale: comparable here only, and only with the same meter.{open}")]
}

/// What the dehumidifier does less, and what that saves.
#[must_use]
pub fn saved(show: &Show, c: &CoatingJob, kwh: f64, cents: Option<i64>, currency: &str) -> String {
    let [before, after] = c.liters.map(|l| show.water_per_day(l.unwrap_or(0.0)));
    let paid = cents.map_or_else(
        || "no price of electricity in the price book".into(),
        |p| money((kwh * p as f64).round() as i64, currency),
    );
    let word = if kwh < 0.0 { "more" } else { "less" };
    format!(
        "It takes out {after} where it took {before}: {} kWh a year {word}, {paid}. Only where the weather was alike.",
        fixed(kwh.abs(), 0)
    )
}

//! A coating in sentences.

use building::coating::CoatingJob;
use casework::coating::When;
use chrono::{DateTime, Utc};
use hygrothermal::proof::Paired;
use hygrothermal::takeoff::WhyNot;
use judgment::coating::{Jar, Mix};
use language::say;
use notation::number::{fixed, significant};
use notation::unit::{LITERS, MILLILITERS};
use notation::{Show, money};

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
    let coats = if c.coats == 1 { say!("one coat").to_owned() } else { say!("{coats} coats", coats = c.coats) };
    let all = say!("{liters} for {coats} on {area}", liters = liters(show, mix.liters), coats, area = show.area(area));
    let packs = mix.packs.zip(c.pack_l).map_or_else(String::new, |(n, l)| {
        let cans = if n == 1 { say!("can") } else { say!("cans") };
        say!(", {n} {cans} of {liters}", n, cans, liters = liters(show, l))
    });
    match c.parts {
        Some([a, b]) => [
            say!("Buy {liters} of concentrate{packs}.", liters = liters(show, mix.bought), packs),
            say!("Mixed {a} to {b} it makes {all}.", a = significant(a), b = significant(b), all),
        ],
        None => [say!("Buy {liters}{packs}.", liters = liters(show, mix.bought), packs), say!("That is {all}.", all)],
    }
}

/// Coats one by one, where they differ.
#[must_use]
pub fn coats(show: &Show, mix: &Mix) -> Option<String> {
    let differ = mix.coats.windows(2).any(|w| (w[0] - w[1]).abs() > 0.01 * w[0]);
    let each = || mix.coats.iter().map(|l| liters(show, *l)).collect::<Vec<_>>().join(say!(", then "));
    differ.then(|| say!("The first coat drinks more: {each}.", each = each()))
}

/// A jar: how many, and what goes in.
#[must_use]
pub fn jar(show: &Show, j: &Jar) -> String {
    let times = if j.count == 1 { say!("Once").to_owned() } else { say!("{count} times", count = j.count) };
    match j.parts {
        Some([a, b]) => say!(
            "{times}: {liters} of concentrate and {liters2} of water",
            times,
            liters = liters(show, a),
            liters2 = liters(show, b)
        ),
        None => format!("{times}: {}", liters(show, j.liters)),
    }
}

/// Why a start does not stand.
#[must_use]
pub fn why_not(w: WhyNot) -> &'static str {
    match w {
        WhyNot::Rain => say!("rain before, during or after"),
        WhyNot::Cold => say!("surface too cold"),
        WhyNot::Hot => say!("surface too hot"),
        WhyNot::Humid => say!("air too humid"),
        WhyNot::NearDew => say!("surface too near the dew point"),
        WhyNot::ColdAfter => say!("too cold while it cures"),
    }
}

/// When to begin: the verdict, and the windows.
#[must_use]
pub fn when(show: &Show, c: &CoatingJob, w: Option<&When>) -> [String; 2] {
    let Some(w) = w else {
        return if c.outdoors {
            [
                say!("No forecast yet.").into(),
                say!("Ask for it under Airing, and the hours it can be put on stand here.").into(),
            ]
        } else {
            [say!("Its air was not read.").into(), say!("Read the air of its space and the surface on a visit.").into()]
        };
    };
    let starts = &w.window.starts;
    if w.window.each.is_empty() {
        return [
            say!("The forecast is too short.").into(),
            say!("It must reach over the work and the dry hours after it.").into(),
        ];
    }
    let most = WhyNot::ALL.iter().zip(w.window.why_not).max_by_key(|(_, n)| *n).filter(|(_, n)| *n > 0);
    if starts.is_empty() {
        let why = most.map_or(say!("the limits"), |(why, _)| why_not(*why));
        return [say!("No hour to begin.").into(), say!("Most of all: {why}.", why)];
    }
    if !c.outdoors {
        return [
            say!("It can be put on now.").into(),
            say!("By the air and the surface as last read; keep them so while it cures.").into(),
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
            say!(
                "{from}, {clock} to {clock2}",
                from = show.short_day(from),
                clock = show.clock(from),
                clock2 = show.clock(until)
            )
        } else {
            say!(
                "{from}, {clock} to {until}, {clock2}",
                from = show.short_day(from),
                clock = show.clock(from),
                until = show.short_day(until),
                clock2 = show.clock(until)
            )
        }
    };
    let more = if runs.len() > TOLD { say!(" and {runs} times more", runs = runs.len() - TOLD) } else { String::new() };
    let told: Vec<String> = runs.iter().take(TOLD).map(one).collect();
    [
        say!("Begin {told}.", told = told[0]),
        if runs.len() > 1 { say!("Or {told}{more}.", told = told[1..].join("; "), more) } else { String::new() },
    ]
}

/// Months that usually allow it.
#[must_use]
pub fn months(can: [bool; 12]) -> String {
    let all: Vec<usize> = (0..12).filter(|m| can[*m]).collect();
    match all.len() {
        0 => say!(
            "No month’s usual afternoon allows it in this climate: wait for an unusual one, or choose another product."
        )
        .into(),
        12 => say!("Every month’s usual afternoon allows it in this climate, rain aside.").into(),
        _ => {
            let names: Vec<&str> = all.iter().map(|m| notation::months()[*m]).collect();
            say!("Usual afternoons allow it in {names}, rain aside.", names = names.join(", "))
        }
    }
}

/// Whether the substrate is dry enough; nothing where the sheet asks for nothing.
#[must_use]
pub fn substrate(c: &CoatingJob) -> Option<(bool, String)> {
    let most = c.limits.moisture?;
    Some(match c.moisture {
        None => (false, say!("Read the substrate: the sheet allows {most} at most.", most = significant(most))),
        Some(x) if x <= most => (
            true,
            say!("The substrate reads {x}, at most {most} is allowed.", x = significant(x), most = significant(most)),
        ),
        Some(x) => (
            false,
            say!(
                "The substrate reads {x}: over {most} nothing is put on.",
                x = significant(x),
                most = significant(most)
            ),
        ),
    })
}

/// The second coat on the first.
#[must_use]
pub fn again(show: &Show, c: &CoatingJob, now: DateTime<Utc>) -> Option<String> {
    let first = DateTime::from_timestamp_millis(c.first_coat?)?;
    let [from, until] = c.limits.again.map(|m| first + chrono::TimeDelta::minutes(i64::from(m)));
    Some(match () {
        () if now < from => {
            say!("Second coat from {clock} to {clock2}.", clock = show.clock(from), clock2 = show.clock(until))
        }
        () if now <= until => say!("Now: the second coat until {clock}.", clock = show.clock(until)),
        () => say!(
            "Wet on wet ended {until}: what dried sheds the second coat. Touch dry spots while wet next time.",
            until = show.moment(until)
        ),
    })
}

/// What places read before and after say.
#[must_use]
pub fn paired(p: Option<&Paired>, open: usize) -> [String; 2] {
    let Some(p) = p else {
        return [
            say!("Before and after.").into(),
            say!("Three places read with the same meter before and after say whether it worked.").into(),
        ];
    };
    let share = |x: f64| format!("{} %", fixed(100.0 * x.abs() / p.before.max(1e-9), 0));
    let all = say!(
        "{fell} of {count} places fell, by {change} on average (95 % band {high} to {low})",
        fell = p.fell,
        count = p.count,
        change = significant(-p.change),
        high = significant(-p.high),
        low = significant(-p.low)
    );
    let verdict = match p.fell_beyond_doubt() {
        Some(true) => say!("It fell by {share}.", share = share(p.change)),
        Some(false) => say!("It rose by {share}.", share = share(p.change)),
        None => say!("Can’t tell yet.").into(),
    };
    let open = if open > 0 { say!(" {open} are still to be read after.", open) } else { String::new() };
    [verdict, say!("{all}. A meter’s own scale: comparable here only, and only with the same meter.{open}", all, open)]
}

/// What the dehumidifier does less, and what that saves.
#[must_use]
pub fn saved(show: &Show, c: &CoatingJob, kwh: f64, cents: Option<i64>, currency: &str) -> String {
    let [before, after] = c.liters.map(|l| show.water_per_day(l.unwrap_or(0.0)));
    let paid = cents.map_or_else(
        || say!("no price of electricity in the price book").into(),
        |p| money((kwh * p as f64).round() as i64, currency),
    );
    let word = if kwh < 0.0 { say!("more") } else { say!("less") };
    say!(
        "It takes out {after} where it took {before}: {kwh} kWh a year {word}, {paid}. Only where the weather was alike.",
        after,
        before,
        kwh = fixed(kwh.abs(), 0),
        word,
        paid
    )
}

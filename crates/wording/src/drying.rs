//! A drying job in sentences.

use building::drying::{DryScale, Machine};
use casework::CaseFile;
use casework::drying::{Cavity, Dried, Drying, Outside, Stands};
use chrono::{DateTime, Utc};
use hygrothermal::drying::OutOfBounds;
use judgment::drying::{Better, Cost, DRIER, Holds, Lack, NoAiring, Reason, State, TentSaid, Turn, Units, WORKS, Ways};
use judgment::map::Showed;
use language::say;
use notation::number::{fixed, significant};
use notation::unit::LITERS;
use notation::{Show, money};
use uuid::Uuid;

fn at(ms: i64) -> DateTime<Utc> {
    DateTime::from_timestamp_millis(ms).unwrap_or_default()
}

/// What stood on a meter, in the unit of a point.
#[must_use]
pub fn shown(scale: DryScale, showed: Showed) -> String {
    match showed {
        Showed::Figure(x) => figure(scale, x),
        Showed::Over => {
            if scale == DryScale::Percent {
                say!("wet").into()
            } else {
                say!("over").into()
            }
        }
        Showed::Unread => say!("not read").into(),
    }
}

/// A figure in the unit of a point.
#[must_use]
pub fn figure(scale: DryScale, x: f64) -> String {
    match scale {
        DryScale::Percent => format!("{} %", fixed(x, 1)),
        DryScale::Relative => significant(x),
    }
}

/// A day with its band: “March 14 (12 to 18)”.
#[must_use]
pub fn day_band(show: &Show, [day, low, high]: [i64; 3]) -> String {
    let [day, low, high] = [day, low, high].map(|ms| show.short_day(at(ms)));
    if low == high { day } else { say!("{day} ({low} to {high})", day, low, high) }
}

fn points(n: usize) -> String {
    if n == 1 { say!("one point").into() } else { say!("{n} points", n) }
}

fn capital(text: &str) -> String {
    let mut chars = text.chars();
    chars.next().map_or_else(String::new, |c| c.to_uppercase().collect::<String>() + chars.as_str())
}

/// What stands first: the verdict, and what follows.
#[must_use]
pub fn headline(show: &Show, drying: &Drying) -> [String; 2] {
    let count = |of: fn(&State) -> bool| drying.points.iter().filter(|p| of(&p.said.state)).count();
    let (all, wet) = (drying.points.len(), drying.wet().count());
    let stalled = count(|s| matches!(s, State::Stalled(_)));
    let unread = count(|s| matches!(s, State::Unread));
    if all == 0 {
        return [say!("Nothing is read yet.").into(), say!("Add the points that are read until they are dry.").into()];
    }
    if unread == all {
        return [
            say!("No round yet.").into(),
            say!("{points} wait for their first reading.", points = capital(&points(all))),
        ];
    }
    if wet == 0 {
        return [
            say!("Everything is at its goal.").into(),
            say!("Each point was read there twice, a day apart.").into(),
        ];
    }
    let left = say!("{points} of {all} are still to be read", points = points(wet), all);
    if stalled > 0 {
        let who: Vec<&str> = drying
            .points
            .iter()
            .filter(|p| matches!(p.said.state, State::Stalled(_)))
            .map(|p| p.point.name.as_str())
            .take(2)
            .collect();
        let more = if stalled > who.len() {
            say!(" and {stalled} more", stalled = stalled - who.len())
        } else {
            String::new()
        };
        return [
            format!(
                "{}{more} {}.",
                who.join(say!(" and ")),
                if stalled == 1 { say!("stands still") } else { say!("stand still") }
            ),
            say!("{left}. No day of closing in can be named before that is mended.", left = capital(&left)),
        ];
    }
    match drying.day {
        Some(day) => [
            say!("The last point is at its goal about {day_band}.", day_band = day_band(show, day)),
            say!("{left}. Closing in waits for a second reading a day later.", left = capital(&left)),
        ],
        None => [format!("{}.", capital(&left)), say!("A day can be named after three readings of each.").into()],
    }
}

/// Where a point stands.
#[must_use]
pub fn state(show: &Show, p: &Dried) -> String {
    match &p.said.state {
        State::Unread => say!("not read").into(),
        State::NoGoal => say!("no dry standard, so no goal").into(),
        State::AtGoal { confirmed: true, since } => say!("at goal since {since}", since = show.short_day(at(*since))),
        State::AtGoal { .. } => say!("at goal once: again a day later").into(),
        State::Few => say!("a curve takes three readings").into(),
        State::Drying(Some(day)) => day_band(show, *day),
        State::Drying(None) => say!("drying, too slowly to name a day").into(),
        State::Stalled(_) => say!("stands still").into(),
    }
}

/// A reason a point may have stopped: what it is, how far it holds, and what to do.
pub struct Told {
    /// What it is.
    pub what: &'static str,
    /// `likely`, `look` or `no`.
    pub holds: &'static str,
    /// What is known, and what to do.
    pub then: String,
}

/// Reasons in the order to look, those that are likely first said so.
#[must_use]
pub fn reasons(show: &Show, p: &Dried, drying: &Drying) -> Vec<Told> {
    let State::Stalled(all) = &p.said.state else { return Vec::new() };
    let air = drying.airs.latest(p.point.space_id);
    let air = air.map_or_else(
        || say!("its air was not read").into(),
        |a| {
            let rh = show.percent(a.air.rh(hygrothermal::air::Over::Water));
            say!("its air stands at {air} and {rh}", air = show.temperature(a.air.temperature().get()), rh)
        },
    );
    let figures = |x: Option<f64>| x.map_or_else(|| say!("nothing known").into(), |x| figure(p.point.scale, x));
    let tell = |(reason, holds): &(Reason, Holds)| {
        let (what, then) = match reason {
            Reason::StillFed => (
                say!("Water still comes"),
                match holds {
                    Holds::Likely if p.said.rose => {
                        say!("It rose since the reading before: look for the source again.").to_owned()
                    }
                    Holds::Likely => say!("Nobody said that the source is stopped: stop it, and say when.").into(),
                    _ => say!("The source is said to be stopped.").into(),
                },
            ),
            Reason::Covered => (
                say!("A tight layer lies over it"),
                match holds {
                    Holds::Likely => {
                        say!("{point}: open it, drill, or blow dry air under it.", point = capital(&p.point.cover))
                    }
                    Holds::Open => say!("Nothing is noted: look for vinyl, foil, tile or paint on both sides.").into(),
                    Holds::No => say!("It lies under a tent.").into(),
                },
            ),
            Reason::AirStill => (
                say!("No air moves there"),
                match holds {
                    Holds::Likely => say!("No air mover or tent runs in its space: set one along it.").into(),
                    _ => say!("An air mover runs in its space: hold a tissue to the point itself.").into(),
                },
            ),
            Reason::PoorAir => (say!("The air is too humid or too cold"), format!("{}.", capital(&air))),
            Reason::GoalTooLow => (
                say!("It can’t reach its goal in this air"),
                say!(
                    "It settles at {figures}, its goal is {figures2}{holds}",
                    figures = figures(p.said.equilibrium),
                    figures2 = figures(p.said.goal),
                    holds = if *holds == Holds::Likely {
                        say!(": dry the air further, or choose another goal.")
                    } else {
                        "."
                    }
                ),
            ),
            Reason::MeterFooled => (
                say!("Salts or metal fool the meter"),
                match holds {
                    Holds::No => say!("Pins in wood are seldom fooled; keep them off nails and foil.").into(),
                    _ => say!("Ask a second method: a bag or sheet over it for a day, or a sample weighed.").into(),
                },
            ),
        };
        let holds = match holds {
            Holds::Likely => say!("likely"),
            Holds::Open => say!("look"),
            Holds::No => say!("no"),
        };
        Told { what, holds, then }
    };
    all.iter().map(tell).collect()
}

/// Air out of bounds.
#[must_use]
pub fn beyond(show: &Show, space: &str, b: OutOfBounds) -> String {
    match b {
        OutOfBounds::TooWarm { got, limit } => {
            say!(
                "{space} is {got}: over {limit} growth is hurried.",
                space,
                got = show.temperature(got),
                limit = show.temperature(limit)
            )
        }
        OutOfBounds::TooDamp { got, limit } => {
            let why = if limit < 65.0 { say!(" where people work at growth") } else { say!(" while drying") };
            say!(
                "{space} stands at {got}: keep it under {limit}{why}.",
                space,
                got = show.percent(got),
                limit = show.percent(limit),
                why
            )
        }
    }
}

/// What to do with a machine; nothing where it does what it should.
#[must_use]
pub fn turn(show: &Show, turn: Turn) -> Option<String> {
    let works = show.humidity_ratio(WORKS / 1000.0);
    Some(match turn {
        Turn::Keep => return None,
        Turn::OffAllDry => say!("Turn it off: every point of its space is at its goal.").into(),
        Turn::OffDryAir => say!("Turn it off or move it: the air it draws is dry.").into(),
        Turn::Service => say!(
            "It takes too little from damp air (it should take {works} or more): clean the filter, look at coil and drain, shut openings.",
            works
        ),
        Turn::Frosts => say!("Its coil frosts in air this cold: warm the room, or set a desiccant machine.").into(),
        Turn::On => say!("Turn it on: a point of its space stands still.").into(),
        Turn::Read => say!("Read its outlet air or its liters, so that it can be judged.").into(),
    })
}

/// How many dehumidifiers a space wants.
#[must_use]
pub fn units(space: &str, u: Units) -> String {
    let (more, n) = (u.want > u.have, u.want.abs_diff(u.have));
    let what = if n == 1 { say!("dehumidifier") } else { say!("dehumidifiers") };
    if more {
        say!(
            "{space}: set {n} more {what}. Those there are at their end and the air is still over 50 %.",
            space,
            n,
            what
        )
    } else {
        say!("{space}: {n} {what} could go. Those there have little left to take out.", space, n, what)
    }
}

/// Opening up against closing: what to do, and both figures.
#[must_use]
pub fn ways(show: &Show, w: &Ways) -> [String; 2] {
    let liters = |l: f64| show.water_per_day(l.abs());
    let does = match w.better {
        Better::OpenUp => say!("Open up."),
        Better::Close => say!("Keep it closed and dehumidify."),
        Better::Neither => say!("Keep it closed: nothing here takes water out yet."),
    };
    let open = match w.open {
        Ok(l) => say!("Open, outdoor air would carry out {liters}", liters = liters(l)),
        Err(NoAiring::NotDrier) => {
            say!("Outdoor air is not drier by {humidity_ratio}", humidity_ratio = show.humidity_ratio(DRIER / 1000.0))
        }
        Err(NoAiring::Wets) => say!("Outdoor air would wet the coldest surface").into(),
    };
    let closed = match w.closed {
        0.0 => say!("no dehumidifier runs").to_owned(),
        l if l < 0.0 => say!("closed, more leaks in than machines take out ({liters})", liters = liters(l)),
        l => say!("closed, machines take out {liters} net of what leaks in", liters = liters(l)),
    };
    [does.into(), format!("{open}; {closed}.")]
}

/// Where the outdoor air behind it was read.
#[must_use]
pub fn outside(show: &Show, from: Outside) -> String {
    match from {
        Outside::Round(ms) => say!("outdoor air as read {ms}", ms = show.moment(at(ms))),
        Outside::Forecast => say!("outdoor air as forecast for this hour").into(),
        Outside::Visit(ms) => say!("outdoor air as read on the visit, {ms}", ms = show.moment(at(ms))),
    }
}

/// What is missing before a cavity is closed in.
#[must_use]
pub fn lack(file: &CaseFile, drying: &Drying, lack: &Lack) -> String {
    let name = |id: &Uuid| drying.point(*id).map_or_else(String::new, |p| p.point.name.clone());
    match lack {
        Lack::Wet(id) => say!("{id} is not at its goal", id = name(id)),
        Lack::Once(id) => say!("{id} was read at its goal once: again a day later", id = name(id)),
        Lack::Meter(id) => match file.instrument(*id) {
            Some(i) => say!("{name}: its check is older than a year or was never made", name = i.name),
            None => say!("a reading was taken with no meter named").into(),
        },
        Lack::Source => say!("the source is not said to be stopped").into(),
        Lack::Sheet => say!("no sheet lay there for two days, dry on both sides").into(),
    }
}

/// A cavity: whether it may be closed in, or when.
#[must_use]
pub fn cavity(show: &Show, c: &Cavity) -> String {
    match (c.is_ready(), c.day) {
        (true, _) => say!("ready to close in").into(),
        (false, Some(day)) if c.lacks.iter().any(|l| matches!(l, Lack::Wet(_))) => {
            say!("at goal about {day_band}", day_band = day_band(show, day))
        }
        (false, _) => {
            let n = c.lacks.len();
            if n == 1 { say!("one thing is missing").into() } else { say!("{n} things are missing", n) }
        }
    }
}

/// What something cost.
#[must_use]
pub fn cost(c: &Cost, currency: &str) -> String {
    let total = c.total().map_or_else(|| say!("no price in the price book").into(), |t| money(t, currency));
    let days = if (c.machine_days - 1.0).abs() < 0.5 { say!("machine day") } else { say!("machine days") };
    format!("{total} ({} {days}, {} kWh)", fixed(c.machine_days, 0), fixed(c.kwh, 0))
}

/// A machine in a line: whether it runs, what it took out.
#[must_use]
pub fn machine(show: &Show, s: &Stands) -> String {
    if !s.running {
        let did = if s.collected > 0.0 {
            say!("off · took out {collected} in all", collected = LITERS.text(s.collected, show.units))
        } else {
            say!("off").into()
        };
        return did;
    }
    let mut all = vec!["running".to_owned()];
    if let Some(l) = s.liters {
        let of = s
            .said
            .capacity
            .map_or_else(String::new, |m| say!(" of {water_per_day}", water_per_day = show.water_per_day(m)));
        all.push(format!("{}{of}", show.water_per_day(l)));
    }
    if let Some(d) = s.said.depression {
        all.push(say!("takes {humidity_ratio} from its air", humidity_ratio = show.humidity_ratio(d / 1000.0)));
    }
    if !s.machine.setting.is_empty() {
        all.push(s.machine.setting.clone());
    }
    all.join(" · ")
}

/// Hours a machine ran so far.
#[must_use]
pub fn ran(m: &Machine, now: i64) -> String {
    let hours = m.hours(now);
    if hours < 48.0 { format!("{} h", fixed(hours, 0)) } else { say!("{hours} days", hours = fixed(hours / 24.0, 1)) }
}

/// What a tent does.
#[must_use]
pub fn tent(show: &Show, said: Option<&TentSaid>) -> String {
    let ratio = |g: f64| show.humidity_ratio(g / 1000.0);
    match said {
        None => say!("Read its supply and its exit air on a round.").into(),
        Some(t) if t.done => say!("Supply and exit have agreed for a day: done, once the meter says so too.").into(),
        Some(TentSaid { gap, agrees_since: Some(_), .. }) => {
            say!("Supply and exit agree (± {ratio}): again in a day.", ratio = ratio(gap.err))
        }
        Some(TentSaid { gap, .. }) => {
            say!(
                "Its exit holds {ratio} more than its supply (± {ratio2}): it is drying.",
                ratio = ratio(gap.value),
                ratio2 = ratio(gap.err)
            )
        }
    }
}

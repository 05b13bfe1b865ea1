//! What the drying page shows.

use super::form::WORDS;
use building::drying::{MachineKind, SheetTest};
use casework::CaseFile;
use casework::drying::{Cavity, Dried, Drying, HourWays, ahead, now as ways_now};
use chrono::{DateTime, TimeDelta, Utc};
use drawing::drying::{AirLine, AirSheet, MachineBar, Spark, air_sheet, spark};
use hygrothermal::drying::{LITTLE, between_depths, caught, passes_under};
use hygrothermal::quantity::{RelativeHumidity, Temperature};
use judgment::drying::{Better, Cost, State, so_far, to_go};
use judgment::map::Showed;
use language::{known, say};
use notation::Show;
use notation::number::fixed;
use notation::unit::RATIO;
use store::{Certificate, ForecastHour};
use uuid::Uuid;
use wording::drying as words;

/// Width of drawings at a desk and on a phone.
const WIDTHS: [f64; 2] = [860.0, 380.0];
/// Windows to open up in that are told.
const TOLD: usize = 4;
/// Days of a mean month.
const MONTH: f64 = 30.44;

/// A point in the list.
pub struct PointRow {
    pub id: Uuid,
    pub name: String,
    pub material: &'static str,
    pub latest: String,
    pub goal: String,
    pub state: String,
    /// `done`, `dries`, `stalled` or `open`.
    pub class: &'static str,
    pub rose: bool,
    pub spark: Option<Spark>,
}

/// What is closed in together.
pub struct CavityView {
    pub name: String,
    pub says: String,
    pub ready: bool,
    pub points: Vec<PointRow>,
    pub lacks: Vec<String>,
    pub href: String,
    pub certified: Option<String>,
}

/// Both ways in a space.
pub struct WaysView {
    pub space: String,
    pub does: String,
    pub figures: String,
    pub from: String,
    pub windows: Option<String>,
    /// Hours to come: `open`, `close` or `neither`, and what each is.
    pub hours: Vec<(&'static str, String)>,
}

/// A machine in the list.
pub struct MachineRow {
    pub id: Uuid,
    pub name: String,
    pub kind: &'static str,
    pub space: String,
    pub says: String,
    pub ran: String,
    pub turn: Option<String>,
    pub running: bool,
    pub tent: Option<String>,
}

/// A sheet in the list.
pub struct SheetRow {
    pub id: Uuid,
    pub name: String,
    pub when: String,
    pub says: String,
}

/// Everything on the page.
pub struct Sight {
    pub head: [String; 2],
    pub beyond: Vec<String>,
    pub cavities: Vec<CavityView>,
    pub wet: usize,
    pub air: Option<[AirSheet; 2]>,
    pub air_unit: &'static str,
    pub ways: Vec<WaysView>,
    pub machines: Vec<MachineRow>,
    pub units: Vec<String>,
    pub taken: Vec<(Uuid, String, Option<String>)>,
    pub sheets: Vec<SheetRow>,
    pub slab: Vec<String>,
    pub cost: [String; 2],
    pub unmetered: usize,
    pub event: Vec<(&'static str, String)>,
    pub last: Option<String>,
}

fn moment(ms: i64) -> DateTime<Utc> {
    DateTime::from_timestamp_millis(ms).unwrap_or_default()
}

/// A point's figures.
pub fn figures(p: &Dried) -> Vec<(i64, Option<f64>)> {
    let of = |r: &judgment::drying::PointRead| match r.showed {
        Showed::Figure(x) => Some((r.at, Some(x))),
        Showed::Over => Some((r.at, None)),
        Showed::Unread => None,
    };
    p.reads.iter().filter_map(of).collect()
}

pub fn class(state: &State) -> &'static str {
    match state {
        State::AtGoal { .. } => "done",
        State::Drying(_) => "dries",
        State::Stalled(_) => "stalled",
        State::Unread | State::NoGoal | State::Few => "open",
    }
}

fn point_row(show: &Show, p: &Dried, span: [i64; 2]) -> PointRow {
    let reads: Vec<(i64, f64)> = figures(p).into_iter().filter_map(|(at, v)| Some((at, v?))).collect();
    PointRow {
        id: p.point.id,
        name: p.point.name.clone(),
        material: &p.material.name,
        latest: p.said.latest.map_or_else(String::new, |r| words::shown(p.point.scale, r.showed)),
        goal: p.said.goal.map_or_else(String::new, |g| words::figure(p.point.scale, g)),
        state: words::state(show, p),
        class: class(&p.said.state),
        rose: p.said.rose,
        spark: if reads.len() > 1 { spark(&reads, p.said.goal, span) } else { None },
    }
}

fn cavity(
    show: &Show,
    file: &CaseFile,
    d: &Drying,
    (n, c): (usize, &Cavity),
    span: [i64; 2],
    issued: &[Certificate],
) -> CavityView {
    let same = |i: &&Certificate| i.cavity == c.name;
    let latest = issued.iter().find(same);
    CavityView {
        name: c.name.clone(),
        says: words::cavity(show, c),
        ready: c.is_ready(),
        points: c.points.iter().map(|i| point_row(show, &d.points[*i], span)).collect(),
        lacks: c
            .lacks
            .iter()
            .filter(|l| !matches!(l, judgment::drying::Lack::Wet(_)))
            .map(|l| words::lack(file, d, l))
            .collect(),
        href: format!("/jobs/{}/drying/certificate?cavity={n}", file.job.id),
        certified: latest.map(|i| say!("certified {at}", at = show.short_day(i.at))),
    }
}

fn air_lines(show: &Show, file: &CaseFile, d: &Drying) -> Vec<AirLine> {
    let wet = file.drying.event.as_ref().map(|e| e.spaces.clone()).unwrap_or_default();
    let reads = |all: &[casework::drying::AirAt]| {
        all.iter().map(|a| (a.at, RATIO.shown(1000.0 * a.air.humidity_ratio(), show.units))).collect()
    };
    let mut lines = Vec::new();
    for (id, all) in &d.airs.places {
        let (name, class) = match file.building.space(*id) {
            None if *id == file.job.id => ("outdoors".to_owned(), "outdoors"),
            None => continue,
            Some(s) if wet.contains(id) => (s.name.clone(), "dew"),
            Some(s) => (s.name.clone(), "surface"),
        };
        lines.push(AirLine { name, class, reads: reads(all) });
    }
    for (id, all) in &d.airs.outlets {
        let Some(m) = file.drying.machines.iter().find(|m| m.id == *id) else { continue };
        lines.push(AirLine { name: say!("{name}, outlet", name = m.name), class: "outlet", reads: reads(all) });
    }
    lines.sort_by(|a, b| a.name.cmp(&b.name));
    lines
}

/// “Open up Dec 2, 11:00 to 17:00; …”.
fn windows(show: &Show, hours: &[HourWays]) -> Option<String> {
    if hours.is_empty() {
        return None;
    }
    let mut all: Vec<[DateTime<Utc>; 2]> = Vec::new();
    for h in hours.iter().filter(|h| h.ways.better == Better::OpenUp) {
        let end = h.at + TimeDelta::hours(1);
        match all.last_mut() {
            Some(last) if last[1] == h.at => last[1] = end,
            _ => all.push([h.at, end]),
        }
    }
    let days = fixed(hours.len() as f64 / 24.0, 0);
    if all.is_empty() {
        return Some(say!("Over the {days} days that are forecast no hour asks for opening up.", days));
    }
    if all.len() == 1 && (all[0][1] - all[0][0]).num_hours() as usize == hours.len() {
        return Some(say!("Over the {days} days that are forecast opening up takes out more at every hour.", days));
    }
    let told = |w: &[DateTime<Utc>; 2]| {
        say!("{w}, {clock} to {clock2}", w = show.short_day(w[0]), clock = show.clock(w[0]), clock2 = show.clock(w[1]))
    };
    let first: Vec<String> = all.iter().take(TOLD).map(told).collect();
    let more = if all.len() > TOLD { say!(" and {all} times more", all = all.len() - TOLD) } else { String::new() };
    Some(say!("Open up {first}{more}; keep closed between.", first = first.join("; "), more))
}

fn ways_of(
    show: &Show,
    file: &CaseFile,
    d: &Drying,
    space: Uuid,
    hours: &[ForecastHour],
    now: DateTime<Utc>,
) -> Option<WaysView> {
    let (w, from) = ways_now(file, d, space, hours, now)?;
    let [does, figures] = words::ways(show, &w);
    let ahead = ahead(file, d, space, hours, now);
    let hour = |h: &HourWays| {
        let class = match h.ways.better {
            Better::OpenUp => "open",
            Better::Close => "close",
            Better::Neither => "neither",
        };
        (class, format!("{}: {}", show.moment(h.at), words::ways(show, &h.ways)[0]))
    };
    Some(WaysView {
        space: file.building.space(space).map_or_else(String::new, |s| s.name.clone()),
        does,
        figures,
        from: words::outside(show, from),
        windows: windows(show, &ahead),
        hours: ahead.iter().map(hour).collect(),
    })
}

/// What a sheet found, g/m² a day; none where it cannot be said.
fn rate(s: &SheetTest) -> Option<f64> {
    match s.depths {
        Some([[t0, rh0, d0], [t1, rh1, d1]]) => {
            let at = |t: f64, rh: f64, d: f64| Some((Temperature::new(t).ok()?, RelativeHumidity::new(rh).ok()?, d));
            between_depths(at(t0, rh0, d0)?, at(t1, rh1, d1)?)
        }
        None => caught(s.grams?, (s.until - s.from) as f64 / 3_600_000.0, s.area_m2),
    }
}

fn sheet_row(show: &Show, s: &SheetTest) -> SheetRow {
    let says = rate(s).map_or_else(
        || say!("nothing can be said").into(),
        |g| {
            let whole = show.water_per_day(g * s.whole_m2 / 1000.0);
            let top = if s.wet_on_top { say!("; wet on top: that came from the air") } else { "" };
            say!(
                "{g} g/m² a day, {whole} over {whole_m2}{top}",
                g = fixed(g, 1),
                whole,
                whole_m2 = show.area(s.whole_m2),
                top
            )
        },
    );
    SheetRow { id: s.id, name: s.name.clone(), when: show.short_day(moment(s.until)), says }
}

/// When each place measured at least three times will pass little enough.
fn slabs(show: &Show, file: &CaseFile) -> Vec<String> {
    let mut names: Vec<(&str, Uuid)> = file.drying.sheets.iter().map(|s| (s.name.as_str(), s.space_id)).collect();
    names.sort_unstable();
    names.dedup();
    let one = |(name, space): (&str, Uuid)| {
        let own: Vec<&SheetTest> =
            file.drying.sheets.iter().filter(|s| s.name == name && s.space_id == space).collect();
        let first = own.first()?.until;
        let day = |ms: i64| (ms - first) as f64 / 86_400_000.0;
        let measured: Vec<(f64, f64)> = own.iter().filter_map(|s| Some((day(s.until), rate(s)?.max(0.0)))).collect();
        let month = f64::from(show.month(moment(first))) - 1.0;
        let limit = say!("{fixed} g/m² a day", fixed = fixed(LITTLE, 0));
        if measured.len() < 3 {
            return None;
        }
        Some(match passes_under(&measured, LITTLE, (month, own.last()?.high_month)) {
            Ok(Some(f)) if f.day <= day(own.last()?.until) => say!("{name}: under {limit} already.", name, limit),
            Ok(Some(f)) => {
                let at = |d: f64| show.day(moment(first + (d * 86_400_000.0) as i64));
                let left = f.day - day(own.last()?.until);
                let left = if left < 2.0 * MONTH {
                    say!("{left} days", left = fixed(left, 0))
                } else {
                    say!("{left} months", left = fixed(left / MONTH, 1))
                };
                let band =
                    if f.high.is_finite() { say!(" (from {low} on)", low = at(f.low.max(0.0))) } else { String::new() };
                say!(
                    "{name}: under {limit} about {day}{band}, {left} after the last sheet.",
                    name,
                    limit,
                    day = at(f.day),
                    band,
                    left
                )
            }
            Ok(None) | Err(_) => say!("{name}: it does not fall yet, so no month can be named.", name),
        })
    };
    names.into_iter().filter_map(one).collect()
}

fn costs(show: &Show, file: &CaseFile, d: &Drying, now: i64) -> ([String; 2], usize) {
    let machines: Vec<_> = d.machines.iter().map(|m| (&m.machine, m.metered)).collect();
    let spent = so_far(&machines, now, &file.book.cents);
    let all: Vec<_> = d.machines.iter().map(|m| &m.machine).collect();
    let told = |c: &Cost| words::cost(c, &file.book.currency);
    let ahead = d.day.filter(|_| d.wet().next().is_some()).map_or_else(
        || say!("no day is known yet").to_owned(),
        |[day, _, late]| {
            let [mid, most] = [day, late].map(|until| to_go(&all, [now, until], &file.book.cents));
            let by = show.short_day(moment(late));
            match (mid.total(), most.total()) {
                (Some(a), Some(b)) if a != b => {
                    say!(
                        "{told}, at most {file} by {by}",
                        told = told(&mid),
                        file = notation::money(b, &file.book.currency),
                        by
                    )
                }
                _ => told(&mid),
            }
        },
    );
    let ahead = if d.wet().next().is_none() { say!("nothing: turn the machines off").into() } else { ahead };
    ([told(&spent), ahead], spent.unmetered)
}

fn event_lines(show: &Show, file: &CaseFile) -> Vec<(&'static str, String)> {
    let Some(e) = &file.drying.event else { return Vec::new() };
    let space = |id: &Uuid| file.building.space(*id).map(|s| s.name.clone());
    let mut all = vec![
        (say!("Got wet"), show.moment(moment(e.at))),
        (say!("Water"), known(e.water.words()).to_owned()),
        (say!("Went"), known(e.spread.words()).to_owned()),
        (say!("Where"), e.spaces.iter().filter_map(space).collect::<Vec<_>>().join(", ")),
    ];
    let stopped = match e.stopped {
        Some(ms) if e.stopped_by.is_empty() => show.moment(moment(ms)),
        Some(ms) => format!("{}: {}", show.moment(moment(ms)), e.stopped_by),
        None => say!("not yet, or nobody said so").into(),
    };
    all.push((say!("Stopped"), stopped));
    if !e.words.is_empty() {
        all.push((say!("What happened"), e.words.chars().take(WORDS).collect()));
    }
    all
}

/// Everything, at a moment with the weather to come.
pub fn of(show: &Show, file: &CaseFile, hours: &[ForecastHour], issued: &[Certificate], now: DateTime<Utc>) -> Sight {
    let d = file.dried();
    let ms = now.timestamp_millis();
    let name = |id: Uuid| file.building.space(id).map_or_else(String::new, |s| s.name.clone());
    let first = file.drying_readings.iter().map(|r| r.taken_at.timestamp_millis()).min().unwrap_or(ms);
    let last = d.last.map_or(ms, |at| at.timestamp_millis());
    let span = [first, last];
    let wet_spaces = file.drying.event.as_ref().map(|e| e.spaces.clone()).unwrap_or_default();
    let lines = air_lines(show, file, d);
    let bars: Vec<MachineBar> =
        file.drying.machines.iter().map(|m| MachineBar { name: m.name.clone(), runs: m.runs.clone() }).collect();
    let begin =
        file.drying.machines.iter().filter_map(|m| m.runs.first()).map(|r| r.from).min().unwrap_or(first).min(first);
    let air = |w: f64| air_sheet(w, &lines, &bars, [begin, ms.max(last)], show);
    let (cost, unmetered) = costs(show, file, d, ms);
    let machine = |m: &casework::drying::Stands| MachineRow {
        id: m.machine.id,
        name: m.machine.name.clone(),
        kind: known(m.machine.kind.words()),
        space: name(m.machine.space_id),
        says: words::machine(show, m),
        ran: words::ran(&m.machine, ms),
        turn: words::turn(show, m.said.turn),
        running: m.running,
        tent: (m.machine.kind == MachineKind::Tent).then(|| words::tent(show, m.tent.as_ref())),
    };
    let photo = |id: Option<Uuid>| id.map(|id| format!("/jobs/{}/photos/{id}", file.job.id));
    let taken = |t: &building::drying::Taken| {
        let all = [&t.what, &t.amount, &t.why];
        let said: Vec<&str> = all.iter().filter(|s| !s.is_empty()).map(|s| s.as_str()).collect();
        (t.id, said.join(" · "), photo(t.photo))
    };
    Sight {
        head: words::headline(show, d),
        beyond: d.beyond.iter().map(|(s, b)| words::beyond(show, &name(*s), *b)).collect(),
        cavities: d.cavities.iter().enumerate().map(|c| cavity(show, file, d, c, span, issued)).collect(),
        wet: d.wet().count(),
        air: air(WIDTHS[0]).zip(air(WIDTHS[1])).map(|(a, b)| [a, b]),
        air_unit: RATIO.unit(show.units).name(),
        ways: wet_spaces.iter().filter_map(|s| ways_of(show, file, d, *s, hours, now)).collect(),
        machines: d.machines.iter().map(machine).collect(),
        // Where outdoor air does more, no machine is missing.
        units: d
            .units
            .iter()
            .filter(|(s, u)| {
                u.want < u.have || ways_now(file, d, *s, hours, now).is_none_or(|w| w.0.better != Better::OpenUp)
            })
            .map(|(s, u)| words::units(&name(*s), *u))
            .collect(),
        taken: file.drying.taken.iter().map(taken).collect(),
        sheets: file.drying.sheets.iter().map(|s| sheet_row(show, s)).collect(),
        slab: slabs(show, file),
        cost,
        unmetered,
        event: event_lines(show, file),
        last: d.last.map(|at| show.moment(at)),
    }
}

//! A daily round: the air, the machines, and the points that are still wet. Sent whole; what was read there already is not stored again.

use super::address;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::fields::{Options, Typed, Wrongs};
use crate::places::DRYING;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::InstrumentKind;
use building::drying::{DryRead, DryScale, Machine, MachineKind};
use building::entry::{Humidity, parse_air, parse_moisture, parse_scale};
use casework::drying::Dried;
use casework::entry::moment;
use casework::{CaseFile, InView};
use chrono::{DateTime, Utc};
use hygrothermal::air::Over;
use language::say;
use notation::number::plain_number;
use notation::unit::LITERS;
use serde::Deserialize;
use std::collections::HashMap;
use store::{Depth, DryingReading, Instrument};
use uuid::Uuid;
use wording::drying as words;

/// Longest reason, characters.
const REASON: usize = 300;
/// Most an energy meter shows, kWh.
const MOST_KWH: f64 = 10_000_000.0;
/// A round reopened later than this is corrected, with a reason, hours.
const SAME_ROUND_H: i64 = 12;

/// Something a round reads: its field, what it is, what stood there last.
struct Ask {
    key: String,
    name: String,
    note: String,
    /// What was read last time, to type over.
    last: String,
    /// A second figure, of air.
    last_rh: String,
    two: bool,
    unit: &'static str,
    value: String,
    rh: String,
    error: Option<String>,
}

/// What belongs together.
struct Group {
    name: String,
    asks: Vec<Ask>,
}

#[derive(Template, WebTemplate)]
#[template(path = "drying/round.html")]
struct RoundPage {
    frame: Frame,
    job: JobFrame,
    id: Uuid,
    /// When it was read, for a round read before.
    again: Option<String>,
    /// Whether every point is asked for, not only those still wet.
    all: bool,
    dry: usize,
    groups: Vec<Group>,
    hygrometers: Options,
    meters: Options,
    hygrometer: String,
    meter: String,
    reason: String,
    reason_error: Option<String>,
    wrong: usize,
}

/// Which round.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct View {
    /// One read before, to correct or complete it.
    round: Option<Uuid>,
    /// Every point.
    all: Option<u8>,
}

/// One thing that is read.
struct Thing<'a> {
    of: Uuid,
    what: DryRead,
    scale: Option<DryScale>,
    name: String,
    note: String,
    point: Option<&'a Dried>,
}

impl Thing<'_> {
    fn key(&self) -> String {
        format!("{}.{}", self.what.id(), self.of)
    }

    const fn is_air(&self) -> bool {
        matches!(self.what, DryRead::Air | DryRead::Outlet | DryRead::Supply)
    }
}

/// Everything a round reads, in walking order: outdoors, each space with its machines, its points.
fn things(file: &CaseFile, all: bool) -> Vec<(String, Vec<Thing<'_>>)> {
    let d = file.dried();
    let event = file.drying.event.as_ref();
    let thing =
        |of, what, name: String, note: &str| Thing { of, what, scale: None, name, note: note.into(), point: None };
    let mut groups = Vec::new();
    let mut air = vec![thing(file.job.id, DryRead::Air, say!("Outdoors").into(), "air")];
    if let Some(s) = event.and_then(|e| e.unaffected).and_then(|id| file.building.space(id)) {
        air.push(thing(s.id, DryRead::Air, s.name.clone(), say!("air of a space that stayed dry")));
    }
    groups.push((say!("Air to compare with").to_owned(), air));
    let mut spaces: Vec<Uuid> = event.map(|e| e.spaces.clone()).unwrap_or_default();
    spaces.extend(d.points.iter().map(|p| p.point.space_id));
    spaces.extend(file.drying.machines.iter().map(|m| m.space_id));
    let mut seen = Vec::new();
    for id in spaces {
        if seen.contains(&id) {
            continue;
        }
        seen.push(id);
        let Some(space) = file.building.space(id) else { continue };
        let mut own = vec![thing(id, DryRead::Air, space.name.clone(), say!("air, a meter from any machine"))];
        // What stands still has nothing to read, unless it is asked for.
        let runs = |m: &&Machine| all || m.ran_at(file.read_at.timestamp_millis());
        for m in file.drying.machines.iter().filter(|m| m.space_id == id).filter(runs) {
            own.extend(machine(m, &thing));
        }
        let points = d.points.iter().filter(|p| p.point.space_id == id && (all || p.said.is_wet()));
        own.extend(points.map(|p| Thing {
            of: p.point.id,
            what: DryRead::Moisture,
            scale: Some(p.point.scale),
            name: p.point.name.clone(),
            note: p.material.name.clone(),
            point: Some(p),
        }));
        groups.push((space.name.clone(), own));
    }
    groups
}

fn machine<'a>(m: &Machine, thing: &impl Fn(Uuid, DryRead, String, &str) -> Thing<'a>) -> Vec<Thing<'a>> {
    let mut all = Vec::new();
    if m.kind == MachineKind::Tent {
        all.push(thing(m.id, DryRead::Supply, m.name.clone(), say!("supply air")));
        all.push(thing(m.id, DryRead::Outlet, m.name.clone(), say!("exit air")));
    }
    if m.kind.dries() {
        all.push(thing(m.id, DryRead::Outlet, m.name.clone(), say!("outlet air")));
        all.push(thing(m.id, DryRead::Liters, m.name.clone(), say!("collected since it was emptied")));
    }
    if m.watts.is_none() {
        all.push(thing(m.id, DryRead::Energy, m.name.clone(), say!("energy meter")));
    }
    all
}

fn page_of(who: &Who, file: &CaseFile, id: Uuid, all: bool, typed: &Typed, wrong: &Wrongs) -> RoundPage {
    let show = who.show();
    let text = |name: &str| typed.get(name).cloned().unwrap_or_default();
    let mut before: HashMap<(Uuid, DryRead), &DryingReading> = HashMap::new();
    let mut there: HashMap<(Uuid, DryRead), &DryingReading> = HashMap::new();
    for r in &file.drying_readings {
        let to = if r.round_id == id { &mut there } else { &mut before };
        to.insert((r.of_id, r.what), r);
    }
    let two = |r: &DryingReading| {
        let (a, b) = r.as_typed.rsplit_once(' ').unwrap_or((&r.as_typed, ""));
        [a.to_owned(), b.to_owned()]
    };
    let error = |key: &str| wrong.iter().find(|(f, _)| f == key).map(|(_, e)| e.clone());
    let ask = |t: &Thing<'_>| {
        let key = t.key();
        let of = (t.of, t.what);
        let split = |r: Option<&&DryingReading>| match r {
            None => [String::new(), String::new()],
            Some(r) if t.is_air() => two(r),
            Some(r) => [r.as_typed.clone(), String::new()],
        };
        let [last, last_rh] = split(before.get(&of));
        let [stands, stands_rh] = split(there.get(&of));
        let second = format!("rh.{key}");
        let goal =
            t.point.and_then(|p| Some(say!(", goal {point}", point = words::figure(p.point.scale, p.said.goal?))));
        Ask {
            name: t.name.clone(),
            note: format!("{}{}", t.note, goal.unwrap_or_default()),
            last,
            last_rh,
            two: t.is_air(),
            unit: match (t.what, t.scale) {
                (DryRead::Moisture, Some(DryScale::Percent)) => "%",
                (DryRead::Liters, _) => LITERS.unit(show.units).name(),
                (DryRead::Energy, _) => "kWh",
                (DryRead::Moisture, _) => "",
                _ => show.temperature_unit(),
            },
            value: if typed.is_empty() { stands } else { text(&key) },
            rh: if typed.is_empty() { stands_rh } else { text(&second) },
            error: error(&key),
            key,
        }
    };
    let groups = things(file, all);
    let groups = groups
        .iter()
        .map(|(name, own)| Group { name: name.clone(), asks: own.iter().map(ask).collect() })
        .filter(|g| !g.asks.is_empty())
        .collect();
    let options = |of: &dyn Fn(&Instrument) -> bool| -> Options {
        file.at_hand().into_iter().filter(|i| of(i)).map(|i| (i.id.to_string(), i.name.clone())).collect()
    };
    let read_at = there.values().map(|r| r.taken_at).min();
    let is_late = read_at.is_some_and(|at| (Utc::now() - at).num_hours() >= SAME_ROUND_H);
    let last_by = |what: fn(DryRead) -> bool| {
        let last = file.drying_readings.iter().rev().find(|r| what(r.what)).and_then(|r| r.instrument_id);
        last.map(|id| id.to_string())
    };
    let [hygrometers, meters] =
        [options(&|i| i.kind.reads_humidity()), options(&|i| i.kind == InstrumentKind::Moisture)];
    let usual = |of: &Options, name: &str, last: Option<String>| {
        let first = || of.first().map_or_else(String::new, |o| o.0.clone());
        typed.get(name).cloned().or(last).unwrap_or_else(first)
    };
    let hygrometer = usual(&hygrometers, "hygrometer", last_by(|w| w == DryRead::Air));
    let meter = usual(&meters, "meter", last_by(|w| w == DryRead::Moisture));
    RoundPage {
        id,
        again: read_at.filter(|_| is_late).map(|at| show.moment(at)),
        all,
        dry: file.dried().points.len() - file.dried().wet().count(),
        groups,
        hygrometer,
        meter,
        hygrometers,
        meters,
        reason: text("reason"),
        reason_error: error("reason"),
        wrong: wrong.len(),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, DRYING),
    }
}

/// The round to read now, or one read before.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    if file.drying.event.is_none() {
        return Ok(Redirect::to(&address(job)).into_response());
    }
    let id = view.round.unwrap_or_else(Uuid::now_v7);
    if view.round.is_some() && !file.drying_readings.iter().any(|r| r.round_id == id) {
        return Err(Failure::NotFound);
    }
    // A round read before shows what it read, dry by now or not.
    let all = view.all.is_some() || view.round.is_some();
    Ok(page_of(&who, &file, id, all, &Typed::new(), &Vec::new()).into_response())
}

/// A figure as it is kept: what was typed, the figures, and whether the scale was passed.
struct Figure {
    typed: String,
    a: Option<f64>,
    b: Option<f64>,
    over: bool,
}

/// Reads what was typed for a thing; `None` where nothing was.
fn read(who: &Who, t: &Thing<'_>, typed: &Typed, by: Option<&Instrument>) -> Result<Option<Figure>, String> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let (first, second) = (text(&t.key()), text(&format!("rh.{key}", key = t.key())));
    if first.is_empty() && second.is_empty() {
        return Ok(None);
    }
    let whole = if t.is_air() { format!("{first} {second}") } else { first.to_owned() };
    if whole.chars().count() > 40 || whole.chars().any(char::is_control) {
        return Err(say!("Too long for a figure.").into());
    }
    let one = |a: f64| Some(Figure { typed: whole.clone(), a: Some(a), b: None, over: false });
    let over = || Some(Figure { typed: whole.clone(), a: None, b: None, over: true });
    if t.is_air() {
        let correct = |raw: f64| by.map_or(raw, |i| i.corrected(raw));
        let entry = parse_air(first, second, Humidity::Rh, who.units(), Over::Water, correct)
            .map_err(|all| all.into_iter().map(|e| e.message).collect::<Vec<_>>().join(" "))?;
        return Ok(Some(Figure {
            typed: whole,
            a: Some(entry.value.t.get()),
            b: Some(entry.value.rh.get()),
            over: false,
        }));
    }
    let beyond = matches!(first, ">" | "OL" | "ol" | "Ol" | "wet" | "over");
    match (t.what, t.scale) {
        (DryRead::Moisture, _) if beyond => Ok(over()),
        (DryRead::Moisture, Some(DryScale::Percent)) => {
            parse_moisture(first).map(|m| one(m.get())).map_err(|e| e.message)
        }
        (DryRead::Moisture, _) => parse_scale(first).map(|m| one(m.get())).map_err(|e| e.message),
        (DryRead::Liters, _) => match LITERS.parse(first, who.units())? {
            l if (0.0..=500.0).contains(&l) => Ok(one(l)),
            _ => Err(say!("0 to {who}.", who = LITERS.text(500.0, who.units()))),
        },
        _ => match plain_number(first).map_err(|e| e.said(first))? {
            kwh if (0.0..=MOST_KWH).contains(&kwh) => Ok(one(kwh)),
            _ => Err(say!("An energy meter shows kWh, 0 and up.").into()),
        },
    }
}

/// Keeps what was read on a round, as far as it can be read: what cannot is asked for again, the rest is stored.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(typed): Form<Typed>) -> Result<Response, Failure> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id of a round".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let mut file = CaseFile::load(&scope, job, InView::Latest, Depth::Argument).await?;
    let now: DateTime<Utc> = Utc::now();
    let taken_at = moment(text("at"), now);
    // Read a while ago without a signal: corrected as its instrument was then.
    file.instruments = scope.instruments_at(taken_at).await?;
    let mut there: HashMap<(Uuid, DryRead), &DryingReading> = HashMap::new();
    for r in file.drying_readings.iter().filter(|r| r.round_id == id) {
        there.insert((r.of_id, r.what), r);
    }
    let began = there.values().map(|r| r.taken_at).min();
    let is_late = began.is_some_and(|at| (now - at).num_hours() >= SAME_ROUND_H);
    let reason: String = text("reason").chars().filter(|c| !c.is_control()).take(REASON).collect();
    let by = |name: &str| text(name).parse().ok().and_then(|id| file.instrument(id));
    let (hygrometer, meter) = (by("hygrometer"), by("meter"));
    let (mut fresh, mut wrong) = (Vec::new(), Wrongs::new());
    for t in things(&file, true).iter().flat_map(|(_, own)| own) {
        let by = match t.what {
            DryRead::Moisture => meter,
            DryRead::Air | DryRead::Outlet | DryRead::Supply => hygrometer,
            DryRead::Liters | DryRead::Energy => None,
        };
        let figure = match read(&who, t, &typed, by) {
            Ok(Some(figure)) => figure,
            Ok(None) => continue,
            Err(why) => {
                wrong.push((t.key(), why));
                continue;
            }
        };
        let before = there.get(&(t.of, t.what));
        if before.is_some_and(|r| r.as_typed == figure.typed) {
            continue;
        }
        fresh.push(DryingReading {
            id: Uuid::now_v7(),
            job_id: job,
            round_id: id,
            of_id: t.of,
            what: t.what,
            a: figure.a,
            b: figure.b,
            over: figure.over,
            as_typed: figure.typed,
            reason: if before.is_some() { reason.clone() } else { String::new() },
            instrument_id: by.map(|i| i.id),
            consultant_id: who.person.consultant_id,
            // A correction is of the moment that was read then.
            taken_at: before.map(|r| r.taken_at).or(began.filter(|_| is_late)).unwrap_or(taken_at),
        });
    }
    if is_late && reason.is_empty() && fresh.iter().any(|r| there.contains_key(&(r.of_id, r.what))) {
        wrong.push(("reason".into(), say!("Say why what was read before is corrected.").into()));
        fresh.clear();
    }
    if fresh.is_empty() && wrong.is_empty() && there.is_empty() {
        wrong.push((String::new(), say!("Nothing was typed yet.").into()));
    }
    scope.add_drying_readings(fresh).await?;
    scope.commit().await?;
    if wrong.is_empty() {
        return Ok(Redirect::to(&address(job)).into_response());
    }
    let all = typed.contains_key("all");
    Ok((StatusCode::UNPROCESSABLE_ENTITY, page_of(&who, &file, id, all, &typed, &wrong)).into_response())
}

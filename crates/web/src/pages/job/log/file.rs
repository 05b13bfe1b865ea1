//! One file of a logger: what was found in it and why, where its sensors belong, and what became of it.

use super::files::{became, loggers, look_again};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::LOG;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::{HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Redirect, Response};
use building::{Building, InstrumentKind, Place};
use casework::log::{Found, Goes, Sensor, Unread, Wished, guessed, sensor_kind};
use casework::{CaseFile, InView};
use chrono::Utc;
use language::say;
use logger::{Column, ColumnWish, Reads, Survey, Zone};
use notation::Show;
use serde::Deserialize;
use serde_json::json;
use std::collections::HashMap;
use store::{Act, BringIn, Depth, Instrument, LogFile, Part, TaskKind, TaskState};
use uuid::Uuid;
use wording::sensor::{READS, asked, count, figure, reads, reads_id};

/// A logger nobody described yet (common practice for ordinary ones): K, % RH, K at a surface.
const USUAL: [f64; 3] = [0.3, 3.0, 0.5];
/// Longest name of a logger.
const LONGEST_NAME: usize = 80;

#[derive(Template, WebTemplate)]
#[template(path = "log/file.html")]
struct FilePage {
    frame: Frame,
    job: JobFrame,
    id: Uuid,
    act: Uuid,
    name: String,
    /// What became of it, in words; none before anything was decided.
    said: Option<String>,
    /// How far it is, of a hundred; none where nobody works on it.
    progress: Option<u64>,
    /// What nobody could do.
    failed: Option<String>,
    unreadable: Option<String>,
    /// It was sent before.
    again: bool,
    corrected: bool,
    brought_in: bool,
    refused: u64,
    /// The change that can be undone.
    change: Option<Uuid>,
    found: Option<Preview>,
    error: Option<String>,
}

/// What was found in a file, to be looked through.
struct Preview {
    summary: String,
    because: Vec<(String, String)>,
    questions: Vec<String>,
    columns: Vec<ColumnRow>,
    sensors: Vec<SensorRow>,
    head: Vec<String>,
    sample: Vec<(String, Vec<String>)>,
    unread: Vec<Unread>,
    more_unread: u64,
    rows: String,
    loggers: Vec<(String, String)>,
    logger: String,
    logger_name: String,
    clock: String,
    zones: Vec<(String, String)>,
    order: String,
}

/// A column of the file.
struct ColumnRow {
    field: usize,
    name: String,
    reads: String,
    unit: String,
    units: Vec<(&'static str, &'static str)>,
    options: Vec<(String, &'static str)>,
}

/// A sensor of the file and where it goes.
struct SensorRow {
    field: usize,
    name: String,
    range: String,
    count: String,
    place: String,
    groups: Vec<(&'static str, Vec<(String, String)>)>,
    error: Option<String>,
}

#[derive(Deserialize)]
pub struct View {
    again: Option<String>,
    corrected: Option<String>,
}

/// The file.
pub async fn page(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Query(view): Query<View>,
) -> Result<Response, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Argument).await?;
    let mut page = show(&who, &loaded, id, None).await?;
    page.again = view.again.is_some();
    page.corrected = view.corrected.is_some();
    Ok(page.into_response())
}

fn found_of(file: &LogFile) -> Option<Found> {
    file.found.clone().and_then(|v| serde_json::from_value(v).ok())
}

fn wished_of(file: &LogFile) -> Wished {
    serde_json::from_value(file.wishes.clone()).unwrap_or_default()
}

async fn show(who: &Who, loaded: &CaseFile, id: Uuid, typed: Option<&Typed>) -> Result<FilePage, Failure> {
    let scope = who.scope().await?;
    let job = loaded.job.id;
    let file = scope.log_file(job, id).await?.ok_or(Failure::NotFound)?;
    let decided = scope.brought_in(job).await?.into_iter().find(|b| b.id == id);
    let task = scope.tasks(job).await?.into_iter().find(|t| t.subject_id == id);
    let change = scope.latest_change(job, "bring_in", id).await?.filter(|c| !c.undone);
    let found = found_of(&file);
    let under_way = task.as_ref().filter(|t| matches!(t.state, TaskState::Waiting | TaskState::Running));
    let unreadable = found.as_ref().and_then(|f| f.unreadable.clone());
    let wished = wished_of(&file);
    let logger = match typed {
        Some(t) => loaded.instruments.iter().find(|i| i.id.to_string() == t.text("logger")),
        None => logger_of(loaded, &file, &wished),
    };
    let remembered = match logger {
        Some(logger) => scope.read_as(logger.id).await?,
        None => None,
    };
    let before: Vec<Goes> = remembered.and_then(|v| serde_json::from_value(v["goes"].clone()).ok()).unwrap_or_default();
    let preview = found.as_ref().and_then(|f| Some((f, f.how.as_ref()?))).map(|(found, how)| {
        let shown = Shown { show: who.show(), loaded, file: &file, found, how, wished: &wished, typed };
        shown.preview(logger, &before, &who.person.time_zone)
    });
    Ok(FilePage {
        frame: Frame::of(who, loaded),
        job: JobFrame::new(loaded, LOG),
        id,
        act: Uuid::now_v7(),
        name: file.name.clone(),
        said: decided.as_ref().map(|d| became(who, &file, Some(d))),
        progress: under_way.map(|t| (100 * t.done).checked_div(t.total).unwrap_or(0).min(100)),
        failed: task.filter(|t| t.state == TaskState::Failed).map(|t| t.said),
        unreadable,
        again: false,
        corrected: false,
        brought_in: decided.as_ref().is_some_and(|d| !d.removed),
        refused: preview.as_ref().map_or(0, |p| p.more_unread + p.unread.len() as u64),
        change: change.map(|c| c.id),
        found: preview,
        error: None,
    })
}

/// The logger a file is from: as it was said, else the one whose name or serial number stands in the file's name.
fn logger_of<'a>(loaded: &'a CaseFile, file: &LogFile, wished: &Wished) -> Option<&'a Instrument> {
    let own = || loaded.instruments.iter().filter(|i| i.kind == InstrumentKind::Logger);
    let said = own().find(|i| Some(i.id) == wished.logger);
    let name = file.name.to_lowercase();
    let in_name = |words: &str| words.chars().count() >= 3 && name.contains(&words.to_lowercase());
    said.or_else(|| own().find(|i| in_name(&i.serial) || in_name(&i.name)))
}

/// What a preview is made from.
struct Shown<'a> {
    show: Show,
    loaded: &'a CaseFile,
    file: &'a LogFile,
    found: &'a Found,
    how: &'a Survey,
    wished: &'a Wished,
    typed: Option<&'a Typed>,
}

impl Shown<'_> {
    fn preview(&self, logger: Option<&Instrument>, before: &[Goes], site: &str) -> Preview {
        let found = self.found;
        let named = |s: &Sensor| {
            if s.channel.is_empty() { reads(s.reads).to_owned() } else { format!("{}, {}", s.channel, reads(s.reads)) }
        };
        let stem = self.file.name.rsplit_once('.').map_or(self.file.name.as_str(), |(stem, _)| stem);
        let text = |name: &str| self.typed.map(|t| t.text(name).to_owned());
        let clock = text("clock").unwrap_or_else(|| self.wished.clock.clone().unwrap_or_default());
        let mut zones = vec![
            (String::new(), say!("as found: {how}", how = self.how.zone.shown())),
            (site.to_owned(), say!("the site’s: {site}", site)),
            ("UTC".to_owned(), "UTC".to_owned()),
        ];
        if !zones.iter().any(|(v, _)| *v == clock) {
            zones.push((clock.clone(), clock.clone()));
        }
        let (first, last) = (found.first.map(|at| self.show.moment(at)), found.last.map(|at| self.show.moment(at)));
        let span = first.zip(last).map_or_else(String::new, |(a, b)| say!(", {a} to {b}", a, b));
        Preview {
            summary: say!("{count} rows{span}", count = count(found.rows), span),
            because: self.how.because.iter().map(|b| (b.what.clone(), b.why.clone())).collect(),
            questions: self.how.asked.iter().map(|q| asked(q)).collect(),
            columns: self.columns(),
            sensors: found.sensors.iter().enumerate().map(|(i, s)| self.sensor(i, s, named(s), before)).collect(),
            head: found.sensors.iter().map(named).collect(),
            sample: found.sample.iter().map(|(at, row)| self.row(*at, row)).collect(),
            unread: found.unread.clone(),
            more_unread: found.refused - found.refused.min(found.unread.len() as u64),
            rows: count(found.rows),
            loggers: loggers(&self.loaded.instruments),
            logger: logger.map(|l| l.id.to_string()).unwrap_or_default(),
            logger_name: text("logger_name").unwrap_or_else(|| stem.chars().take(LONGEST_NAME).collect()),
            clock,
            zones,
            order: self.how.order.id().into(),
        }
    }

    fn columns(&self) -> Vec<ColumnRow> {
        let one = |(i, (name, column)): (usize, (String, &Column))| {
            let (r, unit) = (column.reads, &column.unit);
            if r.is_some_and(|r| !r.is_value() && r != Reads::None) || name.trim().is_empty() {
                return None;
            }
            let of = r.filter(|r| r.is_value());
            Some(ColumnRow {
                field: i,
                name,
                reads: of.map(reads_id).unwrap_or_default(),
                unit: unit.clone(),
                units: READS
                    .iter()
                    .filter(|(x, ..)| Some(*x) == of)
                    .flat_map(|(_, _, units)| {
                        units.iter().map(|u| (*u, if *u == "1" { say!("fraction of 1") } else { *u }))
                    })
                    .collect(),
                options: READS.iter().map(|(r, words, _)| (reads_id(*r), *words)).collect(),
            })
        };
        self.how.names().into_iter().zip(&self.how.columns).enumerate().filter_map(one).collect()
    }

    fn row(&self, at: chrono::DateTime<Utc>, row: &[Option<f64>]) -> (String, Vec<String>) {
        let cell = |(i, s): (usize, &Sensor)| {
            row.get(i).copied().flatten().map_or_else(|| "–".to_owned(), |x| figure(&self.show, s.reads, x))
        };
        (self.show.moment(at), self.found.sensors.iter().enumerate().map(cell).collect())
    }

    /// What a file without names of sensors calls one: by itself, and by its columns.
    fn words(&self, s: &Sensor) -> String {
        let columns = self.how.names().into_iter().zip(&self.how.columns).filter(|(_, c)| c.reads == Some(s.reads));
        [self.file.name.clone()].into_iter().chain(columns.map(|(name, _)| name)).collect::<Vec<_>>().join(" ")
    }

    fn sensor(&self, i: usize, s: &Sensor, name: String, before: &[Goes]) -> SensorRow {
        let b = &self.loaded.building;
        let field = format!("place-{i}");
        let place = match self.typed {
            Some(t) => t.text(&field).to_owned(),
            None => guessed(b, s, &self.words(s), before).map(place_id).unwrap_or_default(),
        };
        let range = if s.count == 0 {
            say!("no reading").to_owned()
        } else {
            say!(
                "{reads} to {reads2}",
                reads = figure(&self.show, s.reads, s.low),
                reads2 = figure(&self.show, s.reads, s.high)
            )
        };
        SensorRow {
            field: i,
            name,
            range,
            count: count(s.count),
            place,
            groups: choices(b, s.reads),
            error: self.typed.and_then(|t| t.errors.get(&field).cloned()),
        }
    }
}

fn place_id(place: Place) -> String {
    match place {
        Place::Outdoors => "outdoors".into(),
        Place::Space(id) | Place::Surface(id) => id.to_string(),
    }
}

fn place_of(building: &Building, text: &str) -> Option<Place> {
    if text == "outdoors" {
        return Some(Place::Outdoors);
    }
    let id: Uuid = text.parse().ok()?;
    building.space(id).map(|s| Place::Space(s.id)).or_else(|| building.surface(id).map(|s| Place::Surface(s.id)))
}

/// Places a sensor can be at.
fn choices(building: &Building, reads: Reads) -> Vec<(&'static str, Vec<(String, String)>)> {
    let of = |places: Vec<(Place, String)>| -> Vec<(String, String)> {
        places.into_iter().filter(|(p, _)| sensor_kind(reads, *p).is_some()).map(|(p, n)| (place_id(p), n)).collect()
    };
    let spaces = building.spaces.iter().map(|s| (Place::Space(s.id), s.name.clone()));
    let air = spaces.chain([(Place::Outdoors, say!("Outdoors").to_owned())]).collect();
    let surfaces = building.surfaces.iter().map(|s| {
        let space = building.space(s.space_id).map(|s| s.name.as_str()).unwrap_or_default();
        (Place::Surface(s.id), format!("{}, in {space}", s.name))
    });
    let groups = vec![(say!("Air of"), of(air)), (say!("Surface"), of(surfaces.collect()))];
    groups.into_iter().filter(|(_, list)| !list.is_empty()).collect()
}

/// A form as it was typed, and what is wrong with it.
pub struct Typed {
    fields: Vec<(String, String)>,
    errors: HashMap<String, String>,
}

impl Typed {
    fn text(&self, name: &str) -> &str {
        self.fields.iter().find(|(k, _)| k == name).map_or("", |(_, v)| v.as_str())
    }
}

/// Reads a file again as it was corrected, or brings it in.
pub async fn decide(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(fields): Form<Vec<(String, String)>>,
) -> Result<Response, Failure> {
    let mut typed = Typed { fields, errors: HashMap::new() };
    let loaded = who.file(job, InView::Latest, Depth::Argument).await?;
    let scope = who.scope().await?;
    let file = scope.log_file(job, id).await?.ok_or(Failure::NotFound)?;
    drop(scope);
    let here = format!("/jobs/{job}/log/files/{id}");
    let found = found_of(&file).unwrap_or_default();
    let Some(how) = &found.how else { return Ok(Redirect::to(&here).into_response()) };
    let logger = loaded.instruments.iter().find(|i| i.id.to_string() == typed.text("logger"));
    let wished = wished_of(&file);
    let asks_again = typed.text("act") == "again";
    // Brought in is what was shown: what was corrected since is shown first.
    if asks_again || is_corrected(&typed, how, &wished) {
        let wished = Wished { logger: logger.map(|l| l.id), ..corrected(&typed, how, &wished) };
        if wished.clock.as_deref().is_some_and(|z| Zone::named(z).is_none()) {
            let why = say!(
                "“{typed}” is no time zone: one is written like Europe/London or +01:00.",
                typed = typed.text("clock")
            );
            return again(&who, &loaded, id, &typed, why).await;
        }
        look_again(&who, job, id, &wished).await?;
        let there = if asks_again { here } else { format!("{here}?corrected=yes") };
        return Ok(Redirect::to(&there).into_response());
    }
    let goes = goes(&loaded.building, &found, &mut typed);
    let name = typed.text("logger_name").trim().to_owned();
    if let Some(why) = wrong(&typed, &goes, logger.is_none().then_some(&name)) {
        return again(&who, &loaded, id, &typed, why).await;
    }
    let act: Uuid = typed.text("id").parse().map_err(|_| Failure::BadForm("id of an act".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    // Two who bring in the same file at once do it once.
    let decided = scope.brought_in(job).await?.into_iter().find(|b| b.id == id);
    if scope.acted(job, act).await? || decided.is_some_and(|d| !d.removed) {
        return Ok(Redirect::to(&here).into_response());
    }
    let instrument = match logger {
        Some(logger) => logger.id,
        None => {
            let new = new_logger(name);
            scope.add_instrument(new.clone()).await?;
            new.id
        }
    };
    scope.remember_read_as(instrument, &json!({ "wished": wished, "goes": goes })).await?;
    let now = Utc::now();
    let act = Act::new(act, job, who.person.consultant_id, now, say!("Brought in {file}", file = file.name));
    let row = BringIn {
        id,
        job_id: job,
        consultant_id: who.person.consultant_id,
        instrument_id: instrument,
        places: json!(goes),
        kept_at: now,
        removed: false,
    };
    scope.bring_in(&act, row).await?;
    scope.commit().await?;
    Ok(Redirect::to(&here).into_response())
}

/// Why a file is not brought in as it was decided; `new` is the name of a logger to be added.
fn wrong(typed: &Typed, goes: &[Goes], new: Option<&String>) -> Option<String> {
    if !typed.errors.is_empty() {
        return Some(say!("A sensor cannot be where you put it.").into());
    }
    if goes.is_empty() {
        return Some(say!("Say where at least one sensor belongs: in a space, on a surface or outdoors.").into());
    }
    let named = |name: &String| (1..=LONGEST_NAME).contains(&name.chars().count());
    let why = say!(
        "Give the logger a name of {longest_name} characters at most, or choose one you have.",
        longest_name = LONGEST_NAME
    );
    new.is_some_and(|name| !named(name)).then_some(why)
}

async fn again(who: &Who, loaded: &CaseFile, id: Uuid, typed: &Typed, why: String) -> Result<Response, Failure> {
    let mut page = show(who, loaded, id, Some(typed)).await?;
    page.error = Some(why);
    Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response())
}

fn new_logger(name: String) -> Instrument {
    Instrument {
        id: Uuid::now_v7(),
        name,
        serial: String::new(),
        air_err_k: USUAL[0],
        rh_err_pct: USUAL[1],
        surface_err_k: USUAL[2],
        wood_err_pct: 0.0,
        rh_offset_pct: 0.0,
        kind: InstrumentKind::Logger,
        settle_s: 0,
        rh_slope: 1.0,
        checked_on: None,
    }
}

/// Whether something was corrected that what was found does not know of.
fn is_corrected(typed: &Typed, how: &Survey, wished: &Wished) -> bool {
    let given = |name: &str| typed.fields.iter().find(|(k, _)| k == name).map(|(_, v)| v.trim().to_owned());
    given("clock").is_some_and(|c| c != wished.clock.clone().unwrap_or_default())
        || given("order").is_some_and(|o| !o.is_empty() && o != how.order.id())
        || corrected(typed, how, wished).columns != wished.columns
}

/// What somebody corrected of how a file is read, now and before: only what differs from what was found.
fn corrected(typed: &Typed, how: &Survey, before: &Wished) -> Wished {
    let said = |name: &str| Some(typed.text(name).trim().to_owned()).filter(|t| !t.is_empty());
    let mut wished =
        Wished { clock: said("clock"), order: said("order"), logger: None, columns: before.columns.clone() };
    for (i, (name, column)) in how.names().into_iter().zip(&how.columns).enumerate() {
        let (was, unit) = (column.reads, &column.unit);
        let Some(text) = typed.fields.iter().find(|(k, _)| *k == format!("reads-{i}")).map(|(_, v)| v) else {
            continue;
        };
        let reads = READS.iter().map(|(r, ..)| *r).find(|r| reads_id(*r) == *text);
        let own = READS.iter().find(|(r, ..)| Some(*r) == reads).map_or(&[] as &[&str], |(_, _, units)| units);
        let asked = typed.text(&format!("unit-{i}"));
        // The unit of what it read before is none of what it reads now.
        let new = if own.contains(&asked) { asked.to_owned() } else { String::new() };
        if reads != was.filter(|r| r.is_value()) || (!new.is_empty() && new != *unit) {
            wished.columns.insert(name, ColumnWish { reads, unit: new });
        }
    }
    wished
}

/// Where the sensors go; what cannot be is said at its field.
fn goes(building: &Building, found: &Found, typed: &mut Typed) -> Vec<Goes> {
    let mut goes = Vec::new();
    for (i, sensor) in found.sensors.iter().enumerate() {
        let field = format!("place-{i}");
        let text = typed.text(&field).to_owned();
        if text.is_empty() {
            continue;
        }
        match place_of(building, &text).filter(|p| sensor_kind(sensor.reads, *p).is_some()) {
            Some(place) => goes.push(Goes::to(&sensor.channel, sensor.reads, place)),
            None => {
                drop(typed.errors.insert(field, say!("{reads} cannot be read there.", reads = reads(sensor.reads))));
            }
        }
    }
    goes
}

/// Looks at a file again whose reading failed for no fault of its own.
pub async fn retry(who: Who, Path((job, id)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    scope.log_file(job, id).await?.ok_or(Failure::NotFound)?;
    let decided = scope.brought_in(job).await?.iter().any(|b| b.id == id);
    scope.ask(if decided { TaskKind::BringIn } else { TaskKind::LookAtFile }, id, job).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/log/files/{id}")).into_response())
}

/// The lines of a file that were not taken, as a table.
pub async fn refused(who: Who, Path((job, id)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let file = scope.log_file(job, id).await?.ok_or(Failure::NotFound)?;
    let mut bytes = Vec::new();
    for position in 0.. {
        let Some(piece) = scope.piece(id, Part::Refused, position).await? else { break };
        bytes.extend(piece);
    }
    if bytes.is_empty() {
        return Err(Failure::NotFound);
    }
    let name: String = file.name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let mut response = ([(header::CONTENT_TYPE, "text/csv; charset=utf-8")], bytes).into_response();
    if let Ok(value) = HeaderValue::from_str(&format!("attachment; filename=\"{name}-not-read.csv\"")) {
        response.headers_mut().insert(header::CONTENT_DISPOSITION, value);
    }
    Ok(response)
}

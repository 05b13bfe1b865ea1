//! Visits, and what was read on them.

use super::caller::Caller;
use super::exchange::{Made, Page, Part, Path, Query, Sent, one};
use super::problem::{Problem, Wrong};
use axum::Json;
use axum::http::{HeaderMap, StatusCode};
use axum::response::Response;
use building::entry::{Humidity, Reads};
use casework::{CaseFile, InView, entry};
use chrono::{DateTime, SubsecRound, TimeDelta, Utc};
use serde::{Deserialize, Serialize};
use store::{Depth, Kept, NewReading, NewValue, ReadingRecord, Role, Scope, Visit};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// A visit.
#[derive(Debug, Serialize, ToSchema)]
pub struct VisitView {
    /// Identity.
    id: Uuid,
    /// Who.
    by: Uuid,
    /// When it began.
    started_at: DateTime<Utc>,
    /// When it ended; null while it is open.
    ended_at: Option<DateTime<Utc>>,
    /// Whether somebody is to look through it.
    for_review: bool,
    /// When somebody did.
    reviewed_at: Option<DateTime<Utc>>,
}

impl VisitView {
    fn of(v: &Visit) -> Self {
        Self {
            id: v.id,
            by: v.consultant_id,
            started_at: v.started_at,
            ended_at: v.ended_at,
            for_review: v.for_review,
            reviewed_at: v.reviewed_at,
        }
    }
}

/// A visit to begin.
#[derive(Debug, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct VisitNew {
    /// Identity, where the sender makes it.
    id: Option<Uuid>,
    /// When it began: in the last 60 days; now where it is not said.
    started_at: Option<DateTime<Utc>>,
}

/// What is to be changed of a visit.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct VisitPatch {
    /// Whether it is finished.
    finished: bool,
}

/// What was read.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReadingView {
    /// Identity.
    id: Uuid,
    /// Visit.
    visit_id: Uuid,
    /// Station.
    station_id: Uuid,
    /// Instrument.
    instrument_id: Uuid,
    /// Who.
    by: Uuid,
    /// What it says: `air`, `surface`, `wood`, `relative`, `water`, `airflow`, `rain`, `note` or `withdrawn`.
    kind: &'static str,
    /// As typed.
    as_typed: String,
    /// Temperature as shown, °C.
    t_raw_c: Option<f64>,
    /// Temperature, corrected, °C.
    t_c: Option<f64>,
    /// Relative humidity over liquid water, corrected, %.
    rh_pct: Option<f64>,
    /// Figure as shown: %, scale, L, m³/s or mm by its kind.
    raw_value: Option<f64>,
    /// Figure, corrected.
    value: Option<f64>,
    /// Doubts that were kept despite.
    questions: String,
    /// The reading it corrects, which stays as it was.
    replaces: Option<Uuid>,
    /// Why.
    reason: String,
    /// When it was read.
    taken_at: DateTime<Utc>,
    /// When it was stored.
    stored_at: DateTime<Utc>,
}

impl ReadingView {
    fn of(r: ReadingRecord) -> Self {
        Self {
            id: r.id,
            visit_id: r.visit_id,
            station_id: r.station_id,
            instrument_id: r.instrument_id,
            by: r.consultant_id,
            kind: r.kind.id(),
            as_typed: r.as_typed,
            t_raw_c: r.raw_t_c,
            t_c: r.t_c,
            rh_pct: r.rh_pct,
            raw_value: r.raw_value,
            value: r.value,
            questions: r.questions,
            replaces: r.replaces,
            reason: r.reason,
            taken_at: r.taken_at,
            stored_at: r.stored_at,
        }
    }
}

/// A reading to keep. Exactly one of `air`, `surface_c`, `wood`, `relative`, `water`, `airflow_m3_s`, `rain_mm` and `note` says
/// what was read; a station on a surface takes a surface’s, one of air the air’s.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingNew {
    /// Identity, where the sender makes it: sent twice it is stored once.
    id: Option<Uuid>,
    /// Station.
    station_id: Uuid,
    /// Instrument.
    instrument_id: Uuid,
    /// When it was read: in the last 60 days; now where it is not said.
    taken_at: Option<DateTime<Utc>>,
    air: Option<AirRead>,
    /// Temperature of a surface by touch, °C.
    surface_c: Option<f64>,
    infrared: Option<InfraredRead>,
    wood: Option<WoodRead>,
    /// A meter’s own scale.
    relative: Option<f64>,
    water: Option<WaterRead>,
    /// Air moved, m³/s.
    airflow_m3_s: Option<f64>,
    /// Rain of the two days before, mm; outdoors.
    rain_mm: Option<f64>,
    /// Words.
    note: Option<String>,
    /// Kept although something is odd about it: without, what is odd is answered and nothing kept.
    #[serde(default)]
    accept_doubts: bool,
}

/// Air: its temperature and one way of saying its moisture.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AirRead {
    /// Temperature, °C.
    t_c: f64,
    /// Relative humidity over liquid water, as the instrument showed it, %.
    rh_pct: Option<f64>,
    /// Dew point, °C.
    dew_c: Option<f64>,
    /// Wet bulb, °C.
    wet_c: Option<f64>,
}

/// A surface from afar.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct InfraredRead {
    /// As shown, °C.
    shown_c: f64,
    /// Id of the kind of surface; the surface’s usual one where it is not said.
    #[serde(default)]
    emissivity: String,
    /// What it reflects, °C; the air’s temperature where it is not said.
    reflected_c: Option<f64>,
}

/// Wood by a pin meter.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WoodRead {
    /// As the meter showed it, %.
    mc_pct: f64,
    /// Id of the wood; the last one read there where it is not said.
    #[serde(default)]
    species: String,
}

/// Water a dehumidifier collected.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WaterRead {
    /// L.
    liters: f64,
    /// Hours run.
    hours: f64,
}

/// Readings to keep, all or none.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ReadingsNew {
    /// 1 to 100.
    readings: Vec<ReadingNew>,
}

/// A reading that was wrong.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Withdrawal {
    /// Identity of the row that says so, where the sender makes it.
    id: Option<Uuid>,
    /// Why: 3 to 300 characters.
    reason: String,
}

/// Most readings sent at once.
const MOST_SENT: usize = 100;

impl ReadingNew {
    /// As a form would have it, in SI.
    fn reads(&self) -> Result<Reads, Problem> {
        // A unit of its own: no text is taken for another system's.
        let c = |x: f64| format!("{x}C");
        let air = self.air.as_ref().map(|a| {
            let ways = [(a.rh_pct, Humidity::Rh), (a.dew_c, Humidity::Dew), (a.wet_c, Humidity::Wet)];
            let said: Vec<_> = ways.into_iter().filter_map(|(x, way)| Some((x?, way))).collect();
            let &[(x, humidity)] = said.as_slice() else {
                return Err(Problem::field("air", "Say one of rh_pct, dew_c and wet_c."));
            };
            let moisture = if humidity == Humidity::Rh { x.to_string() } else { c(x) };
            Ok(Reads::Air { temperature: c(a.t_c), moisture, humidity })
        });
        let infrared = self.infrared.as_ref().map(|i| Reads::Infrared {
            shown: c(i.shown_c),
            emissivity: i.emissivity.clone(),
            reflected: i.reflected_c.map(c).unwrap_or_default(),
        });
        let wood = |w: &WoodRead| Reads::Wood { moisture: w.mc_pct.to_string(), species: w.species.clone(), at: None };
        let water = |w: &WaterRead| Reads::Water { liters: w.liters.to_string(), hours: w.hours.to_string() };
        let said: Vec<Reads> = [
            air.transpose()?,
            self.surface_c.map(|t| Reads::Surface(c(t))),
            infrared,
            self.wood.as_ref().map(wood),
            self.relative.map(|x| Reads::Relative(x.to_string())),
            self.water.as_ref().map(water),
            self.airflow_m3_s.map(|x| Reads::Airflow(x.to_string())),
            self.rain_mm.map(|x| Reads::Rain(x.to_string())),
            self.note.clone().map(Reads::Note),
        ]
        .into_iter()
        .flatten()
        .collect();
        match <[Reads; 1]>::try_from(said) {
            Ok([reads]) => Ok(reads),
            Err(_) => Err(Problem::field(
                "",
                "Say one thing that was read: air, surface_c, infrared, wood, relative, water, airflow_m3_s, rain_mm or note.",
            )),
        }
    }
}

/// A moment that may be said of something: past, and not long.
fn moment(field: &str, said: Option<DateTime<Utc>>, now: DateTime<Utc>) -> Result<DateTime<Utc>, Problem> {
    match said {
        None => Ok(now),
        Some(at) if at <= now && now - at < TimeDelta::days(60) => Ok(at),
        Some(_) => Err(Problem::field(field, "It must lie in the last 60 days.")),
    }
}

async fn visit_of(scope: &Scope, job: Uuid, visit: Uuid) -> Result<Visit, Problem> {
    scope.visits(job).await?.into_iter().find(|v| v.id == visit).ok_or_else(Problem::not_found)
}

/// Visits of a job, by their ids
#[utoipa::path(get, path = "/api/v1/jobs/{job}/visits", tag = "visits", params(("job" = Uuid, Path), Part),
    responses((status = 200, body = Page<VisitView>), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn list(
    caller: Caller,
    Path(job): Path<Uuid>,
    Query(part): Query<Part>,
) -> Result<Json<Page<VisitView>>, Problem> {
    let scope = caller.scope().await?;
    scope.job(job).await?.ok_or_else(Problem::not_found)?;
    let all = scope.visits(job).await?.iter().map(VisitView::of).collect();
    Ok(Json(Page::among(all, &part, |v: &VisitView| v.id)?))
}

/// Begin a visit, or go on with the open one: a job is walked by one visit at a time
#[utoipa::path(post, path = "/api/v1/jobs/{job}/visits", tag = "visits", params(("job" = Uuid, Path)), request_body = VisitNew,
    responses((status = 201, body = VisitView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn begin(caller: Caller, Path(job): Path<Uuid>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        scope.job(job).await?.ok_or_else(Problem::not_found)?;
        let new: VisitNew = sent.read()?;
        let at = moment("started_at", new.started_at, Utc::now().trunc_subsecs(6))?;
        let person = &caller.token.person;
        let for_review = person.role == Role::Trainee && !person.rehearsal;
        let begun = Visit { for_review, ..Visit::begun(names.id(new.id, 0), job, caller.by(), at) };
        let visit = scope.start_visit(begun).await?;
        Made::new(format!("/api/v1/jobs/{job}/visits/{}", visit.id), &VisitView::of(&visit))
    })
    .await
}

/// A visit
#[utoipa::path(get, path = "/api/v1/jobs/{job}/visits/{visit}", tag = "visits", params(("job" = Uuid, Path), ("visit" = Uuid, Path)),
    responses((status = 200, body = VisitView), (status = 304),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn get(
    caller: Caller,
    headers: HeaderMap,
    Path((job, visit)): Path<(Uuid, Uuid)>,
) -> Result<Response, Problem> {
    one(&headers, &VisitView::of(&visit_of(&caller.scope().await?, job, visit).await?))
}

/// Finish a visit, or open it again
#[utoipa::path(patch, path = "/api/v1/jobs/{job}/visits/{visit}", tag = "visits", request_body = VisitPatch,
    params(("job" = Uuid, Path), ("visit" = Uuid, Path), ("If-Match" = String, Header)),
    responses((status = 200, body = VisitView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn change(caller: Caller, Path((job, visit)): Path<(Uuid, Uuid)>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, _| {
        if !scope.hold_job(job).await? {
            return Err(Problem::not_found());
        }
        let was = visit_of(scope, job, visit).await?;
        sent.is_of(&VisitView::of(&was))?;
        let patch: VisitPatch = sent.read()?;
        if patch.finished != was.ended_at.is_some() {
            scope.set_visit_end(&was, patch.finished.then(Utc::now)).await?;
        }
        Made::changed(&VisitView::of(&visit_of(scope, job, visit).await?))
    })
    .await
}

/// Which readings.
#[derive(Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct ReadingsAsked {
    /// Of this visit only.
    visit: Option<Uuid>,
    /// Rows at most: 1 to 500, 50 where it is not said.
    limit: Option<u64>,
    /// Where it goes on: `next` of the part before.
    after: Option<String>,
}

/// Readings of a job in the order they were read, those that were corrected among them
#[utoipa::path(get, path = "/api/v1/jobs/{job}/readings", tag = "readings", params(("job" = Uuid, Path), ReadingsAsked),
    responses((status = 200, body = Page<ReadingView>), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn readings(
    caller: Caller,
    Path(job): Path<Uuid>,
    Query(asked): Query<ReadingsAsked>,
) -> Result<Json<Page<ReadingView>>, Problem> {
    let part = Part::new(asked.limit, asked.after);
    let (most, after) = (part.most()?, part.after_row()?);
    let scope = caller.scope().await?;
    scope.job(job).await?.ok_or_else(Problem::not_found)?;
    let rows = scope.readings_page(job, asked.visit, after, most + 1).await?;
    let rows = rows.into_iter().map(ReadingView::of).collect();
    Ok(Json(Page::of(rows, most, |r: &ReadingView| (r.taken_at, r.id))?))
}

/// Keep readings on the open visit, all or none
#[utoipa::path(post, path = "/api/v1/jobs/{job}/readings", tag = "readings", params(("job" = Uuid, Path)), request_body = ReadingsNew,
    responses((status = 201, body = Vec<ReadingView>),
        (status = 409, body = Problem, content_type = "application/problem+json", description = "No visit is open."),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn keep(caller: Caller, Path(job): Path<Uuid>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        let new: ReadingsNew = sent.read()?;
        if !(1..=MOST_SENT).contains(&new.readings.len()) {
            return Err(Problem::field("readings", format!("1 to {MOST_SENT} readings at once.")));
        }
        let mut kept = Vec::new();
        let mut file = caller.file(scope, job, InView::Open, Depth::Argument).await?;
        for (n, reading) in new.readings.iter().enumerate() {
            let id = names.id(reading.id, n);
            if file.row(id).is_none() {
                let new = checked(&caller, &file, scope, id, reading).await.map_err(|p| p.of(n))?;
                scope.keep_reading(&new).await?;
                // What is read next is questioned and corrected by what was read before.
                file = caller.file(scope, job, InView::Open, Depth::Argument).await?;
            }
            let row = file.row(id).cloned().ok_or_else(Problem::not_found)?;
            kept.push(ReadingView::of(row));
        }
        Made::new(format!("/api/v1/jobs/{job}/readings"), &kept)
    })
    .await
}

/// A reading as it may be kept, or what is wrong or odd about it.
async fn checked(
    caller: &Caller,
    file: &CaseFile,
    scope: &Scope,
    id: Uuid,
    reading: &ReadingNew,
) -> Result<NewReading, Problem> {
    let visit = file.open_visit().ok_or_else(|| {
        Problem::new(StatusCode::CONFLICT, "No visit is open: begin one, or open the last one again.")
    })?;
    let now = Utc::now().trunc_subsecs(6);
    let taken_at = moment("taken_at", reading.taken_at, now)?;
    let station = file.building.station(reading.station_id);
    let station = station.ok_or_else(|| Problem::field("station_id", "There is no such station in the building."))?;
    // As it was corrected when it was read.
    let instruments = scope.instruments_at(taken_at).await?;
    let instrument = instruments.iter().find(|i| i.id == reading.instrument_id);
    let instrument = instrument.ok_or_else(|| Problem::field("instrument_id", "There is no such instrument."))?;
    let reads = reading.reads()?;
    let checked = entry::check(file, station, instrument, &reads, notation::Units::Metric)?;
    let asked = wording::question::asked(&caller.show(), &checked);
    if !asked.is_empty() && !reading.accept_doubts {
        let doubts = asked.iter().map(|q| Wrong::new("accept_doubts", q.clone())).collect();
        return Err(Problem::wrong(doubts));
    }
    Ok(NewReading {
        id,
        job_id: file.job.id,
        visit_id: visit.id,
        station_id: station.id,
        instrument_id: instrument.id,
        consultant_id: caller.by(),
        value: checked.value,
        as_typed: entry::as_typed(&reads),
        questions: asked.join(" "),
        replaces: None,
        taken_at,
    })
}

/// Say that a reading was a mistake: it stays, and nothing is judged by it
#[utoipa::path(post, path = "/api/v1/jobs/{job}/readings/{reading}/withdrawal", tag = "readings", request_body = Withdrawal,
    params(("job" = Uuid, Path), ("reading" = Uuid, Path)),
    responses((status = 201, body = ReadingView), (status = 409, body = Problem, content_type = "application/problem+json"),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn withdraw(
    caller: Caller,
    Path((job, reading)): Path<(Uuid, Uuid)>,
    sent: Sent,
) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        scope.job(job).await?.ok_or_else(Problem::not_found)?;
        let row = scope.reading_row(reading).await?.filter(|r| r.job_id == job).ok_or_else(Problem::not_found)?;
        let said: Withdrawal = sent.read()?;
        let reason = said.reason.trim().to_owned();
        if !(3..=300).contains(&reason.chars().count()) {
            return Err(Problem::field("reason", "Say in 3 to 300 characters why."));
        }
        let id = names.id(said.id, 0);
        let new = NewReading {
            id,
            job_id: job,
            visit_id: row.visit_id,
            station_id: row.station_id,
            instrument_id: row.instrument_id,
            consultant_id: caller.by(),
            value: NewValue::Withdrawn,
            as_typed: String::new(),
            questions: String::new(),
            replaces: Some((row.id, reason)),
            taken_at: row.taken_at,
        };
        if scope.keep_reading(&new).await? == Kept::CorrectedByOther {
            return Err(Problem::new(StatusCode::CONFLICT, "It was corrected already."));
        }
        let kept = scope.reading_row(id).await?.ok_or_else(Problem::not_found)?;
        Made::new(format!("/api/v1/jobs/{job}/readings"), &ReadingView::of(kept))
    })
    .await
}

//! Jobs, and who is asking.

use super::caller::Caller;
use super::exchange::{Made, Page, Part, Path, Query, Sent, in_time, one};
use super::problem::{Problem, Wrong};
use axum::Json;
use axum::http::HeaderMap;
use axum::response::Response;
use building::{Climate, Structure, blueprint};
use chrono::{DateTime, NaiveDate, SubsecRound, Utc};
use serde::{Deserialize, Serialize};
use store::{Act, Job, JobEdit, Listed, NewJob, Role, Scope, Site, Sought, Worst};
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// Longest name or address, characters.
const LONGEST: usize = 120;

/// A job.
#[derive(Debug, Serialize, ToSchema)]
pub struct JobView {
    /// Identity.
    id: Uuid,
    /// Name.
    name: String,
    /// One line.
    address: String,
    /// Kind of structure.
    structure: &'static str,
    /// Climate.
    climate: &'static str,
    /// Coldest outdoor temperature to plan for, °C.
    design_outdoor_c: f64,
    /// Above the sea, m.
    altitude_m: f64,
    /// Latitude, °, north positive; null where nobody said.
    latitude: Option<f64>,
    /// Longitude, °, east positive.
    longitude: Option<f64>,
    /// When it was opened.
    opened_at: DateTime<Utc>,
    /// Whether it is a trainee’s own, to practice on.
    rehearsal: bool,
    /// When it was put in the archive; null on the docket.
    archived_at: Option<DateTime<Utc>>,
}

/// A job on the docket, with how it stands.
#[derive(Debug, Serialize, ToSchema)]
pub struct JobRow {
    #[serde(flatten)]
    job: JobView,
    /// Worst verdict of its latest visit: `condensing`, `cant_tell`, `mold_risk`, `dry` or `not_judged`.
    worst: &'static str,
    /// Visits to it.
    visits: u32,
    /// When its latest visit began.
    visited_at: Option<DateTime<Utc>>,
    /// When something on it is to be looked at again, the soonest.
    due_on: Option<NaiveDate>,
}

/// A job to open.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobNew {
    /// Identity, where the sender makes it: a UUID.
    id: Option<Uuid>,
    /// Name, 1 to 120 characters.
    name: String,
    /// One line, 120 characters at most.
    #[serde(default)]
    address: String,
    /// Kind of structure: it is opened with that structure’s starter building.
    structure: String,
    /// Climate.
    climate: String,
    /// Coldest outdoor temperature to plan for, −70 to 60 °C.
    design_outdoor_c: f64,
    /// Above the sea, −500 to 6000 m.
    #[serde(default)]
    altitude_m: f64,
    /// Latitude, °, north positive; only with a longitude.
    latitude: Option<f64>,
    /// Longitude, °, east positive.
    longitude: Option<f64>,
}

/// What is to be changed of a job; what is not named stays.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct JobPatch {
    /// Name.
    name: Option<String>,
    /// One line.
    address: Option<String>,
    /// Climate.
    climate: Option<String>,
    /// Coldest outdoor temperature to plan for, °C.
    design_outdoor_c: Option<f64>,
    /// Above the sea, m.
    altitude_m: Option<f64>,
    /// Latitude and longitude, °; an empty list takes them away.
    place: Option<Vec<f64>>,
    /// Whether it is in the archive.
    archived: Option<bool>,
}

/// Which jobs.
#[derive(Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct JobsAsked {
    /// Words, each in the name or the address.
    words: Option<String>,
    /// Kind of structure.
    structure: Option<String>,
    /// Worst verdict.
    worst: Option<String>,
    /// With something to be looked at again on this day or before.
    due_by: Option<NaiveDate>,
    /// Opened or visited by this person.
    person: Option<Uuid>,
    /// Those in the archive instead of those on the docket.
    archived: Option<bool>,
    /// Rows at most: 1 to 500, 50 where it is not said.
    limit: Option<u64>,
    /// Where it goes on: `next` of the part before.
    after: Option<String>,
}

impl JobView {
    fn of(job: Job) -> Self {
        Self {
            id: job.id,
            name: job.name,
            address: job.address,
            structure: job.structure.id(),
            climate: job.climate.id(),
            design_outdoor_c: job.design_outdoor_c,
            altitude_m: job.site.altitude_m,
            latitude: job.site.at.map(|at| at[0]),
            longitude: job.site.at.map(|at| at[1]),
            opened_at: job.created_at,
            rehearsal: job.rehearsal,
            archived_at: job.archived_at,
        }
    }
}

fn row(listed: Listed) -> JobRow {
    JobRow {
        worst: listed.worst.id(),
        visits: listed.visits,
        visited_at: listed.latest.map(|(at, _)| at),
        due_on: listed.due_on,
        job: JobView::of(listed.job),
    }
}

/// A word of a list, or the list.
fn word<T>(field: &str, said: &str, read: fn(&str) -> Option<T>, all: &[&str]) -> Result<T, Wrong> {
    read(said).ok_or_else(|| Wrong::new(field, format!("It is one of {}.", all.join(", "))))
}

fn climate(said: &str) -> Result<Climate, Wrong> {
    word("climate", said, Climate::from_id, &Climate::ALL.iter().map(|c| c.id()).collect::<Vec<_>>())
}

fn structure(said: &str) -> Result<Structure, Wrong> {
    word("structure", said, Structure::from_id, &Structure::ALL.iter().map(|s| s.id()).collect::<Vec<_>>())
}

/// What is wrong with what a job's form holds.
fn wrong(edit: &JobEdit) -> Vec<Wrong> {
    let mut all = Vec::new();
    let length = edit.name.chars().count();
    if !(1..=LONGEST).contains(&length) {
        all.push(Wrong::new("name", format!("A name has 1 to {LONGEST} characters.")));
    }
    if edit.address.chars().count() > LONGEST {
        all.push(Wrong::new("address", format!("An address has {LONGEST} characters at most.")));
    }
    for (field, text) in [("name", &edit.name), ("address", &edit.address)] {
        if text.chars().any(char::is_control) {
            all.push(Wrong::new(field, "It is one line."));
        }
    }
    if !(-70.0..=60.0).contains(&edit.design_outdoor_c) {
        all.push(Wrong::new("design_outdoor_c", "It must be −70 to 60 °C."));
    }
    if !(-500.0..=6000.0).contains(&edit.site.altitude_m) {
        all.push(Wrong::new("altitude_m", "It must be −500 to 6000 m."));
    }
    if edit.site.at.is_some_and(|[n, e]| n.abs() > 90.0 || e.abs() > 180.0) {
        all.push(Wrong::new("latitude", "Latitude is −90 to 90°, longitude −180 to 180°."));
    }
    all
}

fn sound(edit: JobEdit) -> Result<JobEdit, Problem> {
    let edit = JobEdit { name: edit.name.trim().to_owned(), address: edit.address.trim().to_owned(), ..edit };
    let wrong = wrong(&edit);
    if wrong.is_empty() { Ok(edit) } else { Err(Problem::wrong(wrong)) }
}

async fn found(scope: &Scope, job: Uuid) -> Result<Job, Problem> {
    scope.job(job).await?.ok_or_else(Problem::not_found)
}

/// Jobs, the latest opened first
#[utoipa::path(get, path = "/api/v1/jobs", tag = "jobs", params(JobsAsked),
    responses((status = 200, body = Page<JobRow>), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn list(caller: Caller, Query(asked): Query<JobsAsked>) -> Result<Json<Page<JobRow>>, Problem> {
    let part = Part::new(asked.limit, asked.after);
    let most = part.most()?;
    let worsts: Vec<&str> = Worst::ALL.iter().map(|w| w.id()).collect();
    let worst = asked.worst.map(|w| word("worst", &w, Worst::from_id, &worsts)).transpose();
    let structure = asked.structure.map(|s| structure(&s)).transpose();
    let one = |e: Wrong| Problem::wrong(vec![e]);
    let sought = Sought {
        words: asked.words.unwrap_or_default().chars().take(LONGEST).collect(),
        structure: structure.map_err(one)?,
        worst: worst.map_err(one)?,
        due_by: in_time("due_by", asked.due_by)?,
        person: asked.person,
        archived: asked.archived.unwrap_or(false),
        order: None,
        after: part.after_row()?,
    };
    let scope = caller.scope().await?;
    // Nobody's pins: a list for a program has one order.
    let (listed, _) = scope.docket(&sought, Uuid::nil(), 0, most + 1).await?;
    let rows = listed.into_iter().map(row).collect();
    Ok(Json(Page::of(rows, most, |row: &JobRow| (row.job.opened_at, row.job.id))?))
}

/// Open a job
#[utoipa::path(post, path = "/api/v1/jobs", tag = "jobs", request_body = JobNew,
    responses((status = 201, body = JobView), (status = 200, body = JobView, description = "A job with this id was there: as it is."),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn open(caller: Caller, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        let new: JobNew = sent.read()?;
        let mut all = Vec::new();
        let (climate, structure) = (climate(&new.climate), structure(&new.structure));
        let place = match (new.latitude, new.longitude) {
            (Some(n), Some(e)) => Some([n, e]),
            (None, None) => None,
            _ => {
                all.push(Wrong::new("longitude", "Latitude and longitude go together."));
                None
            }
        };
        let (climate, structure) = match (climate, structure) {
            (Ok(climate), Ok(structure)) if all.is_empty() => (climate, structure),
            (climate, structure) => {
                all.extend(climate.err().into_iter().chain(structure.err()));
                return Err(Problem::wrong(all));
            }
        };
        let site = Site { altitude_m: new.altitude_m, at: place };
        let edit =
            JobEdit { name: new.name, address: new.address, climate, design_outdoor_c: new.design_outdoor_c, site };
        let plan = blueprint(structure).ok_or_else(|| Problem::field("structure", "There is no such structure."))?;
        let id = names.id(new.id, 0);
        let opened = NewJob {
            id,
            edit: sound(edit)?,
            structure,
            rehearsal: caller.token.person.role == Role::Trainee,
            created_by: caller.by(),
            created_at: Utc::now().trunc_subsecs(6),
        };
        let new = scope.create_job(&opened, &plan.build(Uuid::now_v7)).await?;
        let job = JobView::of(found(scope, id).await?);
        // It was there already: nothing was made of what was sent.
        if new { Made::new(format!("/api/v1/jobs/{id}"), &job) } else { Made::changed(&job) }
    })
    .await
}

/// A job
#[utoipa::path(get, path = "/api/v1/jobs/{job}", tag = "jobs", params(("job" = Uuid, Path)),
    responses((status = 200, body = JobView), (status = 304), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn get(caller: Caller, headers: HeaderMap, Path(job): Path<Uuid>) -> Result<Response, Problem> {
    one(&headers, &JobView::of(found(&caller.scope().await?, job).await?))
}

/// Change what a job is, or put it in the archive
#[utoipa::path(patch, path = "/api/v1/jobs/{job}", tag = "jobs", params(("job" = Uuid, Path), ("If-Match" = String, Header)),
    request_body = JobPatch,
    responses((status = 200, body = JobView), (status = 412, body = Problem, content_type = "application/problem+json"),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn change(caller: Caller, Path(job): Path<Uuid>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        if !scope.hold_job(job).await? {
            return Err(Problem::not_found());
        }
        let was = found(scope, job).await?;
        sent.is_of(&JobView::of(was.clone()))?;
        let patch: JobPatch = sent.read()?;
        let at = match patch.place.as_deref() {
            None => was.site.at,
            Some([]) => None,
            Some(&[n, e]) => Some([n, e]),
            Some(_) => return Err(Problem::field("place", "It is a latitude and a longitude, or nothing.")),
        };
        let edit = JobEdit {
            name: patch.name.unwrap_or(was.name),
            address: patch.address.unwrap_or(was.address),
            climate: patch.climate.map_or(Ok(was.climate), |c| climate(&c)).map_err(|e| Problem::wrong(vec![e]))?,
            design_outdoor_c: patch.design_outdoor_c.unwrap_or(was.design_outdoor_c),
            site: Site { altitude_m: patch.altitude_m.unwrap_or(was.site.altitude_m), at },
        };
        let now = Utc::now();
        let act = |n, what: String| Act::new(names.id(None, n), job, caller.by(), now, what);
        scope.edit_job(&act(0, "Changed the job".into()), &sound(edit)?).await?;
        if let Some(archived) = patch.archived {
            let what = if archived { "Put the job in the archive" } else { "Put the job back on the docket" };
            scope.archive_job(&act(1, what.into()), archived).await?;
        }
        Made::changed(&JobView::of(found(scope, job).await?))
    })
    .await
}

/// Whoever asks.
#[derive(Debug, Serialize, ToSchema)]
pub struct Me {
    /// Identity.
    id: Uuid,
    /// Name.
    name: String,
    /// Role.
    role: &'static str,
    /// Their practice.
    practice: String,
    /// Its IANA time zone.
    time_zone: String,
    /// What the token lets a program do.
    scopes: Vec<&'static str>,
}

/// Who the token is of, and what it lets a program do
#[utoipa::path(get, path = "/api/v1/me", tag = "practice",
    responses((status = 200, body = Me), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn me(caller: Caller) -> Json<Me> {
    let person = &caller.token.person;
    Json(Me {
        id: person.consultant_id,
        name: person.name.clone(),
        role: person.role.id(),
        practice: person.practice_name.clone(),
        time_zone: person.time_zone.clone(),
        scopes: caller.token.scopes.iter().map(|s| s.id()).collect(),
    })
}

/// An instrument of the practice.
#[derive(Debug, Serialize, ToSchema)]
pub struct InstrumentView {
    /// Identity.
    id: Uuid,
    /// Name.
    name: String,
    /// Serial number.
    serial: String,
    /// What it is.
    kind: &'static str,
    /// How far its air temperature may be off, K.
    air_err_k: f64,
    /// How far its relative humidity may be off, %.
    rh_err_pct: f64,
    /// How far its surface temperature may be off, K.
    surface_err_k: f64,
}

/// Instruments and loggers of the practice, by their ids
#[utoipa::path(get, path = "/api/v1/instruments", tag = "practice", params(Part),
    responses((status = 200, body = Page<InstrumentView>), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn instruments(caller: Caller, Query(part): Query<Part>) -> Result<Json<Page<InstrumentView>>, Problem> {
    let all = caller.scope().await?.instruments().await?.into_iter();
    let view = all.map(|i| InstrumentView {
        id: i.id,
        name: i.name,
        serial: i.serial,
        kind: i.kind.id(),
        air_err_k: i.air_err_k,
        rh_err_pct: i.rh_err_pct,
        surface_err_k: i.surface_err_k,
    });
    Ok(Json(Page::among(view.collect(), &part, |i: &InstrumentView| i.id)?))
}

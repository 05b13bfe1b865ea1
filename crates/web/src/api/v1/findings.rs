//! What was found on a job.

use super::caller::Caller;
use super::exchange::{Made, Page, Part, Path, Query, Sent, named, one};
use super::problem::{Problem, Wrong};
use axum::Json;
use axum::http::HeaderMap;
use axum::response::Response;
use building::{Building, Spot};
use casework::{CaseFile, InView};
use chrono::{DateTime, SubsecRound, Utc};
use judgment::finding::finding;
use serde::{Deserialize, Serialize};
use store::{Act, Depth, FindingRecord, Scope};
use utoipa::ToSchema;
use uuid::Uuid;

/// Longest note, characters.
const LONGEST: usize = 1000;

/// Something that was found, or looked for and not there.
#[derive(Debug, Serialize, ToSchema)]
pub struct FindingView {
    /// Identity.
    id: Uuid,
    /// Id of what was found, of the table of findings.
    what: String,
    /// What that is called.
    name: String,
    /// Where: id of a space, boundary or surface; null for the whole building.
    place: Option<Uuid>,
    /// 1 slight, 2 clear, 3 severe.
    severity: i32,
    /// Its figure, in the unit of the table.
    value: Option<f64>,
    /// Words.
    note: String,
    /// Looked for, and not there.
    absent: bool,
    /// Who.
    by: Uuid,
    /// When it was found.
    found_at: DateTime<Utc>,
    /// When it was gone.
    gone_at: Option<DateTime<Utc>>,
}

/// A finding to keep.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FindingNew {
    /// Identity, where the sender makes it.
    id: Option<Uuid>,
    /// Id of what was found, of the table of findings.
    what: String,
    /// Where: id of a space, boundary or surface; the whole building where it is not said.
    place: Option<Uuid>,
    /// 1 slight, 2 clear, 3 severe; clear where it is not said.
    severity: Option<i32>,
    /// Its figure.
    value: Option<f64>,
    /// Words, 1000 characters at most.
    #[serde(default)]
    note: String,
    /// Looked for, and not there.
    #[serde(default)]
    absent: bool,
}

/// What is to be changed of a finding; what is not named stays.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FindingPatch {
    /// Where; `""` for the whole building.
    place: Option<String>,
    /// 1 to 3.
    severity: Option<i32>,
    /// Its figure; null takes it away.
    #[serde(default, deserialize_with = "named")]
    #[schema(value_type = Option<f64>)]
    #[allow(clippy::option_option, reason = "not named, named with nothing, named with a figure")]
    value: Option<Option<f64>>,
    /// Words.
    note: Option<String>,
    /// Whether it is gone.
    gone: Option<bool>,
}

impl FindingView {
    fn of(r: &FindingRecord) -> Self {
        Self {
            id: r.id,
            what: r.what.clone(),
            name: finding(&r.what).map_or_else(|| r.what.clone(), |f| f.name.clone()),
            place: r.spot.id(),
            severity: r.severity,
            value: r.value,
            note: r.note.clone(),
            absent: r.absent,
            by: r.consultant_id,
            found_at: r.found_at,
            gone_at: r.gone_at,
        }
    }
}

fn spot(building: &Building, place: &str) -> Result<Spot, Problem> {
    Spot::parse(building, place).ok_or_else(|| Problem::field("place", "There is no such place in the building."))
}

fn sound(row: FindingRecord) -> Result<FindingRecord, Problem> {
    let mut wrong = Vec::new();
    if !(1..=3).contains(&row.severity) {
        wrong.push(Wrong::new("severity", "It is 1, 2 or 3."));
    }
    if row.value.is_some_and(|x| !(0.0..=10_000.0).contains(&x)) {
        wrong.push(Wrong::new("value", "It must be 0 to 10000."));
    }
    if row.note.chars().count() > LONGEST {
        wrong.push(Wrong::new("note", format!("A note has {LONGEST} characters at most.")));
    }
    if wrong.is_empty() { Ok(row) } else { Err(Problem::wrong(wrong)) }
}

fn of(file: &CaseFile, id: Uuid) -> Result<&FindingRecord, Problem> {
    file.findings.iter().chain(&file.absent).find(|r| r.id == id).ok_or_else(Problem::not_found)
}

async fn load(caller: &Caller, scope: &Scope, job: Uuid) -> Result<CaseFile, Problem> {
    caller.file(scope, job, InView::Latest, Depth::Visit).await
}

/// What was found on a job, and what was looked for and is not there, by their ids
#[utoipa::path(get, path = "/api/v1/jobs/{job}/findings", tag = "findings", params(("job" = Uuid, Path), Part),
    responses((status = 200, body = Page<FindingView>), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn list(
    caller: Caller,
    Path(job): Path<Uuid>,
    Query(part): Query<Part>,
) -> Result<Json<Page<FindingView>>, Problem> {
    let file = load(&caller, &caller.scope().await?, job).await?;
    let all = file.findings.iter().chain(&file.absent).map(FindingView::of).collect();
    Ok(Json(Page::among(all, &part, |f: &FindingView| f.id)?))
}

/// A finding
#[utoipa::path(get, path = "/api/v1/jobs/{job}/findings/{finding}", tag = "findings",
    params(("job" = Uuid, Path), ("finding" = Uuid, Path)),
    responses((status = 200, body = FindingView), (status = 304),
        (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn get(caller: Caller, headers: HeaderMap, Path((job, id)): Path<(Uuid, Uuid)>) -> Result<Response, Problem> {
    let file = load(&caller, &caller.scope().await?, job).await?;
    one(&headers, &FindingView::of(of(&file, id)?))
}

/// Keep a finding
#[utoipa::path(post, path = "/api/v1/jobs/{job}/findings", tag = "findings", params(("job" = Uuid, Path)), request_body = FindingNew,
    responses((status = 201, body = FindingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn keep(caller: Caller, Path(job): Path<Uuid>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        let new: FindingNew = sent.read()?;
        let file = load(&caller, scope, job).await?;
        let known = finding(&new.what);
        let known = known.ok_or_else(|| Problem::field("what", "There is no such finding in the table."))?;
        let (id, now) = (names.id(new.id, 0), Utc::now().trunc_subsecs(6));
        let place = new.place.map(|id| id.to_string()).unwrap_or_default();
        let row = sound(FindingRecord {
            id,
            job_id: job,
            visit_id: file.open_visit().map(|v| v.id),
            consultant_id: caller.by(),
            what: known.id.clone(),
            spot: spot(&file.building, &place)?,
            severity: new.severity.unwrap_or(2),
            value: new.value,
            note: new.note.trim().to_owned(),
            absent: new.absent,
            found_at: now,
            gone_at: None,
            removed: false,
        })?;
        let said = if new.absent { "Looked for, not there" } else { "Found" };
        let act = Act::new(id, job, caller.by(), now, format!("{said}: {}", known.name));
        scope.keep_finding(&act, row).await?;
        let file = load(&caller, scope, job).await?;
        Made::new(format!("/api/v1/jobs/{job}/findings/{id}"), &FindingView::of(of(&file, id)?))
    })
    .await
}

/// Place, weigh or note a finding, or say that it is gone
#[utoipa::path(patch, path = "/api/v1/jobs/{job}/findings/{finding}", tag = "findings", request_body = FindingPatch,
    params(("job" = Uuid, Path), ("finding" = Uuid, Path), ("If-Match" = String, Header)),
    responses((status = 200, body = FindingView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn change(caller: Caller, Path((job, id)): Path<(Uuid, Uuid)>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        let (file, was) = seen(&caller, scope, (job, id), &sent).await?;
        let patch: FindingPatch = sent.read()?;
        let now = Utc::now().trunc_subsecs(6);
        let gone_at = match patch.gone {
            None => was.gone_at,
            Some(gone) => gone.then(|| was.gone_at.unwrap_or(now)),
        };
        let row = sound(FindingRecord {
            spot: patch.place.map_or(Ok(was.spot), |place| spot(&file.building, &place))?,
            severity: patch.severity.unwrap_or(was.severity),
            value: patch.value.unwrap_or(was.value),
            note: patch.note.map_or(was.note.clone(), |n| n.trim().to_owned()),
            gone_at,
            ..was
        })?;
        let name = FindingView::of(&row).name;
        let act = Act::new(names.id(None, 0), job, caller.by(), now, format!("Changed the finding: {name}"));
        scope.keep_finding(&act, row).await?;
        let file = load(&caller, scope, job).await?;
        Made::changed(&FindingView::of(of(&file, id)?))
    })
    .await
}

/// Take a finding away: it was a mistake
#[utoipa::path(delete, path = "/api/v1/jobs/{job}/findings/{finding}", tag = "findings",
    params(("job" = Uuid, Path), ("finding" = Uuid, Path), ("If-Match" = String, Header)),
    responses((status = 204), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn remove(caller: Caller, Path((job, id)): Path<(Uuid, Uuid)>, sent: Sent) -> Result<Response, Problem> {
    sent.once(&caller, async |scope, names| {
        let (_, was) = seen(&caller, scope, (job, id), &sent).await?;
        let what = format!("Removed the finding: {}", FindingView::of(&was).name);
        let act = Act::new(names.id(None, 0), job, caller.by(), Utc::now(), what);
        scope.keep_finding(&act, FindingRecord { removed: true, ..was }).await?;
        Ok(Made::gone())
    })
    .await
}

/// A finding that is as whoever changes it saw it; nobody else changes the job meanwhile.
async fn seen(
    caller: &Caller,
    scope: &Scope,
    (job, id): (Uuid, Uuid),
    sent: &Sent,
) -> Result<(CaseFile, FindingRecord), Problem> {
    if !scope.hold_job(job).await? {
        return Err(Problem::not_found());
    }
    let file = load(caller, scope, job).await?;
    let was = of(&file, id)?.clone();
    sent.is_of(&FindingView::of(&was))?;
    Ok((file, was))
}

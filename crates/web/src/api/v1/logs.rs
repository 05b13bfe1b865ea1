//! A job's log: its series, their readings, and readings of loggers to keep.

use super::caller::Caller;
use super::exchange::{Page, Part, Path, Query, Sent, in_time};
use super::problem::Problem;
use axum::Json;
use axum::http::StatusCode;
use casework::log::WorkError;
use chrono::{DateTime, Utc};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use store::Posting;
use utoipa::{IntoParams, ToSchema};
use uuid::Uuid;

/// What a sensor read at a place.
#[derive(Debug, Serialize, ToSchema)]
pub struct SeriesView {
    /// Identity.
    id: Uuid,
    /// The logger.
    instrument_id: Uuid,
    /// The logger’s own name for the sensor; empty where it has only one.
    channel: String,
    /// What it reads.
    reads: &'static str,
    /// The space it hangs in; null outdoors.
    space_id: Option<Uuid>,
    /// The surface it sits on.
    surface_id: Option<Uuid>,
    /// Readings it has.
    points: i64,
    /// The first of them.
    first_at: Option<DateTime<Utc>>,
    /// The last of them.
    last_at: Option<DateTime<Utc>>,
}

/// A reading of a series.
#[derive(Debug, Serialize, ToSchema)]
pub struct PointView {
    /// When.
    at: DateTime<Utc>,
    /// Temperature, °C.
    #[serde(skip_serializing_if = "Option::is_none")]
    t_c: Option<f64>,
    /// Relative humidity over liquid water, %.
    #[serde(skip_serializing_if = "Option::is_none")]
    rh_pct: Option<f64>,
    /// Any other figure.
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<f64>,
}

/// Which readings.
#[derive(Debug, Default, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub struct PointsAsked {
    /// From this moment on.
    from: Option<DateTime<Utc>>,
    /// Before this moment.
    until: Option<DateTime<Utc>>,
    /// Rows at most: 1 to 500, 50 where it is not said.
    limit: Option<u64>,
    /// Where it goes on: `next` of the part before.
    after: Option<String>,
}

/// What became of readings that were sent.
#[derive(Debug, Serialize, ToSchema)]
pub struct PostedView {
    /// Readings that are new.
    stored: u64,
    /// Readings that were there already.
    known: u64,
    /// Of these, that say something else than what is there; that stayed.
    differ: u64,
    /// Rows that were not taken, the first hundred of them.
    refused: Value,
    /// Sensors nobody has said the place of: their readings are not kept.
    unplaced: Value,
}

/// Series of a job’s log, by their ids
#[utoipa::path(get, path = "/api/v1/jobs/{job}/logs", tag = "logs", params(("job" = Uuid, Path), Part),
    responses((status = 200, body = Page<SeriesView>), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn list(
    caller: Caller,
    Path(job): Path<Uuid>,
    Query(part): Query<Part>,
) -> Result<Json<Page<SeriesView>>, Problem> {
    let scope = caller.scope().await?;
    scope.job(job).await?.ok_or_else(Problem::not_found)?;
    let view = |s: store::LogSeries| SeriesView {
        id: s.id,
        instrument_id: s.instrument_id,
        channel: s.channel,
        reads: s.reads.id(),
        space_id: s.space_id,
        surface_id: s.surface_id,
        points: s.points,
        first_at: s.first_at,
        last_at: s.last_at,
    };
    let all = scope.log_series(job).await?.into_iter().map(view).collect();
    Ok(Json(Page::among(all, &part, |s: &SeriesView| s.id)?))
}

/// Single readings of a series, in order
#[utoipa::path(get, path = "/api/v1/jobs/{job}/logs/{series}/points", tag = "logs",
    params(("job" = Uuid, Path), ("series" = Uuid, Path), PointsAsked),
    responses((status = 200, body = Page<PointView>), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn points(
    caller: Caller,
    Path((job, series)): Path<(Uuid, Uuid)>,
    Query(asked): Query<PointsAsked>,
) -> Result<Json<Page<PointView>>, Problem> {
    let part = Part::new(asked.limit, asked.after);
    let (most, after) = (part.most()?, in_time("after", part.after::<DateTime<Utc>>()?)?);
    let (from, until) = (in_time("from", asked.from)?, in_time("until", asked.until)?);
    let scope = caller.scope().await?;
    scope.job(job).await?.ok_or_else(Problem::not_found)?;
    let all = scope.log_series(job).await?;
    let series = all.iter().find(|s| s.id == series).ok_or_else(Problem::not_found)?;
    let (Some(first), Some(last)) = (series.first_at, series.last_at) else {
        return Ok(Json(Page { data: Vec::new(), next: None }));
    };
    // Months that hold nothing are not opened.
    let span = [from.unwrap_or(first).max(first), until.unwrap_or(last).min(last)];
    let rows = scope.log_points_page(series.id, span, after, most + 1).await?;
    // The last reading lies at the end of the span; one asked for ends before it.
    let within = |at: DateTime<Utc>| until.is_none_or(|until| at < until);
    let rows = rows.into_iter().filter(|p| within(p.at));
    let rows = rows.map(|p| PointView { at: p.at, t_c: p.t_c, rh_pct: p.rh_pct, value: p.value }).collect();
    Ok(Json(Page::of(rows, most, |p: &PointView| p.at)?))
}

/// Keep readings of a logger, where its sensors belong; sent twice they are there once
#[utoipa::path(post, path = "/api/v1/instruments/{instrument}/readings", tag = "logs", params(("instrument" = Uuid, Path)),
    request_body(content = Vec<Object>, description = "As at /api/log: rows with `at`, `channel` and figures; 5000 at most."),
    responses((status = 200, body = PostedView), (status = "4XX", body = Problem, content_type = "application/problem+json")))]
pub async fn post(caller: Caller, Path(instrument): Path<Uuid>, sent: Sent) -> Result<Json<PostedView>, Problem> {
    let rows: Value = sent.read()?;
    let scope = caller.scope().await?;
    let live = scope.live_loggers().await?.into_iter().find(|l| l.instrument == instrument);
    let live = live.ok_or_else(Problem::not_found)?;
    drop(scope);
    let practice = caller.token.person.practice_id;
    let from = Posting { practice, instrument, goes: live.goes, unplaced: live.unplaced };
    let posted =
        caller.app().posts.keep(from, rows.to_string().into_bytes(), Utc::now()).await.map_err(|e| match e {
            WorkError::Store(e) => e.into(),
            WorkError::Unreadable(why) => Problem::field("", why),
            _ => Problem::new(StatusCode::SERVICE_UNAVAILABLE, "It was stopped: nothing was kept, send it again."),
        })?;
    Ok(Json(PostedView {
        stored: posted.stored,
        known: posted.known,
        differ: posted.differ,
        refused: serde_json::to_value(&posted.refused).unwrap_or_default(),
        unplaced: serde_json::to_value(&posted.unplaced).unwrap_or_default(),
    }))
}

//! Passing a station by, with the reason; or coming back to it.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use axum::response::Redirect;
use casework::entry::moment;
use chrono::Utc;
use language::say;
use serde::Deserialize;
use store::{Act, Skip};
use uuid::Uuid;

/// Longest reason, characters; longer ones are cut.
const LONGEST: usize = 300;
/// Reasons to choose from with one tap.
pub const REASONS: [&str; 4] =
    ["cannot be reached", "no access today", "something stands before it", "not worth reading"];

#[derive(Deserialize)]
pub struct SkipForm {
    id: Uuid,
    station: Uuid,
    #[serde(default)]
    reason: String,
    /// Typed instead of a chosen reason.
    #[serde(default)]
    other: String,
    /// The skip to take back.
    #[serde(default)]
    back: Option<Uuid>,
    #[serde(default)]
    at: String,
}

/// Keeps that a station was skipped and goes on, or takes that back and stays.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(form): Form<SkipForm>) -> Result<Redirect, Failure> {
    let page = super::round::open(&who, job).await?;
    let station = page.building.station(form.station).ok_or(Failure::NotFound)?;
    let scope = who.scope().await?;
    let name = page.station_name(station.id);
    let at = moment(&form.at, Utc::now());
    let (by, here) = (who.person.consultant_id, format!("/jobs/{job}/round?at={}", station.id));
    let stations = &page.building.stations;
    let next = stations.iter().skip_while(|s| s.id != station.id).nth(1).unwrap_or(station);
    let onward = Redirect::to(&format!("/jobs/{job}/round?at={}", next.id));
    if scope.acted(job, form.id).await? {
        return Ok(if form.back.is_some() { Redirect::to(&here) } else { onward });
    }
    if let Some(id) = form.back {
        let row = page.skip(id).cloned().ok_or(Failure::NotFound)?;
        let act = Act::new(form.id, job, by, at, say!("Came back to {name}", name));
        scope.keep_skip(&act, Skip { removed: true, ..row }).await?;
        scope.commit().await?;
        return Ok(Redirect::to(&here));
    }
    let visit = page.open_visit().ok_or(Failure::VisitFinished)?;
    let typed = if form.other.trim().is_empty() { form.reason.trim() } else { form.other.trim() };
    let reason: String = typed.chars().filter(|c| !c.is_control()).take(LONGEST).collect();
    let act = Act::new(form.id, job, by, at, say!("Skipped {name}: {reason}", name, reason));
    let row = Skip {
        id: form.id,
        job_id: job,
        visit_id: visit.id,
        station_id: station.id,
        consultant_id: by,
        reason,
        skipped_at: at,
        removed: false,
    };
    scope.keep_skip(&act, row).await?;
    scope.commit().await?;
    Ok(onward)
}

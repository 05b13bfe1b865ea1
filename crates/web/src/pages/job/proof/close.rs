//! A step of the plan closed by its proof, and a missing season put on the calendar.

use super::asked::View;
use super::{find, view_of};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::pages::job::plan::undecided;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::proof::Season;
use casework::{CaseFile, InView};
use chrono::{Datelike, Days, NaiveDate, Utc};
use judgment::plan::fix;
use language::{known, say};
use serde::Deserialize;
use store::{Act, Depth, FollowUpRecord, FollowUpState, StepDecision};
use uuid::Uuid;
use wording::proof::closing;

/// What a step was closed by, characters at most.
const LONGEST: usize = 600;
/// Days into a season on which there is enough of it to compare.
const INTO: u64 = 28;

#[derive(Deserialize)]
pub struct Close {
    id: Uuid,
    #[serde(default)]
    fix: String,
    #[serde(flatten)]
    view: View,
}

/// Closes a step by what the spans say, compared anew.
pub async fn close(who: Who, Path(job): Path<Uuid>, Form(form): Form<Close>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let marks = scope.log_parts(job).await?.marks;
    let (show, now) = (who.show(), Utc::now());
    let mut found = find(&who, &scope, &file, &marks, form.view, now).await?;
    let planned = file.planned();
    let told = found
        .space
        .zip(found.compared.as_ref())
        .and_then(|((_, space), c)| closing(&show, space, c, file.job.climate, now.month0() as usize));
    let step = fix(&form.fix).and_then(|f| planned.plan.step(&f.id));
    let decided = step.and_then(|s| planned.decided(&s.fix.id)).cloned();
    let overridden = decided.as_ref().is_some_and(|d| !d.override_reason.is_empty());
    let wrong = match (&told, step) {
        (_, None) => say!("Choose the step of the plan that this proves.").to_owned(),
        (None, _) => say!("Nothing can be told yet, so nothing is closed by it.").to_owned(),
        (_, Some(s)) if !s.is_open() && !overridden => {
            say!("It is still closed: {needs}. A measurement opens it.", needs = s.needs())
        }
        _ => String::new(),
    };
    let (Some(told), Some(step), "") = (told, step, wrong.as_str()) else {
        found.wrong.push(("fix", wrong));
        let mut page = view_of(&who, &file, found, now);
        for choice in page.closing.iter_mut().flat_map(|c| &mut c.steps) {
            choice.chosen = choice.id == form.fix;
        }
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    };
    let known = step.fix;
    let row = decided.unwrap_or_else(|| undecided(who.person.consultant_id, job, &known.id, now));
    let done_on = row.done_on.or_else(|| Some(show.today(found.parted)));
    let row = StepDecision { done_on, proof: told.chars().take(LONGEST).collect(), ..row };
    let act =
        Act::new(form.id, job, who.person.consultant_id, now, say!("Closed by its proof: {name}", name = known.name));
    scope.keep_plan_step(&act, row).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/plan?step={}", known.id)).into_response())
}

/// The day a season is compared on.
pub fn due(season: Season, today: NaiveDate) -> Option<NaiveDate> {
    season.next(today)?.checked_add_days(Days::new(INTO))
}

fn what(space: Uuid, season: Season) -> String {
    format!("proof {season} {space}", season = season.id())
}

/// Whether a season stands on the calendar.
pub fn is_put(file: &CaseFile, space: Uuid, season: Season) -> bool {
    let own = what(space, season);
    file.decided.follow_ups.iter().any(|f| f.what == own && f.state == FollowUpState::Open)
}

#[derive(Deserialize)]
pub struct Schedule {
    id: Uuid,
    space: Uuid,
    season: Season,
    #[serde(default)]
    at: String,
}

/// Puts a missing season on the calendar.
pub async fn schedule(who: Who, Path(job): Path<Uuid>, Form(form): Form<Schedule>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let space = file.building.spaces.iter().find(|s| s.id == form.space).ok_or(Failure::NotFound)?;
    let now = Utc::now();
    let today = who.show().today(now);
    let at = if fix(&form.at).is_some() || form.at.parse::<Uuid>().is_ok() { form.at.as_str() } else { "" };
    let back = Redirect::to(&format!("/jobs/{job}/proof?space={}&at={at}#seasons", space.id)).into_response();
    let Some(due_on) = due(form.season, today).filter(|_| !is_put(&file, space.id, form.season)) else {
        return Ok(back);
    };
    let row = FollowUpRecord {
        id: Uuid::now_v7(),
        job_id: job,
        what: what(space.id, form.season),
        name: say!("Compare {space} in {form}", space = space.name, form = known(form.season.words())).chars().take(200).collect(),
        note: say!("Log inside and outdoors for two weeks at the same points, read the marked places again, then look at Proof.")
            .into(),
        begun_on: today,
        due_on,
        state: FollowUpState::Open,
        reason: String::new(),
        updated_by: who.person.consultant_id,
        updated_at: now,
        removed: false,
    };
    let act = Act::new(
        form.id,
        job,
        who.person.consultant_id,
        now,
        say!("Put {form} on the calendar", form = known(form.season.words())),
    );
    scope.keep_follow_ups(&act, vec![row]).await?;
    scope.commit().await?;
    Ok(back)
}

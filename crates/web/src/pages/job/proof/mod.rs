//! Proof: two spans compared at like weather, the same points on two visits, machines, pictures and seasons, so that a fix is shown to
//! have worked, or honestly not; and a step of the plan closed by it.

mod asked;
mod close;
mod shown;

pub use close::{close, schedule};

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::PROOF;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use asked::{Split, View, happened, least, proven, spans};
use axum::response::IntoResponse;
use casework::proof::{Asked, Compared, Season, compare, spaces, trouble};
use casework::{CaseFile, InView};
use chrono::{DateTime, TimeDelta, Utc};
use judgment::cautions::LOCAL_CODE;
use shown::{Shown, shown};
use store::{Depth, LogMark, Scope};
use uuid::Uuid;

/// Somewhere else to look.
struct Tab {
    href: String,
    name: String,
    here: bool,
}

/// A step of the plan that can be closed by this.
struct StepChoice {
    id: &'static str,
    name: &'static str,
    chosen: bool,
}

/// What the plan has to do with it.
struct Closing {
    steps: Vec<StepChoice>,
    /// What the chosen step is to show.
    verify: Option<&'static str>,
    /// What it was closed by already.
    closed: String,
    /// Whether anything can be told.
    told: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "proof.html")]
struct ProofPage {
    frame: Frame,
    job: JobFrame,
    spaces: Vec<Tab>,
    splits: Vec<Tab>,
    view: View,
    /// The space and what parts the spans, as forms send them on.
    space: Option<Uuid>,
    at: String,
    shown: Option<Shown>,
    closing: Option<Closing>,
    wrong: Vec<(&'static str, String)>,
    local_code: &'static str,
}

impl ProofPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    /// An id for what a form does.
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// What a view asks for, found and compared; none of it where it cannot be read.
struct Found<'a> {
    spaces: Vec<(Uuid, &'a str)>,
    space: Option<(Uuid, &'a str)>,
    splits: Vec<Split>,
    /// What parts the spans: its key and moment.
    at: String,
    parted: DateTime<Utc>,
    /// Whether the days were typed, instead of those around what happened.
    typed: bool,
    view: View,
    compared: Option<Compared>,
    wrong: Vec<(&'static str, String)>,
}

/// Usually the last thing that happened parts the spans; where nothing did, four weeks ago.
const AGO: TimeDelta = TimeDelta::days(28);

async fn find<'a>(
    who: &Who,
    scope: &Scope,
    file: &'a CaseFile,
    marks: &[LogMark],
    mut view: View,
    now: DateTime<Utc>,
) -> Result<Found<'a>, Failure> {
    let show = who.show();
    let spaces = spaces(file);
    let space = view.space.and_then(|id| spaces.iter().find(|s| s.0 == id)).or(spaces.first()).copied();
    let splits = space.map_or_else(Vec::new, |(id, _)| happened(file, marks, id, &show));
    let split = splits.iter().find(|s| s.key == view.at).or(splits.first());
    let (at, parted) = split.map_or((String::new(), now - AGO), |s| (s.key.clone(), s.at));
    let typed = view.typed();
    let (mut wrong, mut compared) = (Vec::new(), None);
    if let Some((space, _)) = space {
        let least = least(&view).map_err(|why| wrong.push(("least", why))).ok();
        if let Some((spans, least)) = spans(&mut view, &show, parted, now, &mut wrong).zip(least) {
            compared = Some(compare(scope, file, &Asked { space, spans, parted, least }).await?);
        }
    }
    Ok(Found { spaces, space, splits, at, parted, typed, view, compared, wrong })
}

/// Seasons in which a job’s trouble shows, by what was said on the call.
fn troubled(file: &CaseFile) -> Vec<Season> {
    file.call.as_ref().map_or_else(Vec::new, |c| trouble(&c.call.said))
}

fn view_of(who: &Who, file: &CaseFile, found: Found<'_>, now: DateTime<Utc>) -> ProofPage {
    let show = who.show();
    let id = file.job.id;
    let tab = |s: &(Uuid, &str)| Tab {
        href: format!("/jobs/{id}/proof?space={}", s.0),
        name: s.1.to_owned(),
        here: found.space.is_some_and(|h| h.0 == s.0),
    };
    let split = |s: &Split| Tab {
        href: format!("/jobs/{id}/proof?space={}&at={}", found.space.map_or_else(Uuid::nil, |s| s.0), s.key),
        name: s.name.clone(),
        here: !found.typed && s.key == found.at,
    };
    let made = found.space.zip(found.compared.as_ref());
    ProofPage {
        spaces: found.spaces.iter().map(tab).collect(),
        splits: found.splits.iter().map(split).collect(),
        shown: made.map(|((space, name), c)| shown(&show, file, (space, name), c, now)),
        closing: made.map(|(_, c)| closing(file, &found, c)),
        space: found.space.map(|s| s.0),
        at: found.at,
        view: found.view,
        wrong: found.wrong,
        frame: Frame::of(who, file),
        job: JobFrame::new(file, PROOF),
        local_code: LOCAL_CODE,
    }
}

fn closing(file: &CaseFile, found: &Found<'_>, compared: &Compared) -> Closing {
    let planned = file.planned();
    let own = proven(file, &found.at, found.parted);
    let steps = planned.plan.steps.iter().filter(|s| s.is_open());
    let chosen = own.and_then(|id| planned.plan.step(id));
    Closing {
        steps: steps
            .map(|s| StepChoice { id: &s.fix.id, name: &s.fix.name, chosen: Some(s.fix.id.as_str()) == own })
            .collect(),
        verify: chosen.map(|s| s.fix.verify.as_str()),
        closed: own.and_then(|id| planned.decided(id)).map(|d| d.proof.clone()).unwrap_or_default(),
        told: compared.verdict() != hygrothermal::proof::Verdict::CantTell,
    }
}

/// The page.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let scope = who.scope().await?;
    let marks = scope.log_parts(job).await?.marks;
    let now = Utc::now();
    let found = find(&who, &scope, &file, &marks, view, now).await?;
    Ok(view_of(&who, &file, found, now))
}

//! The practice's jobs, and what each waits for.

mod sought;

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::pages::job::log::alerts::raised_since;
use crate::view::Frame;
use crate::view::pages::{At, Pages};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::Redirect;
use casework::standing::look_again;
use chrono::{DateTime, NaiveDate, TimeDelta, Utc};
use drawing::DropMark;
use hygrothermal::surface::Verdict;
use language::{known_of, say};
use notation::Show;
use serde::Deserialize;
use sought::{Asked, Filters};
use std::borrow::Cow;
use store::{Act, FollowUpRecord, Listed, RESTORABLE_DAYS, Scope, TaskKind, Worst};
use uuid::Uuid;

/// Days within which something is due soon, and how much of it the docket shows.
const SOON: i64 = 14;
const SOONEST: u64 = 20;

#[derive(Template, WebTemplate)]
#[template(path = "docket.html")]
pub struct DocketPage {
    frame: Frame,
    jobs: Vec<Row>,
    filters: Filters,
    pages: Pages,
    /// Jobs the queue still looks at: what changed them changed many.
    looking: u64,
    /// What is to be looked at again within two weeks: the soonest, and how much more there is.
    due: Vec<Due>,
    more_due: u64,
    /// What logs raised: the job, its name, and what.
    raised: Vec<(Uuid, String, String)>,
    removed: Vec<Removed>,
    restorable_days: i64,
}

/// Something to be looked at again.
pub struct Due {
    pub id: Uuid,
    pub job: Uuid,
    pub job_name: String,
    pub name: String,
    pub note: String,
    pub when: String,
    pub late: bool,
    pub act_id: Uuid,
}

/// A page of what is to be looked at again until a day from now, and how much there is; of any day without one.
pub async fn due(
    who: &Who,
    scope: &Scope,
    within: Option<i64>,
    from: u64,
    most: u64,
) -> Result<(Vec<Due>, u64), Failure> {
    let today = who.show().today(chrono::Utc::now());
    let until = within.map(|days| today + chrono::TimeDelta::days(days));
    let (rows, count) = scope.open_follow_ups(until, from, most).await?;
    let jobs = scope.jobs_by_id(&rows.iter().map(|f| f.job_id).collect::<Vec<_>>()).await?;
    let row = |f: FollowUpRecord| Due {
        id: f.id,
        job: f.job_id,
        job_name: jobs.get(&f.job_id).map(|j| j.name.clone()).unwrap_or_default(),
        when: who.language().day(f.due_on),
        late: f.due_on < today,
        name: known_of(&f.name),
        note: f.note,
        act_id: Uuid::now_v7(),
    };
    Ok((rows.into_iter().map(row).collect(), count))
}

/// A job taken off the docket lately.
struct Removed {
    id: Uuid,
    name: String,
    /// The change that did it, and the id its undoing will have.
    change: Uuid,
    undo: Uuid,
}

struct Row {
    id: Uuid,
    name: String,
    address: String,
    structure: Cow<'static, str>,
    mark: DropMark,
    /// The mark’s word.
    worst: Cow<'static, str>,
    state: String,
    open: bool,
    pinned: bool,
    /// When it was put in the archive, and when it goes from there, in a sentence.
    archived: Option<String>,
    /// When it is to be looked at again, in a sentence, and whether that day is past.
    due: Option<(String, bool)>,
    /// What putting it away or back is known by.
    act: Uuid,
}

/// Home is the docket.
pub async fn home(_who: Who) -> Redirect {
    Redirect::to("/docket")
}

/// Jobs on a page of the docket.
const PER_PAGE: u64 = 50;
/// Jobs that are looked at again before the docket is shown; more of them are looked at by the queue.
const AT_ONCE: u64 = 20;

/// The docket, or what a search finds on it.
pub async fn page(who: Who, Query(asked): Query<Asked>) -> Result<DocketPage, Failure> {
    let scope = who.scope().await?;
    let (show, now) = (who.show(), chrono::Utc::now());
    let today = show.today(now);
    let looking = look_again(&scope, AT_ONCE).await?.saturating_sub(AT_ONCE);
    if looking > 0 {
        scope.ask_if_idle(TaskKind::Stand, who.person.practice_id).await?;
    }
    let at = At { page: asked.page };
    let sought = asked.sought(today);
    let (jobs, found) = scope.docket(&sought, who.person.consultant_id, at.from(PER_PAGE).1, PER_PAGE).await?;
    let people = scope.consultant_names().await?;
    let kept = if sought.archived { scope.retention().await?.archived } else { None };
    let removed = scope.removed_jobs(now - chrono::TimeDelta::days(RESTORABLE_DAYS)).await?.into_iter();
    let removed = removed.map(|(job, change)| Removed { id: job.id, name: job.name, change, undo: Uuid::now_v7() });
    let raised = scope.raised(None).await?;
    let raised = raised.into_iter().map(|r| (r.rule.job_id, r.job.clone(), raised_since(&who.show(), &r))).collect();
    let (due, all_due) = due(&who, &scope, Some(SOON), 0, SOONEST).await?;
    scope.commit().await?;
    Ok(DocketPage {
        more_due: all_due - due.len() as u64,
        due,
        raised,
        looking,
        frame: Frame::new(&who),
        jobs: jobs.into_iter().map(|job| row(&show, today, job, kept)).collect(),
        pages: Pages::new("/docket", "docket-found", at, PER_PAGE, found)
            .asked(asked.fields())
            .speaking(language::spoken()),
        filters: Filters::new(&asked, &people, language::spoken()),
        removed: removed.collect(),
        restorable_days: RESTORABLE_DAYS,
    })
}

/// A job with its worst verdict and what it waits for; `kept` is for how many days it stays in the archive.
fn row(show: &Show, today: NaiveDate, listed: Listed, kept: Option<i32>) -> Row {
    let Listed { job, visits, readings, .. } = listed;
    let (tongue, visit) = (language::spoken(), ("visit", visits.to_string().into()));
    let (state, open) = match listed.latest {
        None => (tongue.say("docket-row-no-visit"), false),
        Some((at, None)) => {
            let with = [visit, ("moment", show.moment(at).into()), ("readings", u64::from(readings).into())];
            (tongue.say_with("docket-row-open", &with), true)
        }
        Some((at, Some(_))) => (tongue.say_with("docket-row-finished", &[visit, ("day", show.day(at).into())]), false),
    };
    let due = |on: NaiveDate| {
        let said = if on < today { "docket-row-overdue" } else { "docket-row-due" };
        (tongue.say_with(said, &[("day", tongue.day(on).into())]), on < today)
    };
    let archived = |at: DateTime<Utc>| {
        let day = ("day", show.day(at).into());
        match kept {
            None => tongue.say_with("docket-row-archived", &[day]),
            Some(days) => {
                let until = show.day(at + TimeDelta::days(days.into()));
                tongue.say_with("docket-row-archived-until", &[day, ("until", until.into())])
            }
        }
    };
    Row {
        id: job.id,
        name: job.name,
        address: job.address,
        structure: tongue.word("structure", job.structure.id(), job.structure.words()),
        worst: tongue.word("worst", listed.worst.id(), listed.worst.words()),
        mark: mark(listed.worst),
        state,
        open,
        pinned: listed.pinned,
        archived: job.archived_at.map(archived),
        due: listed.due_on.map(due),
        act: Uuid::now_v7(),
    }
}

fn mark(worst: Worst) -> DropMark {
    match worst {
        Worst::Condensing => Verdict::Condensing.into(),
        Worst::CantTell => Verdict::Uncertain.into(),
        Worst::MoldRisk => Verdict::MoldRisk.into(),
        Worst::Dry => Verdict::Dry.into(),
        Worst::NotJudged => DropMark::NONE,
    }
}

#[derive(Deserialize)]
pub struct PinForm {
    #[serde(default)]
    pinned: bool,
    /// Where on the docket they were.
    #[serde(default)]
    back: String,
}

/// Puts a job on top of one's docket, or lets it go from there.
pub async fn pin(who: Who, Path(job): Path<Uuid>, Form(form): Form<PinForm>) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    scope.job(job).await?.ok_or(Failure::NotFound)?;
    scope.pin(job, who.person.consultant_id, form.pinned).await?;
    scope.commit().await?;
    Ok(back_to(&form.back))
}

#[derive(Deserialize)]
pub struct ArchiveForm {
    id: Uuid,
    #[serde(default)]
    archived: bool,
    #[serde(default)]
    back: String,
}

/// Puts a job in the archive, or back on the docket.
pub async fn archive(who: Who, Path(job): Path<Uuid>, Form(form): Form<ArchiveForm>) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    let name = scope.job(job).await?.ok_or(Failure::NotFound)?.name;
    let what = if form.archived {
        say!("Put {name} in the archive", name)
    } else {
        say!("Put {name} back on the docket", name)
    };
    let act = Act::new(form.id, job, who.person.consultant_id, chrono::Utc::now(), what);
    scope.archive_job(&act, form.archived).await?;
    scope.commit().await?;
    Ok(back_to(&form.back))
}

/// Back to the page of the docket they came from, nowhere else.
fn back_to(back: &str) -> Redirect {
    let own = back.starts_with("/docket?") && back.len() < 1000 && !back.chars().any(char::is_control);
    Redirect::to(if own { back } else { "/docket" })
}

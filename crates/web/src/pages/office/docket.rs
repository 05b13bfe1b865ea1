//! The practice's jobs, and what each waits for.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Query;
use crate::pages::job::log::alerts::raised_since;
use crate::view::Frame;
use crate::view::pages::{At, Pages};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::Redirect;
use building::Building;
use building::reading::Reading;
use drawing::DropMark;
use judgment::picture::{picture, severity};
use notation::Show;
use serde::Deserialize;
use std::collections::HashMap;
use store::{FollowUpRecord, Job, RESTORABLE_DAYS, ReadingRecord, Scope, Visit, effective};
use uuid::Uuid;

/// Days within which something is due soon, and how much of it the docket shows.
const SOON: i64 = 14;
const SOONEST: u64 = 20;

#[derive(Template, WebTemplate)]
#[template(path = "docket.html")]
pub struct DocketPage {
    frame: Frame,
    jobs: Vec<Row>,
    /// What is searched for.
    words: String,
    pages: Pages,
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
        when: notation::day(f.due_on),
        late: f.due_on < today,
        name: f.name,
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
    structure: &'static str,
    mark: DropMark,
    state: String,
    open: bool,
}

/// Home is the docket.
pub async fn home(_who: Who) -> Redirect {
    Redirect::to("/docket")
}

/// Jobs on a page of the docket.
const PER_PAGE: u64 = 50;
/// Longest search, characters.
const LONGEST_SEARCH: usize = 100;

#[derive(Deserialize, Default)]
pub struct View {
    #[serde(default)]
    words: String,
    #[serde(default)]
    page: u64,
}

/// The docket, or what a search finds on it.
pub async fn page(who: Who, Query(view): Query<View>) -> Result<DocketPage, Failure> {
    let scope = who.scope().await?;
    let words: String = view.words.trim().chars().take(LONGEST_SEARCH).collect();
    let at = At { page: view.page };
    let (jobs, found) = scope.jobs_page(&words, at.from(PER_PAGE).1, PER_PAGE).await?;
    let ids: Vec<Uuid> = jobs.iter().map(|j| j.id).collect();
    let mut visits: HashMap<Uuid, Vec<Visit>> = HashMap::new();
    for visit in scope.visits_of(&ids).await? {
        visits.entry(visit.job_id).or_default().push(visit);
    }
    let latest: Vec<Uuid> = visits.values().filter_map(|of| of.first()).map(|v| v.id).collect();
    let mut readings: HashMap<Uuid, Vec<ReadingRecord>> = HashMap::new();
    for row in scope.reading_rows(&latest).await? {
        readings.entry(row.job_id).or_default().push(row);
    }
    let buildings = scope.buildings(&ids).await?;
    let instruments = scope.instruments().await?;
    let mut out = Vec::new();
    for job in jobs {
        let own = readings.remove(&job.id).unwrap_or_default();
        let standing = effective(&own, &instruments)?;
        let visited = visits.get(&job.id).map_or(&[][..], Vec::as_slice);
        let building = buildings.get(&job.id);
        out.push(row(&who.show(), job, building, &standing, visited, own.len()));
    }
    let since = chrono::Utc::now() - chrono::TimeDelta::days(RESTORABLE_DAYS);
    let removed = scope.removed_jobs(since).await?.into_iter();
    let removed = removed.map(|(job, change)| Removed { id: job.id, name: job.name, change, undo: Uuid::now_v7() });
    let raised = scope.raised(None).await?;
    let show = who.show();
    let raised = raised.into_iter().map(|r| (r.rule.job_id, r.job.clone(), raised_since(&show, &r))).collect();
    let (due, all_due) = due(&who, &scope, Some(SOON), 0, SOONEST).await?;
    Ok(DocketPage {
        more_due: all_due - due.len() as u64,
        due,
        raised,
        frame: Frame::new(&who),
        jobs: out,
        pages: Pages::new("/docket", "jobs", &words, at, PER_PAGE, found),
        words,
        removed: removed.collect(),
        restorable_days: RESTORABLE_DAYS,
    })
}

/// A job with its worst verdict and what it waits for; `visits` has the latest first.
fn row(
    show: &Show,
    job: Job,
    building: Option<&Building>,
    standing: &[Reading],
    visits: &[Visit],
    readings: usize,
) -> Row {
    let worst = building.and_then(|building| {
        let picture = picture(building, standing);
        picture.spaces.iter().filter_map(judgment::picture::SpaceState::worst).max_by_key(|v| severity(*v))
    });
    let number = visits.len();
    let (state, open) = match visits.first() {
        None => ("No visit yet: start the first round.".to_owned(), false),
        Some(v) if v.ended_at.is_none() => {
            (format!("Visit {number} is open since {}, {readings} readings.", show.moment(v.started_at)), true)
        }
        Some(v) => (format!("Visit {number} finished on {}.", show.day(v.started_at)), false),
    };
    let mark = worst.map_or(DropMark::NONE, DropMark::from);
    Row { id: job.id, name: job.name, address: job.address, structure: job.structure.words(), mark, state, open }
}

//! The practice's jobs, and what each waits for.

use crate::auth::Who;
use crate::error::Failure;
use crate::token::Token;
use crate::view::{Frame, Mark};
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::http::Uri;
use axum::response::Redirect;
use judgement::picture::{picture, severity};
use store::{FollowUpRow, RESTORABLE_DAYS, Scope, Visit, effective};
use uuid::Uuid;

/// Days within which something is due soon.
const SOON: i64 = 14;

#[derive(Template, WebTemplate)]
#[template(path = "docket.html")]
pub struct DocketPage {
    frame: Frame,
    jobs: Vec<Row>,
    /// What is to be looked at again within two weeks.
    due: Vec<Due>,
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

/// What is to be looked at again until a day from now; all of it without one.
pub async fn due(who: &Who, scope: &Scope, within: Option<i64>) -> Result<Vec<Due>, Failure> {
    let today = who.show().today(chrono::Utc::now());
    let jobs = scope.jobs().await?;
    let until = within.map(|days| today + chrono::TimeDelta::days(days));
    let rows = scope.open_follow_ups(until).await?.into_iter();
    let row = |f: FollowUpRow| Due {
        id: f.id,
        job: f.job_id,
        job_name: jobs.iter().find(|j| j.id == f.job_id).map(|j| j.name.clone()).unwrap_or_default(),
        when: crate::view::plan::day(f.due_on),
        late: f.due_on < today,
        name: f.name,
        note: f.note,
        act_id: Uuid::now_v7(),
    };
    Ok(rows.map(row).collect())
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
    mark: Mark,
    state: String,
    open: bool,
}

/// Home is the docket.
pub async fn home(_who: Who) -> Redirect {
    Redirect::to("/docket")
}

/// The docket.
pub async fn page(who: Who, Extension(token): Extension<Token>, uri: Uri) -> Result<DocketPage, Failure> {
    let scope = who.scope().await?;
    let show = who.show();
    let jobs = scope.jobs().await?;
    let visits = scope.all_visits().await?;
    let buildings = scope.buildings(&jobs.iter().map(|j| j.id).collect::<Vec<_>>()).await?;
    let latest: Vec<&Visit> = jobs.iter().filter_map(|j| visits.iter().find(|v| v.job_id == j.id)).collect();
    let rows = scope.reading_rows(&latest.iter().map(|v| v.id).collect::<Vec<_>>()).await?;
    let instruments = scope.instruments().await?;
    let mut out = Vec::new();
    for job in jobs {
        let visit = latest.iter().find(|v| v.job_id == job.id);
        let own: Vec<_> = rows.iter().filter(|r| r.job_id == job.id).cloned().collect();
        let worst = match buildings.get(&job.id) {
            Some(building) => {
                let picture = picture(building, &effective(&own, &instruments)?);
                picture.spaces.iter().filter_map(judgement::picture::SpaceState::worst).max_by_key(|v| severity(*v))
            }
            None => None,
        };
        let number = visits.iter().filter(|v| v.job_id == job.id).count();
        let (state, open) = match visit {
            None => ("No visit yet: start the first round.".to_owned(), false),
            Some(v) if v.ended_at.is_none() => {
                (format!("Visit {number} is open since {}, {} readings.", show.moment(v.started_at), own.len()), true)
            }
            Some(v) => (format!("Visit {number} finished on {}.", show.day(v.started_at)), false),
        };
        let mark = worst.map_or(Mark::NONE, Mark::from);
        let structure = job.structure.words();
        out.push(Row { id: job.id, name: job.name, address: job.address, structure, mark, state, open });
    }
    let since = chrono::Utc::now() - chrono::TimeDelta::days(RESTORABLE_DAYS);
    let removed = scope.removed_jobs(since).await?.into_iter();
    let removed = removed.map(|(job, change)| Removed { id: job.id, name: job.name, change, undo: Uuid::now_v7() });
    Ok(DocketPage {
        due: due(&who, &scope, Some(SOON)).await?,
        frame: Frame::new(&who, &token, &uri),
        jobs: out,
        removed: removed.collect(),
        restorable_days: RESTORABLE_DAYS,
    })
}

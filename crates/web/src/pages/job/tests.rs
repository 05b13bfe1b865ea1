//! Tests on site: what to do, how long it must stand, and what its result means.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::pages::job::findings::LONGEST_NOTE;
use crate::places::TESTS;
use crate::view::conflict::between;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Building;
use building::Spot;
use casework::conflict::{Seen, Shared};
use casework::entry::moment;
use casework::{CaseFile, InView};
use chrono::{DateTime, TimeDelta, Utc};
use judgment::cautions::LOCAL_CODE;
use judgment::finding::{Test, test, tests};
use language::say;
use notation::Show;
use serde::Deserialize;
use store::{Act, Depth, Scope, TestRun};
use uuid::Uuid;
use wording::places as spot;

#[derive(Template, WebTemplate)]
#[template(path = "tests.html")]
struct TestsPage {
    frame: Frame,
    job: JobFrame,
    running: Vec<Run>,
    done: Vec<Run>,
    offered: Vec<Offer>,
    places: Vec<(String, Vec<(String, String)>)>,
    refused: Option<Refused>,
    local_code: &'static str,
}

/// The form of a run that came back, and why.
struct Refused {
    run: Uuid,
    form: ResultForm,
    why: String,
    /// What to say to keep it all the same, where another's change came between.
    keep_anyway: Option<Uuid>,
}

/// A test that can be started.
struct Offer {
    test: &'static Test,
    takes: String,
    new_id: Uuid,
    /// Why it would show nothing today.
    closed: Option<String>,
}

/// A test started or done.
pub struct Run {
    pub id: Uuid,
    pub act_id: Uuid,
    pub name: String,
    pub place: String,
    pub started: String,
    /// When it may be read, in ms since 1970, and in words; none for one that is read at once.
    pub due: Option<(i64, String)>,
    /// Whether it may be read now.
    pub ready: bool,
    pub steps: &'static [String],
    pub results: &'static [(String, String, String)],
    pub result: String,
    pub means: String,
    pub note: String,
    /// The latest change the page has seen.
    pub seen: String,
}

impl TestsPage {
    /// A form's own typing where it came back, else nothing.
    fn typed(&self, run: &Uuid) -> Option<&Refused> {
        self.refused.as_ref().filter(|r| r.run == *run)
    }
}

/// How long a test takes, in words.
fn takes(test: &Test) -> String {
    match test.hours {
        None => format!("{} min", test.minutes),
        Some([from, to]) => say!("{test} min, then {hours}", test = test.minutes, hours = hours(from, to)),
    }
}

fn hours(from: u32, to: u32) -> String {
    match (from, to) {
        (336, _) => say!("two weeks").into(),
        (24, 48) => say!("one to two days").into(),
        (a, b) if a == b => format!("{a} h"),
        (a, b) => say!("{a} to {b} h", a, b),
    }
}

/// A test as it stands.
pub fn run(show: &Show, building: &Building, row: &TestRun, now: DateTime<Utc>) -> Run {
    let known = test(&row.test);
    let place = row.spot;
    let due = known.and_then(|t| t.hours).map(|[from, _]| row.started_at + TimeDelta::hours(i64::from(from)));
    let (result, means) = row
        .result
        .as_deref()
        .and_then(|id| known?.result(id))
        .map_or_else(Default::default, |(words, means)| (words.to_owned(), means.to_owned()));
    Run {
        id: row.id,
        act_id: Uuid::now_v7(),
        name: known.map_or_else(|| row.test.clone(), |t| language::known(&t.name).to_owned()),
        place: place.name(building).to_owned(),
        started: show.moment(row.started_at),
        ready: due.is_none_or(|d| d <= now),
        due: due.map(|d| (d.timestamp_millis(), show.moment(d))),
        steps: known.map_or(&[], |t| &t.steps),
        results: known.map_or(&[], |t| &t.results),
        result,
        means,
        note: row.note.clone(),
        seen: String::new(),
    }
}

async fn view(who: &Who, scope: &Scope, job: Uuid, refused: Option<Refused>) -> Result<TestsPage, Failure> {
    let (show, now) = (who.show(), Utc::now());
    let page = who.file(job, InView::Latest, Depth::Visit).await?;
    let building = &page.building;
    let (done, running): (Vec<&TestRun>, Vec<&TestRun>) = page.tests.iter().partition(|r| r.result.is_some());
    let told = |rows: Vec<&TestRun>| rows.iter().map(|r| run(&show, building, r, now)).collect::<Vec<_>>();
    let (mut running, mut done) = (told(running), told(done));
    let latest = scope.latest_changes(job, "test_run").await?;
    for r in running.iter_mut().chain(&mut done) {
        r.seen = latest.get(&r.id).map(ToString::to_string).unwrap_or_default();
    }
    Ok(TestsPage {
        frame: Frame::of(who, &page),
        job: JobFrame::new(&page, TESTS),
        running,
        done,
        offered: tests()
            .iter()
            .map(|test| Offer { test, takes: takes(test), new_id: Uuid::now_v7(), closed: closed(&show, test, &page) })
            .collect(),
        places: spot::choices(building),
        refused,
        local_code: LOCAL_CODE,
    })
}

/// Why a test would show nothing today; `None` where it may be made.
fn closed(show: &Show, test: &Test, page: &CaseFile) -> Option<String> {
    let least = test.least_span_k?;
    let asked =
        say!("Closed: it takes {difference} and more between inside and outside", difference = show.difference(least));
    match page.picture.widest_span() {
        Some(span) if span >= least => None,
        Some(span) => Some(say!(
            "{asked}; on this visit it was {difference}. A cold or hot spell opens it.",
            asked,
            difference = show.difference(span)
        )),
        None => Some(say!("{asked}. Read indoor and outdoor air first.", asked)),
    }
}

/// Tests running, offered and done.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    Ok(view(&who, &scope, job, None).await?.into_response())
}

#[derive(Deserialize)]
pub struct StartForm {
    id: Uuid,
    test: String,
    #[serde(default)]
    place: String,
    #[serde(default)]
    at: String,
}

/// What is done to a test.
#[derive(Clone, Copy, Default, Deserialize)]
#[serde(rename_all = "snake_case")]
enum TestAct {
    /// Its result is kept.
    #[default]
    Keep,
    /// It runs again.
    Again,
    /// It was a mistake.
    Remove,
}

/// Starts a test.
pub async fn start(who: Who, Path(job): Path<Uuid>, Form(form): Form<StartForm>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let page = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    let known = test(&form.test).ok_or_else(|| Failure::BadForm("which test".into()))?;
    // What the readings forbid is refused; where they are missing, somebody on site may know better.
    if page.picture.widest_span().is_some() && closed(&who.show(), known, &page).is_some() {
        let again = view(&who, &scope, job, None).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let spot = Spot::parse(&page.building, &form.place).unwrap_or_default();
    let at = moment(&form.at, Utc::now());
    let row = TestRun {
        id: form.id,
        job_id: job,
        visit_id: page.open_visit().map(|v| v.id),
        consultant_id: who.person.consultant_id,
        test: known.id.clone(),
        spot,
        result: None,
        note: String::new(),
        started_at: at,
        ended_at: None,
        removed: false,
    };
    let act = Act::new(form.id, job, who.person.consultant_id, at, say!("Started the test: {name}", name = known.name));
    scope.keep_test(&act, row).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/tests#run-{}", form.id)).into_response())
}

#[derive(Deserialize, Clone, Default)]
pub struct ResultForm {
    id: Uuid,
    #[serde(default)]
    result: String,
    #[serde(default)]
    note: String,
    /// `keep`, `again` or `remove`.
    #[serde(default)]
    act: TestAct,
    #[serde(default)]
    at: String,
    #[serde(default)]
    seen: String,
    #[serde(default)]
    keep_anyway: String,
}

/// Records a test's result, takes it back, or takes the test away.
pub async fn keep(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<ResultForm>,
) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let page = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    if scope.acted(job, form.id).await? {
        return Ok(Redirect::to(&format!("/jobs/{job}/tests")).into_response());
    }
    let row = page.tests.iter().find(|r| r.id == id).cloned().ok_or(Failure::NotFound)?;
    let known = test(&row.test).ok_or(Failure::NotFound)?;
    let at = moment(&form.at, Utc::now());
    let length = form.note.chars().count();
    let result = known.result(&form.result);
    let problem = match form.act {
        _ if length > LONGEST_NOTE => Some(say!(
            "The note is {length} characters long; {longest_note} at most.",
            length,
            longest_note = LONGEST_NOTE
        )),
        TestAct::Again | TestAct::Remove => None,
        TestAct::Keep if result.is_none() => Some(say!("Choose what it showed.").to_owned()),
        TestAct::Keep => None,
    };
    if let Some(problem) = problem {
        let refused = Refused { run: id, form, why: problem, keep_anyway: None };
        let again = view(&who, &scope, job, Some(refused)).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let asked = Seen { change: &form.seen, overwrite: &form.keep_anyway };
    if let Some(conflict) = between(&who, &scope, job, (Shared::TestRun, id), asked).await? {
        let refused = Refused { run: id, form, why: conflict.said, keep_anyway: Some(conflict.keep_anyway) };
        let again = view(&who, &scope, job, Some(refused)).await?;
        return Ok((StatusCode::CONFLICT, again).into_response());
    }
    let note = form.note.trim().to_owned();
    let (what, row) = match form.act {
        TestAct::Again => (say!("Opened the test again"), TestRun { result: None, ended_at: None, ..row }),
        TestAct::Remove => (say!("Removed the test"), TestRun { removed: true, ..row }),
        TestAct::Keep => {
            (say!("Result of the test"), TestRun { result: Some(form.result), note, ended_at: Some(at), ..row })
        }
    };
    let told = result.filter(|_| row.ended_at == Some(at)).map(|(words, _)| format!(": {words}")).unwrap_or_default();
    let act = Act::new(form.id, job, who.person.consultant_id, at, format!("{what}: {}{told}", known.name));
    scope.keep_test(&act, row).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/tests")).into_response())
}

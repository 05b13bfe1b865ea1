//! A report as it reads: its first page, the parts it was put together of, and what stands in every one.

use super::rows::{Built, InstrumentRow, Room, built, facts, instruments, rooms, unread};
use crate::auth::Who;
use crate::error::Failure;
use crate::filters;
use crate::pages::job::drying::sight::{Sight, of as dried};
use crate::pages::job::findings::{self, Found, weighed};
use crate::pages::job::log::reported::{ReportedLog, reported as logged};
use crate::pages::job::section::{WorstRow, all_advice, worst_first};
use crate::pages::job::tests::{self, Run};
use crate::pages::job::thermal::{Reported, reported};
use crate::pages::job::unfolded::{Mapsheet, mapsheets};
use crate::pages::job::why;
use crate::places::REPORT;
use crate::view::{Frame, JobFrame};
use askama::Template;
use building::report::{Detail, ReportDraft, ReportItem, ReportPart};
use casework::CaseFile;
use casework::evidence::during;
use chrono::{DateTime, Utc};
use drawing::section::{Drawing, draw};
use judgment::cautions::LOCAL_CODE;
use language::{heard, say};
use notation::{Show, Units};
use store::{Scope, TestRun, Thermal, Visit};
use wording::advice::SpaceLines;
use wording::argument::Argument;
use wording::page_one::PageOne;
use wording::part::part;
use wording::picture::{Shown, shown};
use wording::plan::PlanReport;
use wording::report::{CERTAINTY, Fact, LIMITS, changes, facts as facts_of};

/// Thermal pictures in a report, at most, and their breadth, px.
const PICTURES: usize = 8;
const BREADTH: f64 = 380.0;

/// Something in the order of a report.
enum Item {
    Part(ReportPart),
    Text { heading: String, paragraphs: Vec<String> },
}

#[derive(Template)]
#[template(path = "report/body.html")]
pub(super) struct ReportBody {
    pub(super) frame: Frame,
    job: JobFrame,
    title: String,
    made: String,
    logo: Option<String>,
    changes: Vec<String>,
    since: String,
    items: Vec<Item>,
    plain: bool,
    full: bool,
    facts: Vec<(&'static str, String)>,
    drawing: Option<Drawing>,
    /// Address of the section's places, ready for `at=`.
    base: String,
    worst: Vec<WorstRow>,
    rooms: Vec<Room>,
    /// Stations not read, each with the reason where one was given.
    unread: Vec<String>,
    found: Vec<Found>,
    maps: Vec<Mapsheet>,
    thermals: Vec<Reported>,
    built: Vec<Built>,
    photos: Vec<Shown>,
    tested: Vec<Run>,
    logged: Vec<ReportedLog>,
    drying: Option<Sight>,
    /// Steps that are done, when, and what showed that they worked.
    done: Vec<(&'static str, String, String)>,
    /// What is said of a step nothing shows yet.
    to_show: &'static str,
    advice: Vec<SpaceLines>,
    cautions: Vec<&'static str>,
    instruments: Vec<InstrumentRow>,
    /// What wets the building, and what the consultant concludes.
    argument: Argument,
    own: Vec<(String, String)>,
    places: Vec<why::PlaceTold>,
    /// What to do about it, as it stands now.
    plan: PlanReport,
    one: PageOne,
    as_of: String,
    certainty: [(&'static str, &'static str); 7],
    limits: [&'static str; 3],
    local_code: &'static str,
}

/// What a report is told apart by.
pub(super) struct Heading {
    /// Under the job's name.
    pub title: String,
    /// By whom and when, or that it is a draft.
    pub made: String,
    /// The version before it: what it is called, and what it said.
    pub before: Option<(String, Vec<Fact>)>,
}

/// Everything that is read for a report, in one turn.
pub(super) struct Loaded {
    cells: Vec<(Thermal, Vec<Vec<Option<f64>>>)>,
    has_logo: bool,
}

impl Loaded {
    /// What a report of this visit shows beside the job’s file.
    pub async fn of(scope: &Scope, page: &CaseFile, draft: &ReportDraft) -> Result<Self, Failure> {
        let until = until(page);
        let taken_by_then = page.thermals.iter().filter(|t| until.is_none_or(|u| t.taken_at <= u));
        let latest: Vec<Thermal> = taken_by_then.rev().take(PICTURES).cloned().collect();
        let shown = draft.shows(ReportPart::Thermal) && !latest.is_empty();
        let cells = if shown { scope.thermal_cells_of(&latest).await? } else { Vec::new() };
        Ok(Self { cells, has_logo: page.reports.has_logo })
    }
}

/// Until when what was done counts: the latest report holds what was done since its visit, an earlier one what was known by its end.
fn until(page: &CaseFile) -> Option<DateTime<Utc>> {
    let visit = page.visit.as_ref()?;
    visit.ended_at.filter(|_| page.visits.first().is_some_and(|v| v.id != visit.id))
}

fn item(item: &ReportItem) -> Option<Item> {
    match item {
        ReportItem::Part { part, shown } => shown.then_some(Item::Part(*part)),
        ReportItem::Text { heading, text } => {
            let paragraphs = text.replace("\r\n", "\n");
            let paragraphs = paragraphs.split("\n\n").map(str::trim).filter(|p| !p.is_empty()).map(str::to_owned);
            Some(Item::Text { heading: heading.clone(), paragraphs: paragraphs.collect() })
        }
    }
}

/// How a person is shown the figures of a report.
pub(super) fn show_of(who: &Who, draft: &ReportDraft) -> Show {
    let units = draft.us_units.map_or(who.units(), |us| if us { Units::Us } else { Units::Metric });
    Show::new(units, &who.person.time_zone)
}

impl ReportBody {
    /// The report of the visit in view, in its own language.
    pub async fn of(
        who: &Who,
        page: &CaseFile,
        visit: &Visit,
        draft: &ReportDraft,
        heading: Heading,
        loaded: Loaded,
    ) -> Result<Self, Failure> {
        heard(draft.language, async {
            let (show, now) = (show_of(who, draft), Utc::now());
            let begun = |r: &TestRun| visit.ended_at.is_none_or(|end| r.started_at <= end);
            let causes = why::of_visit(&show, page);
            let advice = all_advice(&show, page);
            let plan = planned(&show, page);
            let one = PageOne::of(&causes.argument, &causes.own, &plan);
            let worst = worst_first(&show, page);
            let thermals = reported(&show, page, loaded.cells, BREADTH).await?;
            let mut cautions: Vec<&'static str> = Vec::new();
            let told = advice.iter().flat_map(|a| &a.cautions).map(|c| c.text.as_str());
            for text in causes.argument.flags.iter().copied().chain(told).chain(plan.cautions.iter().copied()) {
                if !cautions.contains(&text) {
                    cautions.push(text);
                }
            }
            let by = page.people.get(&visit.consultant_id).cloned().unwrap_or_default();
            let findings = weighed(during(&page.findings, Some(visit)));
            let (before, since) = heading.before.map_or((Vec::new(), String::new()), |(name, f)| (f, name));
            let now_said = facts_of(&one, &plan, surfaces(&worst));
            let job = page.job.id;
            Ok(Self {
                frame: Frame { units: show.units, language: draft.language, ..Frame::of(who, page) },
                job: JobFrame::new(page, REPORT),
                title: heading.title,
                made: heading.made,
                logo: loaded.has_logo.then(|| "/practice/logo".to_owned()),
                changes: if since.is_empty() { Vec::new() } else { changes(&before, &now_said) },
                since,
                items: draft.items.iter().filter_map(item).collect(),
                plain: draft.detail == Detail::Plain,
                full: draft.detail == Detail::Full,
                facts: facts(&show, page, visit, &by, &practice(who, page)),
                drawing: part(|| draw(&show, &page.building, page.job.structure.shell(), &page.picture, None)),
                base: format!("/jobs/{job}?visit={}&", visit.id),
                rooms: rooms(&show, page),
                unread: unread(page),
                maps: mapsheets(&show, page, until(page)),
                thermals,
                built: built(&show, page),
                found: findings.iter().map(|f| findings::found(&show, &page.building, f, &page.photos)).collect(),
                photos: page
                    .photos
                    .iter()
                    .filter(|p| p.visit_id == Some(visit.id))
                    .map(|p| shown(&show, &page.building, &page.findings, p))
                    .collect(),
                tested: page
                    .tests
                    .iter()
                    .filter(|r| begun(r))
                    .map(|r| tests::run(&show, &page.building, r, now))
                    .collect(),
                logged: if draft.shows(ReportPart::Log) { logged(&show, page) } else { Vec::new() },
                drying: (draft.shows(ReportPart::Drying) && page.drying.event.is_some())
                    .then(|| dried(&show, page, &[], &page.certificates, now)),
                done: plan
                    .steps
                    .iter()
                    .filter_map(|s| Some((s.detail.name, s.detail.done.clone()?, s.detail.proof.clone())))
                    .collect(),
                to_show: say!("the same points have to be read again, or its log be compared."),
                cautions,
                advice,
                instruments: instruments(&show, page),
                argument: causes.argument,
                places: causes.places,
                own: causes.own,
                worst,
                one,
                plan,
                as_of: show.day(now),
                certainty: CERTAINTY,
                limits: LIMITS,
                local_code: LOCAL_CODE,
            })
        })
        .await
    }

    /// What it says, by which the next one tells what changed.
    pub fn says(&self) -> Vec<Fact> {
        facts_of(&self.one, &self.plan, surfaces(&self.worst))
    }
}

fn surfaces(worst: &[WorstRow]) -> impl Iterator<Item = (String, String)> {
    worst.iter().map(|r| (format!("{}, {}", r.name, r.space), r.mark.word.to_owned()))
}

/// The practice as it stands in a report.
pub(super) fn practice(who: &Who, page: &CaseFile) -> String {
    let lines = page.practice_address.lines().map(str::trim).filter(|l| !l.is_empty());
    std::iter::once(who.person.practice_name.as_str()).chain(lines).collect::<Vec<_>>().join(", ")
}

fn planned(show: &Show, page: &CaseFile) -> PlanReport {
    let chose = |q: &str| {
        let row = page.decided.schools.iter().find(|s| s.question == q)?;
        Some((page.people.get(&row.updated_by).cloned().unwrap_or_default(), row.reason.clone()))
    };
    PlanReport::of(show, page.planned(), chose)
}

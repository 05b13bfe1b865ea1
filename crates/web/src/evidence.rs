//! What is known of a job, gathered for judging its causes: findings, results of tests, the call, and facts computed from
//! the readings of a visit, each with where it came from.

use crate::job_page::JobPage;
use building::Place;
use building::Spot;
use building::call::Call;
use judgment::cause::{Case, Fact, capacity, course, facts};
use judgment::finding::finding;
use notation::Show;
use std::collections::BTreeMap;
use store::{FindingRecord, TestRun, Visit};
use uuid::Uuid;

/// What is known, and where each piece came from.
pub struct Gathered {
    pub case: Case,
    /// By id of the evidence.
    pub sources: BTreeMap<String, Vec<Source>>,
}

/// Where a piece of evidence came from.
pub struct Source {
    /// What was seen, with its figure.
    pub words: String,
    pub place: String,
    pub href: String,
}

/// Of when something is to be known.
#[derive(Clone, Copy, PartialEq, Eq)]
pub enum AsOf {
    /// As it was on the visit in view.
    Visit,
    /// As it is now: what was mended since is mended.
    Now,
}

/// Gathers what is known with the readings of the visit in view: about one space and what concerns the whole building, or
/// about all of it.
pub fn gather(
    show: &Show,
    page: &JobPage,
    (call, tests): (&Call, &[TestRun]),
    space: Option<Uuid>,
    as_of: AsOf,
) -> Gathered {
    let visit = page.visit.as_ref().filter(|_| as_of == AsOf::Visit);
    let place = space.and_then(|id| page.building.space(id)).map(|s| s.kind);
    let structure = place.map_or(page.job.structure, |kind| page.job.structure.around(kind));
    let mut out = Gathered { case: Case::new(structure), sources: BTreeMap::new() };
    let here = |spot: Spot| space.is_none() || spot == Spot::Whole || spot.space_in(&page.building) == space;
    for row in during(page.findings.clone(), visit).iter().filter(|r| here(r.spot)) {
        out.found(page, row);
    }
    for row in not_there(page, visit).filter(|r| here(r.spot)) {
        out.not_there(page, row);
    }
    let end = visit.and_then(|v| v.ended_at);
    let read = |r: &&TestRun| r.ended_at.is_some_and(|at| end.is_none_or(|end| at <= end));
    // Oldest first: of a test made again the later result is how things stand.
    for run in tests.iter().rev().filter(read) {
        let spot = run.spot;
        if let Some(result) = run.result.as_deref().filter(|_| here(spot)) {
            let own = format!("/jobs/{}/tests#run-{}", page.job.id, run.id);
            let href = on_section(page, spot, own);
            out.said(&run.test, result, String::new(), spot.name(&page.building).to_owned(), href);
        }
    }
    let sheet = format!("/jobs/{}/call", page.job.id);
    // Of what was said, the table knows only when the trouble shows.
    for when in &call.said {
        out.said("trouble_when", when, String::new(), "on the call".into(), sheet.clone());
    }
    if let Some(people) = call.occupants {
        out.figure("occupants", f64::from(people), people.to_string(), "on the call".into(), sheet);
    }
    out.said("climate", page.job.climate.id(), String::new(), String::new(), format!("/jobs/{}/edit", page.job.id));
    out.computed(show, page, space);
    out
}

impl Gathered {
    /// Whether anything is known beside where it stands and what season it is.
    pub fn of_the_building(&self) -> bool {
        self.sources.keys().any(|id| !["climate", "season"].contains(&id.as_str()))
    }

    fn source(&mut self, id: &str, words: String, place: String, href: String) {
        self.sources.entry(id.to_owned()).or_default().push(Source { words, place, href });
    }

    fn found(&mut self, page: &JobPage, row: &FindingRecord) {
        let figured = finding(&row.what).is_some_and(|f| f.unit.is_some());
        let taken = match row.value.filter(|_| figured) {
            Some(figure) => self.case.figure(&row.what, figure),
            // A finding whose figure nobody noted says nothing.
            None if figured => return,
            None => self.case.finding(&row.what, true),
        };
        if taken.is_ok() {
            let words = row.value.map(|v| v.to_string()).unwrap_or_default();
            let own = format!("/jobs/{}/findings?at={}", page.job.id, row.id);
            let spot = row.spot;
            self.source(&row.what, words, spot.name(&page.building).to_owned(), on_section(page, spot, own));
        }
    }

    fn not_there(&mut self, page: &JobPage, row: &FindingRecord) {
        if self.case.has(&row.what) || self.case.finding(&row.what, false).is_err() {
            return;
        }
        let own = format!("/jobs/{}/findings?at={}", page.job.id, row.id);
        let spot = row.spot;
        self.source(&row.what, String::new(), spot.name(&page.building).to_owned(), on_section(page, spot, own));
    }

    fn said(&mut self, id: &str, word: &str, words: String, place: String, href: String) {
        if self.case.word(id, word).is_ok() {
            self.source(id, words, place, href);
        }
    }

    fn figure(&mut self, id: &str, figure: f64, words: String, place: String, href: String) {
        if self.case.figure(id, figure).is_ok() {
            self.source(id, words, place, href);
        }
    }

    fn computed(&mut self, show: &Show, page: &JobPage, space: Option<Uuid>) {
        let mut known = facts(&page.building, &page.picture, &page.standing, space);
        let end = page.visit.as_ref().and_then(|v| v.ended_at).unwrap_or_else(chrono::Utc::now);
        known.extend(course(&page.building, &page.ever, end.timestamp_millis(), space));
        let liters = known.iter().find(|f| f.id == "dehumidifier_l_day").map(|f| f.at);
        known.extend(liters.and_then(|at| machine(page, at)));
        self.case.add_facts(&known);
        for fact in known.iter().filter(|f| BY_HYGROMETER.contains(&f.id) && !page.air_is_checked(f.at)) {
            self.case.distrust(fact.id);
        }
        let figure = |id: &str| known.iter().find(|f| f.id == id).map(|f| f.figure);
        for fact in &known {
            let place = page.building.place_name(fact.at).to_owned();
            let at = match fact.at {
                Place::Outdoors => Uuid::nil(),
                Place::Space(id) | Place::Surface(id) => id,
            };
            let mut id = fact.id;
            let words = match fact.id {
                "dehumidifier_capacity_l_day" => continue,
                "dehumidifier_l_day" => match figure("dehumidifier_capacity_l_day") {
                    Some(most) => {
                        id = "dehumidifier_share";
                        format!("{} of {}", show.water_per_day(fact.figure), show.water_per_day(most))
                    }
                    None => show.water_per_day(fact.figure),
                },
                "masonry_rel" => match self.case.figure_of("masonry_rel_dry") {
                    Some(dry) => format!("{} against {dry}", fact.figure),
                    None => continue,
                },
                "outdoor_dew_c" => match figure("air_dew_c") {
                    Some(inside) => format!("{} against {}", show.temperature(fact.figure), show.temperature(inside)),
                    None => continue,
                },
                _ => told(show, fact),
            };
            self.source(id, words, place, section_at(page, at));
        }
        if let Some(out) = &page.picture.outdoor {
            let href = section_at(page, Uuid::nil());
            let t = out.value.t.get();
            if self.case.outdoors(t).is_ok() {
                self.source("season", format!("outdoors {}", show.temperature(t)), "Outdoor air".into(), href);
            }
        }
    }
}

/// Figures that rest on a hygrometer: gates trust them only where its check holds.
const BY_HYGROMETER: [&str; 4] = ["worst_margin_c", "surface_rh_pct", "air_rh_pct", "air_dew_c"];

/// What the dehumidifier whose liters were read at a place can take out in the air it stands in.
fn machine(page: &JobPage, at: Place) -> Option<Fact> {
    let space = page.building.space_of(at)?.id;
    let air = page.picture.space(space)?.air.as_ref()?;
    let figure = capacity(page.label_in(space)?, &air.value)?;
    Some(Fact { id: "dehumidifier_capacity_l_day", figure, at })
}

/// Findings that were there on a visit; all that are there now without one.
pub fn during(rows: Vec<FindingRecord>, visit: Option<&Visit>) -> Vec<FindingRecord> {
    let there = |r: &FindingRecord| match visit {
        None => r.gone_at.is_none(),
        Some(v) => {
            v.ended_at.is_none_or(|end| r.visit_id == Some(v.id) || r.found_at <= end)
                && r.gone_at.is_none_or(|gone| gone >= v.started_at)
        }
    };
    rows.into_iter().filter(there).collect()
}

/// Findings known not to be there on a visit, or now: looked for, or there once and gone since.
fn not_there<'a>(page: &'a JobPage, visit: Option<&Visit>) -> impl Iterator<Item = &'a FindingRecord> {
    let end = visit.and_then(|v| v.ended_at);
    let start = visit.map(|v| v.started_at);
    let looked = page.absent.iter().filter(move |r| end.is_none_or(|end| r.found_at <= end));
    let gone = page.findings.iter().filter(move |r| r.gone_at.is_some_and(|at| start.is_none_or(|start| at < start)));
    looked.chain(gone)
}

/// Address of a place on the section of the visit in view.
fn section_at(page: &JobPage, at: Uuid) -> String {
    let visit = page.visit.as_ref().map(|v| format!("visit={}&", v.id)).unwrap_or_default();
    format!("/jobs/{}?{visit}at={at}", page.job.id)
}

/// A place on the section; what has none, or one since removed, leads to its own page.
fn on_section(page: &JobPage, spot: Spot, own: String) -> String {
    match spot.id() {
        Some(id) if spot.space_in(&page.building).is_some() => section_at(page, id),
        _ => own,
    }
}

fn told(show: &Show, fact: &Fact) -> String {
    match fact.id {
        "worst_margin_c" => show.difference(fact.figure),
        "hours_below_dew" => format!("{:.0} h in two weeks", fact.figure),
        "rain_correlation" => format!("r {:.2}", fact.figure).replace('-', "−"),
        _ => show.percent(fact.figure),
    }
}

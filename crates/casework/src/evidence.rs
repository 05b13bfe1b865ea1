//! What is known of a job, gathered for judging its causes: findings, results of tests, the call, and facts computed from
//! the readings of a visit, each with where it came from.

use crate::file::CaseFile;
use crate::log::TimeSays;
use crate::special::boundaries;
use building::construction::{Substance, Variant};
use building::reading::Observed;
use building::{Boundary, Place, Spot};
use chrono::{DateTime, Utc};
use judgment::cause::{Case, Fact, PAST_SATURATION, capacity, course, facts};
use judgment::climate::year;
use judgment::construction::{Answer, Outdoors, around, quick};
use judgment::finding::finding;
use judgment::hours::{MoistureClass, TwoWeeks};
use judgment::map::Showed;
use judgment::special::{Given, Where, reply, special};
use std::collections::BTreeMap;
use store::{FindingRecord, Visit};
use uuid::Uuid;

/// What is known, and where each piece came from.
#[derive(Clone)]
pub struct Gathered {
    /// What the diagnosis and the plan are asked with.
    pub case: Case,
    /// By id of the evidence.
    pub sources: BTreeMap<String, Vec<Source>>,
}

/// A piece of evidence: what was seen, and where it came from.
#[derive(Debug, Clone, PartialEq)]
pub struct Source {
    /// What it amounts to.
    pub amount: Amount,
    /// Where it came from.
    pub from: Origin,
}

/// What a piece of evidence amounts to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Amount {
    /// It is there, or not.
    None,
    /// A figure noted with it, in its own unit.
    Figure(f64),
    /// A fact computed from readings.
    Fact(Fact),
    /// Liters a day collected, of what the machine could collect in this air.
    Collected(f64, Option<f64>),
    /// A relative scale against what the same material shows where it is dry.
    AgainstDry(f64, f64),
    /// The dew point outdoors against that inside, °C.
    DewAgainst(f64, f64),
    /// The temperature outdoors, °C.
    Outdoors(f64),
    /// Which way moisture went over the hours of a log.
    Hours(TwoWeeks),
}

/// Where a piece of evidence came from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Origin {
    /// A finding, and its place if that is still there.
    Finding(Uuid, Option<Spot>),
    /// A test, and its place if that is still there.
    Test(Uuid, Option<Spot>),
    /// The call.
    Call,
    /// The job itself: its climate.
    Job,
    /// What was read at a place.
    Read(Place),
    /// What was logged at a place.
    Logged(Place),
    /// How a boundary is built.
    Built(Uuid),
    /// A thermal picture, and the place it shows.
    Pictured(Uuid, Option<Spot>),
    /// A moisture map of a space.
    Mapped(Uuid, Uuid),
    /// A drying point.
    Dried(Uuid),
}

/// Of when something is to be known.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AsOf {
    /// As it was on the visit in view.
    Visit,
    /// As it is now: what was mended since is mended.
    Now,
}

/// Gathers what is known with the readings of the visit in view: about one space and what concerns the whole building, or
/// about all of it. While the visit is open the course of readings ends when the file was read.
#[must_use]
pub fn gather(file: &CaseFile, space: Option<Uuid>, as_of: AsOf) -> Gathered {
    let visit = file.visit.as_ref().filter(|_| as_of == AsOf::Visit);
    let place = space.and_then(|id| file.building.space(id)).map(|s| s.kind);
    let structure = place.map_or(file.job.structure, |kind| file.job.structure.around(kind));
    let mut out = Gathered { case: Case::new(structure), sources: BTreeMap::new() };
    let here = |spot: Spot| spot.concerns(&file.building, space);
    let there = |spot: Spot| (spot == Spot::Whole || spot.space_in(&file.building).is_some()).then_some(spot);
    for record in during(&file.findings, visit).filter(|r| here(r.spot)) {
        out.found(record, there(record.spot));
    }
    for record in not_there(file, visit).filter(|r| here(r.spot)) {
        out.not_there(record, there(record.spot));
    }
    let end = visit.and_then(|v| v.ended_at);
    // Oldest first: of a test made again the later result is how things stand.
    for run in file.tests.iter().rev() {
        let read = run.ended_at.is_some_and(|at| end.is_none_or(|end| at <= end));
        if let Some(result) = run.result.as_deref().filter(|_| read && here(run.spot)) {
            out.said(&run.test, result, Origin::Test(run.id, there(run.spot)));
        }
    }
    if let Some(call) = file.call.as_ref().map(|s| &s.call) {
        // Of what was said, the table knows only when the trouble shows.
        for when in &call.said {
            out.said("trouble_when", when, Origin::Call);
        }
        if let Some(people) = call.occupants.map(f64::from)
            && out.case.figure("occupants", people).is_ok()
        {
            out.source("occupants", Amount::Figure(people), Origin::Call);
        }
    }
    out.said("climate", file.job.climate.id(), Origin::Job);
    if let Some((boundary, answer)) = worst_built(file, space) {
        out.said("build_up", answer.id(), Origin::Built(boundary));
    }
    if let Some((boundary, outcome)) = old_wall(file, space) {
        out.said("fill_wall", outcome, Origin::Built(boundary));
    }
    // Of several pictures the latest settled one of those here says how things stand.
    let settled = file.thermals.iter().filter(|t| !t.settled.is_empty() && here(t.spot));
    for picture in settled.filter(|t| end.is_none_or(|end| t.taken_at <= end)) {
        out.said("thermal_patch", &picture.settled, Origin::Pictured(picture.id, there(picture.spot)));
    }
    out.mapped(file, space, end);
    out.computed(file, space);
    out
}

/// Whether the first old empty wall of a space, or of the building, may be filled, with what is usual.
fn old_wall(file: &CaseFile, space: Option<Uuid>) -> Option<(Uuid, &'static str)> {
    let asked = special("fill_wall")?;
    let all = boundaries(file, asked);
    let is_empty = |v: &Variant| v.courses.iter().any(|c| c.of == Substance::ClosedGap);
    // Only what somebody said stands there, and only where it stands empty.
    let stands = |b: &Boundary| file.building.variants.iter().find(|v| v.boundary_id == b.id);
    let own = |(b, v): &&(&Boundary, Variant)| {
        space.is_none_or(|s| b.touches(s)) && is_empty(v) && stands(b).is_some_and(|s| s.id == v.id)
    };
    let (boundary, variant) = all.iter().find(own)?;
    let given = Given {
        figures: asked.field.iter().map(|f| (f.id.clone(), f.usual)).collect(),
        words: asked.choice.iter().map(|c| (c.id.clone(), c.usual.clone())).collect(),
    };
    let outdoors = Outdoors::of(year(file.job.climate));
    let of = Some((*boundary, variant));
    let at = Where { building: &file.building, outdoors: &outdoors, class: MoistureClass::Ordinary, of };
    let outcome = reply("fill_wall", &given, at)?.outcome;
    ["leave_empty", "fill"].contains(&outcome).then_some((boundary.id, outcome))
}

impl Gathered {
    /// Whether anything is known beside where it stands and what season it is.
    #[must_use]
    pub fn of_the_building(&self) -> bool {
        self.sources.keys().any(|id| !["climate", "season"].contains(&id.as_str()))
    }

    fn source(&mut self, id: &str, amount: Amount, from: Origin) {
        self.sources.entry(id.to_owned()).or_default().push(Source { amount, from });
    }

    fn found(&mut self, record: &FindingRecord, spot: Option<Spot>) {
        let figured = finding(&record.what).is_some_and(|f| f.unit.is_some());
        let taken = match record.value.filter(|_| figured) {
            Some(figure) => self.case.figure(&record.what, figure),
            // A finding whose figure nobody noted says nothing.
            None if figured => return,
            None => self.case.finding(&record.what, true),
        };
        if taken.is_ok() {
            let amount = record.value.map_or(Amount::None, Amount::Figure);
            self.source(&record.what, amount, Origin::Finding(record.id, spot));
        }
    }

    fn not_there(&mut self, record: &FindingRecord, spot: Option<Spot>) {
        if !self.case.has(&record.what) && self.case.finding(&record.what, false).is_ok() {
            self.source(&record.what, Amount::None, Origin::Finding(record.id, spot));
        }
    }

    fn said(&mut self, id: &str, word: &str, from: Origin) {
        if self.case.word(id, word).is_ok() {
            self.source(id, Amount::None, from);
        }
    }

    /// What moisture maps walked by then amount to, where nobody noted the same.
    fn mapped(&mut self, file: &CaseFile, space: Option<Uuid>, end: Option<DateTime<Utc>>) {
        let by_then = file.mapped.iter().filter(|m| end.is_none_or(|end| m.at <= end));
        for m in by_then.filter(|m| space.is_none_or(|s| m.space == s)) {
            let from = Origin::Mapped(m.space, m.map);
            let id = match m.wet {
                Some(true) => "patch_wet_on_meter",
                Some(false) => "patch_dry_on_meter",
                None => "",
            };
            if !id.is_empty() && !self.case.has(id) && self.case.finding(id, true).is_ok() {
                self.source(id, Amount::None, from);
            }
            if let Some(rising) = m.rising.filter(|_| !self.case.knows("meter_profile")) {
                self.said("meter_profile", rising.id(), from);
            }
        }
    }

    fn computed(&mut self, file: &CaseFile, space: Option<Uuid>) {
        let mut known = facts(&file.building, &file.picture, &file.standing, space);
        let end = file.visit.as_ref().and_then(|v| v.ended_at).unwrap_or(file.read_at);
        known.extend(course(&file.building, &file.ever, end.timestamp_millis(), space));
        let liters = known.iter().find(|f| f.id == "dehumidifier_l_day").map(|f| f.at);
        known.extend(liters.and_then(|at| machine(file, at)));
        let logged = said_by_log(file, space);
        let hours = logged.as_ref().map(of_hours).unwrap_or_default();
        // What stood for two weeks says more than what was read in a moment.
        known.retain(|f| hours.iter().all(|h| h.id != f.id || STAYS.contains(&f.id)));
        known.extend(hours.iter().filter(|h| known.iter().all(|f| f.id != h.id)).copied().collect::<Vec<_>>());
        let dried = wettest_wood(file, space);
        if let Some((fact, _)) = dried {
            known.retain(|f| f.id != fact.id);
            known.push(fact);
        }
        self.case.add_facts(&known);
        let is_logged = |f: &Fact| hours.contains(f);
        for fact in known.iter().filter(|f| BY_HYGROMETER.contains(&f.id)) {
            let checked =
                if is_logged(fact) { file.loggers_are_checked(fact.at) } else { file.air_is_checked(fact.at) };
            if !checked {
                self.case.distrust(fact.id);
            }
        }
        self.two_weeks(logged.as_ref());
        let figure = |id: &str| known.iter().find(|f| f.id == id).map(|f| f.figure);
        for fact in &known {
            let (id, amount) = match fact.id {
                "dehumidifier_capacity_l_day" => continue,
                "dehumidifier_l_day" => {
                    let most = figure("dehumidifier_capacity_l_day");
                    let id = if most.is_some() { "dehumidifier_share" } else { fact.id };
                    (id, Amount::Collected(fact.figure, most))
                }
                "masonry_rel" => match self.case.figure_of("masonry_rel_dry") {
                    Some(dry) => (fact.id, Amount::AgainstDry(fact.figure, dry)),
                    None => continue,
                },
                "outdoor_dew_c" => match figure("air_dew_c") {
                    Some(inside) => (fact.id, Amount::DewAgainst(fact.figure, inside)),
                    None => continue,
                },
                id => (id, Amount::Fact(*fact)),
            };
            let from = match dried {
                Some((wood, point)) if wood.id == fact.id => Origin::Dried(point),
                _ if is_logged(fact) => Origin::Logged(fact.at),
                _ => Origin::Read(fact.at),
            };
            self.source(id, amount, from);
        }
        if let Some(t) = file.picture.outdoor.as_ref().map(|out| out.value.t.get())
            && self.case.outdoors(t).is_ok()
        {
            self.source("season", Amount::Outdoors(t), Origin::Read(Place::Outdoors));
        }
    }
}

impl Gathered {
    /// Which way moisture goes, by the log where nobody typed in the result of that test.
    fn two_weeks(&mut self, logged: Option<&TimeSays>) {
        let Some((says, went)) = logged.and_then(|l| Some((l, l.two_weeks?))) else { return };
        if !self.case.knows("two_week_log") && self.case.word("two_week_log", went.result()).is_ok() {
            self.source("two_week_log", Amount::Hours(went), Origin::Logged(Place::Space(says.space)));
        }
    }
}

/// The wettest wood that is dried, as it was last read, and its point; none where a later visit read wood again, or the one in view ended
/// before.
fn wettest_wood(file: &CaseFile, space: Option<Uuid>) -> Option<(Fact, Uuid)> {
    let figure = |showed: Showed| match showed {
        Showed::Figure(x) => Some(x),
        Showed::Over => Some(PAST_SATURATION),
        Showed::Unread => None,
    };
    let end = file.visit.as_ref().and_then(|v| v.ended_at).map_or(i64::MAX, |at| at.timestamp_millis());
    let wood = file.standing.iter().filter(|r| matches!(r.observed, Observed::Wood(_))).map(|r| r.taken_ms).max();
    let own = file.dried().points.iter().filter(|p| p.material.wood && space.is_none_or(|s| p.point.space_id == s));
    let read = own.filter_map(|p| {
        let last = p.said.latest.filter(|r| r.at <= end && wood.is_none_or(|w| r.at > w))?;
        Some((figure(last.showed)?, p))
    });
    let (figure, p) = read.max_by(|a, b| a.0.total_cmp(&b.0))?;
    Some((Fact { id: "wood_mc_pct", figure, at: Place::Space(p.point.space_id) }, p.point.id))
}

/// What the log says of a space, or of the one of the building that is wet for longest.
fn said_by_log(file: &CaseFile, space: Option<Uuid>) -> Option<TimeSays> {
    let log = file.log()?;
    let space = match space {
        Some(id) => log.space(id)?,
        None => log.worst()?,
    };
    Some(TimeSays::of(file, log, space))
}

/// The boundary of which somebody said how it is built and that does worst by it. What the library takes for usual is nobody's
/// word.
fn worst_built(file: &CaseFile, space: Option<Uuid>) -> Option<(Uuid, Answer)> {
    let building = &file.building;
    let said = |b: &&Boundary| building.variants.iter().any(|v| v.boundary_id == b.id);
    let here = |b: &&Boundary| space.is_none_or(|id| b.touches(id));
    let outdoors = Outdoors::of(year(file.job.climate));
    let of = |b: &Boundary| {
        let construction = building.construction(b)?;
        Some((b.id, quick(&construction, &around(building, b, MoistureClass::Ordinary), &outdoors)?))
    };
    building.boundaries.iter().filter(said).filter(here).filter_map(of).max_by_key(|(_, answer)| *answer)
}

/// What the hours of a log amount to.
fn of_hours(says: &TimeSays) -> Vec<Fact> {
    let air = Place::Space(says.space);
    let fact = |id, figure: Option<f64>, at| figure.map(|figure| Fact { id, figure, at });
    let on = |mean: Option<crate::log::Mean>| mean.map_or(air, |m| Place::Surface(m.surface));
    let liters = says.machine.and_then(|m| m.liters_day);
    let capacity = liters.and(says.machine.and_then(|m| m.capacity));
    let all = [
        fact("hours_below_dew", says.below.map(|m| m.value), on(says.below)),
        fact("surface_rh_pct", says.humid.map(|m| m.value), on(says.humid)),
        fact("air_rh_pct", says.rh_pct, air),
        fact("rain_correlation", says.rain.map(|r| r.correlation), air),
        fact("dehumidifier_l_day", liters, air),
        fact("dehumidifier_capacity_l_day", capacity, air),
    ];
    all.into_iter().flatten().collect()
}

/// Figures of which the moment of a visit counts where there is one: gates ask for a reading by a checked instrument.
const STAYS: [&str; 3] = ["air_rh_pct", "dehumidifier_l_day", "dehumidifier_capacity_l_day"];

/// Figures that rest on a hygrometer: gates trust them only where its check holds.
const BY_HYGROMETER: [&str; 4] = ["worst_margin_c", "surface_rh_pct", "air_rh_pct", "air_dew_c"];

/// What the dehumidifier whose liters were read at a place can take out in the air it stands in.
fn machine(file: &CaseFile, at: Place) -> Option<Fact> {
    let space = file.building.space_of(at)?.id;
    let air = file.picture.space(space)?.air.as_ref()?;
    let figure = capacity(file.label_in(space)?, &air.value)?;
    Some(Fact { id: "dehumidifier_capacity_l_day", figure, at })
}

/// Findings that were there on a visit; all that are there now without one.
pub fn during<'a>(all: &'a [FindingRecord], visit: Option<&'a Visit>) -> impl Iterator<Item = &'a FindingRecord> {
    all.iter().filter(move |r| match visit {
        None => r.gone_at.is_none(),
        Some(v) => {
            v.ended_at.is_none_or(|end| r.visit_id == Some(v.id) || r.found_at <= end)
                && r.gone_at.is_none_or(|gone| gone >= v.started_at)
        }
    })
}

/// Findings known not to be there on a visit, or now: looked for, or there once and gone since.
fn not_there<'a>(file: &'a CaseFile, visit: Option<&Visit>) -> impl Iterator<Item = &'a FindingRecord> {
    let end = visit.and_then(|v| v.ended_at);
    let start = visit.map(|v| v.started_at);
    let looked = file.absent.iter().filter(move |r| end.is_none_or(|end| r.found_at <= end));
    let gone = file.findings.iter().filter(move |r| r.gone_at.is_some_and(|at| start.is_none_or(|start| at < start)));
    looked.chain(gone)
}

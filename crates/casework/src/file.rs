//! A job as it stands: its building, its visits, and the picture of one of them.

use crate::log::{LogView, Logged};
use crate::worked::Worked;
use building::drying::DryingJob;
use building::reading::{Observed, Reading};
use building::{Building, InstrumentKind, MarkKind, Place, ReadingKind, SensorKind};
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::quantity::{Altitude, Pressure};
use judgment::limits::Limits;
use judgment::map::Rising;
use judgment::picture::{Picture, picture};
use logger::hour_of;
use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;
use store::{
    CallSheet, Certificate, Conclusion, DryingReading, FindingRecord, Instrument, Job, JobRecords, LogSeries,
    MapReading, MoistureMap, Photo, Placing, PlanRows, PriceBook, ReadingRecord, ReportRows, Skip, StoreError, TestRun,
    Thermal, Undoable, Visit, effective,
};
use uuid::Uuid;

/// Why a job's file cannot be opened.
#[derive(Debug, thiserror::Error)]
pub enum FileError {
    /// No such job or visit in this practice.
    #[error("there is no such job or visit")]
    NotFound,
    /// The store failed.
    #[error(transparent)]
    Store(#[from] StoreError),
}

/// What a map amounts to as evidence.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct MapFact {
    /// One of its ways.
    pub map: Uuid,
    /// The space.
    pub space: Uuid,
    /// When its last way was walked.
    pub at: DateTime<Utc>,
    /// Whether a second method found what is high wet, or dry; `None` where nothing is high, or nobody asked one.
    pub wet: Option<bool>,
    /// How the wall that tells most changes with height.
    pub rising: Option<Rising>,
}

/// A job with everything known of it, one visit of it in view.
#[derive(Clone)]
pub struct CaseFile {
    /// The job.
    pub job: Job,
    /// Its building as it stands.
    pub building: Building,
    /// Latest first.
    pub visits: Vec<Visit>,
    /// The visit in view: the one asked for, else the latest with readings, else the latest.
    pub visit: Option<Visit>,
    /// Rows of all visits, oldest first.
    pub rows: Vec<ReadingRecord>,
    /// By name, with the correction that holds now.
    pub instruments: Vec<Instrument>,
    /// Stations skipped on any visit.
    all_skips: Vec<Skip>,
    /// Everything found, of all visits, latest first.
    pub findings: Vec<FindingRecord>,
    /// What was looked for and is not there.
    pub absent: Vec<FindingRecord>,
    /// Every picture, oldest first.
    pub photos: Vec<Photo>,
    /// Every thermal picture, oldest first.
    pub thermals: Vec<Thermal>,
    /// Where things are on unfolded spaces.
    pub placings: Vec<Placing>,
    /// Moisture maps, oldest first, without their places.
    pub maps: Vec<MoistureMap>,
    /// What stands at their places, from [`store::Depth::Argument`] on.
    pub map_readings: Vec<MapReading>,
    /// What they amount to, from [`store::Depth::Argument`] on.
    pub mapped: Vec<MapFact>,
    /// What is dried, from [`store::Depth::Argument`] on.
    pub drying: DryingJob,
    /// What was read on drying rounds and stands, oldest first, from [`store::Depth::Argument`] on.
    pub drying_readings: Vec<DryingReading>,
    /// Every test, latest first.
    pub tests: Vec<TestRun>,
    /// From [`store::Depth::Argument`] on.
    pub call: Option<CallSheet>,
    /// From [`store::Depth::Argument`] on.
    pub conclusions: Vec<Conclusion>,
    /// Names of the practice's people.
    pub people: HashMap<Uuid, String>,
    /// What was decided about the plan, at [`store::Depth::Plan`].
    pub decided: PlanRows,
    /// At [`store::Depth::Plan`].
    pub book: PriceBook,
    /// Approaches the practice works by.
    pub practice_schools: BTreeMap<String, String>,
    /// The practice's IANA time zone: whose days are meant.
    pub time_zone: String,
    /// Where the practice is reached.
    pub practice_address: String,
    /// At [`store::Depth::Plan`].
    pub reports: ReportRows,
    /// Certificates of drying, the latest first, at [`store::Depth::Plan`].
    pub certificates: Vec<Certificate>,
    /// For each kind of thing, the latest act on it that can still be undone.
    undoable: Vec<Undoable>,
    /// When it was read: the hour everything in it is of.
    pub read_at: DateTime<Utc>,
    /// Whether the visit in view is still to be started.
    pub is_ahead: bool,
    /// Names of stations that were removed from the building.
    removed: HashMap<Uuid, String>,
    /// The visit in view, judged.
    pub picture: Picture,
    /// Readings of the visit in view that stand.
    pub standing: Vec<Reading>,
    /// Readings of all visits that stand.
    pub ever: Vec<Reading>,
    /// What its log is made of, from [`store::Depth::Argument`] on.
    pub series: Vec<LogSeries>,
    /// What was logged in the two weeks that count for the visit in view and for the one before, from [`store::Depth::Argument`] on.
    pub(crate) logged: Option<Arc<Logged>>,
    pub(crate) worked: Worked,
}

/// How much of a log counts for what is known of a job: the two weeks of the vocabulary.
const COUNTS: TimeDelta = TimeDelta::days(14);
/// A log that ended longer ago than this is of another season.
const OLDEST: TimeDelta = TimeDelta::days(92);

/// Days a salt check holds for what is read after it (common practice: yearly).
pub const CHECK_HOLDS: i64 = 365;

/// Which visit is in view.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum InView {
    /// The latest with readings, else the latest.
    Latest,
    /// The open one, else as the latest.
    Open,
    /// This one.
    Visit(Uuid),
}

impl From<Option<Uuid>> for InView {
    fn from(visit: Option<Uuid>) -> Self {
        visit.map_or(Self::Latest, Self::Visit)
    }
}

impl CaseFile {
    /// The part of a log that counts for a visit: two weeks up to when the next one began, or to now, while the building was as it
    /// was then. `None` where the log ended too long before.
    pub(crate) fn counts(&self, logged: &Logged, visit: Option<&Visit>) -> Option<[DateTime<Utc>; 2]> {
        let at = self.visits.iter().position(|v| Some(v.id) == visit.map(|v| v.id));
        let next = at.and_then(|i| self.visits.get(i.checked_sub(1)?)).map(|v| v.started_at);
        let [first, last] = logged.extent()?;
        // Where nobody was yet, all that is known is the log.
        let seen = visit.map_or(last, |v| v.started_at);
        let until = last.min(next.unwrap_or(self.read_at));
        // What was done to the building splits its log, where enough is left of it.
        let marked = || logged.marks.iter().filter(|m| m.kind == MarkKind::Event).map(|m| m.from_at);
        let done = || marked().chain(self.steps_done().into_iter().map(|(at, _)| at));
        let since = done().filter(|at| *at <= seen).max().unwrap_or(first);
        let undone = done().filter(|at| *at > seen).min().unwrap_or(until);
        let (since, until) = if undone.min(until) - since.max(first) >= COUNTS / 2 {
            (since, undone.min(until))
        } else {
            (first, until)
        };
        let until = hour_of(until) + TimeDelta::hours(1);
        let counts = until > first && seen - until < OLDEST;
        counts.then(|| [hour_of(since).max(until - COUNTS), until])
    }

    pub(crate) fn before_the_one_in_view(&self) -> Option<&Visit> {
        let at = self.visits.iter().position(|v| Some(v.id) == self.visit.as_ref().map(|v| v.id))?;
        self.visits.get(at + 1)
    }

    /// The log of the two weeks that count for the visit in view; `None` where there is none.
    #[must_use]
    pub fn log(&self) -> Option<&LogView> {
        let view = || {
            let logged = self.logged.as_deref()?;
            Some(Box::new(logged.view(self, self.counts(logged, self.visit.as_ref())?)))
        };
        self.worked.log.get_or_init(view).as_deref()
    }

    /// A job from its records as they were at a moment.
    ///
    /// # Errors
    /// [`FileError::NotFound`] for another job's visit, [`FileError::Store`] for records that cannot be.
    pub fn of(all: JobRecords, view: InView, read_at: DateTime<Utc>) -> Result<Self, FileError> {
        let ever = effective(&all.readings, &all.instruments)?;
        let (absent, findings) = all.findings.into_iter().partition(|f| f.absent);
        let building = all.building;
        let mut file = Self {
            picture: picture(&building, &[]),
            job: all.job,
            building,
            visits: all.visits,
            visit: None,
            rows: all.readings,
            instruments: all.instruments,
            all_skips: all.skips,
            findings,
            absent,
            photos: all.photos,
            thermals: all.thermals,
            placings: all.placings,
            maps: all.maps,
            map_readings: all.map_readings,
            mapped: Vec::new(),
            drying: all.drying,
            drying_readings: all.drying_readings,
            tests: all.tests,
            call: all.call,
            conclusions: all.conclusions,
            people: all.people,
            decided: all.plan,
            book: all.book,
            practice_schools: all.practice_schools,
            time_zone: all.time_zone,
            practice_address: all.practice_address,
            reports: all.reports,
            certificates: all.certificates,
            undoable: all.undoable,
            read_at,
            is_ahead: false,
            removed: all.removed_stations,
            standing: Vec::new(),
            ever,
            series: Vec::new(),
            logged: None,
            worked: Worked::default(),
        };
        let chosen = match view {
            InView::Visit(id) => Some(file.visits.iter().find(|v| v.id == id).cloned().ok_or(FileError::NotFound)?),
            InView::Open => file.open_visit().or(file.latest_read()).cloned(),
            InView::Latest => file.latest_read().cloned(),
        };
        file.put_in_view(chosen);
        Ok(file)
    }

    /// The latest visit with readings, else the latest.
    fn latest_read(&self) -> Option<&Visit> {
        let read: HashSet<Uuid> = self.rows.iter().map(|r| r.visit_id).collect();
        self.visits.iter().find(|v| read.contains(&v.id)).or(self.visits.first())
    }

    fn put_in_view(&mut self, visit: Option<Visit>) {
        let id = visit.as_ref().map(|v| v.id);
        let read: HashSet<Uuid> = self.rows.iter().filter(|r| Some(r.visit_id) == id).map(|r| r.id).collect();
        self.standing = self.ever.iter().filter(|r| read.contains(&r.id)).cloned().collect();
        self.picture = picture(&self.building, &self.standing);
        self.visit = visit;
        self.worked = Worked::default();
    }

    pub(crate) fn at_visit_before(&self) -> Option<Self> {
        let earlier = self.before_the_one_in_view()?.clone();
        let mut file = self.clone();
        file.put_in_view(Some(earlier));
        Some(file)
    }

    /// The job as it will be when a visit has just been started.
    pub fn look_ahead(&mut self, visit: Visit) {
        self.is_ahead = true;
        self.visits.insert(0, visit.clone());
        self.put_in_view(Some(visit));
    }

    /// Stations skipped on the visit in view.
    pub fn skips(&self) -> impl Iterator<Item = &Skip> {
        self.all_skips.iter().filter(|s| self.visit.as_ref().is_some_and(|v| v.id == s.visit_id))
    }

    /// A skip of any visit.
    #[must_use]
    pub fn skip(&self, id: Uuid) -> Option<&Skip> {
        self.all_skips.iter().find(|s| s.id == id)
    }

    /// Judges the visit as if this reading stood too.
    pub fn suppose(&mut self, reading: Reading) {
        self.standing.push(reading);
        self.picture = picture(&self.building, &self.standing);
        self.worked = Worked::default();
    }

    /// The open visit, if any.
    #[must_use]
    pub fn open_visit(&self) -> Option<&Visit> {
        self.visits.iter().find(|v| v.ended_at.is_none())
    }

    /// Rows of the visit in view.
    pub fn visit_rows(&self) -> impl Iterator<Item = &ReadingRecord> {
        self.rows.iter().filter(|r| self.visit.as_ref().is_some_and(|v| v.id == r.visit_id))
    }

    /// One of the instruments.
    #[must_use]
    pub fn instrument(&self, id: Uuid) -> Option<&Instrument> {
        self.instruments.iter().find(|i| i.id == id)
    }

    /// The instruments, those one reads from by hand before loggers, which read by themselves.
    #[must_use]
    pub fn at_hand(&self) -> Vec<&Instrument> {
        let mut all: Vec<&Instrument> = self.instruments.iter().collect();
        all.sort_by_key(|i| i.kind == InstrumentKind::Logger);
        all
    }

    /// What a station is called, also one removed since.
    #[must_use]
    pub fn station_name(&self, id: Uuid) -> &str {
        let there = self.building.station(id).map(|s| self.building.place_name(s.place));
        there.or_else(|| self.removed.get(&id).map(String::as_str)).unwrap_or_default()
    }

    /// The limits this job works by: its own approaches, else the practice's, else the table's.
    #[must_use]
    pub fn limits(&self) -> Limits {
        let practice = self.practice_schools.iter().map(|(q, s)| (q.as_str(), s.as_str()));
        let own = self.decided.schools.iter().map(|s| (s.question.as_str(), s.choice.as_str()));
        Limits::of(practice.chain(own))
    }

    /// A reading of any visit.
    #[must_use]
    pub fn row(&self, id: Uuid) -> Option<&ReadingRecord> {
        self.rows.iter().find(|r| r.id == id)
    }

    /// The latest act on any of these kinds of things that can still be undone.
    #[must_use]
    pub fn last_undoable(&self, tables: &[&str]) -> Option<&Undoable> {
        let about = self.undoable.iter().filter(|u| tables.contains(&u.table.as_str()));
        about.max_by_key(|u| (u.at, u.id))
    }

    /// About how much room it takes, with what follows from it.
    pub(crate) fn bytes(&self) -> usize {
        let b = &self.building;
        let parts = b.spaces.len() + b.boundaries.len() + b.surfaces.len() + b.stations.len();
        let noted =
            self.findings.len() + self.absent.len() + self.tests.len() + self.photos.len() + self.all_skips.len();
        let own = self.rows.len() * 700 + self.ever.len() * 300 + (parts + noted) * 400 + self.book.cents.len() * 100;
        // The visit before is a copy; arguments and plans are about as long for every job.
        let hours = self.logged.as_ref().map_or(0, |l| l.hours.values().map(Vec::len).sum());
        2 * own + hours * 150 + self.map_readings.len() * 250 + self.drying_readings.len() * 350 + (128 << 10)
    }

    /// Whether the salt check of every hygrometer that read the air at a place on the visit in view held.
    #[must_use]
    pub fn air_is_checked(&self, at: Place) -> bool {
        let space = self.building.space_of(at).map(|s| s.id);
        let here = |r: &&Reading| {
            let station = self.building.station(r.station_id).map(|s| s.place);
            matches!(r.observed, Observed::Air(_))
                && station.and_then(|p| self.building.space_of(p)).map(|s| s.id) == space
        };
        self.standing.iter().filter(here).all(|r| {
            let by = self.instrument(r.instrument_id).and_then(|i| i.checked_on);
            let read = chrono::DateTime::from_timestamp_millis(r.taken_ms).map(|t| t.date_naive());
            by.zip(read).is_some_and(|(checked, read)| (read - checked).num_days() <= CHECK_HOLDS)
        })
    }

    /// Steps of the plan that were done, each at noon of its day, by the id of its fix; none are known under [`store::Depth::Plan`].
    #[must_use]
    pub fn steps_done(&self) -> Vec<(DateTime<Utc>, &str)> {
        let Ok(zone) = jiff::tz::TimeZone::get(&self.time_zone) else { return Vec::new() };
        let noon = |day: chrono::NaiveDate| {
            let day: jiff::civil::Date = day.to_string().parse().ok()?;
            let at = day.at(12, 0, 0, 0).to_zoned(zone.clone()).ok()?;
            DateTime::from_timestamp(at.timestamp().as_second(), 0)
        };
        self.decided.steps.iter().filter_map(|s| Some((noon(s.done_on?)?, s.fix.as_str()))).collect()
    }

    /// The usual air pressure where the job stands.
    #[must_use]
    pub fn pressure(&self) -> Pressure {
        Altitude::new(self.job.site.altitude_m).map_or(Pressure::STANDARD, Pressure::at_altitude)
    }

    /// Whether the salt check of every logger that hung in the air at a place held over the part of the log that counts.
    #[must_use]
    pub fn loggers_are_checked(&self, at: Place) -> bool {
        let space = self.building.space_of(at).map(|s| s.id);
        let Some(log) = self.log() else { return false };
        let own = log.series.iter().filter(|s| s.reads == SensorKind::Air && s.space_id == space);
        own.map(|s| self.instrument(s.instrument_id).and_then(|i| i.checked_on))
            .all(|checked| checked.is_some_and(|day| (log.until.date_naive() - day).num_days() <= CHECK_HOLDS))
    }

    /// A dehumidifier’s label noted in a space, L/day.
    #[must_use]
    pub fn label_in(&self, space: Uuid) -> Option<f64> {
        let here = |r: &&FindingRecord| r.spot.space_in(&self.building) == Some(space);
        let standing = self.findings.iter().filter(|r| r.what == "dehumidifier_rated_l_day" && r.gone_at.is_none());
        standing.filter(here).find_map(|r| r.value)
    }

    /// Whether any figure read on the visit in view stands at a station; words alone are none.
    #[must_use]
    pub fn is_read(&self, station: Uuid) -> bool {
        self.standing.iter().any(|r| r.station_id == station && r.observed != Observed::Note)
    }

    /// Why a station was skipped on the visit in view; reading it after all says more.
    #[must_use]
    pub fn skipped(&self, station: Uuid) -> Option<&Skip> {
        self.skips().find(|s| s.station_id == station).filter(|_| !self.is_read(station))
    }

    /// The latest row that stands at each station from the visits before the one in view; what is read beside its own
    /// figure, such as a machine’s water beside the air, only where there is nothing else.
    #[must_use]
    pub fn last_rows(&self) -> HashMap<Uuid, &ReadingRecord> {
        let replaced: HashSet<Uuid> = self.rows.iter().filter_map(|r| r.replaces).collect();
        let earlier = self.rows.iter().filter(|r| self.visit.as_ref().is_none_or(|v| v.id != r.visit_id));
        let stand = earlier.filter(|r| r.kind != ReadingKind::Withdrawn && !replaced.contains(&r.id));
        let (beside, own): (Vec<_>, Vec<_>) = stand.partition(|r| r.kind.is_aside());
        // Rows come oldest first: the last one wins.
        beside.into_iter().chain(own).map(|r| (r.station_id, r)).collect()
    }

    /// The last value of a kind that stands at a station before the visit in view.
    pub fn before(&self, station: Uuid, kind: impl Fn(&Observed) -> bool) -> Option<(Observed, &ReadingRecord)> {
        let in_view = self.visit.as_ref().map(|v| v.id);
        let of_kind = self.ever.iter().filter(|r| r.station_id == station && kind(&r.observed));
        let rows = of_kind.filter_map(|r| Some((r, self.row(r.id)?)));
        let earlier = rows.filter(|(_, row)| Some(row.visit_id) != in_view);
        earlier.max_by_key(|(r, _)| r.taken_ms).map(|(r, row)| (r.observed, row))
    }

    /// Number of a visit, counted from the first.
    #[must_use]
    pub fn visit_number(&self, id: Uuid) -> usize {
        self.visits.iter().rev().position(|v| v.id == id).map_or(0, |i| i + 1)
    }
}

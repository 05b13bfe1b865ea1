//! What every page of a job needs: the job, its building, its visits, and the picture of one of them.

use crate::auth::Who;
use crate::error::Failure;
use crate::view::JobFrame;
use building::ReadingKind;
use building::reading::{Observed, Reading};
use building::{Building, Place, Space};
use hygrothermal::quantity::Temperature;
use judgment::advice::{SpaceAdvice, advise};
use judgment::picture::{Picture, picture};
use std::collections::{HashMap, HashSet};
use store::{FindingRecord, Instrument, Job, Photo, ReadingRecord, Scope, Skip, Visit, effective};
use uuid::Uuid;

/// A job with everything read on it.
pub struct JobPage {
    pub job: Job,
    pub building: Building,
    /// Latest first.
    pub visits: Vec<Visit>,
    /// The visit in view: the one asked for, else the latest with readings, else the latest.
    pub visit: Option<Visit>,
    /// Rows of all visits, oldest first.
    pub rows: Vec<ReadingRecord>,
    pub instruments: Vec<Instrument>,
    /// Stations passed by on the visit in view.
    pub skips: Vec<Skip>,
    /// Everything found and every picture, of all visits.
    pub findings: Vec<FindingRecord>,
    /// What was looked for and is not there.
    pub absent: Vec<FindingRecord>,
    pub photos: Vec<Photo>,
    /// Names of stations that were removed from the building.
    removed: HashMap<Uuid, String>,
    pub picture: Picture,
    /// Readings of the visit in view that stand.
    pub standing: Vec<Reading>,
    /// Readings of all visits that stand.
    pub ever: Vec<Reading>,
}

/// Days a salt check holds for what is read after it (common practice: yearly).
const CHECK_HOLDS: i64 = 365;

impl JobPage {
    /// The job with its open visit in view.
    pub async fn open(who: &Who, job: Uuid) -> Result<Self, Failure> {
        let scope = who.scope().await?;
        let open = scope.visits(job).await?.into_iter().find(|v| v.ended_at.is_none()).map(|v| v.id);
        Self::load(&scope, job, open).await
    }

    /// Loads a job of this practice; another practice's is not found.
    pub async fn load(scope: &Scope, job: Uuid, visit: Option<Uuid>) -> Result<Self, Failure> {
        let job = scope.job(job).await?.ok_or(Failure::NotFound)?;
        let building = scope.building(job.id).await?;
        let visits = scope.visits(job.id).await?;
        let ids: Vec<Uuid> = visits.iter().map(|v| v.id).collect();
        let rows = scope.reading_rows(&ids).await?;
        let instruments = scope.instruments().await?;
        let chosen = match visit {
            Some(id) => Some(visits.iter().find(|v| v.id == id).cloned().ok_or(Failure::NotFound)?),
            None => visits.iter().find(|v| rows.iter().any(|r| r.visit_id == v.id)).or(visits.first()).cloned(),
        };
        let ever = effective(&rows, &instruments)?;
        let in_view = rows.iter().filter(|r| chosen.as_ref().is_some_and(|v| v.id == r.visit_id));
        let in_view: HashSet<Uuid> = in_view.map(|r| r.id).collect();
        let standing: Vec<Reading> = ever.iter().filter(|r| in_view.contains(&r.id)).cloned().collect();
        let picture = picture(&building, &standing);
        let mut skips = scope.skips(job.id).await?;
        skips.retain(|s| chosen.as_ref().is_some_and(|v| v.id == s.visit_id));
        let removed = scope.removed_stations(job.id).await?;
        let findings = scope.findings(job.id).await?;
        let absent = scope.absent_findings(job.id).await?;
        let photos = scope.photos(job.id).await?;
        Ok(Self {
            job,
            building,
            visits,
            visit: chosen,
            rows,
            instruments,
            skips,
            findings,
            absent,
            photos,
            removed,
            picture,
            standing,
            ever,
        })
    }

    /// The job as it will be when a visit has just been started; where one is open nothing changes.
    pub fn look_ahead(&mut self, consultant_id: Uuid) {
        let started_at = chrono::Utc::now();
        let job_id = self.job.id;
        let visit = Visit { id: Uuid::nil(), job_id, consultant_id, started_at, ended_at: None };
        self.visits.insert(0, visit.clone());
        self.visit = Some(visit);
        self.standing.clear();
        self.skips.clear();
        self.picture = picture(&self.building, &self.standing);
    }

    /// Judges the visit as if this reading stood too.
    pub fn suppose(&mut self, reading: Reading) {
        self.standing.push(reading);
        self.picture = picture(&self.building, &self.standing);
    }

    /// The open visit, if any.
    pub fn open_visit(&self) -> Option<&Visit> {
        self.visits.iter().find(|v| v.ended_at.is_none())
    }

    /// Rows of the visit in view.
    pub fn visit_rows(&self) -> impl Iterator<Item = &ReadingRecord> {
        self.rows.iter().filter(|r| self.visit.as_ref().is_some_and(|v| v.id == r.visit_id))
    }

    pub fn instrument(&self, id: Uuid) -> Option<&Instrument> {
        self.instruments.iter().find(|i| i.id == id)
    }

    /// What a station is called, also one removed since.
    pub fn station_name(&self, id: Uuid) -> &str {
        let there = self.building.station(id).map(|s| self.building.place_name(s.place));
        there.or_else(|| self.removed.get(&id).map(String::as_str)).unwrap_or_default()
    }

    pub fn row(&self, id: Uuid) -> Option<&ReadingRecord> {
        self.rows.iter().find(|r| r.id == id)
    }

    /// Advice for a space.
    pub fn advice(&self, space: &Space) -> SpaceAdvice {
        advise(&self.building, &self.picture, space, Temperature::new(self.job.design_outdoor_c).ok())
    }

    /// Whether the salt check of every hygrometer that read the air at a place on the visit in view held.
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

    /// A dehumidifier’s label noted in a space, L/day.
    pub fn label_in(&self, space: Uuid) -> Option<f64> {
        let here = |r: &&FindingRecord| r.spot.space_in(&self.building) == Some(space);
        let standing = self.findings.iter().filter(|r| r.what == "dehumidifier_rated_l_day" && r.gone_at.is_none());
        standing.filter(here).find_map(|r| r.value)
    }

    /// Whether any figure read on the visit in view stands at a station; words alone are none.
    pub fn is_read(&self, station: Uuid) -> bool {
        self.standing.iter().any(|r| r.station_id == station && r.observed != Observed::Note)
    }

    /// Why a station was passed by on the visit in view; reading it after all says more.
    pub fn skipped(&self, station: Uuid) -> Option<&Skip> {
        self.skips.iter().find(|s| s.station_id == station).filter(|_| !self.is_read(station))
    }

    /// The latest row that stands at each station from the visits before the one in view; what is read beside its own
    /// figure, such as a machine’s water beside the air, only where there is nothing else.
    pub fn last_rows(&self) -> HashMap<Uuid, &ReadingRecord> {
        let replaced: HashSet<Uuid> = self.rows.iter().filter_map(|r| r.replaces).collect();
        let earlier = self.rows.iter().filter(|r| self.visit.as_ref().is_none_or(|v| v.id != r.visit_id));
        let stand = earlier.filter(|r| r.kind != ReadingKind::Withdrawn && !replaced.contains(&r.id));
        let (beside, own): (Vec<_>, Vec<_>) = stand.partition(|r| r.kind.is_aside());
        // Rows come oldest first: the last one wins.
        beside.into_iter().chain(own).map(|r| (r.station_id, r)).collect()
    }

    /// The last value of a kind that stands at a station before the visit in view.
    pub fn before(
        &self,
        station: Uuid,
        kind: impl Fn(&Observed) -> bool,
    ) -> Result<Option<(Observed, &ReadingRecord)>, Failure> {
        let earlier: Vec<ReadingRecord> = self
            .rows
            .iter()
            .filter(|r| r.station_id == station && self.visit.as_ref().is_none_or(|v| v.id != r.visit_id))
            .cloned()
            .collect();
        let standing = effective(&earlier, &self.instruments)?.into_iter();
        let last = standing.filter(|r| kind(&r.observed)).max_by_key(|r| r.taken_ms);
        Ok(last.and_then(|r| Some((r.observed, self.row(r.id)?))))
    }

    /// Number of a visit, counted from the first.
    pub fn visit_number(&self, id: Uuid) -> usize {
        self.visits.iter().rev().position(|v| v.id == id).map_or(0, |i| i + 1)
    }

    /// The job's header.
    pub fn frame(&self, view: &'static str) -> JobFrame {
        JobFrame {
            id: self.job.id.to_string(),
            name: self.job.name.clone(),
            visit: self.visit.as_ref().map(|v| v.id.to_string()),
            view,
        }
    }
}

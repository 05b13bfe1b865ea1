//! A job with everything on it, in one statement, and its readings in another.

use super::calls::{CallSheet, sheet};
use super::history::RESTORABLE_DAYS;
use super::instruments::corrected_at;
use super::jobs::Job;
use super::logs::LogParts;
use super::plans::PlanRows;
use super::prices::PriceBook;
use super::reports::ReportRows;
use super::unfolded::standing;
use crate::entity::{
    boundary, build_up, call_sheet, certificate, conclusion, drying, finding, follow_up, instrument, job, layout,
    log_mark, log_series, map_point, material, moisture_map, photo, placed, plan_figure, plan_step, practice,
    practice_school, price, remark, report, report_version, salt_check, school, signature, skip, space, station,
    surface, test_run, text_block, thermal, visit,
};
use crate::error::StoreError;
use crate::record::{
    Certificate, Conclusion, DryingReading, FindingRecord, Instrument, MapReading, MoistureMap, Photo, Placing,
    ReadingRecord, SaltCheck, Skip, TestRun, Thermal, Visit, records,
};
use crate::scope::Scope;
use building::Building;
use building::construction::OwnMaterial;
use building::drying::{DryingItem, DryingJob};
use chrono::{DateTime, TimeDelta, Utc};
use sea_orm::{ConnectionTrait, Statement};
use serde::Deserialize;
use serde::de::DeserializeOwned;
use std::collections::{BTreeMap, HashMap};
use uuid::Uuid;

/// How much of a job is loaded: each depth holds what those before it do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Depth {
    /// The building, its visits, what was read, found, tested and photographed.
    Visit,
    /// And what is argued from: the call, conclusions, and who drew them.
    Argument,
    /// And what was decided about the plan, prices and approaches.
    Plan,
}

/// A job with everything on it.
#[derive(Debug, Clone)]
pub struct JobRecords {
    /// The job.
    pub job: Job,
    /// Its building as it stands.
    pub building: Building,
    /// Names of stations that were removed from it.
    pub removed_stations: HashMap<Uuid, String>,
    /// Latest first.
    pub visits: Vec<Visit>,
    /// Of all visits, superseded ones too, oldest first.
    pub readings: Vec<ReadingRecord>,
    /// By name, each with the correction that holds now.
    pub instruments: Vec<Instrument>,
    /// Stations skipped on any visit, latest first.
    pub skips: Vec<Skip>,
    /// Latest first, and what was looked for and is not there.
    pub findings: Vec<FindingRecord>,
    /// Latest first.
    pub tests: Vec<TestRun>,
    /// Oldest first.
    pub photos: Vec<Photo>,
    /// Oldest first.
    pub thermals: Vec<Thermal>,
    /// Where things are on unfolded spaces.
    pub placings: Vec<Placing>,
    /// Moisture maps, oldest first, without their places.
    pub maps: Vec<MoistureMap>,
    /// What stands at their places, by map and number; from [`Depth::Argument`] on.
    pub map_readings: Vec<MapReading>,
    /// What is dried; from [`Depth::Argument`] on.
    pub drying: DryingJob,
    /// What was read on drying rounds and stands, oldest first; from [`Depth::Argument`] on.
    pub drying_readings: Vec<DryingReading>,
    /// From [`Depth::Argument`] on.
    pub call: Option<CallSheet>,
    /// From [`Depth::Argument`] on.
    pub conclusions: Vec<Conclusion>,
    /// Names of the practice's people.
    pub people: HashMap<Uuid, String>,
    /// At [`Depth::Plan`]; the approaches chosen for the job at any.
    pub plan: PlanRows,
    /// At [`Depth::Plan`].
    pub book: PriceBook,
    /// What its log is made of, without whether readings are on their way; from [`Depth::Argument`] on.
    pub log: LogParts,
    /// Approaches the practice works by, question and school.
    pub practice_schools: BTreeMap<String, String>,
    /// Its IANA time zone: whose days are meant.
    pub time_zone: String,
    /// Where the practice is reached.
    pub practice_address: String,
    /// At [`Depth::Plan`].
    pub reports: ReportRows,
    /// Certificates of drying, the latest first; at [`Depth::Plan`].
    pub certificates: Vec<Certificate>,
    /// For each kind of thing, the latest act on it that can still be undone.
    pub undoable: Vec<Undoable>,
}

/// The latest act on a kind of thing that can still be undone: neither an undoing, nor undone, nor the opening of the job.
#[derive(Debug, Clone, Deserialize)]
pub struct Undoable {
    /// The kind of thing, by its table.
    pub table: String,
    /// The act.
    pub id: Uuid,
    /// Who.
    pub by: Uuid,
    /// When.
    pub at: DateTime<Utc>,
    /// In words.
    pub what: String,
}

/// The latest act on each table. An act that changed rows of several stands for each of them.
const UNDOABLE: &str = "select 'undoable', json_agg(t)::text from (
    select distinct on (r.t) r.t as table, c.id, c.consultant_id as by, c.at, c.what
    from change c cross join lateral (select e->>'table' as t from jsonb_array_elements(c.rows) e) r
    where c.practice_id = $1 and c.job_id = $2 and c.undoes is null and c.id <> $2 and c.at > $3
      and not exists (select from change u where u.practice_id = c.practice_id and u.undoes = c.id)
    order by r.t, c.at desc, c.id desc) t";

/// A part of a job: the table, which of its rows, in which order, and from which depth on.
struct Part {
    table: &'static str,
    of: Of,
    order: &'static str,
    from: Depth,
}

/// Whose rows.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Of {
    /// The job's.
    Job,
    /// The job's that are not removed.
    Standing,
    /// All of the practice's.
    Practice,
}

const fn part(table: &'static str, of: Of, order: &'static str, from: Depth) -> Part {
    Part { table, of, order, from }
}

const PARTS: [Part; 36] = [
    part("space", Of::Job, "position", Depth::Visit),
    part("boundary", Of::Standing, "position", Depth::Visit),
    part("build_up", Of::Standing, "boundary_id, position", Depth::Visit),
    part("material", Of::Practice, "id", Depth::Visit),
    part("surface", Of::Job, "position", Depth::Visit),
    part("station", Of::Job, "position", Depth::Visit),
    part("visit", Of::Job, "started_at desc", Depth::Visit),
    part("instrument", Of::Practice, "name", Depth::Visit),
    part("salt_check", Of::Practice, "ended_at desc, started_at desc", Depth::Visit),
    part("skip", Of::Standing, "skipped_at desc", Depth::Visit),
    part("finding", Of::Standing, "found_at desc", Depth::Visit),
    part("test_run", Of::Standing, "started_at desc", Depth::Visit),
    part("photo", Of::Standing, "taken_at, id", Depth::Visit),
    part("thermal", Of::Standing, "taken_at, id", Depth::Visit),
    part("layout", Of::Standing, "id", Depth::Visit),
    part("placed", Of::Standing, "id", Depth::Visit),
    part("moisture_map", Of::Standing, "started_at, id", Depth::Visit),
    part("map_point", Of::Job, "map_id, n, id", Depth::Argument),
    part("drying", Of::Standing, "id", Depth::Argument),
    part("call_sheet", Of::Standing, "job_id", Depth::Argument),
    part("conclusion", Of::Standing, "id", Depth::Argument),
    part("log_series", Of::Standing, "id", Depth::Argument),
    part("log_mark", Of::Standing, "from_at, id", Depth::Argument),
    part("plan_step", Of::Standing, "id", Depth::Plan),
    part("plan_figure", Of::Standing, "id", Depth::Plan),
    part("school", Of::Standing, "id", Depth::Visit),
    part("follow_up", Of::Standing, "due_on", Depth::Plan),
    part("price", Of::Practice, "item", Depth::Plan),
    part("report", Of::Standing, "id", Depth::Plan),
    part("report_version", Of::Job, "made_at, id", Depth::Plan),
    part("signature", Of::Job, "at, id", Depth::Plan),
    part("remark", Of::Job, "at, id", Depth::Plan),
    part("certificate", Of::Job, "id desc", Depth::Plan),
    part("text_block", Of::Practice, "id", Depth::Plan),
    part("practice", Of::Practice, "name", Depth::Visit),
    part("practice_school", Of::Practice, "question", Depth::Visit),
];

/// One row for each part: its table and its rows as a JSON array.
fn statement(depth: Depth) -> String {
    let own = |p: &Part| match p.of {
        Of::Job => "t.practice_id = $1 and t.job_id = $2",
        Of::Standing => "t.practice_id = $1 and t.job_id = $2 and t.removed_at is null",
        Of::Practice => "t.practice_id = $1",
    };
    let rows = |p: &Part| {
        let (table, order) = (p.table, p.order);
        let own = own(p);
        format!("select '{table}', json_agg(t order by {order})::text from {table} t where {own}")
    };
    let job = "select 'job' as part, json_agg(t)::text as rows from job t where t.practice_id = $1 and t.id = $2 \
        and t.removed_at is null";
    let people =
        "select 'people', json_agg(json_build_array(t.id, t.name))::text from consultant t where t.practice_id = $1";
    let mut all = vec![job.to_owned()];
    all.extend(PARTS.iter().filter(|p| p.from <= depth).map(rows));
    let logo = "select 'logo', (select 'there' from logo where practice_id = $1)";
    all.extend([people.to_owned(), UNDOABLE.to_owned(), logo.to_owned()]);
    all.join(" union all ")
}

/// The parts of a job as they came.
struct Parts(HashMap<String, String>);

impl Parts {
    fn rows<M: DeserializeOwned>(&self, table: &str) -> Result<Vec<M>, StoreError> {
        let Some(text) = self.0.get(table) else { return Ok(Vec::new()) };
        serde_json::from_str(text).map_err(|e| StoreError::Corrupt(format!("{table}: {e}")))
    }

    fn records<M: DeserializeOwned, R: TryFrom<M, Error = StoreError>>(
        &self,
        table: &str,
    ) -> Result<Vec<R>, StoreError> {
        records(self.rows::<M>(table)?)
    }
}

impl Scope {
    /// A job with everything on it; `None` when there is no such job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn job_file(&self, id: Uuid, depth: Depth) -> Result<Option<JobRecords>, StoreError> {
        let now = Utc::now();
        let values = [self.practice.into(), id.into(), (now - TimeDelta::days(RESTORABLE_DAYS)).into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), statement(depth), values);
        let mut parts = HashMap::new();
        for row in self.txn.query_all_raw(asked).await? {
            if let Some(rows) = row.try_get::<Option<String>>("", "rows")? {
                parts.insert(row.try_get("", "part")?, rows);
            }
        }
        let parts = Parts(parts);
        let Some(job) = parts.rows::<job::Model>("job")?.pop() else { return Ok(None) };
        // The longest tables by far: as rows, not as text.
        let readings = records(self.readings_of(id).all(&self.txn).await?)?;
        let is_dried = parts.0.contains_key("drying");
        let dried = if is_dried { self.drying_readings(id).await? } else { Vec::new() };
        read(&parts, job.try_into()?, (readings, dried), now).map(Some)
    }
}

fn read(
    parts: &Parts,
    job: Job,
    (readings, drying_readings): (Vec<ReadingRecord>, Vec<DryingReading>),
    now: DateTime<Utc>,
) -> Result<JobRecords, StoreError> {
    let (building, removed_stations) = building_of(parts)?;
    let mut instruments: Vec<Instrument> = parts.records::<instrument::Model, _>("instrument")?;
    let checks: Vec<SaltCheck> = parts.records::<salt_check::Model, _>("salt_check")?;
    corrected_at(&mut instruments, &checks, now);
    let prices = parts.rows::<price::Model>("price")?;
    let practice: Option<practice::Model> = parts.rows("practice")?.pop();
    let practice = practice.ok_or_else(|| StoreError::Corrupt("a job without a practice".into()))?;
    let schools = parts.rows::<practice_school::Model>("practice_school")?;
    Ok(JobRecords {
        job,
        building,
        removed_stations,
        visits: parts.records::<visit::Model, _>("visit")?,
        readings,
        instruments,
        skips: parts.records::<skip::Model, _>("skip")?,
        findings: parts.records::<finding::Model, _>("finding")?,
        tests: parts.records::<test_run::Model, _>("test_run")?,
        photos: parts.records::<photo::Model, _>("photo")?,
        thermals: parts.records::<thermal::Model, _>("thermal")?,
        placings: parts.records::<placed::Model, _>("placed")?,
        maps: parts.records::<moisture_map::Model, _>("moisture_map")?,
        map_readings: standing(parts.records::<map_point::Model, _>("map_point")?),
        drying: parts.records::<drying::Model, DryingItem>("drying")?.into_iter().collect(),
        drying_readings,
        call: parts.rows::<call_sheet::Model>("call_sheet")?.pop().map(sheet),
        conclusions: parts.records::<conclusion::Model, _>("conclusion")?,
        people: parts.rows::<(Uuid, String)>("people")?.into_iter().collect(),
        log: LogParts {
            series: parts.records::<log_series::Model, _>("log_series")?,
            marks: parts.records::<log_mark::Model, _>("log_mark")?,
            busy: false,
        },
        plan: PlanRows {
            steps: parts.records::<plan_step::Model, _>("plan_step")?,
            figures: parts.records::<plan_figure::Model, _>("plan_figure")?,
            schools: parts.records::<school::Model, _>("school")?,
            follow_ups: parts.records::<follow_up::Model, _>("follow_up")?,
        },
        book: PriceBook { currency: practice.currency, cents: prices.into_iter().map(|r| (r.item, r.cents)).collect() },
        practice_schools: schools.into_iter().map(|r| (r.question, r.choice)).collect(),
        time_zone: practice.time_zone,
        practice_address: practice.address,
        reports: ReportRows {
            drafts: parts.records::<report::Model, _>("report")?,
            versions: parts.records::<report_version::Model, _>("report_version")?,
            signatures: parts.records::<signature::Model, _>("signature")?,
            remarks: parts.records::<remark::Model, _>("remark")?,
            blocks: parts.records::<text_block::Model, _>("text_block")?,
            has_logo: parts.0.contains_key("logo"),
        },
        certificates: parts.records::<certificate::Model, _>("certificate")?,
        undoable: parts.rows("undoable")?,
    })
}

/// The building as it stands, and what its removed stations were called.
fn building_of(parts: &Parts) -> Result<(Building, HashMap<Uuid, String>), StoreError> {
    let spaces = parts.rows::<space::Model>("space")?;
    let surfaces = parts.rows::<surface::Model>("surface")?;
    let (stations, removed): (Vec<_>, Vec<_>) =
        parts.rows::<station::Model>("station")?.into_iter().partition(|s| s.removed_at.is_none());
    let mut names: HashMap<Uuid, &str> = spaces.iter().map(|s| (s.id, s.name.as_str())).collect();
    names.extend(surfaces.iter().map(|s| (s.id, s.name.as_str())));
    let named = |s: &station::Model| {
        let name = s.surface_id.or(s.space_id).and_then(|id| names.get(&id)).copied();
        (s.id, format!("{} (removed)", name.unwrap_or_default()))
    };
    let removed = removed.iter().map(named).collect();
    let mut own: Vec<OwnMaterial> = parts.records::<material::Model, _>("material")?;
    own.sort_by(|a, b| a.name.cmp(&b.name));
    let building = Building {
        variants: parts.records::<build_up::Model, _>("build_up")?,
        own,
        layouts: parts.records::<layout::Model, _>("layout")?,
        boundaries: records(parts.rows::<boundary::Model>("boundary")?)?,
        stations: stations.into_iter().map(Into::into).collect(),
        surfaces: records(surfaces.into_iter().filter(|s| s.removed_at.is_none()).collect())?,
        spaces: records(spaces.into_iter().filter(|s| s.removed_at.is_none()).collect())?,
    };
    Ok((building, removed))
}

//! What the store hands out and takes: records with the words of the trade instead of columns. No table's row leaves this
//! crate, and no practice's id is in any of them: a record belongs to the practice of the [`crate::Scope`] it came from.

use crate::entity::{
    alert_rule, api_token, bring_in, certificate, conclusion, delivery, drying_reading, finding, follow_up, instrument,
    log_file, log_mark, log_series, map_point, moisture_map, parcel, passkey, photo, placed, plan_figure, plan_step,
    reading, remark, report_version, salt_check, school, share, share_word, signature, skip, test_run, thermal, visit,
    webhook,
};
use crate::error::StoreError;
use building::drying::DryRead;
use building::entry::Humidity;
use building::unfold::{At, MapScale, Thing};
use building::{AlertKind, InstrumentKind, MarkKind, Material, ReadingKind, SensorKind, Spot};
use chrono::{DateTime, NaiveDate, SubsecRound, Utc};
use hygrothermal::surface::Accuracy;
use uuid::Uuid;

impl Visit {
    /// One that begins, nothing to be looked through.
    #[must_use]
    pub const fn begun(id: Uuid, job_id: Uuid, consultant_id: Uuid, started_at: DateTime<Utc>) -> Self {
        Self {
            id,
            job_id,
            consultant_id,
            started_at,
            ended_at: None,
            for_review: false,
            reviewed_by: None,
            reviewed_at: None,
        }
    }
}

building::kinds! {
    /// What somebody of a practice may do.
    Role {
        /// Everything, people and prices too.
        Lead = "lead", "lead";
        /// Visits, findings, readings.
        Technician = "technician", "technician";
        /// Reads, and signs what a trainee did.
        Reviewer = "reviewer", "reviewer";
        /// Visits that somebody looks through, and rehearsals of their own.
        Trainee = "trainee", "trainee";
    }
    /// How a job stands: the worst verdict of its latest visit.
    Worst {
        /// Water forms.
        Condensing = "condensing", "condensing";
        /// The band spans the dew point.
        CantTell = "cant_tell", "can’t tell";
        /// Mold can grow.
        MoldRisk = "mold_risk", "mold risk";
        /// Neither.
        Dry = "dry", "dry";
        /// Nothing was judged.
        NotJudged = "not_judged", "not judged";
    }
    /// What a program's token lets it do, as far as the person may whose it is.
    TokenScope {
        /// Look at jobs and what all jobs share.
        Read = "read", "read everything you may see";
        /// Keep readings, findings, visits and logs, and change buildings.
        Visit = "visit", "keep visits, readings, findings, buildings and logs";
        /// Decide about plans.
        Plan = "plan", "decide about plans";
        /// Open jobs and change what they are.
        Jobs = "jobs", "open, change and archive jobs";
    }
    /// What others are told of.
    EventKind {
        /// A job was opened.
        JobOpened = "job.opened", "a job was opened";
        /// Something about a job was changed.
        JobChanged = "job.changed", "something about a job was changed";
        /// A visit ended.
        VisitFinished = "visit.finished", "a visit was finished";
        /// Readings were kept.
        ReadingsAdded = "readings.added", "readings were kept";
        /// A log is not as its rules want it.
        AlertRaised = "alert.raised", "a log raised an alert";
        /// A version of a report was made.
        ReportPublished = "report.published", "a version of a report was made";
        /// A reader accepted a plan.
        ReaderAccepted = "reader.accepted", "a reader accepted the plan";
        /// A reader said something.
        ReaderCommented = "reader.commented", "a reader left a comment";
    }
    /// How a follow-up stands.
    FollowUpState {
        /// Still to be looked at.
        Open = "open", "open";
        /// Looked at.
        Done = "done", "done";
        /// No longer wanted.
        Dropped = "dropped", "dropped";
    }
    /// Work that takes longer than a page may.
    TaskKind {
        /// Finding out how a file is to be read.
        LookAtFile = "look_at_file", "looking at the file";
        /// Making the log what was decided about a file: its readings in, or out again.
        BringIn = "bring_in", "bringing in the file";
        /// Making hours anew where readings were left out or taken back.
        RollUp = "roll_up", "working out the hours";
        /// Asking for the weather to come.
        Forecast = "forecast", "asking for the forecast";
        /// Looking whether a log is as its rules want it.
        Watch = "watch", "watching the log";
        /// Sending a letter.
        Mail = "mail", "sending a letter";
        /// Packing a job, or all of them, into a file.
        Pack = "pack", "packing the file";
        /// Bringing a job in from a file.
        Unpack = "unpack", "bringing the job in";
        /// Printing a version of a report.
        Print = "print", "printing the report";
        /// Telling another program what happened.
        Deliver = "deliver", "telling another program";
        /// Looking how jobs stand after much was changed.
        Stand = "stand", "looking how jobs stand";
        /// Removing single readings older than a practice keeps them.
        Retain = "retain", "removing old readings";
    }
    /// What a file that leaves or comes in is.
    ParcelKind {
        /// A job as JSON.
        Json = "json", "JSON";
        /// Its tables as CSV, zipped, with their descriptor.
        Csv = "csv", "CSV bundle";
        /// Its tables as a workbook.
        Xlsx = "xlsx", "XLSX";
        /// Every job of the practice as JSON, zipped.
        Practice = "practice", "whole practice";
        /// A job that comes in.
        In = "in", "a job that came";
    }
    /// What a reader says by their link.
    WordKind {
        /// A comment.
        Comment = "comment", "comment";
        /// That the plan is to be done.
        Accept = "accept", "accepts the plan";
    }
    /// How a task stands.
    TaskState {
        /// Nobody works on it yet.
        Waiting = "waiting", "waiting";
        /// Somebody does.
        Running = "running", "running";
        /// Done.
        Done = "done", "done";
        /// Given up.
        Failed = "failed", "failed";
    }
}

/// A cell of a row and the value of a record it stands for.
pub(crate) trait Cell<T>: Sized {
    /// The value; an unknown word is an error, never a guess.
    fn read(cell: T) -> Result<Self, StoreError>;
    /// The cell.
    fn write(self) -> T;
}

macro_rules! plain {
    ($($ty:ty),*) => {$(impl Cell<$ty> for $ty {
        fn read(cell: $ty) -> Result<Self, StoreError> {
            Ok(cell)
        }
        fn write(self) -> $ty {
            self
        }
    })*};
}
plain!(
    i64,
    Uuid,
    Option<Uuid>,
    String,
    Option<String>,
    f64,
    Option<f64>,
    i32,
    Option<i32>,
    bool,
    NaiveDate,
    Option<NaiveDate>,
    serde_json::Value,
    Option<serde_json::Value>
);

/// Moments are kept to the precision of the database, so that a record read back is the record written.
impl Cell<DateTime<Utc>> for DateTime<Utc> {
    fn read(cell: Self) -> Result<Self, StoreError> {
        Ok(cell)
    }
    fn write(self) -> Self {
        self.trunc_subsecs(6)
    }
}

impl Cell<Option<DateTime<Utc>>> for Option<DateTime<Utc>> {
    fn read(cell: Self) -> Result<Self, StoreError> {
        Ok(cell)
    }
    fn write(self) -> Self {
        self.map(Cell::write)
    }
}

macro_rules! word {
    ($($ty:ty),*) => {$(
        impl Cell<String> for $ty {
            fn read(cell: String) -> Result<Self, StoreError> {
                Self::from_id(&cell).ok_or_else(|| StoreError::Corrupt(format!("unknown word {cell}")))
            }
            fn write(self) -> String {
                self.id().to_owned()
            }
        }
        impl Cell<Option<String>> for Option<$ty> {
            fn read(cell: Option<String>) -> Result<Self, StoreError> {
                cell.map(Cell::read).transpose()
            }
            fn write(self) -> Option<String> {
                self.map(Cell::write)
            }
        }
    )*};
}
word!(
    AlertKind,
    ReadingKind,
    InstrumentKind,
    FollowUpState,
    Humidity,
    SensorKind,
    MarkKind,
    TaskKind,
    TaskState,
    DryRead,
    MapScale,
    Role,
    WordKind,
    ParcelKind,
    TokenScope,
    EventKind,
    Material,
    Thing
);

/// Words separated by spaces.
macro_rules! several {
    ($($ty:ty),*) => {$(impl Cell<String> for Vec<$ty> {
        fn read(cell: String) -> Result<Self, StoreError> {
            cell.split_whitespace().map(|id| Cell::read(id.to_owned())).collect()
        }
        fn write(self) -> String {
            self.into_iter().map(|x| x.id()).collect::<Vec<_>>().join(" ")
        }
    })*};
}
several!(TokenScope, EventKind);

/// A place on a face.
impl Cell<serde_json::Value> for At {
    fn read(cell: serde_json::Value) -> Result<Self, StoreError> {
        serde_json::from_value(cell).map_err(|e| StoreError::Corrupt(e.to_string()))
    }
    fn write(self) -> serde_json::Value {
        serde_json::to_value(self).unwrap_or_default()
    }
}

/// Ids separated by spaces.
impl Cell<String> for Vec<String> {
    fn read(cell: String) -> Result<Self, StoreError> {
        Ok(cell.split_whitespace().map(str::to_owned).collect())
    }
    fn write(self) -> String {
        self.join(" ")
    }
}

/// A record and the row behind it; `at` is the place three columns of the row stand for, `removable` rows have a date of
/// removal.
macro_rules! records {
    ($($(#[$doc:meta])* $name:ident of $module:ident $($extra:ident)* {
        $($(#[$field_doc:meta])* $field:ident: $ty:ty,)*
    })*) => {$(
        records!(@define [$(#[$doc])*] $name [$($extra)*] { $($(#[$field_doc])* $field: $ty,)* });
        records!(@convert $name $module [$($extra)*] { $($field)* });
    )*};
    (@define [$(#[$doc:meta])*] $name:ident [at $($rest:ident)*] { $($body:tt)* }) => {
        records!(@define [$(#[$doc])*] $name [$($rest)*] { $($body)* /** Where. */ spot: Spot, });
    };
    (@define [$(#[$doc:meta])*] $name:ident [removable] { $($body:tt)* }) => {
        records!(@define [$(#[$doc])*] $name [] { $($body)* /** Whether keeping it takes it away. */ removed: bool, });
    };
    (@define [$(#[$doc:meta])*] $name:ident [] { $($(#[$field_doc:meta])* $field:ident: $ty:ty,)* }) => {
        $(#[$doc])*
        #[derive(Debug, Clone, PartialEq)]
        pub struct $name { $($(#[$field_doc])* pub $field: $ty,)* }
    };
    (@convert $name:ident $module:ident [at removable] { $($field:ident)* }) => {
        impl TryFrom<$module::Model> for $name {
            type Error = StoreError;
            fn try_from(row: $module::Model) -> Result<Self, StoreError> {
                let spot = Spot::of_columns(row.space_id, row.boundary_id, row.surface_id);
                Ok(Self { removed: row.removed_at.is_some(), spot, $($field: Cell::read(row.$field)?,)* })
            }
        }
        impl $name {
            pub(crate) fn row(self, practice_id: Uuid, at: DateTime<Utc>) -> $module::Model {
                let (space_id, boundary_id, surface_id) = self.spot.columns();
                let removed_at = self.removed.then_some(at);
                $module::Model {
                    practice_id, space_id, boundary_id, surface_id, removed_at, $($field: Cell::write(self.$field),)*
                }
            }
        }
    };
    (@convert $name:ident $module:ident [removable] { $($field:ident)* }) => {
        impl TryFrom<$module::Model> for $name {
            type Error = StoreError;
            fn try_from(row: $module::Model) -> Result<Self, StoreError> {
                Ok(Self { removed: row.removed_at.is_some(), $($field: Cell::read(row.$field)?,)* })
            }
        }
        impl $name {
            pub(crate) fn row(self, practice_id: Uuid, at: DateTime<Utc>) -> $module::Model {
                let removed_at = self.removed.then_some(at);
                $module::Model { practice_id, removed_at, $($field: Cell::write(self.$field),)* }
            }
        }
    };
    (@convert $name:ident $module:ident [] { $($field:ident)* }) => {
        impl TryFrom<$module::Model> for $name {
            type Error = StoreError;
            fn try_from(row: $module::Model) -> Result<Self, StoreError> {
                Ok(Self { $($field: Cell::read(row.$field)?,)* })
            }
        }
        impl $name {
            pub(crate) fn row(self, practice_id: Uuid) -> $module::Model {
                $module::Model { practice_id, $($field: Cell::write(self.$field),)* }
            }
        }
    };
}

records! {
    /// A token by which programs are let in as somebody; what it says itself is known to nobody but them.
    ApiToken of api_token {
        /// Identity.
        id: Uuid,
        /// As whom.
        consultant_id: Uuid,
        /// What it is for.
        name: String,
        /// What is kept of it, by which it is known.
        key_hash: String,
        /// What it lets a program do.
        scopes: Vec<TokenScope>,
        /// Since when.
        made_at: DateTime<Utc>,
        /// Until when, where it ends by itself.
        expires_at: Option<DateTime<Utc>>,
        /// When it was used last.
        used_at: Option<DateTime<Utc>>,
        /// When it was ended.
        ended_at: Option<DateTime<Utc>>,
    }
    /// A key that a device keeps for somebody and lets them in by.
    Passkey of passkey {
        /// Identity.
        id: Uuid,
        /// Whose.
        consultant_id: Uuid,
        /// What the device calls it.
        credential: String,
        /// The public key, as JSON.
        key: serde_json::Value,
        /// What its owner calls it.
        name: String,
        /// Since when.
        made_at: DateTime<Utc>,
        /// When it let them in last.
        used_at: Option<DateTime<Utc>>,
    }
    /// Another program that is told of what happens.
    Webhook of webhook {
        /// Identity.
        id: Uuid,
        /// Where.
        url: String,
        /// What its letters are signed by.
        secret: String,
        /// What it is told of.
        events: Vec<EventKind>,
        /// Who set it up.
        made_by: Uuid,
        /// Since when.
        made_at: DateTime<Utc>,
        /// When it was ended.
        ended_at: Option<DateTime<Utc>>,
    }
    /// Something another program is told, and how that went.
    Delivery of delivery {
        /// Identity.
        id: Uuid,
        /// Who is told.
        webhook_id: Uuid,
        /// The job it is about.
        job_id: Option<Uuid>,
        /// What happened.
        event: EventKind,
        /// The letter, JSON.
        body: String,
        /// When it happened.
        made_at: DateTime<Utc>,
        /// How often it was sent.
        tries: i32,
        /// When it is sent next; none when it is done with.
        next_at: Option<DateTime<Utc>>,
        /// When it was taken.
        done_at: Option<DateTime<Utc>>,
        /// What was answered last, an HTTP status.
        status: Option<i32>,
        /// Why it was not taken.
        said: String,
    }
    /// A file that leaves or comes in.
    Parcel of parcel {
        /// Identity.
        id: Uuid,
        /// The job that leaves, or the one that came in.
        job_id: Option<Uuid>,
        /// What it is.
        kind: ParcelKind,
        /// What it is called.
        name: String,
        /// Whether it may come in beside itself.
        copy: bool,
        /// Who asked for it.
        consultant_id: Uuid,
        /// When.
        made_at: DateTime<Utc>,
        /// How long it is; 0 while it is not there.
        bytes: i64,
    }
    /// A version of a report, as it went out.
    ReportVersion of report_version {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The report it is of.
        report_id: Uuid,
        /// Its number, from 1.
        n: i32,
        /// What it is called.
        title: String,
        /// How it was put together, as JSON.
        said: serde_json::Value,
        /// What its first page and verdicts said, as JSON.
        facts: serde_json::Value,
        /// Who made it.
        consultant_id: Uuid,
        /// When.
        made_at: DateTime<Utc>,
    }
    /// What somebody of the practice said about a version of a report or a visit.
    Remark of remark {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The version it is about.
        version_id: Option<Uuid>,
        /// Or the visit.
        visit_id: Option<Uuid>,
        /// Who says it.
        consultant_id: Uuid,
        /// What.
        words: String,
        /// When.
        at: DateTime<Utc>,
    }
    /// Somebody signed a version.
    Signature of signature {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The version.
        version_id: Uuid,
        /// Who.
        consultant_id: Uuid,
        /// Their name then.
        name: String,
        /// As what they sign.
        signs_as: String,
        /// When.
        at: DateTime<Utc>,
    }
    /// What a reader said by their link.
    ShareWord of share_word {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The link.
        share_id: Uuid,
        /// What it is.
        kind: WordKind,
        /// Who they say they are.
        name: String,
        /// In words.
        words: String,
        /// When.
        at: DateTime<Utc>,
    }
    /// A visit to a job.
    Visit of visit {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Who.
        consultant_id: Uuid,
        /// When it began.
        started_at: DateTime<Utc>,
        /// When it ended; none while it is open.
        ended_at: Option<DateTime<Utc>>,
        /// Whether somebody has to look through it: a trainee made it.
        for_review: bool,
        /// Who looked through it.
        reviewed_by: Option<Uuid>,
        /// When.
        reviewed_at: Option<DateTime<Utc>>,
    }
    /// A reading as it was kept: raw, corrected and as typed.
    ReadingRecord of reading {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Visit.
        visit_id: Uuid,
        /// Station.
        station_id: Uuid,
        /// Instrument.
        instrument_id: Uuid,
        /// Who read it.
        consultant_id: Uuid,
        /// What it says.
        kind: ReadingKind,
        /// As typed.
        as_typed: String,
        /// Temperature as shown, °C.
        raw_t_c: Option<f64>,
        /// Moisture of the air as shown: % or °C.
        raw_humidity: Option<f64>,
        /// How moisture of the air was read.
        humidity_kind: Option<Humidity>,
        /// Temperature, corrected, °C.
        t_c: Option<f64>,
        /// Relative humidity, corrected, %.
        rh_pct: Option<f64>,
        /// `water` or `ice`: what the humidity is relative to.
        rh_over: Option<String>,
        /// Figure as shown.
        raw_value: Option<f64>,
        /// Figure, corrected.
        value: Option<f64>,
        /// Id of the wood.
        species: Option<String>,
        /// Temperature of the wood, °C.
        wood_t_c: Option<f64>,
        /// Emissivity of the surface.
        emissivity: Option<f64>,
        /// Reflected temperature, °C.
        reflected_c: Option<f64>,
        /// Hours run.
        hours: Option<f64>,
        /// Doubts raised at entry and kept despite, in words.
        questions: String,
        /// The reading it corrects.
        replaces: Option<Uuid>,
        /// Why it was corrected.
        reason: String,
        /// When it was read.
        taken_at: DateTime<Utc>,
        /// When it was stored.
        stored_at: DateTime<Utc>,
    }
    /// An instrument of the practice, with the correction of a salt check.
    Instrument of instrument {
        /// Identity.
        id: Uuid,
        /// Name.
        name: String,
        /// Serial number.
        serial: String,
        /// How far its air temperature may be off, K.
        air_err_k: f64,
        /// How far its relative humidity may be off, %.
        rh_err_pct: f64,
        /// How far its surface temperature may be off, K.
        surface_err_k: f64,
        /// How far its wood moisture may be off, %.
        wood_err_pct: f64,
        /// Correction of relative humidity: offset, %.
        rh_offset_pct: f64,
        /// What it is.
        kind: InstrumentKind,
        /// Seconds it takes to settle.
        settle_s: i32,
        /// Correction of relative humidity: slope.
        rh_slope: f64,
        /// Day of its last salt check.
        checked_on: Option<NaiveDate>,
    }
    /// A salt check of an instrument.
    SaltCheck of salt_check {
        /// Identity.
        id: Uuid,
        /// Instrument.
        instrument_id: Uuid,
        /// Who.
        consultant_id: Uuid,
        /// Ids of the salts.
        salts: Vec<String>,
        /// When it began.
        started_at: DateTime<Utc>,
        /// When it ended; none while it runs.
        ended_at: Option<DateTime<Utc>>,
        /// Temperature of the box, °C.
        t_c: Option<f64>,
        /// What it showed over each salt, %.
        shown: Option<serde_json::Value>,
        /// Correction: slope.
        rh_slope: Option<f64>,
        /// Correction: offset, %.
        rh_offset_pct: Option<f64>,
        /// Largest residual, %.
        max_residual_pct: Option<f64>,
        /// Words.
        note: String,
    }
    /// Something found at a place, or looked for and not there.
    FindingRecord of finding at removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Visit.
        visit_id: Option<Uuid>,
        /// Who.
        consultant_id: Uuid,
        /// Id of what was found, or its words.
        what: String,
        /// 1 to 3.
        severity: i32,
        /// Its figure.
        value: Option<f64>,
        /// Words.
        note: String,
        /// Looked for, and not there.
        absent: bool,
        /// When.
        found_at: DateTime<Utc>,
        /// When it was mended.
        gone_at: Option<DateTime<Utc>>,
    }
    /// A test, running or read.
    TestRun of test_run at removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Visit.
        visit_id: Option<Uuid>,
        /// Who.
        consultant_id: Uuid,
        /// Id of the test.
        test: String,
        /// Id of the result; none while it runs.
        result: Option<String>,
        /// Words.
        note: String,
        /// When it was set up.
        started_at: DateTime<Utc>,
        /// When it was read.
        ended_at: Option<DateTime<Utc>>,
    }
    /// A station that was skipped on a visit.
    Skip of skip removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Visit.
        visit_id: Uuid,
        /// Station.
        station_id: Uuid,
        /// Who.
        consultant_id: Uuid,
        /// Why.
        reason: String,
        /// When.
        skipped_at: DateTime<Utc>,
    }
    /// A picture; its files are kept beside it.
    Photo of photo at removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Visit.
        visit_id: Option<Uuid>,
        /// Who.
        consultant_id: Uuid,
        /// The finding it shows.
        finding_id: Option<Uuid>,
        /// Name of the file.
        name: String,
        /// Words.
        note: String,
        /// Marks.
        marks: serde_json::Value,
        /// Media type.
        media_type: String,
        /// Pixels.
        width: i32,
        /// Pixels.
        height: i32,
        /// Size of the original.
        bytes: i32,
        /// When it was taken.
        taken_at: DateTime<Utc>,
    }
    /// A thermal picture.
    Thermal of thermal at removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Who.
        consultant_id: Uuid,
        /// What it is called.
        name: String,
        /// Words.
        note: String,
        /// When it was taken.
        taken_at: DateTime<Utc>,
        /// Breadth of what is seen, m.
        width_m: Option<f64>,
        /// Temperature of the air it was taken in, °C.
        air_t_c: Option<f64>,
        /// Its relative humidity, %.
        air_rh_pct: Option<f64>,
        /// Outdoor temperature, °C.
        outdoor_c: Option<f64>,
        /// Emissivity of the surface.
        emissivity: f64,
        /// Reflected temperature, °C.
        reflected_c: Option<f64>,
        /// Emissivity the camera was set to.
        set_emissivity: f64,
        /// Reflected temperature it was set to, °C.
        set_reflected_c: Option<f64>,
        /// Cells from top to bottom.
        rows: i32,
        /// Cells from left to right.
        columns: i32,
        /// What its patches turned out to be; empty until something settled it.
        settled: String,
        /// The photo beside it.
        photo_id: Option<Uuid>,
    }
    /// Where something is on the unfolded space.
    Placing of placed removable {
        /// Of what: its id.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The space.
        space_id: Uuid,
        /// What it is.
        what: Thing,
        /// Where.
        at: At,
    }
    /// A way walked with one meter on one material.
    MoistureMap of moisture_map removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Visit.
        visit_id: Option<Uuid>,
        /// The space.
        space_id: Uuid,
        /// Who.
        consultant_id: Uuid,
        /// The meter.
        instrument_id: Uuid,
        /// What it is called.
        name: String,
        /// Id of the way.
        route: String,
        /// Whether it goes over a face.
        is_grid: bool,
        /// What its figures are.
        scale: MapScale,
        /// The material.
        material: Material,
        /// Id of the wood pins were read in; empty for others.
        species: String,
        /// From a place to the next, m.
        spacing_m: f64,
        /// What the same material shows where it is dry.
        standard: Option<f64>,
        /// Where that is.
        standard_at: String,
        /// Why a meter was let through where it should not speak.
        reason: String,
        /// Places that only seem wet, by number, with why.
        false_wets: serde_json::Value,
        /// When.
        started_at: DateTime<Utc>,
    }
    /// What was read at a place of a map.
    MapReading of map_point {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The map.
        map_id: Uuid,
        /// Number of the place.
        n: i32,
        /// Where.
        at: At,
        /// The figure; none where nothing could be read, or more than the scale holds.
        value: Option<f64>,
        /// More than the scale holds.
        over: bool,
        /// As typed.
        as_typed: String,
        /// When.
        taken_at: DateTime<Utc>,
    }
    /// What was read on a drying round.
    DryingReading of drying_reading {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The round.
        round_id: Uuid,
        /// A point, a machine, a space, or the job for outdoor air.
        of_id: Uuid,
        /// What was read.
        what: DryRead,
        /// The figure, or temperature in °C, corrected; none where nothing could be read, or more than the scale holds.
        a: Option<f64>,
        /// Relative humidity, corrected, %.
        b: Option<f64>,
        /// More than the scale holds.
        over: bool,
        /// As typed.
        as_typed: String,
        /// Why it was corrected.
        reason: String,
        /// By which instrument.
        instrument_id: Option<Uuid>,
        /// By whom.
        consultant_id: Uuid,
        /// When.
        taken_at: DateTime<Utc>,
    }
    /// What was certified ready to close in, as it was then.
    Certificate of certificate {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// What is closed in.
        cavity: String,
        /// What it says.
        said: serde_json::Value,
        /// By whom.
        consultant_id: Uuid,
        /// When.
        at: DateTime<Utc>,
    }
    /// What a consultant concluded about a job or one of its places.
    Conclusion of conclusion removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The place it is about; none for the whole building.
        space_id: Option<Uuid>,
        /// Ids of the causes.
        causes: Vec<String>,
        /// Ids of what was computed when it was drawn.
        computed: Vec<String>,
        /// Why it differs.
        reason: String,
        /// Who.
        updated_by: Uuid,
        /// When.
        updated_at: DateTime<Utc>,
    }
    /// What was decided about a step of a plan.
    StepDecision of plan_step removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Id of the fix.
        fix: String,
        /// Id of the stage it was put in.
        stage: Option<String>,
        /// Why its gate was overridden; empty where it was not.
        override_reason: String,
        /// Why it was left out; empty where it was not.
        left_out: String,
        /// Day it was done.
        done_on: Option<NaiveDate>,
        /// What showed that it worked, or did not; empty where nothing did yet.
        proof: String,
        /// Who.
        updated_by: Uuid,
        /// When.
        updated_at: DateTime<Utc>,
    }
    /// A figure of a plan typed over.
    TypedFigure of plan_figure removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Id of the fix.
        fix: String,
        /// Name of the figure.
        name: String,
        /// Its value, SI.
        value: String,
        /// Who.
        updated_by: Uuid,
        /// When.
        updated_at: DateTime<Utc>,
    }
    /// An approach chosen for a job.
    ChosenSchool of school removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Id of the question.
        question: String,
        /// Id of the school.
        choice: String,
        /// Why.
        reason: String,
        /// Who.
        updated_by: Uuid,
        /// When.
        updated_at: DateTime<Utc>,
    }
    /// Something to look at again.
    FollowUpRecord of follow_up removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Id of what is looked at.
        what: String,
        /// Name.
        name: String,
        /// Words.
        note: String,
        /// Day it was put on the calendar.
        begun_on: NaiveDate,
        /// Day it is due.
        due_on: NaiveDate,
        /// How it stands.
        state: FollowUpState,
        /// Why it was moved or dropped.
        reason: String,
        /// Who.
        updated_by: Uuid,
        /// When.
        updated_at: DateTime<Utc>,
    }
    /// What one sensor of a logger reads at one place of a job.
    LogSeries of log_series removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// The logger.
        instrument_id: Uuid,
        /// The logger's own name for the sensor; empty where it has only one.
        channel: String,
        /// What it reads.
        reads: SensorKind,
        /// The space it hangs in; none for outdoors.
        space_id: Option<Uuid>,
        /// The surface it sits on.
        surface_id: Option<Uuid>,
        /// Readings it has.
        points: i64,
        /// The first of them.
        first_at: Option<DateTime<Utc>>,
        /// The last of them.
        last_at: Option<DateTime<Utc>>,
    }
    /// What a log is watched for, in a space.
    AlertRule of alert_rule removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Who made it.
        consultant_id: Uuid,
        /// The space.
        space_id: Uuid,
        /// For what.
        kind: AlertKind,
        /// The figure not to be passed, % or °C; none where hours alone say it.
        figure: Option<f64>,
        /// For how many hours.
        hours: i32,
        /// Whom to write to; nobody where empty.
        mail_to: String,
    }
    /// What somebody marked in a log.
    LogMark of log_mark removable {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Who.
        consultant_id: Uuid,
        /// What it is.
        kind: MarkKind,
        /// The series it is of; none for all.
        series_id: Option<Uuid>,
        /// The space it is of; none for the whole building.
        space_id: Option<Uuid>,
        /// When it begins.
        from_at: DateTime<Utc>,
        /// When it ends; none for a moment.
        until_at: Option<DateTime<Utc>>,
        /// In few words.
        what: String,
        /// In more.
        note: String,
    }
    /// A file sent for a log.
    LogFile of log_file {
        /// Identity.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Who sent it.
        consultant_id: Uuid,
        /// Its name.
        name: String,
        /// Its length.
        bytes: i64,
        /// Its hash.
        sha256: String,
        /// What somebody said of it.
        wishes: serde_json::Value,
        /// What was found in it.
        found: Option<serde_json::Value>,
        /// What became of it.
        became: Option<serde_json::Value>,
        /// When it was sent.
        sent_at: DateTime<Utc>,
    }
    /// That a file is part of a log.
    BringIn of bring_in removable {
        /// The file's.
        id: Uuid,
        /// Job.
        job_id: Uuid,
        /// Who decided so.
        consultant_id: Uuid,
        /// The logger it came from.
        instrument_id: Uuid,
        /// Where its sensors belong.
        places: serde_json::Value,
        /// When it was decided.
        kept_at: DateTime<Utc>,
    }
}

impl Instrument {
    /// How far it may be off.
    ///
    /// # Errors
    /// [`StoreError::Corrupt`] when its errors are out of range.
    pub fn accuracy(&self) -> Result<Accuracy, StoreError> {
        crate::convert::accuracy(self)
    }

    /// A relative humidity it showed, %, corrected by its salt check.
    #[must_use]
    pub fn corrected(&self, raw: f64) -> f64 {
        self.rh_slope * raw + self.rh_offset_pct
    }
}

/// Every row as a record.
pub(crate) fn records<M, R: TryFrom<M, Error = StoreError>>(rows: Vec<M>) -> Result<Vec<R>, StoreError> {
    rows.into_iter().map(R::try_from).collect()
}

impl LogSeries {
    /// A new series without any reading: what a logger's sensor reads at a place, by the place's space and surface.
    #[must_use]
    pub fn at(
        (job_id, instrument_id): (Uuid, Uuid),
        channel: &str,
        reads: SensorKind,
        (space_id, surface_id): (Option<Uuid>, Option<Uuid>),
    ) -> Self {
        Self {
            id: Uuid::now_v7(),
            job_id,
            instrument_id,
            channel: channel.to_owned(),
            reads,
            space_id,
            surface_id,
            points: 0,
            first_at: None,
            last_at: None,
            removed: false,
        }
    }
}

/// A link by which somebody reads a version; never its secret.
#[derive(Debug, Clone, PartialEq)]
pub struct Share {
    /// Identity.
    pub id: Uuid,
    /// Job.
    pub job_id: Uuid,
    /// The version.
    pub version_id: Uuid,
    /// Whom it was made for.
    pub reader: String,
    /// Who made it.
    pub made_by: Uuid,
    /// When.
    pub made_at: DateTime<Utc>,
    /// Until when it holds.
    pub expires_at: DateTime<Utc>,
    /// When it was shut.
    pub revoked_at: Option<DateTime<Utc>>,
    /// How often it was opened.
    pub opened: i32,
    /// When last.
    pub opened_at: Option<DateTime<Utc>>,
}

impl TryFrom<share::Model> for Share {
    type Error = StoreError;
    fn try_from(r: share::Model) -> Result<Self, StoreError> {
        Ok(Self {
            id: r.id,
            job_id: r.job_id,
            version_id: r.version_id,
            reader: r.reader,
            made_by: r.made_by,
            made_at: r.made_at,
            expires_at: r.expires_at,
            revoked_at: r.revoked_at,
            opened: r.opened,
            opened_at: r.opened_at,
        })
    }
}

impl Share {
    /// Its row, as yet without the hash of a secret.
    pub(crate) fn row(self, practice_id: Uuid) -> share::Model {
        share::Model {
            practice_id,
            id: self.id,
            job_id: self.job_id,
            version_id: self.version_id,
            key_hash: String::new(),
            reader: self.reader,
            made_by: self.made_by,
            made_at: self.made_at.trunc_subsecs(6),
            expires_at: self.expires_at.trunc_subsecs(6),
            revoked_at: self.revoked_at,
            opened: self.opened,
            opened_at: self.opened_at,
        }
    }
}

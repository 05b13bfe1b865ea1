//! PostgreSQL, and the only place that meets it.
//!
//! Everything belongs to a practice. A [`Scope`] is a transaction that belongs to one: every query filters on its
//! practice's id, and row-level security in the database refuses every other row even where a filter were forgotten.

mod bulk;
mod convert;
mod ears;
mod entity;
mod error;
mod exchange;
mod migration;
mod owner;
mod query;
mod record;
mod scope;

pub use bulk::{Batch, Fate, Intake, Stale};
pub use ears::{Ears, Word};
pub use error::StoreError;
pub use exchange::{Arriving, Came, Departing, FORMAT_VERSION, Field, Refusal, Table, fields};
pub use owner::migrate;
pub use query::alerts::{Alert, Letter, Raised};
pub use query::calendars::Feed;
pub use query::calls::CallSheet;
pub use query::conclusions::NewConclusion;
pub use query::docket::{Listed, Order, Sought, Stale as StaleStanding, Standing};
pub use query::files::{FileKnown, Part};
pub use query::forecasts::{Forecast, ForecastHour};
pub use query::history::{Act, Change, RESTORABLE_DAYS, RowChange, Undone};
pub use query::job_file::{Depth, JobRecords, Undoable};
pub use query::jobs::{Job, JobEdit, NewJob, Site};
pub use query::loggers::{Live, Posting};
pub use query::logs::{Grain, LogParts};
pub use query::members::{Audited, Device, INVITE_DAYS, Invite, Member, Session, SignIn};
pub use query::parcels::{MOST_PARCELS, PARCEL_DAYS};
pub use query::people::{Account, NewPractice, Person, Revision, SignedIn};
pub use query::photos::PhotoSize;
pub use query::plans::{PlanRows, plan_row_id};
pub use query::prices::{PracticeAct, PracticeChange, PriceBook, Setting, Settled};
pub use query::readings::{Kept, NewReading, NewValue, effective};
pub use query::reports::{MOST_REMARKS, ReportImage, ReportRows};
pub use query::retention::Retention;
pub use query::shares::{MOST_SHARES, MOST_WORDS};
pub use query::tasks::Task;
pub use query::tokens::{Answered, Token};
pub use query::webhooks::MOST_WEBHOOKS;
pub use record::{
    AlertRule, ApiToken, BringIn, Certificate, ChosenSchool, Conclusion, Delivery, DryingReading, EventKind,
    FindingRecord, FollowUpRecord, FollowUpState, Instrument, LogFile, LogMark, LogSeries, MapReading, MoistureMap,
    Parcel, ParcelKind, Passkey, Photo, Placing, ReadingRecord, Remark, ReportVersion, Role, SaltCheck, Share,
    ShareWord, Signature, Skip, StepDecision, TaskKind, TaskState, TestRun, Thermal, TokenScope, TypedFigure, Visit,
    Webhook, WordKind, Worst,
};
pub use scope::{Scope, Store};

//! What lies outside the program: a forecast service, and the mail.

use crate::file::CaseFile;
use crate::log::Finding;
use chrono::{DateTime, Utc};
use std::future::Future;
use store::{AlertRule, ForecastHour, Job, Letter, ReportImage, ReportVersion, Signature};

/// Why nothing came from outside, or went there.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum OutsideError {
    /// Nobody said where it is.
    #[error("{0}")]
    NotSet(&'static str),
    /// It did not answer, or not with what was asked for.
    #[error("{0}")]
    Failed(String),
    /// It does not answer now; it may in a while.
    #[error("{0}")]
    Away(String),
}

/// What is to be told of a rule.
#[derive(Clone, Copy)]
pub struct News<'a> {
    /// The job.
    pub file: &'a CaseFile,
    /// The rule.
    pub rule: &'a AlertRule,
    /// What it found.
    pub finding: Finding,
    /// Whether that is over.
    pub cleared: bool,
    /// When.
    pub at: DateTime<Utc>,
}

/// A version of a report to be printed, with everything on its pages.
#[derive(Debug, Clone)]
pub struct ToPrint {
    /// The version.
    pub version: ReportVersion,
    /// Its text, which names its pictures by number.
    pub html: String,
    /// Its pictures, in order.
    pub images: Vec<ReportImage>,
    /// Who signed it.
    pub signatures: Vec<Signature>,
    /// What the practice is called.
    pub practice_name: String,
    /// The practice’s time zone.
    pub time_zone: String,
}

/// What another program is told.
#[derive(Debug, Clone)]
pub struct Telling {
    /// Where.
    pub url: String,
    /// Its name: the same when it is told again.
    pub id: String,
    /// When, seconds since 1970.
    pub at: i64,
    /// What shows that it comes from here: a keyed hash of name, time and body.
    pub signature: String,
    /// JSON.
    pub body: String,
}

/// Whoever talks to what lies outside.
pub trait Outside: Clone + Send + Sync + 'static {
    /// The weather to come at a job, hour by hour.
    fn forecast(&self, job: &Job) -> impl Future<Output = Result<Vec<ForecastHour>, OutsideError>> + Send;

    /// Sends a letter.
    fn mail(&self, letter: &Letter) -> impl Future<Output = Result<(), OutsideError>> + Send;

    /// Prints a version of a report: a PDF.
    fn print(&self, version: &ToPrint) -> impl Future<Output = Result<Vec<u8>, OutsideError>> + Send;

    /// Tells another program something, and gives the HTTP status it answered.
    fn tell(&self, what: &Telling) -> impl Future<Output = Result<u16, OutsideError>> + Send;

    /// What a letter says: its subject and its body.
    fn words(&self, news: &News) -> [String; 2];
}

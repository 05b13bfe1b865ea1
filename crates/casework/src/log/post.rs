//! What a logger posts: read like a file, and kept where its sensors belong.

use super::WorkError;
use super::keep::{Corrections, Gathered, Series, To};
use super::look::Unread;
use super::place::sensor_kind;
use building::{Place, SensorKind};
use chrono::{DateTime, Datelike, TimeDelta, Utc};
use logger::{Reading, Reads, Refused, Wishes, Zone, survey};
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::ops::ControlFlow;
use store::{Posting, Store};
use uuid::Uuid;

/// Most rows of one post.
pub const MOST_ROWS: u64 = 5000;
/// Most refused rows told.
const TOLD: usize = 100;
/// Most sensors without a place that are remembered.
const REMEMBERED: usize = 50;
/// How far ahead a clock may be.
const AHEAD: TimeDelta = TimeDelta::hours(26);

/// Where a sensor that posts belongs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct LiveSensor {
    /// The logger's own name for it.
    pub channel: String,
    /// What it reads.
    pub kind: String,
    /// Job.
    pub job: Uuid,
    /// A space or a surface; none for outdoors.
    pub id: Option<Uuid>,
    /// Whether that is a surface.
    pub on_surface: bool,
    /// Its series.
    pub series: Uuid,
}

impl LiveSensor {
    /// Where it is.
    #[must_use]
    pub fn place(&self) -> Place {
        match self.id {
            None => Place::Outdoors,
            Some(id) if self.on_surface => Place::Surface(id),
            Some(id) => Place::Space(id),
        }
    }

    /// What it reads.
    #[must_use]
    pub fn sensor(&self) -> Option<SensorKind> {
        SensorKind::from_id(&self.kind)
    }
}

/// What became of a post.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize)]
pub struct Posted {
    /// Readings that are new.
    pub stored: u64,
    /// Readings that were there already.
    pub known: u64,
    /// Of these, that say something else than what is there; that stayed.
    pub differ: u64,
    /// Rows that were not taken, the first hundred of them.
    pub refused: Vec<Unread>,
    /// Sensors nobody has said the place of: their readings are not kept.
    pub unplaced: Vec<(String, Reads)>,
}

/// What a post says, before it is kept.
struct Said {
    points: Vec<(Uuid, logger::Point)>,
    refused: Vec<Unread>,
    unplaced: BTreeSet<(String, Reads)>,
}

/// Keeps what a logger posted. Sent twice it is there once, whatever came between.
///
/// # Errors
/// [`WorkError::Unreadable`] where nothing of it can be read, [`WorkError::Store`] when the database does not answer.
pub async fn post(store: &Store, from: &Posting, body: Vec<u8>, now: DateTime<Utc>) -> Result<Posted, WorkError> {
    let sensors: Vec<LiveSensor> = serde_json::from_value(from.goes.clone()).unwrap_or_default();
    let jobs: BTreeSet<Uuid> = sensors.iter().map(|s| s.job).collect();
    let said =
        tokio::task::spawn_blocking(move || read(&body, &sensors, now)).await.map_err(|_| WorkError::Stopped)??;
    let scope = store.practice(from.practice).await?;
    let checks = Corrections::of(&scope, from.instrument).await?;
    drop(scope);
    let mut intake = store.intake(from.practice).await?;
    intake.take(&said.points).await?;
    let settled = intake.settle(None).await?;
    for span in settled.stale() {
        intake.roll_up(span, |p| checks.correct(p)).await?;
    }
    let mut known: BTreeSet<(String, Reads)> = serde_json::from_value(from.unplaced.clone()).unwrap_or_default();
    known.extend(said.unplaced.iter().take(REMEMBERED).cloned());
    let unplaced: Vec<_> = known.into_iter().take(REMEMBERED).collect();
    intake.heard(from.instrument, &serde_json::json!(unplaced)).await?;
    intake.commit_all(&jobs.into_iter().collect::<Vec<_>>()).await?;
    Ok(Posted {
        stored: settled.fresh(),
        known: settled.known,
        differ: settled.differ,
        refused: said.refused,
        unplaced: said.unplaced.into_iter().collect(),
    })
}

fn read(body: &[u8], sensors: &[LiveSensor], now: DateTime<Utc>) -> Result<Said, WorkError> {
    let unreadable = |e: logger::Unreadable| WorkError::Unreadable(e.to_string());
    // A post says its own zone; one that does not is universal.
    let wishes = Wishes { zone: Some(Zone::Fixed(0)), ..Wishes::default() };
    let how = survey(body, &wishes).map_err(unreadable)?;
    let mut said = Said { points: Vec::new(), refused: Vec::new(), unplaced: BTreeSet::new() };
    let mut line = Gathered::default();
    let mut rows = 0;
    let mut many = false;
    let read = Reading { source: body, survey: &how }.each(&mut |row| {
        let row = match row {
            Ok(row) if (1990..=now.year() + 1).contains(&row.at.year()) && row.at <= now + AHEAD => row,
            Ok(row) => {
                let why = "a time that cannot be: is the logger’s clock right?".to_owned();
                refuse(&mut said.refused, Refused { line: row.line, text: row.at.to_rfc3339(), why });
                return ControlFlow::Continue(());
            }
            Err(bad) => {
                refuse(&mut said.refused, bad);
                return ControlFlow::Continue(());
            }
        };
        if row.line != line.number {
            rows += 1;
            line.end(&mut said.points);
            line.number = row.line;
        }
        let series = of_channel(sensors, &row.channel, &row.values, &mut said.unplaced);
        line.take(&row, &series);
        many = rows > MOST_ROWS;
        if many { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    });
    read.map_err(unreadable)?;
    if many {
        return Err(WorkError::Unreadable(format!("more than {MOST_ROWS} rows: send them in parts")));
    }
    line.end(&mut said.points);
    Ok(said)
}

fn refuse(refused: &mut Vec<Unread>, bad: Refused) {
    if refused.len() < TOLD {
        refused.push(bad.into());
    }
}

/// The series of what one sensor says.
fn of_channel(
    sensors: &[LiveSensor],
    channel: &str,
    values: &logger::Values,
    unplaced: &mut BTreeSet<(String, Reads)>,
) -> Series {
    let mut series = Series::new();
    for (reads, value) in values {
        let fits = |s: &&LiveSensor| {
            s.channel == channel && s.sensor().is_some() && sensor_kind(*reads, s.place()) == s.sensor()
        };
        let to = sensors.iter().find(fits).and_then(|s| Some(To { id: s.series, kind: s.sensor()? }));
        if to.is_none() && value.is_some() {
            unplaced.insert((channel.to_owned(), *reads));
        }
        series.insert((channel.to_owned(), *reads), to);
    }
    series
}

//! What is found in a file before it is decided where its sensors belong.

use super::WorkError;
use super::place::{Goes, Wished, sensor_kind};
use super::spool::spooled;
use building::{Building, Place};
use chrono::{DateTime, Utc};
use logger::{Reading, Reads, Refused, Row, Survey, survey};
use serde::{Deserialize, Serialize};
use std::ops::ControlFlow;
use std::path::Path;
use store::{FileKnown, LogFile, Scope, Store};
use uuid::Uuid;

/// Rows shown of a file.
const SHOWN: usize = 8;
/// Refused lines shown on a page; all of them are in the list that can be downloaded.
const REFUSED: usize = 20;
/// Most sensors of a file.
const MOST_SENSORS: usize = 200;

/// What is found in a file.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Found {
    /// Why nothing of it can be read.
    pub unreadable: Option<String>,
    /// How it is read: so it was shown, and so it is brought in.
    pub how: Option<Survey>,
    /// Its sensors.
    pub sensors: Vec<Sensor>,
    /// Rows of readings.
    pub rows: u64,
    /// Lines that are none.
    pub refused: u64,
    /// The earliest moment.
    pub first: Option<DateTime<Utc>>,
    /// The latest.
    pub last: Option<DateTime<Utc>>,
    /// Some rows: the moment, and each sensor's figure.
    pub sample: Vec<(DateTime<Utc>, Vec<Option<f64>>)>,
    /// The first of the refused lines.
    pub unread: Vec<Unread>,
}

/// What one sensor of a file reads.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Sensor {
    /// The file's own name for it; empty where there is only one.
    pub channel: String,
    /// What it reads.
    pub reads: Reads,
    /// How often.
    pub count: u64,
    /// The lowest, in the core's own unit.
    pub low: f64,
    /// The highest.
    pub high: f64,
}

/// A line that is not taken.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Unread {
    /// Its number.
    pub line: u64,
    /// As it stands.
    pub text: String,
    /// Why.
    pub why: String,
}

impl From<Refused> for Unread {
    fn from(Refused { line, text, why }: Refused) -> Self {
        Self { line, text: text.chars().take(300).collect(), why }
    }
}

/// Looks at a file that was sent.
pub async fn look(store: &Store, practice: Uuid, job: Uuid, file: Uuid) -> Result<(), WorkError> {
    let scope = store.practice(practice).await?;
    let Some(sent) = scope.log_file(job, file).await? else { return Ok(()) };
    let zone = scope.time_zone().await?;
    let spooled = spooled(&scope, file).await?;
    drop(scope);
    let wished = wished_of(&sent);
    let read = move || found(spooled.path(), &wished, &zone);
    let found = tokio::task::spawn_blocking(read).await.map_err(|_| WorkError::Stopped)?;
    let scope = store.practice(practice).await?;
    keep(&scope, &sent, &found).await?;
    Ok(scope.commit().await?)
}

async fn keep(scope: &Scope, sent: &LogFile, found: &Found) -> Result<(), WorkError> {
    let value = serde_json::to_value(found).map_err(|_| WorkError::Stopped)?;
    Ok(scope.know_file(sent.id, FileKnown::Found, &value).await?)
}

/// What was said of a file by hand.
pub fn wished_of(sent: &LogFile) -> Wished {
    serde_json::from_value(sent.wishes.clone()).unwrap_or_default()
}

/// Looks at a file on the disk.
fn found(path: &Path, wished: &Wished, zone: &str) -> Found {
    let unreadable = |why: String| Found { unreadable: Some(why), ..Found::default() };
    let how = match survey(path, &wished.wishes(zone)) {
        Ok(how) => how,
        Err(e) => return unreadable(e.to_string()),
    };
    let mut found = Found::default();
    let mut line = 0;
    let read = Reading { source: path, survey: &how }.each(&mut |row| {
        match row {
            Ok(row) => {
                found.see(&row, row.line != line);
                line = row.line;
            }
            Err(refused) if found.unread.len() < REFUSED => found.unread.push(refused.into()),
            Err(_) => {}
        }
        ControlFlow::Continue(())
    });
    let tally = match read {
        Ok(tally) => tally,
        Err(e) => return unreadable(e.to_string()),
    };
    if tally.rows == 0 {
        return unreadable("no row of it can be read".into());
    }
    if found.sensors.len() >= MOST_SENSORS {
        return unreadable(format!("it has more than {MOST_SENSORS} sensors"));
    }
    Found { how: Some(how), rows: tally.rows, refused: tally.refused, first: tally.first, last: tally.last, ..found }
}

impl Found {
    /// Counts a row in; `next` begins a line of the file.
    fn see(&mut self, row: &Row, next: bool) {
        if next && self.sample.len() < SHOWN {
            self.sample.push((row.at, Vec::new()));
        }
        for (reads, value) in &row.values {
            // A column without any figure is no sensor.
            let Some(x) = *value else { continue };
            let known = self.sensors.iter().position(|s| s.reads == *reads && s.channel == row.channel);
            let at = known.unwrap_or_else(|| {
                if self.sensors.len() < MOST_SENSORS {
                    let (low, high) = (f64::INFINITY, f64::NEG_INFINITY);
                    self.sensors.push(Sensor { channel: row.channel.clone(), reads: *reads, count: 0, low, high });
                }
                self.sensors.len() - 1
            });
            let sensor = &mut self.sensors[at];
            (sensor.count, sensor.low, sensor.high) = (sensor.count + 1, sensor.low.min(x), sensor.high.max(x));
            if let Some((_, figures)) = self.sample.last_mut().filter(|(when, _)| *when == row.at) {
                figures.resize(figures.len().max(at + 1), None);
                figures[at] = Some(x);
            }
        }
    }
}

/// Where a sensor belongs by what it is called: as it was last time, else the place whose name shares most words with it, or with
/// `words` where the file has only one and gives it no name.
#[must_use]
pub fn guessed(building: &Building, sensor: &Sensor, words: &str, before: &[Goes]) -> Option<Place> {
    let fits = |p: &Place| sensor_kind(sensor.reads, *p).is_some();
    let same = before.iter().find(|g| g.channel == sensor.channel && g.reads == sensor.reads);
    if let Some(place) = same.and_then(|g| g.place(building)).filter(fits) {
        return Some(place);
    }
    let called = if sensor.channel.is_empty() { words } else { &sensor.channel }.to_lowercase();
    let said: Vec<&str> = called.split(|c: char| !c.is_alphanumeric()).filter(|w| w.chars().count() >= 3).collect();
    let spaces = building.spaces.iter().map(|s| (Place::Space(s.id), s.name.as_str()));
    let surfaces = building.surfaces.iter().map(|s| (Place::Surface(s.id), s.name.as_str()));
    let all = spaces.chain(surfaces).chain([(Place::Outdoors, "outdoor outdoors outside exterior")]);
    let shared = |name: &str| {
        let name = name.to_lowercase();
        let words = name.split(|c: char| !c.is_alphanumeric()).filter(|w| w.chars().count() >= 3);
        words.filter(|w| said.contains(w)).count()
    };
    let likely = all.filter(|(p, _)| fits(p)).map(|(p, name)| (shared(name), p)).filter(|(n, _)| *n > 0);
    let best = likely.fold(None, |best: Option<(usize, Place)>, one| match best {
        Some((n, _)) if n >= one.0 => best,
        _ => Some(one),
    });
    let only =
        [Place::Outdoors].into_iter().find(|p| fits(p) && building.spaces.iter().all(|s| !fits(&Place::Space(s.id))));
    let outdoors = matches!(sensor.reads, Reads::OutdoorTC | Reads::OutdoorRhPct | Reads::RainMm | Reads::PPa);
    if outdoors { Some(Place::Outdoors).filter(fits) } else { best.map(|(_, p)| p).or(only) }
}

//! What a logger posts: read like a file, and kept where its sensors belong.

use super::WorkError;
use super::keep::{Corrections, Fates, Gathered, Series, To};
use super::look::Unread;
use super::place::sensor_kind;
use crate::together::Together;
use building::{Place, SensorKind};
use chrono::{DateTime, Datelike, TimeDelta, Utc};
use logger::{Point, Reading, Reads, Refused, Wishes, Zone, survey};
use serde::{Deserialize, Serialize};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::ops::ControlFlow;
use std::time::Duration;
use store::{Batch, Posting, Store, StoreError};
use uuid::Uuid;

/// Most rows of one post.
pub const MOST_ROWS: u64 = 5000;
/// Bytes read where they arrive: a thread for each of many small posts would cost more than to read them.
const LITTLE: usize = 16 << 10;
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
#[derive(Debug)]
struct Said {
    from: Posting,
    jobs: BTreeSet<Uuid>,
    points: Vec<(Uuid, Point)>,
    refused: Vec<Unread>,
    unplaced: BTreeSet<(String, Reads)>,
}

/// How long loggers that knock wait for others.
const KNOCKS: Duration = Duration::from_millis(20);
/// And their readings.
const KEEPS: Duration = Duration::from_millis(100);
/// Readings kept at once.
const AT_ONCE: usize = 20_000;
/// In which posts of a logger are counted.
const WINDOW: TimeDelta = TimeDelta::minutes(1);

type Known = Result<Option<(Posting, f64)>, StoreError>;

/// Where loggers post. Those that post at once are asked for and kept together, each practice's by themselves; each is answered
/// when its own readings are kept.
#[derive(Debug)]
pub struct Posts {
    knocks: Together<(), String, Known>,
    keeps: Together<Uuid, Said, Result<Posted, StoreError>>,
}

impl Posts {
    /// Into a store.
    #[must_use]
    pub fn new(store: &Store) -> Self {
        let (known, kept) = (store.clone(), store.clone());
        let knocks = Together::new(KNOCKS, move |(), tokens: Vec<String>| {
            let store = known.clone();
            async move {
                match store.posting(&tokens, WINDOW, Utc::now()).await {
                    Ok(known) => known.into_iter().map(Ok).collect(),
                    Err(e) => tokens.iter().map(|_| Err(e.clone())).collect(),
                }
            }
        });
        let keeps = Together::new(KEEPS, move |practice, posts: Vec<Said>| {
            let store = kept.clone();
            async move { keep_all(&store, practice, posts).await }
        });
        Self { knocks, keeps }
    }

    /// Whose token this is, and how often it posted within a minute.
    ///
    /// # Errors
    /// [`WorkError::Store`] when the database does not answer.
    pub async fn knock(&self, token: &str) -> Result<Option<(Posting, f64)>, WorkError> {
        Ok(self.knocks.ask((), token.to_owned()).await.ok_or(WorkError::Stopped)??)
    }

    /// Keeps what a logger posted. Sent twice it is there once, whatever came between.
    ///
    /// # Errors
    /// [`WorkError::Unreadable`] where nothing of it can be read, [`WorkError::Store`] when the database does not answer.
    pub async fn keep(&self, from: Posting, body: Vec<u8>, now: DateTime<Utc>) -> Result<Posted, WorkError> {
        let practice = from.practice;
        let said = if body.len() <= LITTLE {
            read(&body, from, now)?
        } else {
            tokio::task::spawn_blocking(move || read(&body, from, now)).await.map_err(|_| WorkError::Stopped)??
        };
        Ok(self.keeps.ask(practice, said).await.ok_or(WorkError::Stopped)??)
    }
}

/// Keeps posts, so many at once as are not too many readings.
async fn keep_all(store: &Store, practice: Uuid, posts: Vec<Said>) -> Vec<Result<Posted, StoreError>> {
    let mut out = Vec::with_capacity(posts.len());
    let mut rest = &posts[..];
    while !rest.is_empty() {
        let mut readings = 0;
        let fits = |said: &&Said| {
            readings += said.points.len();
            readings <= AT_ONCE
        };
        let (some, after) = rest.split_at(rest.iter().take_while(fits).count().max(1));
        match keep(store, practice, some).await {
            Ok(posted) => out.extend(posted.into_iter().map(Ok)),
            Err(e @ (StoreError::Unavailable(_) | StoreError::Full(_))) => {
                out.extend(some.iter().map(|_| Err(e.clone())));
            }
            // One of them cannot be kept: the others are not to suffer for it.
            Err(_) => {
                for one in some.chunks(1) {
                    match keep(store, practice, one).await {
                        Ok(posted) => out.extend(posted.into_iter().map(Ok)),
                        Err(e) => out.push(Err(e)),
                    }
                }
            }
        }
        rest = after;
    }
    out
}

/// Keeps posts, all of them or none.
async fn keep(store: &Store, practice: Uuid, posts: &[Said]) -> Result<Vec<Posted>, StoreError> {
    let scope = store.practice(practice).await?;
    let checks = Corrections::of(&scope).await?;
    drop(scope);
    let points: Vec<(Uuid, Point)> = posts.iter().flat_map(|s| s.points.iter().copied()).collect();
    let loggers: BTreeMap<Uuid, Uuid> =
        posts.iter().flat_map(|s| s.points.iter().map(|(series, _)| (*series, s.from.instrument))).collect();
    let mut intake = store.intake(practice, &loggers.keys().copied().collect::<Vec<_>>(), None).await?;
    let correct = |series, p| loggers.get(&series).map_or(p, |logger| checks.correct(*logger, p));
    let fates = intake.take(Batch::new(&points, correct)).await?;
    let mut unplaced: BTreeMap<Uuid, BTreeSet<(String, Reads)>> = BTreeMap::new();
    for Said { from, unplaced: new, .. } in posts {
        let known = || serde_json::from_value(from.unplaced.clone()).unwrap_or_default();
        unplaced.entry(from.instrument).or_insert_with(known).extend(new.iter().take(REMEMBERED).cloned());
    }
    let few = |all: BTreeSet<(String, Reads)>| serde_json::json!(all.into_iter().take(REMEMBERED).collect::<Vec<_>>());
    intake.heard(&unplaced.into_iter().map(|(logger, all)| (logger, few(all))).collect()).await?;
    let jobs: BTreeSet<Uuid> = posts.iter().flat_map(|s| s.jobs.iter().copied()).collect();
    intake.commit_all(&jobs.into_iter().collect::<Vec<_>>()).await?;
    let mut rest = &fates[..];
    let posted = posts.iter().map(|said| {
        let (own, after) = rest.split_at(said.points.len());
        rest = after;
        let mut fates = Fates::default();
        fates.add(own);
        Posted {
            stored: fates.new,
            known: fates.known,
            differ: fates.differ,
            refused: said.refused.clone(),
            unplaced: said.unplaced.iter().cloned().collect(),
        }
    });
    Ok(posted.collect())
}

fn read(body: &[u8], from: Posting, now: DateTime<Utc>) -> Result<Said, WorkError> {
    let sensors: Vec<LiveSensor> = serde_json::from_value(from.goes.clone()).unwrap_or_default();
    let unreadable = |e: logger::Unreadable| WorkError::Unreadable(e.to_string());
    // A post says its own zone; one that does not is universal.
    let wishes = Wishes { zone: Some(Zone::Fixed(0)), ..Wishes::default() };
    let how = survey(body, &wishes).map_err(unreadable)?;
    let jobs = sensors.iter().map(|s| s.job).collect();
    let mut said = Said { from, jobs, points: Vec::new(), refused: Vec::new(), unplaced: BTreeSet::new() };
    let (mut line, mut series) = (Gathered::default(), Series::new());
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
        place(&sensors, &row.channel, &row.values, &mut series);
        let nowhere = |reads: &Reads| series[&row.channel][reads].is_none();
        let unplaced = row.values.iter().filter(|(reads, x)| x.is_some() && nowhere(reads));
        said.unplaced.extend(unplaced.map(|(reads, _)| (row.channel.clone(), *reads)));
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

/// Finds the series of what one sensor says, where that is not known yet.
fn place(sensors: &[LiveSensor], channel: &str, values: &logger::Values, series: &mut Series) {
    if !series.contains_key(channel) {
        series.insert(channel.to_owned(), HashMap::new());
    }
    let Some(own) = series.get_mut(channel) else { return };
    for (reads, _) in values {
        let fits = |s: &&LiveSensor| {
            s.channel == channel && s.sensor().is_some() && sensor_kind(*reads, s.place()) == s.sensor()
        };
        let to = || sensors.iter().find(fits).and_then(|s| Some(To { id: s.series, kind: s.sensor()? }));
        own.entry(*reads).or_insert_with(to);
    }
}

//! Making a log what was decided about a file: its readings in it, or out of it again.

use super::WorkError;
use super::look::{Found, Unread};
use super::place::{Goes, sensor_kind};
use super::spool::spooled;
use super::work::Telling;
use building::{Building, SensorKind};
use chrono::{DateTime, Datelike, TimeDelta, Utc};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{Pressure, Temperature};
use logger::{Point, Reading, Reads, Row, Survey, hour_of};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use std::ops::ControlFlow;
use std::path::Path;
use store::{Batch, BringIn, Fate, Instrument, LogSeries, Part, SaltCheck, Scope, Stale, Store, StoreError, TaskKind};
use tokio::sync::mpsc;
use uuid::Uuid;

/// Readings sent to the database at once.
const AT_ONCE: usize = 50_000;
/// Bytes of refused lines kept in a piece.
const PIECE: usize = 1 << 20;

/// What became of a file.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Became {
    /// Readings that are new.
    pub new: u64,
    /// Readings that were there already.
    pub known: u64,
    /// Of these, that say something else than what is there; that stayed.
    pub differ: u64,
    /// Rows of the file that were read.
    pub rows: u64,
    /// Lines that were not.
    pub refused: u64,
    /// The earliest moment.
    pub first: Option<DateTime<Utc>>,
    /// The latest.
    pub last: Option<DateTime<Utc>>,
    /// Whether its readings are out again.
    pub out: bool,
    /// The series they belong to.
    pub series: Vec<Uuid>,
}

/// Brings a file in, or takes it out again: whatever was decided last. `telling` hears how many rows are done of how many.
pub async fn settle(
    store: &Store,
    practice: Uuid,
    (job, file): (Uuid, Uuid),
    telling: &Telling<'_>,
) -> Result<(), WorkError> {
    let scope = store.practice(practice).await?;
    let Some(sent) = scope.log_file(job, file).await? else { return Ok(()) };
    let Some(decided) = scope.brought_in(job).await?.into_iter().find(|b| b.id == file) else { return Ok(()) };
    let became: Became = sent.became.clone().and_then(|v| serde_json::from_value(v).ok()).unwrap_or_default();
    let (checks, logger) = (Corrections::of(&scope).await?, decided.instrument_id);
    if decided.removed {
        drop(scope);
        let became = Became { out: true, new: 0, ..became };
        return take_out(store, practice, (job, file), became, |p| checks.correct(logger, p)).await;
    }
    let building = scope.building(job).await?;
    let series = series(&scope, job, &decided, &building).await?;
    let spooled = spooled(&scope, file).await?;
    let found: Found = sent.found.clone().and_then(|v| serde_json::from_value(v).ok()).unwrap_or_default();
    scope.commit().await?;

    let (rows, how) = (found.rows, found.how.ok_or_else(|| WorkError::Unreadable("it was not looked at".into()))?);
    let (give, mut take) = mpsc::channel(1);
    let mut ids: Vec<Uuid> = series.values().flat_map(HashMap::values).flatten().map(|s| s.id).collect();
    ids.sort_unstable();
    ids.dedup();
    let reading = tokio::task::spawn_blocking(move || {
        let ready = |some: &[(Uuid, Point)]| Batch::new(some, |_, p| checks.correct(logger, p));
        points(spooled.path(), &how, &series, |rows, some| give.blocking_send((rows, ready(some))).is_ok())
    });
    let mut intake = store.intake(practice, &ids, Some(file)).await?;
    let (mut done, mut fates) = (0, Fates::default());
    while let Some((read, batch)) = take.recv().await {
        fates.add(&intake.take(batch).await?);
        done = read;
        telling.tell(done, rows.max(done)).await?;
    }
    let (tally, refused) = reading.await.map_err(|_| WorkError::Stopped)??;
    telling.tell(done, done).await?;
    // Where whoever did this before went away without saying so, what is new was so then.
    let new = fates.new + if became.out { 0 } else { became.new };
    let became = Became {
        new,
        known: (fates.new + fates.known).saturating_sub(new),
        differ: fates.differ,
        rows: tally.rows,
        refused: tally.refused,
        first: tally.first,
        last: tally.last,
        out: false,
        series: ids,
    };
    // What became of it stands with its readings or not at all.
    intake.know(file, &value(&became)?).await?;
    let scope = store.practice(practice).await?;
    scope.forget_pieces(file, Part::Refused).await?;
    for (position, piece) in (0..).zip(refused) {
        scope.add_piece(file, Part::Refused, position, piece).await?;
    }
    scope.commit().await?;
    Ok(intake.commit(job).await?)
}

fn value(became: &Became) -> Result<serde_json::Value, WorkError> {
    serde_json::to_value(became).map_err(|_| WorkError::Stopped)
}

async fn take_out(
    store: &Store,
    practice: Uuid,
    (job, file): (Uuid, Uuid),
    became: Became,
    correct: impl Fn(Point) -> Point + Send + Sync,
) -> Result<(), WorkError> {
    let mut intake = store.remake(practice, &became.series).await?;
    for span in intake.take_out(file).await? {
        intake.roll_up(span, &correct).await?;
    }
    intake.know(file, &value(&became)?).await?;
    intake.commit(job).await?;
    say_again(store, practice, (job, file), &became).await
}

/// What went with a file and stands in another that is part of the log comes back: those are brought in once more.
async fn say_again(store: &Store, practice: Uuid, (job, file): (Uuid, Uuid), gone: &Became) -> Result<(), WorkError> {
    let scope = store.practice(practice).await?;
    for other in scope.brought_in(job).await?.into_iter().filter(|b| !b.removed && b.id != file) {
        let became = scope.log_file(job, other.id).await?.and_then(|f| f.became);
        let Some(theirs) = became.and_then(|v| serde_json::from_value::<Became>(v).ok()) else { continue };
        let overlap = theirs.first <= gone.last && gone.first <= theirs.last;
        if theirs.known > 0 && overlap && theirs.series.iter().any(|s| gone.series.contains(s)) {
            scope.ask(TaskKind::BringIn, other.id, job).await?;
        }
    }
    Ok(scope.commit().await?)
}

/// Makes hours anew where readings were left out, or taken back.
pub async fn roll_up(store: &Store, practice: Uuid, (job, mark): (Uuid, Uuid)) -> Result<(), WorkError> {
    let scope = store.practice(practice).await?;
    let Some(mark) = scope.log_mark(job, mark).await? else { return Ok(()) };
    let series: Vec<LogSeries> = scope.log_series(job).await?;
    let from = hour_of(mark.from_at);
    let until = hour_of(mark.until_at.unwrap_or(mark.from_at)) + TimeDelta::hours(1);
    let checks = Corrections::of(&scope).await?;
    drop(scope);
    let marked: Vec<&LogSeries> = series.iter().filter(|s| mark.series_id.is_none_or(|id| id == s.id)).collect();
    let mut intake = store.remake(practice, &marked.iter().map(|s| s.id).collect::<Vec<_>>()).await?;
    for one in marked {
        let span = Stale { series: one.id, from, until };
        intake.roll_up(span, |p| checks.correct(one.instrument_id, p)).await?;
    }
    Ok(intake.commit(job).await?)
}

/// What became of many readings.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Fates {
    /// How many are new.
    pub(super) new: u64,
    /// Were there already.
    pub(super) known: u64,
    /// Of these, say something else.
    pub(super) differ: u64,
}

impl Fates {
    pub(super) fn add(&mut self, fates: &[Fate]) {
        for fate in fates {
            match fate {
                Fate::New => self.new += 1,
                Fate::Known => self.known += 1,
                Fate::Differs => (self.known, self.differ) = (self.known + 1, self.differ + 1),
            }
        }
    }
}

/// A series and which of its figures a column gives.
#[derive(Debug, Clone, Copy)]
pub(super) struct To {
    pub(super) id: Uuid,
    pub(super) kind: SensorKind,
}

/// The series each sensor of a file belongs to.
pub(super) type Series = HashMap<String, HashMap<Reads, Option<To>>>;

async fn series(scope: &Scope, job: Uuid, decided: &BringIn, building: &Building) -> Result<Series, WorkError> {
    let goes: Vec<Goes> = serde_json::from_value(decided.places.clone()).map_err(|_| WorkError::Stopped)?;
    let mut out = Series::new();
    for one in &goes {
        let place = one.place(building);
        let kind = place.and_then(|p| sensor_kind(one.reads, p));
        let to = match place.zip(kind) {
            None => None,
            Some((place, kind)) => {
                // Temperature and humidity of one place make its air, however the file calls their sensors.
                let channel = if kind == SensorKind::Air { air_of(&goes, one) } else { one.channel.as_str() };
                let new = LogSeries::at((job, decided.instrument_id), channel, kind, place.columns());
                Some(To { id: scope.series_at(new).await?, kind })
            }
        };
        out.entry(one.channel.clone()).or_default().insert(one.reads, to);
    }
    Ok(out)
}

/// The sensor whose air a temperature or a humidity is part of: its own where that reads a temperature there, else the first that
/// does.
fn air_of<'a>(goes: &'a [Goes], one: &'a Goes) -> &'a str {
    let at =
        |g: &&Goes| (g.id, g.outdoors) == (one.id, one.outdoors) && matches!(g.reads, Reads::TC | Reads::OutdoorTC);
    let own = goes.iter().filter(at).find(|g| g.channel == one.channel);
    own.or_else(|| goes.iter().find(at)).map_or(&one.channel, |g| &g.channel)
}

/// Reads a file and gives its readings, many at a time and how many rows are read, to whoever wants more of them; what is refused
/// comes back as lines of a table.
fn points(
    path: &Path,
    how: &Survey,
    series: &Series,
    give: impl Fn(u64, &[(Uuid, Point)]) -> bool,
) -> Result<(logger::Tally, Vec<Vec<u8>>), WorkError> {
    let mut out: Vec<(Uuid, Point)> = Vec::with_capacity(AT_ONCE + 64);
    let mut line = Gathered::default();
    let mut refused = vec![b"line,why,text\n".to_vec()];
    let (mut rows, mut odd) = (0, 0);
    let mut gone = false;
    let tally = Reading { source: path, survey: how }.each(&mut |row| {
        match row {
            // The log has no month for it.
            Ok(row) if !(1970..2200).contains(&row.at.year()) => {
                odd += 1;
                let (text, why) = (row.at.to_rfc3339(), "a year no logger has seen".to_owned());
                note(&mut refused, &Unread { line: row.line, text, why });
            }
            Ok(row) => {
                if row.line != line.number {
                    rows += 1;
                    line.end(&mut out);
                    line.number = row.line;
                }
                line.take(&row, series);
            }
            Err(bad) => note(&mut refused, &bad.into()),
        }
        if out.len() >= AT_ONCE {
            gone = !give(rows, &out);
            out.clear();
        }
        if gone { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    });
    let tally = tally.map_err(|e| WorkError::Unreadable(e.to_string()))?;
    line.end(&mut out);
    if gone || !give(rows, &out) {
        return Err(WorkError::Stopped);
    }
    let tally = logger::Tally { rows: tally.rows.saturating_sub(odd), refused: tally.refused + odd, ..tally };
    Ok((tally, if tally.refused > 0 { refused } else { Vec::new() }))
}

/// A refused line as a row of a table.
fn note(refused: &mut Vec<Vec<u8>>, bad: &Unread) {
    let quoted = |text: &str| format!("\"{}\"", text.replace('"', "\"\""));
    let row = format!("{},{},{}\n", bad.line, quoted(&bad.why), quoted(&bad.text));
    match refused.last_mut() {
        Some(last) if last.len() < PIECE => last.extend(row.into_bytes()),
        _ => refused.push(row.into_bytes()),
    }
}

/// What one line of a file says, by series.
#[derive(Default)]
pub(super) struct Gathered {
    pub(super) number: u64,
    of: Vec<(Uuid, Point, Option<f64>)>,
}

impl Gathered {
    pub(super) fn take(&mut self, row: &Row, series: &Series) {
        let Some(own) = series.get(&row.channel) else { return };
        for (reads, value) in &row.values {
            let Some(x) = *value else { continue };
            let Some(Some(to)) = own.get(reads) else { continue };
            let known = self.of.iter().position(|(id, p, _)| *id == to.id && p.at == row.at);
            let at = known.unwrap_or_else(|| {
                self.of.push((to.id, Point { at: row.at, t_c: None, rh_pct: None, value: None }, None));
                self.of.len() - 1
            });
            let (_, point, dew) = &mut self.of[at];
            match (to.kind, reads) {
                (SensorKind::Air, Reads::RhPct | Reads::OutdoorRhPct) => point.rh_pct = Some(x),
                (SensorKind::Air, Reads::DewC) => *dew = Some(x),
                (SensorKind::Air | SensorKind::Surface, _) => point.t_c = Some(x),
                _ => point.value = Some(x),
            }
        }
    }

    /// Hands out what the line said.
    pub(super) fn end(&mut self, out: &mut Vec<(Uuid, Point)>) {
        for (id, mut point, dew) in self.of.drain(..) {
            if point.rh_pct.is_none() {
                point.rh_pct = point.t_c.zip(dew).and_then(|(t, dew)| rh_of_dew(t, dew));
            }
            out.push((id, point));
        }
    }
}

/// Relative humidity over water of air whose dew point a logger gives, %.
fn rh_of_dew(t_c: f64, dew_c: f64) -> Option<f64> {
    let (t, dew) = (Temperature::new(t_c).ok()?, Temperature::new(dew_c.min(t_c)).ok()?);
    Some(MoistAir::from_dew_point(t, dew, Pressure::STANDARD).ok()?.rh(Over::Water))
}

/// What loggers' humidity is corrected by, from their salt checks.
pub struct Corrections {
    own: Vec<Instrument>,
    checks: Vec<SaltCheck>,
}

impl Corrections {
    /// Of a practice's loggers.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn of(scope: &Scope) -> Result<Self, StoreError> {
        // As they were before their first check.
        let own = scope.instruments_at(DateTime::UNIX_EPOCH).await?;
        Ok(Self { own, checks: scope.salt_checks().await? })
    }

    /// A reading of one by the check that held then.
    #[must_use]
    pub fn correct(&self, logger: Uuid, point: Point) -> Point {
        let mut checks = self.checks.iter().filter(|c| c.instrument_id == logger);
        let held = checks.find(|c| c.ended_at.is_some_and(|end| end <= point.at));
        let by_check = held.and_then(|c| c.rh_slope.zip(c.rh_offset_pct));
        let own = self.own.iter().find(|i| i.id == logger).map(|i| (i.rh_slope, i.rh_offset_pct));
        let (slope, offset) = by_check.or(own).unwrap_or((1.0, 0.0));
        Point { rh_pct: point.rh_pct.map(|rh| (slope * rh + offset).clamp(0.0, 100.0)), ..point }
    }
}

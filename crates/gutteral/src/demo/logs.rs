//! What the demo's loggers read, each job's once.

use super::{ENTRY, SEED};
use anyhow::{Result, anyhow};
use building::{InstrumentKind, MarkKind};
use chrono::{DateTime, Utc};
use stand_ins::{DemoEvent, DemoJob, DemoLog, DemoWatch, logs};
use store::{Account, Act, AlertRule, Batch, Instrument, LogMark, LogSeries, Scope, Sought, Store};
use uuid::Uuid;

/// Readings added at once.
const AT_ONCE: usize = 50_000;

/// Loads what is not there yet: a job without any series has none of its logs.
pub async fn load(store: &Store, who: Account, jobs: &[DemoJob], now: DateTime<Utc>) -> Result<()> {
    let (practice, by) = (who.practice_id, who.consultant_id);
    let scope = store.practice(practice).await?;
    let there = scope.docket(&Sought::default(), by, 0, 100).await?.0;
    for demo in jobs {
        let Some(job) = there.iter().map(|l| &l.job).find(|j| j.name == demo.name) else { continue };
        if scope.log_series(job.id).await?.iter().any(|s| s.points > 0) {
            continue;
        }
        let building = scope.building(job.id).await?;
        let mut visits: Vec<DateTime<Utc>> = scope.visits(job.id).await?.into_iter().map(|v| v.started_at).collect();
        visits.sort_unstable();
        visits.truncate(demo.visits.len());
        let made = logs(SEED, demo, &building, &visits, now).map_err(|e| anyhow!("demo logs: {e}"))?;
        if let Some(log) = made {
            keep(store, practice, (job.id, by), &log).await?;
        }
    }
    Ok(())
}

async fn keep(store: &Store, practice: Uuid, (job, by): (Uuid, Uuid), log: &DemoLog) -> Result<()> {
    let scope = store.practice(practice).await?;
    let (mut points, mut all) = (Vec::new(), Vec::new());
    for logger in &log.loggers {
        // The same each time: whoever was stopped half-way begins again and doubles nothing.
        let id = Uuid::new_v5(&job, logger.serial.as_bytes());
        scope.add_instrument(instrument(id, &logger.name, &logger.serial)).await?;
        for sensor in &logger.sensors {
            let series = LogSeries::at((job, id), &sensor.channel, sensor.kind, sensor.place.columns());
            let series = scope.series_at(series).await?;
            all.push(series);
            points.extend(sensor.points.iter().map(|p| (series, *p)));
        }
    }
    for event in &log.events {
        mark(&scope, job, by, event).await?;
    }
    for watched in &log.watched {
        watch(&scope, job, by, watched).await?;
    }
    scope.commit().await?;
    let mut intake = store.intake(practice, &all, None).await?;
    for some in points.chunks(AT_ONCE) {
        intake.take(Batch::new(some, |_, p| p)).await?;
    }
    Ok(intake.commit(job).await?)
}

async fn mark(scope: &Scope, job: Uuid, by: Uuid, event: &DemoEvent) -> Result<()> {
    let row = LogMark {
        id: Uuid::new_v5(&job, event.words.as_bytes()),
        job_id: job,
        consultant_id: by,
        kind: MarkKind::Event,
        series_id: None,
        space_id: event.space,
        from_at: event.at,
        until_at: None,
        what: event.words.clone(),
        note: String::new(),
        removed: false,
    };
    let act = Act::new(Uuid::new_v5(&row.id, b"act"), job, by, event.at, format!("Marked in the log: {}", event.words));
    Ok(scope.keep_mark(&act, row).await?)
}

async fn watch(scope: &Scope, job: Uuid, by: Uuid, watched: &DemoWatch) -> Result<()> {
    let rule = AlertRule {
        id: Uuid::new_v5(&watched.space, watched.kind.id().as_bytes()),
        job_id: job,
        consultant_id: by,
        space_id: watched.space,
        kind: watched.kind,
        figure: watched.figure,
        hours: watched.hours,
        mail_to: ENTRY.into(),
        removed: false,
    };
    let what = format!("Watches the log for {}", watched.kind.words());
    let act = Act::new(Uuid::new_v5(&rule.id, b"act"), job, by, Utc::now(), what);
    Ok(scope.keep_alert_rule(&act, rule).await?)
}

fn instrument(id: Uuid, name: &str, serial: &str) -> Instrument {
    Instrument {
        id,
        name: name.into(),
        serial: serial.into(),
        air_err_k: 0.3,
        rh_err_pct: 2.5,
        surface_err_k: 0.4,
        wood_err_pct: 0.0,
        rh_offset_pct: 0.0,
        kind: InstrumentKind::Logger,
        settle_s: 0,
        rh_slope: 1.0,
        checked_on: None,
    }
}

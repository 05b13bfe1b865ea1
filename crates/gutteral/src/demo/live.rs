//! The demo's live logger: while one looks, the archive's logger posts what it shows, over HTTP like any other.

use super::{ENTRY, SEED};
use crate::stand_in::{StandIn, post_all};
use anyhow::{Context, Result, anyhow};
use building::Place;
use casework::log::LiveSensor;
use chrono::{DateTime, Utc};
use serde_json::json;
use stand_ins::{scenario, showing};
use store::{Sought, Store};
use uuid::Uuid;

/// The job it hangs in, and its serial number.
const JOB: &str = "School archive";
const SERIAL: &str = "SA-02";
/// Seconds between its posts.
const EVERY_S: u64 = 10;

/// Posts until it is dropped. Nothing of the demo depends on it.
pub async fn live(store: Store, url: String) {
    if let Err(e) = posts(&store, url).await {
        tracing::warn!("the demo’s live logger: {e:#}");
    }
}

async fn posts(store: &Store, url: String) -> Result<()> {
    let account = store.account(ENTRY).await?.context("the demo’s practice")?;
    let scope = store.practice(account.practice_id).await?;
    let sought = Sought { words: JOB.into(), ..Sought::default() };
    let job = scope.docket(&sought, account.consultant_id, 0, 1).await?.0.pop().context("its job")?.job;
    let instruments = scope.instruments().await?;
    let logger = instruments.iter().find(|i| i.serial == SERIAL).context("the logger")?;
    let sensors: Vec<LiveSensor> = scope
        .log_series(job.id)
        .await?
        .into_iter()
        .filter(|s| s.instrument_id == logger.id)
        .map(|s| LiveSensor {
            channel: s.channel,
            kind: s.reads.id().to_owned(),
            job: job.id,
            id: s.space_id.or(s.surface_id),
            on_surface: s.surface_id.is_some(),
            series: s.id,
        })
        .collect();
    // A new one each time: nobody keeps the one before.
    let token = format!("{}{}", Uuid::new_v4().simple(), Uuid::new_v4().simple());
    scope.set_token(logger.id, Some(&token)).await?;
    scope.place_sensors(logger.id, &json!(sensors), &json!([])).await?;
    let building = scope.building(job.id).await?;
    let mut visits: Vec<DateTime<Utc>> = scope.visits(job.id).await?.into_iter().map(|v| v.started_at).collect();
    visits.sort_unstable();
    scope.commit().await?;
    let jobs = scenario(SEED, Uuid::now_v7).map_err(|e| anyhow!("demo scenario: {e}"))?;
    let demo = jobs.iter().find(|j| j.name == JOB).context("its scenario")?;
    visits.truncate(demo.visits.len());
    let stand_in = |weather| StandIn {
        weather,
        url: url.clone(),
        token: token.clone(),
        seed: SEED,
        every_s: EVERY_S,
        drift: 0.0,
        lost: 0.0,
        clock_h: 0.0,
    };
    let shown = |now| {
        let all = showing(SEED, demo, &building, &visits, now).map_err(|e| anyhow!("{e}"))?;
        Ok(all.into_iter().filter(|l| l.serial == SERIAL).collect())
    };
    let (indoors, outdoors) = (stand_in(false), stand_in(true));
    debug_assert!(sensors.iter().any(|s| s.place() == Place::Outdoors));
    tokio::try_join!(post_all(&indoors, Utc::now(), shown), post_all(&outdoors, Utc::now(), shown))?;
    Ok(())
}

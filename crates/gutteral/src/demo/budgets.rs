//! The demo's time tables of small spaces.

use anyhow::{Context, Result, anyhow};
use building::timetable::{OutdoorsBy, TimeTable};
use chrono::{DateTime, Duration, Utc};
use judgment::budget::ready;
use stand_ins::budgets;
use store::{Act, Scope};
use uuid::Uuid;

/// Keeps the time tables of a job.
pub async fn load(scope: &Scope, name: &str, job: Uuid, by: Uuid, now: DateTime<Utc>) -> Result<()> {
    let all = budgets().map_err(|e| anyhow!("demo budgets: {e}"))?;
    let building = scope.building(job).await?;
    for demo in all.into_iter().filter(|b| b.job == name) {
        let of = ready().iter().find(|r| r.id == demo.ready).context("a ready time table")?;
        let space = building.spaces.iter().find(|s| s.name == demo.space).context("a space of the scenario")?;
        let table = TimeTable {
            id: Uuid::now_v7(),
            space_id: space.id,
            name: if demo.name.is_empty() { of.name.clone() } else { demo.name },
            begins: of.begins,
            hours: of.hours,
            celsius: of.celsius,
            start_rh: of.start_rh,
            volume_m3: space.volume_m3(),
            leak: of.leak,
            wind: of.wind,
            outdoors: OutdoorsBy::Month(demo.month),
            blocks: of.blocks.iter().cloned().chain(demo.more).collect(),
        };
        let what = format!("Began the time table {}", table.name);
        let act = Act::new(Uuid::now_v7(), job, by, now - Duration::days(2), what);
        scope.keep_time_table(&act, &table, false).await?;
    }
    Ok(())
}

//! The demo's spaces laid flat: dimensions, what is placed, and what was walked with a meter.

use super::SEED;
use anyhow::{Context, Result, anyhow};
use building::Building;
use building::unfold::{MapScale, RouteKind, Thing};
use chrono::{DateTime, Duration, Utc};
use stand_ins::{DemoJob, DemoPlaced, DemoSpace, DemoWalk, unfolded};
use std::collections::BTreeMap;
use store::{Act, Depth, Instrument, JobRecords, MapReading, MoistureMap, Placing, Scope};
use uuid::Uuid;

/// Lays the spaces of a job flat.
pub async fn load(
    scope: &Scope,
    job: &DemoJob,
    id: Uuid,
    instruments: &[Instrument],
    now: DateTime<Utc>,
) -> Result<()> {
    let all = unfolded().map_err(|e| anyhow!("demo spaces: {e}"))?;
    for (seed, demo) in (SEED..).zip(all.iter().filter(|s| s.job == job.name)) {
        let records = scope.job_file(id, Depth::Visit).await?.context("a job just loaded")?;
        space(scope, demo, &records, job, (instruments, seed), now).await.with_context(|| demo.space.clone())?;
    }
    Ok(())
}

async fn space(
    scope: &Scope,
    demo: &DemoSpace,
    records: &JobRecords,
    job: &DemoJob,
    (instruments, seed): (&[Instrument], u64),
    now: DateTime<Utc>,
) -> Result<()> {
    let building = scope.building(records.job.id).await?;
    let own = building.spaces.iter().find(|s| s.name == demo.space).context("a space of the scenario")?;
    let layout = demo.layout(own.id, Uuid::now_v7).map_err(|e| anyhow!(e))?;
    let by = person(records)?;
    let act = |what: String, at| Act::new(Uuid::now_v7(), records.job.id, by, at, what);
    scope.keep_layout(&act(format!("Measured {}", own.name), now - Duration::days(40)), &building, &layout).await?;
    let sheet = layout.sheet();
    for p in &demo.placed {
        let (facet, x, y) = p.at;
        let panel = sheet.panel(facet).context("a face of the space")?;
        let thing = thing(records, &building, p).with_context(|| format!("{} {}", p.what.words(), p.name))?;
        let placing = Placing {
            id: thing,
            job_id: records.job.id,
            space_id: own.id,
            what: p.what,
            at: panel.at([x, y]),
            removed: false,
        };
        scope.keep_placing(&act(format!("Placed {}", p.name), now - Duration::days(39)), placing).await?;
    }
    for (walk, seed) in demo.walk.iter().zip(seed * 100..) {
        let figures = walk.figures(&layout, job.structure, seed).map_err(|e| anyhow!(e))?;
        let routes = layout.routes(job.structure);
        let route = routes.iter().find(|r| r.id == walk.route).context("a way of the space")?;
        let started_at = now - Duration::days(walk.days_ago);
        let false_wets: BTreeMap<String, &str> =
            walk.false_wet.iter().map(|(n, why, _)| (n.to_string(), why.id())).collect();
        let map = MoistureMap {
            id: Uuid::now_v7(),
            job_id: records.job.id,
            visit_id: None,
            space_id: own.id,
            consultant_id: by,
            instrument_id: instruments.last().context("an instrument")?.id,
            name: route.name.clone(),
            route: route.id.clone(),
            is_grid: route.kind == RouteKind::Grid,
            scale: walk.scale,
            material: walk.material,
            species: if walk.scale == MapScale::Pins { "spruce".into() } else { String::new() },
            spacing_m: walk.every,
            standard: walk.standard,
            standard_at: walk.standard_at.clone(),
            reason: String::new(),
            false_wets: serde_json::to_value(false_wets)?,
            started_at,
            removed: false,
        };
        let map_id = map.id;
        scope.keep_map(&act(format!("Walked {}", map.name), started_at), map).await?;
        scope.add_map_readings(readings(walk, &figures, (records.job.id, map_id), started_at)?).await?;
    }
    Ok(())
}

fn readings(
    walk: &DemoWalk,
    figures: &[(building::unfold::At, f64)],
    (job_id, map_id): (Uuid, Uuid),
    at: DateTime<Utc>,
) -> Result<Vec<MapReading>> {
    let one = |(n, (place, figure)): (i32, &(building::unfold::At, f64))| MapReading {
        id: Uuid::now_v7(),
        job_id,
        map_id,
        n,
        at: *place,
        value: Some(*figure),
        over: false,
        as_typed: figure.to_string(),
        taken_at: at + Duration::seconds(6 * i64::from(n)),
    };
    let all: Vec<MapReading> = (0..).zip(figures).map(one).collect();
    anyhow::ensure!(walk.false_wet.iter().all(|(n, ..)| all.iter().any(|r| r.n == *n)), "a false wet beside the way");
    Ok(all)
}

/// Who did the job's first visit.
fn person(records: &JobRecords) -> Result<Uuid> {
    Ok(records.visits.last().context("a visit of the job")?.consultant_id)
}

/// The id of what is placed.
fn thing(records: &JobRecords, building: &Building, p: &DemoPlaced) -> Option<Uuid> {
    match p.what {
        Thing::Station => {
            let surface = building.surfaces.iter().find(|s| s.name == p.name)?;
            Some(building.station_at(building::Place::Surface(surface.id))?.id)
        }
        Thing::Finding => records.findings.iter().find(|f| f.what == p.name).map(|f| f.id),
        Thing::Photo => records.photos.iter().find(|f| f.name == format!("drawing-of-{}.png", p.name)).map(|f| f.id),
        Thing::Thermal => records.thermals.iter().find(|t| t.name == p.name).map(|t| t.id),
        Thing::Test => records.tests.iter().find(|t| t.test == p.name).map(|t| t.id),
        Thing::Logger => None,
    }
}

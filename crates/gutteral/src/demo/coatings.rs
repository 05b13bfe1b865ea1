//! The demo's coatings.

use anyhow::{Result, anyhow};
use building::coating::{CoatingJob, PairedPlace, ProductLimits, Substrate};
use chrono::{DateTime, Duration, Utc};
use stand_ins::{DemoCoating, coatings};
use store::{Act, Scope};
use uuid::Uuid;

fn of(demo: &DemoCoating, now: DateTime<Utc>) -> CoatingJob {
    let place = |(name, before, after): &(String, f64, f64)| PairedPlace {
        name: name.clone(),
        before: *before,
        after: Some(*after),
    };
    CoatingJob {
        id: Uuid::now_v7(),
        name: demo.name.clone(),
        boundary_id: None,
        outdoors: true,
        substrate: Substrate::Block,
        product: demo.product.clone(),
        area_m2: Some(demo.area_m2),
        coats: 2,
        spread: Substrate::Block.usual_spread(),
        first: Substrate::Block.usual_first(),
        parts: Some([1.0, 4.0]),
        jar_l: 9.5,
        pack_l: Some(demo.pack_l),
        limits: ProductLimits { moisture: Some(demo.moisture_most), ..ProductLimits::default() },
        warmer: 0.0,
        dry_since: Some((now - Duration::days(demo.days_since_rain)).timestamp_millis()),
        first_coat: None,
        moisture: Some(demo.moisture),
        places: demo.places.iter().map(place).collect(),
        liters: demo.liters.map(Some),
        efficiency: 1.5,
        days: 180,
    }
}

/// Keeps the coatings of a job.
pub async fn load(scope: &Scope, name: &str, job: Uuid, by: Uuid, now: DateTime<Utc>) -> Result<()> {
    let all = coatings().map_err(|e| anyhow!("demo coatings: {e}"))?;
    for demo in all.iter().filter(|c| c.job == name) {
        let what = format!("Began the coating {}", demo.name);
        let act = Act::new(Uuid::now_v7(), job, by, now - Duration::days(3), what);
        scope.keep_coating(&act, &of(demo, now), false).await?;
    }
    Ok(())
}

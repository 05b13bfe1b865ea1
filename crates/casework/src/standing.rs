//! How the jobs of a docket stand, looked at again where something changed.

use building::Building;
use building::reading::Reading;
use hygrothermal::surface::Verdict;
use judgment::picture::{SpaceState, picture, severity};
use std::collections::HashMap;
use store::{ReadingRecord, Scope, StaleStanding, Standing, StoreError, Visit, Worst, effective};
use uuid::Uuid;

/// Looks again how those jobs stand that changed since, as many as `most`; says how many there were.
///
/// # Errors
/// [`StoreError`] when the database does not answer or a row cannot be read.
pub async fn look_again(scope: &Scope, most: u64) -> Result<u64, StoreError> {
    let (stale, found) = scope.stale_standings(most).await?;
    if stale.is_empty() {
        return Ok(0);
    }
    let ids: Vec<Uuid> = stale.iter().map(|s| s.job).collect();
    let mut latest: HashMap<Uuid, Visit> = HashMap::new();
    for visit in scope.visits_of(&ids).await? {
        // The latest comes first.
        latest.entry(visit.job_id).or_insert(visit);
    }
    let visits: Vec<Uuid> = latest.values().map(|v| v.id).collect();
    let mut readings: HashMap<Uuid, Vec<ReadingRecord>> = HashMap::new();
    for row in scope.reading_rows(&visits).await? {
        readings.entry(row.job_id).or_default().push(row);
    }
    let buildings = scope.buildings(&ids).await?;
    let instruments = scope.instruments().await?;
    let standing = |of: StaleStanding| -> Result<Standing, StoreError> {
        let own = readings.get(&of.job).map_or(&[][..], Vec::as_slice);
        let worst = match buildings.get(&of.job) {
            Some(building) => worst(building, &effective(own, &instruments)?),
            None => None,
        };
        Ok(Standing { of, worst: worst.map_or(Worst::NotJudged, word), readings: own.len() })
    };
    let standings = stale.into_iter().map(standing).collect::<Result<Vec<_>, _>>()?;
    scope.keep_standings(&standings).await?;
    Ok(found)
}

fn worst(building: &Building, readings: &[Reading]) -> Option<Verdict> {
    let picture = picture(building, readings);
    picture.spaces.iter().filter_map(SpaceState::worst).max_by_key(|v| severity(*v))
}

const fn word(verdict: Verdict) -> Worst {
    match verdict {
        Verdict::Condensing => Worst::Condensing,
        Verdict::Uncertain => Worst::CantTell,
        Verdict::MoldRisk => Worst::MoldRisk,
        Verdict::Dry => Worst::Dry,
    }
}

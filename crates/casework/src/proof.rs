//! Days of two spans of a log, for showing whether a fix worked.

use crate::file::CaseFile;
use crate::log::is_outdoors;
use building::SensorKind;
use chrono::{DateTime, Utc};
use hygrothermal::air::saturation_pressure;
use hygrothermal::proof::ProofDay;
use hygrothermal::quantity::Temperature;
use logger::Hour;
use std::collections::{BTreeMap, HashMap};
use store::{Grain, LogSeries, Scope, StoreError};
use uuid::Uuid;

/// Longest span looked at, days.
pub const LONGEST: i64 = 730;

/// Spaces whose air was logged, in walking order.
#[must_use]
pub fn spaces(file: &CaseFile) -> Vec<(Uuid, &str)> {
    let logged = |id: Uuid| file.series.iter().any(|s| is_air_of(s, id));
    file.building.spaces.iter().filter(|s| logged(s.id)).map(|s| (s.id, s.name.as_str())).collect()
}

fn is_air_of(series: &LogSeries, space: Uuid) -> bool {
    series.reads == SensorKind::Air && series.space_id == Some(space) && series.surface_id.is_none()
}

/// Means of temperature and vapor pressure by day since 1970, of several series together, of the days that begin in a span.
fn by_day(
    rows: &HashMap<Uuid, Vec<Hour>>,
    of: &[Uuid],
    [from, until]: &[DateTime<Utc>; 2],
) -> BTreeMap<i64, (f64, f64)> {
    let mut sums: BTreeMap<i64, (f64, f64, f64)> = BTreeMap::new();
    let within = of.iter().filter_map(|id| rows.get(id)).flatten().filter(|d| d.at >= *from && d.at < *until);
    for day in within {
        let (Some(t), Some(dew)) = (day.t_c, day.dew_c) else { continue };
        let Ok(dew) = Temperature::new(dew.mean) else { continue };
        let sum = sums.entry(day.at.timestamp().div_euclid(86_400)).or_default();
        *sum = (sum.0 + 1.0, sum.1 + t.mean, sum.2 + saturation_pressure(dew));
    }
    sums.into_iter().map(|(day, (n, t, p))| (day, (t / n, p / n))).collect()
}

/// Days of two spans in which both a space and outdoors were logged.
///
/// # Errors
/// [`StoreError`] when the database does not answer.
pub async fn days(
    scope: &Scope,
    file: &CaseFile,
    space: Uuid,
    spans: &[[DateTime<Utc>; 2]; 2],
) -> Result<[Vec<ProofDay>; 2], StoreError> {
    let ids =
        |of: &dyn Fn(&LogSeries) -> bool| -> Vec<Uuid> { file.series.iter().filter(|s| of(s)).map(|s| s.id).collect() };
    let (inside, outside) = (ids(&|s| is_air_of(s, space)), ids(&is_outdoors));
    let all: Vec<Uuid> = inside.iter().chain(&outside).copied().collect();
    if inside.is_empty() || outside.is_empty() {
        return Ok([Vec::new(), Vec::new()]);
    }
    let rows = scope.log_hours(&all, Grain::Days, spans).await?;
    let one = |span: &[DateTime<Utc>; 2]| {
        let (inside, outside) = (by_day(&rows, &inside, span), by_day(&rows, &outside, span));
        let day = |(day, (_, p_i)): (&i64, &(f64, f64))| {
            let (t_e, p_e) = outside.get(day)?;
            Some(ProofDay { at: *day, excess: p_i - p_e, outdoor_t: *t_e, outdoor_p: *p_e })
        };
        inside.iter().filter_map(day).collect()
    };
    Ok([one(&spans[0]), one(&spans[1])])
}

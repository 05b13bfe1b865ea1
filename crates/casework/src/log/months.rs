//! Outdoor air month by month, as logged.

use building::SensorKind;
use chrono::{DateTime, Datelike, Months, TimeDelta, Utc};
use hygrothermal::air::saturation_pressure;
use hygrothermal::quantity::Temperature;
use judgment::construction::Outdoors;
use store::{Grain, LogSeries, Scope, StoreError};
use uuid::Uuid;

/// Years looked back on.
const YEARS: u32 = 3;
/// Days a month must be known for to stand for itself.
const ENOUGH: usize = 20;

/// A typical year with the months that were logged outdoors in place of its own.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LoggedYear {
    /// The year.
    pub outdoors: Outdoors,
    /// Which months were logged.
    pub logged: [bool; 12],
}

impl LoggedYear {
    /// Whether outdoor air is logged among these.
    #[must_use]
    pub fn is_logged(series: &[LogSeries]) -> bool {
        series.iter().any(is_outdoors)
    }

    /// Reads daily means of what was logged outdoors in the last three years into a typical year; `None` where nothing was.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn load(
        scope: &Scope,
        series: &[LogSeries],
        usual: Outdoors,
        now: DateTime<Utc>,
    ) -> Result<Option<Self>, StoreError> {
        let ids: Vec<Uuid> = series.iter().filter(|s| is_outdoors(s)).map(|s| s.id).collect();
        let from = now.checked_sub_months(Months::new(12 * YEARS)).unwrap_or(now);
        if ids.is_empty() {
            return Ok(None);
        }
        let days = scope.log_hours(&ids, Grain::Days, &[[from, now + TimeDelta::days(1)]]).await?;
        let mut sums = [(0_usize, 0.0, 0.0); 12];
        for day in days.values().flatten() {
            let (Some(t), Some(dew)) = (day.t_c, day.dew_c) else { continue };
            let Ok(dew) = Temperature::new(dew.mean) else { continue };
            let sum = &mut sums[day.at.month0() as usize];
            *sum = (sum.0 + 1, sum.1 + t.mean, sum.2 + saturation_pressure(dew));
        }
        let mut year = Self { outdoors: usual, logged: [false; 12] };
        for (m, (days, t, vapor)) in sums.into_iter().enumerate().filter(|(_, s)| s.0 >= ENOUGH) {
            year.outdoors.celsius[m] = t / days as f64;
            year.outdoors.vapor[m] = vapor / days as f64;
            year.logged[m] = true;
        }
        Ok(year.logged.contains(&true).then_some(year))
    }
}

/// Whether a series is outdoor air.
#[must_use]
pub fn is_outdoors(series: &LogSeries) -> bool {
    series.reads == SensorKind::Air && series.space_id.is_none() && series.surface_id.is_none()
}

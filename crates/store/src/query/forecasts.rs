//! The weather to come at a job, as it was told last.

use crate::error::StoreError;
use crate::record::{TaskKind, TaskState};
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use sea_orm::{ConnectionTrait, Statement};
use serde::{Deserialize, Serialize};
use uuid::Uuid;

/// Outdoor air of an hour to come.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct ForecastHour {
    /// When it begins.
    pub at: DateTime<Utc>,
    /// Temperature, °C.
    pub t_c: f64,
    /// Relative humidity over water, %.
    pub rh_pct: f64,
    /// Rain, mm.
    #[serde(default)]
    pub rain_mm: f64,
}

/// What was told of the weather to come, and how asking for it stands.
#[derive(Debug, Clone, Default)]
pub struct Forecast {
    /// When it was told; none where it never was.
    pub told_at: Option<DateTime<Utc>>,
    /// Its hours, in the order of time.
    pub hours: Vec<ForecastHour>,
    /// How asking for it stands, and what there is to say of that.
    pub asking: Option<(TaskState, String)>,
}

impl Forecast {
    /// Whether it is being asked for.
    #[must_use]
    pub fn is_asked(&self) -> bool {
        self.asking.as_ref().is_some_and(|(state, _)| matches!(state, TaskState::Waiting | TaskState::Running))
    }
}

impl Scope {
    /// The weather to come at a job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn forecast(&self, job: Uuid) -> Result<Forecast, StoreError> {
        let ask = "select f.told_at, f.hours, t.state, t.said from (select 1) one
            left join forecast f on f.practice_id = $1 and f.job_id = $2
            left join task t on t.practice_id = $1 and t.subject_id = $2 and t.kind = $3";
        let values = [self.practice.into(), job.into(), TaskKind::Forecast.id().into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let Some(row) = self.txn.query_one_raw(asked).await? else { return Ok(Forecast::default()) };
        let hours: Option<serde_json::Value> = row.try_get("", "hours")?;
        let corrupt = |e: serde_json::Error| StoreError::Corrupt(e.to_string());
        let state: Option<String> = row.try_get("", "state")?;
        let said: Option<String> = row.try_get("", "said")?;
        Ok(Forecast {
            told_at: row.try_get("", "told_at")?,
            hours: hours.map(serde_json::from_value).transpose().map_err(corrupt)?.unwrap_or_default(),
            asking: state.as_deref().and_then(TaskState::from_id).map(|s| (s, said.unwrap_or_default())),
        })
    }

    /// Keeps what was told.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_forecast(&self, job: Uuid, hours: &[ForecastHour]) -> Result<(), StoreError> {
        let keep = "insert into forecast values ($1, $2, now(), $3)
            on conflict (practice_id, job_id) do update set told_at = now(), hours = excluded.hours";
        let hours = serde_json::to_value(hours).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        let values = [self.practice.into(), job.into(), hours.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), keep, values)).await?;
        Ok(())
    }
}

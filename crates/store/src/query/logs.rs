//! What loggers read: their series, hours and single readings, and what was marked in them.

use super::history::Act;
use crate::bulk::{FIGURES, point};
use crate::entity::{log_mark, log_series};
use crate::error::StoreError;
use crate::record::{LogMark, LogSeries, records};
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use logger::{Hour, Point, Spread};
use sea_orm::{ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, Statement};
use std::collections::HashMap;
use uuid::Uuid;

/// What a log is made of, beside its readings.
#[derive(Debug, Clone, Default)]
pub struct LogParts {
    /// Its series.
    pub series: Vec<LogSeries>,
    /// What was marked in it, by time.
    pub marks: Vec<LogMark>,
    /// Whether readings are on their way in or out.
    pub busy: bool,
}

/// Readings removed at once.
const AT_ONCE: u32 = 20_000;

/// How finely readings are asked for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Grain {
    /// Hours.
    Hours,
    /// Days, by universal time.
    Days,
}

impl Scope {
    /// The series of a job's log.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn log_series(&self, job: Uuid) -> Result<Vec<LogSeries>, StoreError> {
        let rows = log_series::Entity::find()
            .filter(log_series::Column::PracticeId.eq(self.practice))
            .filter(log_series::Column::JobId.eq(job))
            .filter(log_series::Column::RemovedAt.is_null())
            .order_by_asc(log_series::Column::Id);
        records(rows.all(&self.txn).await?)
    }

    /// The series of a sensor at a place: the one there is, else a new one.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn series_at(&self, new: LogSeries) -> Result<Uuid, StoreError> {
        let (space, surface) = (new.space_id, new.surface_id);
        let same = log_series::Entity::find()
            .filter(log_series::Column::PracticeId.eq(self.practice))
            .filter(log_series::Column::JobId.eq(new.job_id))
            .filter(log_series::Column::InstrumentId.eq(new.instrument_id))
            .filter(log_series::Column::Channel.eq(new.channel.as_str()))
            .filter(log_series::Column::Reads.eq(new.reads.id()))
            .filter(space.map_or(log_series::Column::SpaceId.is_null(), |id| log_series::Column::SpaceId.eq(id)))
            .filter(surface.map_or(log_series::Column::SurfaceId.is_null(), |id| log_series::Column::SurfaceId.eq(id)));
        if let Some(there) = same.clone().one(&self.txn).await? {
            return Ok(there.id);
        }
        let id = new.id;
        if self.insert_once(new.row(self.practice, Utc::now()).into_active_model()).await? {
            return Ok(id);
        }
        // Somebody else made it meanwhile.
        same.one(&self.txn).await?.map(|there| there.id).ok_or(StoreError::Gone)
    }

    /// Hours or days of some series that begin in one of some spans, by series and in the order of time.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn log_hours(
        &self,
        series: &[Uuid],
        grain: Grain,
        spans: &[[DateTime<Utc>; 2]],
    ) -> Result<HashMap<Uuid, Vec<Hour>>, StoreError> {
        let table = match grain {
            Grain::Hours => "log_hour",
            Grain::Days => "log_day",
        };
        let within: Vec<String> = spans
            .iter()
            .map(|[from, until]| format!("at >= {} and at < {}", literal(*from), literal(*until)))
            .collect();
        if within.is_empty() {
            return Ok(HashMap::new());
        }
        let figures = FIGURES.map(|f| f.join(", ")).join(", ");
        let ask = format!(
            "select series_id, at, points, {figures} from {table} where practice_id = $1 and series_id = any($2) \
             and ({}) order by series_id, at",
            within.join(" or ")
        );
        let values = [self.practice.into(), series.to_vec().into()];
        let rows = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let mut out: HashMap<Uuid, Vec<Hour>> = HashMap::new();
        for row in self.txn.query_all_raw(rows).await? {
            let Some(row) = row.try_as_pg_row() else { continue };
            let (series, hour) = hour(row)?;
            out.entry(series).or_default().push(hour);
        }
        Ok(out)
    }

    /// Some single readings of a series in a span, both ends of it included, in order: those after a moment.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn log_points_page(
        &self,
        series: Uuid,
        [from, until]: [DateTime<Utc>; 2],
        after: Option<DateTime<Utc>>,
        most: u64,
    ) -> Result<Vec<Point>, StoreError> {
        let from = match after.filter(|at| *at >= from) {
            Some(at) => format!("> {}", literal(at)),
            None => format!(">= {}", literal(from)),
        };
        let ask = format!(
            "select series_id, at, t_c, rh_pct, value from log_point where practice_id = $1 and series_id = $2
             and at {from} and at <= {} order by at limit {most}",
            literal(until)
        );
        let values = [self.practice.into(), series.into()];
        let rows = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let rows = self.txn.query_all_raw(rows).await?;
        rows.iter().filter_map(|row| row.try_as_pg_row()).map(|row| Ok(point(row)?)).collect()
    }

    /// Single readings of some series in a span, by series and in the order of time, those left out among them.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn log_points(
        &self,
        series: &[Uuid],
        [from, until]: [DateTime<Utc>; 2],
    ) -> Result<HashMap<Uuid, Vec<Point>>, StoreError> {
        let ask = format!(
            "select series_id, at, t_c, rh_pct, value from log_point where practice_id = $1 and series_id = any($2) \
             and at >= {} and at < {} order by series_id, at",
            literal(from),
            literal(until)
        );
        let values = [self.practice.into(), series.to_vec().into()];
        let rows = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let mut out: HashMap<Uuid, Vec<Point>> = HashMap::new();
        for row in self.txn.query_all_raw(rows).await? {
            let Some(row) = row.try_as_pg_row() else { continue };
            let series: Uuid = sea_orm::sqlx::Row::try_get(row, 0)?;
            out.entry(series).or_default().push(point(row)?);
        }
        Ok(out)
    }

    /// What a log is made of, in one statement: its series, what was marked in it, and whether readings are on their way in or out.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn log_parts(&self, job: Uuid) -> Result<LogParts, StoreError> {
        let ask = "select 'series' as part, json_agg(t order by id)::text as rows from log_series t
              where practice_id = $1 and job_id = $2 and removed_at is null
            union all select 'marks', json_agg(t order by from_at, id)::text from log_mark t
              where practice_id = $1 and job_id = $2 and removed_at is null
            union all select 'busy', case when exists (select from task
              where practice_id = $1 and job_id = $2 and kind in ('bring_in', 'roll_up') and state in ('waiting', 'running')) then '[1]' end";
        let asked = [self.practice.into(), job.into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, asked);
        let mut parts: HashMap<String, String> = HashMap::new();
        for row in self.txn.query_all_raw(asked).await? {
            if let Some(rows) = row.try_get::<Option<String>>("", "rows")? {
                parts.insert(row.try_get("", "part")?, rows);
            }
        }
        let read = |part: &str| parts.get(part).map_or("[]", String::as_str);
        let corrupt = |e: serde_json::Error| StoreError::Corrupt(e.to_string());
        Ok(LogParts {
            series: records(serde_json::from_str::<Vec<log_series::Model>>(read("series")).map_err(corrupt)?)?,
            marks: records(serde_json::from_str::<Vec<log_mark::Model>>(read("marks")).map_err(corrupt)?)?,
            busy: parts.contains_key("busy"),
        })
    }

    /// Removes some of the single readings and of the files older than a moment, and says how many; none when all are gone.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remove_older(&self, than: DateTime<Utc>) -> Result<u64, StoreError> {
        let than = literal(than);
        let readings = format!(
            "delete from log_point p using (select series_id, at from log_point where practice_id = $1 and at < {than}
             limit {AT_ONCE}) old where p.practice_id = $1 and p.series_id = old.series_id and p.at = old.at and p.at < {than}"
        );
        let pieces = format!(
            "delete from log_file_piece p using log_file f where p.practice_id = $1 and f.practice_id = $1 and f.id = p.file_id
             and f.sent_at < {than} and not exists (select from task t where t.practice_id = $1 and t.subject_id = f.id
             and t.state in ('waiting', 'running'))"
        );
        let mut gone = 0;
        for sql in [readings, pieces] {
            let run = Statement::from_sql_and_values(self.txn.get_database_backend(), sql, [self.practice.into()]);
            gone += self.txn.execute_raw(run).await?.rows_affected();
        }
        Ok(gone)
    }

    /// A mark in a job's log, removed or not.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn log_mark(&self, job: Uuid, id: Uuid) -> Result<Option<LogMark>, StoreError> {
        let row = log_mark::Entity::find_by_id((self.practice, id)).filter(log_mark::Column::JobId.eq(job));
        row.one(&self.txn).await?.map(TryInto::try_into).transpose()
    }

    /// Keeps a mark, new or changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_mark(&self, act: &Act, mark: LogMark) -> Result<(), StoreError> {
        self.keep_one::<log_mark::Entity>(act, mark.row(self.practice, act.at)).await
    }
}

/// A moment as it is written in a statement: where the database plans for any moment, it opens every month.
pub(crate) fn literal(at: DateTime<Utc>) -> String {
    format!("timestamptz '{}'", at.format("%Y-%m-%d %H:%M:%S%.6f+00"))
}

fn hour(row: &sea_orm::sqlx::postgres::PgRow) -> Result<(Uuid, Hour), StoreError> {
    use sea_orm::sqlx::Row;
    let spread = |at: usize| -> Result<Option<Spread>, StoreError> {
        let n: i32 = row.try_get(at)?;
        let figure = |i| row.try_get::<Option<f64>, _>(i);
        let all = (figure(at + 1)?, figure(at + 2)?, figure(at + 3)?);
        let (Some(mean), Some(low), Some(high)) = all else { return Ok(None) };
        Ok(Some(Spread { n: n.unsigned_abs(), mean, low, high }))
    };
    let points: i32 = row.try_get(2)?;
    let hour = Hour {
        at: row.try_get(1)?,
        points: points.unsigned_abs(),
        t_c: spread(3)?,
        rh_pct: spread(7)?,
        dew_c: spread(11)?,
        value: spread(15)?,
    };
    Ok((row.try_get(0)?, hour))
}

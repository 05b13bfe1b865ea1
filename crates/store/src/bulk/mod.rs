//! Readings of loggers on their way into the database: very many at a time, in one transaction of one practice.
//!
//! Whoever adds readings adds them to the hours and days they lie in as well; whoever removes some makes those hours anew of what is
//! left, alone with the series.

mod add;
mod binary;
mod hours;
mod remake;

pub use add::{Batch, Fate};
pub(crate) use hours::FIGURES;
pub use remake::Stale;

use crate::error::StoreError;
use crate::scope::Store;
use chrono::{DateTime, NaiveDate, TimeDelta, Utc};
use logger::Point;
use sea_orm::sqlx::{self, Postgres, Row, Transaction};
use std::collections::{BTreeMap, BTreeSet};
use uuid::Uuid;

/// Readings being added to a practice's log, or removed. Dropped before [`Intake::commit`], nothing of it is done.
pub struct Intake {
    txn: Transaction<'static, Postgres>,
    store: Store,
    practice: Uuid,
    /// The file they come in; none for what is posted.
    file: Option<Uuid>,
    /// Of hours before this single readings may be gone: they stay as they are.
    lost: Option<DateTime<Utc>>,
    /// The series readings may be of, and from when to when theirs are left out.
    series: BTreeMap<Uuid, Vec<[DateTime<Utc>; 2]>>,
    /// Months that are there.
    months: BTreeSet<NaiveDate>,
    /// How many were added to a series, from when to when.
    added: BTreeMap<Uuid, (u64, [DateTime<Utc>; 2])>,
}

/// How others with the same series are met.
#[derive(Clone, Copy, PartialEq, Eq)]
enum With {
    /// Others may add as well.
    Others,
    /// Nobody else is there.
    Nobody,
}

impl Store {
    /// Begins to add readings to some series of a practice, from a file or as posted.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn intake(&self, practice: Uuid, series: &[Uuid], file: Option<Uuid>) -> Result<Intake, StoreError> {
        self.begin_intake(practice, series, file, With::Others).await
    }

    /// Begins to remove readings of some series, or to make their hours anew, when whoever adds to them is done.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remake(&self, practice: Uuid, series: &[Uuid]) -> Result<Intake, StoreError> {
        self.begin_intake(practice, series, None, With::Nobody).await
    }

    async fn begin_intake(
        &self,
        practice: Uuid,
        series: &[Uuid],
        file: Option<Uuid>,
        with: With,
    ) -> Result<Intake, StoreError> {
        let mut txn = self.db.get_postgres_connection_pool().begin().await?;
        sqlx::query("select set_config('app.practice_id', $1, true)")
            .bind(practice.to_string())
            .execute(&mut *txn)
            .await?;
        let kept = "select now() - make_interval(days => log_days) from practice where practice_id = $1";
        let kept: Option<DateTime<Utc>> =
            sqlx::query_scalar(kept).bind(practice).fetch_optional(&mut *txn).await?.flatten();
        let hold = match with {
            With::Others => {
                "select id from log_series where practice_id = $1 and id = any($2) order by id for key share"
            }
            With::Nobody => "select id from log_series where practice_id = $1 and id = any($2) order by id for update",
        };
        let held: Vec<Uuid> = sqlx::query_scalar(hold).bind(practice).bind(series).fetch_all(&mut *txn).await?;
        let mut series: BTreeMap<Uuid, Vec<_>> = held.into_iter().map(|id| (id, Vec::new())).collect();
        let left_out = "select s.id, m.from_at, m.until_at from log_series s join log_mark m on m.practice_id = s.practice_id
              and m.job_id = s.job_id and (m.series_id = s.id or m.series_id is null)
            where s.practice_id = $1 and s.id = any($2) and m.kind = 'left_out' and m.removed_at is null and m.until_at is not null";
        let ids: Vec<Uuid> = series.keys().copied().collect();
        for row in sqlx::query(left_out).bind(practice).bind(ids).fetch_all(&mut *txn).await? {
            let span = [row.try_get(1)?, row.try_get(2)?];
            series.entry(row.try_get(0)?).or_default().push(span);
        }
        let lost = kept.map(|kept| logger::hour_of(kept) + TimeDelta::hours(1));
        let (store, months, added) = (self.clone(), BTreeSet::new(), BTreeMap::new());
        Ok(Intake { txn, store, practice, file, lost, series, months, added })
    }
}

impl Intake {
    /// Whether a reading counts: nobody left it out.
    fn stands(&self, series: Uuid, point: &Point) -> bool {
        let spans = self.series.get(&series).map_or(&[][..], Vec::as_slice);
        !spans.iter().any(|[from, until]| (*from..*until).contains(&point.at))
    }

    /// Keeps what became of a file, together with its readings.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn know(&mut self, file: Uuid, became: &serde_json::Value) -> Result<(), StoreError> {
        let know = "update log_file set became = $3 where practice_id = $1 and id = $2";
        sqlx::query(know).bind(self.practice).bind(file).bind(became).execute(&mut *self.txn).await?;
        Ok(())
    }

    /// Remembers that loggers were heard, and which sensors of each have no place.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn heard(&mut self, loggers: &BTreeMap<Uuid, serde_json::Value>) -> Result<(), StoreError> {
        let heard = "with heard as (select a.id, a.unplaced from unnest($2::uuid[], $3::jsonb[]) a(id, unplaced)
              join logger l on l.practice_id = $1 and l.instrument_id = a.id order by a.id for update of l)
            update logger set heard_at = now(), unplaced = h.unplaced from heard h where practice_id = $1 and instrument_id = h.id";
        let (ids, unplaced): (Vec<Uuid>, Vec<&serde_json::Value>) = loggers.iter().map(|(id, u)| (*id, u)).unzip();
        sqlx::query(heard).bind(self.practice).bind(ids).bind(unplaced).execute(&mut *self.txn).await?;
        Ok(())
    }

    /// Keeps what was done, and tells every process which job's log has changed.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn commit(mut self, job: Uuid) -> Result<(), StoreError> {
        // What is known of the job is another than before.
        let revise = "insert into revision as r values ($1, $2, 1) on conflict (practice_id, job_id) do update set made = r.made + 1";
        sqlx::query(revise).bind(self.practice).bind(job).execute(&mut *self.txn).await?;
        self.commit_all(&[job]).await
    }

    /// The same for readings of several jobs, as they are posted: so few change what is known of a job too little to be counted.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn commit_all(mut self, jobs: &[Uuid]) -> Result<(), StoreError> {
        self.count().await?;
        let tell = "select pg_notify('log', $1::text || ' ' || job) from unnest($2::uuid[]) job";
        sqlx::query(tell).bind(self.practice).bind(jobs).execute(&mut *self.txn).await?;
        Ok(self.txn.commit().await?)
    }
}

pub(crate) fn point(row: &sqlx::postgres::PgRow) -> Result<Point, sqlx::Error> {
    Ok(Point {
        at: row.try_get("at")?,
        t_c: row.try_get("t_c")?,
        rh_pct: row.try_get("rh_pct")?,
        value: row.try_get("value")?,
    })
}

//! Adding readings: none twice, and each to the hour and day it lies in.
//!
//! The tables of the log are behind walls, and a `COPY` does not pass walls: many readings are copied into a table of the
//! transaction's own and taken from there, a few come along in the statement. To look for each whether it is there costs as much as
//! to add it, so where nothing of a series lies in the span of many that arrive, they are added without looking.

use super::binary::binary;
use super::{Intake, Store};
use crate::error::StoreError;
use crate::query::logs::literal;
use chrono::{DateTime, Datelike, NaiveDate, Utc};
use logger::{Hour, Hours, Point};
use sea_orm::sqlx::{self, AssertSqlSafe, Postgres, Row};
use std::collections::{BTreeSet, HashSet};
use uuid::Uuid;

/// What became of a reading that arrived.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fate {
    /// It is new.
    New,
    /// It was there already.
    Known,
    /// There was one of its moment already that says something else; that stays.
    Differs,
}

/// A reading and which it was of those that arrived.
pub(super) struct Arrived {
    pub(super) n: i32,
    pub(super) series: Uuid,
    pub(super) point: Point,
    /// As its logger's checks correct it.
    corrected: Point,
}

impl Arrived {
    /// What it is known by, as finely as the database knows moments.
    fn key(&self) -> (Uuid, i64) {
        (self.series, self.point.at.timestamp_micros())
    }
}

/// Readings made ready to be added: all that can be done before the database is asked.
pub struct Batch {
    /// By series and time; of two of the same moment the first is first. So two transactions with the same readings meet in the same
    /// order.
    arrived: Vec<Arrived>,
    /// Their hours, if all of them count.
    hours: Vec<(Uuid, Hour)>,
    /// Their rows, where they are many.
    rows: Vec<u8>,
}

impl Batch {
    /// Of readings of series, each counted in its hour as `correct` says it.
    #[must_use]
    pub fn new(points: &[(Uuid, Point)], correct: impl Fn(Uuid, Point) -> Point) -> Self {
        let arrive = |(n, (series, point)): (i32, &(Uuid, Point))| {
            let corrected = correct(*series, *point);
            Arrived { n, series: *series, point: *point, corrected }
        };
        let mut arrived: Vec<Arrived> = (0..).zip(points).map(arrive).collect();
        arrived.sort_by_key(Arrived::key);
        let rows = if arrived.len() > FEW { binary(&arrived) } else { Vec::new() };
        Self { hours: hours(&arrived), arrived, rows }
    }
}

/// As many as come along in a statement: a table for each post would wear the database's own lists out.
const FEW: usize = 1000;
/// Bytes sent at once.
const SENT: usize = 1 << 18;
/// Where arrived readings lie.
const ALONG: &str = "unnest($3::int[], $4::uuid[], $5::timestamptz[], $6::float8[], $7::float8[], $8::float8[]) \
    a(n, series_id, at, t_c, rh_pct, value)";
const COPIED: &str = "arriving a";

impl Store {
    /// Makes months readings lie in, in a transaction of its own: others do not wait for all that is being added.
    pub(crate) async fn make_months(&self, months: Vec<NaiveDate>) -> Result<(), StoreError> {
        let pool = self.db.get_postgres_connection_pool();
        sqlx::query("select log_months($1)").bind(months).execute(pool).await?;
        Ok(())
    }
}

impl Intake {
    /// Adds readings to their series and says of each, in the order they came, what became of it. What is there already stays as it
    /// is. Each new one is added to its hour and day.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn take(&mut self, batch: Batch) -> Result<Vec<Fate>, StoreError> {
        let Batch { mut arrived, hours: whole, rows } = batch;
        let mut fates = vec![Fate::Known; arrived.len()];
        let of_others = arrived.iter().any(|a| !self.series.contains_key(&a.series));
        if of_others {
            arrived.retain(|a| self.series.contains_key(&a.series));
        }
        if arrived.is_empty() {
            return Ok(fates);
        }
        self.months_of(&arrived).await?;
        let few = arrived.len() <= FEW;
        if !few {
            self.copy(if of_others { binary(&arrived) } else { rows }).await?;
        }
        if !few && self.alone(&arrived).await? {
            self.add_unlooked().await?;
            arrived.iter().for_each(|a| fates[a.n as usize] = Fate::New);
        } else {
            self.add(&arrived, few, &mut fates).await?;
        }
        if !few {
            sqlx::query("truncate arriving").execute(&mut *self.txn).await?;
        }
        for a in arrived.iter().filter(|a| fates[a.n as usize] == Fate::New) {
            let (n, [first, last]) = self.added.entry(a.series).or_insert((0, [a.point.at; 2]));
            (*n, *first, *last) = (*n + 1, a.point.at.min(*first), a.point.at.max(*last));
        }
        let counts = |a: &Arrived| fates[a.n as usize] == Fate::New && self.stands(a.series, &a.point);
        if !of_others && arrived.iter().all(counts) {
            self.add_hours(&whole).await?;
        } else {
            arrived.retain(counts);
            self.add_hours(&hours(&arrived)).await?;
        }
        Ok(fates)
    }

    async fn months_of(&mut self, arrived: &[Arrived]) -> Result<(), StoreError> {
        let months: BTreeSet<NaiveDate> = arrived.iter().filter_map(|a| a.point.at.date_naive().with_day(1)).collect();
        let new: Vec<NaiveDate> = months.difference(&self.months).copied().collect();
        if !new.is_empty() {
            self.store.make_months(new.clone()).await?;
            self.months.extend(new);
        }
        Ok(())
    }

    /// Copies rows into the transaction's own table.
    async fn copy(&mut self, rows: Vec<u8>) -> Result<(), StoreError> {
        let table = "create temp table if not exists arriving (n int, series_id uuid, at timestamptz, t_c double precision, \
            rh_pct double precision, value double precision) on commit drop";
        sqlx::query(table).execute(&mut *self.txn).await?;
        let mut copy = self.txn.copy_in_raw("copy arriving from stdin (format binary)").await?;
        for some in rows.chunks(SENT) {
            copy.send(some).await?;
        }
        copy.finish().await?;
        Ok(())
    }

    /// Whether no two of some readings are of the same moment and nothing of their series lies between the first and last of them.
    async fn alone(&mut self, arrived: &[Arrived]) -> Result<bool, StoreError> {
        if arrived.windows(2).any(|two| two[0].key() == two[1].key()) {
            return Ok(false);
        }
        for one in arrived.chunk_by(|a, b| a.series == b.series) {
            let ([first, ..], [.., last]) = (one, one) else { continue };
            let there = format!(
                "select exists (select from log_point where practice_id = $1 and series_id = $2 and at >= {} and at <= {})",
                literal(first.point.at),
                literal(last.point.at)
            );
            let there = sqlx::query_scalar(AssertSqlSafe(there)).bind(self.practice).bind(first.series);
            if there.fetch_one(&mut *self.txn).await? {
                return Ok(false);
            }
        }
        Ok(true)
    }

    /// Adds what was copied where nothing of it can be there.
    async fn add_unlooked(&mut self) -> Result<(), StoreError> {
        let add = "insert into log_point (practice_id, series_id, at, t_c, rh_pct, value, bring_in_id)
            select $1, series_id, at, t_c, rh_pct, value, $2 from arriving";
        let added = sqlx::query(add).bind(self.practice).bind(self.file).execute(&mut *self.txn).await;
        added.map(drop).map_err(|e| match e.as_database_error() {
            // Somebody else added one of them meanwhile: again, they are seen.
            Some(known) if known.is_unique_violation() => {
                StoreError::Unavailable(sea_orm::DbErr::Custom(e.to_string()))
            }
            _ => e.into(),
        })
    }

    /// Adds readings of which some may be there.
    async fn add(&mut self, arrived: &[Arrived], few: bool, fates: &mut [Fate]) -> Result<(), StoreError> {
        let source = if few { ALONG } else { COPIED };
        let add = format!(
            "insert into log_point (practice_id, series_id, at, t_c, rh_pct, value, bring_in_id)
            select $1, series_id, at, t_c, rh_pct, value, $2 from {source} on conflict do nothing returning series_id, at"
        );
        let query = with(sqlx::query(AssertSqlSafe(add)).bind(self.practice).bind(self.file), few, arrived);
        let mut added: HashSet<(Uuid, i64)> = HashSet::new();
        for row in query.fetch_all(&mut *self.txn).await? {
            let at: DateTime<Utc> = row.try_get(1)?;
            added.insert((row.try_get(0)?, at.timestamp_micros()));
        }
        for one in arrived.iter().filter(|a| added.remove(&a.key())) {
            fates[one.n as usize] = Fate::New;
        }
        if arrived.iter().all(|a| fates[a.n as usize] == Fate::New) {
            return Ok(());
        }
        let differ = format!(
            "select a.n from {source} join log_point p on p.practice_id = $1 and p.series_id = a.series_id and p.at = a.at
            where (p.t_c, p.rh_pct, p.value) is distinct from (a.t_c, a.rh_pct, a.value) and $2::uuid is not distinct from $2"
        );
        let query = with(sqlx::query(AssertSqlSafe(differ)).bind(self.practice).bind(self.file), few, arrived);
        for row in query.fetch_all(&mut *self.txn).await? {
            let n: i32 = row.try_get(0)?;
            fates[n as usize] = Fate::Differs;
        }
        Ok(())
    }

    /// Counts what was added.
    pub(super) async fn count(&mut self) -> Result<(), StoreError> {
        let count = "with held as (select s.id, a.n, a.first, a.last
              from unnest($2::uuid[], $3::bigint[], $4::timestamptz[], $5::timestamptz[]) a(id, n, first, last)
              join log_series s on s.practice_id = $1 and s.id = a.id order by s.id for no key update of s)
            update log_series s set points = s.points + h.n, first_at = least(s.first_at, h.first),
              last_at = greatest(s.last_at, h.last)
            from held h where s.practice_id = $1 and s.id = h.id";
        let added = std::mem::take(&mut self.added);
        if added.is_empty() {
            return Ok(());
        }
        let query = sqlx::query(count)
            .bind(self.practice)
            .bind(added.keys().copied().collect::<Vec<_>>())
            .bind(added.values().map(|(n, _)| n.cast_signed()).collect::<Vec<_>>())
            .bind(added.values().map(|(_, [first, _])| *first).collect::<Vec<_>>())
            .bind(added.values().map(|(_, [_, last])| *last).collect::<Vec<_>>());
        query.execute(&mut *self.txn).await?;
        Ok(())
    }
}

/// Hours of readings that are sorted by series and time.
fn hours(arrived: &[Arrived]) -> Vec<(Uuid, Hour)> {
    let mut out = Vec::new();
    for one in arrived.chunk_by(|a, b| a.series == b.series) {
        let mut hours = Hours::default();
        let mut made: Vec<Hour> = one.iter().filter_map(|a| hours.take(&a.corrected)).collect();
        made.extend(hours.end());
        out.extend(made.into_iter().map(|h| (one[0].series, h)));
    }
    out
}

type Query<'q> = sqlx::query::Query<'q, Postgres, sqlx::postgres::PgArguments>;

/// A statement with a few readings along.
fn with<'q>(query: Query<'q>, few: bool, arrived: &[Arrived]) -> Query<'q> {
    if !few {
        return query;
    }
    let of = |pick: fn(&Point) -> Option<f64>| arrived.iter().map(|a| pick(&a.point)).collect::<Vec<_>>();
    query
        .bind(arrived.iter().map(|a| a.n).collect::<Vec<_>>())
        .bind(arrived.iter().map(|a| a.series).collect::<Vec<_>>())
        .bind(arrived.iter().map(|a| a.point.at).collect::<Vec<_>>())
        .bind(of(|p| p.t_c))
        .bind(of(|p| p.rh_pct))
        .bind(of(|p| p.value))
}

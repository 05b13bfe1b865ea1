//! Readings of loggers on their way into the database: very many at a time, in one transaction of one practice.
//!
//! The tables of the log are behind walls, and a `COPY` does not pass walls: readings are copied into a table of the
//! transaction's own, and taken from there.

use crate::error::StoreError;
use crate::scope::Store;
use chrono::{DateTime, Datelike, NaiveDate, TimeDelta, Utc};
use logger::{Hour, Hours, Point, Spread};
use sea_orm::sqlx::{self, AssertSqlSafe, Postgres, Row, Transaction};
use std::collections::{BTreeSet, HashMap};
use uuid::Uuid;

/// Readings being added to a practice's log. Dropped before [`Intake::commit`], nothing of them is there.
pub struct Intake {
    txn: Transaction<'static, Postgres>,
    store: Store,
    practice: Uuid,
    /// Single readings before this may be gone: the hours made of them stay as they are.
    kept_from: Option<DateTime<Utc>>,
    months: BTreeSet<NaiveDate>,
    /// From when to when readings of each series arrived.
    spans: HashMap<Uuid, [DateTime<Utc>; 2]>,
    /// What arrived, while it is little.
    held: Vec<(Uuid, Point)>,
    /// How many lie in the transaction's own table.
    copied: u64,
}

/// What became of readings that arrived.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Settled {
    /// That are new, by series and the hour they lie in, in that order.
    pub added: Vec<(Uuid, DateTime<Utc>, u64)>,
    /// That were there already.
    pub known: u64,
    /// Of these, that say something else than what is there; that stays.
    pub differ: u64,
}

/// A span of hours of a series whose readings changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stale {
    /// Which series.
    pub series: Uuid,
    /// Its first hour.
    pub from: DateTime<Utc>,
    /// The hour after its last.
    pub until: DateTime<Utc>,
}

/// Hours apart that are made anew in one go.
const NEAR: TimeDelta = TimeDelta::hours(48);
/// As many as come along in a statement.
const FEW: usize = 1000;
/// Rows sent at once.
const AT_ONCE: usize = 4000;
/// Microseconds from 1970 to 2000, where the database counts from.
const EPOCH_2000: i64 = 946_684_800_000_000;

impl Settled {
    /// How many are new.
    #[must_use]
    pub fn fresh(&self) -> u64 {
        self.added.iter().map(|(_, _, n)| n).sum()
    }

    /// The spans of hours they lie in.
    #[must_use]
    pub fn stale(&self) -> Vec<Stale> {
        stale(self.added.iter().map(|(series, hour, _)| (*series, *hour)))
    }
}

/// Hours, in the order of series and time, as spans.
fn stale(hours: impl Iterator<Item = (Uuid, DateTime<Utc>)>) -> Vec<Stale> {
    let mut out: Vec<Stale> = Vec::new();
    for (series, hour) in hours {
        let until = hour + TimeDelta::hours(1);
        match out.last_mut().filter(|s| s.series == series && hour - s.until <= NEAR) {
            Some(span) => span.until = until,
            None => out.push(Stale { series, from: hour, until }),
        }
    }
    out
}

impl Store {
    /// Begins to take readings into a practice's log.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn intake(&self, practice: Uuid) -> Result<Intake, StoreError> {
        let mut txn = self.db.get_postgres_connection_pool().begin().await?;
        sqlx::query("select set_config('app.practice_id', $1, true)")
            .bind(practice.to_string())
            .execute(&mut *txn)
            .await?;
        let kept = "select now() - make_interval(days => log_days) from practice where practice_id = $1";
        let kept_from: Option<DateTime<Utc>> =
            sqlx::query_scalar(kept).bind(practice).fetch_optional(&mut *txn).await?.flatten();
        Ok(Intake {
            txn,
            kept_from,
            store: self.clone(),
            practice,
            months: BTreeSet::new(),
            spans: HashMap::new(),
            held: Vec::new(),
            copied: 0,
        })
    }

    /// Makes the months readings lie in, in a transaction of its own: others do not wait for all that is being added.
    async fn make_months(&self, months: &BTreeSet<NaiveDate>) -> Result<(), StoreError> {
        let months: Vec<NaiveDate> = months.iter().copied().collect();
        let pool = self.db.get_postgres_connection_pool();
        sqlx::query("select log_months($1)").bind(months).execute(pool).await?;
        Ok(())
    }
}

impl Intake {
    /// Takes readings of some series of the practice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn take(&mut self, points: &[(Uuid, Point)]) -> Result<(), StoreError> {
        for (series, Point { at, .. }) in points {
            self.months.extend(at.date_naive().with_day(1));
            let span = self.spans.entry(*series).or_insert([*at, *at]);
            *span = [span[0].min(*at), span[1].max(*at)];
        }
        if self.copied == 0 && self.held.len() + points.len() <= FEW {
            self.held.extend(points);
            return Ok(());
        }
        let held = std::mem::take(&mut self.held);
        self.copy(&held).await?;
        self.copy(points).await
    }

    /// Copies readings into a table of the transaction's own.
    async fn copy(&mut self, points: &[(Uuid, Point)]) -> Result<(), StoreError> {
        if points.is_empty() {
            return Ok(());
        }
        if self.copied == 0 {
            let table = "create temp table arriving (series_id uuid, at timestamptz, t_c double precision, \
                rh_pct double precision, value double precision) on commit drop";
            sqlx::query(table).execute(&mut *self.txn).await?;
        }
        let mut copy = self.txn.copy_in_raw("copy arriving from stdin (format binary)").await?;
        copy.send(HEADER).await?;
        for some in points.chunks(AT_ONCE) {
            copy.send(binary(some)).await?;
        }
        copy.send(&(-1_i16).to_be_bytes()[..]).await?;
        copy.finish().await?;
        self.copied += points.len() as u64;
        Ok(())
    }

    /// Adds what arrived to the log, as part of a file brought in or as posted. What is there already stays as it is.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn settle(&mut self, bring_in: Option<Uuid>) -> Result<Settled, StoreError> {
        let (arrived, few) = (self.copied + self.held.len() as u64, self.copied == 0);
        if arrived == 0 {
            return Ok(Settled::default());
        }
        self.store.make_months(&self.months).await?;
        // Who adds to a series waits for whoever does already: hours are made of all their readings.
        let series: Vec<Uuid> = self.spans.keys().copied().collect();
        self.hold(&series).await?;
        // A few come along in the statement: a table for each post would wear the database's own lists out.
        let source = if few {
            "unnest($3::uuid[], $4::timestamptz[], $5::float8[], $6::float8[], $7::float8[]) a(series_id, at, t_c, rh_pct, value)"
        } else {
            "arriving a"
        };
        let held = std::mem::take(&mut self.held);
        let add = format!(
            "with added as (
            insert into log_point (practice_id, series_id, at, t_c, rh_pct, value, bring_in_id)
            select $1, series_id, at, t_c, rh_pct, value, $2 from {source}
            where exists (select from log_series s where s.practice_id = $1 and s.id = a.series_id)
            on conflict do nothing returning series_id, at)
            select series_id, date_bin('1 hour', at, timestamptz '2000-01-01 00:00:00+00') as hour, count(*) as n
            from added group by 1, 2 order by 1, 2"
        );
        let query = with(sqlx::query(AssertSqlSafe(add)).bind(self.practice).bind(bring_in), few, &held);
        let mut settled = Settled::default();
        for row in query.fetch_all(&mut *self.txn).await? {
            let n: i64 = row.try_get("n")?;
            settled.added.push((row.try_get("series_id")?, row.try_get("hour")?, n.unsigned_abs()));
        }
        settled.known = arrived - settled.fresh();
        if settled.known > 0 {
            let differ = format!(
                "select count(*) as n from {source} join log_point p
                on p.practice_id = $1 and p.series_id = a.series_id and p.at = a.at
                where (p.t_c, p.rh_pct, p.value) is distinct from (a.t_c, a.rh_pct, a.value) and $2::uuid is not distinct from $2"
            );
            let query = with(sqlx::query(AssertSqlSafe(differ)).bind(self.practice).bind(bring_in), few, &held);
            let n: i64 = query.fetch_one(&mut *self.txn).await?.try_get("n")?;
            settled.differ = n.unsigned_abs();
        }
        self.count(&settled).await?;
        if !few {
            sqlx::query("drop table arriving").execute(&mut *self.txn).await?;
            self.copied = 0;
        }
        Ok(settled)
    }

    /// Makes whoever else would add to some series wait.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn hold(&mut self, series: &[Uuid]) -> Result<(), StoreError> {
        let lock = "select id from log_series where practice_id = $1 and id = any($2) order by id for update";
        sqlx::query(lock).bind(self.practice).bind(series).execute(&mut *self.txn).await?;
        Ok(())
    }

    /// Takes out what a file brought in, and says which hours it lay in.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn take_out(&mut self, series: &[Uuid], bring_in: Uuid) -> Result<Vec<Stale>, StoreError> {
        self.hold(series).await?;
        let remove = "with gone as (
            delete from log_point where practice_id = $1 and series_id = any($2) and bring_in_id = $3 returning series_id, at)
            select distinct series_id, date_bin('1 hour', at, timestamptz '2000-01-01 00:00:00+00') as hour from gone
            order by 1, 2";
        let query = sqlx::query(remove).bind(self.practice).bind(series).bind(bring_in);
        let rows = query.fetch_all(&mut *self.txn).await?;
        let hours: Result<Vec<_>, sqlx::Error> =
            rows.iter().map(|r| Ok((r.try_get("series_id")?, r.try_get("hour")?))).collect();
        for series in series {
            self.recount(*series).await?;
        }
        Ok(stale(hours?.into_iter()))
    }

    /// Makes hours and days anew of the readings that lie in a span, each corrected first; those left out are not among them.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn roll_up(&mut self, span: Stale, correct: impl Fn(Point) -> Point + Send) -> Result<(), StoreError> {
        let mut hours = Hours::default();
        let mut made = Vec::new();
        let mut from = span.from;
        // A week of readings at a time, so that it takes no more room however long the span is.
        while from < span.until {
            let until = (from + TimeDelta::days(7)).min(span.until);
            for point in self.standing(span.series, from, until).await? {
                made.extend(hours.take(&correct(point)));
            }
            from = until;
        }
        made.extend(hours.end());
        let lost = self
            .kept_from
            .map_or(span.from, |kept| logger::hour_of(kept) + TimeDelta::hours(1))
            .clamp(span.from, span.until);
        let gone = "delete from log_hour where practice_id = $1 and series_id = $2 and at >= $3 and at < $4";
        let query = sqlx::query(gone).bind(self.practice).bind(span.series).bind(lost).bind(span.until);
        query.execute(&mut *self.txn).await?;
        for some in made.chunks(AT_ONCE) {
            self.put_hours(span.series, some).await?;
        }
        self.put_days(span).await
    }

    /// Readings of a span that are not left out, in the order of time.
    async fn standing(
        &mut self,
        series: Uuid,
        from: DateTime<Utc>,
        until: DateTime<Utc>,
    ) -> Result<Vec<Point>, StoreError> {
        let query = "select at, t_c, rh_pct, value from log_point p
            where practice_id = $1 and series_id = $2 and at >= $3 and at < $4 and not exists (
              select from log_mark m where m.practice_id = p.practice_id and (m.series_id = p.series_id or m.series_id is null
                and m.job_id = (select job_id from log_series s where s.practice_id = $1 and s.id = $2))
              and m.kind = 'left_out' and m.removed_at is null and p.at >= m.from_at and p.at < m.until_at)
            order by at";
        let query = sqlx::query(query).bind(self.practice).bind(series).bind(from).bind(until);
        let rows = query.fetch_all(&mut *self.txn).await?;
        rows.iter().map(|row| Ok(point(row)?)).collect()
    }

    async fn put_hours(&mut self, series: Uuid, hours: &[Hour]) -> Result<(), StoreError> {
        let spreads = |of: fn(&Hour) -> Option<Spread>| {
            let one = move |pick: fn(Spread) -> f64| hours.iter().map(|h| of(h).map(pick)).collect::<Vec<_>>();
            [one(|s| s.mean), one(|s| s.low), one(|s| s.high)]
        };
        let put = "insert into log_hour select $1, $2, * from unnest($3::timestamptz[], $4::int[], \
            $5::float8[], $6::float8[], $7::float8[], $8::float8[], $9::float8[], $10::float8[], \
            $11::float8[], $12::float8[], $13::float8[], $14::float8[], $15::float8[], $16::float8[]) \
            on conflict do nothing";
        let at: Vec<_> = hours.iter().map(|h| h.at).collect();
        let points: Vec<i32> = hours.iter().map(|h| h.points.cast_signed()).collect();
        let mut query = sqlx::query(put).bind(self.practice).bind(series).bind(at).bind(points);
        for column in [spreads(|h| h.t_c), spreads(|h| h.rh_pct), spreads(|h| h.dew_c), spreads(|h| h.value)]
            .into_iter()
            .flatten()
        {
            query = query.bind(column);
        }
        query.execute(&mut *self.txn).await?;
        Ok(())
    }

    /// Days are made of hours, by universal time.
    async fn put_days(&mut self, span: Stale) -> Result<(), StoreError> {
        let day = |at: DateTime<Utc>| at.date_naive().and_time(chrono::NaiveTime::MIN).and_utc();
        let (from, until) = (day(span.from), day(span.until - TimeDelta::hours(1)) + TimeDelta::days(1));
        let gone = "delete from log_day where practice_id = $1 and series_id = $2 and at >= $3 and at < $4";
        let query = sqlx::query(gone).bind(self.practice).bind(span.series).bind(from).bind(until);
        query.execute(&mut *self.txn).await?;
        let mean = |x: &str| {
            let (low, high) = match x {
                "t_c" => ("t_low", "t_high"),
                "rh_pct" => ("rh_low", "rh_high"),
                "dew_c" => ("dew_low", "dew_high"),
                _ => ("value_low", "value_high"),
            };
            format!("sum({x} * points) / sum(points) filter (where {x} is not null), min({low}), max({high})")
        };
        let put = format!(
            "insert into log_day select $1, $2, date_bin('1 day', at, timestamptz '2000-01-01 00:00:00+00'), sum(points), \
             {}, {}, {}, {} from log_hour where practice_id = $1 and series_id = $2 and at >= $3 and at < $4 group by 3",
            mean("t_c"),
            mean("rh_pct"),
            mean("dew_c"),
            mean("value")
        );
        let query = sqlx::query(AssertSqlSafe(put)).bind(self.practice).bind(span.series).bind(from).bind(until);
        query.execute(&mut *self.txn).await?;
        Ok(())
    }

    /// How many readings a series has, from when to when.
    async fn recount(&mut self, series: Uuid) -> Result<(), StoreError> {
        let count = "update log_series set (points, first_at, last_at) = (
              select count(*), min(at), max(at) from log_point where practice_id = $1 and series_id = $2)
            where practice_id = $1 and id = $2";
        sqlx::query(count).bind(self.practice).bind(series).execute(&mut *self.txn).await?;
        Ok(())
    }

    /// Counts what was added.
    async fn count(&mut self, settled: &Settled) -> Result<(), StoreError> {
        let count = "update log_series set points = points + $3, first_at = least(first_at, $4), last_at = greatest(last_at, $5)
            where practice_id = $1 and id = $2";
        for (series, [first, last]) in std::mem::take(&mut self.spans) {
            let added = settled.added.iter().filter(|(id, ..)| *id == series).map(|(_, _, n)| n).sum::<u64>();
            let query =
                sqlx::query(count).bind(self.practice).bind(series).bind(added.cast_signed()).bind(first).bind(last);
            query.execute(&mut *self.txn).await?;
        }
        Ok(())
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

    /// Remembers when a logger was heard, and which of its sensors have no place.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn heard(&mut self, instrument: Uuid, unplaced: &serde_json::Value) -> Result<(), StoreError> {
        let heard = "update logger set heard_at = now(), unplaced = $3 where practice_id = $1 and instrument_id = $2";
        sqlx::query(heard).bind(self.practice).bind(instrument).bind(unplaced).execute(&mut *self.txn).await?;
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
        for job in jobs {
            let tell = sqlx::query("select pg_notify('log', $1)").bind(format!("{} {job}", self.practice));
            tell.execute(&mut *self.txn).await?;
        }
        Ok(self.txn.commit().await?)
    }
}

type Query<'q> = sqlx::query::Query<'q, Postgres, sqlx::postgres::PgArguments>;

/// A statement with a few readings along.
fn with<'q>(query: Query<'q>, few: bool, held: &[(Uuid, Point)]) -> Query<'q> {
    if !few {
        return query;
    }
    let of = |pick: fn(&Point) -> Option<f64>| held.iter().map(|(_, p)| pick(p)).collect::<Vec<_>>();
    query
        .bind(held.iter().map(|(series, _)| *series).collect::<Vec<_>>())
        .bind(held.iter().map(|(_, p)| p.at).collect::<Vec<_>>())
        .bind(of(|p| p.t_c))
        .bind(of(|p| p.rh_pct))
        .bind(of(|p| p.value))
}

pub(crate) fn point(row: &sqlx::postgres::PgRow) -> Result<Point, sqlx::Error> {
    Ok(Point {
        at: row.try_get("at")?,
        t_c: row.try_get("t_c")?,
        rh_pct: row.try_get("rh_pct")?,
        value: row.try_get("value")?,
    })
}

/// What rows in the database's own binary format begin with.
const HEADER: &[u8] = b"PGCOPY\n\xff\r\n\0\0\0\0\0\0\0\0\0";

/// Rows in the database's own binary format.
fn binary(points: &[(Uuid, Point)]) -> Vec<u8> {
    let mut out = Vec::with_capacity(points.len() * 72 + 19);
    for (series, point) in points {
        out.extend(5_i16.to_be_bytes());
        out.extend(16_i32.to_be_bytes());
        out.extend(series.as_bytes());
        out.extend(8_i32.to_be_bytes());
        out.extend((point.at.timestamp_micros() - EPOCH_2000).to_be_bytes());
        for x in [point.t_c, point.rh_pct, point.value] {
            match x {
                Some(x) => {
                    out.extend(8_i32.to_be_bytes());
                    out.extend(x.to_be_bytes());
                }
                None => out.extend((-1_i32).to_be_bytes()),
            }
        }
    }
    out
}

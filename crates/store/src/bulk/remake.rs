//! Removing readings, and making hours anew of those that are left.

use super::hours::{FIGURES, day_of};
use super::{Intake, point};
use crate::error::StoreError;
use crate::query::logs::literal;
use chrono::{DateTime, TimeDelta, Utc};
use logger::{Hours, Point};
use sea_orm::sqlx::{self, AssertSqlSafe, Row};
use std::fmt::Write;
use uuid::Uuid;

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

impl Intake {
    /// Takes out what a file brought in, and says which hours it lay in.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn take_out(&mut self, bring_in: Uuid) -> Result<Vec<Stale>, StoreError> {
        let remove = "with gone as (
            delete from log_point where practice_id = $1 and series_id = any($2) and bring_in_id = $3 returning series_id, at)
            select distinct series_id, date_bin('1 hour', at, timestamptz '2000-01-01 00:00:00+00') as hour from gone
            order by 1, 2";
        let series: Vec<Uuid> = self.series.keys().copied().collect();
        let query = sqlx::query(remove).bind(self.practice).bind(&series).bind(bring_in);
        let rows = query.fetch_all(&mut *self.txn).await?;
        let hours: Result<Vec<_>, sqlx::Error> =
            rows.iter().map(|r| Ok((r.try_get("series_id")?, r.try_get("hour")?))).collect();
        for series in series {
            self.recount(series).await?;
        }
        Ok(stale(hours?.into_iter()))
    }

    /// Makes hours and days anew of the readings that lie in a span, each corrected first; those left out are not among them.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn roll_up(&mut self, span: Stale, correct: impl Fn(Point) -> Point + Send) -> Result<(), StoreError> {
        let lost = self.lost.unwrap_or(span.from).clamp(span.from, span.until);
        let days = [day_of(span.from), day_of(span.until - TimeDelta::hours(1)) + TimeDelta::days(1)];
        for (table, [from, until]) in [("log_hour", [lost, span.until]), ("log_day", days)] {
            let gone =
                format!("delete from {table} where practice_id = $1 and series_id = $2 and at >= $3 and at < $4");
            let query = sqlx::query(AssertSqlSafe(gone)).bind(self.practice).bind(span.series).bind(from).bind(until);
            query.execute(&mut *self.txn).await?;
        }
        let mut hours = Hours::default();
        let mut from = span.from;
        // A week of readings at a time, so that it takes no more room however long the span is.
        while from < span.until {
            let until = (from + TimeDelta::days(7)).min(span.until);
            let standing = self.standing(span.series, from, until).await?;
            let mut made: Vec<_> = standing.into_iter().filter_map(|p| hours.take(&correct(p))).collect();
            if until == span.until {
                made.extend(hours.end());
            }
            let made: Vec<_> = made.into_iter().map(|h| (span.series, h)).collect();
            self.put_hours(&made).await?;
            from = until;
        }
        self.put_days(span.series, days).await
    }

    /// Readings of a span that are not left out, in the order of time.
    async fn standing(
        &mut self,
        series: Uuid,
        from: DateTime<Utc>,
        until: DateTime<Utc>,
    ) -> Result<Vec<Point>, StoreError> {
        let query = format!(
            "select at, t_c, rh_pct, value from log_point where practice_id = $1 and series_id = $2 \
             and at >= {} and at < {} order by at",
            literal(from),
            literal(until)
        );
        let query = sqlx::query(AssertSqlSafe(query)).bind(self.practice).bind(series);
        let rows = query.fetch_all(&mut *self.txn).await?;
        let points: Result<Vec<Point>, sqlx::Error> = rows.iter().map(point).collect();
        Ok(points?.into_iter().filter(|p| self.stands(series, p)).collect())
    }

    /// Days are made of hours, by universal time.
    async fn put_days(&mut self, series: Uuid, [from, until]: [DateTime<Utc>; 2]) -> Result<(), StoreError> {
        let (mut columns, mut figures) = (String::new(), String::new());
        for [n, mean, low, high] in FIGURES {
            let _ = write!(columns, ", {n}, {mean}, {low}, {high}");
            let _ = write!(figures, ", sum({n}), sum({mean} * {n}) / nullif(sum({n}), 0), min({low}), max({high})");
        }
        let put = format!(
            "insert into log_day (practice_id, series_id, at, points{columns}) \
             select $1, $2, date_bin('1 day', at, timestamptz '2000-01-01 00:00:00+00'), sum(points){figures} \
             from log_hour where practice_id = $1 and series_id = $2 and at >= $3 and at < $4 group by 3"
        );
        let query = sqlx::query(AssertSqlSafe(put)).bind(self.practice).bind(series).bind(from).bind(until);
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
}

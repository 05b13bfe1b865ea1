//! Hours and days of readings, to which more are added.

use super::Intake;
use crate::error::StoreError;
use chrono::{DateTime, NaiveTime, Utc};
use logger::{Hour, Spread};
use sea_orm::sqlx::{self, AssertSqlSafe, Row};
use std::collections::HashSet;
use std::fmt::Write;
use uuid::Uuid;

/// What an hour is made of, as its columns are called.
pub(crate) const FIGURES: [[&str; 4]; 4] = [
    ["t_n", "t_c", "t_low", "t_high"],
    ["rh_n", "rh_pct", "rh_low", "rh_high"],
    ["dew_n", "dew_c", "dew_low", "dew_high"],
    ["value_n", "value", "value_low", "value_high"],
];
/// Rows put at once.
const AT_ONCE: usize = 4000;

/// The day a moment lies in, by universal time.
pub(super) fn day_of(at: DateTime<Utc>) -> DateTime<Utc> {
    at.date_naive().and_time(NaiveTime::MIN).and_utc()
}

impl Intake {
    /// Adds hours, by series and in the order of time, to what is there, and to the days they lie in. Hours whose readings may be
    /// gone stay as they are.
    pub(super) async fn add_hours(&mut self, hours: &[(Uuid, Hour)]) -> Result<(), StoreError> {
        let mut days: Vec<(Uuid, Hour)> = Vec::new();
        for some in hours.chunks(AT_ONCE) {
            let put = self.put_hours(some).await?;
            for (series, hour) in some.iter().filter(|(series, hour)| put.contains(&(*series, hour.at))) {
                let day = Hour { at: day_of(hour.at), ..*hour };
                match days.last_mut().filter(|(s, d)| s == series && d.at == day.at) {
                    Some((_, known)) => *known = known.with(&day),
                    None => days.push((*series, day)),
                }
            }
        }
        for some in days.chunks(AT_ONCE) {
            self.put("log_day", some, DateTime::UNIX_EPOCH).await?;
        }
        Ok(())
    }

    /// Adds hours to what is there, and says to which it did.
    pub(super) async fn put_hours(
        &mut self,
        hours: &[(Uuid, Hour)],
    ) -> Result<HashSet<(Uuid, DateTime<Utc>)>, StoreError> {
        // No log reaches back further.
        self.put("log_hour", hours, self.lost.unwrap_or(DateTime::UNIX_EPOCH)).await
    }

    /// Adds rows to those of a table; to none there is from before a moment. Says which it took.
    async fn put(
        &mut self,
        table: &str,
        rows: &[(Uuid, Hour)],
        from: DateTime<Utc>,
    ) -> Result<HashSet<(Uuid, DateTime<Utc>)>, StoreError> {
        let mut put = format!("insert into {table} as h (practice_id, series_id, at, points");
        let mut taken = String::new();
        let mut sums = String::new();
        for ([n, mean, low, high], i) in FIGURES.iter().zip((0..).step_by(4)) {
            let _ = write!(put, ", {n}, {mean}, {low}, {high}");
            let _ =
                write!(taken, ", ${}::int[], ${}::float8[], ${}::float8[], ${}::float8[]", i + 6, i + 7, i + 8, i + 9);
            let _ = write!(
                sums,
                ", {n} = h.{n} + excluded.{n}, {mean} = (coalesce(h.{mean} * h.{n}, 0) \
                 + coalesce(excluded.{mean} * excluded.{n}, 0)) / nullif(h.{n} + excluded.{n}, 0), \
                 {low} = least(h.{low}, excluded.{low}), {high} = greatest(h.{high}, excluded.{high})"
            );
        }
        let _ = write!(
            put,
            ") select $1, * from unnest($3::uuid[], $4::timestamptz[], $5::int[]{taken}) \
             on conflict (practice_id, series_id, at) do update set points = h.points + excluded.points{sums} \
             where h.at >= $2 returning h.series_id, h.at"
        );
        let mut query = sqlx::query(AssertSqlSafe(put))
            .bind(self.practice)
            .bind(from)
            .bind(rows.iter().map(|(series, _)| *series).collect::<Vec<_>>())
            .bind(rows.iter().map(|(_, h)| h.at).collect::<Vec<_>>())
            .bind(rows.iter().map(|(_, h)| h.points.cast_signed()).collect::<Vec<_>>());
        let figures: [fn(&Hour) -> Option<Spread>; 4] = [|h| h.t_c, |h| h.rh_pct, |h| h.dew_c, |h| h.value];
        for figure in figures {
            let all: Vec<Option<Spread>> = rows.iter().map(|(_, h)| figure(h)).collect();
            let of = |pick: fn(Spread) -> f64| all.iter().map(|s| s.map(pick)).collect::<Vec<_>>();
            query = query
                .bind(all.iter().map(|s| s.map_or(0, |s| s.n.cast_signed())).collect::<Vec<_>>())
                .bind(of(|s| s.mean))
                .bind(of(|s| s.low))
                .bind(of(|s| s.high));
        }
        let rows = query.fetch_all(&mut *self.txn).await?;
        let taken: Result<_, sqlx::Error> = rows.iter().map(|r| Ok((r.try_get(0)?, r.try_get(1)?))).collect();
        Ok(taken?)
    }
}

//! For how long a practice keeps what it no longer needs, and its removal.

use crate::entity::practice;
use crate::error::StoreError;
use crate::query::parcels::PARCEL_DAYS;
use crate::query::tokens::ANSWER_DAYS;
use crate::scope::Scope;
use chrono::{DateTime, TimeDelta, Utc};
use sea_orm::{ConnectionTrait, EntityTrait, Statement, Value};
use uuid::Uuid;

/// For how long it is kept what other programs were told.
const DELIVERY_DAYS: TimeDelta = TimeDelta::days(30);
/// Most jobs erased at one look.
const MOST_JOBS: u64 = 500;

/// For how many days a practice keeps what; for good without a number.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Retention {
    /// Single readings of loggers; hours and days of them stay.
    pub log: Option<i32>,
    /// Jobs taken off the docket, from then on.
    pub removed: Option<i32>,
    /// Archived jobs, from then on.
    pub archived: Option<i32>,
    /// When people came in, and from where.
    pub sign_in: Option<i32>,
}

fn since(now: DateTime<Utc>, days: Option<i32>) -> Option<DateTime<Utc>> {
    days.map(|days| now - TimeDelta::days(days.into()))
}

impl Scope {
    /// For how long the practice keeps what.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn retention(&self) -> Result<Retention, StoreError> {
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?;
        Ok(own.map_or_else(Retention::default, |p| Retention {
            log: p.log_days,
            removed: p.removed_days,
            archived: p.archived_days,
            sign_in: p.sign_in_days,
        }))
    }

    /// Jobs that were taken off the docket or archived longer ago than they are kept, some at a time.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn jobs_past(&self, kept: &Retention, now: DateTime<Utc>) -> Result<Vec<Uuid>, StoreError> {
        let ask =
            "select id from job where practice_id = $1 and (removed_at < $2 or removed_at is null and archived_at < $3)
            order by id limit $4";
        let values: [Value; 4] = [
            self.practice.into(),
            since(now, kept.removed).into(),
            since(now, kept.archived).into(),
            i64::try_from(MOST_JOBS).unwrap_or(i64::MAX).into(),
        ];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let rows = self.txn.query_all_raw(asked).await?;
        Ok(rows.iter().map(|r| r.try_get("", "id")).collect::<Result<_, _>>()?)
    }

    /// Removes files nobody fetched, answers kept for programs, what was told to others, and sign-ins, where they are older
    /// than they are kept.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn forget_old(&self, kept: &Retention, now: DateTime<Utc>) -> Result<(), StoreError> {
        let old = [
            (
                "delete from parcel_piece p using parcel a where p.practice_id = $1 and a.practice_id = $1
                and a.id = p.parcel_id and a.made_at < $2",
                now - PARCEL_DAYS,
            ),
            ("delete from parcel where practice_id = $1 and made_at < $2", now - PARCEL_DAYS),
            ("delete from answered where practice_id = $1 and at < $2", now - ANSWER_DAYS),
            ("delete from delivery where practice_id = $1 and made_at < $2", now - DELIVERY_DAYS),
        ];
        let backend = self.txn.get_database_backend();
        for (sql, before) in old {
            let values = [self.practice.into(), before.into()];
            self.txn.execute_raw(Statement::from_sql_and_values(backend, sql, values)).await?;
        }
        if let Some(before) = since(now, kept.sign_in) {
            let forget = Statement::from_sql_and_values(backend, "select forget_sign_ins($1)", [before.into()]);
            self.txn.execute_raw(forget).await?;
        }
        Ok(())
    }
}

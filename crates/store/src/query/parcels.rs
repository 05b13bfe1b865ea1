//! Files that leave or come in, in pieces.

use crate::entity::{parcel, parcel_piece};
use crate::error::StoreError;
use crate::record::{Parcel, records};
use crate::scope::Scope;
use chrono::TimeDelta;
use sea_orm::sea_query::Expr;
use sea_orm::{
    ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder, QuerySelect,
    Statement,
};
use uuid::Uuid;

/// For how long a file is kept to be fetched.
pub const PARCEL_DAYS: TimeDelta = TimeDelta::days(7);
/// Most files kept at once.
pub const MOST_PARCELS: u64 = 40;

impl Scope {
    /// Keeps that a file was asked for, or sent; `false` where it was before, or there are too many.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_parcel(&self, parcel: Parcel) -> Result<bool, StoreError> {
        self.turn("parcels").await?;
        let before = parcel.made_at - PARCEL_DAYS;
        let kept = parcel::Entity::find()
            .filter(parcel::Column::PracticeId.eq(self.practice))
            .filter(parcel::Column::MadeAt.gt(before));
        if kept.count(&self.txn).await? >= MOST_PARCELS {
            return Ok(false);
        }
        self.insert_once(parcel.row(self.practice).into_active_model()).await
    }

    /// Files of a job, or without one those of the practice, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn parcels(&self, job: Option<Uuid>) -> Result<Vec<Parcel>, StoreError> {
        let own = parcel::Entity::find().filter(parcel::Column::PracticeId.eq(self.practice));
        let own = match job {
            Some(job) => own.filter(parcel::Column::JobId.eq(job)).filter(parcel::Column::Kind.ne("in")),
            None => own.filter(parcel::Column::Kind.is_in(["practice", "in"])),
        };
        records(own.order_by_desc(parcel::Column::MadeAt).limit(MOST_PARCELS).all(&self.txn).await?)
    }

    /// A file.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or the row cannot be read.
    pub async fn parcel(&self, id: Uuid) -> Result<Option<Parcel>, StoreError> {
        let row = parcel::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        row.map(TryInto::try_into).transpose()
    }

    /// Says how long a file is, and which job it is of.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn know_parcel(&self, id: Uuid, bytes: i64, job: Option<Uuid>) -> Result<(), StoreError> {
        parcel::Entity::update_many()
            .col_expr(parcel::Column::Bytes, Expr::value(bytes))
            .col_expr(parcel::Column::JobId, Expr::value(job))
            .filter(parcel::Column::PracticeId.eq(self.practice))
            .filter(parcel::Column::Id.eq(id))
            .exec(&self.txn)
            .await?;
        Ok(())
    }

    /// Keeps a piece of a file.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_parcel_piece(&self, parcel_id: Uuid, position: i32, bytes: Vec<u8>) -> Result<(), StoreError> {
        let row = parcel_piece::Model { practice_id: self.practice, parcel_id, position, bytes };
        self.insert_once(row.into_active_model()).await?;
        Ok(())
    }

    /// A piece of a file; `None` behind the last.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn parcel_piece(&self, parcel: Uuid, position: i32) -> Result<Option<Vec<u8>>, StoreError> {
        let row = parcel_piece::Entity::find_by_id((self.practice, parcel, position)).one(&self.txn).await?;
        Ok(row.map(|r| r.bytes))
    }

    /// Forgets what a file held.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn forget_parcel(&self, parcel: Uuid) -> Result<(), StoreError> {
        parcel_piece::Entity::delete_many()
            .filter(parcel_piece::Column::PracticeId.eq(self.practice))
            .filter(parcel_piece::Column::ParcelId.eq(parcel))
            .exec(&self.txn)
            .await?;
        Ok(())
    }

    /// Jobs of the practice, oldest first: ids and names.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn job_names(&self) -> Result<Vec<(Uuid, String)>, StoreError> {
        let ask = "select id, name from job where practice_id = $1 and removed_at is null order by created_at, id";
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, [self.practice.into()]);
        let rows = self.txn.query_all_raw(asked).await?;
        Ok(rows
            .iter()
            .map(|r| Ok((r.try_get("", "id")?, r.try_get("", "name")?)))
            .collect::<Result<_, sea_orm::DbErr>>()?)
    }

    /// Erases a job with everything of it, for good, and the files and kept answers of the practice it may be in.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn erase_job(&self, job: Uuid) -> Result<(), StoreError> {
        let pieces = "delete from parcel_piece p using parcel a where p.practice_id = $1 and a.practice_id = $1
            and a.id = p.parcel_id and a.kind in ('practice', 'in')";
        let files = "delete from parcel where practice_id = $1 and kind in ('practice', 'in')";
        // What programs were answered of late says not which job it was about.
        let answers = "delete from answered where practice_id = $1";
        for sql in [pieces, files, answers] {
            let run = Statement::from_sql_and_values(self.txn.get_database_backend(), sql, [self.practice.into()]);
            self.txn.execute_raw(run).await?;
        }
        let erase = "select erase_job($1)";
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), erase, [job.into()]);
        self.txn.execute_raw(asked).await?;
        Ok(())
    }
}

//! Files sent for a log, and that they are part of it.

use super::history::Act;
use crate::entity::{bring_in, log_file, practice};
use crate::error::StoreError;
use crate::record::{BringIn, LogFile, records};
use crate::scope::Scope;
use sea_orm::{
    ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryOrder, QuerySelect, Statement,
};
use serde_json::Value;
use uuid::Uuid;

/// The parts of what is kept of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// As it was sent.
    File,
    /// The lines that were not taken.
    Refused,
}

impl Part {
    const fn id(self) -> &'static str {
        match self {
            Self::File => "file",
            Self::Refused => "refused",
        }
    }
}

impl Scope {
    /// Keeps a file that was sent. Sent twice it is there once; says whether it is new.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_log_file(&self, file: LogFile) -> Result<bool, StoreError> {
        self.insert_once(file.row(self.practice).into_active_model()).await
    }

    /// The practice's IANA time zone.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn time_zone(&self) -> Result<String, StoreError> {
        let row = practice::Entity::find_by_id(self.practice).one(&self.txn).await?;
        row.map(|p| p.time_zone).ok_or(StoreError::Gone)
    }

    /// Keeps a piece of a file.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_piece(&self, file: Uuid, part: Part, position: i32, bytes: Vec<u8>) -> Result<(), StoreError> {
        let add = "insert into log_file_piece values ($1, $2, $3, $4, $5)";
        let values = [self.practice.into(), file.into(), part.id().into(), position.into(), bytes.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), add, values)).await?;
        Ok(())
    }

    /// A piece of a file; `None` behind the last.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn piece(&self, file: Uuid, part: Part, position: i32) -> Result<Option<Vec<u8>>, StoreError> {
        let ask =
            "select bytes from log_file_piece where practice_id = $1 and file_id = $2 and part = $3 and position = $4";
        let values = [self.practice.into(), file.into(), part.id().into(), position.into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        Ok(self.txn.query_one_raw(asked).await?.map(|row| row.try_get("", "bytes")).transpose()?)
    }

    /// Forgets a part of a file.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn forget_pieces(&self, file: Uuid, part: Part) -> Result<(), StoreError> {
        let forget = "delete from log_file_piece where practice_id = $1 and file_id = $2 and part = $3";
        let values = [self.practice.into(), file.into(), part.id().into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), forget, values)).await?;
        Ok(())
    }

    /// A file sent for a job's log.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn log_file(&self, job: Uuid, id: Uuid) -> Result<Option<LogFile>, StoreError> {
        let row = log_file::Entity::find_by_id((self.practice, id)).filter(log_file::Column::JobId.eq(job));
        row.one(&self.txn).await?.map(TryInto::try_into).transpose()
    }

    /// Files sent for a job's log, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn log_files(&self, job: Uuid, most: u64) -> Result<Vec<LogFile>, StoreError> {
        let rows = log_file::Entity::find()
            .filter(log_file::Column::PracticeId.eq(self.practice))
            .filter(log_file::Column::JobId.eq(job))
            .order_by_desc(log_file::Column::SentAt)
            .limit(most);
        records(rows.all(&self.txn).await?)
    }

    /// The files of the practice with the same content.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn same_files(&self, sha256: &str) -> Result<Vec<LogFile>, StoreError> {
        let rows = log_file::Entity::find()
            .filter(log_file::Column::PracticeId.eq(self.practice))
            .filter(log_file::Column::Sha256.eq(sha256))
            .order_by_asc(log_file::Column::SentAt);
        records(rows.all(&self.txn).await?)
    }

    /// Keeps what was said of a file by hand, what was found in it or what became of it.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn know_file(&self, id: Uuid, what: FileKnown, value: &Value) -> Result<(), StoreError> {
        let column = match what {
            FileKnown::Wishes => "wishes",
            FileKnown::Found => "found",
            FileKnown::Became => "became",
        };
        let know = format!("update log_file set {column} = $3 where practice_id = $1 and id = $2");
        let values = [self.practice.into(), id.into(), value.clone().into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), know, values)).await?;
        Ok(())
    }

    /// How the last file of a logger was read, and where its sensors belonged.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn read_as(&self, logger: Uuid) -> Result<Option<Value>, StoreError> {
        let ask = "select read_as from logger where practice_id = $1 and instrument_id = $2";
        let asked =
            Statement::from_sql_and_values(self.txn.get_database_backend(), ask, [self.practice.into(), logger.into()]);
        Ok(self.txn.query_one_raw(asked).await?.and_then(|row| row.try_get("", "read_as").ok()))
    }

    /// Remembers that.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn remember_read_as(&self, logger: Uuid, how: &Value) -> Result<(), StoreError> {
        let keep = "insert into logger (practice_id, instrument_id, read_as) values ($1, $2, $3) \
            on conflict (practice_id, instrument_id) do update set read_as = excluded.read_as";
        let values = [self.practice.into(), logger.into(), how.clone().into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), keep, values)).await?;
        Ok(())
    }

    /// Decides that a file is part of its job's log.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn bring_in(&self, act: &Act, row: BringIn) -> Result<(), StoreError> {
        self.keep_one::<bring_in::Entity>(act, row.row(self.practice, act.at)).await
    }

    /// What was decided about a file, undone or not.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn brought_in(&self, job: Uuid) -> Result<Vec<BringIn>, StoreError> {
        let rows = bring_in::Entity::find()
            .filter(bring_in::Column::PracticeId.eq(self.practice))
            .filter(bring_in::Column::JobId.eq(job));
        records(rows.all(&self.txn).await?)
    }
}

/// What is learned of a file after it was sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FileKnown {
    /// What somebody said of it.
    Wishes,
    /// What was found in it.
    Found,
    /// What became of it.
    Became,
}

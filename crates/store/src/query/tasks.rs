//! The queue of work that takes longer than a page may. Any process takes the next piece; one that goes away while it works
//! holds it for a minute at most.

use crate::entity::task;
use crate::error::StoreError;
use crate::record::{TaskKind, TaskState, records};
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, TimeDelta, Utc};
use sea_orm::{
    ColumnTrait, ConnectionTrait, EntityTrait, FromQueryResult, QueryFilter, QueryOrder, QuerySelect, Statement,
    TransactionTrait,
};
use uuid::Uuid;

/// For how long somebody who works on a task is believed to.
const HELD: TimeDelta = TimeDelta::seconds(60);
/// How often a task is begun before it is given up.
const MOST_TRIES: i32 = 4;

/// A piece of long work.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Task {
    /// Identity.
    pub id: Uuid,
    /// The job it is about.
    pub job_id: Option<Uuid>,
    /// What is to be done.
    pub kind: TaskKind,
    /// With what.
    pub subject_id: Uuid,
    /// How it stands.
    pub state: TaskState,
    /// How much is done.
    pub done: u64,
    /// Of how much.
    pub total: u64,
    /// What there is to say of it.
    pub said: String,
}

impl TryFrom<task::Model> for Task {
    type Error = StoreError;

    fn try_from(row: task::Model) -> Result<Self, StoreError> {
        let unknown = || StoreError::Corrupt("unknown work".into());
        Ok(Self {
            id: row.id,
            job_id: row.job_id,
            kind: TaskKind::from_id(&row.kind).ok_or_else(unknown)?,
            subject_id: row.subject_id,
            state: TaskState::from_id(&row.state).ok_or_else(unknown)?,
            done: row.done.unsigned_abs(),
            total: row.total.unsigned_abs(),
            said: row.said,
        })
    }
}

impl Scope {
    /// Asks for work to be done. Asked again it is done again, also where somebody is at it.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn ask(&self, kind: TaskKind, subject: Uuid, job: impl Into<Option<Uuid>>) -> Result<(), StoreError> {
        self.ask_where(kind, subject, job.into(), "").await
    }

    /// Asks for work to be done, unless it waits or somebody is at it.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn ask_if_idle(&self, kind: TaskKind, subject: Uuid) -> Result<(), StoreError> {
        self.ask_where(kind, subject, None, "where task.state in ('done', 'failed')").await
    }

    /// Asks for work to be done at a moment and not before, also where it was to be done sooner.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn ask_later(&self, kind: TaskKind, subject: Uuid, at: DateTime<Utc>) -> Result<(), StoreError> {
        self.ask(kind, subject, None).await?;
        let put = "update task set due_at = $4 where practice_id = $1 and kind = $2 and subject_id = $3";
        let values = [self.practice.into(), kind.id().into(), subject.into(), at.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), put, values)).await?;
        Ok(())
    }

    async fn ask_where(
        &self,
        kind: TaskKind,
        subject: Uuid,
        job: Option<Uuid>,
        unless: &'static str,
    ) -> Result<(), StoreError> {
        let ask = format!(
            "insert into task (practice_id, id, job_id, kind, subject_id, state, made_at, due_at)
            values ($1, $2, $3, $4, $5, 'waiting', now(), now()) on conflict (practice_id, kind, subject_id) do update
            set state = 'waiting', made_at = now(), due_at = now(), tries = 0, done = 0, total = 0, said = '' {unless}"
        );
        let values = [self.practice.into(), Uuid::now_v7().into(), job.into(), kind.id().into(), subject.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values)).await?;
        self.txn.execute_unprepared("select pg_notify('task', '')").await?;
        Ok(())
    }

    /// The work asked for on a job, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn tasks(&self, job: Uuid) -> Result<Vec<Task>, StoreError> {
        let rows = task::Entity::find()
            .filter(task::Column::PracticeId.eq(self.practice))
            .filter(task::Column::JobId.eq(job))
            .order_by_desc(task::Column::MadeAt);
        records(rows.all(&self.txn).await?)
    }

    /// Work asked for on no job or on what came in, the latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn tasks_of_practice(&self) -> Result<Vec<Task>, StoreError> {
        let rows = task::Entity::find()
            .filter(task::Column::PracticeId.eq(self.practice))
            .filter(task::Column::Kind.is_in([TaskKind::Pack.id(), TaskKind::Unpack.id()]))
            .order_by_desc(task::Column::MadeAt)
            .limit(100);
        records(rows.all(&self.txn).await?)
    }

    /// Says how far a task is, and that it is still worked on.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn tell_task(&self, id: Uuid, done: u64, total: u64) -> Result<(), StoreError> {
        let tell = "update task set done = $3, total = $4, held_until = $5 where practice_id = $1 and id = $2";
        let values = [
            self.practice.into(),
            id.into(),
            i64::try_from(done).unwrap_or(i64::MAX).into(),
            i64::try_from(total).unwrap_or(i64::MAX).into(),
            (Utc::now() + HELD).into(),
        ];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), tell, values)).await?;
        Ok(())
    }

    /// Ends a task, unless it was asked for again meanwhile.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn end_task(&self, id: Uuid, state: TaskState, said: &str) -> Result<(), StoreError> {
        let end = "update task set state = $3, said = $4, held_until = null \
            where practice_id = $1 and id = $2 and state = 'running'";
        let values = [self.practice.into(), id.into(), state.id().into(), said.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), end, values)).await?;
        Ok(())
    }

    /// Puts a task that was done back until it is due again.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn again(&self, id: Uuid, at: DateTime<Utc>) -> Result<(), StoreError> {
        let put = "update task set state = 'waiting', due_at = $3, held_until = null, tries = 0 \
            where practice_id = $1 and id = $2 and state = 'running'";
        let values = [self.practice.into(), id.into(), at.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), put, values)).await?;
        Ok(())
    }

    /// Puts a task back for a while: what it needs does not answer.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn put_off(&self, id: Uuid, until: DateTime<Utc>) -> Result<(), StoreError> {
        let put = "update task set state = 'waiting', due_at = $3, held_until = null \
            where practice_id = $1 and id = $2 and state = 'running'";
        let values = [self.practice.into(), id.into(), until.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), put, values)).await?;
        Ok(())
    }
}

impl Store {
    /// Takes what waits longest, of any practice, and whose it is. What was begun too often is given up.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn take_task(&self) -> Result<Option<(Uuid, Task)>, StoreError> {
        let txn = self.db.begin().await?;
        set(&txn, "app.worker", "yes").await?;
        let now = Utc::now();
        let take = "update task t set tries = t.tries + 1, held_until = $2, \
              state = case when t.tries < $3 then 'running' else 'failed' end, \
              said = case when t.tries < $3 then '' else 'it was begun several times and never ended' end \
            from (select practice_id, id from task where due_at <= $1 \
              and (state = 'waiting' or state = 'running' and held_until < $1) \
              order by due_at limit 1 for update skip locked) next \
            where t.practice_id = next.practice_id and t.id = next.id returning t.*";
        let values = [now.into(), (now + HELD).into(), MOST_TRIES.into()];
        let row = txn.query_one_raw(Statement::from_sql_and_values(txn.get_database_backend(), take, values)).await?;
        let taken = row.map(|row| task::Model::from_query_result(&row, "")).transpose()?;
        txn.commit().await?;
        taken.map(|row| Ok((row.practice_id, row.try_into()?))).transpose()
    }
}

//! What was changed, by whom and when, with the rows as they were before and after: any of it can be undone.

use crate::entity::{
    alert_rule, boundary, bring_in, build_up, call_sheet, change, coating, conclusion, drying, finding, follow_up, job,
    layout, log_mark, moisture_map, photo, placed, plan_figure, plan_step, report, school, skip, space, station,
    surface, test_run, thermal, time_table,
};
use crate::error::StoreError;
use crate::record::TaskKind;
use crate::scope::Scope;
use building::MarkKind;
use chrono::{DateTime, SubsecRound, TimeDelta, Utc};
use sea_orm::sea_query::{Expr, OnConflict};
use sea_orm::{
    ActiveModelTrait, ColumnTrait, ConnectionTrait, EntityTrait, Iden, IntoActiveModel, Iterable, PrimaryKeyTrait,
    QueryFilter, QueryOrder, QuerySelect, Select, Statement,
};
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::collections::{HashMap, HashSet};
use uuid::Uuid;

/// For how many days a change can be undone and something removed restored.
pub const RESTORABLE_DAYS: i64 = 30;

/// Somebody's act on a job. Its id is made where it is decided, so that sending it twice does it once.
#[derive(Debug, Clone)]
pub struct Act {
    /// Identity.
    pub id: Uuid,
    /// Job.
    pub job: Uuid,
    /// Who.
    pub by: Uuid,
    /// When.
    pub at: DateTime<Utc>,
    /// In words.
    pub what: String,
}

impl Act {
    /// An act at a moment, to the precision the database keeps.
    #[must_use]
    pub fn new(id: Uuid, job: Uuid, by: Uuid, at: DateTime<Utc>, what: impl Into<String>) -> Self {
        Self { id, job, by, at: at.trunc_subsecs(6), what: what.into() }
    }
}

/// A row an act changed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RowChange {
    /// Table.
    pub table: String,
    /// The row before; `None` when it was not there.
    pub before: Option<Value>,
    /// The row after.
    pub after: Value,
}

/// An act as kept.
#[derive(Debug, Clone, PartialEq)]
pub struct Change {
    /// Identity.
    pub id: Uuid,
    /// Who.
    pub by: Uuid,
    /// When.
    pub at: DateTime<Utc>,
    /// In words.
    pub what: String,
    /// What it changed.
    pub rows: Vec<RowChange>,
    /// The change it undid.
    pub undoes: Option<Uuid>,
    /// Whether another change undid it.
    pub undone: bool,
}

/// How undoing went.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Undone {
    /// Done, or done before.
    Done,
    /// Something changed since stands in the way: what, in words.
    Blocked(String),
    /// Too long ago.
    TooOld,
    /// No such change.
    Unknown,
}

/// A table whose changes are kept. The row's id is `id`, or `job_id` where there is one row for each job.
pub(crate) trait Tracked: EntityTrait<Model: Serialize + DeserializeOwned + PartialEq + Clone + Sync> {
    /// Its name.
    const TABLE: &'static str;
    /// Primary key of a row without its practice.
    fn key(row: &Self::Model) -> Uuid;
    /// The job it belongs to.
    fn job(row: &Self::Model) -> Uuid;
    /// Puts a row in a practice: what is written never leaves it, whatever the row says.
    fn settle(row: &mut Self::Model, practice: Uuid);
    /// Marks a row as removed.
    fn remove(row: &mut Self::Model, at: DateTime<Utc>);
}

macro_rules! tracked {
    ($($module:ident $key:ident $job:ident),* $(,)?) => {
        $(impl Tracked for $module::Entity {
            const TABLE: &'static str = stringify!($module);
            fn key(row: &Self::Model) -> Uuid {
                row.$key
            }
            fn job(row: &Self::Model) -> Uuid {
                row.$job
            }
            fn settle(row: &mut Self::Model, practice: Uuid) {
                row.practice_id = practice;
            }
            fn remove(row: &mut Self::Model, at: DateTime<Utc>) {
                row.removed_at = Some(at);
            }
        })*

        impl Scope {
            /// Puts a row of any kept table back as it was before; one that was not there becomes a removed one.
            async fn put_back(&self, rows: &mut Vec<RowChange>, change: &RowChange, at: DateTime<Utc>)
                -> Result<bool, StoreError> {
                match change.table.as_str() {
                    $(stringify!($module) => self.put_row_back::<$module::Entity>(rows, change, at).await,)*
                    other => Err(StoreError::Corrupt(format!("a change of {other}"))),
                }
            }
        }
    };
}
tracked!(
    job id id, call_sheet job_id job_id, conclusion id job_id, space id job_id, boundary id job_id, surface id job_id,
    station id job_id, finding id job_id, test_run id job_id, skip id job_id, photo id job_id, plan_step id job_id,
    plan_figure id job_id, school id job_id, follow_up id job_id, bring_in id job_id, log_mark id job_id,
    alert_rule id job_id, build_up id job_id, thermal id job_id, layout id job_id,
    placed id job_id, moisture_map id job_id, time_table id job_id, drying id job_id,
    coating id job_id, report id job_id,
);

impl Scope {
    /// Writes a row, new or changed, and remembers what it was; nothing happens when it is the same.
    pub(crate) async fn put<E: Tracked>(&self, rows: &mut Vec<RowChange>, mut row: E::Model) -> Result<(), StoreError>
    where
        E::Model: IntoActiveModel<<E as EntityTrait>::ActiveModel>,
        <E::PrimaryKey as PrimaryKeyTrait>::ValueType: From<(Uuid, Uuid)>,
    {
        E::settle(&mut row, self.practice);
        let before = E::find_by_id((self.practice, E::key(&row))).one(&self.txn).await?;
        if before.as_ref() == Some(&row) {
            return Ok(());
        }
        if before.as_ref().is_some_and(|b| E::job(b) != E::job(&row)) {
            return Err(StoreError::IdTaken(E::key(&row)));
        }
        let json = |row: &E::Model| serde_json::to_value(row).map_err(|e| StoreError::Corrupt(e.to_string()));
        rows.push(RowChange {
            table: E::TABLE.into(),
            before: before.as_ref().map(json).transpose()?,
            after: json(&row)?,
        });
        let keys: Vec<String> = E::PrimaryKey::iter().map(|k| k.to_string()).collect();
        let changed = E::Column::iter().filter(|c| !keys.contains(&c.to_string()));
        let again = OnConflict::columns(E::PrimaryKey::iter()).update_columns(changed).to_owned();
        E::insert(row.into_active_model().reset_all()).on_conflict(again).exec_without_returning(&self.txn).await?;
        Ok(())
    }

    /// Keeps an act with the rows it changed; one that changed nothing leaves no trace.
    pub(crate) async fn log(&self, act: &Act, rows: Vec<RowChange>) -> Result<(), StoreError> {
        self.log_undoing(act, rows, None).await
    }

    async fn log_undoing(&self, act: &Act, rows: Vec<RowChange>, undoes: Option<Uuid>) -> Result<(), StoreError> {
        if rows.is_empty() {
            return Ok(());
        }
        let row = change::Model {
            practice_id: self.practice,
            id: act.id,
            job_id: act.job,
            consultant_id: act.by,
            at: act.at,
            what: act.what.clone(),
            rows: serde_json::to_value(&rows).map_err(|e| StoreError::Corrupt(e.to_string()))?,
            undoes,
        };
        row.into_active_model().reset_all().insert(&self.txn).await?;
        // What follows from a change of the log takes longer than a page may.
        for changed in &rows {
            let id = changed.after["id"].as_str().and_then(|id| id.parse().ok());
            let follows = match changed.table.as_str() {
                "bring_in" => Some((TaskKind::BringIn, id)),
                "log_mark" if changed.after["kind"] == MarkKind::LeftOut.id() => Some((TaskKind::RollUp, id)),
                // All rules of a job are looked at together.
                "alert_rule" => Some((TaskKind::Watch, Some(act.job))),
                _ => None,
            };
            if let Some((kind, Some(id))) = follows {
                self.ask(kind, id, act.job).await?;
            }
        }
        Ok(())
    }

    /// Whether an act on a job was done already. Whoever asks at the same time waits: the same form sent twice at once is
    /// done by the first and found done by the second.
    ///
    /// # Errors
    /// [`StoreError::IdTaken`] for an act on another job, [`StoreError`] when the database does not answer.
    pub async fn acted(&self, job: Uuid, id: Uuid) -> Result<bool, StoreError> {
        self.turn(&format!("act {id}")).await?;
        let done = change::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        match done {
            Some(row) if row.job_id != job => Err(StoreError::IdTaken(id)),
            done => Ok(done.is_some()),
        }
    }

    /// The latest changes of a job, latest first; every one without a number.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn changes(&self, job: Uuid, most: Option<u64>) -> Result<Vec<Change>, StoreError> {
        let rows = self.of_job(job).limit(most).all(&self.txn).await?;
        // What takes a change back comes after it, so it is among these too.
        let undone: HashSet<Uuid> = rows.iter().filter_map(|r| r.undoes).collect();
        rows.into_iter().map(|r| told(r, |id| undone.contains(&id))).collect()
    }

    /// One change of a job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn change(&self, job: Uuid, id: Uuid) -> Result<Option<Change>, StoreError> {
        let row = self.of_job(job).filter(change::Column::Id.eq(id)).one(&self.txn).await?;
        self.with_undoing(row).await
    }

    /// The latest change of one row.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn latest_change(&self, job: Uuid, table: &str, id: Uuid) -> Result<Option<Change>, StoreError> {
        let one = json!([{ "table": table, "after": { "id": id } }]);
        let row = self.of_job(job).filter(Expr::cust_with_values("rows @> $1", [one])).one(&self.txn).await?;
        self.with_undoing(row).await
    }

    /// The latest change of each row of a table, by the row's id.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn latest_changes(&self, job: Uuid, table: &str) -> Result<HashMap<Uuid, Uuid>, StoreError> {
        let asked = "select distinct on (r -> 'after' ->> 'id') (r -> 'after' ->> 'id')::uuid as row, c.id as change \
            from change c, jsonb_array_elements(c.rows) r where c.practice_id = $1 and c.job_id = $2 \
            and r ->> 'table' = $3 order by r -> 'after' ->> 'id', c.at desc, c.id desc";
        let values = [self.practice.into(), job.into(), table.into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), asked, values);
        let rows = self.txn.query_all_raw(asked).await?;
        rows.iter().map(|r| Ok((r.try_get("", "row")?, r.try_get("", "change")?))).collect()
    }

    fn of_job(&self, job: Uuid) -> Select<change::Entity> {
        change::Entity::find()
            .filter(change::Column::PracticeId.eq(self.practice))
            .filter(change::Column::JobId.eq(job))
            .order_by_desc(change::Column::At)
            .order_by_desc(change::Column::Id)
    }

    async fn with_undoing(&self, row: Option<change::Model>) -> Result<Option<Change>, StoreError> {
        let Some(row) = row else { return Ok(None) };
        let undoing = change::Entity::find()
            .filter(change::Column::PracticeId.eq(self.practice))
            .filter(change::Column::Undoes.eq(row.id));
        let undone = undoing.one(&self.txn).await?.is_some();
        told(row, |_| undone).map(Some)
    }

    /// Undoes a change: every row it touched goes back to what it was, unless one of them was changed since or
    /// something added since needs it. Undoing an undo does the change again.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn undo(&self, act: &Act, id: Uuid) -> Result<Undone, StoreError> {
        self.turn(&format!("undo {id}")).await?;
        if self.acted(act.job, act.id).await? {
            return Ok(Undone::Done);
        }
        let changes = self.changes(act.job, None).await?;
        let Some(change) = changes.iter().find(|c| c.id == id) else { return Ok(Undone::Unknown) };
        if change.undone {
            return Ok(Undone::Done);
        }
        if act.at - change.at > TimeDelta::days(RESTORABLE_DAYS) {
            return Ok(Undone::TooOld);
        }
        // The first change of a building is the building.
        if change.rows.iter().any(|r| r.table == "space" && r.before.is_none()) && id == act.job {
            return Ok(Undone::Blocked("it opened the job; remove the job instead".into()));
        }
        let mut rows = Vec::new();
        for row in change.rows.iter().rev() {
            if !self.put_back(&mut rows, row, act.at).await? {
                let later = changes.iter().take_while(|c| c.id != id).find(|c| touches(c, row));
                let what = later.map_or_else(|| "a later change".into(), |c| format!("“{}”", c.what));
                return Ok(Undone::Blocked(format!("{what} came after it: undo that first")));
            }
        }
        if !self.building(act.job).await?.is_whole() {
            return Ok(Undone::Blocked("something added since needs what this would take away".into()));
        }
        self.log_undoing(act, rows, Some(id)).await?;
        Ok(Undone::Done)
    }

    async fn put_row_back<E: Tracked>(
        &self,
        rows: &mut Vec<RowChange>,
        change: &RowChange,
        at: DateTime<Utc>,
    ) -> Result<bool, StoreError>
    where
        E::Model: IntoActiveModel<<E as EntityTrait>::ActiveModel>,
        <E::PrimaryKey as PrimaryKeyTrait>::ValueType: From<(Uuid, Uuid)>,
    {
        let row = |json: &Value| {
            serde_json::from_value::<E::Model>(json.clone()).map_err(|e| StoreError::Corrupt(e.to_string()))
        };
        let mut after = row(&change.after)?;
        E::settle(&mut after, self.practice);
        let now = E::find_by_id((self.practice, E::key(&after))).one(&self.txn).await?;
        if now.as_ref() != Some(&after) {
            return Ok(false);
        }
        let mut back = change.before.as_ref().map_or_else(|| Ok(after), row)?;
        if change.before.is_none() {
            E::remove(&mut back, at);
        }
        self.put::<E>(rows, back).await?;
        Ok(true)
    }
}

/// A change as kept, from its row.
fn told(r: change::Model, undone: impl Fn(Uuid) -> bool) -> Result<Change, StoreError> {
    Ok(Change {
        undone: undone(r.id),
        rows: serde_json::from_value(r.rows).map_err(|e| StoreError::Corrupt(e.to_string()))?,
        id: r.id,
        by: r.consultant_id,
        at: r.at,
        what: r.what,
        undoes: r.undoes,
    })
}

/// Whether a change touched the same row.
fn touches(change: &Change, row: &RowChange) -> bool {
    let key = |v: &Value| v.get("id").or_else(|| v.get("job_id")).cloned();
    change.rows.iter().any(|r| r.table == row.table && key(&r.after) == key(&row.after))
}

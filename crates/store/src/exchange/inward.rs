//! A job on its way in: every id becomes another, so that it stands beside whatever is here, and nothing of it is kept unless all is.
//!
//! The same job sent again brings what is new. It may, where everything that is here is in the file: then the file is what is here
//! and what came after. What is here alone, a reading or a change, would be lost or contradicted: the file is refused by its name.

use super::tables::{Field, Table, fields, keys};
use crate::error::StoreError;
use crate::owner::is_append_only;
use crate::query::plans::plan_row_id;
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, Datelike, NaiveDate, Utc};
use sea_orm::{ConnectionTrait, Statement};
use serde::Deserialize;
use serde_json::{Map, Value};
use sha2::{Digest, Sha256};
use std::collections::{BTreeSet, HashMap};
use uuid::Uuid;

/// Why a job is not taken in, for whoever sent it.
#[derive(Debug, thiserror::Error)]
pub enum Refusal {
    /// Something in the file.
    #[error("{0}")]
    File(String),
    /// The database.
    #[error(transparent)]
    Store(#[from] StoreError),
}

/// A job on its way in.
pub struct Arriving<'a> {
    store: &'a Store,
    scope: &'a Scope,
    /// Who brings it in.
    by: Uuid,
    fields: HashMap<String, Vec<Field>>,
    /// Ids that do not become what they usually would: of people and instruments known here, and ids made of others.
    known: HashMap<Uuid, Uuid>,
    /// Ids that are made of others, by what they would have become.
    remade: HashMap<Uuid, Uuid>,
    /// Whether it may come in beside itself.
    copy: bool,
    /// What tells this arrival from any other, and ids’ ends are made of; nothing for a job that began here: its ids stay.
    place: Option<Uuid>,
    /// Where the job is here already, and is brought up to date.
    merge: Option<Merge>,
    months: BTreeSet<NaiveDate>,
    /// The job, once it came.
    job: Option<Uuid>,
    /// Tables that came, to see that none comes before what it needs.
    at: usize,
}

/// A job that is brought up to date.
#[derive(Default)]
struct Merge {
    keys: HashMap<String, Vec<String>>,
    /// Rows of each table that came.
    came: HashMap<&'static str, u64>,
    /// Rows that were new or another.
    new: u64,
}

/// A job that is here.
struct Here {
    id: Uuid,
    name: String,
    /// What its ids ended with when it came; nothing where it began here.
    arrived: Option<Uuid>,
}

/// How a job came in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Came {
    /// Its id here.
    pub job: Uuid,
    /// Where it was here before: how many rows are new or another.
    pub more: Option<u64>,
}

/// Columns of single readings.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Points {
    series_id: Uuid,
    bring_in_id: Option<Uuid>,
    at: Vec<i64>,
    t_c: Vec<Option<f64>>,
    rh_pct: Vec<Option<f64>>,
    value: Vec<Option<f64>>,
}

/// An id with its time and order as they are, and another end, the same for the same place.
fn ended(id: Uuid, place: Uuid) -> Uuid {
    let mut hash = Sha256::new();
    hash.update(place.as_bytes());
    hash.update(id.as_bytes());
    let mut bytes = *id.as_bytes();
    bytes[12..].copy_from_slice(&hash.finalize()[..4]);
    Uuid::from_bytes(bytes)
}

/// A column of figures as the database takes one: what is not there is no number.
fn known(column: Vec<Option<f64>>) -> Vec<f64> {
    column.into_iter().map(|x| x.unwrap_or(f64::NAN)).collect()
}

/// Tables named where a file lacks what is here.
const MOST_NAMED: usize = 4;

fn refused<T>(why: impl Into<String>) -> Result<T, Refusal> {
    Err(Refusal::File(why.into()))
}

impl<'a> Arriving<'a> {
    /// A job for this scope’s practice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn to(
        store: &'a Store,
        scope: &'a Scope,
        (id, by): (Uuid, Uuid),
        copy: bool,
    ) -> Result<Arriving<'a>, StoreError> {
        // One after the other, so that a job sent in twice at once comes in once: the second finds it, and whom it names.
        scope.turn("arriving").await?;
        set(&scope.txn, "app.arriving", "yes").await?;
        let fields = fields(scope).await?;
        Ok(Self {
            store,
            scope,
            by,
            fields,
            known: HashMap::new(),
            remade: HashMap::new(),
            copy,
            place: Some(id),
            merge: None,
            months: BTreeSet::new(),
            job: None,
            at: 0,
        })
    }

    /// The job as it came in. Where it was here before, nothing that was may be missing from what came.
    ///
    /// # Errors
    /// [`Refusal::File`] where there is none, or it lacks what is here; [`Refusal::Store`] when the database does not answer.
    pub async fn came(self) -> Result<Came, Refusal> {
        let Some(job) = self.job else { return refused("the file holds no job") };
        let Some(merge) = self.merge else { return Ok(Came { job, more: None }) };
        let mut lacks = Vec::new();
        for table in Table::all() {
            let Some(count) = table.of_this_job() else { continue };
            let values = [self.scope.practice.into(), job.into()];
            let asked = Statement::from_sql_and_values(self.scope.txn.get_database_backend(), count, values);
            let here = self.scope.txn.query_one_raw(asked).await.map_err(StoreError::from)?;
            let here: i64 = here.map(|r| r.try_get("", "count")).transpose().map_err(StoreError::from)?.unwrap_or(0);
            let came = merge.came.get(table.name).copied().unwrap_or(0);
            match here.unsigned_abs() {
                here if here > came => lacks.push(format!("{} × {}", here - came, table.name.replace('_', " "))),
                here if here < came => return refused(format!("rows of {} come twice", table.name)),
                _ => {}
            }
        }
        if !lacks.is_empty() {
            lacks.truncate(MOST_NAMED);
            let lacks = lacks.join(", ");
            return refused(format!(
                "this job is here already, with what the file lacks: {lacks}; it can come in as a copy beside it"
            ));
        }
        Ok(Came { job, more: Some(merge.new) })
    }

    /// What an id becomes: its time and order stay, its end does not.
    fn another(&self, id: Uuid) -> Uuid {
        if id.is_nil() {
            return id;
        }
        if let Some(known) = self.known.get(&id) {
            return *known;
        }
        let Some(place) = self.place else { return id };
        let became = ended(id, place);
        self.remade.get(&became).copied().unwrap_or(became)
    }

    /// A text with every id in it become another.
    fn renumbered(&self, text: &str) -> String {
        let mut out = String::with_capacity(text.len());
        let bytes = text.as_bytes();
        let mut from = 0;
        let mut i = 0;
        while i + 36 <= bytes.len() {
            let here = bytes[i + 8] == b'-' && bytes[i + 13] == b'-' && bytes[i + 18] == b'-' && bytes[i + 23] == b'-';
            let id = if here { text.get(i..i + 36).and_then(|t| Uuid::try_parse(t).ok()) } else { None };
            if let Some(id) = id {
                out.push_str(&text[from..i]);
                out.push_str(&self.another(id).to_string());
                i += 36;
                from = i;
            } else {
                i += 1;
            }
        }
        out.push_str(&text[from..]);
        out
    }

    /// Takes some rows of a table, as a JSON array of objects.
    ///
    /// # Errors
    /// [`Refusal::File`] for what cannot be a row of it, [`Refusal::Store`] when the database does not answer.
    pub async fn take(&mut self, name: &str, text: &str) -> Result<(), Refusal> {
        let Some((at, table)) = Table::all().enumerate().find(|(_, t)| t.name == name) else {
            return refused(format!(
                "it has rows of “{}”, which this version does not know",
                name.chars().take(40).collect::<String>()
            ));
        };
        if at < self.at {
            return refused(format!("rows of {name} come after rows that need them"));
        }
        self.at = at;
        if name == "log_point" {
            return self.points(text).await;
        }
        let mut origin = None;
        if name == "job" {
            origin = self.rows(name, text)?.first().and_then(|r| r.get("id")?.as_str()?.parse().ok());
            if let Some(here) = self.here(origin).await?.filter(|_| !self.copy) {
                self.meet(here, origin).await?;
            }
        }
        let rows: Vec<Map<String, Value>> = match name {
            "consultant" | "instrument" | "salt_check" | "material" | "own_source" | "weather" => {
                self.of_practice(name, text).await?
            }
            _ => self.rows(name, &self.renumbered(text))?,
        };
        let rows = self.made_of_others(name, rows);
        if name == "job" {
            let [row] = rows.as_slice() else { return refused("it holds more than one job") };
            let Some(job) = row.get("id").and_then(Value::as_str).and_then(|id| id.parse().ok()) else {
                return refused("its job has no id");
            };
            if self.job.replace(job).is_some() {
                return refused("it holds more than one job");
            }
            self.insert(table, rows).await?;
            return match self.merge {
                None => self.remember(job, origin).await,
                Some(_) => Ok(()),
            };
        }
        if matches!(name, "log_hour") {
            self.months_of(rows.iter().filter_map(|r| r.get("at")?.as_str()?.parse().ok())).await?;
        }
        self.insert(table, rows).await
    }

    /// The job of this id as it is here: begun here, or brought in before.
    async fn here(&self, origin: Option<Uuid>) -> Result<Option<Here>, Refusal> {
        let ask = "select id, name, arrived from job where practice_id = $1 and (id = $2 or origin = $2) and removed_at is null
            order by id <> $2, created_at limit 1 for update";
        let values = [self.scope.practice.into(), origin.into()];
        let asked = Statement::from_sql_and_values(self.scope.txn.get_database_backend(), ask, values);
        let here = self.scope.txn.query_one_raw(asked).await.map_err(StoreError::from)?;
        let read = |r: &sea_orm::QueryResult| {
            Ok(Here { id: r.try_get("", "id")?, name: r.try_get("", "name")?, arrived: r.try_get("", "arrived")? })
        };
        Ok(here.as_ref().map(read).transpose().map_err(|e: sea_orm::DbErr| StoreError::from(e))?)
    }

    /// Goes on with a job that is here: what comes is put to what it was before.
    async fn meet(&mut self, here: Here, origin: Option<Uuid>) -> Result<(), Refusal> {
        self.place = here.arrived;
        if origin.map(|id| self.another(id)) != Some(here.id) {
            let name = here.name;
            return refused(format!(
                "this job is here already, as “{name}”, and how it came is not known; it can come in as a copy beside it"
            ));
        }
        self.merge = Some(Merge { keys: keys(self.scope).await?, ..Merge::default() });
        Ok(())
    }

    async fn remember(&self, job: Uuid, origin: Option<Uuid>) -> Result<(), Refusal> {
        let put = "update job set origin = $3, arrived = $4 where practice_id = $1 and id = $2";
        let values = [self.scope.practice.into(), job.into(), origin.into(), self.place.into()];
        let asked = Statement::from_sql_and_values(self.scope.txn.get_database_backend(), put, values);
        self.scope.txn.execute_raw(asked).await.map(drop).map_err(|e| named("job", e))
    }

    /// Rows as objects with no field there is none of.
    fn rows(&self, name: &str, text: &str) -> Result<Vec<Map<String, Value>>, Refusal> {
        let rows: Vec<Map<String, Value>> = match serde_json::from_str(text) {
            Ok(rows) => rows,
            Err(e) => return refused(format!("rows of {name} cannot be read: {e}")),
        };
        let fields = self.fields.get(name).map_or(&[][..], Vec::as_slice);
        let strange = |row: &Map<String, Value>| row.keys().find(|k| !fields.iter().any(|f| f.name == **k)).cloned();
        match rows.iter().find_map(strange) {
            Some(field) => refused(format!(
                "a row of {name} has a field “{}”, which this version does not know",
                field.chars().take(40).collect::<String>()
            )),
            None => Ok(rows),
        }
    }

    /// Rows of the practice: what is here already is used, and only the rest comes in.
    async fn of_practice(&mut self, name: &str, text: &str) -> Result<Vec<Map<String, Value>>, Refusal> {
        // Here since before, or since another job brought it in.
        let ask = format!("select id from {name} where practice_id = $1 and id in ($2, $3) order by id <> $2 limit 1");
        let mut new = Vec::new();
        for row in self.rows(name, text)? {
            let Some(id) = row.get("id").and_then(Value::as_str).and_then(|id| id.parse::<Uuid>().ok()) else {
                return refused(format!("a row of {name} has no id"));
            };
            let lasting = ended(id, self.scope.practice);
            let values = [self.scope.practice.into(), id.into(), lasting.into()];
            let asked = Statement::from_sql_and_values(self.scope.txn.get_database_backend(), &ask, values);
            let here = self.scope.txn.query_one_raw(asked).await.map_err(StoreError::from)?;
            match here {
                Some(here) => {
                    self.known.insert(id, here.try_get("", "id").map_err(StoreError::from)?);
                }
                None => {
                    self.known.insert(id, lasting);
                    if name == "consultant" {
                        self.departed(lasting, &row).await?;
                    } else {
                        new.push(row);
                    }
                }
            }
        }
        let text = serde_json::to_string(&new).unwrap_or_default();
        let mut new = self.rows(name, &self.renumbered(&text))?;
        if matches!(name, "material" | "own_source" | "weather") {
            let by = Value::String(self.by.to_string());
            new.iter_mut().for_each(|row| drop(row.insert("updated_by".into(), by.clone())));
        }
        Ok(new)
    }

    /// Somebody who worked on it elsewhere: a name, and no way in.
    async fn departed(&self, id: Uuid, row: &Map<String, Value>) -> Result<(), Refusal> {
        let put = "insert into consultant (practice_id, id, email, name, password_hash, units, theme, role, ended_at)
            values ($1, $2, 'imported-' || $2::text || '@gutteral.invalid', $3, '', 'metric', 'paper', 'technician', now())";
        let name = row.get("name").and_then(Value::as_str).unwrap_or_default();
        let values = [self.scope.practice.into(), id.into(), name.into()];
        let asked = Statement::from_sql_and_values(self.scope.txn.get_database_backend(), put, values);
        self.scope.txn.execute_raw(asked).await.map(drop).map_err(|e| named("consultant", e))
    }

    /// Ids that are made of others are made anew of what those became.
    fn made_of_others(&mut self, name: &str, rows: Vec<Map<String, Value>>) -> Vec<Map<String, Value>> {
        let Some(job) = self.job else { return rows };
        let text =
            |row: &Map<String, Value>, key: &str| row.get(key).and_then(Value::as_str).unwrap_or_default().to_owned();
        let made = |row: &Map<String, Value>| {
            Some(match name {
                "plan_step" => plan_row_id(job, &format!("step {}", text(row, "fix"))),
                "plan_figure" => plan_row_id(job, &format!("figure {} {}", text(row, "fix"), text(row, "name"))),
                "school" => plan_row_id(job, &format!("school {}", text(row, "question"))),
                "conclusion" => match text(row, "space_id") {
                    space if space.is_empty() => job,
                    space => plan_row_id(job, &format!("conclusion {space}")),
                },
                _ => return None,
            })
        };
        let mut rows = rows;
        for row in &mut rows {
            if let Some(id) = made(row) {
                // What it became is what its history names.
                if let Ok(became) = text(row, "id").parse::<Uuid>() {
                    self.remade.insert(became, id);
                }
                row.insert("id".into(), Value::String(id.to_string()));
            }
        }
        rows
    }

    /// What becomes of a row that is here already: evidence stays as it is, all else becomes what came.
    fn met(&self, table: &Table) -> String {
        let Some(keys) = self.merge.as_ref().and_then(|m| m.keys.get(table.name)) else { return String::new() };
        let fields = self.fields.get(table.name).map_or(&[][..], Vec::as_slice);
        let rest: Vec<&str> = fields.iter().map(|f| f.name.as_str()).filter(|f| !keys.iter().any(|k| k == f)).collect();
        let key = keys.join(", ");
        if is_append_only(table.name) || rest.is_empty() {
            return format!("on conflict (practice_id, {key}) do nothing");
        }
        let comes = |column: &&str| match (table.name, *column) {
            // A visit that was ended, or looked through, stays so.
            ("visit", "ended_at" | "reviewed_at" | "reviewed_by") => format!("coalesce(t.{column}, excluded.{column})"),
            _ => format!("excluded.{column}"),
        };
        let set: Vec<String> = rest.iter().map(|c| format!("{c} = {}", comes(c))).collect();
        let was: Vec<String> = rest.iter().map(|c| format!("t.{c}")).collect();
        let comes: Vec<String> = rest.iter().map(comes).collect();
        // An id in the file may be another job’s: its rows are left alone.
        let own = if fields.iter().any(|f| f.name == "job_id") { "t.job_id = excluded.job_id and" } else { "" };
        format!(
            "on conflict (practice_id, {key}) do update set {} where {own} ({}) is distinct from ({})",
            set.join(", "),
            was.join(", "),
            comes.join(", ")
        )
    }

    /// Only rows that belong to rows of this job, where an id in the file may be another’s.
    fn within(&self, table: &Table) -> String {
        match (table.within(), &self.merge) {
            (Some((column, of)), Some(_)) => {
                format!(
                    "and exists (select from {of} o where o.practice_id = $1 and o.id = r.{column} and o.job_id = $3)"
                )
            }
            _ => String::new(),
        }
    }

    /// Notes how many rows of a table came, and how many of them were new or another.
    fn count(&mut self, table: &'static str, came: usize, new: u64) {
        if let Some(merge) = &mut self.merge {
            *merge.came.entry(table).or_default() += came as u64;
            merge.new += new;
        }
    }

    async fn insert(&mut self, table: &'static Table, rows: Vec<Map<String, Value>>) -> Result<(), Refusal> {
        let fields = self.fields.get(table.name).map_or(&[][..], Vec::as_slice);
        let names: Vec<&str> = fields.iter().map(|f| f.name.as_str()).collect();
        let value = |f: &Field| match (f.kind.as_str(), f.name.as_str()) {
            ("bytea", name) => format!("decode(j ->> '{name}', 'base64')"),
            (_, "job_id") => "$3::uuid".to_owned(),
            (_, name) => format!("r.{name}"),
        };
        let bytes: Vec<String> =
            fields.iter().filter(|f| f.kind == "bytea").map(|f| format!("- '{}'", f.name)).collect();
        let values = fields.iter().map(value).collect::<Vec<_>>().join(", ");
        let put = format!(
            "insert into {} as t (practice_id, {}) select $1, {values}
             from jsonb_array_elements($2::jsonb) j, jsonb_populate_record(null::{}, j {}) r where $3::uuid is not distinct from $3 {} {}",
            table.name,
            names.join(", "),
            table.name,
            bytes.join(" "),
            self.within(table),
            self.met(table)
        );
        let text = serde_json::to_string(&rows).unwrap_or_default();
        let values = [self.scope.practice.into(), text.into(), self.job.into()];
        let asked = Statement::from_sql_and_values(self.scope.txn.get_database_backend(), put, values);
        let put = self.scope.txn.execute_raw(asked).await.map_err(|e| named(table.name, e))?;
        self.count(table.name, rows.len(), put.rows_affected());
        Ok(())
    }

    /// Makes the months readings lie in.
    async fn months_of(&mut self, all: impl Iterator<Item = DateTime<Utc>>) -> Result<(), Refusal> {
        let months: BTreeSet<NaiveDate> = all.filter_map(|at| at.date_naive().with_day(1)).collect();
        let new: Vec<NaiveDate> = months.difference(&self.months).copied().collect();
        if let Some(odd) = new.iter().find(|m| !(1970..2200).contains(&m.year())) {
            return refused(format!("a reading of the log is of {odd}"));
        }
        if !new.is_empty() {
            self.store.make_months(new.clone()).await?;
            self.months.extend(new);
            // Who holds a table already does not hear of its new months until it takes up another.
            let hear = "create temp table hearing () on commit drop; drop table hearing";
            self.scope.txn.execute_unprepared(hear).await.map_err(StoreError::from)?;
        }
        Ok(())
    }

    /// Takes single readings.
    async fn points(&mut self, rows: &str) -> Result<(), Refusal> {
        let all: Vec<Points> = match serde_json::from_str(rows) {
            Ok(all) => all,
            Err(e) => return refused(format!("single readings cannot be read: {e}")),
        };
        for p in all {
            let n = p.at.len();
            if [p.t_c.len(), p.rh_pct.len(), p.value.len()] != [n; 3] {
                return refused("columns of single readings differ in length");
            }
            let at: Option<Vec<DateTime<Utc>>> = p.at.iter().map(|us| DateTime::from_timestamp_micros(*us)).collect();
            let Some(at) = at else { return refused("a single reading has no moment") };
            self.months_of(at.iter().copied()).await?;
            let met = if self.merge.is_some() {
                "where exists (select from log_series s where s.practice_id = $1 and s.id = $2 and s.job_id = $8)
                on conflict (practice_id, series_id, at) do nothing"
            } else {
                "where $8::uuid is not distinct from $8"
            };
            let put = format!(
                "insert into log_point (practice_id, series_id, bring_in_id, at, t_c, rh_pct, value)
                select $1, $2, $3, a.at, nullif(a.t_c, 'NaN'), nullif(a.rh_pct, 'NaN'), nullif(a.value, 'NaN') from
                unnest($4::timestamptz[], $5::float8[], $6::float8[], $7::float8[]) a(at, t_c, rh_pct, value) {met}"
            );
            let bring_in = p.bring_in_id.map(|id| self.another(id));
            let values = [
                self.scope.practice.into(),
                self.another(p.series_id).into(),
                bring_in.into(),
                at.into(),
                known(p.t_c).into(),
                known(p.rh_pct).into(),
                known(p.value).into(),
                self.job.into(),
            ];
            let asked = Statement::from_sql_and_values(self.scope.txn.get_database_backend(), put, values);
            let put = self.scope.txn.execute_raw(asked).await.map_err(|e| named("log_point", e))?;
            self.count("log_point", n, put.rows_affected());
        }
        Ok(())
    }
}

/// What the database says of rows it does not take is the file’s fault, unless it does not answer at all.
fn named(table: &str, e: sea_orm::DbErr) -> Refusal {
    let said = match &e {
        sea_orm::DbErr::Exec(sea_orm::RuntimeErr::SqlxError(e))
        | sea_orm::DbErr::Query(sea_orm::RuntimeErr::SqlxError(e)) => e
            .as_database_error()
            .filter(|e| e.code().is_some_and(|c| ["21", "22", "23"].iter().any(|class| c.starts_with(class))))
            .map(|e| e.message().to_owned()),
        _ => None,
    };
    match said {
        Some(said) => Refusal::File(format!("rows of {table} do not fit: {said}")),
        None => Refusal::Store(e.into()),
    }
}

//! The docket: jobs by how they stand, what is due and who worked on them; how they stand is kept, and made anew when stale.

use super::history::Act;
use super::jobs::Job;
use crate::entity::job;
use crate::error::StoreError;
use crate::record::Worst;
use crate::scope::Scope;
use building::Structure;
use chrono::{DateTime, NaiveDate, Utc};
use sea_orm::{ConnectionTrait, Statement, Value};
use serde::Deserialize;
use serde_json::json;
use uuid::Uuid;

building::kinds! {
    /// What jobs come first.
    Order {
        /// Those opened latest.
        Latest = "latest", "opened last";
        /// Those that stand worst.
        Worst = "worst", "worst first";
        /// Those to be looked at again soonest.
        Due = "due", "due first";
        /// By name.
        Name = "name", "by name";
    }
}

/// Which jobs are asked for, and in which order.
#[derive(Debug, Clone, Default)]
pub struct Sought {
    /// Each word stands in the name or the address; what is special to a pattern is taken as it is.
    pub words: String,
    /// Of this kind.
    pub structure: Option<Structure>,
    /// Standing so.
    pub worst: Option<Worst>,
    /// With something to be looked at again on this day or before.
    pub due_by: Option<NaiveDate>,
    /// Opened or visited by this person.
    pub person: Option<Uuid>,
    /// Put in the archive, or not.
    pub archived: bool,
    /// What comes first, after what is pinned; those opened last without one.
    pub order: Option<Order>,
    /// Opened before this one: when it was, and its id.
    pub after: Option<(DateTime<Utc>, Uuid)>,
}

/// A job on the docket.
#[derive(Debug, Clone, PartialEq)]
pub struct Listed {
    /// The job.
    pub job: Job,
    /// Whether whoever asks has it pinned.
    pub pinned: bool,
    /// How it stands, as far as that is known.
    pub worst: Worst,
    /// Visits to it.
    pub visits: u32,
    /// The latest visit: when it began, and when it ended.
    pub latest: Option<(DateTime<Utc>, Option<DateTime<Utc>>)>,
    /// Readings on the latest visit, as far as that is known.
    pub readings: u32,
    /// When something on it is to be looked at again, the soonest.
    pub due_on: Option<NaiveDate>,
}

/// A job that changed, or what it was judged with, since it was looked through.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stale {
    /// The job.
    pub job: Uuid,
    made: i64,
}

/// How a job stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Standing {
    /// What it was made anew for: changed meanwhile, it is stale again.
    pub of: Stale,
    /// Its worst verdict.
    pub worst: Worst,
    /// Readings on its latest visit.
    pub readings: usize,
}

#[derive(Deserialize)]
struct Row {
    job: job::Model,
    pinned: bool,
    worst: Worst,
    visits: u32,
    started_at: Option<DateTime<Utc>>,
    ended_at: Option<DateTime<Utc>>,
    readings: u32,
    due_on: Option<NaiveDate>,
}

impl Order {
    /// What rows are ordered by after the pinned ones.
    const fn by(self) -> &'static str {
        match self {
            Self::Latest => "j.created_at desc",
            Self::Worst => "array_position('{condensing,cant_tell,mold_risk,dry,not_judged}', s.worst)",
            Self::Due => "d.due_on nulls last",
            Self::Name => "lower(j.name)",
        }
    }
}

impl Sought {
    /// The jobs, as a statement says it: only with what is asked for, so that the database may go by its indexes.
    fn statement(&self, order: Order, values: &mut Vec<Value>) -> String {
        let mut from = "from job j".to_owned();
        let mut wanted = String::from("where j.practice_id = $1 and j.removed_at is null");
        wanted += if self.archived { " and j.archived_at is not null" } else { " and j.archived_at is null" };
        if self.worst.is_some() || order == Order::Worst {
            from += " left join standing s on s.practice_id = $1 and s.job_id = j.id";
        }
        if self.due_by.is_some() || order == Order::Due {
            from += " left join (select job_id, min(due_on) as due_on from follow_up where practice_id = $1 and state = 'open'
                and removed_at is null group by job_id) d on d.job_id = j.id";
        }
        let mut and = |condition: &str, value: Value| {
            values.push(value);
            wanted += " and ";
            wanted += &condition.replace('?', &format!("${}", values.len()));
        };
        if let Some(structure) = self.structure {
            and("j.structure = ?", structure.id().into());
        }
        if let Some(worst) = self.worst {
            and("coalesce(s.worst, 'not_judged') = ?", worst.id().into());
        }
        if let Some(day) = self.due_by {
            and("d.due_on <= ?", day.into());
        }
        if let Some(person) = self.person {
            let visited = "j.id in (select job_id from visit where practice_id = $1 and consultant_id = ?)";
            and(&format!("(j.created_by = ? or {visited})"), person.into());
        }
        let plain = |word: &str| format!("%{}%", word.replace('\\', "\\\\").replace('%', "\\%").replace('_', "\\_"));
        let words: Vec<String> = self.words.split_whitespace().map(plain).collect();
        if !words.is_empty() {
            // Each job is made small once, whatever the words.
            let all = "((select array_agg(lower(w)) from unnest(?::text[]) w)::text[])";
            and(&format!("lower(j.name || ' ' || j.address) like all {all}"), words.into());
        }
        if let Some((at, id)) = self.after {
            values.extend([at.into(), id.into()]);
            wanted += &format!(" and (j.created_at, j.id) < (${}, ${})", values.len() - 1, values.len());
        }
        format!("{from} {wanted}")
    }
}

impl Scope {
    /// Some of the jobs sought for somebody, the pinned ones first, and how many there are.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn docket(
        &self,
        sought: &Sought,
        reader: Uuid,
        from: u64,
        most: u64,
    ) -> Result<(Vec<Listed>, u64), StoreError> {
        let order = sought.order.unwrap_or(Order::Latest);
        let mut values: Vec<Value> = vec![self.practice.into(), reader.into()];
        let found = sought.statement(order, &mut values);
        let mut next = |value: u64| {
            values.push(i64::try_from(value).unwrap_or(i64::MAX).into());
            format!("${}", values.len())
        };
        let (from, most) = (next(from), next(most));
        // Words are looked for once: jobs are counted as they are found, and once more only behind the last. Without words the count
        // is another statement, for it goes by an index alone.
        let counted = if sought.words.trim().is_empty() { "null::bigint" } else { "count(*) over ()" };
        // Only the jobs of the page are looked up further.
        let ask = format!(
            "with page as (select j.id, j.id in (select job_id from pin where practice_id = $1 and consultant_id = $2) as pinned,
                {counted} as found {found} order by pinned desc, {}, j.created_at desc, j.id desc offset {from} limit {most}),
            numbered as (select *, row_number() over () as n from page)
            select coalesce((select max(found) from page), (select count(*) {found})) as found, coalesce((select json_agg(json_build_object('job', to_json(j),
                'pinned', f.pinned, 'worst', coalesce(s.worst, 'not_judged'), 'readings', coalesce(s.readings, 0), 'due_on', d.due_on,
                'visits', v.visits, 'started_at', l.started_at, 'ended_at', l.ended_at) order by f.n)
              from numbered f join job j on j.practice_id = $1 and j.id = f.id
              left join standing s on s.practice_id = $1 and s.job_id = f.id
              cross join lateral (select count(*) as visits from visit where practice_id = $1 and job_id = f.id) v
              left join lateral (select started_at, ended_at from visit where practice_id = $1 and job_id = f.id
                order by started_at desc limit 1) l on true
              left join lateral (select min(due_on) as due_on from follow_up where practice_id = $1 and job_id = f.id
                and state = 'open' and removed_at is null) d on true), '[]')::text as rows",
            order.by()
        );
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let row = self.txn.query_one_raw(asked).await?.ok_or(StoreError::Gone)?;
        let (found, rows): (i64, String) = (row.try_get("", "found")?, row.try_get("", "rows")?);
        let rows: Vec<Row> = serde_json::from_str(&rows).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        Ok((rows.into_iter().map(listed).collect::<Result<_, _>>()?, found.unsigned_abs()))
    }

    /// Jobs that are to be looked through again, and how many there are.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn stale_standings(&self, most: u64) -> Result<(Vec<Stale>, u64), StoreError> {
        let ask = "select r.job_id, r.made, count(*) over () as found
            from revision r join job j on j.practice_id = r.practice_id and j.id = r.job_id and j.removed_at is null
            where r.practice_id = $1 and not r.stood order by r.job_id desc limit $2";
        let values = [self.practice.into(), i64::try_from(most).unwrap_or(i64::MAX).into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let mut found = 0;
        let mut stale = Vec::new();
        for row in self.txn.query_all_raw(asked).await? {
            found = row.try_get::<i64>("", "found")?.unsigned_abs();
            stale.push(Stale { job: row.try_get("", "job_id")?, made: row.try_get("", "made")? });
        }
        Ok((stale, found))
    }

    /// Keeps how jobs stand. One changed meanwhile is to be looked through once more, one erased meanwhile is left out; one that
    /// somebody is changing now is left for the next time, so that no reader waits for a writer.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_standings(&self, standings: &[Standing]) -> Result<(), StoreError> {
        let rows = "jsonb_to_recordset($2) as x(job uuid, made bigint, worst text, readings integer)";
        let put = format!(
            "insert into standing (practice_id, job_id, worst, readings)
            select $1, j.id, x.worst, x.readings from {rows} join job j on j.practice_id = $1 and j.id = x.job
            order by j.id for key share of j skip locked
            on conflict (practice_id, job_id) do update set worst = excluded.worst, readings = excluded.readings"
        );
        let settle = format!(
            "update revision r set stood = true from (select r.job_id from {rows}
              join revision r on r.practice_id = $1 and r.job_id = x.job and r.made = x.made and not r.stood
              join standing s on s.practice_id = $1 and s.job_id = r.job_id for update of r skip locked) held
            where r.practice_id = $1 and r.job_id = held.job_id"
        );
        let row =
            |s: &Standing| json!({ "job": s.of.job, "made": s.of.made, "worst": s.worst.id(), "readings": s.readings });
        let rows: Vec<_> = standings.iter().map(row).collect();
        for statement in [put, settle] {
            let values = [self.practice.into(), json!(rows).into()];
            let statement = Statement::from_sql_and_values(self.txn.get_database_backend(), statement, values);
            self.txn.execute_raw(statement).await?;
        }
        Ok(())
    }

    /// Puts a job on top of somebody's docket, or lets it go from there.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn pin(&self, job: Uuid, reader: Uuid, pinned: bool) -> Result<(), StoreError> {
        let put = match pinned {
            true => "insert into pin values ($1, $2, $3) on conflict do nothing",
            false => "delete from pin where practice_id = $1 and consultant_id = $2 and job_id = $3",
        };
        let values = [self.practice.into(), reader.into(), job.into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), put, values)).await?;
        Ok(())
    }

    /// Puts a job in the archive, or back on the docket.
    ///
    /// # Errors
    /// [`StoreError::Gone`] when there is no such job, [`StoreError`] when the database does not answer.
    pub async fn archive_job(&self, act: &Act, archived: bool) -> Result<(), StoreError> {
        if self.acted(act.job, act.id).await? {
            return Ok(());
        }
        let row = self.job_row(act.job).await?.ok_or(StoreError::Gone)?;
        if row.archived_at.is_some() == archived {
            return Ok(());
        }
        let mut rows = Vec::new();
        self.put::<job::Entity>(&mut rows, job::Model { archived_at: archived.then_some(act.at), ..row }).await?;
        self.log(act, rows).await
    }
}

fn listed(row: Row) -> Result<Listed, StoreError> {
    Ok(Listed {
        job: row.job.try_into()?,
        pinned: row.pinned,
        worst: row.worst,
        visits: row.visits,
        latest: row.started_at.map(|at| (at, row.ended_at)),
        readings: row.readings,
        due_on: row.due_on,
    })
}

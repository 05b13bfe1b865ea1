//! The docket: jobs by how they stand, what is due and who worked on them; how they stand is kept, and made anew when stale.

use super::history::Act;
use super::jobs::Job;
use crate::entity::job;
use crate::error::StoreError;
use crate::record::Worst;
use crate::scope::Scope;
use building::Structure;
use chrono::{DateTime, NaiveDate, Utc};
use sea_orm::{ConnectionTrait, Statement};
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

/// A job whose standing is older than the job, or than the instruments it was judged with.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stale {
    /// The job.
    pub job: Uuid,
    made: i64,
    instruments: i64,
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

/// Revision of the practice’s instruments.
const INSTRUMENTS: Uuid = Uuid::max();

const FOUND: &str = "with due as (
    select job_id, min(due_on) as due_on from follow_up
    where practice_id = $1 and state = 'open' and removed_at is null group by job_id
  ), found as (
    select j.id, j.created_at, lower(j.name) as name, p.job_id is not null as pinned,
      coalesce(s.worst, 'not_judged') as worst, coalesce(s.readings, 0) as readings, d.due_on
    from job j
    left join standing s on s.practice_id = j.practice_id and s.job_id = j.id
    left join pin p on p.practice_id = j.practice_id and p.job_id = j.id and p.consultant_id = $2
    left join due d on d.job_id = j.id
    where j.practice_id = $1 and j.removed_at is null and (j.archived_at is not null) = $3
      and ($4::text is null or j.structure = $4) and ($5::text is null or coalesce(s.worst, 'not_judged') = $5)
      and ($6::date is null or d.due_on <= $6)
      and ($7::uuid is null or j.created_by = $7
        or j.id in (select v.job_id from visit v where v.practice_id = $1 and v.consultant_id = $7))
      and ($11::timestamptz is null or (j.created_at, j.id) < ($11, $12))
      and not exists (select from jsonb_array_elements_text($8) w where position(lower(w) in lower(j.name || ' ' || j.address)) = 0)
  )";

impl Order {
    /// What rows are ordered by after the pinned ones.
    const fn by(self) -> &'static str {
        match self {
            Self::Latest => "created_at desc",
            Self::Worst => "array_position('{condensing,cant_tell,mold_risk,dry,not_judged}', worst)",
            Self::Due => "due_on nulls last",
            Self::Name => "name",
        }
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
        let order = format!("pinned desc, {}, created_at desc, id desc", sought.order.unwrap_or(Order::Latest).by());
        // Only the jobs of the page are looked up further.
        let ask = format!(
            "{FOUND}, page as (select *, row_number() over (order by {order}) as n from found order by n offset $9 limit $10)
            select (select count(*) from found) as found, coalesce((select json_agg(json_build_object('job', to_json(j),
                'pinned', f.pinned, 'worst', f.worst, 'readings', f.readings, 'due_on', f.due_on, 'visits', v.visits,
                'started_at', l.started_at, 'ended_at', l.ended_at) order by f.n)
              from page f join job j on j.practice_id = $1 and j.id = f.id
              cross join lateral (select count(*) as visits from visit where practice_id = $1 and job_id = f.id) v
              left join lateral (select started_at, ended_at from visit where practice_id = $1 and job_id = f.id
                order by started_at desc limit 1) l on true), '[]')::text as rows"
        );
        let words: Vec<&str> = sought.words.split_whitespace().collect();
        let values = [
            self.practice.into(),
            reader.into(),
            sought.archived.into(),
            sought.structure.map(|s| s.id().to_owned()).into(),
            sought.worst.map(|w| w.id().to_owned()).into(),
            sought.due_by.into(),
            sought.person.into(),
            json!(words).into(),
            i64::try_from(from).unwrap_or(i64::MAX).into(),
            i64::try_from(most).unwrap_or(i64::MAX).into(),
            sought.after.map(|(at, _)| at).into(),
            sought.after.map(|(_, id)| id).into(),
        ];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let row = self.txn.query_one_raw(asked).await?.ok_or(StoreError::Gone)?;
        let (found, rows): (i64, String) = (row.try_get("", "found")?, row.try_get("", "rows")?);
        let rows: Vec<Row> = serde_json::from_str(&rows).map_err(|e| StoreError::Corrupt(e.to_string()))?;
        Ok((rows.into_iter().map(listed).collect::<Result<_, _>>()?, found.unsigned_abs()))
    }

    /// Jobs whose standing is stale, the latest opened first, and how many there are.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn stale_standings(&self, most: u64) -> Result<(Vec<Stale>, u64), StoreError> {
        let ask =
            "select j.id, coalesce(r.made, 0) as made, coalesce(i.made, 0) as instruments, count(*) over () as found
            from job j
            left join revision r on r.practice_id = j.practice_id and r.job_id = j.id
            left join revision i on i.practice_id = j.practice_id and i.job_id = $2
            left join standing s on s.practice_id = j.practice_id and s.job_id = j.id
            where j.practice_id = $1 and j.removed_at is null
              and (s.job_id is null or s.made <> coalesce(r.made, 0) or s.instruments <> coalesce(i.made, 0))
            order by j.created_at desc limit $3";
        let values = [self.practice.into(), INSTRUMENTS.into(), i64::try_from(most).unwrap_or(i64::MAX).into()];
        let asked = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let mut found = 0;
        let mut stale = Vec::new();
        for row in self.txn.query_all_raw(asked).await? {
            found = row.try_get::<i64>("", "found")?.unsigned_abs();
            let (made, instruments) = (row.try_get("", "made")?, row.try_get("", "instruments")?);
            stale.push(Stale { job: row.try_get("", "id")?, made, instruments });
        }
        Ok((stale, found))
    }

    /// Keeps how jobs stand; one erased meanwhile is left out.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_standings(&self, standings: &[Standing]) -> Result<(), StoreError> {
        let put = "insert into standing (practice_id, job_id, made, instruments, worst, readings)
            select $1, j.id, x.made, x.instruments, x.worst, x.readings
            from jsonb_to_recordset($2) as x(job uuid, made bigint, instruments bigint, worst text, readings integer)
            join job j on j.practice_id = $1 and j.id = x.job order by j.id for key share of j
            on conflict (practice_id, job_id) do update
            set made = excluded.made, instruments = excluded.instruments, worst = excluded.worst, readings = excluded.readings";
        let row = |s: &Standing| {
            let Stale { job, made, instruments } = s.of;
            json!({ "job": job, "made": made, "instruments": instruments, "worst": s.worst.id(), "readings": s.readings })
        };
        let rows: Vec<_> = standings.iter().map(row).collect();
        let values = [self.practice.into(), json!(rows).into()];
        self.txn.execute_raw(Statement::from_sql_and_values(self.txn.get_database_backend(), put, values)).await?;
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

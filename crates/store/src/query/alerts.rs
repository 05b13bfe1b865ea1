//! What logs are watched for, what was raised, and the letters about it.

use super::history::Act;
use crate::entity::alert_rule;
use crate::error::StoreError;
use crate::record::{AlertRule, TaskKind, records};
use crate::scope::Scope;
use chrono::{DateTime, Utc};
use sea_orm::{ColumnTrait, ConnectionTrait, EntityTrait, QueryFilter, QueryOrder, QueryResult, Statement, Value};
use uuid::Uuid;

/// Something a rule raised.
#[derive(Debug, Clone, PartialEq)]
pub struct Alert {
    /// Identity.
    pub id: Uuid,
    /// The rule.
    pub rule_id: Uuid,
    /// The surface it is about, if any.
    pub surface_id: Option<Uuid>,
    /// Hours, %, or °C, by the rule's kind.
    pub figure: f64,
    /// Since when.
    pub raised_at: DateTime<Utc>,
    /// Until when; none while it lasts.
    pub cleared_at: Option<DateTime<Utc>>,
}

/// What is raised on some job, for whoever looks at all of them.
#[derive(Debug, Clone, PartialEq)]
pub struct Raised {
    /// What.
    pub alert: Alert,
    /// By which rule.
    pub rule: AlertRule,
    /// The job's name.
    pub job: String,
    /// The space's.
    pub space: String,
    /// The surface's, if any.
    pub surface: Option<String>,
}

/// A letter on its way.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Letter {
    /// Identity.
    pub id: Uuid,
    /// The job it is about; none for a letter about people.
    pub job_id: Option<Uuid>,
    /// To whom.
    pub mail_to: String,
    /// What about.
    pub subject: String,
    /// What it says.
    pub body: String,
}

/// Most of what is raised that is told at once.
const MOST: u32 = 50;

fn alert(row: &QueryResult) -> Result<Alert, StoreError> {
    Ok(Alert {
        id: row.try_get("", "id")?,
        rule_id: row.try_get("", "rule_id")?,
        surface_id: row.try_get("", "surface_id")?,
        figure: row.try_get("", "figure")?,
        raised_at: row.try_get("", "raised_at")?,
        cleared_at: row.try_get("", "cleared_at")?,
    })
}

impl Scope {
    async fn run(&self, sql: &str, values: impl IntoIterator<Item = Value>) -> Result<u64, StoreError> {
        let statement = Statement::from_sql_and_values(self.txn.get_database_backend(), sql, values);
        Ok(self.txn.execute_raw(statement).await?.rows_affected())
    }

    /// The rules of a job.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn alert_rules(&self, job: Uuid) -> Result<Vec<AlertRule>, StoreError> {
        let rows = alert_rule::Entity::find()
            .filter(alert_rule::Column::PracticeId.eq(self.practice))
            .filter(alert_rule::Column::JobId.eq(job))
            .filter(alert_rule::Column::RemovedAt.is_null())
            .order_by_asc(alert_rule::Column::Id);
        records(rows.all(&self.txn).await?)
    }

    /// Keeps a rule, new or removed; the log is looked at by it at once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn keep_alert_rule(&self, act: &Act, rule: AlertRule) -> Result<(), StoreError> {
        self.keep_one::<alert_rule::Entity>(act, rule.row(self.practice, act.at)).await
    }

    /// The latest of what the rules of a job raised, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn alerts(&self, job: Uuid) -> Result<Vec<Alert>, StoreError> {
        let ask = format!(
            "select * from alert where practice_id = $1 and job_id = $2 order by raised_at desc, id limit {MOST}"
        );
        let values = [self.practice.into(), job.into()];
        let rows = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        self.txn.query_all_raw(rows).await?.iter().map(alert).collect()
    }

    /// What is raised now, on all jobs of the practice or on one, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer or a row cannot be read.
    pub async fn raised(&self, job: Option<Uuid>) -> Result<Vec<Raised>, StoreError> {
        let ask = format!(
            "select a.*, row_to_json(r)::text as rule, j.name as job, s.name as space, x.name as surface
            from alert a
            join alert_rule r on r.practice_id = a.practice_id and r.id = a.rule_id and r.removed_at is null
            join job j on j.practice_id = a.practice_id and j.id = a.job_id and j.removed_at is null
            join space s on s.practice_id = a.practice_id and s.id = r.space_id and s.removed_at is null
            left join surface x on x.practice_id = a.practice_id and x.id = a.surface_id
            where a.practice_id = $1 and a.cleared_at is null and ($2::uuid is null or a.job_id = $2)
            order by a.raised_at desc, a.id limit {MOST}"
        );
        let values = [self.practice.into(), job.into()];
        let rows = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let read = |row: &QueryResult| -> Result<Raised, StoreError> {
            let rule: String = row.try_get("", "rule")?;
            let rule: alert_rule::Model =
                serde_json::from_str(&rule).map_err(|e| StoreError::Corrupt(e.to_string()))?;
            Ok(Raised {
                alert: alert(row)?,
                rule: rule.try_into()?,
                job: row.try_get("", "job")?,
                space: row.try_get("", "space")?,
                surface: row.try_get("", "surface")?,
            })
        };
        self.txn.query_all_raw(rows).await?.iter().map(read).collect()
    }

    /// Raises what a rule found, once; `false` where it is raised already.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn raise(&self, job: Uuid, alert: &Alert) -> Result<bool, StoreError> {
        let raise = "insert into alert (practice_id, id, job_id, rule_id, surface_id, figure, raised_at)
            values ($1, $2, $3, $4, $5, $6, $7) on conflict (practice_id, rule_id) where cleared_at is null do nothing";
        let values = [
            self.practice.into(),
            alert.id.into(),
            job.into(),
            alert.rule_id.into(),
            alert.surface_id.into(),
            alert.figure.into(),
            alert.raised_at.into(),
        ];
        Ok(self.run(raise, values).await? == 1)
    }

    /// Clears what a rule raised; `false` where nothing was.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn clear(&self, rule: Uuid, at: DateTime<Utc>) -> Result<bool, StoreError> {
        let clear = "update alert set cleared_at = $3 where practice_id = $1 and rule_id = $2 and cleared_at is null";
        Ok(self.run(clear, [self.practice.into(), rule.into(), at.into()]).await? == 1)
    }

    /// Puts a letter on its way.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn post_letter(&self, letter: &Letter) -> Result<(), StoreError> {
        let keep = "insert into letter values ($1, $2, $3, $4, $5, $6, now(), null)";
        let values = [
            self.practice.into(),
            letter.id.into(),
            letter.job_id.into(),
            letter.mail_to.as_str().into(),
            letter.subject.as_str().into(),
            letter.body.as_str().into(),
        ];
        self.run(keep, values).await?;
        self.ask(TaskKind::Mail, letter.id, letter.job_id).await
    }

    /// A letter that was not sent yet.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn letter(&self, id: Uuid) -> Result<Option<Letter>, StoreError> {
        let ask = "select * from letter where practice_id = $1 and id = $2 and sent_at is null";
        let values = [self.practice.into(), id.into()];
        let row = Statement::from_sql_and_values(self.txn.get_database_backend(), ask, values);
        let Some(row) = self.txn.query_one_raw(row).await? else { return Ok(None) };
        Ok(Some(Letter {
            id,
            job_id: row.try_get("", "job_id")?,
            mail_to: row.try_get("", "mail_to")?,
            subject: row.try_get("", "subject")?,
            body: row.try_get("", "body")?,
        }))
    }

    /// Notes that a letter was sent. One about people holds a link: it is not kept.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn letter_sent(&self, id: Uuid) -> Result<(), StoreError> {
        let sent = "update letter set sent_at = now(), body = case when job_id is null then '' else body end \
            where practice_id = $1 and id = $2";
        self.run(sent, [self.practice.into(), id.into()]).await.map(|_| ())
    }
}

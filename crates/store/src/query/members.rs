//! People of a practice: who they are, how they came in, what lets them in, and what was done about them.

use super::people::hash;
use crate::entity::{audit, calendar_feed, consultant, invite, session, sign_in};
use crate::error::StoreError;
use crate::record::Role;
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, Duration, Utc};
use sea_orm::sea_query::Expr;
use sea_orm::{
    ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, PaginatorTrait, QueryFilter, QueryOrder, QuerySelect,
    Statement, TransactionTrait,
};
use uuid::Uuid;

/// Somebody of a practice.
#[derive(Debug, Clone)]
pub struct Member {
    /// Identity.
    pub id: Uuid,
    /// Sign-in name.
    pub email: String,
    /// Name.
    pub name: String,
    /// What they may.
    pub role: Role,
    /// Since when they may not come in; none while they may.
    pub ended_at: Option<DateTime<Utc>>,
    /// Whether they have a second factor or a passkey.
    pub second: bool,
    /// When they were last here.
    pub seen_at: Option<DateTime<Utc>>,
    /// Sessions that are open.
    pub sessions: i64,
}

/// A link that lets somebody in: new here, or back in.
#[derive(Debug, Clone)]
pub struct Invite {
    /// Identity.
    pub id: Uuid,
    /// Its practice, and the practice’s name.
    pub practice: (Uuid, String),
    /// The person it lets back in; none for somebody new.
    pub consultant_id: Option<Uuid>,
    /// Sign-in name.
    pub email: String,
    /// Name.
    pub name: String,
    /// What they will be.
    pub role: Role,
    /// Who made it.
    pub made_by: Uuid,
    /// Until when it holds.
    pub expires_at: DateTime<Utc>,
}

/// A session of somebody.
#[derive(Debug, Clone)]
pub struct Session {
    /// Identity: not its secret.
    pub id: Uuid,
    /// When it was opened.
    pub started_at: DateTime<Utc>,
    /// When it was last used.
    pub seen_at: DateTime<Utc>,
    /// What the browser calls itself.
    pub agent: String,
    /// From where.
    pub address: String,
}

/// Somebody came in, or failed to.
#[derive(Debug, Clone)]
pub struct SignIn {
    /// When.
    pub at: DateTime<Utc>,
    /// By what: a password, a link.
    pub how: String,
    /// Whether they came in.
    pub came_in: bool,
    /// What the browser calls itself.
    pub agent: String,
    /// From where.
    pub address: String,
}

/// Something done about people, access or data.
#[derive(Debug, Clone)]
pub struct Audited {
    /// When.
    pub at: DateTime<Utc>,
    /// Who; none for the program, or a stranger with a link.
    pub by: Option<Uuid>,
    /// What.
    pub what: String,
    /// About which job.
    pub job_id: Option<Uuid>,
}

/// Where somebody comes from.
#[derive(Debug, Clone, Default)]
pub struct Device {
    /// What the browser calls itself.
    pub agent: String,
    /// The address, without what names a single device in it.
    pub address: String,
}

impl Device {
    /// Of what a browser says, cut to what is kept.
    #[must_use]
    pub fn new(agent: &str, address: &str) -> Self {
        let cut = |text: &str, most: usize| text.chars().filter(|c| !c.is_control()).take(most).collect();
        Self { agent: cut(agent, 200), address: cut(address, 100) }
    }
}

/// Spare codes as they are kept.
fn kept(spare: &[String]) -> String {
    spare.iter().map(|code| hash(code)).collect::<Vec<_>>().join(" ")
}

fn role(id: &str) -> Result<Role, StoreError> {
    Role::from_id(id).ok_or_else(|| StoreError::Corrupt(format!("unknown role {id}")))
}

impl Store {
    /// The invitation behind a link’s secret, while it holds.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn invite_by(&self, secret: &str, now: DateTime<Utc>) -> Result<Option<Invite>, StoreError> {
        let key = hash(secret);
        let txn = self.db.begin().await?;
        set(&txn, "app.invite_key", &key).await?;
        let row = invite::Entity::find().filter(invite::Column::KeyHash.eq(&key)).one(&txn).await?;
        let Some(row) = row.filter(|r| r.ended_at.is_none() && r.expires_at > now) else {
            txn.commit().await?;
            return Ok(None);
        };
        set(&txn, "app.practice_id", &row.practice_id.to_string()).await?;
        let practice = crate::entity::practice::Entity::find()
            .filter(crate::entity::practice::Column::PracticeId.eq(row.practice_id))
            .one(&txn)
            .await?;
        txn.commit().await?;
        Ok(Some(Invite {
            id: row.id,
            practice: (row.practice_id, practice.map(|p| p.name).unwrap_or_default()),
            consultant_id: row.consultant_id,
            email: row.email,
            name: row.name,
            role: role(&row.role)?,
            made_by: row.made_by,
            expires_at: row.expires_at,
        }))
    }
}

impl Scope {
    /// Everybody of the practice, those who may come in first, by name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn members(&self) -> Result<Vec<Member>, StoreError> {
        let asked = Statement::from_sql_and_values(
            self.txn.get_database_backend(),
            "select c.id, c.email, c.name, c.role, c.ended_at, c.second <> '' or exists (select from passkey k where k.practice_id = c.practice_id and k.consultant_id = c.id) as second, s.seen, coalesce(s.n, 0) as n
             from consultant c left join (select consultant_id, max(seen_at) as seen,
                 count(*) filter (where expires_at > now()) as n from session where practice_id = $1 group by 1) s
               on s.consultant_id = c.id
             where c.practice_id = $1 order by c.ended_at is not null, lower(c.name), c.id",
            [self.practice.into()],
        );
        let rows = self.txn.query_all_raw(asked).await?;
        let member = |r: sea_orm::QueryResult| {
            Ok(Member {
                id: r.try_get("", "id")?,
                email: r.try_get("", "email")?,
                name: r.try_get("", "name")?,
                role: role(&r.try_get::<String>("", "role")?)?,
                ended_at: r.try_get("", "ended_at")?,
                second: r.try_get("", "second")?,
                seen_at: r.try_get("", "seen")?,
                sessions: r.try_get("", "n")?,
            })
        };
        rows.into_iter().map(member).collect()
    }

    /// Holds the practice’s people, so that two who change them do so one after the other.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn hold_people(&self) -> Result<(), StoreError> {
        let held = Statement::from_sql_and_values(
            self.txn.get_database_backend(),
            "select pg_advisory_xact_lock(hashtextextended('people ' || $1::text, 0))",
            [self.practice.into()],
        );
        self.txn.execute_raw(held).await?;
        Ok(())
    }

    async fn set_person(&self, id: Uuid, columns: &[(consultant::Column, sea_orm::Value)]) -> Result<bool, StoreError> {
        let mut update = consultant::Entity::update_many()
            .filter(consultant::Column::PracticeId.eq(self.practice))
            .filter(consultant::Column::Id.eq(id));
        for (column, value) in columns {
            update = update.col_expr(*column, Expr::value(value.clone()));
        }
        Ok(update.exec(&self.txn).await?.rows_affected > 0)
    }

    /// Changes what somebody may; `false` when there is nobody with that id.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_role(&self, id: Uuid, role: Role) -> Result<bool, StoreError> {
        self.set_person(id, &[(consultant::Column::Role, role.id().into())]).await
    }

    /// Lets somebody in no more, from now on, nor the calendars they gave a way in; or lets them in again.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_ended(&self, id: Uuid, at: Option<DateTime<Utc>>) -> Result<bool, StoreError> {
        if at.is_some() {
            self.end_sessions(id, None).await?;
            calendar_feed::Entity::update_many()
                .col_expr(calendar_feed::Column::RevokedAt, Expr::value(at))
                .filter(calendar_feed::Column::PracticeId.eq(self.practice))
                .filter(calendar_feed::Column::ConsultantId.eq(id))
                .filter(calendar_feed::Column::RevokedAt.is_null())
                .exec(&self.txn)
                .await?;
        }
        self.set_person(id, &[(consultant::Column::EndedAt, at.into())]).await
    }

    /// Changes somebody’s name.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_name(&self, id: Uuid, name: &str) -> Result<bool, StoreError> {
        self.set_person(id, &[(consultant::Column::Name, name.into())]).await
    }

    /// Changes somebody’s password and ends every session of theirs but one.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_password(&self, id: Uuid, hashed: &str, but: Option<Uuid>) -> Result<bool, StoreError> {
        self.end_sessions(id, but).await?;
        self.set_person(id, &[(consultant::Column::PasswordHash, hashed.into())]).await
    }

    /// Sets up a second factor, or takes it away with nothing: what its secret is derived from, and hashes of spare codes.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_second(&self, id: Uuid, second: &str, step: i64, spare: &[String]) -> Result<bool, StoreError> {
        let columns = [
            (consultant::Column::Second, second.into()),
            (consultant::Column::SecondStep, step.into()),
            (consultant::Column::Recovery, kept(spare).into()),
        ];
        self.set_person(id, &columns).await
    }

    /// Makes other spare codes count, and none of those before.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_spare(&self, id: Uuid, spare: &[String]) -> Result<bool, StoreError> {
        self.set_person(id, &[(consultant::Column::Recovery, kept(spare).into())]).await
    }

    /// Uses a step of the second factor up; `false` when it or a later one was used before.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn use_step(&self, id: Uuid, step: i64) -> Result<bool, StoreError> {
        let used = consultant::Entity::update_many()
            .col_expr(consultant::Column::SecondStep, Expr::value(step))
            .filter(consultant::Column::PracticeId.eq(self.practice))
            .filter(consultant::Column::Id.eq(id))
            .filter(consultant::Column::SecondStep.lt(step))
            .exec(&self.txn)
            .await?;
        Ok(used.rows_affected > 0)
    }

    /// Uses a spare code up; `false` when it is none, or no more.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn use_spare(&self, id: Uuid, code: &str) -> Result<bool, StoreError> {
        let used = Statement::from_sql_and_values(
            self.txn.get_database_backend(),
            "update consultant set recovery = trim(replace(' ' || recovery || ' ', ' ' || $3 || ' ', ' '))
             where practice_id = $1 and id = $2 and position(' ' || $3 || ' ' in ' ' || recovery || ' ') > 0",
            [self.practice.into(), id.into(), hash(code).into()],
        );
        Ok(self.txn.execute_raw(used).await?.rows_affected() > 0)
    }

    /// Sessions of somebody that are open, the latest used first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn sessions_of(&self, id: Uuid) -> Result<Vec<Session>, StoreError> {
        let rows = session::Entity::find()
            .filter(session::Column::PracticeId.eq(self.practice))
            .filter(session::Column::ConsultantId.eq(id))
            .filter(session::Column::ExpiresAt.gt(Utc::now()))
            .order_by_desc(session::Column::SeenAt)
            .all(&self.txn)
            .await?;
        let session = |r: session::Model| Session {
            id: r.id,
            started_at: r.started_at,
            seen_at: r.seen_at,
            agent: r.agent,
            address: r.address,
        };
        Ok(rows.into_iter().map(session).collect())
    }

    /// Ends sessions of somebody: all but one.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn end_sessions(&self, id: Uuid, but: Option<Uuid>) -> Result<u64, StoreError> {
        let mut ended = session::Entity::delete_many()
            .filter(session::Column::PracticeId.eq(self.practice))
            .filter(session::Column::ConsultantId.eq(id));
        if let Some(but) = but {
            ended = ended.filter(session::Column::Id.ne(but));
        }
        Ok(ended.exec(&self.txn).await?.rows_affected)
    }

    /// Ends one session of somebody.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn end_session(&self, id: Uuid, which: Uuid) -> Result<bool, StoreError> {
        let ended = session::Entity::delete_many()
            .filter(session::Column::PracticeId.eq(self.practice))
            .filter(session::Column::ConsultantId.eq(id))
            .filter(session::Column::Id.eq(which))
            .exec(&self.txn)
            .await?;
        Ok(ended.rows_affected > 0)
    }

    /// Keeps an invitation under its link’s secret. Sent twice it is there once: `false` the second time.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn invite(&self, invite: &Invite, secret: &str, now: DateTime<Utc>) -> Result<bool, StoreError> {
        let row = invite::Model {
            practice_id: self.practice,
            id: invite.id,
            key_hash: hash(secret),
            consultant_id: invite.consultant_id,
            email: invite.email.clone(),
            name: invite.name.clone(),
            role: invite.role.id().to_owned(),
            made_by: invite.made_by,
            made_at: now,
            expires_at: invite.expires_at,
            ended_at: None,
        };
        self.insert_once(row.into_active_model()).await
    }

    /// Invitations that still hold, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn invites(&self, now: DateTime<Utc>) -> Result<Vec<Invite>, StoreError> {
        let rows = invite::Entity::find()
            .filter(invite::Column::PracticeId.eq(self.practice))
            .filter(invite::Column::EndedAt.is_null())
            .filter(invite::Column::ExpiresAt.gt(now))
            .order_by_desc(invite::Column::MadeAt)
            .all(&self.txn)
            .await?;
        let known = |r: invite::Model| {
            Ok(Invite {
                id: r.id,
                practice: (r.practice_id, String::new()),
                consultant_id: r.consultant_id,
                email: r.email,
                name: r.name,
                role: role(&r.role)?,
                made_by: r.made_by,
                expires_at: r.expires_at,
            })
        };
        rows.into_iter().map(known).collect()
    }

    /// Uses an invitation up, or takes it back; `false` when that was done before.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn end_invite(&self, id: Uuid, now: DateTime<Utc>) -> Result<bool, StoreError> {
        let ended = invite::Entity::update_many()
            .col_expr(invite::Column::EndedAt, Expr::value(now))
            .filter(invite::Column::PracticeId.eq(self.practice))
            .filter(invite::Column::Id.eq(id))
            .filter(invite::Column::EndedAt.is_null())
            .exec(&self.txn)
            .await?;
        Ok(ended.rows_affected > 0)
    }

    /// Notes that somebody came in, or failed to.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn note_sign_in(&self, id: Uuid, how: &str, came_in: bool, from: &Device) -> Result<(), StoreError> {
        let row = sign_in::Model {
            practice_id: self.practice,
            id: Uuid::now_v7(),
            consultant_id: id,
            at: Utc::now(),
            how: how.to_owned(),
            came_in,
            agent: from.agent.clone(),
            address: from.address.clone(),
        };
        self.insert_once(row.into_active_model()).await?;
        Ok(())
    }

    /// When somebody came in or failed to, latest first.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn sign_ins_of(&self, id: Uuid, most: u64) -> Result<Vec<SignIn>, StoreError> {
        let rows = sign_in::Entity::find()
            .filter(sign_in::Column::PracticeId.eq(self.practice))
            .filter(sign_in::Column::ConsultantId.eq(id))
            .order_by_desc(sign_in::Column::At)
            .limit(most)
            .all(&self.txn)
            .await?;
        let one =
            |r: sign_in::Model| SignIn { at: r.at, how: r.how, came_in: r.came_in, agent: r.agent, address: r.address };
        Ok(rows.into_iter().map(one).collect())
    }

    /// Notes what was done about people, access or data; the same id once.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn audit(&self, id: Uuid, by: Option<Uuid>, what: &str, job: Option<Uuid>) -> Result<bool, StoreError> {
        let row = audit::Model {
            practice_id: self.practice,
            id,
            at: Utc::now(),
            by_id: by,
            what: what.chars().take(400).collect(),
            job_id: job,
        };
        self.insert_once(row.into_active_model()).await
    }

    /// What was done about people, access and data, latest first, and how much there is.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn audited(&self, from: u64, most: u64) -> Result<(Vec<Audited>, u64), StoreError> {
        let all = audit::Entity::find().filter(audit::Column::PracticeId.eq(self.practice));
        let count = all.clone().count(&self.txn).await?;
        let rows = all.order_by_desc(audit::Column::At).order_by_desc(audit::Column::Id).offset(from).limit(most);
        let one = |r: audit::Model| Audited { at: r.at, by: r.by_id, what: r.what, job_id: r.job_id };
        Ok((rows.all(&self.txn).await?.into_iter().map(one).collect(), count))
    }
}

/// How long an invitation holds.
pub const INVITE_DAYS: Duration = Duration::days(7);

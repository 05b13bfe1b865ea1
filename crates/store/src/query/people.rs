//! Practices, their consultants and their sessions.

use crate::entity::{consultant, practice, session};
use crate::error::StoreError;
use crate::query::members::Device;
use crate::record::{Cell, Role};
use crate::scope::{Scope, Store, set};
use chrono::{DateTime, Duration, Utc};
use sea_orm::{
    ActiveModelTrait, ColumnTrait, ConnectionTrait, EntityTrait, IntoActiveModel, QueryFilter, QueryResult, Set,
    Statement, TransactionTrait,
};
use sha2::{Digest, Sha256};
use std::collections::{BTreeMap, HashMap};
use uuid::Uuid;

/// A consultant with what is needed to check a password.
#[derive(Debug, Clone)]
pub struct Account {
    /// Practice.
    pub practice_id: Uuid,
    /// Consultant.
    pub consultant_id: Uuid,
    /// Sign-in name.
    pub email: String,
    /// Name.
    pub name: String,
    /// PHC string.
    pub password_hash: String,
    /// Whether they may not come in any more.
    pub ended: bool,
    /// What the second factor’s secret is derived from; empty without one.
    pub second: String,
}

impl From<consultant::Model> for Account {
    fn from(r: consultant::Model) -> Self {
        Self {
            practice_id: r.practice_id,
            consultant_id: r.id,
            email: r.email,
            name: r.name,
            password_hash: r.password_hash,
            ended: r.ended_at.is_some(),
            second: r.second,
        }
    }
}

/// Who is signed in.
#[derive(Debug, Clone)]
pub struct SignedIn {
    /// Practice.
    pub practice_id: Uuid,
    /// Its name.
    pub practice_name: String,
    /// Its IANA time zone.
    pub time_zone: String,
    /// Consultant.
    pub consultant_id: Uuid,
    /// Their name.
    pub name: String,
    /// `metric` or `us`.
    pub units: String,
    /// `paper` or `headlamp`.
    pub theme: String,
    /// Language they read in, its tag.
    pub language: String,
    /// What they may do.
    pub role: Role,
    /// Whether the job asked about is a rehearsal of their own.
    pub rehearsal: bool,
    /// Their session: not its secret.
    pub session_id: Uuid,
    /// Approaches their practice works by, question and school.
    pub schools: BTreeMap<String, String>,
    /// Of the job asked about.
    pub revision: Revision,
}

/// How often a job, and what all jobs of its practice share, were changed. It means nothing but by being the same or another:
/// what is read of the job after it was asked is at least as new, and good for as long as it holds. Of a job that is not
/// there it says nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Revision {
    job: i64,
    practice: i64,
}

/// A consultant to create.
#[derive(Debug, Clone)]
pub struct Person {
    /// Identity.
    pub id: Uuid,
    /// Sign-in name, any case.
    pub email: String,
    /// Name.
    pub name: String,
    /// PHC string.
    pub password_hash: String,
}

/// A practice to create, with its first consultant.
#[derive(Debug, Clone)]
pub struct NewPractice {
    /// Identity.
    pub id: Uuid,
    /// Name.
    pub name: String,
    /// IANA time zone.
    pub time_zone: String,
    /// First consultant.
    pub person: Person,
}

/// How long a session lives without being renewed.
const SESSION_DAYS: i64 = 14;
/// A session says that it was used no more often than this.
const SEEN: Duration = Duration::minutes(10);
/// What is kept of a secret.
pub(crate) fn hash(secret: &str) -> String {
    Sha256::digest(secret).iter().map(|b| format!("{b:02x}")).collect()
}

/// Somebody as they were found by their session or a token of theirs.
pub(super) fn known(row: &QueryResult) -> Result<SignedIn, StoreError> {
    Ok(SignedIn {
        practice_id: row.try_get("", "practice_id")?,
        practice_name: row.try_get("", "practice_name")?,
        time_zone: row.try_get("", "time_zone")?,
        consultant_id: row.try_get("", "consultant_id")?,
        name: row.try_get("", "name")?,
        units: row.try_get("", "units")?,
        theme: row.try_get("", "theme")?,
        language: row.try_get("", "language")?,
        role: Cell::read(row.try_get::<String>("", "role")?)?,
        rehearsal: row.try_get("", "rehearsal")?,
        session_id: row.try_get("", "session_id")?,
        schools: serde_json::from_value(row.try_get("", "schools")?).map_err(|e| StoreError::Corrupt(e.to_string()))?,
        revision: Revision {
            job: row.try_get::<Option<i64>>("", "job_made")?.unwrap_or_default(),
            practice: row.try_get::<Option<i64>>("", "practice_made")?.unwrap_or_default(),
        },
    })
}

impl Store {
    /// Whether there is any practice yet. Asked by e-mail, since rows are invisible outside a practice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn account(&self, email: &str) -> Result<Option<Account>, StoreError> {
        let email = email.trim().to_lowercase();
        let txn = self.db.begin().await?;
        set(&txn, "app.sign_in_email", &email).await?;
        let row = consultant::Entity::find().filter(consultant::Column::Email.eq(email)).one(&txn).await?;
        txn.commit().await?;
        Ok(row.map(Account::from))
    }

    /// Creates a practice with its first consultant, in a scope of its own that is not kept yet.
    ///
    /// # Errors
    /// [`StoreError`] when the e-mail is taken or the database does not answer.
    pub async fn create_practice(&self, new: NewPractice) -> Result<Scope, StoreError> {
        let scope = self.practice(new.id).await?;
        let row = practice::Model {
            practice_id: new.id,
            name: new.name,
            time_zone: new.time_zone,
            currency: String::new(),
            log_days: None,
            address: String::new(),
            language: "en-US".into(),
            units: "metric".into(),
            removed_days: None,
            archived_days: None,
            sign_in_days: None,
        };
        row.into_active_model().reset_all().insert(&scope.txn).await?;
        scope.add_person(new.person, Role::Lead).await?;
        Ok(scope)
    }

    /// Who holds this session secret, if it is still good, and the revision of the job they ask about. The session is renewed
    /// when half its time is gone.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn signed_in(
        &self,
        secret: &str,
        now: DateTime<Utc>,
        about: Option<Uuid>,
    ) -> Result<Option<SignedIn>, StoreError> {
        let key = hash(secret);
        let asked = Statement::from_sql_and_values(
            self.db.get_database_backend(),
            "select * from signed_in($1, $2, $3)",
            [key.clone().into(), now.into(), about.into()],
        );
        let Some(row) = self.db.query_one_raw(asked).await? else { return Ok(None) };
        let who = known(&row)?;
        let expires: DateTime<Utc> = row.try_get("", "expires_at")?;
        let seen: DateTime<Utc> = row.try_get("", "seen_at")?;
        if expires - now < Duration::days(SESSION_DAYS / 2) || now - seen > SEEN {
            let scope = self.practice(who.practice_id).await?;
            // Signed out meanwhile: there is nothing left to renew.
            session::Entity::update_many()
                .col_expr(session::Column::ExpiresAt, (now + Duration::days(SESSION_DAYS)).into())
                .col_expr(session::Column::SeenAt, now.into())
                .filter(session::Column::PracticeId.eq(who.practice_id))
                .filter(session::Column::KeyHash.eq(key))
                .exec(&scope.txn)
                .await?;
            scope.commit().await?;
        }
        Ok(Some(who))
    }

    /// Ends a session.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn sign_out(&self, secret: &str) -> Result<(), StoreError> {
        let key = hash(secret);
        let txn = self.db.begin().await?;
        set(&txn, "app.session_key", &key).await?;
        session::Entity::delete_many().filter(session::Column::KeyHash.eq(&key)).exec(&txn).await?;
        Ok(txn.commit().await?)
    }
}

impl Scope {
    /// Adds somebody; `false` when somebody signs in with that e-mail already, in whichever practice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn add_person(&self, person: Person, role: Role) -> Result<bool, StoreError> {
        let Person { id, email, name, password_hash } = person;
        // What newcomers of the practice begin with.
        let own = practice::Entity::find_by_id(self.practice).one(&self.txn).await?.ok_or(StoreError::Gone)?;
        let row = consultant::Model {
            practice_id: self.practice,
            id,
            email: email.trim().to_lowercase(),
            name,
            password_hash,
            units: own.units,
            theme: "paper".into(),
            language: own.language,
            role: role.id().to_owned(),
            joined_at: Utc::now(),
            ended_at: None,
            second: String::new(),
            second_step: 0,
            recovery: String::new(),
        };
        self.insert_once(row.into_active_model()).await
    }

    /// An account of this practice.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn own_account(&self, id: Uuid) -> Result<Option<Account>, StoreError> {
        let row = consultant::Entity::find_by_id((self.practice, id)).one(&self.txn).await?;
        Ok(row.map(Account::from))
    }

    /// Names of the practice's consultants.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn consultant_names(&self) -> Result<HashMap<Uuid, String>, StoreError> {
        let rows =
            consultant::Entity::find().filter(consultant::Column::PracticeId.eq(self.practice)).all(&self.txn).await?;
        Ok(rows.into_iter().map(|r| (r.id, r.name)).collect())
    }

    /// Opens a session for a consultant of this practice and clears away expired ones.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn open_session(
        &self,
        consultant: Uuid,
        secret: &str,
        now: DateTime<Utc>,
        from: &Device,
    ) -> Result<(), StoreError> {
        session::Entity::delete_many()
            .filter(session::Column::PracticeId.eq(self.practice))
            .filter(session::Column::ExpiresAt.lt(now))
            .exec(&self.txn)
            .await?;
        let row = session::Model {
            practice_id: self.practice,
            key_hash: hash(secret),
            consultant_id: consultant,
            expires_at: now + Duration::days(SESSION_DAYS),
            id: Uuid::new_v4(),
            started_at: now,
            seen_at: now,
            agent: from.agent.clone(),
            address: from.address.clone(),
        };
        row.into_active_model().reset_all().insert(&self.txn).await?;
        Ok(())
    }

    /// Changes a consultant's units and theme.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn set_preferences(&self, id: Uuid, units: &str, theme: &str, language: &str) -> Result<(), StoreError> {
        let row = consultant::ActiveModel {
            practice_id: Set(self.practice),
            id: Set(id),
            units: Set(units.to_owned()),
            theme: Set(theme.to_owned()),
            language: Set(language.to_owned()),
            ..Default::default()
        };
        row.update(&self.txn).await?;
        Ok(())
    }
}

//! The connection, and transactions that belong to one practice.

use crate::error::StoreError;
use crate::migration::Migrator;
use sea_orm::sqlx::Connection;
use sea_orm::{
    AccessMode, ConnectOptions, ConnectionTrait, Database, DatabaseConnection, DatabaseTransaction, IsolationLevel,
    Statement, TransactionTrait,
};
use sea_orm_migration::MigratorTrait;
use std::time::Duration;
use uuid::Uuid;

/// A pool of connections.
#[derive(Clone, Debug)]
pub struct Store {
    pub(crate) db: DatabaseConnection,
}

/// A transaction in which only one practice's rows exist. Dropped without [`Scope::commit`] it changes nothing.
pub struct Scope {
    pub(crate) txn: DatabaseTransaction,
    pub(crate) practice: Uuid,
}

/// Connections of a serving process.
const MOST_CONNECTIONS: u32 = 16;

pub(crate) async fn open(url: &str, most: u32) -> Result<DatabaseConnection, StoreError> {
    let mut options = ConnectOptions::new(url);
    let patience = Duration::from_secs(4);
    // A few stand ready: a burst that had to shake hands with the database first would wait for it.
    options.max_connections(most).min_connections(most / 4).connect_timeout(patience).acquire_timeout(patience);
    options.test_before_acquire(false).sqlx_logging(false).map_sqlx_postgres_pool_opts(|pool| {
        let lent = pool.before_acquire(|connection, known| {
            // One that has just answered is there.
            let quiet = known.idle_for > Duration::from_millis(50);
            Box::pin(async move { Ok(!quiet || connection.ping().await.is_ok()) })
        });
        // A connection that carried a picture would keep room for another of its size.
        lent.after_release(|connection, _| {
            connection.shrink_buffers();
            Box::pin(std::future::ready(Ok(true)))
        })
    });
    Ok(Database::connect(options).await?)
}

impl Store {
    /// Opens a pool on `url` and refuses a role that could pull down the walls: one that row-level security does not bind,
    /// or one that owns the tables and so could switch off what keeps readings as they are.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when nobody answers, [`StoreError::TooPowerful`] for a superuser,
    /// [`StoreError::OwnsTables`] for an owner.
    pub async fn connect(url: &str) -> Result<Self, StoreError> {
        let store = Self { db: open(url, MOST_CONNECTIONS).await? };
        store.refuse_powerful_role().await?;
        Ok(store)
    }

    async fn refuse_powerful_role(&self) -> Result<(), StoreError> {
        let query = "select rolname::text, rolsuper or rolbypassrls as powerful, exists (select from pg_class \
            where relowner = r.oid and relkind = 'r' and relnamespace = 'public'::regnamespace) as owner \
            from pg_roles r where rolname = current_user";
        let Some(row) = self.db.query_one_raw(Statement::from_string(self.db.get_database_backend(), query)).await?
        else {
            return Ok(());
        };
        let role: String = row.try_get("", "rolname")?;
        if row.try_get("", "powerful")? {
            return Err(StoreError::TooPowerful(role));
        }
        if row.try_get("", "owner")? { Err(StoreError::OwnsTables(role)) } else { Ok(()) }
    }

    /// The role this pool serves as.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn role(&self) -> Result<String, StoreError> {
        let asked = Statement::from_string(self.db.get_database_backend(), "select current_user::text as role");
        let row = self.db.query_one_raw(asked).await?;
        Ok(row.map(|r| r.try_get("", "role")).transpose()?.unwrap_or_default())
    }

    /// Whether the tables are there and as this program wants them.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub async fn is_current(&self) -> Result<bool, StoreError> {
        let asked = "select case when to_regclass('seaql_migrations') is null \
            or not has_table_privilege('seaql_migrations', 'select') then 0 else 1 end as there";
        let backend = self.db.get_database_backend();
        let there = self.db.query_one_raw(Statement::from_string(backend, asked)).await?;
        if there.map(|r| r.try_get::<i32>("", "there")).transpose()? != Some(1) {
            return Ok(false);
        }
        let count = Statement::from_string(backend, "select count(*) as made from seaql_migrations");
        let made: i64 = self.db.query_one_raw(count).await?.map(|r| r.try_get("", "made")).transpose()?.unwrap_or(0);
        Ok(usize::try_from(made).unwrap_or(0) == Migrator::migrations().len())
    }

    /// Whether the database answers.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when it does not.
    pub async fn ping(&self) -> Result<(), StoreError> {
        Ok(self.db.ping().await?)
    }

    /// Begins a transaction that sees this practice's rows as they are now, whatever is changed meanwhile, and changes none.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when the database does not answer.
    pub async fn snapshot(&self, practice: Uuid) -> Result<Scope, StoreError> {
        let still = Some(IsolationLevel::RepeatableRead);
        let txn = self.db.begin_with_config(still, Some(AccessMode::ReadOnly)).await?;
        set(&txn, "app.practice_id", &practice.to_string()).await?;
        Ok(Scope { txn, practice })
    }

    /// Begins a transaction in which only this practice's rows exist.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when the database does not answer.
    pub async fn practice(&self, practice: Uuid) -> Result<Scope, StoreError> {
        let txn = self.db.begin().await?;
        set(&txn, "app.practice_id", &practice.to_string()).await?;
        Ok(Scope { txn, practice })
    }
}

impl Scope {
    /// Makes others who ask for the same wait until this scope is done: two who do the same at once do it one after the
    /// other.
    ///
    /// # Errors
    /// [`StoreError`] when the database does not answer.
    pub(crate) async fn turn(&self, what: &str) -> Result<(), StoreError> {
        let statement = Statement::from_sql_and_values(
            self.txn.get_database_backend(),
            "select pg_advisory_xact_lock(hashtextextended($1 || $2, 0))",
            [self.practice.to_string().into(), what.into()],
        );
        self.txn.execute_raw(statement).await?;
        Ok(())
    }

    /// Keeps what was done.
    ///
    /// # Errors
    /// [`StoreError`] when the database refuses.
    pub async fn commit(self) -> Result<(), StoreError> {
        Ok(self.txn.commit().await?)
    }
}

/// Sets a variable for the rest of the transaction.
pub(crate) async fn set(txn: &DatabaseTransaction, name: &str, value: &str) -> Result<(), StoreError> {
    let statement = Statement::from_sql_and_values(
        txn.get_database_backend(),
        "select set_config($1, $2, true)",
        [name.into(), value.into()],
    );
    txn.execute_raw(statement).await?;
    Ok(())
}

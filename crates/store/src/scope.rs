//! The connection, and transactions that belong to one practice.

use crate::error::StoreError;
use crate::migration::Migrator;
use sea_orm::{
    ConnectOptions, ConnectionTrait, Database, DatabaseConnection, DatabaseTransaction, Statement, TransactionTrait,
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

impl Store {
    /// Opens a pool on `url` and refuses a role that row-level security does not bind.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when nobody answers, [`StoreError::TooPowerful`] for a superuser.
    pub async fn connect(url: &str) -> Result<Self, StoreError> {
        let mut options = ConnectOptions::new(url);
        options
            .max_connections(16)
            .connect_timeout(Duration::from_secs(4))
            .acquire_timeout(Duration::from_secs(4))
            .sqlx_logging(false);
        let store = Self { db: Database::connect(options).await? };
        store.refuse_powerful_role().await?;
        Ok(store)
    }

    async fn refuse_powerful_role(&self) -> Result<(), StoreError> {
        let query = "select rolname, rolsuper or rolbypassrls as powerful from pg_roles where rolname = current_user";
        let row = self.db.query_one_raw(Statement::from_string(self.db.get_database_backend(), query)).await?;
        match row {
            Some(row) if row.try_get::<bool>("", "powerful")? => {
                Err(StoreError::TooPowerful(row.try_get("", "rolname")?))
            }
            _ => Ok(()),
        }
    }

    /// Brings the schema up to date.
    ///
    /// # Errors
    /// [`StoreError`] when a change cannot be made.
    pub async fn migrate(&self) -> Result<(), StoreError> {
        Ok(Migrator::up(&self.db, None).await?)
    }

    /// Whether the database answers.
    ///
    /// # Errors
    /// [`StoreError::Unavailable`] when it does not.
    pub async fn ping(&self) -> Result<(), StoreError> {
        Ok(self.db.ping().await?)
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

//! What can go wrong between the application and its rows.

use sea_orm::DbErr;

/// Why the store cannot answer.
#[derive(Debug, Clone, thiserror::Error)]
pub enum StoreError {
    /// The database cannot be reached or gave up; trying again may help.
    #[error("the database does not answer: {0}")]
    Unavailable(DbErr),
    /// A query that should hold failed: a defect.
    #[error("query failed: {0}")]
    Query(DbErr),
    /// A row holds something the application does not know.
    #[error("row cannot be read: {0}")]
    Corrupt(String),
    /// The role may see every tenant: row-level security would be no wall.
    #[error("the database role {0} is a superuser or bypasses row-level security; use an ordinary role")]
    TooPowerful(String),
    /// The role owns the tables: it could switch off the triggers that keep them append-only.
    #[error("the database role {0} owns the tables and could change what must stay as it is; serve as another role")]
    OwnsTables(String),
    /// The id of something new is that of something else that is there already.
    #[error("the id {0} is taken by something else")]
    IdTaken(uuid::Uuid),
    /// What was to be changed is no longer there.
    #[error("it is no longer there")]
    Gone,
    /// The database's disk or quota is full.
    #[error("the database has no room left: {0}")]
    Full(DbErr),
}

impl From<DbErr> for StoreError {
    fn from(e: DbErr) -> Self {
        let text = e.to_string();
        // A server that shuts down or starts up says so in the query's own error (SQLSTATE 57P01–57P03).
        // Two who waited for each other are parted by the database: one of them does it again (40P01).
        let going =
            ["57P01", "57P02", "57P03", "shutting down", "starting up", "terminating connection", "deadlock detected"];
        let io = ["onnection", "pool timed out", "Broken pipe", "unexpected end of file", "expected to read"];
        // Disk full, and a quota reached (SQLSTATE 53100, 53400); a log that cannot be extended says it in words.
        if ["53100", "53400", "No space left on device"].iter().any(|s| text.contains(s)) {
            return Self::Full(e);
        }
        if matches!(e, DbErr::Conn(_) | DbErr::ConnectionAcquire(_))
            || going.iter().chain(&io).any(|s| text.contains(s))
        {
            Self::Unavailable(e)
        } else {
            Self::Query(e)
        }
    }
}

impl From<sea_orm::sqlx::Error> for StoreError {
    fn from(e: sea_orm::sqlx::Error) -> Self {
        DbErr::Query(sea_orm::RuntimeErr::SqlxError(e.into())).into()
    }
}

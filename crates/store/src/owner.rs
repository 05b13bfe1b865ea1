//! Making and changing the tables, as the role that owns them; the role that serves gets just the rights it needs.

use crate::error::StoreError;
use crate::migration::Migrator;
use crate::scope::open;
use sea_orm::{ConnectionTrait, Statement, TransactionTrait};
use sea_orm_migration::MigratorTrait;

/// Tables whose rows are never changed and never deleted.
const APPEND_ONLY: &str = "reading, change, photo_file, practice_change, map_point, drying_reading, certificate, sign_in, audit, \
     report_version, report_text, report_image, signature, report_pdf, share_word, remark";
/// Whether rows of a table are never changed.
pub(crate) fn is_append_only(table: &str) -> bool {
    APPEND_ONLY.split(", ").any(|t| t == table)
}

/// Tables whose rows the application deletes.
const DELETED_FROM: &str = "material, weather, own_source, session, brake, price, practice_school, log_point, log_hour, log_day, log_file_piece, task, text_block, logo, parcel, parcel_piece, pin, answered, passkey, delivery";

/// Brings the tables up to date as their owner at `owner_url`, and lets `serving_role` read and write them. Where several
/// processes start at once, one does it and the others wait.
///
/// # Errors
/// [`StoreError`] when nobody answers, the role may not make tables, or a change cannot be made.
pub async fn migrate(owner_url: &str, serving_role: &str) -> Result<(), StoreError> {
    // One connection holds the lock while another works.
    let db = open(owner_url, 2).await?;
    let turn = db.begin().await?;
    turn.execute_unprepared("select pg_advisory_xact_lock(hashtext('gutteral schema'))").await?;
    Migrator::up(&db, None).await?;
    grant(&db, serving_role).await?;
    turn.commit().await?;
    Ok(db.close().await?)
}

async fn grant(db: &impl ConnectionTrait, role: &str) -> Result<(), StoreError> {
    let quoted =
        Statement::from_sql_and_values(db.get_database_backend(), "select quote_ident($1) as role", [role.into()]);
    let row = db.query_one_raw(quoted).await?;
    let role: String = row.map(|r| r.try_get("", "role")).transpose()?.unwrap_or_default();
    let grants = format!(
        "revoke all on all tables in schema public from {role};
         grant select, insert, update on all tables in schema public to {role};
         revoke update on {APPEND_ONLY} from {role};
         grant delete on {DELETED_FROM} to {role};
         revoke insert, update on seaql_migrations from {role};"
    );
    db.execute_unprepared(&grants).await?;
    Ok(())
}

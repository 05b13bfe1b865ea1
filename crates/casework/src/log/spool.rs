//! A file kept in pieces in the database, laid out on the disk of whoever reads it.

use super::WorkError;
use std::io::Write;
use store::{Part, Scope};
use tempfile::NamedTempFile;
use uuid::Uuid;

/// Lays a file out; it goes when it is dropped.
pub async fn spooled(scope: &Scope, file: Uuid) -> Result<NamedTempFile, WorkError> {
    let mut out = NamedTempFile::with_prefix("gutteral-log-")?;
    let mut position = 0;
    while let Some(piece) = scope.piece(file, Part::File, position).await? {
        out.write_all(&piece)?;
        position += 1;
    }
    out.flush()?;
    Ok(out)
}

//! Files that leave and come in: a job, or all of them, packed and unpacked off the request path.

mod pack;
mod schema;
mod table;
mod unpack;

pub use pack::{job_as_json, pack};
pub use schema::schema;
pub use unpack::{arrived, bring_in, readable, says, unpack};

use crate::log::WorkError;
use std::io::{Read, Seek, SeekFrom, Write};
use store::{Scope, Store};
use tempfile::NamedTempFile;
use uuid::Uuid;

/// Bytes of a piece.
const PIECE: usize = 1 << 20;

/// A file to write a parcel into; it goes when it is dropped.
fn blank() -> Result<NamedTempFile, WorkError> {
    Ok(NamedTempFile::with_prefix("gutteral-parcel-")?)
}

/// Keeps a file in pieces, and says how long it is.
async fn keep(store: &Store, practice: Uuid, parcel: Uuid, mut file: NamedTempFile) -> Result<i64, WorkError> {
    file.flush()?;
    file.seek(SeekFrom::Start(0))?;
    let scope = store.practice(practice).await?;
    scope.forget_parcel(parcel).await?;
    let mut bytes = 0;
    for position in 0.. {
        let mut piece = Vec::with_capacity(PIECE);
        Read::by_ref(&mut file).take(PIECE as u64).read_to_end(&mut piece)?;
        if piece.is_empty() {
            break;
        }
        bytes += i64::try_from(piece.len()).unwrap_or(0);
        scope.add_parcel_piece(parcel, position, piece).await?;
    }
    scope.commit().await?;
    Ok(bytes)
}

/// Lays a parcel out on the disk.
async fn laid_out(scope: &Scope, parcel: Uuid) -> Result<NamedTempFile, WorkError> {
    let mut out = blank()?;
    let mut position = 0;
    while let Some(piece) = scope.parcel_piece(parcel, position).await? {
        out.write_all(&piece)?;
        position += 1;
    }
    out.flush()?;
    out.seek(SeekFrom::Start(0))?;
    Ok(out)
}

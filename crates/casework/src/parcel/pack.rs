//! Packing.

use super::table::{csv_bundle, workbook};
use super::{blank, keep};
use crate::log::{Telling, WorkError};
use chrono::{SecondsFormat, Utc};
use report::job::{END, FORMAT, Head, part};
use std::io::{Seek, Write};
use store::{Departing, FORMAT_VERSION, ParcelKind, Scope, Store, Table};
use uuid::Uuid;
use zip::ZipWriter;
use zip::write::SimpleFileOptions;

/// Packs what a parcel asks for. Nothing where nobody asks any more.
///
/// # Errors
/// [`WorkError`] when the database or the disk does not play along.
pub async fn pack(store: &Store, practice: Uuid, parcel: Uuid, telling: &Telling<'_>) -> Result<(), WorkError> {
    let scope = store.snapshot(practice).await?;
    let Some(row) = scope.parcel(parcel).await? else { return Ok(()) };
    let mut file = blank()?;
    match (row.kind, row.job_id) {
        (ParcelKind::Json, Some(job)) => job_as_json(&scope, job, &mut file, Some(telling)).await?,
        (ParcelKind::Csv, Some(job)) => csv_bundle(&scope, job, &mut file, telling).await?,
        (ParcelKind::Xlsx, Some(job)) => workbook(&scope, job, &mut file, telling).await?,
        (ParcelKind::Practice, _) => whole_practice(&scope, &mut file, telling).await?,
        _ => return Ok(()),
    }
    drop(scope);
    let bytes = keep(store, practice, parcel, file).await?;
    let scope = store.practice(practice).await?;
    scope.know_parcel(parcel, bytes, row.job_id).await?;
    Ok(scope.commit().await?)
}

/// Writes a job as one JSON document.
///
/// # Errors
/// [`WorkError`] when the database or the disk does not play along.
pub async fn job_as_json(
    scope: &Scope,
    job: Uuid,
    out: &mut impl Write,
    telling: Option<&Telling<'_>>,
) -> Result<(), WorkError> {
    let Some(of) = scope.job(job).await? else { return Err(WorkError::Unreadable("there is no such job".into())) };
    let at = Utc::now().to_rfc3339_opts(SecondsFormat::Secs, true);
    let id = job.to_string();
    let head = Head { format: FORMAT, version: FORMAT_VERSION, exported_at: &at, job: &id, name: &of.name };
    out.write_all(head.written().as_bytes())?;
    let departing = Departing::of(scope, job).await?;
    let all = Table::all().count() as u64;
    let mut first = true;
    for (n, table) in Table::all().enumerate() {
        departing.open(table).await?;
        loop {
            let rows = departing.next(table).await?;
            if rows.is_empty() {
                break;
            }
            out.write_all(part(first, table.name, &rows).as_bytes())?;
            first = false;
            if let Some(telling) = telling {
                telling.tell(n as u64, all).await?;
            }
        }
    }
    out.write_all(END.as_bytes())?;
    Ok(())
}

/// Letters and figures of a name, for a file.
fn in_file_name(name: &str) -> String {
    let plain = |c: char| if c.is_alphanumeric() { c } else { '-' };
    let name: String = name.chars().take(60).map(plain).collect();
    name.trim_matches('-').to_owned()
}

async fn whole_practice(scope: &Scope, file: &mut (impl Write + Seek), telling: &Telling<'_>) -> Result<(), WorkError> {
    let mut zip = ZipWriter::new(file);
    let jobs = scope.job_names().await?;
    for (n, (job, name)) in (0..).zip(&jobs) {
        telling.tell(n, jobs.len() as u64).await?;
        zip.start_file(format!("{:04}-{}.json", n + 1, in_file_name(name)), options())?;
        job_as_json(scope, *job, &mut zip, None).await?;
    }
    zip.start_file("practice.json", options())?;
    let book = scope.price_book().await?;
    let (name, time_zone) = scope.practice_named().await?;
    let practice = serde_json::json!({
        "format": "gutteral practice", "version": FORMAT_VERSION, "name": name, "time_zone": time_zone,
        "address": scope.practice_address().await?, "currency": book.currency, "prices_in_hundredths": book.cents,
        "approaches": scope.practice_schools().await?, "text_blocks": scope.text_blocks().await?,
        "materials": scope.materials().await?, "jobs": jobs.len(),
    });
    zip.write_all(serde_json::to_string_pretty(&practice).unwrap_or_default().as_bytes())?;
    zip.finish()?;
    Ok(())
}

/// How files are packed in a bundle.
pub(super) fn options() -> SimpleFileOptions {
    SimpleFileOptions::default().compression_method(zip::CompressionMethod::Deflated).large_file(true)
}

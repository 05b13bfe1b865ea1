//! Jobs out of a database and into one, from the command line.

use anyhow::{Context, Result, bail};
use casework::parcel::{arrived, bring_in, job_as_json, readable};
use std::fs::File;
use std::io::{BufWriter, Write};
use store::{Account, Arriving, Came, Store};
use uuid::Uuid;

async fn account(store: &Store, email: &str) -> Result<Account> {
    let account = store.account(email).await?.with_context(|| format!("nobody signs in as {email}"))?;
    if account.ended {
        bail!("{email} may not come in any more");
    }
    Ok(account)
}

/// Writes a job of somebody’s practice, named by its id or its name.
///
/// # Errors
/// Where there is no such person or job, or more than one job of that name.
pub async fn export(store: &Store, email: &str, job: &str, out: impl Write) -> Result<()> {
    let account = account(store, email).await?;
    let scope = store.snapshot(account.practice_id).await?;
    let named: Vec<Uuid> = scope
        .job_names()
        .await?
        .into_iter()
        .filter(|(id, name)| name == job || id.to_string() == job)
        .map(|(id, _)| id)
        .collect();
    let id = match named.as_slice() {
        [id] => *id,
        [] => bail!("there is no job “{job}” in the practice of {email}"),
        several => bail!("{} jobs are called “{job}”: name one by its id", several.len()),
    };
    let mut out = BufWriter::new(out);
    job_as_json(&scope, id, &mut out, None).await?;
    Ok(out.flush()?)
}

/// Brings a job into somebody’s practice, or up to date what is there of it.
///
/// # Errors
/// Where there is no such person, or the file is no job that can come in.
pub async fn import(store: &Store, email: &str, file: &str, copy: bool) -> Result<Came> {
    let account = account(store, email).await?;
    let from = File::open(file).with_context(|| format!("opening {file}"))?;
    let scope = store.practice(account.practice_id).await?;
    let arriving = Arriving::to(store, &scope, (Uuid::now_v7(), account.consultant_id), copy).await?;
    let came = bring_in(arriving, from, None).await.with_context(|| file.to_owned())?;
    readable(&scope, came.job).await.with_context(|| file.to_owned())?;
    arrived(&scope, came, account.consultant_id, "the command line").await?;
    scope.commit().await?;
    Ok(came)
}

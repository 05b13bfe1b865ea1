//! Files that leave: as a list, and as they are fetched.

use crate::auth::Who;
use crate::error::Failure;
use crate::state::App;
use axum::body::{Body, Bytes};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use chrono::Utc;
use futures_util::stream;
use language::{known, say};
use notation::Show;
use store::{PARCEL_DAYS, Parcel, ParcelKind, Scope, Task, TaskKind, TaskState};
use uuid::Uuid;

/// A file in the list.
pub struct ParcelRow {
    pub name: String,
    pub kind: &'static str,
    pub when: String,
    /// Where it is fetched, or what came in; nothing while it is made, or gone.
    pub href: Option<String>,
    /// How far it is, or what became of it.
    pub says: String,
    pub busy: bool,
    pub failed: bool,
}

/// Files with how far each is.
pub fn rows(show: &Show, parcels: &[Parcel], tasks: &[Task], base: &str) -> Vec<ParcelRow> {
    let row = |p: &Parcel| {
        let task = tasks.iter().find(|t| t.subject_id == p.id);
        let failed = task.filter(|t| t.state == TaskState::Failed);
        let old = p.made_at + PARCEL_DAYS < Utc::now();
        let done = if p.kind == ParcelKind::In { p.job_id.is_some() } else { p.bytes > 0 };
        let (href, says) = match (p.kind, done, failed) {
            (ParcelKind::In, true, _) => {
                let says = task.map(|t| t.said.clone()).filter(|s| !s.is_empty());
                (p.job_id.map(|job| format!("/jobs/{job}")), says.unwrap_or_else(|| say!("brought in").to_owned()))
            }
            (_, true, _) if old => (None, say!("no longer kept").to_owned()),
            (_, true, _) => (Some(format!("{base}/{}", p.id)), size(p.bytes)),
            (_, false, Some(task)) => (None, task.said.clone()),
            (_, false, None) => (None, task.map_or_else(String::new, under_way)),
        };
        let busy = !done && failed.is_none();
        let failed = failed.is_some();
        let (name, kind) = (p.name.clone(), known(p.kind.words()));
        ParcelRow { name, kind, when: show.moment(p.made_at), href, says, busy, failed }
    };
    parcels.iter().map(row).collect()
}

fn under_way(task: &Task) -> String {
    match task.done.checked_mul(100).and_then(|x| x.checked_div(task.total)) {
        Some(share) => say!("{share} % done", share),
        None if task.done > 0 => say!("{task} parts done", task = task.done),
        None => "waiting".to_owned(),
    }
}

fn size(bytes: i64) -> String {
    match bytes {
        0..1024 => say!("{bytes} bytes", bytes),
        1024..1_048_576 => say!("{bytes} kB", bytes = bytes / 1024),
        _ => format!("{} MB", bytes / 1_048_576),
    }
}

/// Asks for a file to be made.
pub async fn ask(
    who: &Who,
    scope: &Scope,
    id: Uuid,
    kind: ParcelKind,
    job: Option<(Uuid, &str)>,
) -> Result<bool, Failure> {
    let name = job.map_or_else(|| who.person.practice_name.clone(), |(_, name)| name.to_owned());
    let parcel = Parcel {
        id,
        job_id: job.map(|(id, _)| id),
        kind,
        name: name.chars().take(200).collect(),
        copy: false,
        consultant_id: who.person.consultant_id,
        made_at: Utc::now(),
        bytes: 0,
    };
    let added = scope.add_parcel(parcel).await?;
    if added {
        scope.ask(TaskKind::Pack, id, job.map(|(id, _)| id)).await?;
        let what = say!("Asked for the data as {kind}", kind = known(kind.words()));
        scope.audit(Uuid::now_v7(), Some(who.person.consultant_id), &what, job.map(|(id, _)| id)).await?;
    }
    // Sent twice it is made once.
    Ok(added || scope.parcel(id).await?.is_some())
}

/// Gives a file out, a piece at a time: no more of it is held, and nothing of the database between two pieces.
pub fn give(app: App, who: &Who, parcel: Parcel) -> Result<Response, Failure> {
    if parcel.bytes == 0 || parcel.kind == ParcelKind::In || parcel.made_at + PARCEL_DAYS < Utc::now() {
        return Err(Failure::NotFound);
    }
    let (ending, kind) = match parcel.kind {
        ParcelKind::Json | ParcelKind::In => ("json", "application/json"),
        ParcelKind::Csv | ParcelKind::Practice => ("zip", "application/zip"),
        ParcelKind::Xlsx => ("xlsx", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
    };
    let name: String = parcel.name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    let head = [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_LENGTH, parcel.bytes.to_string()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{}.{ending}\"", name.trim_matches('-'))),
    ];
    let (practice, id) = (who.person.practice_id, parcel.id);
    let pieces = stream::try_unfold((app, 0), move |(app, position)| async move {
        let scope = app.store.practice(practice).await?;
        let piece = scope.parcel_piece(id, position).await?;
        Ok::<_, store::StoreError>(piece.map(|bytes| (Bytes::from(bytes), (app.clone(), position + 1))))
    });
    Ok((head, Body::from_stream(pieces)).into_response())
}

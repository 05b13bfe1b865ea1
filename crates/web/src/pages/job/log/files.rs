//! Files of loggers: sent, and what became of those sent before.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::places::LOG;
use crate::upload::{LARGEST_LOG, Spooled, Upload};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::InstrumentKind;
use casework::log::{Became, Found, Wished};
use casework::{CaseFile, InView};
use chrono::Utc;
use language::say;
use logger::recognize;
use std::collections::HashMap;
use store::{BringIn, Depth, FileKnown, Instrument, LogFile, Part, TaskKind};
use tokio::io::AsyncReadExt;
use uuid::Uuid;

/// Bytes of a piece of a file.
const PIECE: usize = 1 << 20;
/// Files shown.
const SHOWN: u64 = 100;
/// Bytes looked at to say what a file cannot be.
const LOOKED_AT: usize = 64 << 10;

#[derive(Template, WebTemplate)]
#[template(path = "log/files.html")]
struct FilesPage {
    frame: Frame,
    job: JobFrame,
    new: NewFile,
    loggers: Vec<(String, String)>,
    rows: Vec<Row>,
    most_mb: usize,
}

/// The form of a file to be sent.
struct NewFile {
    id: Uuid,
    logger: String,
    /// What is wrong with the one sent.
    error: Option<String>,
    /// Whether it may be let through: it belongs to another job as well.
    anyway: bool,
}

/// A file sent before.
struct Row {
    id: Uuid,
    name: String,
    sent: String,
    by: String,
    became: String,
}

/// The practice's loggers, for a choice.
pub fn loggers(instruments: &[Instrument]) -> Vec<(String, String)> {
    let own = instruments.iter().filter(|i| i.kind == InstrumentKind::Logger);
    let named = |i: &Instrument| {
        if i.serial.is_empty() { i.name.clone() } else { format!("{}, {}", i.name, i.serial) }
    };
    own.map(|i| (i.id.to_string(), named(i))).collect()
}

/// What became of a file, in a few words.
pub fn became(who: &Who, file: &LogFile, decided: Option<&BringIn>) -> String {
    let found: Option<Found> = file.found.clone().and_then(|v| serde_json::from_value(v).ok());
    let came: Option<Became> = file.became.clone().and_then(|v| serde_json::from_value(v).ok());
    match (found, decided, came) {
        (None, ..) => say!("being read").into(),
        (Some(Found { unreadable: Some(why), .. }), ..) => say!("not taken: {why}", why),
        (_, None, _) => say!("waits for you to say where it belongs").into(),
        (_, Some(d), _) if d.removed => "undone".into(),
        (_, _, None) => say!("being brought in").into(),
        (_, _, Some(came)) => wording::sensor::became(&who.show(), &came),
    }
}

async fn view(who: &Who, loaded: &CaseFile, new: NewFile) -> Result<FilesPage, Failure> {
    let scope = who.scope().await?;
    let sent = scope.log_files(loaded.job.id, SHOWN).await?;
    let decided: HashMap<Uuid, BringIn> =
        scope.brought_in(loaded.job.id).await?.into_iter().map(|b| (b.id, b)).collect();
    let show = who.show();
    let row = |f: &LogFile| Row {
        id: f.id,
        name: f.name.clone(),
        sent: show.moment(f.sent_at),
        by: loaded.people.get(&f.consultant_id).cloned().unwrap_or_default(),
        became: became(who, f, decided.get(&f.id)),
    };
    Ok(FilesPage {
        frame: Frame::of(who, loaded),
        job: JobFrame::new(loaded, LOG),
        new,
        loggers: loggers(&loaded.instruments),
        rows: sent.iter().map(row).collect(),
        most_mb: LARGEST_LOG >> 20,
    })
}

/// The form, and the files sent before.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<impl IntoResponse, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Argument).await?;
    view(&who, &loaded, NewFile { id: Uuid::now_v7(), logger: String::new(), error: None, anyway: false }).await
}

/// Takes a file in, to be looked at.
pub async fn send(who: Who, Path(job): Path<Uuid>, sent: Option<Extension<Upload>>) -> Result<Response, Failure> {
    let Extension(sent) = sent.ok_or_else(|| Failure::BadForm("no file".into()))?;
    let id: Uuid = sent.text("id").parse().map_err(|_| Failure::BadForm("id of a file".into()))?;
    let loaded = who.file(job, InView::Latest, Depth::Argument).await?;
    let there = format!("/jobs/{job}/log/files/{id}");
    let scope = who.scope().await?;
    // Sent again because the answer never arrived.
    if scope.log_file(job, id).await?.is_some() {
        return Ok(Redirect::to(&there).into_response());
    }
    drop(scope);
    let logger = loaded.instruments.iter().find(|i| i.id.to_string() == sent.text("logger"));
    let again = async |why: String, anyway: bool| -> Result<Response, Failure> {
        let logger = sent.text("logger").to_owned();
        let page = view(&who, &loaded, NewFile { id: Uuid::now_v7(), logger, error: Some(why), anyway }).await?;
        Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response())
    };
    let Some(file) = &sent.spooled else { return again(say!("Choose a file.").into(), false).await };
    if let Some(why) = refused(&sent.name, file).await? {
        return again(why, false).await;
    }
    let scope = who.scope().await?;
    // Of one that could not be read nothing was kept: sent again it is looked at again.
    let unreadable = |f: &LogFile| f.found.as_ref().is_some_and(|found| !found["unreadable"].is_null());
    let same: Vec<LogFile> = scope.same_files(&file.sha256).await?.into_iter().filter(|f| !unreadable(f)).collect();
    if let Some(same) = same.iter().find(|f| f.job_id == job) {
        return Ok(Redirect::to(&format!("/jobs/{job}/log/files/{}?again=yes", same.id)).into_response());
    }
    if let Some(other) = same.first().filter(|_| sent.text("anyway").is_empty()) {
        let name =
            scope.job(other.job_id).await?.map_or_else(|| say!("another job").into(), |j| format!("“{}”", j.name));
        let when = who.show().moment(other.sent_at);
        let why = say!("{sent} was sent to {name} on {when}. Nothing was stored here.", sent = sent.name, name, when);
        return again(why, true).await;
    }
    let remembered = match logger {
        Some(logger) => scope.read_as(logger.id).await?,
        None => None,
    };
    let wished: Wished = remembered.and_then(|v| serde_json::from_value(v["wished"].clone()).ok()).unwrap_or_default();
    let wished = Wished { logger: logger.map(|l| l.id), ..wished };
    let row = LogFile {
        id,
        job_id: job,
        consultant_id: who.person.consultant_id,
        name: if sent.name.is_empty() { "file".into() } else { sent.name.clone() },
        bytes: i64::try_from(file.bytes).unwrap_or(i64::MAX),
        sha256: file.sha256.clone(),
        wishes: serde_json::to_value(&wished).map_err(|e| Failure::Defect(e.to_string()))?,
        found: None,
        became: None,
        sent_at: Utc::now(),
    };
    if scope.add_log_file(row).await? {
        let mut from = file.open().await?;
        for position in 0.. {
            let mut piece = Vec::with_capacity(PIECE);
            (&mut from).take(PIECE as u64).read_to_end(&mut piece).await.map_err(|e| Failure::Defect(e.to_string()))?;
            if piece.is_empty() {
                break;
            }
            scope.add_piece(id, Part::File, position, piece).await?;
        }
        scope.ask(TaskKind::LookAtFile, id, job).await?;
    } else if scope.log_file(job, id).await?.is_none() {
        return Err(Failure::IdTaken);
    }
    scope.commit().await?;
    Ok(Redirect::to(&there).into_response())
}

/// Why a file is not taken, by its length and its beginning.
async fn refused(name: &str, file: &Spooled) -> Result<Option<String>, Failure> {
    if file.bytes > LARGEST_LOG {
        let (mb, most) = (file.bytes >> 20, LARGEST_LOG >> 20);
        return Ok(Some(say!("{name} has {mb} MB; {most} MB at most. Nothing was stored.", name, mb, most)));
    }
    let mut head = Vec::with_capacity(LOOKED_AT);
    let mut from = file.open().await?.take(LOOKED_AT as u64);
    from.read_to_end(&mut head).await.map_err(|e| Failure::Defect(e.to_string()))?;
    Ok(recognize(&head).err().map(|why| say!("{name}: {why}. Nothing was stored.", name, why)))
}

/// Says how a file is to be looked at again.
pub async fn look_again(who: &Who, job: Uuid, file: Uuid, wished: &Wished) -> Result<(), Failure> {
    let scope = who.scope().await?;
    let wishes = serde_json::to_value(wished).map_err(|e| Failure::Defect(e.to_string()))?;
    scope.know_file(file, FileKnown::Wishes, &wishes).await?;
    scope.ask(TaskKind::LookAtFile, file, job).await?;
    Ok(scope.commit().await?)
}

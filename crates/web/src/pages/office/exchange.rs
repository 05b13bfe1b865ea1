//! Jobs that come in, and the whole practice as it leaves.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::fields::Typed;
use crate::pages::parcels::{self, ParcelRow, rows};
use crate::state::App;
use crate::upload::{LARGEST_JOB, Upload};
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use language::say;
use store::{Parcel, ParcelKind, Scope, TaskKind};
use tokio::io::AsyncReadExt;
use uuid::Uuid;

/// Bytes of a piece of a file.
const PIECE: u64 = 1 << 20;

#[derive(Template, WebTemplate)]
#[template(path = "data/practice.html")]
struct ExchangePage {
    frame: Frame,
    parcels: Vec<ParcelRow>,
    wrong: Option<String>,
    most_mb: usize,
    act_id: Uuid,
}

impl ExchangePage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    fn busy(&self) -> bool {
        self.parcels.iter().any(|p| p.busy)
    }
}

async fn view(who: &Who, scope: &Scope, wrong: Option<String>) -> Result<ExchangePage, Failure> {
    let (all, tasks) = (scope.parcels(None).await?, scope.tasks_of_practice().await?);
    Ok(ExchangePage {
        parcels: rows(&who.show(), &all, &tasks, "/data"),
        wrong,
        most_mb: LARGEST_JOB >> 20,
        act_id: Uuid::now_v7(),
        frame: Frame::new(who),
    })
}

/// Files of the practice.
pub async fn page(who: Who) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    Ok(view(&who, &scope, None).await?.into_response())
}

/// Asks for the whole practice.
pub async fn ask(who: Who, Form(typed): Form<Typed>) -> Result<Response, Failure> {
    let id: Uuid = typed.get("id").and_then(|t| t.parse().ok()).ok_or_else(|| Failure::BadForm("id".into()))?;
    let scope = who.scope().await?;
    if !parcels::ask(&who, &scope, id, ParcelKind::Practice, None).await? {
        return Err(Failure::Busy);
    }
    scope.commit().await?;
    Ok(Redirect::to("/data").into_response())
}

/// Takes in a file with a job.
pub async fn take(who: Who, sent: Option<Extension<Upload>>) -> Result<Response, Failure> {
    let Extension(sent) = sent.ok_or_else(|| Failure::BadForm("no file".into()))?;
    let id: Uuid = sent.text("id").parse().map_err(|_| Failure::BadForm("id of a file".into()))?;
    let scope = who.scope().await?;
    let why = match &sent.spooled {
        None => Some(say!("Choose a file.").to_owned()),
        Some(file) if file.bytes == 0 => Some(say!("The file is empty. Nothing was stored.").to_owned()),
        Some(file) if file.bytes > LARGEST_JOB => Some(say!(
            "{sent} has {file} MB; {a} MB at most. Nothing was stored.",
            sent = sent.name,
            file = file.bytes >> 20,
            a = LARGEST_JOB >> 20
        )),
        Some(_) => None,
    };
    if let Some(why) = why {
        let page = view(&who, &scope, Some(why)).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    let Some(file) = &sent.spooled else { return Err(Failure::BadForm("no file".into())) };
    let parcel = Parcel {
        id,
        job_id: None,
        kind: ParcelKind::In,
        name: if sent.name.is_empty() { "file".into() } else { sent.name.clone() },
        copy: !sent.text("copy").is_empty(),
        consultant_id: who.person.consultant_id,
        made_at: Utc::now(),
        bytes: i64::try_from(file.bytes).unwrap_or(i64::MAX),
    };
    if !scope.add_parcel(parcel).await? {
        // Sent twice it comes in once.
        let known = scope.parcel(id).await?.is_some();
        return if known { Ok(Redirect::to("/data").into_response()) } else { Err(Failure::Busy) };
    }
    let mut from = file.open().await?;
    for position in 0.. {
        let mut piece = Vec::new();
        (&mut from).take(PIECE).read_to_end(&mut piece).await.map_err(|e| Failure::Defect(e.to_string()))?;
        if piece.is_empty() {
            break;
        }
        scope.add_parcel_piece(id, position, piece).await?;
    }
    scope.ask(TaskKind::Unpack, id, None).await?;
    scope.commit().await?;
    Ok(Redirect::to("/data").into_response())
}

/// A file of the practice.
pub async fn give(State(app): State<App>, who: Who, Path(parcel): Path<Uuid>) -> Result<Response, Failure> {
    let row = who.scope().await?.parcel(parcel).await?.filter(|p| p.kind == ParcelKind::Practice);
    parcels::give(app, &who, row.ok_or(Failure::NotFound)?)
}

/// The format of a job, described.
pub async fn schema() -> Response {
    let schema = include_str!("../../../../../docs/job.schema.json");
    ([(header::CONTENT_TYPE, "application/schema+json")], schema).into_response()
}

//! A form with a file, read once as it arrives: a picture into memory, a logger's file onto the disk.

use crate::body::Patience;
use crate::error::Failure;
use crate::state::App;
use crate::turns::Turn;
use axum::body::{Body, Bytes};
use axum::extract::multipart::Field;
use axum::extract::{DefaultBodyLimit, FromRequest, Multipart, Request};
use axum::http::header;
use axum::http::request::Parts;
use sha2::{Digest, Sha256};
use std::sync::Arc;
use tempfile::NamedTempFile;
use tokio::io::AsyncWriteExt;

/// Largest form with a picture, bytes.
const LIMIT: usize = photograph::MOST_BYTES + 1024 * 1024;
/// Most fields of such a form.
const MOST_FIELDS: usize = 40;
/// Longest of its words, bytes.
const LONGEST_FIELD: usize = 64 * 1024;
/// Longest file name kept, characters.
const LONGEST_NAME: usize = 200;

/// Where files are sent to that are laid on the disk, and the largest of each: logger's files behind a job's address, and jobs.
const SPOOLED: [(&str, usize); 2] = [("/log/files", LARGEST_LOG), ("/data/in", LARGEST_JOB)];
/// Largest logger's file, bytes: some three million rows.
pub const LARGEST_LOG: usize = 128 * 1024 * 1024;
/// Largest job that comes in, bytes: a million readings and some hundred photos.
pub const LARGEST_JOB: usize = 512 * 1024 * 1024;

/// The words of a form and its file.
#[derive(Clone, Default)]
pub struct Upload {
    pub fields: Vec<(String, String)>,
    /// Name of the file.
    pub name: String,
    /// A picture's bytes.
    pub file: Bytes,
    /// A logger's file.
    pub spooled: Option<Arc<Spooled>>,
}

/// A file laid on the disk; it goes when it is dropped.
pub struct Spooled {
    file: NamedTempFile,
    /// Its length, also where it was too long to be kept.
    pub bytes: usize,
    /// Its hash.
    pub sha256: String,
}

impl Spooled {
    /// Reads it from its beginning.
    pub async fn open(&self) -> Result<tokio::fs::File, Failure> {
        tokio::fs::File::open(self.file.path()).await.map_err(disk)
    }
}

fn disk(e: std::io::Error) -> Failure {
    if e.kind() == std::io::ErrorKind::StorageFull {
        Failure::Full(e.to_string())
    } else {
        Failure::Defect(e.to_string())
    }
}

impl Upload {
    /// Receives a form. Its picture is kept only for somebody signed in, and once there is room for it; `room` is what it
    /// takes, to be held as long as the picture is.
    pub async fn receive(app: &App, parts: &Parts, body: Body, room: &mut Option<Turn>) -> Result<Self, Failure> {
        let known = match super::auth::who::session_secret(&parts.headers) {
            Some(secret) => app.store.signed_in(&secret, chrono::Utc::now(), None).await?.is_some(),
            None => false,
        };
        let spooled = SPOOLED.iter().find(|(path, _)| parts.uri.path().ends_with(path)).map(|(_, most)| *most);
        if known && spooled.is_some() {
            *room = Some(app.files.one().await?);
        } else if known {
            let said = parts.headers.get(header::CONTENT_LENGTH).and_then(|v| v.to_str().ok()?.parse().ok());
            *room = Some(app.pictures.room(said.unwrap_or(LIMIT).min(LIMIT)).await?);
        }
        Self::read(Request::from_parts(parts.clone(), body), known, spooled).await
    }

    async fn read(mut request: Request, keeps: bool, spooled: Option<usize>) -> Result<Self, Failure> {
        let limit = spooled.unwrap_or(LIMIT);
        // What is too large is read to its end and forgotten, so that a browser that is still sending hears why.
        DefaultBodyLimit::max(4 * limit).apply(&mut request);
        let bad = |e: axum::extract::multipart::MultipartError| match e.status().as_u16() {
            413 => Failure::TooLarge,
            _ => Failure::BadForm(e.body_text()),
        };
        let patience = Patience::for_bytes(limit);
        let mut form = Multipart::from_request(request, &()).await.map_err(|e| Failure::BadForm(e.body_text()))?;
        let mut upload = Self::default();
        let mut total = 0;
        while let Some(mut field) = patience.wait(form.next_field()).await?.map_err(bad)? {
            let of_file =
                field.file_name().map(|name| name.chars().filter(|c| !c.is_control()).take(LONGEST_NAME).collect());
            if let (true, Some(most), Some(name)) = (keeps, spooled, &of_file) {
                let file = spool(&mut field, &patience, most).await?;
                (upload.name, upload.spooled) = (String::clone(name), Some(file.into()));
                continue;
            }
            let most = if of_file.is_none() {
                LONGEST_FIELD
            } else if keeps {
                LIMIT
            } else {
                0
            };
            let name = field.name().unwrap_or_default().to_owned();
            let (bytes, length) = content(&mut field, most, &patience).await?;
            total += length;
            match of_file {
                Some(file) => {
                    (upload.name, upload.file) = (file, bytes.into());
                }
                None if length > LONGEST_FIELD || upload.fields.len() >= MOST_FIELDS => return Err(Failure::TooLarge),
                None => upload.fields.push((name, String::from_utf8_lossy(&bytes).into_owned())),
            }
        }
        if total > limit { Err(Failure::TooLarge) } else { Ok(upload) }
    }

    /// What a field holds; empty where there is none.
    pub fn text(&self, name: &str) -> &str {
        self.fields.iter().find(|(k, _)| k == name).map_or("", |(_, v)| v)
    }
}

/// Lays a file on the disk, as much of it as may be kept.
async fn spool(field: &mut Field<'_>, patience: &Patience, most: usize) -> Result<Spooled, Failure> {
    let file = NamedTempFile::with_prefix("gutteral-sent-").map_err(disk)?;
    let mut out = tokio::fs::File::from_std(file.reopen().map_err(disk)?);
    let (mut bytes, mut hash) = (0, Sha256::new());
    while let Some(piece) = patience.wait(field.chunk()).await?.map_err(|e| Failure::BadForm(e.body_text()))? {
        bytes += piece.len();
        if bytes <= most {
            hash.update(&piece);
            out.write_all(&piece).await.map_err(disk)?;
        } else {
            out.set_len(0).await.map_err(disk)?;
        }
    }
    out.flush().await.map_err(disk)?;
    let sha256 = hash.finalize().iter().map(|b| format!("{b:02x}")).collect();
    Ok(Spooled { file, bytes, sha256 })
}

/// What a field holds, up to `most` bytes, and how many it has.
async fn content(field: &mut Field<'_>, most: usize, patience: &Patience) -> Result<(Vec<u8>, usize), Failure> {
    let (mut kept, mut length) = (Vec::new(), 0);
    while let Some(piece) = patience.wait(field.chunk()).await?.map_err(|e| Failure::BadForm(e.body_text()))? {
        length += piece.len();
        if length <= most {
            kept.extend_from_slice(&piece);
        } else {
            kept = Vec::new();
        }
    }
    Ok((kept, length))
}

//! The files of pictures: taken in, and given out again.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::pages::photos::{LONGEST_NOTE, Upload, gallery, load};
use crate::state::App;
use crate::token::Token;
use crate::view::photo::Subject;
use crate::view::show::Show;
use axum::Extension;
use axum::body::Bytes;
use axum::extract::{FromRequest, Multipart, Request, State};
use axum::http::{HeaderMap, HeaderValue, StatusCode, Uri, header};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::{DateTime, Datelike, TimeDelta, Utc};
use photograph::{Format, Photograph, Taken};
use store::{Act, Photo, PhotoSize, Visit};
use uuid::Uuid;

/// Most pictures of a job.
const MOST_PHOTOS: usize = 1000;
/// Longest file name kept, characters.
const LONGEST_NAME: usize = 200;

/// A form with a picture.
#[derive(Default)]
pub struct Sent {
    id: String,
    place: String,
    note: String,
    at: String,
    next: String,
    name: String,
    file: Bytes,
}

impl<S: Send + Sync> FromRequest<S> for Sent {
    type Rejection = Failure;

    async fn from_request(request: Request, state: &S) -> Result<Self, Failure> {
        let bad = |e: &dyn std::fmt::Display| Failure::BadForm(e.to_string());
        let mut form = Multipart::from_request(request, state).await.map_err(|e| bad(&e))?;
        let mut sent = Self::default();
        while let Some(field) = form.next_field().await.map_err(|e| bad(&e))? {
            let name = field.name().unwrap_or_default().to_owned();
            if name == "photo" {
                sent.name = field.file_name().unwrap_or_default().chars().take(LONGEST_NAME).collect();
                sent.file = field.bytes().await.map_err(|e| bad(&e))?;
                continue;
            }
            let text = field.text().await.map_err(|e| bad(&e))?;
            match name.as_str() {
                "id" => sent.id = text,
                "place" => sent.place = text,
                "note" => sent.note = text,
                "at" => sent.at = text,
                "next" => sent.next = text,
                _ => {}
            }
        }
        Ok(sent)
    }
}

/// Takes a picture in.
pub async fn take(
    State(app): State<App>,
    who: Who,
    Extension(token): Extension<Token>,
    uri: Uri,
    Path(job): Path<Uuid>,
    sent: Sent,
) -> Result<Response, Failure> {
    let id: Uuid = sent.id.parse().map_err(|_| Failure::BadForm("id of a picture".into()))?;
    let scope = who.scope().await?;
    let loaded = load(&scope, job).await?;
    let own = format!("/jobs/{job}/");
    let next = if sent.next.starts_with(&own) { sent.next.clone() } else { format!("{own}photos") };
    // Sent again because the answer never arrived: it is there, whatever happened since.
    if scope.acted(id).await? {
        return Ok(Redirect::to(&next).into_response());
    }
    let subject = Subject::parse(&loaded.building, &loaded.findings, &sent.place);
    let length = sent.note.chars().count();
    let refused = if loaded.photos.len() >= MOST_PHOTOS {
        Some(format!("This job has {MOST_PHOTOS} pictures, the most there can be: remove some first."))
    } else if length > LONGEST_NOTE {
        Some(format!("The note is {length} characters long; {LONGEST_NOTE} at most."))
    } else {
        None
    };
    let read = match refused {
        Some(why) => Err(why),
        None => app.pictures.read(sent.file.clone()).await?.map_err(|e| e.to_string()),
    };
    let picture = match read {
        Ok(picture) => picture,
        Err(why) => {
            let error = Some(if sent.name.is_empty() { why } else { format!("{}: {why}", sent.name) });
            let upload = Upload { id: Uuid::now_v7(), place: sent.place, note: sent.note, error };
            let again = gallery(&who, &token, &uri, &scope, job, loaded, upload).await?;
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
        }
    };
    let now = crate::taking::moment(&sent.at, Utc::now());
    let taken_at = taken(&who.show(), picture.taken, now);
    // A place removed while the picture waited on its device: it is kept, of the whole building.
    let subject = subject.unwrap_or_default();
    let row = Photo {
        practice_id: who.person.practice_id,
        id,
        job_id: job,
        visit_id: visit(&loaded.visits, taken_at),
        consultant_id: who.person.consultant_id,
        finding_id: subject.finding,
        space_id: subject.spot.space,
        boundary_id: subject.spot.boundary,
        surface_id: subject.spot.surface,
        name: sent.name,
        note: sent.note.trim().to_owned(),
        marks: serde_json::json!([]),
        media_type: picture.format.media_type().to_owned(),
        width: i32::try_from(picture.width).unwrap_or(i32::MAX),
        height: i32::try_from(picture.height).unwrap_or(i32::MAX),
        bytes: i32::try_from(picture.original.len()).unwrap_or(i32::MAX),
        taken_at,
        removed_at: None,
    };
    let what = format!("Photo of {}", subject.name(&loaded.building, &loaded.findings));
    let act = Act::new(id, job, who.person.consultant_id, now, what);
    let Photograph { original, view, thumb, .. } = picture;
    let files = [(PhotoSize::Original, original), (PhotoSize::View, view), (PhotoSize::Thumb, thumb)];
    scope.add_photo(&act, row, files).await?;
    scope.commit().await?;
    Ok(Redirect::to(&next).into_response())
}

/// The camera's moment where it makes sense, else when it was sent.
fn taken(show: &Show, said: Option<Taken>, now: DateTime<Utc>) -> DateTime<Utc> {
    let said = said.and_then(|t| match t {
        Taken::At(at) => Some(at),
        Taken::Clock(clock) => show.instant(clock),
    });
    said.filter(|at| at.year() >= 1990 && *at <= now + TimeDelta::hours(1)).unwrap_or(now)
}

/// The visit a picture was taken on: the one under way then, else the open one, else the last before it.
fn visit(visits: &[Visit], at: DateTime<Utc>) -> Option<Uuid> {
    let during = |v: &&Visit| v.started_at <= at && v.ended_at.is_none_or(|end| at <= end);
    let open = |v: &&Visit| v.ended_at.is_none();
    let before = |v: &&Visit| v.started_at <= at;
    let found = visits.iter().find(during).or_else(|| visits.iter().find(open));
    found.or_else(|| visits.iter().find(before)).map(|v| v.id)
}

/// A picture's file.
pub async fn give(
    who: Who,
    Path((job, id, size)): Path<(Uuid, Uuid, String)>,
    headers: HeaderMap,
) -> Result<Response, Failure> {
    let size = match size.as_str() {
        "thumb" => PhotoSize::Thumb,
        "view" => PhotoSize::View,
        "original" => PhotoSize::Original,
        _ => return Err(Failure::NotFound),
    };
    let scope = who.scope().await?;
    let (row, bytes) = scope.photo_file(job, id, size).await?.ok_or(Failure::NotFound)?;
    // A file never changes, but whoever signed out must not see it: kept, and asked about each time.
    let tag = format!("\"{id}\"");
    let held = headers.get(header::IF_NONE_MATCH).is_some_and(|t| t.as_bytes() == tag.as_bytes());
    let fixed = [(header::ETAG, tag), (header::CACHE_CONTROL, "private, no-cache".to_owned())];
    if held {
        return Ok((StatusCode::NOT_MODIFIED, fixed).into_response());
    }
    let format = Format::of(&row.media_type).filter(|_| size == PhotoSize::Original);
    let kind = HeaderValue::from_static(format.unwrap_or(Format::Jpeg).media_type());
    let mut response = (fixed, [(header::CONTENT_TYPE, kind)], bytes).into_response();
    if let Some(format) = format {
        let name = format!("attachment; filename=\"{id}.{}\"", format.ending());
        response.headers_mut().extend(HeaderValue::from_str(&name).ok().map(|v| (header::CONTENT_DISPOSITION, v)));
    }
    Ok(response)
}

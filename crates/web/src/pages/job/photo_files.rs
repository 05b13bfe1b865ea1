//! The files of pictures: taken in, and given out again.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::pages::job::photos::{LONGEST_NOTE, NewPhoto, PhotosPage, gallery};
use crate::pages::office::preferences::local;
use crate::state::App;
use crate::upload::Upload;
use axum::Extension;
use axum::extract::State;
use axum::http::{HeaderMap, HeaderValue, StatusCode, header};
use axum::response::{IntoResponse, Redirect, Response};
use casework::{CaseFile, InView};
use chrono::{DateTime, Datelike, TimeDelta, Utc};
use language::say;
use notation::Show;
use photograph::{Format, Photograph, Taken};
use store::Depth;
use store::{Act, Photo, PhotoSize, Visit};
use uuid::Uuid;
use wording::picture::Subject;

/// Most pictures of a job.
const MOST_PHOTOS: usize = 1000;
/// Takes a picture in.
pub async fn take(
    State(app): State<App>,
    who: Who,
    Path(job): Path<Uuid>,
    sent: Option<Extension<Upload>>,
) -> Result<Response, Failure> {
    let Extension(sent) = sent.ok_or_else(|| Failure::BadForm("no picture".into()))?;
    let id: Uuid = sent.text("id").parse().map_err(|_| Failure::BadForm("id of a picture".into()))?;
    let scope = who.scope().await?;
    let loaded = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    let own = format!("/jobs/{job}/");
    let next = Some(local(sent.text("next"))).filter(|next| next.starts_with(&own));
    let next = next.map_or_else(|| say!("{own}photos", own), str::to_owned);
    // Sent again because the answer never arrived: it is there, whatever happened since.
    if scope.acted(job, id).await? {
        return Ok(Redirect::to(&next).into_response());
    }
    // Reading the picture takes its time: nothing of the database is held meanwhile.
    drop(scope);
    let refused = refused(&loaded, &sent);
    let read = match refused {
        Some(why) => Err(why),
        None => app.pictures.read(sent.file.clone()).await?.map_err(|e| e.to_string()),
    };
    let picture = match read {
        Ok(picture) => picture,
        Err(why) => {
            let again = again(&who, job, &sent, why).await?;
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
        }
    };
    let now = casework::entry::moment(sent.text("at"), Utc::now());
    let scope = who.scope().await?;
    let loaded = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    if scope.acted(job, id).await? {
        return Ok(Redirect::to(&next).into_response());
    }
    let subject = Subject::parse(&loaded.building, &loaded.findings, sent.text("place"));
    let taken_at = taken(&who.show(), picture.taken, now);
    // A place removed while the picture waited on its device: it is kept, of the whole building.
    let subject = subject.unwrap_or_default();
    let row = Photo {
        id,
        job_id: job,
        visit_id: visit(&loaded.visits, taken_at),
        consultant_id: who.person.consultant_id,
        finding_id: subject.finding,
        spot: subject.spot,
        name: sent.name.clone(),
        note: sent.text("note").trim().to_owned(),
        marks: serde_json::json!([]),
        media_type: picture.format.media_type().to_owned(),
        width: i32::try_from(picture.width).unwrap_or(i32::MAX),
        height: i32::try_from(picture.height).unwrap_or(i32::MAX),
        bytes: i32::try_from(picture.original.len()).unwrap_or(i32::MAX),
        taken_at,
        removed: false,
    };
    let what = say!("Photo of {subject}", subject = subject.name(&loaded.building, &loaded.findings));
    let act = Act::new(id, job, who.person.consultant_id, now, what);
    let Photograph { original, view, thumb, .. } = picture;
    let files = [(PhotoSize::Original, original), (PhotoSize::View, view), (PhotoSize::Thumb, thumb)];
    scope.add_photo(&act, row, files).await?;
    scope.commit().await?;
    Ok(Redirect::to(&next).into_response())
}

/// Why a picture is not taken, before it is looked at.
fn refused(loaded: &CaseFile, sent: &Upload) -> Option<String> {
    let length = sent.text("note").chars().count();
    if loaded.photos.len() >= MOST_PHOTOS {
        Some(say!(
            "This job has {most_photos} pictures, the most there can be: remove some first.",
            most_photos = MOST_PHOTOS
        ))
    } else if length > LONGEST_NOTE {
        Some(say!("The note is {length} characters long; {longest_note} at most.", length, longest_note = LONGEST_NOTE))
    } else {
        None
    }
}

/// The pictures with the form as it was sent, and what is wrong with it.
async fn again(who: &Who, job: Uuid, sent: &Upload, why: String) -> Result<PhotosPage, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let error = Some(if sent.name.is_empty() { why } else { format!("{}: {why}", sent.name) });
    let (place, note) = (sent.text("place").to_owned(), sent.text("note").to_owned());
    Ok(gallery(who, &loaded, NewPhoto { id: Uuid::now_v7(), place, note, error }))
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

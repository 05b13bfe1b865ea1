//! Pictures: all of a job's, sorted by dragging, and each with its words and marks.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::PHOTOS;
use crate::view::conflict::{Conflict, between};
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Building;
use casework::conflict::{Seen, Shared, seen};
use casework::{CaseFile, InView};
use chrono::Utc;
use judgment::finding::finding;
use language::say;
use notation::Show;
use photograph::{LONGEST_WORDS, MOST_BYTES, Mark};
use serde::Deserialize;
use std::collections::HashMap;
use store::{Act, Depth, FindingRecord, Photo, Visit};
use uuid::Uuid;
use wording::picture::{Shown, Subject, shown};
use wording::places as spot;

/// Longest note, characters.
pub const LONGEST_NOTE: usize = 500;

/// Places and findings to choose from, in groups: ids and words.
type Choices = Vec<(String, Vec<(String, String)>)>;

#[derive(Template, WebTemplate)]
#[template(path = "photos.html")]
pub struct PhotosPage {
    frame: Frame,
    job: JobFrame,
    /// Pictures by their visit, the latest first.
    groups: Vec<(String, Vec<Shown>)>,
    /// What a picture can be dropped on: id, name and how many it has.
    targets: Vec<(&'static str, Vec<Target>)>,
    choices: Choices,
    upload: NewPhoto,
    last: Option<LastChange>,
    undo_id: Uuid,
    most_mb: usize,
}

/// Something a picture can be dropped on.
struct Target {
    id: String,
    name: String,
    count: usize,
}

/// The form that sends a picture.
#[derive(Default)]
pub struct NewPhoto {
    pub id: Uuid,
    pub place: String,
    pub note: String,
    pub error: Option<String>,
}

#[derive(Template, WebTemplate)]
#[template(path = "photo.html")]
struct PhotoPage {
    frame: Frame,
    job: JobFrame,
    photo: Shown,
    facts: Vec<(&'static str, String)>,
    form: PhotoForm,
    errors: Vec<(&'static str, String)>,
    conflict: Option<Conflict>,
    choices: Choices,
    visits: Vec<(String, String)>,
    act_id: Uuid,
    previous: Option<String>,
    next: Option<String>,
    longest_words: usize,
}

impl PhotoPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.errors.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }
}

/// What is done to a picture.
#[derive(Clone, Copy, Default, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
enum PhotoAct {
    /// What stands in the form holds.
    #[default]
    Keep,
    /// Only its place changes.
    Move,
    /// It is taken away.
    Remove,
}

#[derive(Deserialize, Clone, Default)]
pub struct PhotoForm {
    #[serde(default)]
    id: String,
    #[serde(default)]
    place: String,
    #[serde(default)]
    visit: String,
    #[serde(default)]
    note: String,
    #[serde(default)]
    marks: String,
    /// `keep`, `move` or `remove`.
    #[serde(default)]
    act: PhotoAct,
    #[serde(default)]
    seen: String,
    #[serde(default)]
    keep_anyway: String,
    #[serde(default)]
    at: String,
}

#[derive(Deserialize)]
pub struct View {
    /// What a picture sent next shows.
    #[serde(default)]
    place: String,
}

/// All pictures of a job.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<PhotosPage, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let upload = NewPhoto { id: Uuid::now_v7(), place: view.place, ..NewPhoto::default() };
    Ok(gallery(&who, &loaded, upload))
}

pub fn gallery(who: &Who, loaded: &CaseFile, upload: NewPhoto) -> PhotosPage {
    let show = who.show();
    let CaseFile { building, findings, photos, .. } = loaded;
    let mut count: HashMap<Option<Uuid>, usize> = HashMap::new();
    photos.iter().for_each(|p| *count.entry(Subject::of(p).id()).or_default() += 1);
    let target = |id: Option<Uuid>, name: String| Target {
        id: id.map(|id| id.to_string()).unwrap_or_default(),
        name,
        count: count.get(&id).copied().unwrap_or(0),
    };
    let stations = building.stations.iter().filter_map(|s| match s.place {
        building::Place::Outdoors => None,
        building::Place::Space(id) | building::Place::Surface(id) => {
            Some(target(Some(id), building.place_name(s.place).to_owned()))
        }
    });
    let found = findings.iter().map(|f| {
        let subject = Subject { finding: Some(f.id), ..Subject::default() };
        target(Some(f.id), subject.name(building, findings))
    });
    let mut groups: Vec<(String, Vec<Shown>)> = Vec::new();
    for photo in photos {
        let visit = loaded.visits.iter().position(|v| Some(v.id) == photo.visit_id);
        let name = visit.map_or_else(|| say!("No visit").to_owned(), |i| visit_name(&show, &loaded.visits, i));
        let one = shown(&show, building, findings, photo);
        match groups.iter_mut().find(|(group, _)| *group == name) {
            Some((_, list)) => list.push(one),
            None => groups.push((name, vec![one])),
        }
    }
    groups.reverse();
    let targets = vec![
        (say!("Stations"), stations.collect::<Vec<_>>()),
        (say!("Findings"), found.collect()),
        (say!("Neither"), vec![target(None, say!("The whole building").into())]),
    ];
    PhotosPage {
        frame: Frame::of(who, loaded),
        job: JobFrame::new(loaded, PHOTOS),
        groups,
        targets: targets.into_iter().filter(|(_, list)| !list.is_empty()).collect(),
        choices: choices(&loaded.building, &loaded.findings),
        upload,
        last: last_change(who, loaded, &["photo"]),
        undo_id: Uuid::now_v7(),
        most_mb: MOST_BYTES / 1024 / 1024,
    }
}

fn choices(building: &Building, findings: &[FindingRecord]) -> Choices {
    let found = findings.iter().map(|f| {
        let name = finding(&f.what).map_or(f.what.as_str(), |known| known.name.as_str());
        (f.id.to_string(), format!("{name}, {}", f.spot.name(building)))
    });
    let found: Vec<_> = found.collect();
    let of_findings = (!found.is_empty()).then(|| (say!("Findings").to_owned(), found));
    of_findings.into_iter().chain(spot::choices(building)).collect()
}

/// One picture, to look at, to describe and to mark.
pub async fn one(who: Who, Path((job, id)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let row = loaded.photos.iter().find(|p| p.id == id).cloned().ok_or(Failure::NotFound)?;
    let form = PhotoForm {
        place: Subject::of(&row).id().map(|id| id.to_string()).unwrap_or_default(),
        visit: row.visit_id.map(|id| id.to_string()).unwrap_or_default(),
        note: row.note.clone(),
        marks: row.marks.to_string(),
        seen: seen(&who.scope().await?, job, Shared::Photo, id).await?,
        ..PhotoForm::default()
    };
    Ok(view_of(&who, &loaded, &row, form, Vec::new()).into_response())
}

fn view_of(
    who: &Who,
    loaded: &CaseFile,
    row: &Photo,
    form: PhotoForm,
    errors: Vec<(&'static str, String)>,
) -> PhotoPage {
    let show = who.show();
    let at = loaded.photos.iter().position(|p| p.id == row.id).unwrap_or(0);
    let href =
        |i: Option<usize>| i.and_then(|i| loaded.photos.get(i)).map(|p| format!("/jobs/{}/photos/{}", p.job_id, p.id));
    let named = |(i, v): (usize, &Visit)| (v.id.to_string(), visit_name(&show, &loaded.visits, i));
    let visits = loaded.visits.iter().enumerate().map(named);
    PhotoPage {
        frame: Frame::of(who, loaded),
        photo: shown(&show, &loaded.building, &loaded.findings, row),
        facts: facts(&show, row),
        form,
        errors,
        conflict: None,
        choices: choices(&loaded.building, &loaded.findings),
        visits: visits.collect(),
        act_id: Uuid::now_v7(),
        previous: href(at.checked_sub(1)),
        next: href(Some(at + 1)),
        longest_words: LONGEST_WORDS,
        job: JobFrame::new(loaded, PHOTOS),
    }
}

/// A visit by its number and day; visits stand the latest first.
fn visit_name(show: &Show, visits: &[Visit], i: usize) -> String {
    let day = visits.get(i).map(|v| show.day(v.started_at)).unwrap_or_default();
    say!("Visit {visits}, {day}", visits = visits.len() - i, day)
}

fn facts(show: &Show, row: &Photo) -> Vec<(&'static str, String)> {
    let size = f64::from(row.bytes) / 1024.0;
    let size = if size < 1000.0 {
        say!("{size} kB", size = format_args!("{:.0}", size))
    } else {
        format!("{:.1} MB", size / 1024.0)
    };
    vec![
        (say!("Taken"), show.moment(row.taken_at)),
        (say!("File"), row.name.clone()),
        (say!("Size"), format!("{} × {}, {size}", row.width, row.height)),
    ]
}

/// Describes, places, marks or takes away a picture.
pub async fn keep(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<PhotoForm>,
) -> Result<Response, Failure> {
    let act_id: Uuid = form.id.parse().map_err(|_| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    let loaded = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    let all = Redirect::to(&format!("/jobs/{job}/photos"));
    // Sent again because the answer never arrived: it is done, whatever happened since.
    if scope.acted(job, act_id).await? {
        return Ok(all.into_response());
    }
    let row = loaded.photos.iter().find(|p| p.id == id).cloned().ok_or(Failure::NotFound)?;
    let removed = form.act == PhotoAct::Remove;
    let (changed, what) = match parse(&form, &loaded, &row) {
        Ok(changed) => changed,
        Err(errors) => {
            let again = view_of(&who, &loaded, &row, form, errors);
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
        }
    };
    let asked = Seen { change: &form.seen, overwrite: &form.keep_anyway };
    if let Some(conflict) = between(&who, &scope, job, (Shared::Photo, id), asked).await? {
        let mut again = view_of(&who, &loaded, &row, form, Vec::new());
        again.conflict = Some(conflict);
        return Ok((StatusCode::CONFLICT, again).into_response());
    }
    let now = casework::entry::moment(&form.at, Utc::now());
    let act = Act::new(act_id, job, who.person.consultant_id, now, what);
    scope.keep_photo(&act, Photo { removed, ..changed }).await?;
    scope.commit().await?;
    Ok(all.into_response())
}

/// The row as the form wants it, and that in words.
fn parse(
    form: &PhotoForm,
    loaded: &CaseFile,
    row: &Photo,
) -> Result<(Photo, &'static str), Vec<(&'static str, String)>> {
    let mut errors = Vec::new();
    let subject = Subject::parse(&loaded.building, &loaded.findings, &form.place);
    if subject.is_none() {
        errors.push(("place", say!("That is no longer there: choose another.").to_owned()));
    }
    let subject = subject.unwrap_or_default();
    let placed = Photo { finding_id: subject.finding, spot: subject.spot, ..row.clone() };
    match form.act {
        // Taken away whatever else is wrong with it.
        PhotoAct::Remove => return Ok((row.clone(), say!("Removed a photo"))),
        PhotoAct::Move => return if errors.is_empty() { Ok((placed, say!("Moved a photo"))) } else { Err(errors) },
        PhotoAct::Keep => {}
    }
    let length = form.note.chars().count();
    if length > LONGEST_NOTE {
        errors.push((
            "note",
            say!("The note is {length} characters long; {longest_note} at most.", length, longest_note = LONGEST_NOTE),
        ));
    }
    let size = (row.width.unsigned_abs(), row.height.unsigned_abs());
    let marks = Mark::parse(&form.marks, size).map_err(|e| errors.push(("marks", e))).unwrap_or_default();
    let visit: Option<Uuid> = form.visit.parse().ok();
    let visit_id = visit.filter(|id| loaded.visits.iter().any(|v| v.id == *id));
    if !errors.is_empty() {
        return Err(errors);
    }
    let marks = serde_json::to_value(&marks).unwrap_or_default();
    Ok((Photo { note: form.note.trim().to_owned(), marks, visit_id, ..placed }, say!("Changed a photo")))
}

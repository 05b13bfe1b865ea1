//! Findings: ticked from a list, then placed, weighed and noted.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::FINDINGS;
use crate::view::conflict::{Conflict, between};
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Building;
use building::Spot;
use casework::conflict::{Seen, Shared, seen};
use casework::entry::moment;
use casework::{CaseFile, InView};
use chrono::Utc;
use judgment::cautions::LOCAL_CODE;
use judgment::finding::{Finding, Whereabouts, finding, findings};
use language::{known, say};
use notation::Show;
use notation::Units;
use notation::unit;
use serde::Deserialize;
use store::{Act, Depth, FindingRecord, Photo};
use uuid::Uuid;
use wording::picture::{Shown, shown};
use wording::places as spot;

/// Longest note, characters.
pub const LONGEST_NOTE: usize = 2000;
/// How bad: stored figure and word.
pub const SEVERITIES: [(i32, &str); 3] = [(1, "slight"), (2, "clear"), (3, "severe")];

#[derive(Template, WebTemplate)]
#[template(path = "findings.html")]
struct FindingsPage {
    frame: Frame,
    job: JobFrame,
    groups: Vec<(&'static str, Vec<Tick>)>,
    found: Vec<Found>,
    gone: Vec<Found>,
    editing: Option<Editing>,
    places: Vec<(String, Vec<(String, String)>)>,
    severities: [(i32, &'static str); 3],
    last: Option<LastChange>,
    undo_id: Uuid,
    search: String,
    /// Id and name of the place what is ticked next belongs to.
    place: Option<(String, String)>,
    local_code: &'static str,
}

/// Something that can be ticked.
struct Tick {
    id: &'static str,
    name: &'static str,
    look: &'static str,
    red: bool,
    /// How often it was found here and is not gone.
    times: usize,
    new_id: Uuid,
    /// Whether it was looked for and is not there, and the id saying so, or no longer so, will have.
    absent: bool,
    absent_id: Uuid,
}

/// Something found.
pub struct Found {
    pub id: Uuid,
    pub name: String,
    pub place: String,
    pub severity: &'static str,
    pub value: String,
    pub note: String,
    pub when: String,
    pub red: bool,
    /// How many pictures show it.
    pub photos: usize,
}

/// The finding being placed.
struct Editing {
    id: Uuid,
    act_id: Uuid,
    name: &'static str,
    look: &'static str,
    unit: Option<String>,
    form: EditForm,
    errors: Errors,
    gone: bool,
    /// The latest change this form has seen.
    seen: String,
    conflict: Option<Conflict>,
    photos: Vec<Shown>,
    photo_id: Uuid,
}

#[derive(Default)]
struct Errors {
    place: Option<String>,
    value: Option<String>,
    note: Option<String>,
}

impl FindingsPage {
    /// Address of the page with a finding's form.
    fn at(&self, editing: &Editing) -> String {
        format!("/jobs/{}/findings?at={}", self.job.id, editing.id)
    }
}

impl Errors {
    fn any(&self) -> bool {
        self.place.is_some() || self.value.is_some() || self.note.is_some()
    }
}

#[derive(Deserialize)]
pub struct View {
    at: Option<Uuid>,
    #[serde(default)]
    search: String,
    /// Where what is ticked next is found.
    #[serde(default)]
    place: String,
}

#[derive(Deserialize)]
pub struct TickForm {
    id: Uuid,
    what: String,
    #[serde(default)]
    place: String,
    #[serde(default)]
    at: String,
    /// `yes`: looked for, and not there; `no`: no longer so.
    #[serde(default)]
    absent: String,
    /// The page of this job that asked, to go back to.
    #[serde(default)]
    next: String,
}

/// Longest address gone back to, bytes.
const LONGEST_BACK: usize = 120;

#[derive(Deserialize, Clone, Default)]
pub struct EditForm {
    #[serde(default)]
    id: String,
    #[serde(default)]
    place: String,
    #[serde(default)]
    severity: String,
    #[serde(default)]
    value: String,
    #[serde(default)]
    note: String,
    /// `keep`, `gone`, `there` or `remove`.
    #[serde(default)]
    act: FindingAct,
    #[serde(default)]
    seen: String,
    #[serde(default)]
    keep_anyway: String,
    #[serde(default)]
    at: String,
}

/// How many words of a row are shown of what was found.
pub fn found(show: &Show, building: &Building, row: &FindingRecord, photos: &[Photo]) -> Found {
    let known = finding(&row.what);
    let spot = row.spot;
    Found {
        id: row.id,
        name: known.map_or_else(|| row.what.clone(), |f| language::known(&f.name).to_owned()),
        place: spot.name(building).to_owned(),
        severity: SEVERITIES.iter().find(|s| s.0 == row.severity).map_or("", |s| language::known(s.1)),
        value: row.value.map(|v| value_text(show, known, v)).unwrap_or_default(),
        note: row.note.clone(),
        when: show.day(row.found_at),
        red: known.is_some_and(|f| f.red),
        photos: photos.iter().filter(|p| p.finding_id == Some(row.id)).count(),
    }
}

/// The unit a finding's figure has, where it differs between the systems.
fn kind_of(known: Option<&Finding>) -> Option<&'static unit::Kind> {
    match known?.unit.as_deref()? {
        "m²" => Some(&unit::AREA),
        "L/day" => Some(&unit::DAILY),
        _ => None,
    }
}

fn value_text(show: &Show, known: Option<&Finding>, value: f64) -> String {
    match kind_of(known) {
        Some(kind) => kind.text(value, show.units),
        None => format!("{value} {}", known.and_then(|f| f.unit.as_deref()).unwrap_or_default()),
    }
}

/// Red flags first, then the most severe, then the latest.
pub fn weighed<'a>(all: impl Iterator<Item = &'a FindingRecord>) -> Vec<&'a FindingRecord> {
    let mut all: Vec<&FindingRecord> = all.collect();
    let red = |r: &FindingRecord| finding(&r.what).is_some_and(|f| f.red);
    all.sort_by_key(|r| (!red(r), -r.severity, std::cmp::Reverse(r.found_at)));
    all
}

/// The list, what was found, and the finding being placed.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let loaded = who.file(job, InView::Latest, Depth::Visit).await?;
    let show = who.show();
    let seen = match view.at {
        Some(id) => seen(&who.scope().await?, job, Shared::Finding, id).await?,
        None => String::new(),
    };
    let editing = loaded.findings.iter().find(|r| view.at == Some(r.id)).and_then(|row| {
        let known = finding(&row.what)?;
        let value = row.value.map(|v| kind_of(Some(known)).map_or_else(|| v.to_string(), |k| k.typed(v, show.units)));
        let form = EditForm {
            place: row.spot.id().map(|id| id.to_string()).unwrap_or_default(),
            severity: row.severity.to_string(),
            value: value.unwrap_or_default(),
            note: row.note.clone(),
            seen,
            ..EditForm::default()
        };
        Some(editing(&show, row, known, form, Errors::default()))
    });
    let spot = Spot::parse(&loaded.building, &view.place).unwrap_or_default();
    let place = spot.id().map(|id| (id.to_string(), spot.name(&loaded.building).to_owned()));
    let mut page = view_of(&who, &loaded, editing, view.search);
    page.place = place;
    Ok(page.into_response())
}

fn editing(show: &Show, row: &FindingRecord, known: &'static Finding, form: EditForm, errors: Errors) -> Editing {
    let unit = kind_of(Some(known)).map(|k| k.unit(show.units).name()).or(known.unit.as_deref()).map(str::to_owned);
    Editing {
        id: row.id,
        act_id: Uuid::now_v7(),
        seen: form.seen.clone(),
        conflict: None,
        photos: Vec::new(),
        photo_id: Uuid::now_v7(),
        name: language::known(&known.name),
        look: &known.look,
        unit,
        form,
        errors,
        gone: row.gone_at.is_some(),
    }
}

fn view_of(who: &Who, loaded: &CaseFile, mut editing: Option<Editing>, search: String) -> FindingsPage {
    let show = who.show();
    let CaseFile { job, building, absent, photos, .. } = loaded;
    let rows = weighed(loaded.findings.iter());
    if let Some(e) = &mut editing {
        let own = photos.iter().filter(|p| p.finding_id == Some(e.id));
        e.photos = own.map(|p| shown(&show, building, &loaded.findings, p)).collect();
    }
    let words: Vec<String> = search.to_lowercase().split_whitespace().map(str::to_owned).collect();
    let wanted = |f: &&Finding| {
        let text = format!("{} {} {}", f.id, language::known_of(&f.name), f.look).to_lowercase();
        f.fits(job.structure, building) && words.iter().all(|w| text.contains(w.as_str()))
    };
    let tick = |f: &'static Finding| Tick {
        id: &f.id,
        name: language::known(&f.name),
        look: &f.look,
        red: f.red,
        times: rows.iter().filter(|r| r.what == f.id && r.gone_at.is_none()).count(),
        new_id: Uuid::now_v7(),
        absent: absent.iter().any(|r| r.what == f.id),
        absent_id: Uuid::now_v7(),
    };
    // Each stands once, where it is looked for first; a place the building lacks has no group.
    let groups = Whereabouts::ALL.map(|w| {
        let first = |f: &&Finding| f.at.iter().find(|at| at.of(building)) == Some(&w);
        (known(w.words()), findings().iter().filter(wanted).filter(first).map(tick).collect::<Vec<_>>())
    });
    let (gone, there): (Vec<&FindingRecord>, Vec<&FindingRecord>) = rows.iter().partition(|r| r.gone_at.is_some());
    FindingsPage {
        frame: Frame::of(who, loaded),
        groups: groups.into_iter().filter(|(_, list)| !list.is_empty()).collect(),
        found: there.into_iter().map(|r| found(&show, building, r, photos)).collect(),
        gone: gone.into_iter().map(|r| found(&show, building, r, photos)).collect(),
        editing,
        places: spot::choices(building),
        severities: SEVERITIES.map(|(n, word)| (n, known(word))),
        last: last_change(who, loaded, &["finding"]),
        undo_id: Uuid::now_v7(),
        search,
        place: None,
        job: JobFrame::new(loaded, FINDINGS),
        local_code: LOCAL_CODE,
    }
}

/// Ticks a finding: clear, of the whole building until it is placed.
pub async fn tick(who: Who, Path(job): Path<Uuid>, Form(form): Form<TickForm>) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    let loaded = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    let known = finding(&form.what).ok_or_else(|| Failure::BadForm("what was found".into()))?;
    let spot = Spot::parse(&loaded.building, &form.place).unwrap_or_default();
    let at = moment(&form.at, Utc::now());
    if form.absent == "no" {
        let act =
            Act::new(form.id, job, who.person.consultant_id, at, say!("Not looked for: {name}", name = known.name));
        let there = loaded.absent.iter().filter(|r| r.what == known.id);
        let gone = there.map(|row| FindingRecord { removed: true, ..row.clone() }).collect();
        scope.keep_findings(&act, gone).await?;
        scope.commit().await?;
        return Ok(Redirect::to(&format!("/jobs/{job}/findings")));
    }
    let absent = form.absent == "yes";
    let row = FindingRecord {
        id: form.id,
        job_id: job,
        visit_id: loaded.open_visit().map(|v| v.id),
        consultant_id: who.person.consultant_id,
        what: known.id.clone(),
        spot,
        severity: 2,
        value: None,
        note: String::new(),
        absent,
        found_at: at,
        gone_at: None,
        removed: false,
    };
    let said = if absent { say!("Looked for, not there") } else { say!("Found") };
    let act = Act::new(form.id, job, who.person.consultant_id, at, format!("{said}: {}", known.name));
    scope.keep_finding(&act, row).await?;
    scope.commit().await?;
    let back = form.next.starts_with(&format!("/jobs/{job}/")) && form.next.len() <= LONGEST_BACK;
    if back && form.next.chars().all(|c| c.is_ascii_graphic()) {
        return Ok(Redirect::to(&form.next));
    }
    // What is not there has no place and no weight.
    let next = if absent { format!("/jobs/{job}/findings") } else { format!("/jobs/{job}/findings?at={}", form.id) };
    Ok(Redirect::to(&next))
}

/// What is done to a finding.
#[derive(Clone, Copy, Default, Deserialize)]
#[serde(rename_all = "snake_case")]
enum FindingAct {
    /// What stands in the form holds.
    #[default]
    Keep,
    /// It was mended.
    Gone,
    /// It is back.
    There,
    /// It was a mistake.
    Remove,
}

impl EditForm {
    fn parse(&self, building: &Building, known: &Finding, units: Units) -> Result<(Spot, i32, Option<f64>), Errors> {
        let mut errors = Errors::default();
        let spot = Spot::parse(building, &self.place);
        if spot.is_none() {
            errors.place = Some(say!("That place is no longer in the building: choose another.").into());
        }
        let length = self.note.chars().count();
        if length > LONGEST_NOTE {
            errors.note = Some(say!(
                "The note is {length} characters long; {longest_note} at most.",
                length,
                longest_note = LONGEST_NOTE
            ));
        }
        let typed = self.value.trim();
        let kind = kind_of(Some(known)).unwrap_or(&unit::NUMBER);
        let figure = if typed.is_empty() { Ok(None) } else { kind.parse(typed, units).map(Some) };
        let value = match figure {
            Ok(Some(x)) if !(0.0..=10_000.0).contains(&x) => {
                errors.value = Some(say!("It must be 0 to 10000.").into());
                None
            }
            Ok(x) => x,
            Err(message) => {
                errors.value = Some(message);
                None
            }
        };
        let severity = self.severity.trim().parse().unwrap_or(2).clamp(1, 3);
        match spot {
            Some(spot) if !errors.any() => Ok((spot, severity, value)),
            _ => Err(errors),
        }
    }
}

/// Places, weighs and notes a finding, says that it is gone, or takes it away.
pub async fn keep(
    who: Who,
    Path((job, id)): Path<(Uuid, Uuid)>,
    Form(form): Form<EditForm>,
) -> Result<Response, Failure> {
    let act_id: Uuid = form.id.parse().map_err(|_| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    let loaded = CaseFile::load(&scope, job, InView::Latest, Depth::Visit).await?;
    // Sent again because the answer never arrived: it is done, whatever happened since.
    if scope.acted(job, act_id).await? {
        return Ok(Redirect::to(&format!("/jobs/{job}/findings")).into_response());
    }
    let row = loaded.findings.iter().find(|r| r.id == id).cloned().ok_or(Failure::NotFound)?;
    let known = finding(&row.what).ok_or(Failure::NotFound)?;
    let (spot, severity, value) = match form.parse(&loaded.building, known, who.units()) {
        Ok(parsed) => parsed,
        Err(errors) => {
            let editing = Some(editing(&who.show(), &row, known, form, errors));
            let again = view_of(&who, &loaded, editing, String::new());
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
        }
    };
    let asked = Seen { change: &form.seen, overwrite: &form.keep_anyway };
    if let Some(conflict) = between(&who, &scope, job, (Shared::Finding, id), asked).await? {
        let mut editing = editing(&who.show(), &row, known, form, Errors::default());
        editing.conflict = Some(conflict);
        let again = view_of(&who, &loaded, Some(editing), String::new());
        return Ok((StatusCode::CONFLICT, again).into_response());
    }
    let now = moment(&form.at, Utc::now());
    let (what, gone_at, removed) = match form.act {
        FindingAct::Gone => (say!("No longer there"), Some(now), false),
        FindingAct::There => (say!("There again"), None, false),
        FindingAct::Remove => (say!("Removed the finding"), row.gone_at, true),
        FindingAct::Keep => (say!("Changed the finding"), row.gone_at, false),
    };
    let act = Act::new(act_id, job, who.person.consultant_id, now, format!("{what}: {}", known.name));
    let row = FindingRecord { spot, severity, value, note: form.note.trim().to_owned(), gone_at, removed, ..row };
    scope.keep_finding(&act, row).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/findings")).into_response())
}

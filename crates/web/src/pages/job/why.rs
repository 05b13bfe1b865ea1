//! Why: what wets the building, as an argument that can be followed and disputed, and the consultant's own conclusion.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::WHY;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::{CaseFile, InView};
use chrono::Utc;
use drawing::DropMark;
use hygrothermal::surface::Verdict;
use judgment::cause::causes;
use judgment::cautions::LOCAL_CODE;
use language::{known, say};
use notation::Show;
use serde::Deserialize;
use std::collections::HashMap;
use store::{Act, Conclusion, Depth, NewConclusion};
use uuid::Uuid;
use wording::argument::{Argument, Cause, argument, cause_name};

/// Longest reason, characters.
const LONGEST_REASON: usize = 2000;
/// A cause ticked in the conclusion's form.
const TICKED: &str = "cause-";

#[derive(Template, WebTemplate)]
#[template(path = "why.html")]
struct WhyPage {
    frame: Frame,
    job: JobFrame,
    /// Address of this view, ready for `cause=`.
    base: String,
    places: Vec<Tab>,
    /// Id and name of the place in view; none for the whole building.
    place: Option<(Uuid, String)>,
    argument: Argument,
    /// Day of the visit the movement is told from.
    since: Option<String>,
    form: ConclusionForm,
    /// Likely causes and those ticked, then all others this building can have.
    ticks: Vec<Tick>,
    other_ticks: Vec<Tick>,
    error: Option<String>,
    kept: Option<String>,
    last: Option<LastChange>,
    local_code: &'static str,
}

/// A place whose argument can be looked at.
struct Tab {
    href: String,
    name: String,
    here: bool,
    /// Worst verdict of its surfaces.
    mark: DropMark,
    /// Whether somebody concluded on it.
    concluded: bool,
}

/// A cause in the conclusion's form.
struct Tick {
    id: &'static str,
    name: &'static str,
    on: bool,
}

impl WhyPage {
    /// An id for what a form does: each has its own, so that one sent twice is done once and two are done both.
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    fn chosen(&self) -> Option<&Cause> {
        self.argument.causes.iter().find(|c| c.chosen)
    }

    /// The other of the leading two.
    fn rival(&self) -> Option<&Cause> {
        self.argument.causes.iter().take(2).find(|c| !c.chosen)
    }
}

#[derive(Deserialize, Default)]
pub struct View {
    /// The space looked at; the whole building without one.
    place: Option<Uuid>,
    /// The cause whose argument is shown; the first without one.
    cause: Option<String>,
}

#[derive(Default)]
struct ConclusionForm {
    causes: Vec<&'static str>,
    reason: String,
}

impl ConclusionForm {
    fn of(row: &Conclusion) -> Self {
        let known = row.causes.iter().filter_map(|id| judgment::cause::cause(id));
        Self { causes: known.map(|c| c.id.as_str()).collect(), reason: row.reason.clone() }
    }
}

/// The job, where the place is one of its own.
fn within(file: &CaseFile, place: Option<Uuid>) -> Result<(), Failure> {
    if place.is_some_and(|id| file.building.space(id).is_none()) { Err(Failure::NotFound) } else { Ok(()) }
}

/// What a report says of the causes.
pub struct Told {
    /// Of the whole building.
    pub argument: Argument,
    /// Of each place with a wet or doubtful surface.
    pub places: Vec<PlaceTold>,
    /// What the consultant concluded: a place, or nothing for the whole building, and the words.
    pub own: Vec<(String, String)>,
}

/// What is said of one place.
pub struct PlaceTold {
    pub name: String,
    pub mark: DropMark,
    pub head: String,
}

/// The argument for the whole building and for each wet place, with the conclusions drawn from it.
pub fn of_visit(show: &Show, page: &CaseFile) -> Told {
    let of = |space: Option<Uuid>| argument(show, page, &page.argued(space), None, None);
    let wet = page.building.spaces.iter().filter_map(|s| {
        let worst = page.picture.space(s.id)?.worst().filter(|v| *v != Verdict::Dry)?;
        Some(PlaceTold { name: s.name.clone(), mark: DropMark::from(worst), head: of(Some(s.id)).head })
    });
    Told {
        argument: of(None),
        places: wet.collect(),
        own: standing(page).map(|(row, place)| (place.unwrap_or_default(), concluded(row))).collect(),
    }
}

/// Conclusions on what is there, that on the whole building first, with the names of their places.
fn standing(page: &CaseFile) -> impl Iterator<Item = (&Conclusion, Option<String>)> {
    let rows = &page.conclusions;
    let whole = rows.iter().filter(|r| r.space_id.is_none()).map(|r| (r, None));
    let of = |s: &building::Space| {
        let row = rows.iter().find(|r| r.space_id == Some(s.id))?;
        Some((row, Some(s.name.clone())))
    };
    whole.chain(page.building.spaces.iter().filter_map(of))
}

fn concluded(row: &Conclusion) -> String {
    let names: Vec<&str> = row.causes.iter().map(|id| cause_name(id)).collect();
    let reason = if row.reason.is_empty() { String::new() } else { format!(" {}", row.reason) };
    format!("{}.{reason}", names.join("; "))
}

/// The argument.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    within(&file, view.place)?;
    Ok(view_of(&who, &file, &view, None).into_response())
}

fn view_of(who: &Who, page: &CaseFile, view: &View, typed: Option<ConclusionForm>) -> WhyPage {
    let job = page.job.id;
    let now = page.argued(view.place);
    let before = page.visit_before().map(|earlier| earlier.argued(view.place));
    let since = page.visit_before().and_then(|f| f.visit.as_ref()).map(|v| who.show().day(v.started_at));
    let shown = argument(&who.show(), page, &now, before.as_ref().map(|b| &b.diagnosis), view.cause.as_deref());
    let of = |id: Option<Uuid>| page.conclusions.iter().find(|r| r.space_id == id);
    let tab = |id: Option<Uuid>, name: &str| Tab {
        href: address(job, id),
        name: name.to_owned(),
        here: view.place == id,
        mark: id.and_then(|id| page.picture.space(id)?.worst()).map_or(DropMark::NONE, DropMark::from),
        concluded: of(id).is_some(),
    };
    let whole = std::iter::once(tab(None, say!("Whole building")));
    let kept = of(view.place).map(|row| {
        let by = page.people.get(&row.updated_by).map(String::as_str).unwrap_or_default();
        format!("{by}, {}", who.show().moment(row.updated_at))
    });
    let form = typed.or_else(|| of(view.place).map(ConclusionForm::of)).unwrap_or_default();
    let tick = |c: &'static judgment::cause::Cause| Tick {
        id: &c.id,
        name: known(&c.name),
        on: form.causes.contains(&c.id.as_str()),
    };
    let in_view = |t: &Tick| t.on || shown.causes.iter().any(|c| c.id == t.id);
    let (ticks, other_ticks) = now.diagnosis.causes.iter().map(|r| tick(r.cause)).partition(in_view);
    WhyPage {
        frame: Frame::of(who, page),
        base: view.place.map_or_else(|| format!("/jobs/{job}/why?"), |id| format!("/jobs/{job}/why?place={id}&")),
        places: whole.chain(page.building.spaces.iter().map(|s| tab(Some(s.id), &s.name))).collect(),
        place: view.place.and_then(|id| Some((id, page.building.space(id)?.name.clone()))),
        argument: shown,
        since,
        ticks,
        other_ticks,
        form,
        error: None,
        kept,
        last: last_change(who, page, &["conclusion"]),
        job: JobFrame::new(page, WHY),
        local_code: LOCAL_CODE,
    }
}

/// Address of the argument on a place.
fn address(job: Uuid, place: Option<Uuid>) -> String {
    place.map_or_else(|| format!("/jobs/{job}/why"), |id| format!("/jobs/{job}/why?place={id}"))
}

/// Keeps the consultant's conclusion on the building or a place, or takes it back; one that differs from the computed needs its reason.
pub async fn conclude(
    who: Who,
    Path(job): Path<Uuid>,
    crate::extract::Form(fields): crate::extract::Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let id: Uuid = fields.get("id").and_then(|id| id.parse().ok()).ok_or_else(|| Failure::BadForm("id".into()))?;
    let typed = fields.get("place").map(|p| p.trim()).filter(|p| !p.is_empty());
    let place: Option<Uuid> = typed.map(str::parse).transpose().map_err(|_| Failure::BadForm("place".into()))?;
    let scope = who.scope().await?;
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Argument).await?;
    within(&file, place)?;
    let argued = file.argued(place);
    let of =
        place.and_then(|id| file.building.space(id)).map_or_else(String::new, |s| say!(" for {name}", name = s.name));
    let act = |what: String| Act::new(id, job, who.person.consultant_id, Utc::now(), what);
    let done = || Redirect::to(&address(job, place)).into_response();
    if fields.contains_key("withdraw") {
        scope.withdraw_conclusion(&act(say!("Took the conclusion{of} back", of)), place).await?;
        scope.commit().await?;
        return Ok(done());
    }
    let possible = causes().iter().filter(|c| c.odds(argued.gathered.case.structure) > 0.0);
    let ticked = possible.filter(|c| fields.contains_key(&format!("{TICKED}{}", c.id))).map(|c| c.id.as_str());
    let form = ConclusionForm {
        causes: ticked.collect(),
        reason: fields.get("reason").map(|r| r.trim().to_owned()).unwrap_or_default(),
    };
    let computed = argued.diagnosis.acting();
    let differs = {
        let mut own = form.causes.clone();
        let mut theirs = computed.clone();
        own.sort_unstable();
        theirs.sort_unstable();
        own != theirs
    };
    let length = form.reason.chars().count();
    let error = if form.causes.is_empty() {
        Some(say!("Tick at least one cause.").to_owned())
    } else if length > LONGEST_REASON {
        Some(say!(
            "The reason is {length} characters long; {longest_reason} at most.",
            length,
            longest_reason = LONGEST_REASON
        ))
    } else if differs && form.reason.is_empty() {
        Some(say!("This differs from what was computed: say why. The reason goes into the report.").into())
    } else {
        None
    };
    if error.is_some() {
        let view = View { place, cause: None };
        let mut again = view_of(&who, &file, &view, Some(form));
        again.error = error;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let names: Vec<&str> = form.causes.iter().map(|id| cause_name(id)).collect();
    let new = NewConclusion { space: place, causes: &form.causes, computed: &computed, reason: &form.reason };
    scope.keep_conclusion(&act(say!("Concluded{of}: {names}", of, names = names.join("; "))), &new).await?;
    scope.commit().await?;
    Ok(done())
}

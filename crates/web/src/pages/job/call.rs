//! The call sheet: what was said before the visit, and what that suggests to look at, bring and leave alone.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::CALL;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::call::{About, Call, FALSE_WET, Suggestions, constructions, points};
use casework::InView;
use chrono::Datelike;
use judgment::cautions::LOCAL_CODE;
use language::say;
use std::collections::HashMap;
use store::{Act, CallSheet, Depth};
use uuid::Uuid;

/// Longest complaint, characters.
const LONGEST: usize = 1000;
/// Most people a dwelling is asked about.
const MOST_PEOPLE: i32 = 500;
/// Field names of what can be ticked begin so.
const SAID: &str = "said.";
const BUILT: &str = "built.";

#[derive(Template, WebTemplate)]
#[template(path = "call.html")]
struct CallPage {
    frame: Frame,
    job: JobFrame,
    form: CallForm,
    errors: Errors,
    groups: Vec<(&'static str, Vec<Tick>)>,
    suggested: Suggestions,
    /// The last keeping, to take back.
    last: Option<LastChange>,
    undo_id: Uuid,
    /// When it was last kept; empty for a new sheet.
    kept: String,
    false_wet: &'static str,
    local_code: &'static str,
}

#[derive(Template, WebTemplate)]
#[template(path = "parts/suggestions.html")]
pub struct SuggestionsPart {
    frame: Frame,
    suggested: Suggestions,
    false_wet: &'static str,
    local_code: &'static str,
}

impl CallPage {
    fn say(&self, text: &str) -> String {
        self.frame.say(text)
    }
}

impl SuggestionsPart {
    fn say(&self, text: &str) -> String {
        self.frame.say(text)
    }
}

/// Something to tick.
struct Tick {
    name: String,
    words: &'static str,
    on: bool,
}

/// The form as typed.
#[derive(Default, Clone)]
struct CallForm {
    complaint: String,
    year: String,
    occupants: String,
    said: Vec<String>,
    built: Vec<String>,
}

#[derive(Default)]
struct Errors {
    complaint: Option<String>,
    year: Option<String>,
    occupants: Option<String>,
}

impl CallForm {
    /// From the fields of a form or an address; boxes that are not known are ignored.
    fn new(fields: &HashMap<String, String>) -> Self {
        let text = |name: &str| fields.get(name).map(|t| t.trim().to_owned()).unwrap_or_default();
        let ticked = |prefix: &str, id: &&str| fields.contains_key(&format!("{prefix}{id}"));
        let said = points().iter().map(|p| p.id.as_str()).filter(|id| ticked(SAID, id));
        let built = constructions().iter().map(|c| c.id.as_str()).filter(|id| ticked(BUILT, id));
        Self {
            complaint: text("complaint"),
            year: text("year"),
            occupants: text("occupants"),
            said: said.map(str::to_owned).collect(),
            built: built.map(str::to_owned).collect(),
        }
    }

    fn of(sheet: &CallSheet) -> Self {
        let figure = |x: Option<i32>| x.map(|x| x.to_string()).unwrap_or_default();
        Self {
            complaint: sheet.complaint.clone(),
            year: figure(sheet.call.year),
            occupants: figure(sheet.call.occupants),
            said: sheet.call.said.clone(),
            built: sheet.call.built.clone(),
        }
    }

    fn parse(&self, this_year: i32) -> (Call, Errors) {
        let mut errors = Errors::default();
        let length = self.complaint.chars().count();
        if length > LONGEST {
            errors.complaint =
                Some(say!("The complaint is {length} characters long; {longest} at most.", length, longest = LONGEST));
        }
        let whole = |text: &str, low: i32, high: i32, error: &mut Option<String>| match text {
            "" => None,
            text => match text.parse::<i32>() {
                Ok(x) if (low..=high).contains(&x) => Some(x),
                _ => {
                    let short: String = text.chars().take(24).collect();
                    *error = Some(say!("A whole number from {low} to {high}, got “{short}”.", low, high, short));
                    None
                }
            },
        };
        let year = whole(&self.year, 1000, this_year, &mut errors.year);
        let occupants = whole(&self.occupants, 0, MOST_PEOPLE, &mut errors.occupants);
        (Call { said: self.said.clone(), built: self.built.clone(), year, occupants }, errors)
    }
}

impl Errors {
    fn any(&self) -> bool {
        self.complaint.is_some() || self.year.is_some() || self.occupants.is_some()
    }
}

fn groups(form: &CallForm) -> Vec<(&'static str, Vec<Tick>)> {
    let about = |about: About| {
        let of = points().iter().filter(move |p| p.about == about);
        of.map(|p| Tick { name: format!("{SAID}{}", p.id), words: &p.name, on: form.said.contains(&p.id) }).collect()
    };
    let built = constructions().iter();
    let built =
        built.map(|c| Tick { name: format!("{BUILT}{}", c.id), words: &c.name, on: form.built.contains(&c.id) });
    vec![
        (say!("What is noticed"), about(About::Sign)),
        (say!("When it shows"), about(About::When)),
        (say!("What changed lately"), about(About::Change)),
        (say!("How it is built"), built.collect()),
    ]
}

/// The job, its sheet, and the last keeping that can be undone.
struct Loaded {
    job: JobFrame,
    sheet: Option<CallSheet>,
    last: Option<LastChange>,
}

async fn load(who: &Who, job: Uuid) -> Result<Loaded, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    let last = last_change(who, &file, &["call_sheet"]);
    Ok(Loaded { job: JobFrame::new(&file, CALL), sheet: file.call.clone(), last })
}

/// The sheet as last kept.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let loaded = load(&who, job).await?;
    let form = loaded.sheet.as_ref().map(CallForm::of).unwrap_or_default();
    Ok(view(&who, loaded, form, Errors::default()).into_response())
}

fn view(who: &Who, loaded: Loaded, form: CallForm, errors: Errors) -> CallPage {
    let (call, _) = form.parse(chrono::Utc::now().year());
    CallPage {
        frame: Frame::new(who),
        job: loaded.job,
        last: loaded.last,
        undo_id: Uuid::now_v7(),
        kept: loaded.sheet.map(|s| who.show().moment(s.updated_at)).unwrap_or_default(),
        groups: groups(&form),
        suggested: call.suggests(),
        form,
        errors,
        false_wet: FALSE_WET,
        local_code: LOCAL_CODE,
    }
}

/// What the boxes ticked so far suggest.
pub async fn suggest(who: Who, Query(fields): Query<HashMap<String, String>>) -> SuggestionsPart {
    let (call, _) = CallForm::new(&fields).parse(chrono::Utc::now().year());
    SuggestionsPart {
        frame: Frame::new(&who),
        suggested: call.suggests(),
        false_wet: FALSE_WET,
        local_code: LOCAL_CODE,
    }
}

/// Keeps the sheet.
pub async fn keep(
    who: Who,
    Path(job): Path<Uuid>,
    Form(fields): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let loaded = load(&who, job).await?;
    let form = CallForm::new(&fields);
    let now = chrono::Utc::now();
    let (call, errors) = form.parse(now.year());
    if errors.any() {
        let again = view(&who, loaded, form, errors);
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let scope = who.scope().await?;
    let sheet = CallSheet { complaint: form.complaint, call, updated_at: now };
    let id = fields.get("id").and_then(|id| id.parse().ok()).unwrap_or_else(Uuid::now_v7);
    let act = Act::new(id, job, who.person.consultant_id, now, say!("Saved the call sheet"));
    scope.keep_call_sheet(&act, &sheet).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{job}/call")).into_response())
}

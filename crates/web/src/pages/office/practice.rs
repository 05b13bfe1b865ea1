//! The practice itself: its name, where it is reached, and whose days are meant.

use super::keeping::{self, KeepingForm};
use super::one_line_in;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Query};
use crate::state::App;
use crate::upload::Upload;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::extract::State;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Redirect, Response};
use building::report::{LONGEST_HEADING, LONGEST_TEXT, TextBlock};
use chrono::Utc;
use language::Language;
use notation::is_time_zone;
use serde::Deserialize;
use std::collections::BTreeMap;
use store::{PracticeAct, Setting};
use uuid::Uuid;

/// Longest name, address and line of it, characters.
const LONGEST: [usize; 2] = [120, 400];
/// Most blocks of text of a practice.
const MOST_BLOCKS: usize = 40;

/// The practice as typed.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct PracticeForm {
    id: Option<Uuid>,
    name: String,
    address: String,
    zone: String,
    units: String,
    language: String,
    /// As they were when the page was made: what was not touched stays, whoever changed it meanwhile.
    was_name: String,
    was_address: String,
    was_zone: String,
    was_units: String,
    was_language: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "practice.html")]
struct PracticePage {
    frame: Frame,
    form: PracticeForm,
    zones: Vec<String>,
    blocks: Vec<TextBlock>,
    /// The block in the form, as typed.
    block: TextForm,
    has_logo: bool,
    /// For how long what is kept.
    keeping: Vec<keeping::Row>,
    wrong: Vec<(&'static str, String)>,
    act_id: Uuid,
}

impl PracticePage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    const fn languages(&self) -> [Language; 2] {
        Language::ALL
    }

    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }
}

async fn shown(
    who: &Who,
    form: PracticeForm,
    block: TextForm,
    wrong: Vec<(&'static str, String)>,
) -> Result<PracticePage, Failure> {
    let scope = who.scope().await?;
    let (blocks, has_logo) = (scope.text_blocks().await?, scope.logo().await?.is_some());
    let kept = scope.retention().await?;
    let zones = jiff::tz::db().available().map(|z| z.as_str().to_owned());
    Ok(PracticePage {
        frame: Frame::new(who),
        form,
        blocks,
        block,
        has_logo,
        keeping: keeping::rows(who.language(), &kept, None),
        zones: zones.filter(|z| z.contains('/') && !z.starts_with("Etc/")).collect(),
        wrong,
        act_id: Uuid::now_v7(),
    })
}

/// The practice as it stands, for its form.
async fn stands(who: &Who) -> Result<PracticeForm, Failure> {
    let (name, zone) = (who.person.practice_name.clone(), who.person.time_zone.clone());
    let scope = who.scope().await?;
    let address = scope.practice_address().await?;
    let [units, language] = scope.newcomers().await?;
    Ok(PracticeForm {
        id: None,
        was_name: name.clone(),
        was_address: address.clone(),
        was_zone: zone.clone(),
        was_units: units.clone(),
        was_language: language.clone(),
        name,
        address,
        zone,
        units,
        language,
    })
}

/// The page again, with what was chosen to be kept for how long, and what is wrong with it.
pub async fn refused(
    who: &Who,
    chosen: &KeepingForm,
    wrong: Vec<(&'static str, String)>,
) -> Result<impl IntoResponse, Failure> {
    let mut page = shown(who, stands(who).await?, TextForm::default(), wrong).await?;
    page.keeping = keeping::rows(who.language(), &who.scope().await?.retention().await?, Some(chosen));
    Ok((StatusCode::UNPROCESSABLE_ENTITY, page))
}

#[derive(Deserialize)]
pub struct View {
    /// The block of text to change.
    text: Option<Uuid>,
}

/// The form.
pub async fn page(who: Who, Query(view): Query<View>) -> Result<Response, Failure> {
    let form = stands(&who).await?;
    let mut page = shown(&who, form, TextForm::default(), Vec::new()).await?;
    if let Some(block) = page.blocks.iter().find(|b| Some(b.id) == view.text) {
        let (heading, text) = (block.heading.clone(), block.text.clone());
        page.block = TextForm { block: block.id.to_string(), heading, text, ..TextForm::default() };
    }
    Ok(page.into_response())
}

/// A block of text as typed.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct TextForm {
    id: Option<Uuid>,
    /// The block, where it is there already.
    block: String,
    act: String,
    heading: String,
    text: String,
}

/// Keeps a block of text, or takes it away.
pub async fn keep_text(who: Who, Form(form): Form<TextForm>) -> Result<Response, Failure> {
    let id = form.id.ok_or_else(|| Failure::BadForm("id".into()))?;
    let act = PracticeAct { id, by: who.person.consultant_id, at: Utc::now() };
    let scope = who.scope().await?;
    let known = scope.text_blocks().await?;
    let own = form.block.parse().ok().and_then(|id: Uuid| known.iter().find(|b| b.id == id));
    if form.act == "remove" {
        if let Some(block) = own {
            scope.keep_text_block(act, block, true).await?;
            scope.commit().await?;
        }
        return Ok(Redirect::to("/practice#texts").into_response());
    }
    let (mut wrong, tongue) = (Vec::new(), who.language());
    let heading = one_line_in(tongue, &form.heading, LONGEST_HEADING, &tongue.say("practice-no-heading"));
    let heading = heading.map_err(|e| wrong.push(("heading", e)));
    let text = form.text.replace("\r\n", "\n").trim().to_owned();
    let length = text.chars().count();
    if length > LONGEST_TEXT {
        wrong.push(("text", tongue.say_with("line-long", &[("n", length.into()), ("most", LONGEST_TEXT.into())])));
    } else if text.is_empty() {
        wrong.push(("text", tongue.say("practice-no-text")));
    }
    if own.is_none() && known.len() >= MOST_BLOCKS {
        wrong.push(("heading", tongue.say_with("practice-many", &[("n", MOST_BLOCKS.into())])));
    }
    let (Ok(heading), true) = (heading, wrong.is_empty()) else {
        drop(scope);
        let page = shown(&who, stands(&who).await?, form, wrong).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    };
    let block = TextBlock { id: own.map_or(id, |b| b.id), heading, text };
    scope.keep_text_block(act, &block, false).await?;
    scope.commit().await?;
    Ok(Redirect::to("/practice#texts").into_response())
}

/// The practice’s sign.
pub async fn logo(who: Who) -> Result<Response, Failure> {
    let bytes = who.scope().await?.logo().await?.ok_or(Failure::NotFound)?;
    Ok(([(header::CONTENT_TYPE, "image/jpeg"), (header::CACHE_CONTROL, "private, no-cache")], bytes).into_response())
}

/// Takes the practice’s sign in, or takes it away.
pub async fn take_logo(State(app): State<App>, who: Who, sent: Option<Extension<Upload>>) -> Result<Response, Failure> {
    let bytes = match sent.filter(|Extension(sent)| sent.text("act") != "remove") {
        None => None,
        Some(Extension(sent)) => match app.pictures.read(sent.file.clone()).await? {
            Ok(picture) => Some(picture.thumb),
            Err(why) => {
                let wrong = vec![("logo", why.to_string())];
                let page = shown(&who, stands(&who).await?, TextForm::default(), wrong).await?;
                return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
            }
        },
    };
    let scope = who.scope().await?;
    scope.set_logo(bytes, who.person.consultant_id, Utc::now()).await?;
    scope.commit().await?;
    Ok(Redirect::to("/practice#logo").into_response())
}

/// Keeps what was changed.
pub async fn keep(who: Who, Form(form): Form<PracticeForm>) -> Result<Response, Failure> {
    let id = form.id.ok_or_else(|| Failure::BadForm("id".into()))?;
    let (mut wrong, tongue) = (Vec::new(), who.language());
    let name = one_line_in(tongue, &form.name, LONGEST[0], &tongue.say("practice-no-name"))
        .map_err(|e| wrong.push(("name", e)));
    let address = form.address.replace("\r\n", "\n").trim().to_owned();
    let length = address.chars().count();
    if length > LONGEST[1] {
        wrong.push(("address", tongue.say_with("line-long", &[("n", length.into()), ("most", LONGEST[1].into())])));
    }
    let zone = form.zone.trim().to_owned();
    if !is_time_zone(&zone) {
        wrong.push(("zone", tongue.say("practice-no-zone")));
    }
    // Not on the form, they stay.
    let said = |now: &str, was: &str| if now.is_empty() { was.to_owned() } else { now.to_owned() };
    let units = said(&form.units, &form.was_units);
    let language = said(&form.language, &form.was_language);
    if units != form.was_units && !matches!(units.as_str(), "metric" | "us") {
        wrong.push(("units", tongue.say("practice-no-units")));
    }
    if language != form.was_language && Language::from_id(&language).is_none() {
        wrong.push(("language", tongue.say("practice-no-language")));
    }
    let (Ok(name), true) = (name, wrong.is_empty()) else {
        let page = shown(&who, form, TextForm::default(), wrong).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    };
    let was_address = form.was_address.replace("\r\n", "\n");
    let fields = [
        (Setting::PracticeName, name, form.was_name.as_str()),
        (Setting::Address, address, was_address.as_str()),
        (Setting::Zone, zone, form.was_zone.as_str()),
        (Setting::Units, units, form.was_units.as_str()),
        (Setting::Language, language, form.was_language.as_str()),
    ];
    let touched = fields.into_iter().filter(|(_, now, was)| now != was);
    let changes: BTreeMap<Setting, Option<String>> =
        touched.map(|(of, now, _)| (of, Some(now).filter(|n| !n.is_empty()))).collect();
    let scope = who.scope().await?;
    scope.settle(PracticeAct { id, by: who.person.consultant_id, at: Utc::now() }, changes).await?;
    scope.commit().await?;
    Ok(Redirect::to("/practice").into_response())
}

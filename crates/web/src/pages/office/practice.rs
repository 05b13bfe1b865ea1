//! The practice itself: its name, where it is reached, and whose days are meant.

use super::one_line;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Form;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use notation::is_time_zone;
use serde::Deserialize;
use std::collections::BTreeMap;
use store::{PracticeAct, Setting};
use uuid::Uuid;

/// Longest name, address and line of it, characters.
const LONGEST: [usize; 2] = [120, 400];

/// The practice as typed.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct PracticeForm {
    id: Option<Uuid>,
    name: String,
    address: String,
    zone: String,
    /// As they were when the page was made: what was not touched stays, whoever changed it meanwhile.
    was_name: String,
    was_address: String,
    was_zone: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "practice.html")]
struct PracticePage {
    frame: Frame,
    form: PracticeForm,
    zones: Vec<String>,
    wrong: Vec<(&'static str, String)>,
    act_id: Uuid,
}

impl PracticePage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }
}

fn shown(who: &Who, form: PracticeForm, wrong: Vec<(&'static str, String)>) -> PracticePage {
    let zones = jiff::tz::db().available().map(|z| z.as_str().to_owned());
    PracticePage {
        frame: Frame::new(who),
        form,
        zones: zones.filter(|z| z.contains('/') && !z.starts_with("Etc/")).collect(),
        wrong,
        act_id: Uuid::now_v7(),
    }
}

/// The form.
pub async fn page(who: Who) -> Result<Response, Failure> {
    let (name, zone) = (who.person.practice_name.clone(), who.person.time_zone.clone());
    let address = who.scope().await?.practice_address().await?;
    let (was_name, was_address, was_zone) = (name.clone(), address.clone(), zone.clone());
    let form = PracticeForm { id: None, name, address, zone, was_name, was_address, was_zone };
    Ok(shown(&who, form, Vec::new()).into_response())
}

/// Keeps what was changed.
pub async fn keep(who: Who, Form(form): Form<PracticeForm>) -> Result<Response, Failure> {
    let id = form.id.ok_or_else(|| Failure::BadForm("id".into()))?;
    let mut wrong = Vec::new();
    let name = one_line(&form.name, LONGEST[0], "A practice has a name.").map_err(|e| wrong.push(("name", e)));
    let address = form.address.replace("\r\n", "\n").trim().to_owned();
    let length = address.chars().count();
    if length > LONGEST[1] {
        wrong.push(("address", format!("{length} characters; {} at most.", LONGEST[1])));
    }
    let zone = form.zone.trim().to_owned();
    if !is_time_zone(&zone) {
        wrong.push(("zone", "A time zone by its name, like Europe/London.".into()));
    }
    let (Ok(name), true) = (name, wrong.is_empty()) else {
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, shown(&who, form, wrong)).into_response());
    };
    let was_address = form.was_address.replace("\r\n", "\n");
    let fields = [
        (Setting::PracticeName, name, form.was_name.as_str()),
        (Setting::Address, address, was_address.as_str()),
        (Setting::Zone, zone, form.was_zone.as_str()),
    ];
    let touched = fields.into_iter().filter(|(_, now, was)| now != was);
    let changes: BTreeMap<Setting, Option<String>> =
        touched.map(|(of, now, _)| (of, Some(now).filter(|n| !n.is_empty()))).collect();
    let scope = who.scope().await?;
    scope.settle(PracticeAct { id, by: who.person.consultant_id, at: Utc::now() }, changes).await?;
    scope.commit().await?;
    Ok(Redirect::to("/practice").into_response())
}

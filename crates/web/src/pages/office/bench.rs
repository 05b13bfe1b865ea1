//! The practice's instruments: accuracy goes into every band, the offset into every reading taken from then on.
//!
//! An instrument is added, never edited: readings already taken keep the accuracy they were taken with. Its salt checks
//! correct what it reads from each check's end on.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Form;
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::InstrumentKind;
use chrono::{Datelike, NaiveDate};
use language::{known, say};
use notation::number::{plain_number, short};
use serde::Deserialize;
use store::Instrument;
use uuid::Uuid;
use wording::instrument::salt_check;

#[derive(Template, WebTemplate)]
#[template(path = "bench.html")]
struct BenchPage {
    frame: Frame,
    rows: Vec<Row>,
    kinds: &'static [InstrumentKind],
    form: InstrumentForm,
    errors: Vec<(&'static str, String)>,
}

struct Row {
    id: Uuid,
    kind: &'static str,
    name: String,
    serial: String,
    accuracy: String,
    check: String,
}

impl BenchPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.errors.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    /// The fields of the form: name, label, value.
    fn fields(&self) -> [(&'static str, &'static str, &str); 9] {
        let f = &self.form;
        [
            ("name", say!("Name"), &f.name),
            ("serial", say!("Serial"), &f.serial),
            ("air_err", say!("Air temperature, ± K"), &f.air_err),
            ("rh_err", say!("± % of relative humidity"), &f.rh_err),
            ("surface_err", say!("Surface temperature, ± K"), &f.surface_err),
            ("wood_err", say!("Wood moisture, ± %; empty if it reads none"), &f.wood_err),
            ("offset", say!("Offset found by the salt check, % added to what it shows"), &f.offset),
            ("settle", say!("Time it needs to settle, s"), &f.settle),
            ("checked_on", say!("Day of the salt check, like 2026-03-14; empty if never"), &f.checked_on),
        ]
    }
}

#[derive(Deserialize, Default)]
pub struct InstrumentForm {
    /// Made with the page, so that a form sent twice adds one instrument.
    #[serde(default = "Uuid::now_v7")]
    id: Uuid,
    #[serde(default)]
    name: String,
    #[serde(default)]
    serial: String,
    #[serde(default)]
    air_err: String,
    #[serde(default)]
    rh_err: String,
    #[serde(default)]
    surface_err: String,
    #[serde(default)]
    wood_err: String,
    #[serde(default)]
    offset: String,
    #[serde(default)]
    checked_on: String,
    #[serde(default)]
    kind: String,
    #[serde(default)]
    settle: String,
}

/// Earliest year of a salt check: no instrument in use is older.
const EARLIEST: i32 = 1980;

impl InstrumentForm {
    fn parse(&self, today: NaiveDate) -> Result<Instrument, Vec<(&'static str, String)>> {
        let mut errors = Vec::new();
        let mut text = |field, text: &str, needed: bool| {
            let text = text.trim().to_owned();
            if needed && text.is_empty() {
                errors.push((field, say!("Give it a name you will know it by.").to_owned()));
            } else if text.chars().count() > 80 || text.chars().any(char::is_control) {
                errors.push((field, say!("One line of 80 characters at most.").to_owned()));
            }
            text
        };
        let (name, serial) = (text("name", &self.name, true), text("serial", &self.serial, false));
        let mut number = |field, text: &str, low: f64, high: f64| match plain_number(text) {
            Ok(x) if (low..=high).contains(&x) => x,
            _ => {
                errors.push((
                    field,
                    say!("A number from {low} to {high}, got “{short}”.", low, high, short = short(text)),
                ));
                0.0
            }
        };
        let air_err_k = number("air_err", &self.air_err, 0.05, 20.0);
        let rh_err_pct = number("rh_err", &self.rh_err, 0.1, 50.0);
        let surface_err_k = number("surface_err", &self.surface_err, 0.05, 20.0);
        let wood = if self.wood_err.trim().is_empty() { "0" } else { &self.wood_err };
        let wood_err_pct = number("wood_err", wood, 0.0, 20.0);
        let offset = if self.offset.trim().is_empty() { "0" } else { &self.offset };
        let rh_offset_pct = number("offset", offset, -30.0, 30.0);
        let settle = if self.settle.trim().is_empty() { "0" } else { &self.settle };
        let settle_s = number("settle", settle, 0.0, 3600.0) as i32;
        let checked_on = match self.checked_on.trim() {
            "" => None,
            day => match day.parse::<NaiveDate>() {
                Ok(day) if day.year() < EARLIEST => {
                    errors.push(("checked_on", say!("No earlier than {earliest}.", earliest = EARLIEST)));
                    None
                }
                Ok(day) if day <= today => Some(day),
                Ok(_) => {
                    errors.push(("checked_on", say!("That day is still to come.").to_owned()));
                    None
                }
                Err(_) => {
                    errors.push(("checked_on", say!("A day is written like 2026-03-14.").to_owned()));
                    None
                }
            },
        };
        if rh_offset_pct != 0.0 && checked_on.is_none() && !errors.iter().any(|(f, _)| *f == "checked_on") {
            errors.push(("checked_on", say!("An offset comes from a salt check: say when it was.").to_owned()));
        }
        if !errors.is_empty() {
            return Err(errors);
        }
        Ok(Instrument {
            id: self.id,
            name,
            serial,
            air_err_k,
            rh_err_pct,
            surface_err_k,
            wood_err_pct,
            rh_offset_pct,
            rh_slope: 1.0,
            kind: InstrumentKind::from_id(&self.kind).unwrap_or(InstrumentKind::Hygrometer),
            settle_s,
            checked_on,
        })
    }
}

async fn view(who: &Who, form: InstrumentForm) -> Result<BenchPage, Failure> {
    let show = who.show();
    let scope = who.scope().await?;
    let mut rows = scope.instruments().await?;
    // What is in the hand before what hangs somewhere.
    rows.sort_by_key(|i| i.kind == InstrumentKind::Logger);
    let rows = rows
        .iter()
        .map(|i| Row {
            name: i.name.clone(),
            serial: i.serial.clone(),
            accuracy: wording::instrument::accuracy(&show, i),
            check: salt_check(i),
            id: i.id,
            kind: known(i.kind.words()),
        })
        .collect();
    Ok(BenchPage { frame: Frame::new(who), rows, kinds: InstrumentKind::ALL, form, errors: Vec::new() })
}

/// The instruments, and the form to add one.
pub async fn page(who: Who) -> Result<impl IntoResponse, Failure> {
    view(&who, InstrumentForm { id: Uuid::now_v7(), ..InstrumentForm::default() }).await
}

/// Adds an instrument.
pub async fn add(who: Who, Form(form): Form<InstrumentForm>) -> Result<Response, Failure> {
    match form.parse(chrono::Utc::now().date_naive()) {
        Err(errors) => {
            let mut page = view(&who, form).await?;
            page.errors = errors;
            Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response())
        }
        Ok(instrument) => {
            let scope = who.scope().await?;
            scope.add_instrument(instrument).await?;
            scope.commit().await?;
            Ok(Redirect::to("/bench").into_response())
        }
    }
}

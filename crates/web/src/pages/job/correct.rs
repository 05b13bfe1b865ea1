//! Correcting a reading: a new row with a reason; the old one stays.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::pages::job::round::FieldErrors;
use crate::places::SECTION;
use crate::view::at::At;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Place;
use building::ReadingKind;
use building::entry::Humidity;
use building::infrared::emissivities;
use casework::entry::{self, How, Method};
use casework::{CaseFile, InView};
use hygrothermal::quantity::Temperature;
use language::{known, say};
use notation::unit::{FLOW, RAIN};
use serde::Deserialize;
use store::{Depth, Kept, NewReading, NewValue, ReadingRecord};
use uuid::Uuid;
use wording::log;

#[derive(Template, WebTemplate)]
#[template(path = "correct.html")]
struct CorrectPage {
    frame: Frame,
    job: JobFrame,
    name: String,
    /// Whether it has a second figure, and whether that is humidity.
    two: bool,
    air: bool,
    /// What the first figure is.
    figure: String,
    was: String,
    reading: Uuid,
    form: CorrectForm,
    errors: FieldErrors,
    reason_error: Option<String>,
    asked: Vec<String>,
    conflict: bool,
    kinds: Vec<(&'static str, &'static str)>,
    at: At,
}

#[derive(Deserialize, Clone, Default)]
pub struct CorrectForm {
    id: String,
    #[serde(default)]
    t: String,
    #[serde(default)]
    m: String,
    #[serde(default)]
    kind: String,
    #[serde(default)]
    reason: String,
    #[serde(default)]
    withdraw: Option<String>,
    #[serde(default)]
    keep_anyway: Option<String>,
}

impl CorrectForm {
    /// What "keep anyway" was said about.
    fn said(&self) -> String {
        entry::said(&self.t, &self.m, How { humidity: &self.kind, ..How::default() })
    }
}

/// The row to correct, with the visit it belongs to in view.
async fn load(who: &Who, job: Uuid, reading: Uuid) -> Result<(CaseFile, ReadingRecord), Failure> {
    let scope = who.scope().await?;
    let row = scope.reading_row(reading).await?.filter(|r| r.job_id == job).ok_or(Failure::NotFound)?;
    let page = CaseFile::load(&scope, job, InView::Visit(row.visit_id), Depth::Visit).await?;
    Ok((page, row))
}

fn view(who: &Who, page: &CaseFile, row: &ReadingRecord, form: CorrectForm) -> CorrectPage {
    let show = who.show();
    let place = page.building.station(row.station_id).map_or(Place::Outdoors, |s| s.place);
    CorrectPage {
        frame: Frame::of(who, page),
        job: JobFrame::new(page, SECTION),
        name: page.building.place_name(place).to_owned(),
        two: matches!(row.kind, ReadingKind::Air | ReadingKind::Water),
        air: row.kind == ReadingKind::Air,
        figure: match row.kind {
            ReadingKind::Wood => say!("Wood moisture as the meter showed it, %").into(),
            ReadingKind::Relative => say!("Relative scale").into(),
            ReadingKind::Water => say!("Liters collected").into(),
            ReadingKind::Airflow => say!("Airflow, {name}", name = FLOW.unit(show.units).name()),
            ReadingKind::Rain => say!("Rain of the two days before, {name}", name = RAIN.unit(show.units).name()),
            ReadingKind::Note => say!("Note").into(),
            ReadingKind::Surface => {
                say!("Surface temperature, {temperature_unit}", temperature_unit = show.temperature_unit())
            }
            _ => say!("Air temperature, {temperature_unit}", temperature_unit = show.temperature_unit()),
        },
        was: say!("{log}, read {row}", log = log::value(&show, row), row = show.moment(row.taken_at)),
        reading: row.id,
        form,
        errors: FieldErrors::default(),
        reason_error: None,
        asked: Vec::new(),
        conflict: page.rows.iter().any(|r| r.replaces == Some(row.id)),
        kinds: Humidity::ALL.iter().map(|h| (h.id(), known(h.words()))).collect(),
        at: place.into(),
    }
}

/// The form, holding the raw values as they were read.
pub async fn page(who: Who, Path((job, reading)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let (page, row) = load(&who, job, reading).await?;
    let show = who.show();
    let kind = row.humidity_kind.unwrap_or_default();
    let moisture = row.raw_humidity.map(|x| if kind == Humidity::Rh { x.to_string() } else { show.degrees(x) });
    let raw_value = match row.kind {
        ReadingKind::Note => Some(row.as_typed.clone()),
        ReadingKind::Airflow => row.raw_value.map(|v| FLOW.typed(v, show.units)),
        ReadingKind::Rain => row.raw_value.map(|v| RAIN.typed(v, show.units)),
        _ => row.raw_value.map(|v| v.to_string()),
    };
    let form = CorrectForm {
        id: Uuid::now_v7().to_string(),
        t: row.raw_t_c.map(|t| show.degrees(t)).or(raw_value).unwrap_or_default(),
        m: moisture.or(row.hours.map(|h| h.to_string())).unwrap_or_default(),
        kind: kind.id().to_owned(),
        ..CorrectForm::default()
    };
    Ok(view(&who, &page, &row, form).into_response())
}

fn reason(text: &str) -> Result<String, String> {
    let text = text.trim();
    match text.chars().count() {
        0..3 => Err(say!("Say in a few words why: the old reading stays visible beside it.").into()),
        3..=300 => Ok(text.to_owned()),
        n => Err(say!("The reason is {n} characters long; 300 at most.", n)),
    }
}

/// Appends the correction.
pub async fn submit(
    who: Who,
    Path((job, reading)): Path<(Uuid, Uuid)>,
    Form(form): Form<CorrectForm>,
) -> Result<Response, Failure> {
    let (page, row) = load(&who, job, reading).await?;
    let id: Uuid = form.id.parse().map_err(|_| Failure::BadForm("correction id".into()))?;
    let station = page.building.station(row.station_id).ok_or(Failure::NotFound)?;
    let instrument = page.instrument(row.instrument_id).ok_or(Failure::NotFound)?;
    let mut again = view(&who, &page, &row, form.clone());
    let method = match (row.kind, row.emissivity) {
        (ReadingKind::Surface, Some(_)) => Method::Infrared,
        (ReadingKind::Surface, None) => Method::Contact,
        (kind, _) => Method::asked(kind.id()),
    };
    // Corrected with the emissivity and surroundings it was read with.
    let e = emissivities().iter().find(|e| Some(e.value) == row.emissivity).map_or("", |e| e.id.as_str());
    let reflected = row.reflected_c.map(|t| format!("{t}C")).unwrap_or_default();
    let species = row.species.clone().unwrap_or_default();
    let wood_at = row.wood_t_c.and_then(|t| Temperature::new(t).ok());
    let reads = entry::reads(
        station.place,
        &form.t,
        &form.m,
        How { humidity: &form.kind, method, species: &species, wood_at, emissivity: e, reflected: &reflected },
    );
    let withdrawn = form.withdraw.is_some();
    let mut value = NewValue::Withdrawn;
    if !withdrawn {
        match entry::check(&page, station, instrument, &reads, who.units()) {
            Ok(checked) => {
                again.asked = wording::question::asked(&who.show(), &checked);
                value = checked.value;
            }
            Err(errors) => again.errors = FieldErrors::of(errors),
        }
    }
    let why = reason(&form.reason).map_err(|e| again.reason_error = Some(e)).ok();
    let refused = again.errors.temperature.is_some() || again.errors.humidity.is_some();
    let doubted = !again.asked.is_empty() && form.keep_anyway.as_ref() != Some(&form.said());
    let (Some(why), false, false) = (why, refused, doubted) else {
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    };
    let new = NewReading {
        id,
        job_id: job,
        visit_id: row.visit_id,
        station_id: row.station_id,
        instrument_id: row.instrument_id,
        consultant_id: who.person.consultant_id,
        value,
        as_typed: if withdrawn { String::new() } else { entry::as_typed(&reads) },
        questions: again.asked.join(" "),
        replaces: Some((row.id, why)),
        taken_at: row.taken_at,
    };
    let scope = who.scope().await?;
    if scope.keep_reading(&new).await? == Kept::CorrectedByOther {
        again.conflict = true;
        return Ok((StatusCode::CONFLICT, again).into_response());
    }
    scope.commit().await?;
    let at = again.at;
    Ok(Redirect::to(&format!("/jobs/{job}?visit={}&at={at}", row.visit_id)).into_response())
}

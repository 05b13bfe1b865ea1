//! Opening a job and changing what its form holds.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::entry::{Field, parse_temperature};
use building::{Climate, Structure, blueprint, blueprints};
use notation::Units;
use serde::Deserialize;
use store::{Act, Job, JobEdit, NewJob};
use uuid::Uuid;

#[derive(Template, WebTemplate)]
#[template(path = "job_form.html")]
struct JobFormPage {
    frame: Frame,
    form: JobForm,
    errors: Errors,
    /// `None` for a new job; its id when editing.
    job: Option<Uuid>,
    structures: Vec<(&'static str, &'static str, &'static str)>,
    climates: Vec<(&'static str, &'static str)>,
    unit: &'static str,
}

#[derive(Deserialize, Default, Clone)]
pub struct JobForm {
    #[serde(default)]
    id: String,
    #[serde(default)]
    name: String,
    #[serde(default)]
    address: String,
    #[serde(default)]
    structure: String,
    #[serde(default)]
    climate: String,
    #[serde(default)]
    design: String,
}

#[derive(Default)]
struct Errors {
    name: Option<String>,
    address: Option<String>,
    structure: Option<String>,
    climate: Option<String>,
    design: Option<String>,
}

impl Errors {
    fn any(&self) -> bool {
        [&self.name, &self.address, &self.structure, &self.climate, &self.design].into_iter().any(Option::is_some)
    }
}

const LONGEST: usize = 120;

fn line(text: &str, what: &str, needed: bool) -> Result<String, String> {
    let text = text.trim();
    let length = text.chars().count();
    if needed && text.is_empty() {
        return Err(format!("Give the job a {what}."));
    }
    if length > LONGEST {
        return Err(format!("The {what} is {length} characters long; {LONGEST} at most."));
    }
    if text.chars().any(char::is_control) {
        return Err(format!("The {what} is one line without control characters."));
    }
    Ok(text.to_owned())
}

impl JobForm {
    fn parse(&self, units: Units) -> Result<JobEdit, Errors> {
        let mut errors = Errors::default();
        let keep = |r: Result<String, String>, e: &mut Option<String>| r.map_err(|m| *e = Some(m)).ok();
        let name = keep(line(&self.name, "name", true), &mut errors.name);
        let address = keep(line(&self.address, "address line", false), &mut errors.address);
        let climate = Climate::from_id(&self.climate);
        if climate.is_none() {
            errors.climate = Some("Choose the climate.".into());
        }
        let design = parse_temperature(&self.design, units, Field::Temperature, "design outdoor temperature");
        let design = match design {
            Ok(t) if (-70.0..=60.0).contains(&t.get()) => Some(t.get()),
            Ok(_) => {
                errors.design = Some("The design outdoor temperature must be −70 to 60 °C.".into());
                None
            }
            Err(e) => {
                errors.design = Some(e.message);
                None
            }
        };
        match (name, address, climate, design) {
            (Some(name), Some(address), Some(climate), Some(design_outdoor_c)) => {
                Ok(JobEdit { name, address, climate, design_outdoor_c })
            }
            _ => Err(errors),
        }
    }
}

fn page(who: &Who, form: JobForm, errors: Errors, job: Option<Uuid>) -> JobFormPage {
    JobFormPage {
        frame: Frame::new(who),
        form,
        errors,
        job,
        structures: blueprints().iter().map(|b| (b.id.id(), b.name.as_str(), b.note.as_str())).collect(),
        climates: Climate::ALL.iter().map(|c| (c.id(), c.words())).collect(),
        unit: who.show().temperature_unit(),
    }
}

/// An empty form, with the id the job will have.
pub async fn new(who: Who) -> impl IntoResponse {
    let form = JobForm { id: Uuid::now_v7().to_string(), ..JobForm::default() };
    page(&who, form, Errors::default(), None)
}

/// Opens the job with its starter building.
pub async fn create(who: Who, Form(form): Form<JobForm>) -> Result<Response, Failure> {
    let id: Uuid = form.id.parse().map_err(|_| Failure::BadForm("job id".into()))?;
    let structure = Structure::from_id(&form.structure);
    let parsed = form.parse(who.units());
    let (edit, blueprint) = match (parsed, structure.and_then(blueprint)) {
        (Ok(edit), Some(blueprint)) => (edit, blueprint),
        (parsed, plan) => {
            let mut errors = parsed.err().unwrap_or_default();
            if plan.is_none() {
                errors.structure = Some("Choose the kind of structure.".into());
            }
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, page(&who, form, errors, None)).into_response());
        }
    };
    let new = NewJob {
        id,
        edit,
        structure: blueprint.id,
        created_by: who.person.consultant_id,
        created_at: chrono::Utc::now(),
    };
    let scope = who.scope().await?;
    scope.create_job(&new, &blueprint.build(Uuid::now_v7)).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("/jobs/{id}")).into_response())
}

fn filled(job: &Job, who: &Who) -> JobForm {
    JobForm {
        id: job.id.to_string(),
        name: job.name.clone(),
        address: job.address.clone(),
        structure: job.structure.id().into(),
        climate: job.climate.id().into(),
        design: who.show().degrees(job.design_outdoor_c),
    }
}

/// The form of a job that exists.
pub async fn edit(who: Who, Path(id): Path<Uuid>) -> Result<impl IntoResponse, Failure> {
    let job = who.scope().await?.job(id).await?.ok_or(Failure::NotFound)?;
    let form = filled(&job, &who);
    Ok(page(&who, form, Errors::default(), Some(id)))
}

/// Stores a changed form.
pub async fn save(who: Who, Path(id): Path<Uuid>, Form(form): Form<JobForm>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    scope.job(id).await?.ok_or(Failure::NotFound)?;
    match form.parse(who.units()) {
        Err(errors) => Ok((StatusCode::UNPROCESSABLE_ENTITY, page(&who, form, errors, Some(id))).into_response()),
        Ok(edit) => {
            let act = Act::new(Uuid::now_v7(), id, who.person.consultant_id, chrono::Utc::now(), "Changed the job");
            scope.edit_job(&act, &edit).await?;
            scope.commit().await?;
            Ok(Redirect::to(&format!("/jobs/{id}")).into_response())
        }
    }
}

/// Takes a job off the docket; it can be restored from there.
pub async fn remove(who: Who, Path(id): Path<Uuid>) -> Result<Redirect, Failure> {
    let scope = who.scope().await?;
    let job = scope.job(id).await?.ok_or(Failure::NotFound)?;
    let what = format!("Removed the job {}", job.name);
    let act = Act::new(Uuid::now_v7(), id, who.person.consultant_id, chrono::Utc::now(), what);
    scope.remove_job(&act).await?;
    scope.commit().await?;
    Ok(Redirect::to("/docket"))
}

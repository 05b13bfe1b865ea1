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
use language::{known, say};
use notation::Units;
use notation::number::{plain_number, short};
use notation::unit::LENGTH;
use serde::Deserialize;
use store::{Act, Job, JobEdit, NewJob, Role, Site};
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
    height_unit: &'static str,
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
    #[serde(default)]
    altitude: String,
    #[serde(default)]
    place: String,
}

#[derive(Default)]
struct Errors {
    name: Option<String>,
    address: Option<String>,
    structure: Option<String>,
    climate: Option<String>,
    design: Option<String>,
    altitude: Option<String>,
    place: Option<String>,
}

impl Errors {
    fn any(&self) -> bool {
        let all =
            [&self.name, &self.address, &self.structure, &self.climate, &self.design, &self.altitude, &self.place];
        all.into_iter().any(Option::is_some)
    }
}

const LONGEST: usize = 120;

fn line(text: &str, what: &str, needed: bool) -> Result<String, String> {
    let text = text.trim();
    let length = text.chars().count();
    if needed && text.is_empty() {
        return Err(say!("Give the job a {what}.", what));
    }
    if length > LONGEST {
        return Err(say!(
            "The {what} is {length} characters long; {longest} at most.",
            what,
            length,
            longest = LONGEST
        ));
    }
    if text.chars().any(char::is_control) {
        return Err(say!("The {what} is one line without control characters.", what));
    }
    Ok(text.to_owned())
}

/// Above the sea, m; nothing typed is the sea's own height.
fn altitude(text: &str, units: Units) -> Result<f64, String> {
    if text.trim().is_empty() {
        return Ok(0.0);
    }
    let m =
        LENGTH.parse(text, units).map_err(|_| say!("“{short}” is no height above the sea.", short = short(text)))?;
    let [low, high] = [-500.0, 6000.0];
    let range =
        say!("The altitude must be {low} to {high}.", low = LENGTH.text(low, units), high = LENGTH.text(high, units));
    if (low..=high).contains(&m) { Ok(m) } else { Err(range) }
}

/// Latitude and longitude in degrees, north and east positive.
fn latitude_longitude(text: &str) -> Result<Option<[f64; 2]>, String> {
    let text = text.trim().replace('−', "-");
    if text.is_empty() {
        return Ok(None);
    }
    let wrong = || {
        say!("“{short}” is no place: give latitude and longitude in degrees, like 12.34, −56.78.", short = short(&text))
    };
    let parts: Vec<&str> = text.split([',', ';', ' ']).filter(|p| !p.is_empty()).collect();
    let &[north, east] = parts.as_slice() else { return Err(wrong()) };
    let at = [north, east].map(|x| plain_number(x).ok());
    match at {
        [Some(n), Some(e)] if (-90.0..=90.0).contains(&n) && (-180.0..=180.0).contains(&e) => Ok(Some([n, e])),
        _ => Err(wrong()),
    }
}

/// What was understood; what was not is told beside its field.
fn keep<T>(read: Result<T, String>, error: &mut Option<String>) -> Option<T> {
    read.map_err(|m| *error = Some(m)).ok()
}

impl JobForm {
    fn parse(&self, units: Units) -> Result<JobEdit, Box<Errors>> {
        let mut errors = Errors::default();
        let name = keep(line(&self.name, "name", true), &mut errors.name);
        let address = keep(line(&self.address, say!("address line"), false), &mut errors.address);
        let climate = Climate::from_id(&self.climate);
        if climate.is_none() {
            errors.climate = Some(say!("Choose the climate.").into());
        }
        let design = parse_temperature(&self.design, units, Field::Temperature, say!("design outdoor temperature"));
        let design = match design {
            Ok(t) if (-70.0..=60.0).contains(&t.get()) => Some(t.get()),
            Ok(_) => {
                errors.design = Some(say!("The design outdoor temperature must be −70 to 60 °C.").into());
                None
            }
            Err(e) => {
                errors.design = Some(e.message);
                None
            }
        };
        let altitude = keep(altitude(&self.altitude, units), &mut errors.altitude);
        let at = keep(latitude_longitude(&self.place), &mut errors.place);
        match (name, address, climate, design, altitude.zip(at)) {
            (Some(name), Some(address), Some(climate), Some(design_outdoor_c), Some((altitude_m, at))) => {
                Ok(JobEdit { name, address, climate, design_outdoor_c, site: Site { altitude_m, at } })
            }
            _ => Err(Box::new(errors)),
        }
    }
}

fn page(who: &Who, form: JobForm, errors: Errors, job: Option<Uuid>) -> JobFormPage {
    JobFormPage {
        frame: Frame::new(who),
        form,
        errors,
        job,
        structures: blueprints().iter().map(|b| (b.id.id(), known(&b.name), known(&b.note))).collect(),
        climates: Climate::ALL.iter().map(|c| (c.id(), known(c.words()))).collect(),
        unit: who.show().temperature_unit(),
        height_unit: LENGTH.unit(who.units()).name(),
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
            let mut errors = parsed.err().map(|e| *e).unwrap_or_default();
            if plan.is_none() {
                errors.structure = Some(say!("Choose the kind of structure.").into());
            }
            return Ok((StatusCode::UNPROCESSABLE_ENTITY, page(&who, form, errors, None)).into_response());
        }
    };
    let new = NewJob {
        id,
        edit,
        structure: blueprint.id,
        // What a trainee opens is theirs to practice on.
        rehearsal: who.person.role == Role::Trainee,
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
        altitude: if job.site.altitude_m == 0.0 {
            String::new()
        } else {
            LENGTH.typed(job.site.altitude_m, who.units())
        },
        place: job.site.at.map_or_else(String::new, |at| at.map(|x| format!("{x:.4}")).join(", ")),
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
        Err(errors) => Ok((StatusCode::UNPROCESSABLE_ENTITY, page(&who, form, *errors, Some(id))).into_response()),
        Ok(edit) => {
            let act =
                Act::new(Uuid::now_v7(), id, who.person.consultant_id, chrono::Utc::now(), say!("Changed the job"));
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
    let what = say!("Removed the job {job}", job = job.name);
    let act = Act::new(Uuid::now_v7(), id, who.person.consultant_id, chrono::Utc::now(), what);
    scope.remove_job(&act).await?;
    scope.commit().await?;
    Ok(Redirect::to("/docket"))
}

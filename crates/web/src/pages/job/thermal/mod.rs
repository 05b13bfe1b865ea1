//! Thermal pictures: brought in as matrices of temperatures, read against the room's air, set beside one another on one scale.

mod form;
mod keep;
mod sight;
mod survey;

pub use keep::{keep, take};
pub use sight::{Reported, alone, page, picture, reported};
pub use survey::survey_page;

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::places::PHOTOS;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::IntoResponse;
use casework::{CaseFile, InView};
use form::{ThermalForm, Wrong};
use logger::Scale;
use store::{Depth, Thermal};
use uuid::Uuid;

/// Tables pictures are kept in.
const TABLES: &[&str] = &["thermal"];
/// Most pictures of a job.
const MOST: usize = 500;

/// Places to choose from, in groups.
type Choices = Vec<(String, Vec<(String, String)>)>;

/// A picture in the list.
struct Row {
    id: Uuid,
    name: String,
    place: String,
    when: String,
    size: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "thermal/list.html")]
struct ThermalList {
    frame: Frame,
    job: JobFrame,
    rows: Vec<Row>,
    choices: Choices,
    form: ThermalForm,
    wrong: Vec<Wrong>,
    scales: Vec<(String, String)>,
    last: Option<LastChange>,
    act_id: Uuid,
}

impl ThermalList {
    fn error(&self, field: &str) -> Option<&str> {
        error(&self.wrong, field)
    }
}

fn error<'a>(wrong: &'a [Wrong], field: &str) -> Option<&'a str> {
    wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
}

/// The pictures of a job, and the form that brings one in.
pub async fn list(who: Who, Path(job): Path<Uuid>) -> Result<impl IntoResponse, Failure> {
    let file = who.file(job, InView::Latest, Depth::Visit).await?;
    Ok(listed(&who, &file, ThermalForm::default(), Vec::new()))
}

fn listed(who: &Who, file: &CaseFile, form: ThermalForm, wrong: Vec<Wrong>) -> ThermalList {
    let show = who.show();
    let row = |t: &Thermal| Row {
        id: t.id,
        name: t.name.clone(),
        place: t.spot.name(&file.building).to_owned(),
        when: show.moment(t.taken_at),
        size: format!("{} × {}", t.columns, t.rows),
    };
    ThermalList {
        frame: Frame::of(who, file),
        job: JobFrame::new(file, PHOTOS),
        rows: file.thermals.iter().rev().map(row).collect(),
        choices: wording::places::choices(&file.building),
        form,
        wrong,
        scales: Scale::ALL.iter().map(|s| (s.unit().to_owned(), s.unit().to_owned())).collect(),
        last: last_change(who, file, TABLES),
        act_id: Uuid::now_v7(),
    }
}

//! Drying: what got wet, getting it dry point by point, and closing in what is.

mod certificate;
mod form;
mod item;
mod point;
mod round;
mod setup;
pub mod sight;

pub use certificate::{issue, page as certificate_page};
pub use item::{keep as keep_item, page as item_page};
pub use point::page as point_page;
pub use round::{keep as keep_round, page as round_page};
pub use setup::{keep as keep_setup, page as setup_page};

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::places::DRYING;
use crate::view::last_change::{LastChange, last_change};
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::{IntoResponse, Response};
use building::drying::Water;
use casework::{CaseFile, InView};
use chrono::Utc;
use judgment::cautions::{LOCAL_CODE, Work, cautions_of};
use sight::Sight;
use store::Depth;
use uuid::Uuid;

/// Tables a drying job is kept in.
const TABLES: &[&str] = &["drying"];

/// The page.
fn address(job: Uuid) -> String {
    format!("/jobs/{job}/drying")
}

#[derive(Template, WebTemplate)]
#[template(path = "drying/drying.html")]
struct DryingPage {
    frame: Frame,
    job: JobFrame,
    sight: Sight,
    /// Whether the forecast is being asked for.
    asking: bool,
    cautions: Vec<String>,
    local_code: &'static str,
    last: Option<LastChange>,
    act_id: Uuid,
}

impl DryingPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

/// What can hurt where this water is dried.
fn cautions(file: &CaseFile) -> Vec<String> {
    let Some(event) = &file.drying.event else { return Vec::new() };
    let mut work = vec![Work::Dehumidify, Work::Electrical];
    if event.water == Water::Foul {
        work.push(Work::Sewage);
    }
    if event.growth {
        work.push(Work::Clean);
    }
    if file.drying.machines.iter().any(|m| m.kind == building::drying::MachineKind::Heater) {
        work.push(Work::Heat);
    }
    if !file.drying.taken.is_empty() {
        work.push(Work::Strip);
    }
    let kinds: Vec<_> = event.spaces.iter().filter_map(|id| file.building.space(*id)).map(|s| s.kind).collect();
    cautions_of(&kinds, &work).map(|c| c.text.clone()).collect()
}

/// The page; the setup where nothing was said yet.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    if file.drying.event.is_none() {
        return Ok(setup::page_of(&who, &file, None, Vec::new()).into_response());
    }
    let scope = who.scope().await?;
    let told = scope.forecast(job).await?;
    drop(scope);
    let show = who.show();
    let frame = Frame::of(&who, &file);
    let page = DryingPage {
        sight: sight::of(&show, &file, &told.hours, &file.certificates, Utc::now()),
        asking: told.is_asked(),
        cautions: cautions(&file).iter().map(|c| frame.say(c)).collect(),
        local_code: LOCAL_CODE,
        last: last_change(&who, &file, TABLES),
        act_id: Uuid::now_v7(),
        job: JobFrame::new(&file, DRYING),
        frame,
    };
    Ok(page.into_response())
}

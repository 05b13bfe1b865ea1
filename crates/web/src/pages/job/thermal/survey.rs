//! A thermal survey as a walk: stop by stop what to look at, ticked with what was seen.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::places::PHOTOS;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use casework::{CaseFile, InView};
use judgment::finding::finding;
use judgment::thermal::survey;
use language::say;
use store::Depth;
use uuid::Uuid;

/// What a stop may end in, and whether it was seen.
struct Tick {
    id: &'static str,
    name: &'static str,
    look: &'static str,
    /// The finding, where it was found.
    found: Option<Uuid>,
    absent: bool,
}

struct StopView {
    name: &'static str,
    look: &'static str,
    ticks: Vec<Tick>,
    /// Whether anything was said of it.
    done: bool,
}

#[derive(Template, WebTemplate)]
#[template(path = "thermal/survey.html")]
pub struct SurveyPage {
    frame: Frame,
    job: JobFrame,
    stops: Vec<StopView>,
    done: usize,
    /// Whether inside and outdoors differ enough, in words.
    contrast: String,
}

impl SurveyPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    /// Where a tick comes back to.
    fn here(&self) -> String {
        format!("/jobs/{}/thermal/survey", self.job.id)
    }
}

/// Outdoors and rooms must differ by this much to show anything, K (common practice).
const CONTRAST: f64 = 10.0;

/// Whether it is worth going round now, from what the visit read.
fn contrast(file: &CaseFile, show: &notation::Show) -> String {
    let outdoors = file.picture.outdoor.as_ref().map(|o| o.value.t.get());
    let mut warm = file.building.spaces.iter().filter(|s| s.kind.kept_warm());
    let inside = warm.find_map(|s| Some(file.picture.space(s.id)?.air.as_ref()?.value.t.get()));
    let (Some(outdoors), Some(inside)) = (outdoors, inside) else {
        return say!("Read the air outdoors and in a room first: contrast wants 10 K between them.").into();
    };
    let apart = inside - outdoors;
    let by = show.difference(apart.abs());
    let open = file.visit.as_ref().is_none_or(|v| v.ended_at.is_none());
    let (when, was) = match file.visit.as_ref().filter(|_| !open) {
        Some(visit) => (say!("On {visit} ", visit = show.day(visit.started_at)), ["differed", "was"]),
        None => (say!("Now ").to_owned(), ["differ", "is"]),
    };
    let said = match apart {
        a if a.abs() < CONTRAST => {
            say!(
                "rooms and outdoors {was} by {by}: too little. Come in the coldest or the hottest hours.",
                was = was[0],
                by
            )
        }
        a if a > 0.0 => {
            say!("outdoors {was} colder by {by}: look for cold spots. After rain, scan again.", was = was[1], by)
        }
        _ => {
            say!(
                "outdoors {was} warmer by {by}: look for warm spots; what lacks insulation or leaks shows warm.",
                was = was[1],
                by
            )
        }
    };
    let again = if open { "" } else { say!(" Read the air again before you go round.") };
    format!("{when}{said}{again}")
}

/// The walk.
pub async fn survey_page(who: Who, Path(job): Path<Uuid>) -> Result<SurveyPage, Failure> {
    let file = who.file(job, InView::Open, Depth::Visit).await?;
    let tick = |id: &'static String| {
        let known = finding(id)?;
        Some(Tick {
            id,
            name: &known.name,
            look: &known.look,
            found: file.findings.iter().find(|f| f.what == *id && f.gone_at.is_none()).map(|f| f.id),
            absent: file.absent.iter().any(|f| f.what == *id),
        })
    };
    let stop = |s: &'static judgment::thermal::SurveyStop| {
        let ticks: Vec<Tick> = s.found.iter().filter_map(tick).collect();
        let done = ticks.iter().any(|t| t.found.is_some() || t.absent);
        StopView { name: &s.name, look: &s.look, ticks, done }
    };
    let stops: Vec<StopView> = survey().iter().map(stop).collect();
    Ok(SurveyPage {
        done: stops.iter().filter(|s| s.done).count(),
        stops,
        contrast: contrast(&file, &who.show()),
        frame: Frame::of(&who, &file),
        job: JobFrame::new(&file, PHOTOS),
    })
}

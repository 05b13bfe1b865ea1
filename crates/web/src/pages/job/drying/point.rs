//! One point: its curve, why it stopped, and every reading of it.

use super::sight::figures;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::Path;
use crate::places::DRYING;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::{IntoResponse, Response};
use building::drying::{DryRead, DryScale};
use casework::InView;
use drawing::drying::{CurveOf, CurveSheet, curve_sheet};
use judgment::drying::State;
use language::say;
use store::Depth;
use uuid::Uuid;
use wording::drying::{self as words, Told};

/// Width of the drawing at a desk and on a phone.
const WIDTHS: [f64; 2] = [860.0, 380.0];

/// A reading in the table.
struct ReadRow {
    when: String,
    shown: String,
    typed: String,
    meter: String,
    checked: bool,
    by: String,
    reason: String,
    round: Uuid,
}

#[derive(Template, WebTemplate)]
#[template(path = "drying/point.html")]
struct PointPage {
    frame: Frame,
    job: JobFrame,
    id: Uuid,
    name: String,
    cavity: String,
    material: &'static str,
    state: String,
    facts: Vec<(&'static str, String)>,
    sheets: Option<[CurveSheet; 2]>,
    unit: &'static str,
    reasons: Vec<Told>,
    rows: Vec<ReadRow>,
    /// The points before and after it.
    beside: [Option<(Uuid, String)>; 2],
}

/// The page of a point.
pub async fn page(who: Who, Path((job, id)): Path<(Uuid, Uuid)>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let (show, d) = (who.show(), file.dried());
    let at = d.points.iter().position(|p| p.point.id == id).ok_or(Failure::NotFound)?;
    let p = &d.points[at];
    let reads = figures(p);
    let day = match p.said.state {
        State::Drying(day) => day,
        _ => None,
    };
    let draw = |w: f64| {
        curve_sheet(
            w,
            &CurveOf {
                reads: &reads,
                fit: p.said.fit.filter(|_| !matches!(p.said.state, State::Stalled(_))),
                lines: [p.said.goal, p.said.equilibrium],
                day,
                since: p.point.since,
                show: &show,
            },
        )
    };
    let figure = |x: Option<f64>, none: &str| x.map_or_else(|| none.to_owned(), |x| words::figure(p.point.scale, x));
    let mut facts = vec![
        (say!("Goal"), figure(p.said.goal, say!("none: no dry standard"))),
        (say!("Dry standard, as the meter shows"), figure(p.point.standard, say!("not read"))),
        (say!("Settles at, in this air"), figure(p.said.equilibrium, say!("its air was not read"))),
    ];
    if let Some((fit, _)) = p.said.fit {
        facts.push((
            say!("Dries by, of what is left a day"),
            format!("{} %", notation::number::fixed(100.0 * (1.0 - (-fit.k).exp()), 1)),
        ));
    }
    if !p.point.cover.is_empty() {
        facts.push((say!("Covered by"), p.point.cover.clone()));
    }
    if p.point.layer > 0 {
        facts.push((say!("Layer"), p.point.layer.to_string()));
    }
    let row = |r: &store::DryingReading| {
        let meter = r.instrument_id.and_then(|id| file.instrument(id));
        let ms = r.taken_at.timestamp_millis();
        let judged = p.reads.iter().find(|x| x.at == ms).map(|x| x.showed);
        ReadRow {
            when: show.moment(r.taken_at),
            shown: judged.map_or_else(String::new, |s| words::shown(p.point.scale, s)),
            typed: r.as_typed.clone(),
            meter: meter.map_or_else(|| say!("not named").into(), |i| i.name.clone()),
            checked: file.meter_is_checked(r.instrument_id, ms),
            by: file.people.get(&r.consultant_id).cloned().unwrap_or_default(),
            reason: r.reason.clone(),
            round: r.round_id,
        }
    };
    let own = file.drying_readings.iter().rev().filter(|r| r.of_id == id && r.what == DryRead::Moisture);
    let beside = |i: Option<usize>| i.and_then(|i| d.points.get(i)).map(|p| (p.point.id, p.point.name.clone()));
    let page = PointPage {
        id,
        name: p.point.name.clone(),
        cavity: p.point.cavity.clone(),
        material: &p.material.name,
        state: words::state(&show, p),
        facts,
        sheets: draw(WIDTHS[0]).zip(draw(WIDTHS[1])).map(|(a, b)| [a, b]),
        unit: if p.point.scale == DryScale::Percent {
            say!("% by pins, corrected")
        } else {
            say!("as the meter shows")
        },
        reasons: words::reasons(&show, p, d),
        rows: own.map(row).collect(),
        beside: [beside(at.checked_sub(1)), beside(Some(at + 1))],
        frame: Frame::of(&who, &file),
        job: JobFrame::new(&file, DRYING),
    };
    Ok(page.into_response())
}

//! Ready to close in: what is missing, and the certificate once nothing is.

use super::address;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::places::DRYING;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use casework::drying::{Cavity, Dried, confirming};
use casework::{CaseFile, InView};
use chrono::{DateTime, Utc};
use judgment::cautions::LOCAL_CODE;
use judgment::drying::PointRead;
use language::{known, say};
use notation::Show;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;
use store::{Certificate, Depth};
use uuid::Uuid;
use wording::drying as words;
use wording::instrument::meter_check;

/// Longest remark, characters.
const REMARK: usize = 500;

/// A reading as certified.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct Read {
    when: String,
    shown: String,
    meter: String,
    check: String,
    by: String,
}

/// A point as certified.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct Row {
    name: String,
    material: String,
    standard: String,
    goal: String,
    reads: Vec<Read>,
}

/// A certificate's words, as they were when it was issued.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct Said {
    practice: String,
    job: String,
    address: String,
    cavity: String,
    space: String,
    event: String,
    stopped: String,
    air: String,
    rows: Vec<Row>,
    sheet: String,
    by: String,
    at: String,
    zone: String,
    remark: String,
}

/// Which one: a cavity by its place in the list, or one issued.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct View {
    cavity: Option<usize>,
    issued: Option<Uuid>,
}

#[derive(Template, WebTemplate)]
#[template(path = "drying/certificate.html")]
struct CertificatePage {
    frame: Frame,
    job: JobFrame,
    said: Said,
    /// What is missing; nothing where it may be issued, or was.
    lacks: Vec<String>,
    issued: bool,
    /// Others issued for the job: address and name.
    others: Vec<(String, String)>,
    /// The cavity's space, to issue it.
    space: Uuid,
    act_id: Uuid,
    local_code: &'static str,
    wrong: Option<String>,
}

fn moment(ms: i64) -> DateTime<Utc> {
    DateTime::from_timestamp_millis(ms).unwrap_or_default()
}

fn row(show: &Show, file: &CaseFile, p: &Dried) -> Row {
    let read = |r: &PointRead| {
        let meter = r.meter.and_then(|id| file.instrument(id));
        Read {
            when: show.moment(moment(r.at)),
            shown: words::shown(p.point.scale, r.showed),
            meter: meter.map_or_else(
                || say!("not named").into(),
                |i| {
                    if i.serial.is_empty() {
                        i.name.clone()
                    } else {
                        say!("{name}, serial {serial}", name = i.name, serial = i.serial)
                    }
                },
            ),
            check: meter.map_or_else(String::new, meter_check),
            by: file.people.get(&r.by).cloned().unwrap_or_default(),
        }
    };
    let figure = |x: Option<f64>| x.map_or_else(|| "–".to_owned(), |x| words::figure(p.point.scale, x));
    Row {
        name: p.point.name.clone(),
        material: p.material.name.clone(),
        standard: figure(p.point.standard),
        goal: figure(p.said.goal),
        reads: confirming(p).iter().map(read).collect(),
    }
}

fn said(who: &Who, file: &CaseFile, c: &Cavity, now: DateTime<Utc>, remark: &str) -> Said {
    let (show, d) = (who.show(), file.dried());
    let event = file.drying.event.as_ref();
    let air = d.airs.latest(c.space).map(|a| {
        let rh = show.percent(a.air.rh(hygrothermal::air::Over::Water));
        say!(
            "{air} and {rh} on {at}",
            air = show.temperature(a.air.temperature().get()),
            rh,
            at = show.moment(moment(a.at))
        )
    });
    let slab = c.points.iter().any(|i| d.points[*i].point.material == "concrete");
    let sheet = file.drying.sheets.iter().rfind(|s| slab && s.space_id == c.space);
    Said {
        practice: who.person.practice_name.clone(),
        job: file.job.name.clone(),
        address: file.job.address.clone(),
        cavity: c.name.clone(),
        space: file.building.space(c.space).map_or_else(String::new, |s| s.name.clone()),
        event: event.map_or_else(String::new, |e| format!("{}, {}", show.moment(moment(e.at)), known(e.water.words()))),
        stopped: event.and_then(|e| Some((e, e.stopped?))).map_or_else(
            || say!("not said").into(),
            |(e, at)| {
                let how = if e.stopped_by.is_empty() { String::new() } else { format!(": {}", e.stopped_by) };
                format!("{}{how}", show.moment(moment(at)))
            },
        ),
        air: air.unwrap_or_else(|| say!("not read").into()),
        rows: c.points.iter().map(|i| row(&show, file, &d.points[*i])).collect(),
        sheet: sheet.map_or_else(String::new, |s| {
            let dry = s.grams == Some(0.0) && !s.wet_on_top;
            let days = notation::number::fixed((s.until - s.from) as f64 / 86_400_000.0, 1);
            say!(
                "{name}: {dry} after {days} days, read {until}",
                name = s.name,
                dry = if dry { say!("dry on both sides") } else { "wet" },
                days,
                until = show.day(moment(s.until))
            )
        }),
        by: who.person.name.clone(),
        at: show.moment(now),
        zone: show.zone_name(),
        remark: remark.to_owned(),
    }
}

fn page_of(
    who: &Who,
    file: &CaseFile,
    said: Said,
    (lacks, issued, space): (Vec<String>, bool, Uuid),
    all: &[Certificate],
) -> CertificatePage {
    let job = file.job.id;
    let show = who.show();
    CertificatePage {
        said,
        lacks,
        issued,
        others: all
            .iter()
            .map(|c| {
                (format!("/jobs/{job}/drying/certificate?issued={}", c.id), format!("{}, {}", c.cavity, show.day(c.at)))
            })
            .collect(),
        space,
        act_id: Uuid::now_v7(),
        local_code: LOCAL_CODE,
        wrong: None,
        frame: Frame::of(who, file),
        job: JobFrame::new(file, DRYING),
    }
}

/// The page of a cavity, or of a certificate issued.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Plan).await?;
    let all = &file.certificates;
    if let Some(id) = view.issued {
        let one = all.iter().find(|c| c.id == id).ok_or(Failure::NotFound)?;
        let said: Said = serde_json::from_value(one.said.clone()).map_err(|e| Failure::Defect(e.to_string()))?;
        return Ok(page_of(&who, &file, said, (Vec::new(), true, Uuid::nil()), all).into_response());
    }
    let d = file.dried();
    let c = view.cavity.and_then(|n| d.cavities.get(n)).ok_or(Failure::NotFound)?;
    let lacks = c.lacks.iter().map(|l| words::lack(&file, d, l)).collect();
    let said = said(&who, &file, c, Utc::now(), "");
    Ok(page_of(&who, &file, said, (lacks, false, c.space), all).into_response())
}

/// Issues a certificate; refused while something is missing.
pub async fn issue(
    who: Who,
    Path(job): Path<Uuid>,
    Form(typed): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id of a certificate".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Plan).await?;
    let d = file.dried();
    let space: Option<Uuid> = text("space").parse().ok();
    let found = d.cavities.iter().find(|c| c.name == text("cavity") && Some(c.space) == space);
    let c = found.ok_or(Failure::NotFound)?;
    let remark: String = text("remark").chars().filter(|c| !c.is_control()).collect();
    let long = remark.chars().count() > REMARK;
    let now = Utc::now();
    if !c.is_ready() || long {
        let all = &file.certificates;
        drop(scope);
        let lacks: Vec<String> = c.lacks.iter().map(|l| words::lack(&file, d, l)).collect();
        let mut page = page_of(&who, &file, said(&who, &file, c, now, &remark), (lacks, false, c.space), all);
        page.wrong = long.then(|| say!("A remark has {remark} characters at most.", remark = REMARK));
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
    }
    let said = serde_json::to_value(said(&who, &file, c, now, &remark)).map_err(|e| Failure::Defect(e.to_string()))?;
    let certificate =
        Certificate { id, job_id: job, cavity: c.name.clone(), said, consultant_id: who.person.consultant_id, at: now };
    scope.issue(certificate).await?;
    scope.commit().await?;
    Ok(Redirect::to(&format!("{address}/certificate?issued={id}", address = address(job))).into_response())
}

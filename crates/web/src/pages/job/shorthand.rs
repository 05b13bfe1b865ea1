//! The shorthand line: previewed as typed, kept whole or not at all.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::pages::job::round::{ReadingForm, open, round, usual_instrument};
use crate::view::Frame;
use casework::CaseFile;
use casework::entry;
use drawing::DropMark;

use crate::view::line::{LinePanel, LineRow};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::Station;
use building::entry::{Line, LineError, complete, name_on_line, parse_line};
use language::say;
use serde::Deserialize;
use std::sync::Arc;
use store::{Instrument, Kept, NewReading};
use uuid::Uuid;

#[derive(Template, WebTemplate)]
#[template(path = "parts/line.html")]
pub struct LinePart {
    rows: Vec<LineRow>,
}

#[derive(Deserialize)]
pub struct LineForm {
    #[serde(default)]
    id: String,
    #[serde(default)]
    line: String,
    #[serde(default)]
    keep_anyway: Option<String>,
    #[serde(default)]
    back: String,
    /// When a device without a signal took it, ms since 1970.
    #[serde(default)]
    at: String,
}

/// Most stations offered while a name is typed.
const MOST_CHOICES: usize = 6;

struct Ready {
    line: Line,
    checked: entry::Checked,
    asked: Vec<String>,
}

/// What a line would do.
pub async fn preview(who: Who, Path(job): Path<Uuid>, Query(form): Query<LineForm>) -> Result<LinePart, Failure> {
    let mut page = open(&who, job).await?;
    let rows = usual_instrument(&page)
        .cloned()
        .map(|i| read(&who, Arc::make_mut(&mut page), &i, &form.line).0)
        .unwrap_or_default();
    Ok(LinePart { rows })
}

/// Each entry is weighed as if those before it on the line were kept: a surface may follow its air.
fn read(who: &Who, page: &mut CaseFile, instrument: &Instrument, text: &str) -> (Vec<LineRow>, Vec<Ready>) {
    let mut ready = Vec::new();
    let rows = parse_line(&page.building, text)
        .into_iter()
        .map(|entry| match entry {
            Err(e) => refused(page, &e),
            Ok(line) => weigh(who, page, instrument, line, &mut ready),
        })
        .collect();
    (rows, ready)
}

fn weigh(who: &Who, page: &mut CaseFile, instrument: &Instrument, line: Line, ready: &mut Vec<Ready>) -> LineRow {
    let plain =
        |text: String| LineRow { mark: DropMark::NONE, good: false, text, asked: Vec::new(), choices: Vec::new() };
    let Some(station) = page.building.station(line.station_id).cloned() else {
        return plain(say!("No such station.").into());
    };
    let name = page.building.place_name(station.place).to_owned();
    match entry::check(page, &station, instrument, &line.reads, who.units()) {
        Err(errors) => {
            let said: Vec<String> = errors.into_iter().map(|e| e.message).collect();
            plain(format!("{name}: {}", said.join(" ")))
        }
        Ok(checked) => {
            let now = chrono::Utc::now();
            let meaning = wording::meaning::meaning(
                &who.show(),
                page,
                &station,
                instrument,
                (checked.observed, checked.accuracy),
                now,
            );
            let asked = wording::question::asked(&who.show(), &checked);
            if let Some(reading) = entry::supposed(&station, instrument, (checked.observed, checked.accuracy), now) {
                page.suppose(reading);
            }
            let (mark, head) = meaning.map_or((DropMark::NONE, String::new()), |m| (m.mark, m.head));
            let row = LineRow {
                mark,
                good: true,
                text: format!("{name}, {} → {head}", entry::as_typed(&line.reads)),
                asked: asked.clone(),
                choices: Vec::new(),
            };
            ready.push(Ready { line, checked, asked });
            row
        }
    }
}

/// Stations as shown, each with what completes the line to it.
fn offered(page: &CaseFile, ids: &[Uuid]) -> Vec<(String, String)> {
    let b = &page.building;
    let choice = |s: &Station| {
        let space = b.space_of(s.place).map_or("", |x| &x.name);
        (format!("{} ({space})", b.place_name(s.place)), name_on_line(b, s.id))
    };
    ids.iter().filter_map(|id| b.station(*id)).map(choice).collect()
}

fn refused(page: &CaseFile, error: &LineError) -> LineRow {
    let mut choices = Vec::new();
    let text = match error {
        LineError::NoFigure(t) => {
            let mut ids = complete(&page.building, t);
            ids.truncate(MOST_CHOICES);
            choices = offered(page, &ids);
            say!("“{t}” has no figure. Write a station, then what was read: crawl 18.2 81", t)
        }
        LineError::NoStation(t) => say!("“{t}” names no station. Write its name before the figures: out 9 72", t),
        LineError::Unknown(w) => {
            say!(
                "“{w}” is not understood. After the station come figures, and if need be s, ir, mc, rel, flow, water, rh, dew or wet.",
                w
            )
        }
        LineError::WrongCount(t) => say!("“{t}”: one figure for a surface, two for air.", t),
        LineError::NotFound(w) => say!("No station here is called “{w}”.", w),
        LineError::Ambiguous(w, ids) => {
            choices = offered(page, ids);
            say!("“{w}” fits several. Add a word:", w)
        }
        LineError::TooLong(n) => say!("The line is {n} characters long; 2000 at most. Nothing of it was stored.", n),
    };
    LineRow { mark: DropMark::NONE, good: false, text, asked: Vec::new(), choices }
}

/// Keeps every entry of the line, or none.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(form): Form<LineForm>) -> Result<Response, Failure> {
    let mut page = open(&who, job).await?;
    let id: Uuid = form.id.parse().map_err(|_| Failure::BadForm("line id".into()))?;
    let to = if form.back == "section" { format!("/jobs/{job}") } else { format!("/jobs/{job}/round") };
    // Sent again because the answer never arrived: all of it is stored.
    if page.row(id).is_some() {
        return Ok(Redirect::to(&to).into_response());
    }
    let Some(visit) = page.open_visit().cloned() else {
        return Err(Failure::VisitFinished);
    };
    let instrument = usual_instrument(&page).cloned().ok_or_else(|| Failure::BadForm("no instrument".into()))?;
    let (rows, ready) = read(&who, Arc::make_mut(&mut page), &instrument, &form.line);
    let doubted = ready.iter().any(|r| !r.asked.is_empty()) && form.keep_anyway.as_ref() != Some(&form.line);
    if rows.is_empty() || rows.iter().any(|r| !r.good) || doubted {
        page = open(&who, job).await?; // as stored, without what the line supposed
        let station = page.building.stations.first().ok_or(Failure::NotFound)?.clone();
        let reading = ReadingForm {
            id: Uuid::now_v7().to_string(),
            station: station.id.to_string(),
            instrument: instrument.id.to_string(),
            ..ReadingForm::default()
        };
        let panel = LinePanel { text: form.line, asked: doubted && rows.iter().all(|r| r.good), preview: rows, id };
        let view = round(&who, &page, visit, &station, reading, panel)?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, view).into_response());
    }
    let scope = who.scope().await?;
    // Each entry's id follows from the form's, so that a line sent twice is stored once.
    for (i, entry) in (0_u128..).zip(&ready) {
        let new = NewReading {
            id: Uuid::from_u128(id.as_u128().wrapping_add(i)),
            job_id: page.job.id,
            visit_id: visit.id,
            station_id: entry.line.station_id,
            instrument_id: instrument.id,
            consultant_id: who.person.consultant_id,
            value: entry.checked.value,
            as_typed: entry::as_typed(&entry.line.reads),
            questions: entry.asked.join(" "),
            replaces: None,
            taken_at: entry::moment(&form.at, chrono::Utc::now()),
        };
        if scope.keep_reading(&new).await? == Kept::CorrectedByOther {
            return Err(Failure::Defect("a new reading met another's correction".into()));
        }
    }
    scope.commit().await?;
    Ok(Redirect::to(&to).into_response())
}

#[derive(Template, WebTemplate)]
#[template(path = "card.html")]
pub struct CardPage {
    frame: Frame,
}

/// The grammar on one page.
pub async fn card(who: Who) -> CardPage {
    CardPage { frame: Frame::new(&who) }
}

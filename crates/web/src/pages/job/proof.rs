//! Proof: two spans of the log compared at like weather, so that a fix is shown to have worked, or honestly not.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Path, Query};
use crate::places::PROOF;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::response::IntoResponse;
use building::MarkKind;
use casework::proof::{LONGEST, days, spaces};
use casework::{CaseFile, InView};
use chrono::{DateTime, Datelike, Days, NaiveDate, NaiveTime, Utc};
use drawing::proof::{ProofSheet, proof_sheet};
use hygrothermal::proof::{ProofDay, proof};
use notation::Show;
use notation::number::{fixed, plain_number};
use notation::unit::TEMPERATURE;
use serde::Deserialize;
use std::sync::Arc;
use store::{Depth, LogMark};
use uuid::Uuid;
use wording::proof as words;

/// Days on each side where nobody says.
const USUAL: u64 = 28;
/// Smallest change worth naming, Pa, where nobody says.
const LEAST: f64 = 50.0;
/// Most of it.
const MOST: f64 = 2000.0;
/// Width of the drawing at a desk and on a phone.
const WIDTHS: [f64; 2] = [820.0, 380.0];

/// What is compared, as typed.
#[derive(Deserialize, Default, Clone)]
#[serde(default)]
pub struct View {
    space: Option<Uuid>,
    /// A mark at which the spans part.
    at: Option<Uuid>,
    before_from: String,
    before_until: String,
    after_from: String,
    after_until: String,
    least: String,
}

/// Something that happened, to part the spans at.
struct Split {
    href: String,
    name: String,
    here: bool,
}

/// A day in the table behind the drawing.
struct DayRow {
    side: &'static str,
    day: String,
    excess: String,
    outdoor: String,
}

struct Shown {
    head: [String; 2],
    weight: Option<String>,
    sheets: Vec<ProofSheet>,
    rows: Vec<DayRow>,
    unit: &'static str,
}

#[derive(Template, WebTemplate)]
#[template(path = "proof.html")]
struct ProofPage {
    frame: Frame,
    job: JobFrame,
    spaces: Vec<Split>,
    splits: Vec<Split>,
    view: View,
    space: Option<Uuid>,
    shown: Option<Shown>,
    wrong: Vec<(&'static str, String)>,
}

impl ProofPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }
}

/// The last thing that happened in a space, or the one asked for.
fn split(marks: &[LogMark], space: Uuid, asked: Option<Uuid>) -> Option<&LogMark> {
    let here = |m: &&LogMark| m.kind == MarkKind::Event && m.space_id.is_none_or(|s| s == space);
    asked
        .and_then(|id| marks.iter().find(|m| m.id == id))
        .or_else(|| marks.iter().filter(here).max_by_key(|m| m.from_at))
}

/// The spans a view asks for; what cannot be read is noted.
fn spans(
    view: &mut View,
    show: &Show,
    parted: DateTime<Utc>,
    now: DateTime<Utc>,
    wrong: &mut Vec<(&'static str, String)>,
) -> Option<[[DateTime<Utc>; 2]; 2]> {
    let day = show.today(parted);
    let today = show.today(now);
    let usual = [
        day.checked_sub_days(Days::new(USUAL)),
        Some(day),
        day.checked_add_days(Days::new(1)),
        day.checked_add_days(Days::new(USUAL + 1)).map(|d| d.min(today.checked_add_days(Days::new(1)).unwrap_or(d))),
    ];
    let typed = [&mut view.before_from, &mut view.before_until, &mut view.after_from, &mut view.after_until];
    let names = ["before_from", "before_until", "after_from", "after_until"];
    let mut found = Vec::new();
    for ((text, usual), name) in typed.into_iter().zip(usual).zip(names) {
        if text.trim().is_empty() {
            *text = usual.map_or_else(String::new, |d| d.to_string());
        }
        match text.trim().parse::<NaiveDate>() {
            Ok(date) => found.push(date),
            Err(_) => wrong.push((name, "A day: 2026-03-14.".into())),
        }
    }
    let [a, b, c, d] = <[NaiveDate; 4]>::try_from(found).ok()?;
    if a >= b {
        wrong.push(("before_until", "The span ends before it begins.".into()));
    }
    if c >= d {
        wrong.push(("after_until", "The span ends before it begins.".into()));
    }
    if c < b {
        wrong.push(("after_from", "The spans overlap: a day is either before or after.".into()));
    }
    if (b - a).num_days() > LONGEST || (d - c).num_days() > LONGEST {
        wrong.push(("before_from", format!("A span has {LONGEST} days at most.")));
    }
    let at = |date: NaiveDate| show.instant(date.and_time(NaiveTime::MIN));
    if wrong.is_empty() { Some([[at(a)?, at(b)?], [at(c)?, at(d)?]]) } else { None }
}

fn least(view: &View) -> Result<f64, String> {
    let typed = view.least.trim();
    if typed.is_empty() {
        return Ok(LEAST);
    }
    match plain_number(typed).map_err(|e| e.said(typed))? {
        p if (0.0..=MOST).contains(&p) => Ok(p),
        _ => Err(format!("0 to {MOST} Pa.")),
    }
}

fn shown(show: &Show, file: &CaseFile, space: &str, found: [&[ProofDay]; 2], least: f64, now: DateTime<Utc>) -> Shown {
    let said = proof(found[0], found[1], least);
    let turn = |c: f64| TEMPERATURE.shown(c, show.units);
    let rows = found.iter().zip(["before", "after"]).flat_map(|(days, side)| {
        days.iter().map(move |d| DayRow {
            side,
            day: DateTime::from_timestamp(d.at * 86_400, 0).map_or_else(String::new, |at| at.date_naive().to_string()),
            excess: format!("{} Pa", fixed(d.excess, 0)).replace('-', "−"),
            outdoor: show.temperature(d.outdoor_t),
        })
    });
    Shown {
        head: words::verdict(show, space, &said, found, file.job.climate, now.month0() as usize),
        weight: said.change.as_ref().map(|c| words::weight(c, found.map(<[ProofDay]>::len))),
        sheets: WIDTHS.map(|w| proof_sheet(w, found, said.change.as_ref(), turn)).into(),
        rows: rows.collect(),
        unit: TEMPERATURE.unit(show.units).name,
    }
}

/// The page.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let file: Arc<CaseFile> = who.file(job, InView::Latest, Depth::Argument).await?;
    let scope = who.scope().await?;
    let marks = scope.log_parts(job).await?.marks;
    let (show, now) = (who.show(), Utc::now());
    let known = spaces(&file);
    let space = view.space.and_then(|id| known.iter().find(|s| s.0 == id)).or(known.first()).copied();
    let mut view = view;
    let mut wrong = Vec::new();
    let mut made = None;
    let mut splits = Vec::new();
    if let Some((id, name)) = space {
        let here = split(&marks, id, view.at);
        let parted = here.map_or(now - chrono::TimeDelta::days(28), |m| m.from_at);
        let typed =
            [&view.before_from, &view.before_until, &view.after_from, &view.after_until].iter().any(|t| !t.is_empty());
        let least = least(&view).map_err(|why| wrong.push(("least", why))).ok();
        let asked = spans(&mut view, &show, parted, now, &mut wrong);
        if let Some((spans, least)) = asked.zip(least) {
            let found = days(&scope, &file, id, &spans).await?;
            made = Some(shown(&show, &file, name, [&found[0], &found[1]], least, now));
        }
        let one = |m: &LogMark| Split {
            href: format!("/jobs/{job}/proof?space={id}&at={}", m.id),
            name: format!("{}, {}", if m.what.is_empty() { "a mark" } else { &m.what }, show.day(m.from_at)),
            here: !typed && here.is_some_and(|h| h.id == m.id),
        };
        splits = marks.iter().filter(|m| m.kind == MarkKind::Event).map(one).collect();
    }
    let tab = |(id, name): &(Uuid, &str)| Split {
        href: format!("/jobs/{job}/proof?space={id}"),
        name: (*name).to_owned(),
        here: space.is_some_and(|s| s.0 == *id),
    };
    Ok(ProofPage {
        spaces: known.iter().map(tab).collect(),
        splits,
        space: space.map(|s| s.0),
        view,
        shown: made,
        wrong,
        frame: Frame::of(&who, &file),
        job: JobFrame::new(&file, PROOF),
    })
}

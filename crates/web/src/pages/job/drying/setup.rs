//! What got wet: the water, how far it went, whether it is stopped, and, the first time, points and machines at one go.

use super::address;
use super::form::{NAME, NO_STANDARD, WORDS, material_options, spaces};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::fields::{Options, Reader, Typed, Wrongs, local};
use crate::places::DRYING;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::drying::{DryPoint, DryScale, DryingItem, Machine, MachineKind, Run, Spread, Water, WetEvent};
use building::{Boundary, Face};
use casework::{CaseFile, InView};
use chrono::{DateTime, Utc};
use judgment::drying::material;
use language::{known, say};
use notation::Show;
use notation::number::plain_number;
use notation::unit::DAILY;
use store::{Act, Depth};
use uuid::Uuid;

/// Most points of a boundary, and most machines of a kind, at one go.
const MOST: f64 = 20.0;

/// A boundary that may have got wet.
struct Row {
    id: Uuid,
    name: String,
    space: String,
    material: String,
    count: String,
    standard: String,
    error: Option<String>,
}

#[derive(Template, WebTemplate)]
#[template(path = "drying/setup.html")]
pub(super) struct SetupPage {
    frame: Frame,
    job: JobFrame,
    /// Whether nothing was said yet.
    is_new: bool,
    typed: Typed,
    waters: Options,
    spreads: Options,
    spaces: Options,
    rows: Vec<Row>,
    materials: Options,
    daily: &'static str,
    wrong: Wrongs,
    act_id: Uuid,
}

impl SetupPage {
    fn text(&self, name: &str) -> &str {
        self.typed.get(name).map_or("", String::as_str)
    }

    fn checked(&self, name: &str) -> bool {
        self.typed.contains_key(name)
    }

    fn error(&self, name: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| f == name).map(|(_, e)| e.as_str())
    }
}

/// What was said, as it is typed.
fn as_typed(event: &WetEvent, show: &Show) -> Typed {
    let mut all = vec![
        ("at".to_owned(), local(show, event.at)),
        ("words".into(), event.words.clone()),
        ("which_water".into(), event.water.id().into()),
        ("spread".into(), event.spread.id().into()),
        ("stopped".into(), event.stopped.map_or_else(String::new, |ms| local(show, ms))),
        ("stopped_by".into(), event.stopped_by.clone()),
        ("unaffected".into(), event.unaffected.map_or_else(String::new, |id| id.to_string())),
    ];
    all.extend(event.spaces.iter().map(|s| (format!("space.{s}"), "1".to_owned())));
    if event.growth {
        all.push(("growth".into(), "1".into()));
    }
    all.into_iter().collect()
}

pub(super) fn page_of(who: &Who, file: &CaseFile, typed: Option<Typed>, wrong: Wrongs) -> SetupPage {
    let show = who.show();
    let event = file.drying.event.as_ref();
    let typed = typed.unwrap_or_else(|| event.map_or_else(Typed::new, |e| as_typed(e, &show)));
    let text = |name: &str| typed.get(name).cloned().unwrap_or_default();
    let row = |b: &Boundary| Row {
        id: b.id,
        name: b.name.clone(),
        space: file.building.space(b.space_id).map_or_else(String::new, |s| s.name.clone()),
        material: text(&format!("material.{id}", id = b.id)),
        count: text(&format!("count.{id}", id = b.id)),
        standard: text(&format!("standard.{id}", id = b.id)),
        error: wrong.iter().find(|(f, _)| *f == format!("row.{id}", id = b.id)).map(|(_, e)| e.clone()),
    };
    let rows = if event.is_none() { file.building.boundaries.iter().map(row).collect() } else { Vec::new() };
    SetupPage {
        is_new: event.is_none(),
        rows,
        waters: Water::ALL.iter().map(|w| (w.id().into(), known(w.words()).into())).collect(),
        spreads: Spread::ALL.iter().map(|w| (w.id().into(), known(w.words()).into())).collect(),
        spaces: spaces(file),
        materials: material_options(),
        daily: DAILY.unit(show.units).name(),
        typed,
        wrong,
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, DRYING),
    }
}

/// The page, to change what was said.
pub async fn page(who: Who, Path(job): Path<Uuid>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    Ok(page_of(&who, &file, None, Vec::new()).into_response())
}

fn event(r: &mut Reader<'_>, file: &CaseFile, now: DateTime<Utc>) -> Option<WetEvent> {
    let at = r.moment("at", now);
    if at.is_none() && r.text("at").is_empty() {
        r.bad("at", say!("When did it get wet?"));
    }
    let (water, spread) = (Water::from_id(r.text("which_water")), Spread::from_id(r.text("spread")));
    if water.is_none() {
        r.bad("which_water", say!("Which water? It decides what may stay."));
    }
    if spread.is_none() {
        r.bad("spread", say!("How far did it go?"));
    }
    let words = r.line("words", WORDS, None);
    let stopped_by = r.line("stopped_by", WORDS, None);
    let stopped = r.moment("stopped", now);
    if stopped.is_none() && r.text("stopped").is_empty() && !stopped_by.is_empty() {
        r.bad("stopped", say!("When was it stopped?"));
    }
    let all = file.building.spaces.iter().map(|s| s.id);
    let wet: Vec<Uuid> = all.filter(|id| r.checked(&format!("space.{id}"))).collect();
    if wet.is_empty() {
        r.bad("spaces", say!("Which spaces got wet?"));
    }
    let unaffected = r.text("unaffected").parse().ok().filter(|id| file.building.space(*id).is_some());
    if unaffected.is_some_and(|u| wet.contains(&u)) {
        r.bad("unaffected", say!("That one got wet: choose one that did not, or none."));
    }
    Some(WetEvent {
        at: at?,
        words,
        water: water?,
        spread: spread?,
        stopped,
        stopped_by,
        growth: r.checked("growth"),
        spaces: wet,
        unaffected,
    })
}

/// Names of so many points of a boundary, low ones first.
fn names(face: Face, name: &str, count: usize) -> Vec<String> {
    let heights: &[&str] = match (face, count) {
        (_, 1) => return vec![name.to_owned()],
        (Face::Floor | Face::Ceiling, _) => &[],
        (_, 2) => &["low", "high"],
        (_, 3) => &["low", "middle", "high"],
        _ => &[],
    };
    let of = |i: usize| heights.get(i).map_or_else(|| (i + 1).to_string(), |h| (*h).to_owned());
    (0..count).map(|i| format!("{name}, {}", of(i))).collect()
}

/// Points of the boundaries a material was chosen for.
fn points(r: &mut Reader<'_>, file: &CaseFile, first: Uuid) -> Vec<DryingItem> {
    let mut all = Vec::new();
    for b in &file.building.boundaries {
        let Some(of) = material(r.text(&format!("material.{id}", id = b.id))) else { continue };
        let key = format!("row.{id}", id = b.id);
        let figure = |text: &str, [low, high]: [f64; 2], usual: Option<f64>| match plain_number(text) {
            _ if text.is_empty() => Ok(usual),
            Ok(x) if (low..=high).contains(&x) => Ok(Some(x)),
            Ok(_) => Err(say!("{low} to {high}.", low, high)),
            Err(e) => Err(e.said(text)),
        };
        let most = if of.scale == DryScale::Percent { 100.0 } else { 1000.0 };
        let count = figure(r.text(&format!("count.{id}", id = b.id)), [1.0, MOST], Some(2.0));
        let standard = figure(r.text(&format!("standard.{id}", id = b.id)), [0.1, most], None);
        let (count, standard) = match (count, standard) {
            (Ok(n), Ok(s)) => (n.unwrap_or(1.0) as usize, s),
            (Err(e), _) => {
                r.bad(&key, say!("Points: {e}", e));
                continue;
            }
            (_, Err(e)) => {
                r.bad(&key, say!("Dry standard: {e}", e));
                continue;
            }
        };
        if of.scale == DryScale::Relative && standard.is_none() {
            r.bad(&key, NO_STANDARD);
            continue;
        }
        for name in names(b.face, &b.name, count) {
            let n = all.len();
            all.push(DryingItem::Point(DryPoint {
                id: numbered(first, n),
                space_id: b.space_id,
                cavity: b.name.chars().take(NAME).collect(),
                name: name.chars().take(NAME).collect(),
                material: of.id.clone(),
                scale: of.scale,
                species: of.species.clone(),
                standard,
                goal: None,
                cover: String::new(),
                tent: None,
                layer: 0,
                since: None,
                order: u16::try_from(n + 1).unwrap_or(u16::MAX),
            }));
        }
    }
    all
}

/// Ids that follow from the form's own: sent twice they are the same.
const fn numbered(first: Uuid, n: usize) -> Uuid {
    Uuid::from_u128(first.as_u128().wrapping_add(1 + n as u128))
}

/// Dehumidifiers and air movers by their number.
fn machines(r: &mut Reader<'_>, event: &WetEvent, first: Uuid, now: DateTime<Utc>) -> Vec<DryingItem> {
    let units = r.figure("dehumidifiers", [0.0, MOST], "").unwrap_or(0.0) as usize;
    let movers = r.figure("movers", [0.0, MOST], "").unwrap_or(0.0) as usize;
    let text = r.text("rated");
    let rated = match DAILY.parse(text, r.show.units) {
        _ if text.is_empty() => None,
        Ok(l) if (0.1..=500.0).contains(&l) => Some(l),
        Ok(_) => {
            r.bad(
                "rated",
                say!(
                    "{units} to {units2}.",
                    units = DAILY.text(0.1, r.show.units),
                    units2 = DAILY.text(500.0, r.show.units)
                ),
            );
            None
        }
        Err(e) => {
            r.bad("rated", e);
            None
        }
    };
    if units > 0 && rated.is_none() && text.is_empty() {
        r.bad("rated", say!("What does the label say one takes out a day?"));
    }
    let Some(space_id) = event.spaces.first().copied() else { return Vec::new() };
    let kinds =
        std::iter::repeat_n(MachineKind::Compressor, units).chain(std::iter::repeat_n(MachineKind::AirMover, movers));
    let named = |i: usize, kind: MachineKind| match kind {
        MachineKind::Compressor => say!("Dehumidifier {i}", i = i + 1),
        _ => say!("Air mover {units}", units = i + 1 - units),
    };
    kinds
        .enumerate()
        .map(|(i, kind)| {
            DryingItem::Machine(Machine {
                id: numbered(first, 1000 + i),
                kind,
                name: named(i, kind),
                space_id,
                rated: rated.filter(|_| kind.dries()),
                rated_warm: false,
                watts: None,
                setting: String::new(),
                runs: vec![Run { from: now.timestamp_millis(), until: None }],
            })
        })
        .collect()
}

/// Keeps what got wet; the first time with points and machines.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(typed): Form<Typed>) -> Result<Response, Failure> {
    let act_id: Uuid =
        typed.get("id").and_then(|id| id.parse().ok()).ok_or_else(|| Failure::BadForm("id of a change".into()))?;
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Argument).await?;
    if scope.acted(job, act_id).await? {
        return Ok(Redirect::to(&address(job)).into_response());
    }
    let (now, show) = (Utc::now(), who.show());
    let is_new = file.drying.event.is_none();
    let mut r = Reader::new(&typed, &show);
    let said = event(&mut r, &file, now);
    let mut items = if is_new { points(&mut r, &file, act_id) } else { Vec::new() };
    if let (true, Some(event)) = (is_new, &said) {
        items.extend(machines(&mut r, event, act_id, now));
    }
    let wrong = r.wrong;
    let Some(said) = said.filter(|_| wrong.is_empty()) else {
        drop(scope);
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, page_of(&who, &file, Some(typed), wrong)).into_response());
    };
    items.push(DryingItem::Event(said));
    let did = if is_new { say!("Set up drying") } else { say!("Changed what got wet") };
    scope.keep_drying(&Act::new(act_id, job, who.person.consultant_id, now, did), &items, &[]).await?;
    scope.commit().await?;
    Ok(Redirect::to(&address(job)).into_response())
}

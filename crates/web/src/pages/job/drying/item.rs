//! A part of a drying job on a page of its own: a point, a machine, what was taken out, a sheet.

use super::address;
use super::form::{What, as_typed, fields, read};
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path, Query};
use crate::fields::{Field, Input, Typed, Wrongs};
use crate::places::DRYING;
use crate::view::{Frame, JobFrame};
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::drying::{DryingItem, Machine, Run};
use casework::{CaseFile, InView};
use chrono::{DateTime, Utc};
use language::say;
use serde::Deserialize;
use store::{Act, Depth};
use uuid::Uuid;

/// Which part.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct View {
    what: String,
    of: Option<Uuid>,
}

#[derive(Template, WebTemplate)]
#[template(path = "drying/item.html")]
pub(super) struct ItemPage {
    frame: Frame,
    job: JobFrame,
    title: &'static str,
    what: &'static str,
    of: Option<Uuid>,
    fields: Vec<Field>,
    wrong: Wrongs,
    act_id: Uuid,
}

impl ItemPage {
    fn error(&self, name: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| f == name).map(|(_, e)| e.as_str())
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

fn page_of(who: &Who, file: &CaseFile, what: What, of: Option<Uuid>, typed: &Typed, wrong: Wrongs) -> ItemPage {
    ItemPage {
        title: what.words(of.is_none()),
        what: what.id(),
        of,
        fields: fields(what, file, typed, &who.show()),
        wrong,
        act_id: Uuid::now_v7(),
        frame: Frame::of(who, file),
        job: JobFrame::new(file, DRYING),
    }
}

/// The page of one, or of a new one.
pub async fn page(who: Who, Path(job): Path<Uuid>, Query(view): Query<View>) -> Result<Response, Failure> {
    let file = who.file(job, InView::Latest, Depth::Argument).await?;
    let what = What::from_id(&view.what).ok_or(Failure::NotFound)?;
    let typed = match view.of {
        Some(id) => as_typed(&what.find(&file.drying, id).ok_or(Failure::NotFound)?, &who.show()),
        None => Typed::new(),
    };
    Ok(page_of(&who, &file, what, view.of, &typed, Vec::new()).into_response())
}

/// What an act is called.
fn called(item: &DryingItem) -> String {
    match item {
        DryingItem::Event(_) => say!("what got wet").into(),
        DryingItem::Point(p) => say!("the point {cavity}, {name}", cavity = p.cavity, name = p.name),
        DryingItem::Machine(m) => say!("the machine {name}", name = m.name),
        DryingItem::Taken(t) => say!("{what}, taken out", what = t.what),
        DryingItem::Sheet(s) => say!("the sheet {name}", name = s.name),
    }
}

/// A machine started or stopped now; as it is where it runs, or stands, already.
fn turned(machine: &Machine, start: bool, now: i64) -> Machine {
    let mut runs = machine.runs.clone();
    match (start, machine.ran_at(now)) {
        (true, false) => runs.push(Run { from: now, until: None }),
        (false, true) => {
            if let Some(last) = runs.last_mut() {
                last.until = Some(now.max(last.from));
            }
        }
        _ => {}
    }
    Machine { runs, ..machine.clone() }
}

/// Keeps a part, takes it away, or starts or stops a machine.
pub async fn keep(who: Who, Path(job): Path<Uuid>, Form(typed): Form<Typed>) -> Result<Response, Failure> {
    let text = |name: &str| typed.get(name).map_or("", |t| t.trim());
    let act_id: Uuid = text("id").parse().map_err(|_| Failure::BadForm("id of a change".into()))?;
    let what = What::from_id(text("what")).ok_or_else(|| Failure::BadForm("what it is".into()))?;
    let of: Option<Uuid> = text("of").parse().ok();
    let scope = who.scope().await?;
    if !scope.hold_job(job).await? {
        return Err(Failure::NotFound);
    }
    let file = CaseFile::load(&scope, job, InView::Latest, Depth::Argument).await?;
    let there = of.map(|id| what.find(&file.drying, id).ok_or(Failure::NotFound)).transpose();
    let acted = scope.acted(job, act_id).await?;
    let now: DateTime<Utc> = Utc::now();
    let there = match there {
        Ok(there) => there,
        // Sent again after it was taken away.
        Err(_) if acted => None,
        Err(e) => return Err(e),
    };
    let act = |what: String| Act::new(act_id, job, who.person.consultant_id, now, what);
    match (text("act"), &there) {
        _ if acted => {}
        ("remove", Some(item)) => {
            scope
                .keep_drying(&act(say!("Removed {called}", called = called(item))), &[], std::slice::from_ref(item))
                .await?;
        }
        (turn @ ("start" | "stop"), Some(DryingItem::Machine(m))) => {
            let turned = turned(m, turn == "start", now.timestamp_millis());
            let did = if turn == "start" { say!("Started") } else { say!("Stopped") };
            let item = DryingItem::Machine(turned);
            scope.keep_drying(&act(format!("{did} {}", called(&item))), &[item], &[]).await?;
        }
        ("remove" | "start" | "stop", _) => return Err(Failure::NotFound),
        _ => {
            let full = of.is_none() && what.is_full(&file.drying);
            let made = if full {
                Err(vec![(String::new(), say!("There is no room for more: remove some first.").to_owned())])
            } else {
                read(what, &file, &typed, &who.show(), [of.unwrap_or(act_id), act_id], now)
            };
            let items = match made {
                Ok(items) => items,
                Err(wrong) => {
                    drop(scope);
                    let page = page_of(&who, &file, what, of, &typed, wrong);
                    return Ok((StatusCode::UNPROCESSABLE_ENTITY, page).into_response());
                }
            };
            let did = if of.is_some() { say!("Changed") } else { say!("Added") };
            let said = match items.as_slice() {
                [one] => format!("{did} {}", called(one)),
                many => say!("Added {many} points", many = many.len()),
            };
            scope.keep_drying(&act(said), &items, &[]).await?;
        }
    }
    scope.commit().await?;
    let onward = match (what, of, text("act")) {
        (What::Point, Some(id), act) if act != "remove" => format!("/jobs/{job}/drying/points/{id}"),
        _ => address(job),
    };
    Ok(Redirect::to(&onward).into_response())
}

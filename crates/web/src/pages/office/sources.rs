//! A practice's own sources of water, for budgets.

use super::one_line as words;
use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Query};
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use building::timetable::OwnSource;
use chrono::Utc;
use judgment::budget::{Item, items};
use language::{known_of, say};
use notation::Show;
use notation::number::plain_number;
use notation::unit::LITERS;
use serde::Deserialize;
use store::PracticeAct;
use uuid::Uuid;

/// Longest name, unit and source, characters.
const LONGEST: [usize; 3] = [60, 30, 200];
/// Most own sources of a practice, and most liters of one.
const MOST: usize = 200;
const WETTEST: f64 = 1000.0;

/// A source in the list.
struct Row {
    id: Option<Uuid>,
    name: String,
    figures: String,
    source: String,
}

#[derive(Template, WebTemplate)]
#[template(path = "sources.html")]
struct SourcesPage {
    frame: Frame,
    own: Vec<Row>,
    known: Vec<Row>,
    form: SourceForm,
    wrong: Vec<(&'static str, String)>,
    unit: &'static str,
    act_id: Uuid,
}

impl SourcesPage {
    fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }

    fn kinds(&self) -> Vec<(String, String)> {
        [("hour", say!("an hour, for each")), ("once", say!("all at once, for each"))]
            .map(|(a, b)| (a.into(), b.into()))
            .into()
    }
}

/// A source as typed.
#[derive(Deserialize, Default)]
#[serde(default)]
pub struct SourceForm {
    id: Option<Uuid>,
    /// The source, where it is there already.
    known: String,
    act: String,
    name: String,
    per: String,
    liters: String,
    given: String,
    source: String,
}

#[derive(Deserialize)]
pub struct View {
    known: Option<Uuid>,
}

impl SourceForm {
    fn of(s: &OwnSource, show: &Show) -> Self {
        Self {
            known: s.id.to_string(),
            name: s.name.clone(),
            per: s.per.clone(),
            liters: LITERS.typed(s.liters, show.units),
            given: if s.at_once { "once" } else { "hour" }.into(),
            source: s.source.clone(),
            ..Self::default()
        }
    }

    fn read(&self, id: Uuid, show: &Show) -> Result<OwnSource, Vec<(&'static str, String)>> {
        let mut wrong = Vec::new();
        let mut field = |name: &'static str, read: Result<String, String>| {
            read.unwrap_or_else(|why| {
                wrong.push((name, why));
                String::new()
            })
        };
        let name = field("name", words(&self.name, LONGEST[0], say!("Give it a name.")));
        let per = field("per", words(&self.per, LONGEST[1], say!("Say what is counted: people, kg, pots.")));
        let source = field("source", words(&self.source, LONGEST[2], say!("Say where the figure comes from.")));
        let liters = plain_number(&self.liters)
            .map_err(|e| e.said(&self.liters))
            .and_then(|_| LITERS.parse(&self.liters, show.units));
        let liters = match liters {
            Ok(l) if l > 0.0 && l <= WETTEST => l,
            Ok(_) => {
                wrong.push((
                    "liters",
                    say!("More than 0 and at most {units}.", units = LITERS.text(WETTEST, show.units)),
                ));
                0.0
            }
            Err(why) => {
                wrong.push(("liters", why));
                0.0
            }
        };
        if !["hour", "once"].contains(&self.given.as_str()) {
            wrong.push(("given", say!("Say whether that is an hour’s or all of it.").into()));
        }
        if wrong.is_empty() {
            Ok(OwnSource { id, name, per, liters, at_once: self.given == "once", source })
        } else {
            Err(wrong)
        }
    }
}

async fn shown(who: &Who, form: SourceForm, wrong: Vec<(&'static str, String)>) -> Result<SourcesPage, Failure> {
    let show = who.show();
    let given = |l: f64, once: bool, per: &str| {
        format!("{} {}, {per}", LITERS.text(l, show.units), if once { say!("at once") } else { say!("an hour") })
    };
    let own = |s: &OwnSource| Row {
        id: Some(s.id),
        name: s.name.clone(),
        figures: given(s.liters, s.at_once, &s.per),
        source: s.source.clone(),
    };
    let known = |i: &Item| Row {
        id: None,
        name: known_of(&i.name),
        figures: given(i.liters[1], i.kind == judgment::budget::Kind::Event, &known_of(&i.per)),
        source: known_of(&i.source),
    };
    Ok(SourcesPage {
        frame: Frame::new(who),
        own: who.scope().await?.own_sources().await?.iter().map(own).collect(),
        known: items().iter().filter(|i| i.liters[1] > 0.0).map(known).collect(),
        form,
        wrong,
        unit: LITERS.unit(show.units).name(),
        act_id: Uuid::now_v7(),
    })
}

/// The practice's own sources, one of them to change.
pub async fn page(who: Who, Query(view): Query<View>) -> Result<impl IntoResponse, Failure> {
    let own = match view.known {
        Some(id) => who.scope().await?.own_sources().await?.into_iter().find(|s| s.id == id),
        None => None,
    };
    let form = own.map_or_else(SourceForm::default, |s| SourceForm::of(&s, &who.show()));
    shown(&who, form, Vec::new()).await
}

/// Keeps or removes one.
pub async fn keep(who: Who, Form(form): Form<SourceForm>) -> Result<Response, Failure> {
    let id = form.id.ok_or_else(|| Failure::BadForm("id".into()))?;
    let act = PracticeAct { id, by: who.person.consultant_id, at: Utc::now() };
    let scope = who.scope().await?;
    let known: Option<Uuid> = form.known.parse().ok();
    if form.act == "remove" {
        scope.remove_own_source(act, known.ok_or_else(|| Failure::BadForm("source".into()))?).await?;
        scope.commit().await?;
        return Ok(Redirect::to("/sources").into_response());
    }
    let there = scope.own_sources().await?;
    let id = known.filter(|k| there.iter().any(|s| s.id == *k)).unwrap_or(id);
    let full = there.len() >= MOST && !there.iter().any(|s| s.id == id);
    let read = form.read(id, &who.show()).and_then(|s| match full {
        true => Err(vec![("name", say!("A practice has {most} own sources at most: remove one first.", most = MOST))]),
        false => Ok(s),
    });
    match read {
        Ok(source) => {
            scope.keep_own_source(act, &source).await?;
            scope.commit().await?;
            Ok(Redirect::to("/sources").into_response())
        }
        Err(wrong) => {
            drop(scope);
            Ok((StatusCode::UNPROCESSABLE_ENTITY, shown(&who, form, wrong).await?).into_response())
        }
    }
}

//! The practice's price book, and the schools it works by.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::view::Frame;
use askama::Template;
use askama_web::WebTemplate;
use axum::http::StatusCode;
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use judgment::plan::{items, question, questions};
use language::say;
use notation::cents;
use serde::Deserialize;
use std::collections::{BTreeMap, HashMap};
use store::{PracticeAct, Setting};
use uuid::Uuid;
use wording::plan::{price_factor, priced_for};
use wording::practice_change::{ChangeRow, name, told};

/// Longest currency, characters.
const LONGEST_CURRENCY: usize = 8;

#[derive(Template, WebTemplate)]
#[template(path = "prices.html")]
struct PricesPage {
    frame: Frame,
    currency: Field,
    groups: Vec<(&'static str, Vec<Row>)>,
    wrong: bool,
    kept: bool,
    schools: Vec<SchoolRow>,
    changes: Vec<ChangeRow>,
    /// Why a change was not undone.
    refused: Option<String>,
}

impl PricesPage {
    fn new_id(&self) -> Uuid {
        Uuid::now_v7()
    }
}

struct Row {
    id: &'static str,
    name: &'static str,
    per: String,
    value: String,
    /// What stood there when the page was made.
    was: String,
    error: Option<String>,
}

struct SchoolRow {
    id: &'static str,
    name: &'static str,
    because: &'static str,
    options: Vec<(&'static str, &'static str, bool)>,
    own: bool,
}

/// A field: what was typed, what stood there before, and what is wrong with it.
type Field = (String, String, Option<String>);

/// A form that came back.
struct Typed {
    currency: Field,
    prices: HashMap<&'static str, Field>,
}

impl Typed {
    fn is_wrong(&self) -> bool {
        self.currency.2.is_some() || self.prices.values().any(|f| f.2.is_some())
    }
}

async fn view_of(who: &Who, typed: Option<Typed>) -> Result<PricesPage, Failure> {
    let show = who.show();
    let scope = who.scope().await?;
    let book = scope.price_book().await?;
    let own = scope.practice_schools().await?;
    let names = scope.consultant_names().await?;
    let stored = |item: &'static judgment::plan::Item| {
        let cents = book.cents.get(&item.id).copied();
        let text = cents.map(|c| format!("{:.2}", c as f64 / 100.0 * price_factor(&show, item))).unwrap_or_default();
        (text.clone(), text, None)
    };
    let mut groups: Vec<(&'static str, Vec<Row>)> = Vec::new();
    for item in items() {
        let given = typed.as_ref().and_then(|t| t.prices.get(item.id.as_str()).cloned());
        let (value, was, error) = given.unwrap_or_else(|| stored(item));
        let row = Row { id: &item.id, name: &item.name, per: priced_for(&show, item), value, was, error };
        match groups.last_mut() {
            Some((name, rows)) if *name == item.group => rows.push(row),
            _ => groups.push((&item.group, vec![row])),
        }
    }
    let school = |q: &'static judgment::plan::Question| SchoolRow {
        id: &q.id,
        name: &q.name,
        because: &q.because,
        options: q.schools.iter().map(|s| (s.id.as_str(), s.name.as_str(), own.get(&q.id) == Some(&s.id))).collect(),
        own: own.contains_key(&q.id),
    };
    Ok(PricesPage {
        frame: Frame::new(who),
        wrong: typed.as_ref().is_some_and(Typed::is_wrong),
        currency: typed.map_or((book.currency.clone(), book.currency, None), |t| t.currency),
        groups,
        kept: who.here.ends_with("?kept"),
        schools: questions().iter().map(school).collect(),
        changes: scope.practice_changes().await?.iter().map(|c| told(&show, &names, c)).collect(),
        refused: None,
    })
}

/// The price book.
pub async fn page(who: Who) -> Result<impl IntoResponse, Failure> {
    view_of(&who, None).await
}

/// Keeps all prices; an empty one is none.
pub async fn keep(who: Who, Form(fields): Form<HashMap<String, String>>) -> Result<Response, Failure> {
    let show = who.show();
    let act = act(&who, fields.get("id").and_then(|id| id.parse().ok()))?;
    let field = |name: &str| fields.get(name).map_or("", |t| t.trim()).to_owned();
    let mut changes = BTreeMap::new();
    let mut typed = Typed { currency: (field("currency"), field("was-currency"), None), prices: HashMap::new() };
    for item in items() {
        let (text, was) = (field(&item.id), field(&format!("was-{item}", item = item.id)));
        // Only what was changed here is written: somebody else may have changed the rest meanwhile.
        let price = || if text.is_empty() { Ok(None) } else { cents(&text, price_factor(&show, item)).map(Some) };
        let error = match (text != was).then(price) {
            Some(Ok(cents)) => {
                changes.insert(Setting::Price(item.id.clone()), cents.map(|c| c.to_string()));
                None
            }
            Some(Err(message)) => Some(message.to_owned()),
            None => None,
        };
        typed.prices.insert(&item.id, (text, was, error));
    }
    let (currency, was, _) = &typed.currency;
    let letters = currency.chars().count() <= LONGEST_CURRENCY && !currency.chars().any(char::is_control);
    if currency != was {
        changes.insert(Setting::Currency, Some(currency.clone()));
    }
    if !letters || currency.is_empty() {
        typed.currency.2 = Some(say!("A currency has one to eight letters or signs, like EUR.").to_owned());
    }
    if typed.is_wrong() {
        let again = view_of(&who, Some(typed)).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let scope = who.scope().await?;
    scope.settle(act, changes).await?;
    scope.commit().await?;
    Ok(Redirect::to("/prices?kept").into_response())
}

fn act(who: &Who, id: Option<Uuid>) -> Result<PracticeAct, Failure> {
    let id = id.ok_or_else(|| Failure::BadForm("id".into()))?;
    Ok(PracticeAct { id, by: who.person.consultant_id, at: Utc::now() })
}

#[derive(Deserialize)]
pub struct SchoolForm {
    id: Uuid,
    #[serde(default)]
    choice: String,
}

/// Makes a school the practice's way, or leaves the question to each building.
pub async fn school(who: Who, Path(id): Path<String>, Form(form): Form<SchoolForm>) -> Result<Redirect, Failure> {
    let asked = question(&id).ok_or(Failure::NotFound)?;
    let choice = asked.schools.iter().find(|s| s.id == form.choice).map(|s| s.id.as_str());
    let scope = who.scope().await?;
    let settled = (Setting::School(asked.id.clone()), choice.map(str::to_owned));
    scope.settle(act(&who, Some(form.id))?, [settled].into()).await?;
    scope.commit().await?;
    Ok(Redirect::to("/prices#schools"))
}

#[derive(Deserialize)]
pub struct UndoForm {
    id: Uuid,
    change: Uuid,
}

/// Takes a change of prices, currency or schools back.
pub async fn undo(who: Who, Form(form): Form<UndoForm>) -> Result<Response, Failure> {
    let scope = who.scope().await?;
    let since = scope.undo_practice_change(act(&who, Some(form.id))?, form.change).await?.ok_or(Failure::NotFound)?;
    if since.is_empty() {
        scope.commit().await?;
        return Ok(Redirect::to("/prices#changes").into_response());
    }
    let names: Vec<String> = since.iter().map(|s| name(&who.show(), s)).collect();
    let mut again = view_of(&who, None).await?;
    again.refused = Some(say!("Not undone: changed again since: {names}.", names = names.join("; ")));
    Ok((StatusCode::CONFLICT, again).into_response())
}

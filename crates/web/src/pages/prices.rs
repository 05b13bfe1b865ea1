//! The practice's price book, and the schools it works by.

use crate::auth::Who;
use crate::error::Failure;
use crate::extract::{Form, Path};
use crate::token::Token;
use crate::view::Frame;
use crate::view::plan::{price_factor, priced_for};
use askama::Template;
use askama_web::WebTemplate;
use axum::Extension;
use axum::http::{StatusCode, Uri};
use axum::response::{IntoResponse, Redirect, Response};
use chrono::Utc;
use judgement::plan::{items, question, questions};
use serde::Deserialize;
use std::collections::{BTreeMap, HashMap};
use store::PriceBook;

/// Longest currency, characters.
const LONGEST_CURRENCY: usize = 8;
/// Dearest thing, hundredths.
const DEAREST: f64 = 1e9;

#[derive(Template, WebTemplate)]
#[template(path = "prices.html")]
struct PricesPage {
    frame: Frame,
    currency: String,
    currency_error: Option<String>,
    groups: Vec<(&'static str, Vec<Row>)>,
    wrong: bool,
    kept: bool,
    schools: Vec<SchoolRow>,
}

struct Row {
    id: &'static str,
    name: &'static str,
    per: String,
    value: String,
    error: Option<String>,
}

struct SchoolRow {
    id: &'static str,
    name: &'static str,
    because: &'static str,
    options: Vec<(&'static str, &'static str, bool)>,
    own: bool,
}

/// What was typed: by item, and what is wrong with it.
type Typed = HashMap<&'static str, (String, Option<String>)>;

async fn view_of(
    who: &Who,
    token: &Token,
    uri: &Uri,
    typed: Option<(String, Option<String>, Typed)>,
) -> Result<PricesPage, Failure> {
    let show = who.show();
    let scope = who.scope().await?;
    let book = scope.price_book().await?;
    let own = scope.practice_schools().await?;
    let stored = |item: &'static judgement::plan::Item| {
        book.cents
            .get(&item.id)
            .map(|c| format!("{:.2}", *c as f64 / 100.0 * price_factor(&show, item)))
            .unwrap_or_default()
    };
    let wrong = typed.as_ref().is_some_and(|(_, e, t)| e.is_some() || t.values().any(|(_, e)| e.is_some()));
    let mut groups: Vec<(&'static str, Vec<Row>)> = Vec::new();
    for item in items() {
        let given = typed.as_ref().and_then(|(_, _, t)| t.get(item.id.as_str()).cloned());
        let (value, error) = given.unwrap_or_else(|| (stored(item), None));
        let row = Row { id: &item.id, name: &item.name, per: priced_for(&show, item), value, error };
        match groups.last_mut() {
            Some((name, rows)) if *name == item.group => rows.push(row),
            _ => groups.push((&item.group, vec![row])),
        }
    }
    let (currency, currency_error) = typed.map_or((book.currency, None), |(c, e, _)| (c, e));
    let school = |q: &'static judgement::plan::Question| SchoolRow {
        id: &q.id,
        name: &q.name,
        because: &q.because,
        options: q.schools.iter().map(|s| (s.id.as_str(), s.name.as_str(), own.get(&q.id) == Some(&s.id))).collect(),
        own: own.contains_key(&q.id),
    };
    Ok(PricesPage {
        frame: Frame::new(who, token, uri),
        currency,
        currency_error,
        groups,
        wrong,
        kept: uri.query() == Some("kept"),
        schools: questions().iter().map(school).collect(),
    })
}

/// The price book.
pub async fn page(who: Who, Extension(token): Extension<Token>, uri: Uri) -> Result<impl IntoResponse, Failure> {
    view_of(&who, &token, &uri, None).await
}

/// Keeps all prices; an empty one is none.
pub async fn keep(
    who: Who,
    Extension(token): Extension<Token>,
    uri: Uri,
    Form(fields): Form<HashMap<String, String>>,
) -> Result<Response, Failure> {
    let show = who.show();
    let scope = who.scope().await?;
    let before = scope.price_book().await?;
    let mut cents = BTreeMap::new();
    let mut typed: Typed = HashMap::new();
    for item in items() {
        let text = fields.get(&item.id).map_or("", |t| t.trim()).to_owned();
        let plain = text.replace(',', ".").replace([' ', '\u{202f}'], "");
        let factor = price_factor(&show, item);
        let error = match plain.parse::<f64>() {
            _ if plain.is_empty() => None,
            Ok(x) if x.is_finite() && (0.0..=DEAREST).contains(&(x * 100.0 / factor)) => {
                // A price not touched stays what it was, whichever units it was shown in.
                let kept =
                    before.cents.get(&item.id).filter(|c| format!("{:.2}", **c as f64 / 100.0 * factor) == plain);
                cents.insert(item.id.clone(), kept.copied().unwrap_or((x * 100.0 / factor).round() as i64));
                None
            }
            _ => Some("A price is a number from 0 to 10 million, like 12.50.".to_owned()),
        };
        typed.insert(&item.id, (text, error));
    }
    let currency = fields.get("currency").map_or("", |t| t.trim()).to_owned();
    let letters = currency.chars().count() <= LONGEST_CURRENCY && !currency.chars().any(char::is_control);
    let missing = currency.is_empty() && !cents.is_empty();
    let currency_error =
        (!letters || missing).then(|| "A currency has one to eight letters or signs, like EUR.".to_owned());
    if currency_error.is_some() || typed.values().any(|(_, e)| e.is_some()) {
        let again = view_of(&who, &token, &uri, Some((currency, currency_error, typed))).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    scope.keep_price_book(&PriceBook { currency, cents }, who.person.consultant_id, Utc::now()).await?;
    scope.commit().await?;
    Ok(Redirect::to("/prices?kept").into_response())
}

#[derive(Deserialize)]
pub struct SchoolForm {
    #[serde(default)]
    choice: String,
}

/// Makes a school the practice's way, or leaves the question to each building.
pub async fn school(who: Who, Path(id): Path<String>, Form(form): Form<SchoolForm>) -> Result<Redirect, Failure> {
    let asked = question(&id).ok_or(Failure::NotFound)?;
    let choice = asked.schools.iter().find(|s| s.id == form.choice).map(|s| s.id.as_str());
    let scope = who.scope().await?;
    scope.keep_practice_school(&asked.id, choice, who.person.consultant_id, Utc::now()).await?;
    scope.commit().await?;
    Ok(Redirect::to("/prices#schools"))
}

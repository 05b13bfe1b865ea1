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

/// Longest currency, characters.
const LONGEST_CURRENCY: usize = 8;
/// Dearest thing, hundredths.
const DEAREST: f64 = 1e9;

#[derive(Template, WebTemplate)]
#[template(path = "prices.html")]
struct PricesPage {
    frame: Frame,
    currency: Field,
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

async fn view_of(who: &Who, token: &Token, uri: &Uri, typed: Option<Typed>) -> Result<PricesPage, Failure> {
    let show = who.show();
    let scope = who.scope().await?;
    let book = scope.price_book().await?;
    let own = scope.practice_schools().await?;
    let stored = |item: &'static judgement::plan::Item| {
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
    let school = |q: &'static judgement::plan::Question| SchoolRow {
        id: &q.id,
        name: &q.name,
        because: &q.because,
        options: q.schools.iter().map(|s| (s.id.as_str(), s.name.as_str(), own.get(&q.id) == Some(&s.id))).collect(),
        own: own.contains_key(&q.id),
    };
    Ok(PricesPage {
        frame: Frame::new(who, token, uri),
        wrong: typed.as_ref().is_some_and(Typed::is_wrong),
        currency: typed.map_or((book.currency.clone(), book.currency, None), |t| t.currency),
        groups,
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
    let field = |name: &str| fields.get(name).map_or("", |t| t.trim()).to_owned();
    let mut changes = BTreeMap::new();
    let mut typed = Typed { currency: (field("currency"), field("was-currency"), None), prices: HashMap::new() };
    for item in items() {
        let (text, was) = (field(&item.id), field(&format!("was-{}", item.id)));
        let plain = text.replace(',', ".").replace([' ', '\u{202f}'], "");
        let factor = price_factor(&show, item);
        // Only what was changed here is written: somebody else may have changed the rest meanwhile.
        let error = match plain.parse::<f64>() {
            _ if text == was => None,
            _ if plain.is_empty() => {
                changes.insert(item.id.clone(), None);
                None
            }
            Ok(x) if x.is_finite() && (0.0..=DEAREST).contains(&(x * 100.0 / factor)) => {
                changes.insert(item.id.clone(), Some((x * 100.0 / factor).round() as i64));
                None
            }
            _ => Some("A price is a number from 0 to 10 million, like 12.50.".to_owned()),
        };
        typed.prices.insert(&item.id, (text, was, error));
    }
    let (currency, was, _) = &typed.currency;
    let letters = currency.chars().count() <= LONGEST_CURRENCY && !currency.chars().any(char::is_control);
    let changed = (currency != was).then(|| currency.clone());
    if !letters || currency.is_empty() {
        typed.currency.2 = Some("A currency has one to eight letters or signs, like EUR.".to_owned());
    }
    if typed.is_wrong() {
        let again = view_of(&who, &token, &uri, Some(typed)).await?;
        return Ok((StatusCode::UNPROCESSABLE_ENTITY, again).into_response());
    }
    let scope = who.scope().await?;
    scope.change_prices(changed.as_deref(), &changes, who.person.consultant_id, Utc::now()).await?;
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

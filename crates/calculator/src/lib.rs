//! A Working for every operation of the headless interface.
//!
//! What is typed, in either unit system, becomes a request of the headless interface; its answer is shown with the band
//! its instruments leave, the formula, the source and a drawing. The page, a script and a test therefore reach the core
//! by the same words, and the line that reproduces a page can be copied from it.
//!
//! ```
//! use notation::Units;
//! use judgment::limits::Limits;
//! use std::collections::HashMap;
//!
//! let typed = [("t_c", "68F"), ("rh_pct", "50")].map(|(k, v)| (k.to_owned(), v.to_owned()));
//! let sheet = calculator::sheet("air").unwrap();
//! let page = calculator::open(sheet, HashMap::from(typed), Units::Metric, Limits::default());
//! assert_eq!(page.outcome.unwrap().figures[0], ("dew point", "9.3 ± 1.0 °C".into()));
//! ```

mod case;
mod drawing;
mod form;
mod outcome;
mod plot;
mod sheet;
mod sketch;

pub use case::Case;
pub use form::{Cell, LayerRow, Shown, Typed};
pub use outcome::Outcome;
pub use sheet::{SHEETS, Sheet, sheet};
pub use sketch::{Shape, Sketch};

use judgment::limits::Limits;
use language::{known_of, say};
use notation::Units;
use serde_json::Value;
use std::collections::HashMap;

/// A page of the calculator, ready for a template.
pub struct Page {
    /// What it is about.
    pub sheet: &'static Sheet,
    /// Fields with what was typed and what is wrong with it.
    pub fields: Vec<Shown>,
    /// The answer; `None` while something needs changing.
    pub outcome: Option<Outcome>,
    /// What is wrong with the request as a whole; empty otherwise.
    pub trouble: String,
    /// The line that reproduces it through the headless interface; empty while something needs changing.
    pub line: String,
    /// The query of the address that brings it back.
    pub query: String,
}

/// Reads what was typed on a sheet and answers it in a person's units, by the limits they work to.
#[must_use]
pub fn open(sheet: &'static Sheet, given: HashMap<String, String>, units: Units, limits: Limits) -> Page {
    let typed = Typed::new(sheet, given, units);
    let mut read = typed.read(sheet);
    let (mut outcome, mut trouble, mut line) = (None, String::new(), String::new());
    let request = Value::Object(std::mem::take(&mut read.request));
    let answer = calc::answer(&request);
    match answer.get("error") {
        None => {
            line = json_line(&request);
            outcome = Some(Outcome::of(sheet, Case { request, answer, moved: Vec::new(), units, limits }));
        }
        // Where something could not even be read, what the rest lacks says nothing new; what is wrong with it does.
        Some(error) => {
            let word = |key: &str| error.get(key).and_then(Value::as_str).unwrap_or_default();
            let name = read.name_of(word("field")).map(str::to_owned);
            let kind = name.as_deref().and_then(|name| form::kind_of(sheet, name));
            let message = kind.and_then(|kind| limits_shown(word("message"), kind, units));
            let message = message.unwrap_or_else(|| sentence(word("message")));
            match name {
                Some(name) => drop(read.errors.entry(name).or_insert(message)),
                None if read.errors.is_empty() => trouble = message,
                None => {}
            }
        }
    }
    if !read.errors.is_empty() {
        (outcome, line) = (None, String::new());
    }
    Page { sheet, fields: typed.shown(sheet, &read.errors), outcome, trouble, line, query: typed.query() }
}

/// Address of a sheet filled with figures in SI, written in a person's units; `None` for an operation without a sheet.
#[must_use]
pub fn address(op: &str, figures: &[(&str, f64)], words: &[(&str, &str)], units: Units) -> Option<String> {
    let sheet = sheet(op)?;
    let typed = figures.iter().map(|(key, si)| {
        (*key, form::kind_of(sheet, key).map_or_else(|| si.to_string(), |kind| kind.typed(*si, units)))
    });
    let given = typed.chain(words.iter().map(|(k, w)| (*k, (*w).to_owned())));
    let given = given.map(|(k, v)| (k.to_owned(), v)).collect();
    Some(format!("/calculator/{op}?{}", Typed::new(sheet, given, units).query()))
}

/// Keys of the headless interface in plain words.
const WORDS: [(&str, &str); 12] = [
    ("thickness_m", "a thickness"),
    ("lambda_w_mk", "a conductivity"),
    ("r_m2k_w", "a resistance"),
    ("perm_kg_m2spa", "a permeance"),
    ("sd_m", "s_d"),
    ("mu,", "μ,"),
    ("mu needs", "μ needs"),
    ("rh_pct", "relative humidity"),
    ("dew_c", "dew point"),
    ("wet_c", "wet bulb"),
    ("concentrate_parts", "parts of concentrate"),
    ("water_parts", "parts of water"),
];

/// A message of the headless interface as a sentence in plain words.
fn sentence(message: &str) -> String {
    let message = known_of(&WORDS.iter().fold(message.to_owned(), |text, (key, words)| text.replace(key, words)));
    let mut letters = message.chars();
    let first = letters.next().map(|c| c.to_uppercase().to_string()).unwrap_or_default();
    format!("{first}{}.", letters.as_str())
}

/// `airflow must be 0 to 1000 m³/s, got 2000` in the units the field shows; `None` for messages of another form.
fn limits_shown(message: &str, kind: &notation::Kind, units: Units) -> Option<String> {
    let (quantity, rest) = message.split_once(" must be ")?;
    let (limits, got) = rest.split_once(", got ")?;
    let (low, high) = limits.split_once(" to ")?;
    let si = |text: &str| text.split_whitespace().next()?.parse::<f64>().ok();
    let shown = |text: &str| Some(kind.typed(si(text)?, units));
    let (low, high, got) = (shown(low)?, shown(high)?, shown(got)?);
    let (quantity, unit) = (known_of(quantity), kind.unit(units).name());
    let limits = say!("{quantity} must be {low} to {high} {unit}, got {got}", quantity, low, high, unit, got);
    // Where there is no unit nothing is said in its place.
    Some(sentence(&limits.replace(" ,", ",")))
}

/// A request on one line, its operation first.
fn json_line(request: &Value) -> String {
    let mut rest = request.clone();
    let op = rest.as_object_mut().and_then(|o| o.remove("op")).unwrap_or_default();
    let rest = rest.to_string();
    if rest == "{}" { format!("{{\"op\":{op}}}") } else { format!("{{\"op\":{op},{}", &rest[1..]) }
}

//! From what was typed to a request of the headless interface.

use super::{LAYER_COLUMNS, MONTH_COLUMNS, MOST_LAYERS, Typed};
use crate::sheet::{Field, Need, Sheet};
use hygrothermal::material::{Resists, material};
use language::say;
use notation::Units;
use notation::unit::{DAYS, Kind, PERCENT, TEMPERATURE};
use serde_json::{Map, Value, json};
use std::collections::BTreeMap;

/// Most hours that spans may be written out to.
const MOST_HOURS: f64 = 50_000.0;
/// Days of the months, January first.
const DAYS_IN: [f64; 12] = [31.0, 28.0, 31.0, 30.0, 31.0, 30.0, 31.0, 31.0, 30.0, 31.0, 30.0, 31.0];

/// A form read: the request, and what could not be read by field name.
pub struct Read {
    /// The request as far as it could be read.
    pub request: Map<String, Value>,
    /// Errors by field name.
    pub errors: BTreeMap<String, String>,
    /// Field names by path in the request.
    names: Vec<(String, String)>,
}

/// Twelve significant figures: enough for any instrument, and without the dust of unit conversion.
fn clean(si: f64) -> f64 {
    format!("{si:.11e}").parse().unwrap_or(si)
}

impl Typed {
    /// Reads every field of a sheet.
    #[must_use]
    pub fn read(&self, sheet: &Sheet) -> Read {
        let mut read = Read { request: Map::new(), errors: BTreeMap::new(), names: Vec::new() };
        read.request.insert("op".into(), json!(sheet.op));
        for field in sheet.fields {
            match field {
                Field::Quantity { key, kind, need, .. } => {
                    if let Some(si) = self.number(&mut read, key, kind, *need == Need::Required) {
                        insert(&mut read.request, key, json!(si));
                    }
                    read.names.push(((*key).into(), (*key).into()));
                }
                Field::Choice { key, options, number, .. } => {
                    let chosen =
                        options.iter().map(|o| o.0).find(|o| *o == self.text(key)).or(options.first().map(|o| o.0));
                    let value = chosen.map(|c| if *number { json!(c.parse::<f64>().unwrap_or(0.0)) } else { json!(c) });
                    insert(&mut read.request, key, value.unwrap_or(Value::Null));
                    read.names.push(((*key).into(), (*key).into()));
                }
                Field::Pairs { key, kinds, .. } => self.pairs(&mut read, key, kinds),
                Field::Spans { key, .. } => self.spans(&mut read, key),
                Field::Layers { .. } => self.layers(&mut read),
                Field::Months { .. } => self.months(&mut read),
            }
        }
        read
    }

    /// A figure in SI; an empty one is missing only where it is needed.
    fn number(&self, read: &mut Read, name: &str, kind: &Kind, needed: bool) -> Option<f64> {
        let text = self.text(name);
        if text.is_empty() {
            if needed {
                read.errors.insert(
                    name.into(),
                    say!("Enter a figure, for example in {unit}.", unit = unit_or(kind, self.units)),
                );
            }
            return None;
        }
        match kind.parse(text, self.units) {
            Ok(si) => Some(clean(si)),
            Err(message) => {
                read.errors.insert(name.into(), message);
                None
            }
        }
    }

    /// Figures of each line that is not empty, with its number from 1.
    fn lines<'a>(&'a self, name: &str) -> impl Iterator<Item = (usize, Vec<&'a str>)> {
        let text = self.texts.get(name).map_or("", String::as_str);
        let split =
            |l: &'a str| l.split(|c: char| c.is_whitespace() || c == ';').filter(|w| !w.is_empty()).collect::<Vec<_>>();
        text.lines().enumerate().map(move |(i, l)| (i + 1, split(l))).filter(|(_, words)| !words.is_empty())
    }

    fn pairs(&self, read: &mut Read, key: &str, kinds: &[&'static Kind; 2]) {
        let mut pairs = Vec::new();
        for (number, words) in self.lines(key) {
            let [a, b] = words[..] else {
                read.errors
                    .insert(key.into(), say!("Line {number} must have two figures, got {n}.", number, n = words.len()));
                return;
            };
            match (kinds[0].parse(a, self.units), kinds[1].parse(b, self.units)) {
                (Ok(a), Ok(b)) => pairs.push(json!([clean(a), clean(b)])),
                (Err(e), _) | (_, Err(e)) => {
                    read.errors.insert(key.into(), say!("Line {number}: {e}", number, e));
                    return;
                }
            }
        }
        read.names.push((key.into(), key.into()));
        insert(&mut read.request, key, Value::Array(pairs));
    }

    fn spans(&self, read: &mut Read, key: &str) {
        let mut hours: Vec<Value> = Vec::new();
        for (number, words) in self.lines(key) {
            let spans = match words[..] {
                [days, t, rh] => DAYS.parse(days, self.units).and_then(|d| Ok((24.0 * d, self.state(t, rh)?))),
                [t, rh] => self.state(t, rh).map(|state| (1.0, state)),
                _ => Err(say!("give days, temperature and humidity, got {n} figures.", n = words.len())),
            };
            let fault = match spans {
                Ok((length, state)) if length >= 1.0 && length + hours.len() as f64 <= MOST_HOURS => {
                    hours.extend(std::iter::repeat_n(state, length.round() as usize));
                    continue;
                }
                Ok(_) => say!("a span is at least an hour and all together at most {hours} hours.", hours = MOST_HOURS),
                Err(e) => e,
            };
            read.errors.insert(key.into(), say!("Line {number}: {fault}", number, fault));
            return;
        }
        read.names.push((key.into(), key.into()));
        insert(&mut read.request, key, Value::Array(hours));
    }

    fn state(&self, t: &str, rh: &str) -> Result<Value, String> {
        Ok(json!([clean(TEMPERATURE.parse(t, self.units)?), clean(PERCENT.parse(rh, self.units)?)]))
    }

    fn layers(&self, read: &mut Read) {
        let mut layers = Vec::new();
        for row in (0..MOST_LAYERS).filter(|row| self.layer_filled(*row)) {
            let name = |short: &str| format!("layers.{row}.{short}");
            let number = |read: &mut Read, short: &str, kind: &Kind| self.number(read, &name(short), kind, false);
            let [d, lambda, r, mu, sd] = LAYER_COLUMNS.map(|(short, _, kind)| number(read, short, kind));
            let known = material(self.text(&name("material")));
            let resists = known.and_then(|m| m.resists().ok());
            let mut layer = Map::new();
            layer.insert("name".into(), json!(known.map_or("own values", |m| m.name.as_str())));
            let mut put = |key: &str, value: Option<f64>| {
                if let Some(v) = value {
                    layer.insert(key.into(), json!(v));
                }
            };
            put("thickness_m", d.or(known.map(|m| m.thickness)));
            put("r_m2k_w", r);
            put("lambda_w_mk", lambda.or(known.map(|m| m.lambda).filter(|_| r.is_none())));
            let (lib_mu, lib_sd) = match resists.filter(|_| mu.is_none() && sd.is_none()) {
                Some(Resists::PerThickness(mu)) => (Some(mu.get()), None),
                Some(Resists::AsLayer(sd)) => (None, Some(sd.get())),
                None => (None, None),
            };
            put("mu", mu.or(lib_mu));
            put("sd_m", sd.or(lib_sd));
            for (key, short) in
                [("thickness_m", "d"), ("lambda_w_mk", "lambda"), ("r_m2k_w", "r"), ("mu", "mu"), ("sd_m", "sd")]
            {
                read.names.push((format!("layers[{}].{key}", layers.len()), name(short)));
            }
            layers.push(Value::Object(layer));
        }
        read.names.push(("layers".into(), "layers".into()));
        insert(&mut read.request, "layers", Value::Array(layers));
    }

    fn months(&self, read: &mut Read) {
        let mut months = Vec::new();
        for (i, days) in DAYS_IN.iter().enumerate() {
            let mut month = Map::new();
            month.insert("days".into(), json!(days));
            for (short, path, _, kind) in MONTH_COLUMNS {
                let name = format!("months.{i}.{short}");
                if let Some(si) = self.number(read, &name, kind, true) {
                    insert(&mut month, path, json!(si));
                }
                read.names.push((format!("months[{i}].{path}"), name));
            }
            months.push(Value::Object(month));
        }
        insert(&mut read.request, "months", Value::Array(months));
    }
}

fn unit_or(kind: &Kind, units: Units) -> &'static str {
    match kind.unit(units).name() {
        "" => say!("plain numbers"),
        name => name,
    }
}

/// Puts a value at a dotted path, making objects on the way.
fn insert(into: &mut Map<String, Value>, path: &str, value: Value) {
    match path.split_once('.') {
        None => {
            into.insert(path.into(), value);
        }
        Some((head, rest)) => {
            let inner = into.entry(head).or_insert_with(|| json!({}));
            if let Value::Object(inner) = inner {
                insert(inner, rest, value);
            }
        }
    }
}

impl Read {
    /// The field a fault of the headless interface belongs to: the one with its path, or the list it lies in. `None`
    /// when it belongs to the request as a whole.
    #[must_use]
    pub fn name_of(&self, path: &str) -> Option<&str> {
        let exact = self.names.iter().find(|(p, _)| p == path);
        let list = || self.names.iter().find(|(p, _)| path.split('[').next() == Some(p));
        exact.or_else(list).map(|(_, name)| name.as_str())
    }
}

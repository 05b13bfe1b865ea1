//! What was typed, into a request of the headless interface, and back into fields with their errors.

use crate::sheet::{Field, Need, Sheet};
use crate::unit::{CONDUCTIVITY, DAYS, Kind, NUMBER, PERCENT, RESISTANCE, STILL_AIR, TEMPERATURE, THICKNESS};
use hygrothermal::material::{Resists, material};
use judgement::entry::Units;
use serde_json::{Map, Value, json};
use std::collections::{BTreeMap, HashMap};

/// Most layers, and most hours that spans may be written out to.
const MOST_LAYERS: usize = 24;
const MOST_HOURS: f64 = 50_000.0;
/// Days of the months, January first.
const DAYS_IN: [f64; 12] = [31.0, 28.0, 31.0, 30.0, 31.0, 30.0, 31.0, 31.0, 30.0, 31.0, 30.0, 31.0];
/// Months as shown.
pub const MONTH_NAMES: [&str; 12] = [
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
];
/// Columns of a layer: what is appended to its name, what it is, its kind.
const LAYER_COLUMNS: [(&str, &str, &Kind); 5] = [
    ("d", "thickness", &THICKNESS),
    ("lambda", "conductivity", &CONDUCTIVITY),
    ("r", "or resistance", &RESISTANCE),
    ("mu", "vapor factor μ", &NUMBER),
    ("sd", "or s_d", &STILL_AIR),
];
/// Columns of a month: what is appended to its name, path in the request, what it is, its kind.
const MONTH_COLUMNS: [(&str, &str, &str, &Kind); 4] = [
    ("it", "inside.t_c", "inside", &TEMPERATURE),
    ("ih", "inside.rh_pct", "inside humidity", &PERCENT),
    ("ot", "outside.t_c", "outside", &TEMPERATURE),
    ("oh", "outside.rh_pct", "outside humidity", &PERCENT),
];

/// Texts by field name, and the units those without a unit are in.
#[derive(Debug, Clone, Default)]
pub struct Typed {
    texts: HashMap<String, String>,
    units: Units,
}

/// One cell that is typed in.
#[derive(Debug, Clone)]
pub struct Cell {
    /// Field name.
    pub name: String,
    /// What it is.
    pub label: String,
    /// Unit meant when none is typed.
    pub unit: &'static str,
    /// What was typed.
    pub value: String,
    /// What is taken when it is left empty.
    pub placeholder: String,
    /// What to change; empty when nothing is.
    pub error: String,
}

/// A field as shown.
#[derive(Debug, Clone)]
pub enum Shown {
    /// One figure.
    Figure(Cell),
    /// A choice: value, words, whether it is chosen.
    Choice {
        /// The field.
        cell: Cell,
        /// What can be chosen.
        options: Vec<(&'static str, &'static str, bool)>,
    },
    /// Many lines.
    Lines(Cell),
    /// Layers of a build-up.
    Layers {
        /// Column heads with their units.
        heads: Vec<String>,
        /// Inside first; the last ones are empty.
        rows: Vec<LayerRow>,
        /// What is wrong with the build-up as a whole.
        error: String,
    },
    /// Months of the year.
    Months {
        /// Column heads with their units.
        heads: Vec<String>,
        /// January first.
        rows: Vec<(&'static str, Vec<Cell>)>,
    },
}

/// A layer as shown.
#[derive(Debug, Clone)]
pub struct LayerRow {
    /// Field name of its material.
    pub name: String,
    /// Its number, from 1.
    pub number: usize,
    /// Id of its material; empty for values of its own.
    pub material: String,
    /// Its figures.
    pub cells: Vec<Cell>,
}

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
    /// Texts from an address; `units` there says what bare figures were meant in. Without any field of the sheet the
    /// example is shown instead.
    #[must_use]
    pub fn new(sheet: &Sheet, given: HashMap<String, String>, units: Units) -> Self {
        let meant = match given.get("units").map(String::as_str) {
            Some("us") => Units::Us,
            Some("metric") => Units::Metric,
            _ => units,
        };
        if given.keys().all(|k| k == "units") {
            return Self::example(sheet, units);
        }
        let mut typed = Self { texts: given, units: meant };
        if meant != units {
            typed.convert(sheet, units);
        }
        typed
    }

    fn example(sheet: &Sheet, units: Units) -> Self {
        let mut typed = Self { texts: HashMap::new(), units };
        for field in sheet.fields {
            typed.fill(field);
        }
        typed
    }

    fn put(&mut self, name: impl Into<String>, text: impl Into<String>) {
        self.texts.insert(name.into(), text.into());
    }

    fn fill(&mut self, field: &Field) {
        let units = self.units;
        match field {
            Field::Quantity { key, kind, example: Some(si), .. } => self.put(*key, kind.typed(*si, units)),
            Field::Quantity { .. } => {}
            Field::Choice { key, options, .. } => self.put(*key, options.first().map_or("", |o| o.0)),
            Field::Pairs { key, kinds, example, .. } => {
                let line =
                    |(a, b): &(f64, f64)| format!("{}  {}", kinds[0].typed(*a, units), kinds[1].typed(*b, units));
                self.put(*key, example.iter().map(line).collect::<Vec<_>>().join("\n"));
            }
            Field::Spans { key, example, .. } => {
                let line = |(days, t, rh): &(f64, f64, f64)| {
                    format!("{}  {}  {}", days, TEMPERATURE.typed(*t, units), PERCENT.typed(*rh, units))
                };
                self.put(*key, example.iter().map(line).collect::<Vec<_>>().join("\n"));
            }
            Field::Layers { example } => {
                for (i, (id, thickness)) in example.iter().enumerate() {
                    self.put(format!("layers.{i}.material"), *id);
                    self.put(format!("layers.{i}.d"), THICKNESS.typed(*thickness, units));
                }
            }
            Field::Months { example } => {
                for (i, month) in example.iter().enumerate() {
                    for ((short, _, _, kind), si) in MONTH_COLUMNS.iter().zip(month) {
                        self.put(format!("months.{i}.{short}"), kind.typed(*si, units));
                    }
                }
            }
        }
    }

    /// Rewrites bare figures in other units; a figure typed with its unit, or not to be read, stays as it is.
    fn convert(&mut self, sheet: &Sheet, units: Units) {
        let meant = self.units;
        let rewrite = |text: &str, kind: &Kind| match kind.parse(text, meant) {
            Ok(si) if !text.contains(|c: char| c.is_alphabetic() || c == '°') => kind.typed(si, units),
            _ => text.to_owned(),
        };
        let line = |text: &str, kinds: &[&Kind]| {
            let words = text
                .lines()
                .map(|l| l.split_whitespace().zip(kinds).map(|(w, k)| rewrite(w, k)).collect::<Vec<_>>().join("  "));
            words.collect::<Vec<_>>().join("\n")
        };
        for (name, text) in &mut self.texts {
            let last = name.rsplit('.').next().unwrap_or_default();
            let found = sheet.fields.iter().find_map(|f| match f {
                Field::Quantity { key, kind, .. } if key == name => Some(rewrite(text, kind)),
                Field::Pairs { key, kinds, .. } if key == name => Some(line(text, kinds)),
                Field::Spans { key, .. } if key == name => Some(line(text, &[&DAYS, &TEMPERATURE, &PERCENT])),
                Field::Layers { .. } if name.starts_with("layers.") => {
                    LAYER_COLUMNS.iter().find(|c| c.0 == last).map(|c| rewrite(text, c.2))
                }
                Field::Months { .. } if name.starts_with("months.") => {
                    MONTH_COLUMNS.iter().find(|c| c.0 == last).map(|c| rewrite(text, c.3))
                }
                _ => None,
            });
            if let Some(new) = found {
                *text = new;
            }
        }
        self.units = units;
    }

    fn text(&self, name: &str) -> &str {
        self.texts.get(name).map_or("", |t| t.trim())
    }

    /// The address that brings this form back: every field with something in it.
    #[must_use]
    pub fn query(&self) -> String {
        let units = if self.units == Units::Us { "us" } else { "metric" };
        let mut pairs: Vec<(&str, &str)> = self
            .texts
            .iter()
            .filter(|(k, v)| *k != "units" && !v.is_empty())
            .map(|(k, v)| (k.as_str(), v.as_str()))
            .collect();
        pairs.sort_unstable();
        pairs.insert(0, ("units", units));
        serde_urlencoded::to_string(pairs).unwrap_or_default()
    }

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
                read.errors
                    .insert(name.into(), format!("Enter a figure, for example in {}.", unit_or(kind, self.units)));
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
                read.errors.insert(key.into(), format!("Line {number} must have two figures, got {}.", words.len()));
                return;
            };
            match (kinds[0].parse(a, self.units), kinds[1].parse(b, self.units)) {
                (Ok(a), Ok(b)) => pairs.push(json!([clean(a), clean(b)])),
                (Err(e), _) | (_, Err(e)) => {
                    read.errors.insert(key.into(), format!("Line {number}: {e}"));
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
                _ => Err(format!("give days, temperature and humidity, got {} figures.", words.len())),
            };
            let fault = match spans {
                Ok((length, state)) if length >= 1.0 && length + hours.len() as f64 <= MOST_HOURS => {
                    hours.extend(std::iter::repeat_n(state, length.round() as usize));
                    continue;
                }
                Ok(_) => format!("a span is at least an hour and all together at most {MOST_HOURS} hours."),
                Err(e) => e,
            };
            read.errors.insert(key.into(), format!("Line {number}: {fault}"));
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

    fn layer_filled(&self, row: usize) -> bool {
        let text = |short: &str| self.text(&format!("layers.{row}.{short}"));
        !text("material").is_empty() || LAYER_COLUMNS.iter().any(|(short, ..)| !text(short).is_empty())
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

    fn cell(&self, name: String, label: &str, kind: &Kind, errors: &BTreeMap<String, String>) -> Cell {
        Cell {
            label: label.into(),
            unit: kind.unit(self.units).name,
            value: self.texts.get(&name).cloned().unwrap_or_default(),
            placeholder: String::new(),
            error: errors.get(&name).cloned().unwrap_or_default(),
            name,
        }
    }

    /// The fields with what was typed and what is wrong with it.
    #[must_use]
    pub fn shown(&self, sheet: &Sheet, errors: &BTreeMap<String, String>) -> Vec<Shown> {
        sheet.fields.iter().map(|field| self.shown_field(field, errors)).collect()
    }

    fn shown_field(&self, field: &Field, errors: &BTreeMap<String, String>) -> Shown {
        match field {
            Field::Quantity { key, label, kind, example, need, .. } => {
                let mut cell = self.cell((*key).into(), label, kind, errors);
                match need {
                    Need::Required => {}
                    Need::Defaulted => {
                        cell.placeholder = example.map_or_else(String::new, |si| kind.typed(si, self.units))
                    }
                    Need::Optional => cell.placeholder = "not given".into(),
                }
                Shown::Figure(cell)
            }
            Field::Choice { key, label, options, .. } => {
                let cell = self.cell((*key).into(), label, &NUMBER, errors);
                let first = options.first().map_or("", |o| o.0);
                let chosen = options.iter().map(|o| o.0).find(|o| *o == self.text(key)).unwrap_or(first);
                Shown::Choice { cell, options: options.iter().map(|(v, words)| (*v, *words, *v == chosen)).collect() }
            }
            Field::Pairs { key, label, .. } | Field::Spans { key, label, .. } => {
                Shown::Lines(self.cell((*key).into(), label, &NUMBER, errors))
            }
            Field::Layers { .. } => self.shown_layers(errors),
            Field::Months { .. } => {
                let rows = MONTH_NAMES.iter().enumerate().map(|(i, month)| {
                    let cells = MONTH_COLUMNS.iter().map(|(short, _, label, kind)| {
                        self.cell(format!("months.{i}.{short}"), &format!("{month}, {label}"), kind, errors)
                    });
                    (*month, cells.collect())
                });
                let heads =
                    MONTH_COLUMNS.iter().map(|(_, _, label, kind)| format!("{label}, {}", kind.unit(self.units).name));
                Shown::Months { heads: heads.collect(), rows: rows.collect() }
            }
        }
    }

    /// Filled rows and two empty ones to go on with.
    fn shown_layers(&self, errors: &BTreeMap<String, String>) -> Shown {
        let last = (0..MOST_LAYERS).rev().find(|row| self.layer_filled(*row)).map_or(0, |row| row + 1);
        let rows = (0..(last + 2).min(MOST_LAYERS)).map(|row| {
            let id = self.text(&format!("layers.{row}.material")).to_owned();
            let known = material(&id);
            let cells = LAYER_COLUMNS.iter().map(|(short, label, kind)| {
                let label = format!("layer {}, {label}", row + 1);
                let mut cell = self.cell(format!("layers.{row}.{short}"), &label, kind, errors);
                let library = known.and_then(|m| match (*short, m.resists()) {
                    ("d", _) => Some(m.thickness),
                    ("lambda", _) => Some(m.lambda),
                    ("mu", Ok(Resists::PerThickness(mu))) => Some(mu.get()),
                    ("sd", Ok(Resists::AsLayer(sd))) => Some(sd.get()),
                    _ => None,
                });
                cell.placeholder = library.map(|si| kind.typed(si, self.units)).unwrap_or_default();
                cell
            });
            LayerRow { name: format!("layers.{row}.material"), number: row + 1, material: id, cells: cells.collect() }
        });
        let heads = LAYER_COLUMNS.iter().map(|(_, label, kind)| match kind.unit(self.units).name {
            "" => (*label).to_owned(),
            unit => format!("{label}, {unit}"),
        });
        Shown::Layers {
            heads: heads.collect(),
            rows: rows.collect(),
            error: errors.get("layers").cloned().unwrap_or_default(),
        }
    }
}

fn unit_or(kind: &Kind, units: Units) -> &'static str {
    match kind.unit(units).name {
        "" => "plain numbers",
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

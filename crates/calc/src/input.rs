//! Reading keys out of a request: every key must be known, every error names its dotted path.

use hygrothermal::air::Over;
use hygrothermal::quantity::OutOfRange;
use serde::Serialize;
use serde_json::{Map, Value};
use std::ops::RangeInclusive;

/// What is wrong, and where.
#[derive(Debug, Serialize)]
pub struct Fault {
    pub field: String,
    pub message: String,
}

impl Fault {
    pub fn new(field: &str, message: &str) -> Self {
        Self { field: field.into(), message: message.into() }
    }
}

/// An object of a request with its place in it.
pub struct Input<'a> {
    object: &'a Map<String, Value>,
    prefix: &'a str,
}

impl<'a> Input<'a> {
    pub const fn new(object: &'a Map<String, Value>, prefix: &'a str) -> Self {
        Self { object, prefix }
    }

    /// Dotted path of a key.
    pub fn path(&self, key: &str) -> String {
        format!("{}{key}", self.prefix)
    }

    pub fn fault(&self, key: &str, message: impl std::fmt::Display) -> Fault {
        Fault { field: self.path(key), message: message.to_string() }
    }

    /// Refuses keys that are not in `known`: typos must not pass. A request itself may always name its `op` and `id`.
    pub fn only(&self, known: &[&str]) -> Result<(), Fault> {
        let head = |k: &str| self.prefix.is_empty() && matches!(k, "op" | "id");
        match self.object.keys().find(|k| !known.contains(&k.as_str()) && !head(k)) {
            Some(key) => Err(self.fault(key, format!("unknown key; known are {}", known.join(", ")))),
            None => Ok(()),
        }
    }

    /// An optional key; `null` counts as absent.
    fn value(&self, key: &str) -> Option<&'a Value> {
        self.object.get(key).filter(|v| !v.is_null())
    }

    pub fn has(&self, key: &str) -> bool {
        self.value(key).is_some()
    }

    fn number(&self, key: &str) -> Result<Option<f64>, Fault> {
        match self.value(key) {
            None => Ok(None),
            Some(v) => v.as_f64().map(Some).ok_or_else(|| self.fault(key, format!("{key} must be a number, got {v}"))),
        }
    }

    /// An optional number within a range.
    pub fn number_in(&self, key: &str, range: RangeInclusive<f64>) -> Result<Option<f64>, Fault> {
        match self.number(key)? {
            Some(x) if !range.contains(&x) => {
                let (low, high) = (range.start(), range.end());
                Err(self.fault(key, format!("{key} must be {low} to {high}, got {x}")))
            }
            found => Ok(found),
        }
    }

    /// Whether a key holds a list.
    pub fn is_list(&self, key: &str) -> bool {
        self.value(key).is_some_and(Value::is_array)
    }

    /// An optional quantity, checked by its constructor.
    pub fn optional<Q>(&self, key: &str, make: fn(f64) -> Result<Q, OutOfRange>) -> Result<Option<Q>, Fault> {
        self.number(key)?.map(|x| make(x).map_err(|e| self.fault(key, e))).transpose()
    }

    /// A quantity that must be there.
    pub fn required<Q>(&self, key: &str, make: fn(f64) -> Result<Q, OutOfRange>) -> Result<Q, Fault> {
        self.optional(key, make)?.ok_or_else(|| self.missing(key))
    }

    /// A quantity with a default.
    pub fn or<Q>(&self, key: &str, make: fn(f64) -> Result<Q, OutOfRange>, default: Q) -> Result<Q, Fault> {
        Ok(self.optional(key, make)?.unwrap_or(default))
    }

    /// Which of some keys is given: exactly one must be.
    pub fn exactly_one(&self, keys: &[&'static str]) -> Result<&'static str, Fault> {
        let mut given = keys.iter().filter(|k| self.has(k));
        match (given.next(), given.next()) {
            (Some(key), None) => Ok(key),
            (None, _) => Err(self.fault(keys[0], format!("give one of {}", keys.join(", ")))),
            (_, Some(second)) => Err(self.fault(second, format!("give only one of {}", keys.join(", ")))),
        }
    }

    /// What relative humidity refers to below 0 °C.
    pub fn over(&self) -> Result<Over, Fault> {
        match self.value("rh_over").map(Value::as_str) {
            None | Some(Some("ice")) => Ok(Over::Ice),
            Some(Some("water")) => Ok(Over::Water),
            Some(_) => Err(self.fault("rh_over", "rh_over must be ice or water")),
        }
    }

    /// One of some words; `None` when absent.
    pub fn word<W: Copy>(&self, key: &str, words: &[(&str, W)]) -> Result<Option<W>, Fault> {
        let Some(value) = self.value(key) else { return Ok(None) };
        let found = value.as_str().and_then(|given| words.iter().find(|(word, _)| *word == given));
        found.map(|(_, w)| Some(*w)).ok_or_else(|| {
            let known: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
            self.fault(key, format!("{key} must be one of {}, got {value}", known.join(", ")))
        })
    }

    /// A whole number from `min` to `max` that must be there.
    pub fn whole(&self, key: &str, min: u32, max: u32) -> Result<u32, Fault> {
        let Some(value) = self.value(key) else { return Err(self.missing(key)) };
        let whole = value.as_f64().filter(|x| x.fract() == 0.0 && (f64::from(min)..=f64::from(max)).contains(x));
        whole
            .map(|x| x as u32)
            .ok_or_else(|| self.fault(key, format!("{key} must be a whole number {min} to {max}, got {value}")))
    }

    /// A text that may be there.
    pub fn text(&self, key: &str) -> Result<(), Fault> {
        match self.value(key) {
            None | Some(Value::String(_)) => Ok(()),
            Some(other) => Err(self.fault(key, format!("{key} must be a text, got {other}"))),
        }
    }

    /// A nested object that must be there, with its own path.
    pub fn nested<T>(&self, key: &str, read: impl FnOnce(&Input) -> Result<T, Fault>) -> Result<T, Fault> {
        match self.value(key) {
            Some(Value::Object(o)) => read(&Input::new(o, &format!("{}.", self.path(key)))),
            Some(_) => Err(self.fault(key, format!("{key} must be an object"))),
            None => Err(self.missing(key)),
        }
    }

    /// Keys and values of an object; none when it is absent.
    pub fn entries(&self, key: &str) -> Result<impl Iterator<Item = (&'a String, &'a Value)>, Fault> {
        match self.value(key) {
            None => Ok(None.into_iter().flatten()),
            Some(Value::Object(o)) => Ok(Some(o.iter()).into_iter().flatten()),
            Some(other) => Err(self.fault(key, format!("{key} must be an object, got {other}"))),
        }
    }

    /// A list that must be there.
    pub fn list(&self, key: &str) -> Result<&'a [Value], Fault> {
        match self.value(key) {
            Some(Value::Array(items)) => Ok(items),
            Some(_) => Err(self.fault(key, format!("{key} must be a list"))),
            None => Err(self.missing(key)),
        }
    }

    /// A list of objects, each read with its own path: `layers[2].sd_m`.
    pub fn objects<T>(&self, key: &str, read: impl Fn(&Input) -> Result<T, Fault>) -> Result<Vec<T>, Fault> {
        let one = |(i, value): (usize, &Value)| match value {
            Value::Object(o) => read(&Input::new(o, &format!("{}[{i}].", self.path(key)))),
            other => Err(self.fault(&format!("{key}[{i}]"), format!("must be an object, got {other}"))),
        };
        self.list(key)?.iter().enumerate().map(one).collect()
    }

    /// A list of pairs of quantities: `[[1, 18.5], [2, 17.9]]`.
    pub fn pairs<A, B>(
        &self,
        key: &str,
        first: fn(f64) -> Result<A, OutOfRange>,
        second: fn(f64) -> Result<B, OutOfRange>,
    ) -> Result<Vec<(A, B)>, Fault> {
        let one = |(i, value): (usize, &Value)| {
            let fault = |message: String| self.fault(&format!("{key}[{i}]"), message);
            let [a, b] = value.as_array().map_or(&[][..], Vec::as_slice) else {
                return Err(fault(format!("must be a pair of numbers, got {value}")));
            };
            let (Some(a), Some(b)) = (a.as_f64(), b.as_f64()) else {
                return Err(fault(format!("must be a pair of numbers, got {value}")));
            };
            Ok((first(a).map_err(|e| fault(e.to_string()))?, second(b).map_err(|e| fault(e.to_string()))?))
        };
        self.list(key)?.iter().enumerate().map(one).collect()
    }

    /// The fault of a key that must be there and is not.
    pub fn missing(&self, key: &str) -> Fault {
        self.fault(key, format!("{key} is missing"))
    }
}

//! Reading keys out of a request: every key must be known, every error names its dotted path.

use hygrothermal::air::Over;
use hygrothermal::quantity::OutOfRange;
use serde_json::{Map, Value};

/// What is wrong, and where.
#[derive(Debug)]
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

    /// Refuses keys that are not in `known`: typos must not pass.
    pub fn only(&self, known: &[&str]) -> Result<(), Fault> {
        match self.object.keys().find(|k| !known.contains(&k.as_str())) {
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

    /// An optional quantity, checked by its constructor.
    pub fn optional<Q>(&self, key: &str, make: fn(f64) -> Result<Q, OutOfRange>) -> Result<Option<Q>, Fault> {
        self.number(key)?.map(|x| make(x).map_err(|e| self.fault(key, e))).transpose()
    }

    /// A quantity that must be there.
    pub fn required<Q>(&self, key: &str, make: fn(f64) -> Result<Q, OutOfRange>) -> Result<Q, Fault> {
        self.optional(key, make)?.ok_or_else(|| self.fault(key, format!("{key} is missing")))
    }

    /// A quantity with a default.
    pub fn or<Q>(&self, key: &str, make: fn(f64) -> Result<Q, OutOfRange>, default: Q) -> Result<Q, Fault> {
        Ok(self.optional(key, make)?.unwrap_or(default))
    }

    /// What relative humidity refers to below 0 °C.
    pub fn over(&self) -> Result<Over, Fault> {
        match self.value("rh_over").map(Value::as_str) {
            None | Some(Some("ice")) => Ok(Over::Ice),
            Some(Some("water")) => Ok(Over::Water),
            Some(_) => Err(self.fault("rh_over", "rh_over must be ice or water")),
        }
    }

    /// A nested object that must be there.
    pub fn object(&self, key: &str) -> Result<&'a Map<String, Value>, Fault> {
        match self.value(key) {
            Some(Value::Object(o)) => Ok(o),
            Some(_) => Err(self.fault(key, format!("{key} must be an object"))),
            None => Err(self.fault(key, format!("{key} is missing"))),
        }
    }
}

//! JSON from strangers: parsed only up to a number of values, since a byte of text can become fifty of memory.

use serde::de::{DeserializeSeed, Deserializer, Error, MapAccess, SeqAccess, Visitor};
use serde_json::{Map, Number, Value};
use std::fmt;

/// Why a text was not taken.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Refused {
    /// No JSON; why, in words.
    #[error("the body is not JSON: {0}")]
    NotJson(String),
    /// More values than allowed.
    #[error("the body must hold at most {0} values")]
    TooMany(u64),
}

/// One JSON value that holds at most so many values.
///
/// # Errors
/// [`Refused::NotJson`] for what is no JSON, [`Refused::TooMany`] as soon as it holds more.
pub fn bounded(text: &[u8], most: u64) -> Result<Value, Refused> {
    let mut left = most;
    let mut from = serde_json::Deserializer::from_slice(text);
    let parsed = One { left: &mut left }.deserialize(&mut from).and_then(|value| from.end().map(|()| value));
    match parsed {
        Ok(value) => Ok(value),
        Err(_) if left == 0 => Err(Refused::TooMany(most)),
        Err(e) => Err(Refused::NotJson(e.to_string())),
    }
}

/// How many values a value holds, itself among them.
pub fn count(value: &Value) -> u64 {
    1 + match value {
        Value::Array(items) => items.iter().map(count).sum(),
        Value::Object(entries) => entries.values().map(count).sum(),
        _ => 0,
    }
}

struct One<'a> {
    left: &'a mut u64,
}

impl<'de> DeserializeSeed<'de> for One<'_> {
    type Value = Value;

    fn deserialize<D: Deserializer<'de>>(self, from: D) -> Result<Value, D::Error> {
        if *self.left == 0 {
            return Err(D::Error::custom("too many values"));
        }
        *self.left -= 1;
        from.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for One<'_> {
    type Value = Value;

    fn expecting(&self, f: &mut fmt::Formatter) -> fmt::Result {
        f.write_str("a JSON value")
    }

    fn visit_bool<E>(self, v: bool) -> Result<Value, E> {
        Ok(v.into())
    }

    fn visit_i64<E>(self, v: i64) -> Result<Value, E> {
        Ok(v.into())
    }

    fn visit_u64<E>(self, v: u64) -> Result<Value, E> {
        Ok(v.into())
    }

    fn visit_f64<E>(self, v: f64) -> Result<Value, E> {
        Ok(Number::from_f64(v).map_or(Value::Null, Value::Number))
    }

    fn visit_str<E>(self, v: &str) -> Result<Value, E> {
        Ok(v.into())
    }

    fn visit_string<E>(self, v: String) -> Result<Value, E> {
        Ok(v.into())
    }

    fn visit_unit<E>(self) -> Result<Value, E> {
        Ok(Value::Null)
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut items: A) -> Result<Value, A::Error> {
        let mut out = Vec::new();
        while let Some(item) = items.next_element_seed(One { left: self.left })? {
            out.push(item);
        }
        Ok(out.into())
    }

    fn visit_map<A: MapAccess<'de>>(self, mut entries: A) -> Result<Value, A::Error> {
        let mut out = Map::new();
        while let Some(key) = entries.next_key::<String>()? {
            out.insert(key, entries.next_value_seed(One { left: self.left })?);
        }
        Ok(out.into())
    }
}

#[cfg(test)]
mod tests {
    use super::{Refused, bounded, count};
    use serde_json::Value;

    #[test]
    fn what_is_within_the_bound_is_read_as_ever_and_what_is_not_is_refused_before_it_is_built() {
        for text in [r#"{"a":[1,-2,0.5,"x",null,true],"b":{"c":{}}}"#, "3", r#""x""#, "[[[]]]"] {
            let usual: Value = serde_json::from_str(text).unwrap_or_default();
            let most = count(&usual);
            assert_eq!(bounded(text.as_bytes(), most), Ok(usual), "{text}");
            assert_eq!(bounded(text.as_bytes(), most - 1), Err(Refused::TooMany(most - 1)), "{text}");
        }
        let many = format!("[{}0]", "0,".repeat(1_000_000));
        assert_eq!(bounded(many.as_bytes(), 1000), Err(Refused::TooMany(1000)));
        for broken in ["", "{", "[1] 2", "nonsense", &"[".repeat(100_000)] {
            assert!(matches!(bounded(broken.as_bytes(), 1000), Err(Refused::NotJson(_))), "{broken:.20}");
        }
    }
}

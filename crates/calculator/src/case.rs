//! A request and its answer, with figures taken out by their paths.

use judgment::limits::Limits;
use notation::Units;
use serde_json::Value;

/// What was asked, what came out, and for whose units.
pub struct Case {
    /// The request, as the headless interface takes it.
    pub request: Value,
    /// The answer, as the headless interface gives it.
    pub answer: Value,
    /// Answers with one measured figure off by its doubt each.
    pub moved: Vec<Value>,
    /// Units to show.
    pub units: Units,
    /// The limits of whoever asks.
    pub limits: Limits,
}

fn number(value: &Value, path: &str) -> Option<f64> {
    path.split('.').try_fold(value, |v, key| v.get(key)).and_then(Value::as_f64)
}

impl Case {
    /// A figure that was entered; not a number where it was not.
    #[must_use]
    pub fn given(&self, path: &str) -> f64 {
        number(&self.request, path).unwrap_or(f64::NAN)
    }

    /// A figure that may have been entered.
    #[must_use]
    pub fn given_if(&self, path: &str) -> Option<f64> {
        number(&self.request, path)
    }

    /// A figure of the answer; not a number where there is none.
    #[must_use]
    pub fn got(&self, path: &str) -> f64 {
        number(&self.answer, path).unwrap_or(f64::NAN)
    }

    /// A figure the answer may have.
    #[must_use]
    pub fn got_if(&self, path: &str) -> Option<f64> {
        number(&self.answer, path)
    }

    /// Band of a figure of the answer: root-sum-square of what each measured figure moves it by (first order).
    #[must_use]
    pub fn err(&self, path: &str) -> f64 {
        let value = self.got(path);
        let by = self.moved.iter().filter_map(|m| Some(number(m, path)? - value));
        by.map(|d| d * d).sum::<f64>().sqrt()
    }

    /// A word of the answer.
    #[must_use]
    pub fn word(&self, path: &str) -> &str {
        self.answer.get(path).and_then(Value::as_str).unwrap_or("")
    }

    /// A yes or no of the answer, where it has one.
    #[must_use]
    pub fn flag(&self, path: &str) -> Option<bool> {
        self.answer.get(path).and_then(Value::as_bool)
    }

    /// A list of the answer.
    #[must_use]
    pub fn list(&self, path: &str) -> &[Value] {
        self.answer.get(path).and_then(Value::as_array).map_or(&[], Vec::as_slice)
    }

    /// Pairs that were entered.
    #[must_use]
    pub fn pairs(&self, path: &str) -> Vec<(f64, f64)> {
        let items = self.request.get(path).and_then(Value::as_array).map_or(&[][..], Vec::as_slice);
        items.iter().filter_map(|p| Some((p.get(0)?.as_f64()?, p.get(1)?.as_f64()?))).collect()
    }
}

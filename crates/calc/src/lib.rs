//! The headless interface: one JSON object in, one JSON object out, for scripts, spreadsheets and tests.
//!
//! Names are the core's names, numbers are SI with the unit in the key, `null` means not determinable. A line that
//! cannot be answered becomes an error object and the run goes on.

mod bounded;
mod input;
mod lines;
mod ops;

pub use bounded::{Refused, bounded};
pub use lines::{Outcome, run_lines};

use input::{Fault, Input};
use ops::Answer;
use serde::ser::{Serialize, SerializeMap, Serializer};
use serde_json::{Map, Value};

/// Answers one request; an answer holding `error` says what was wrong and in which field.
///
/// # Examples
/// ```
/// let answer = calc::answer(&serde_json::json!({ "op": "air", "t_c": 20.0, "rh_pct": 50.0 }));
/// assert!((answer["dew_c"].as_f64().unwrap() - 9.27).abs() < 0.01);
/// let refused = calc::answer(&serde_json::json!({ "op": "air", "t_c": 20.0, "rh_pct": 150.0 }));
/// assert_eq!(refused["error"]["field"], "rh_pct");
/// ```
#[must_use]
pub fn answer(request: &Value) -> Value {
    serde_json::to_value(Reply::to(request)).unwrap_or_default()
}

/// Writes the answer to one request; says whether it holds `error`.
pub fn write_answer(request: &Value, out: &mut Vec<u8>) -> bool {
    let reply = Reply::to(request);
    // Writing JSON into memory does not fail: keys are texts, and a number that is none becomes null.
    let _ = serde_json::to_writer(out, &reply);
    reply.answer.is_err()
}

/// What answering a request costs, in units of about ten microseconds of one core, known before it is answered.
#[must_use]
pub fn cost(request: &Value) -> u64 {
    let operation =
        request.get("op").and_then(Value::as_str).and_then(|op| ops::OPERATIONS.iter().find(|o| o.name == op));
    operation.map_or(1, |o| o.fixed + o.each * bounded::count(request))
}

/// An answer on its way out: the request's `op` and `id` again, then the operation's keys or what was wrong.
struct Reply<'a> {
    op: Option<&'a Value>,
    id: Option<&'a Value>,
    answer: Answer,
}

impl<'a> Reply<'a> {
    fn to(request: &'a Value) -> Self {
        let Value::Object(object) = request else {
            let message = "a request is a JSON object like {\"op\":\"air\",\"t_c\":20,\"rh_pct\":50}";
            return Self::refusal(Fault::new("", message));
        };
        Self { op: object.get("op"), id: object.get("id"), answer: run(object) }
    }

    /// For what is no request at all.
    const fn refusal(fault: Fault) -> Self {
        Self { op: None, id: None, answer: Err(fault) }
    }
}

impl Serialize for Reply<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut map = serializer.serialize_map(None)?;
        map.serialize_entry("op", &self.op)?;
        if let Some(id) = self.id {
            map.serialize_entry("id", id)?;
        }
        match &self.answer {
            Ok(fields) => fields.iter().try_for_each(|(key, value)| map.serialize_entry(key, value))?,
            Err(fault) => map.serialize_entry("error", fault)?,
        }
        map.end()
    }
}

fn run(object: &Map<String, Value>) -> Answer {
    let op = match object.get("op") {
        Some(Value::String(op)) => op.as_str(),
        Some(_) => return Err(Fault::new("op", "op must be a text")),
        None => return Err(Fault::new("op", "op is missing")),
    };
    let Some(operation) = ops::OPERATIONS.iter().find(|o| o.name == op) else {
        let names = ops::OPERATIONS.map(|o| o.name).join(", ");
        return Err(Fault::new("op", &format!("op must be one of {names}, got {op}")));
    };
    (operation.run)(&Input::new(object, ""))
}

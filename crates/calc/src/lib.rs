//! The headless interface: one JSON object in, one JSON object out, for scripts, spreadsheets and tests.
//!
//! Names are the core's names, numbers are SI with the unit in the key, `null` means not determinable. A line that
//! cannot be answered becomes an error object and the run goes on.

mod input;
mod lines;
mod ops;

pub use lines::{Outcome, run_lines};

use input::{Fault, Input};
use serde_json::{Map, Value, json};

/// Answers one request; an answer holding `error` says what was wrong and in which field.
#[must_use]
pub fn answer(request: &Value) -> Value {
    let Value::Object(object) = request else {
        return refusal(
            None,
            None,
            &Fault::new("", "a request is a JSON object like {\"op\":\"air\",\"t_c\":20,\"rh_pct\":50}"),
        );
    };
    let (op, id) = (object.get("op").cloned(), object.get("id").cloned());
    match run(object) {
        Ok(fields) => {
            let mut out = head(op, id);
            out.extend(fields);
            Value::Object(out)
        }
        Err(fault) => refusal(op, id, &fault),
    }
}

fn head(op: Option<Value>, id: Option<Value>) -> Map<String, Value> {
    let mut out = Map::new();
    out.insert("op".into(), op.unwrap_or(Value::Null));
    if let Some(id) = id {
        out.insert("id".into(), id);
    }
    out
}

fn refusal(op: Option<Value>, id: Option<Value>, fault: &Fault) -> Value {
    let mut out = head(op, id);
    out.insert("error".into(), json!({ "field": fault.field, "message": fault.message }));
    Value::Object(out)
}

fn run(object: &Map<String, Value>) -> Result<Map<String, Value>, Fault> {
    let op = match object.get("op") {
        Some(Value::String(op)) => op.as_str(),
        Some(_) => return Err(Fault::new("op", "op must be a text")),
        None => return Err(Fault::new("op", "op is missing")),
    };
    let Some((_, operation)) = ops::OPERATIONS.iter().find(|(name, _)| *name == op) else {
        let names = ops::OPERATIONS.map(|(name, _)| name).join(", ");
        return Err(Fault::new("op", &format!("op must be one of {names}, got {op}")));
    };
    operation(&Input::new(object, ""))
}

//! The headless interface: one JSON object in, one JSON object out, for scripts, spreadsheets and tests.
//!
//! Names are the core's names, numbers are SI with the unit in the key, `null` means not determinable. A line that
//! cannot be answered becomes an error object and the run goes on.

mod input;
mod ops;

use input::{Fault, Input};
use serde_json::{Map, Value, json};
use std::io::{self, BufRead, Write};

/// How a run over JSON Lines went.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Outcome {
    /// Every line was answered.
    Answered,
    /// Some line got an error.
    SomeErrors,
    /// No line was JSON at all.
    NotJsonLines,
}

impl Outcome {
    /// Exit status of the command: 0, 1 or 2.
    #[must_use]
    pub const fn exit_code(self) -> u8 {
        match self {
            Self::Answered => 0,
            Self::SomeErrors => 1,
            Self::NotJsonLines => 2,
        }
    }
}

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

/// Reads JSON Lines, writes one JSON line per input line in order; blank lines are skipped.
///
/// # Errors
/// Only when reading or writing fails; bad lines are answered with an error object.
pub fn run_lines(mut from: impl BufRead, mut to: impl Write) -> io::Result<Outcome> {
    let (mut seen, mut parsed, mut failed) = (0_u64, 0_u64, 0_u64);
    let mut line = Vec::new();
    loop {
        line.clear();
        if from.read_until(b'\n', &mut line)? == 0 {
            break;
        }
        if line.iter().all(u8::is_ascii_whitespace) {
            continue;
        }
        seen += 1;
        let out = match serde_json::from_slice::<Value>(&line) {
            Ok(request) => {
                parsed += 1;
                answer(&request)
            }
            Err(e) => refusal(None, None, &Fault::new("", &format!("this line is not JSON: {e}"))),
        };
        failed += u64::from(out.get("error").is_some());
        serde_json::to_writer(&mut to, &out)?;
        to.write_all(b"\n")?;
    }
    to.flush()?;
    Ok(match (seen, parsed, failed) {
        (_, _, 0) => Outcome::Answered,
        (_, 0, _) => Outcome::NotJsonLines,
        _ => Outcome::SomeErrors,
    })
}

//! What was changed, in words: who, when, what, before and after.

use judgment::finding::{finding, test};
use language::say;
use notation::Show;
use notation::unit::{self, Kind};
use serde_json::Value;
use store::{Change, RowChange};
use uuid::Uuid;

/// How a column is told.
enum Told {
    Text(&'static str),
    /// How many there are.
    Count(&'static str),
    Figure(&'static str, &'static Kind),
    /// Another place, whichever.
    Moved,
}

/// Columns worth telling, in the order told; ids, positions and who wrote it last are not.
const COLUMNS: &[(&str, Told)] = &[
    ("name", Told::Text("name")),
    ("address", Told::Text("address")),
    ("climate", Told::Text("climate")),
    ("design_outdoor_c", Told::Figure("design outdoor temperature", &unit::TEMPERATURE)),
    ("altitude_m", Told::Figure("altitude", &unit::LENGTH)),
    ("latitude", Told::Text("latitude")),
    ("longitude", Told::Text("longitude")),
    ("complaint", Told::Text("complaint")),
    ("said", Told::Text("said")),
    ("built", Told::Text("construction")),
    ("year", Told::Text("year built")),
    ("occupants", Told::Text("people")),
    ("kind", Told::Text("kind")),
    ("level", Told::Text("level")),
    ("place", Told::Text("column")),
    ("area_m2", Told::Figure("floor area", &unit::AREA)),
    ("height_m", Told::Figure("height", &unit::LENGTH)),
    ("beyond", Told::Text("beyond")),
    ("face", Told::Text("side")),
    ("bare_soil", Told::Text("bare soil")),
    ("buildup", Told::Text("build-up")),
    ("short", Told::Text("in the drawing")),
    ("material", Told::Text("material")),
    ("severity", Told::Text("severity")),
    ("value", Told::Text("figure")),
    ("marks", Told::Count("marks")),
    ("visit_id", Told::Text("visit")),
    ("finding_id", Told::Moved),
    ("space_id", Told::Moved),
    ("boundary_id", Told::Moved),
    ("surface_id", Told::Moved),
    ("result", Told::Text("result")),
    ("note", Told::Text("note")),
    ("gone_at", Told::Text("gone since")),
    ("absent", Told::Text("looked for, not there")),
    ("causes", Told::Text("causes")),
    ("stage", Told::Text("when")),
    ("done_on", Told::Text("done on")),
    ("left_out", Told::Text("left out")),
    ("override_reason", Told::Text("overridden")),
    ("choice", Told::Text("choice")),
    ("due_on", Told::Text("due")),
    ("state", Told::Text("state")),
    ("reason", Told::Text("reason")),
    ("proof", Told::Text("proof")),
];

/// What a change did, row by row.
pub fn told(show: &Show, change: &Change) -> Vec<String> {
    let mut lines: Vec<String> = change.rows.iter().filter_map(|r| row(show, r)).collect();
    if lines.is_empty() {
        lines.push(say!("Order only.").into());
    }
    lines
}

fn row(show: &Show, change: &RowChange) -> Option<String> {
    // What is kept whole, such as a coating, has its name inside.
    let name = |v: &Value| {
        let own = v.get("name").or_else(|| v.get("said")?.get("name").or_else(|| v.get("said")?.get("what")));
        own.and_then(Value::as_str).unwrap_or_default().to_owned()
    };
    let what = match change.table.as_str() {
        "call_sheet" => say!("Call sheet").to_owned(),
        "conclusion" => say!("Conclusion").to_owned(),
        "finding" | "test_run" => {
            let id = |key: &str| change.after.get(key).and_then(Value::as_str).unwrap_or_default();
            let finding = finding(id("what")).map(|f| f.name.as_str());
            finding.or_else(|| test(id("test")).map(|t| t.name.as_str())).unwrap_or_default().to_owned()
        }
        "plan_step" | "plan_figure" => {
            let id = change.after.get("fix").and_then(Value::as_str).unwrap_or_default();
            let of = name(&change.after).replace('_', " ");
            let fix = crate::plan::fix_name(id);
            if of.is_empty() { fix.to_owned() } else { format!("{fix}, {of}") }
        }
        "school" => {
            let id = change.after.get("question").and_then(Value::as_str).unwrap_or_default();
            judgment::plan::question(id).map_or(id, |q| q.name.as_str()).to_owned()
        }
        "skip" => say!("Station").to_owned(),
        // A station has no name of its own: its space or surface tells.
        "station" => return None,
        other => {
            let mut table = other.replace('_', " ");
            if let Some(first) = table.get_mut(0..1) {
                first.make_ascii_uppercase();
            }
            format!("{table} {}", name(change.before.as_ref().unwrap_or(&change.after)))
        }
    };
    let Some(before) = &change.before else { return Some(say!("{what}: added", what)) };
    let removed = |v: &Value| v.get("removed_at").is_some_and(|x| !x.is_null());
    match (removed(before), removed(&change.after)) {
        (false, true) => return Some(say!("{what}: removed", what)),
        (true, false) => return Some(say!("{what}: restored", what)),
        _ => {}
    }
    let differs = |(column, told): &(&str, Told)| {
        let (old, new) = (before.get(column)?, change.after.get(column)?);
        (old != new).then(|| match told {
            Told::Text(_) if old.is_object() && new.is_object() => parts_of(old, new),
            Told::Text(words) => format!("{words} {} → {}", text(old), text(new)),
            Told::Count(words) => format!("{words} {} → {}", count(old), count(new)),
            Told::Moved => say!("placed elsewhere").to_owned(),
            Told::Figure(words, kind) => format!("{words} {} → {}", figure(show, kind, old), figure(show, kind, new)),
        })
    };
    let mut parts: Vec<String> = COLUMNS.iter().filter_map(differs).collect();
    parts.dedup();
    (!parts.is_empty()).then(|| format!("{what}: {}", parts.join("; ")))
}

/// What differs in something kept whole: plain fields with both figures, others by name.
fn parts_of(old: &Value, new: &Value) -> String {
    let keys = [old, new].into_iter().filter_map(Value::as_object).flat_map(|o| o.keys());
    let keys: std::collections::BTreeSet<&String> = keys.collect();
    let part = |key: &&String| {
        let (a, b) = (old.get(key.as_str()).unwrap_or(&Value::Null), new.get(key.as_str()).unwrap_or(&Value::Null));
        // Moments are kept as milliseconds, places as ids: that they differ is enough.
        let plain = |v: &Value| match v {
            Value::String(s) => Uuid::parse_str(s).is_err(),
            Value::Number(n) => n.as_f64().is_none_or(|x| x.abs() < 1e9),
            Value::Null | Value::Bool(_) => true,
            _ => false,
        };
        let words = key.replace('_', " ");
        (a != b).then(|| {
            if plain(a) && plain(b) {
                format!("{words} {} → {}", text(a), text(b))
            } else {
                say!("{words} changed", words)
            }
        })
    };
    keys.iter().filter_map(part).collect::<Vec<_>>().join("; ")
}

fn figure(show: &Show, kind: &Kind, value: &Value) -> String {
    value.as_f64().map_or_else(|| text(value), |si| kind.text(si, show.units))
}

fn count(value: &Value) -> usize {
    value.as_array().map_or(0, Vec::len)
}

fn text(value: &Value) -> String {
    match value {
        Value::Null => say!("none").into(),
        Value::String(s) if s.is_empty() => say!("none").into(),
        Value::String(s) => s.replace('_', " "),
        Value::Bool(b) => if *b { say!("yes") } else { say!("no") }.into(),
        other => other.to_string(),
    }
}

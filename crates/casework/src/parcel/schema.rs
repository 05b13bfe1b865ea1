//! The open job described: what any program needs to read it.

use serde_json::{Map, Value, json};
use std::collections::HashMap;
use store::{FORMAT_VERSION, Field, Table};

/// How a column of the database is written.
fn written(field: &Field) -> Value {
    let of = |kind: &str, format: Option<&str>| {
        let kinds = if field.optional { json!([kind, "null"]) } else { json!(kind) };
        match format {
            Some(format) => json!({ "type": kinds, "format": format }),
            None => json!({ "type": kinds }),
        }
    };
    match field.kind.as_str() {
        "uuid" => of("string", Some("uuid")),
        "timestamp with time zone" => of("string", Some("date-time")),
        "date" => of("string", Some("date")),
        "double precision" => of("number", None),
        "integer" | "bigint" => of("integer", None),
        "boolean" => of("boolean", None),
        "bytea" => json!({ "type": "string", "contentEncoding": "base64" }),
        "jsonb" => json!({}),
        _ => of("string", None),
    }
}

/// Rows of a table.
fn rows(table: &Table, fields: &[Field]) -> Value {
    let properties: Map<String, Value> = if table.name == "log_point" {
        let column = |kind: Value| json!({ "type": "array", "items": { "type": kind } });
        let id = |optional: bool| json!({ "type": if optional { json!(["string", "null"]) } else { json!("string") }, "format": "uuid" });
        let figures = || column(json!(["number", "null"]));
        Map::from_iter([
            ("series_id".to_owned(), id(false)),
            ("bring_in_id".to_owned(), id(true)),
            ("at".to_owned(), column(json!("integer"))),
            ("t_c".to_owned(), figures()),
            ("rh_pct".to_owned(), figures()),
            ("value".to_owned(), figures()),
        ])
    } else {
        fields.iter().map(|f| (f.name.clone(), written(f))).collect()
    };
    let required: Vec<&String> = properties.keys().collect();
    json!({
        "description": table.what, "type": "object", "required": required, "properties": properties,
        "additionalProperties": false,
    })
}

/// The JSON Schema of a job, by the columns of its tables.
#[must_use]
pub fn schema(fields: &HashMap<String, Vec<Field>>) -> Value {
    let own = |t: &Table| fields.get(t.name).map_or(&[][..], Vec::as_slice);
    let part = |t: &Table| {
        json!({
            "type": "object", "required": ["table", "rows"], "additionalProperties": false,
            "properties": { "table": { "const": t.name }, "rows": { "type": "array", "items": { "$ref": format!("#/$defs/{}", t.name) } } },
        })
    };
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Gutteral job",
        "description": "A job with everything known of it. Parts come in the order of the tables below: each needs only those before \
            it. Moments are UTC, figures SI with their unit in the name (t_c in °C, rh_pct in %), ids mean nothing outside the file.",
        "type": "object",
        "required": ["format", "version", "exported_at", "job", "name", "parts", "whole"],
        "properties": {
            "format": { "const": report::job::FORMAT },
            "version": { "const": FORMAT_VERSION },
            "exported_at": { "type": "string", "format": "date-time" },
            "job": { "type": "string", "format": "uuid" },
            "name": { "type": "string" },
            "parts": { "type": "array", "items": { "oneOf": Table::all().map(part).collect::<Vec<_>>() } },
            "whole": { "description": "The last member: without it the file was cut off.", "const": true },
        },
        "$defs": Table::all().map(|t| (t.name.to_owned(), rows(t, own(t)))).collect::<Map<_, _>>(),
    })
}

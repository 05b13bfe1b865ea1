//! A job’s tables for whoever works with tables: a bundle of CSV with its descriptor, or a workbook.

use super::pack::options;
use crate::log::{Telling, WorkError};
use rust_xlsxwriter::{Workbook, Worksheet, XlsxError};
use serde_json::{Map, Value, json};
use std::io::{Seek, Write};
use store::{Departing, Field, Scope, Table, fields};
use uuid::Uuid;
use zip::ZipWriter;

/// Rows of a sheet, its head among them, as the format allows.
const MOST_ROWS: u32 = 1_048_576;
/// Longest text of a cell of a workbook, characters.
const LONGEST_CELL: usize = 32_000;

/// Tables whose cells are files: they are in the JSON.
fn is_of_files(columns: &[Field]) -> bool {
    columns.iter().any(|f| f.kind == "bytea")
}

/// What a spreadsheet would run is text: an apostrophe stands before it.
fn tame(text: &str) -> String {
    if text.starts_with(['=', '+', '-', '@', '\t', '\r', '\n']) { format!("'{text}") } else { text.to_owned() }
}

/// Rows of a table one by one: columns of single readings are taken apart.
fn rows_of(table: &Table, text: &str) -> Vec<Map<String, Value>> {
    let Ok(row) = serde_json::from_str::<Map<String, Value>>(text) else { return Vec::new() };
    if table.name != "log_point" {
        return vec![row];
    }
    let column = |name: &str| row.get(name).and_then(Value::as_array).cloned().unwrap_or_default();
    let (at, t_c, rh_pct, value) = (column("at"), column("t_c"), column("rh_pct"), column("value"));
    let moment = |v: &Value| {
        let at = v.as_i64().and_then(chrono::DateTime::from_timestamp_micros);
        at.map_or(Value::Null, |at| Value::String(at.to_rfc3339()))
    };
    let one = |i: usize| {
        let pick = |column: &[Value]| column.get(i).cloned().unwrap_or_default();
        let fixed = ["series_id", "bring_in_id"].map(|k| (k.to_owned(), row.get(k).cloned().unwrap_or_default()));
        let own = [("at", moment(&at[i])), ("t_c", pick(&t_c)), ("rh_pct", pick(&rh_pct)), ("value", pick(&value))];
        fixed.into_iter().chain(own.map(|(k, v)| (k.to_owned(), v))).collect()
    };
    (0..at.len()).map(one).collect()
}

/// A cell as text.
fn cell(value: &Value) -> String {
    match value {
        Value::Null => String::new(),
        Value::String(text) => tame(text),
        other => other.to_string(),
    }
}

/// What a column of the database is called in a table schema.
fn kind(field: &Field) -> &'static str {
    match field.kind.as_str() {
        "double precision" => "number",
        "integer" | "bigint" => "integer",
        "boolean" => "boolean",
        "timestamp with time zone" => "datetime",
        "date" => "date",
        "jsonb" => "object",
        _ => "string",
    }
}

/// Writes a zip of CSV files, each described in `datapackage.json` (Table Schema, Frictionless Data).
pub(super) async fn csv_bundle(
    scope: &Scope,
    job: Uuid,
    file: &mut (impl Write + Seek),
    telling: &Telling<'_>,
) -> Result<(), WorkError> {
    let columns = fields(scope).await?;
    let departing = Departing::of(scope, job).await?;
    let mut zip = ZipWriter::new(file);
    let mut described = Vec::new();
    let all = Table::all().count() as u64;
    for (n, table) in Table::all().enumerate() {
        let own = columns.get(table.name).map_or(&[][..], Vec::as_slice);
        if is_of_files(own) {
            continue;
        }
        let path = format!("{}.csv", table.name);
        zip.start_file(&path, options())?;
        let mut csv = csv::Writer::from_writer(&mut zip);
        csv.write_record(own.iter().map(|f| f.name.as_str()))?;
        departing.open(table).await?;
        loop {
            let rows = departing.next(table).await?;
            if rows.is_empty() {
                break;
            }
            for row in rows.iter().flat_map(|r| rows_of(table, r)) {
                csv.write_record(own.iter().map(|f| row.get(&f.name).map(cell).unwrap_or_default()))?;
            }
            telling.tell(n as u64, all).await?;
        }
        csv.flush()?;
        drop(csv);
        let fields: Vec<Value> = own
            .iter()
            .map(|f| json!({ "name": f.name, "type": kind(f), "constraints": { "required": !f.optional } }))
            .collect();
        described.push(json!({
            "name": table.name, "path": path, "description": table.what, "profile": "tabular-data-resource",
            "encoding": "utf-8", "schema": { "fields": fields, "missingValues": [""] },
        }));
    }
    zip.start_file("datapackage.json", options())?;
    let package =
        json!({ "profile": "tabular-data-package", "name": "gutteral-job", "id": job, "resources": described });
    zip.write_all(serde_json::to_string_pretty(&package).unwrap_or_default().as_bytes())?;
    zip.finish()?;
    Ok(())
}

/// Begins a sheet with its head.
fn sheet<'a>(book: &'a mut Workbook, name: &str, own: &[Field]) -> Result<&'a mut Worksheet, XlsxError> {
    let sheet = book.add_worksheet_with_constant_memory()?;
    sheet.set_name(name)?;
    for (i, f) in (0..).zip(own) {
        sheet.write_string(0, i, &f.name)?;
    }
    Ok(sheet)
}

/// Writes a workbook, a sheet for each table that has rows; a long one goes on in another sheet.
pub(super) async fn workbook(
    scope: &Scope,
    job: Uuid,
    file: &mut (impl Write + Seek + Send),
    telling: &Telling<'_>,
) -> Result<(), WorkError> {
    let columns = fields(scope).await?;
    let departing = Departing::of(scope, job).await?;
    let mut book = Workbook::new();
    let all = Table::all().count() as u64;
    for (n, table) in Table::all().enumerate() {
        let own = columns.get(table.name).map_or(&[][..], Vec::as_slice);
        if is_of_files(own) {
            continue;
        }
        let (mut at, mut sheets) = (MOST_ROWS, 0);
        departing.open(table).await?;
        loop {
            let rows = departing.next(table).await?;
            if rows.is_empty() {
                break;
            }
            for row in rows.iter().flat_map(|r| rows_of(table, r)) {
                if at >= MOST_ROWS {
                    (at, sheets) = (1, sheets + 1);
                    let name = if sheets == 1 { table.name.to_owned() } else { format!("{} {sheets}", table.name) };
                    sheet(&mut book, &name, own)?;
                }
                let last = book.worksheets_mut().last_mut();
                let Some(sheet) = last else { continue };
                for (i, f) in (0..).zip(own) {
                    match row.get(&f.name).unwrap_or(&Value::Null) {
                        Value::Null => {}
                        Value::Number(x) if x.is_f64() || x.as_i64().is_some_and(|x| x.abs() < 1 << 53) => {
                            sheet.write_number(at, i, x.as_f64().unwrap_or_default())?;
                        }
                        Value::Bool(x) => {
                            sheet.write_boolean(at, i, *x)?;
                        }
                        // A string is a string: no formula is made of it.
                        text => {
                            let text = text.as_str().map_or_else(|| text.to_string(), str::to_owned);
                            sheet.write_string(at, i, text.chars().take(LONGEST_CELL).collect::<String>())?;
                        }
                    }
                }
                at += 1;
            }
            telling.tell(n as u64, all).await?;
        }
    }
    book.save_to_writer(file)?;
    Ok(())
}

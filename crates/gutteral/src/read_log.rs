//! `gutteral read-log`: a logger's or weather file as JSON Lines, read as the import page reads it.

use logger::{Format, Order, Reading, Refused, Row, Survey, Tally, Unreadable, Wishes, Zone, survey};
use serde_json::{Map, Value, json};
use std::io::{self, Write};
use std::ops::ControlFlow;
use std::path::Path;

/// How a run went, by its exit code.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Went {
    /// Every row was read.
    Whole,
    /// Some were refused.
    Partly,
}

/// Why nothing came of it.
#[derive(Debug, thiserror::Error)]
pub enum ReadLogError {
    /// What was asked for makes no sense.
    #[error("{0}")]
    Asked(String),
    /// The file.
    #[error(transparent)]
    File(#[from] Unreadable),
    /// Whoever reads the output.
    #[error(transparent)]
    Out(#[from] io::Error),
}

/// What the command line says: the file, and what to take for granted.
///
/// # Errors
/// [`ReadLogError::Asked`] for anything else.
pub fn arguments<'a>(words: &[&'a str]) -> Result<(&'a Path, Wishes), ReadLogError> {
    let asked = |text: String| Err(ReadLogError::Asked(text));
    let mut wishes = Wishes::default();
    let mut file = None;
    let mut words = words.iter().copied();
    while let Some(word) = words.next() {
        match word {
            "--zone" => {
                let name = words.next().unwrap_or_default();
                let Some(zone) = Zone::named(name) else {
                    return asked(format!(
                        "“{name}” is no time zone: name one like Europe/Paris, or an offset like +01:00"
                    ));
                };
                wishes.zone = Some(zone);
            }
            "--order" => {
                let name = words.next().unwrap_or_default();
                let Some(order) = Order::from_id(name) else {
                    return asked(format!("“{name}” is no order: dmy, mdy or ymd"));
                };
                wishes.order = Some(order);
            }
            word if word.starts_with("--") => return asked(format!("{word} is unknown; known are --zone and --order")),
            word if file.is_none() => file = Some(Path::new(word)),
            _ => return asked("one file at a time".into()),
        }
    }
    match file {
        Some(file) => Ok((file, wishes)),
        None => asked("which file?".into()),
    }
}

/// Reads a file and writes its lines: what it holds, its rows in its own order, and what was refused.
///
/// # Errors
/// [`ReadLogError`]: why nothing can be read.
pub fn run(file: &Path, wishes: &Wishes, mut out: impl Write) -> Result<Went, ReadLogError> {
    let how = survey(file, wishes)?;
    let reading = Reading { source: file, survey: &how };
    // What it holds stands first and is known last: it is read twice rather than held.
    let tally = reading.each(&mut |_| ControlFlow::Continue(()))?;
    if tally.rows == 0 {
        return Err(Unreadable::NoValues("no row of it can be read".into()).into());
    }
    line(&mut out, &json!({ "log": head(&how, &tally) }))?;
    // Rows first, then what was refused: a pass for each, so that a file of any length needs no more room.
    for refused in [false, true].into_iter().take(1 + usize::from(tally.refused > 0)) {
        let mut failed = None;
        reading.each(&mut |row| {
            let said = match (&row, refused) {
                (Ok(row), false) => row_of(row),
                (Err(Refused { line, text, why }), true) => json!({ "line": line, "text": text, "why": why }),
                _ => return ControlFlow::Continue(()),
            };
            match line(&mut out, &said) {
                Ok(()) => ControlFlow::Continue(()),
                Err(e) => {
                    failed = Some(e);
                    ControlFlow::Break(())
                }
            }
        })?;
        if let Some(e) = failed {
            return Err(e.into());
        }
    }
    out.flush()?;
    Ok(if tally.refused == 0 { Went::Whole } else { Went::Partly })
}

fn line(mut out: &mut (impl Write + ?Sized), value: &Value) -> io::Result<()> {
    serde_json::to_writer(&mut out, value)?;
    out.write_all(b"\n")
}

fn head(how: &Survey, tally: &Tally) -> Value {
    let format = match how.format {
        Format::Delimited => "csv",
        Format::Sheet => "sheet",
        Format::Json => "json",
        Format::Epw => "epw",
    };
    let stamp = |at: Option<chrono::DateTime<chrono::Utc>>| {
        at.map(|at| at.to_rfc3339_opts(chrono::SecondsFormat::AutoSi, true))
    };
    json!({
        "format": format,
        "delimiter": how.delimiter.map(String::from),
        "decimal": how.decimal.mark().to_string(),
        "zone": how.zone.shown(),
        "order": how.order.id(),
        "columns": how.columns,
        "rows": tally.rows,
        "refused": tally.refused,
        "first": stamp(tally.first),
        "last": stamp(tally.last),
        "asked": how.asked,
        "because": how.because.iter().map(|b| format!("{}: {}", b.what, b.why)).collect::<Vec<_>>(),
    })
}

fn row_of(row: &Row) -> Value {
    let mut out = Map::new();
    out.insert("at".into(), row.at.to_rfc3339_opts(chrono::SecondsFormat::AutoSi, true).into());
    out.insert("channel".into(), row.channel.clone().into());
    for (reads, value) in &row.values {
        // Its name is that of the headless interface.
        if let Ok(Value::String(name)) = serde_json::to_value(reads) {
            out.insert(name, json!(value));
        }
    }
    Value::Object(out)
}

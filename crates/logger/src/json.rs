//! JSON: a list of objects, an object of lists, or an object on each line.

use crate::cell::{Cell, Line};
use crate::grid::{Grid, Source, Unreadable};
use crate::text::Lines;
use serde_json::{Map, Value};
use std::io::{BufRead, BufReader, Read};
use std::ops::ControlFlow;

/// Largest document read, bytes: it is held whole, unless it stands in lines.
const MOST: u64 = 64 << 20;

/// Rows of a document under the names of its columns.
pub enum Json<'a, S: Source + ?Sized> {
    /// Held whole.
    Whole { names: Vec<String>, rows: Vec<Vec<Cell>> },
    /// An object on each line.
    Lines { names: Vec<String>, source: &'a S },
}

impl<'a, S: Source + ?Sized> Json<'a, S> {
    pub fn open(source: &'a S) -> Result<Self, Unreadable> {
        let mut first = String::new();
        BufReader::new(source.open()?.take(MOST)).read_line(&mut first)?;
        if let Ok(Value::Object(object)) = serde_json::from_str(first.trim_start_matches('\u{feff}'))
            && !object.values().any(Value::is_array)
        {
            return Ok(Self::Lines { names: flat(&object).into_iter().map(|(name, _)| name).collect(), source });
        }
        let mut text = String::new();
        source.open()?.take(MOST + 1).read_to_string(&mut text)?;
        if text.len() as u64 > MOST {
            return Err(Unreadable::Damaged(format!("JSON may have {} MB at most, or stand in lines", MOST >> 20)));
        }
        let whole: Value = serde_json::from_str(text.trim_start_matches('\u{feff}'))
            .map_err(|e| Unreadable::Damaged(e.to_string()))?;
        match rows(&whole) {
            Some((names, rows)) if !rows.is_empty() => Ok(Self::Whole { names, rows }),
            Some(_) => Err(Unreadable::Empty),
            None => Err(Unreadable::Damaged("neither a list of readings nor lists by column".into())),
        }
    }

    fn head(names: &[String]) -> Line {
        Line { number: 0, cells: names.iter().map(|n| Cell::text(n)).collect() }
    }
}

impl<S: Source + ?Sized> Grid for Json<'_, S> {
    fn each(&self, take: &mut dyn FnMut(Line) -> ControlFlow<()>) -> Result<(), Unreadable> {
        match self {
            Self::Whole { names, rows } => {
                if take(Self::head(names)).is_break() {
                    return Ok(());
                }
                for (i, cells) in rows.iter().enumerate() {
                    if take(Line { number: i as u64 + 1, cells: cells.clone() }).is_break() {
                        break;
                    }
                }
            }
            Self::Lines { names, source } => {
                if take(Self::head(names)).is_break() {
                    return Ok(());
                }
                let mut lines = Lines::new(source.open()?);
                while let Some((number, line)) = lines.next_line()? {
                    let cells = match serde_json::from_str(line.trim_start_matches('\u{feff}')) {
                        Ok(Value::Object(object)) => picked(names, &object),
                        _ if line.trim().is_empty() => continue,
                        _ => vec![Cell::text(&line)],
                    };
                    if take(Line { number, cells }).is_break() {
                        break;
                    }
                }
            }
        }
        Ok(())
    }
}

/// Names and rows of a document held whole.
fn rows(whole: &Value) -> Option<(Vec<String>, Vec<Vec<Cell>>)> {
    match whole {
        Value::Array(list) => {
            let objects: Vec<&Map<String, Value>> = list.iter().filter_map(Value::as_object).collect();
            let mut names: Vec<String> = Vec::new();
            for (name, _) in objects.iter().take(100).flat_map(|o| flat(o)) {
                if !names.contains(&name) {
                    names.push(name);
                }
            }
            let rows = objects.iter().map(|o| picked(&names, o)).collect();
            (!objects.is_empty()).then_some((names, rows))
        }
        Value::Object(object) => {
            let lists: Vec<(&String, &Vec<Value>)> =
                object.iter().filter_map(|(name, v)| Some((name, v.as_array()?))).collect();
            match lists.as_slice() {
                // The readings stand under a name of their own.
                [(_, list)] => rows(&Value::Array((*list).clone())),
                [_, _, ..] => {
                    let length = lists.iter().map(|(_, l)| l.len()).max()?;
                    let row = |i: usize| lists.iter().map(|(_, l)| l.get(i).map_or(Cell::Empty, cell)).collect();
                    Some((lists.iter().map(|(n, _)| (*n).clone()).collect(), (0..length).map(row).collect()))
                }
                [] => object.values().find_map(|v| v.as_object().and_then(|o| rows(&Value::Object(o.clone())))),
            }
        }
        _ => None,
    }
}

/// Names and values of an object, those of an object within it under both names.
fn flat(object: &Map<String, Value>) -> Vec<(String, &Value)> {
    let mut out = Vec::new();
    for (name, value) in object {
        match value {
            Value::Object(inner) => out.extend(inner.iter().map(|(n, v)| (format!("{name} {n}"), v))),
            value => out.push((name.clone(), value)),
        }
    }
    out
}

fn picked(names: &[String], object: &Map<String, Value>) -> Vec<Cell> {
    let all = flat(object);
    let of = |name: &String| all.iter().find(|(n, _)| n == name).map_or(Cell::Empty, |(_, v)| cell(v));
    names.iter().map(of).collect()
}

fn cell(value: &Value) -> Cell {
    match value {
        Value::Number(x) => x.as_f64().map_or(Cell::Empty, Cell::Number),
        Value::String(text) => Cell::text(text),
        _ => Cell::Empty,
    }
}

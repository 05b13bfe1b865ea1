//! XLSX and ODS: the first sheet with anything on it.

use crate::cell::{Cell, Line};
use crate::grid::{Grid, Source, Unreadable};
use calamine::{Data, Reader, open_workbook_auto_from_rs};
use std::io::{Cursor, Read};
use std::ops::ControlFlow;

/// Largest spreadsheet read, bytes: it is held whole.
const MOST: u64 = 64 << 20;

/// A spreadsheet's first sheet with anything on it.
pub struct Sheet {
    range: calamine::Range<Data>,
}

impl Sheet {
    pub fn open(source: &(impl Source + ?Sized)) -> Result<Self, Unreadable> {
        let mut bytes = Vec::new();
        source.open()?.take(MOST + 1).read_to_end(&mut bytes)?;
        if bytes.len() as u64 > MOST {
            return Err(Unreadable::Damaged(format!(
                "a spreadsheet may have {} MB at most: save it as CSV",
                MOST >> 20
            )));
        }
        let damaged = |e: calamine::Error| Unreadable::Damaged(e.to_string());
        let mut book = open_workbook_auto_from_rs(Cursor::new(bytes)).map_err(damaged)?;
        let sheets = book.worksheets().into_iter().map(|(_, range)| range);
        let range = sheets.into_iter().find(|r| r.used_cells().nth(1).is_some()).ok_or(Unreadable::Empty)?;
        Ok(Self { range })
    }
}

impl Grid for Sheet {
    fn each(&self, take: &mut dyn FnMut(Line) -> ControlFlow<()>) -> Result<(), Unreadable> {
        let first = u64::from(self.range.start().map_or(0, |(row, _)| row)) + 1;
        for (i, row) in self.range.rows().enumerate() {
            let line = Line { number: first + i as u64, cells: row.iter().map(cell).collect() };
            if line.filled() > 0 && take(line).is_break() {
                break;
            }
        }
        Ok(())
    }
}

fn cell(data: &Data) -> Cell {
    match data {
        Data::Int(x) => Cell::Number(*x as f64),
        Data::Float(x) => Cell::Number(*x),
        Data::String(text) | Data::DateTimeIso(text) | Data::DurationIso(text) => Cell::text(text),
        Data::DateTime(at) if at.is_datetime() => at.as_datetime().map_or(Cell::Empty, Cell::Moment),
        Data::DateTime(span) => Cell::Number(span.as_f64()),
        Data::Bool(_) | Data::Error(_) | Data::Empty => Cell::Empty,
        #[allow(unreachable_patterns, reason = "kinds of cells a later version may know")]
        _ => Cell::Empty,
    }
}

//! CSV and its kin: cells between commas, semicolons, tabs or bars.

use crate::cell::{Cell, Line};
use crate::grid::{Grid, Source, Unreadable};
use crate::text::{Decoded, Lines};
use encoding_rs::Encoding;
use std::ops::ControlFlow;

/// Delimiters tried. Where two are as good the earlier one is it: a comma may then be the decimal mark.
const DELIMITERS: [u8; 4] = *b";\t|,";
/// Lines looked at.
const LOOKED_AT: usize = 200;

/// A text with a delimiter.
pub struct Delimited<'a, S: Source + ?Sized> {
    pub source: &'a S,
    pub encoding: &'static Encoding,
    pub delimiter: u8,
    pub quoted: bool,
}

impl<S: Source + ?Sized> Grid for Delimited<'_, S> {
    fn each(&self, take: &mut dyn FnMut(Line) -> ControlFlow<()>) -> Result<(), Unreadable> {
        let mut lines = Lines::new(Decoded::new(self.source.open()?, self.encoding));
        let mut quoted = csv_core::ReaderBuilder::new().delimiter(self.delimiter).build();
        while let Some((number, line)) = lines.next_line()? {
            if line.is_empty() {
                continue;
            }
            // Quotes hold within their line: one that is never closed is a character and costs no more than its line.
            let plain = !self.quoted || !line.contains('"') || !line.matches('"').count().is_multiple_of(2);
            let cells = || line.split(char::from(self.delimiter)).map(Cell::text).collect();
            let line = Line { number, cells: if plain { cells() } else { unquoted(&mut quoted, &line) } };
            if take(line).is_break() {
                break;
            }
        }
        Ok(())
    }
}

/// The cells of a line with quotes.
fn unquoted(reader: &mut csv_core::Reader, line: &str) -> Vec<Cell> {
    reader.reset();
    let (mut text, mut ends) = (vec![0; line.len()], vec![0; line.len() + 1]);
    let (_, _, written, cells) = reader.read_record(line.as_bytes(), &mut text, &mut ends);
    // Its last cell ends with the line.
    let (_, _, _, last) = reader.read_record(&[], &mut text[written..], &mut ends[cells..]);
    let mut from = 0;
    let cell = |end: &usize| {
        let cell = &text[from..*end];
        from = *end;
        Cell::text(&String::from_utf8_lossy(cell))
    };
    ends[..cells + last].iter().map(cell).collect()
}

/// The delimiter that splits most lines into the same number of cells, and in how many of how many lines it does.
pub fn delimiter(head: &str) -> (u8, usize, usize) {
    let lines: Vec<&str> = head.lines().filter(|l| !l.trim().is_empty()).take(LOOKED_AT).collect();
    let judged = |delimiter: u8| {
        let counts: Vec<usize> = lines.iter().map(|l| count(l, delimiter)).collect();
        let alike = |n: usize| counts.iter().filter(|c| **c == n).count();
        counts.iter().copied().filter(|n| *n > 0).map(|n| (alike(n), n)).max().unwrap_or((0, 0))
    };
    let mut best = (b',', 0);
    for delimiter in DELIMITERS {
        let (alike, _) = judged(delimiter);
        // A tenth more lines, or it is no better than the one before.
        if alike * 10 > best.1 * 11 {
            best = (delimiter, alike);
        }
    }
    (best.0, best.1, lines.len())
}

/// Whether quotes in a text pair up line by line; where they do not, they are characters like others.
pub fn is_quoted(head: &str) -> bool {
    let whole = head.rsplit_once('\n').map_or(head, |(whole, _)| whole);
    whole.lines().all(|l| l.matches('"').count() % 2 == 0)
}

/// Delimiters in a line outside of quotes.
fn count(line: &str, delimiter: u8) -> usize {
    let mut inside = false;
    line.bytes()
        .filter(|b| {
            inside ^= *b == b'"';
            !inside && *b == delimiter
        })
        .count()
}

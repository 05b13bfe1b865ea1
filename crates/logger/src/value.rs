//! A figure as a logger writes it.

use crate::cell::Cell;
use notation::number::read;
use serde::{Deserialize, Serialize};

/// What stands in a cell that should hold a figure.
#[derive(Debug, Clone, PartialEq)]
pub enum Figure {
    /// A figure with the unit behind it, empty for none.
    Read(f64, String),
    /// Nothing was read: empty, or one of the marks for that.
    Missing,
    /// Something else.
    Words,
}

/// Marks for no reading, in small letters.
const MISSING: [&str; 18] = [
    "n/a", "na", "n.a.", "nan", "null", "none", "ol", "o.l.", "o/l", "err", "error", "fail", "invalid", "#n/a", "inf",
    "lo", "hi", "over",
];

/// The decimal mark of a file.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum Decimal {
    /// `21.5`
    Point,
    /// `21,5`
    Comma,
}

impl Decimal {
    /// As it is written.
    #[must_use]
    pub const fn mark(self) -> char {
        match self {
            Self::Point => '.',
            Self::Comma => ',',
        }
    }
}

/// Reads a cell. A figure beyond what an instrument shows (`<10`, `>100`) is no reading.
pub fn figure(cell: &Cell, decimal: Decimal) -> Figure {
    match cell {
        Cell::Empty => Figure::Missing,
        Cell::Number(x) if x.is_finite() => Figure::Read(*x, String::new()),
        Cell::Number(_) => Figure::Missing,
        Cell::Moment(_) => Figure::Words,
        Cell::Text(text) => of_text(text, decimal),
    }
}

fn of_text(text: &str, decimal: Decimal) -> Figure {
    let text = text.trim_matches(|c: char| c.is_whitespace() || matches!(c, '"' | '\''));
    // The common case by far.
    if decimal == Decimal::Point
        && let Ok(x) = text.parse::<f64>()
        && x.is_finite()
    {
        return Figure::Read(x, String::new());
    }
    let blank = text.chars().all(|c| matches!(c, '-' | '–' | '—' | '*' | '?' | '.' | '_' | ' '));
    if blank || text.starts_with(['<', '>', '=', '#']) || MISSING.contains(&text.to_lowercase().as_str()) {
        return Figure::Missing;
    }
    let grouped = match decimal {
        Decimal::Point => ',',
        Decimal::Comma => '.',
    };
    let plain: String = if text.contains(grouped) && text.contains(decimal.mark()) {
        text.chars().filter(|c| *c != grouped).collect()
    } else {
        text.to_owned()
    };
    match read(&plain) {
        Ok(typed) => Figure::Read(typed.figure, typed.unit.to_owned()),
        Err(_) => Figure::Words,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn figures_and_what_is_none() {
        let read = |text: &str, decimal| figure(&Cell::text(text), decimal);
        let is = |x: f64, unit: &str| Figure::Read(x, unit.to_owned());
        assert_eq!(read("21.5", Decimal::Point), is(21.5, ""));
        assert_eq!(read("21,5", Decimal::Comma), is(21.5, ""));
        assert_eq!(read("1.013,25 hPa", Decimal::Comma), is(1013.25, "hPa"));
        assert_eq!(read("1,013.25", Decimal::Point), is(1013.25, ""));
        assert_eq!(read("72.5 °F", Decimal::Point), is(72.5, "F"));
        assert_eq!(read("−3.5", Decimal::Point), is(-3.5, ""));
        for missing in ["", "----", "N/A", "OL", "NaN", "<10", "=A1", "#REF!", "--.-"] {
            assert_eq!(read(missing, Decimal::Point), Figure::Missing, "{missing}");
        }
        assert_eq!(read("Average", Decimal::Point), Figure::Words);
        assert_eq!(Cell::text("\0Crawl\0 space\0"), Cell::Text("Crawl space".into()), "no text can be kept with these");
    }
}

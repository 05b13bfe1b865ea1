//! A matrix of temperatures, as cameras and people save it: any delimiter and decimal mark, with or without a head, an axis and a
//! unit, as text or spreadsheet.

use crate::cell::{Cell, Line};
use crate::delimited::{Delimited, delimiter, is_quoted};
use crate::grid::{Grid, Source, Unreadable};
use crate::sheet::Sheet;
use crate::survey::Because;
use crate::text::{beginning, encoding, not_text};
use crate::value::{Decimal, Figure, figure};
use std::ops::ControlFlow;

/// Most cells of a matrix: a camera of 1280 by 1024 points has fewer.
pub const MOST_CELLS: usize = 1_400_000;
/// Lines before the first row.
const LONGEST_HEAD: usize = 200;
/// Means no surface of a building has in °C, and none in °F.
const TOO_HOT: [f64; 2] = [45.0, 180.0];

/// A scale of temperature.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Scale {
    /// °C.
    Celsius,
    /// °F.
    Fahrenheit,
    /// K.
    Kelvin,
}

impl Scale {
    /// Every scale.
    pub const ALL: [Self; 3] = [Self::Celsius, Self::Fahrenheit, Self::Kelvin];

    /// Its unit.
    #[must_use]
    pub const fn unit(self) -> &'static str {
        match self {
            Self::Celsius => "°C",
            Self::Fahrenheit => "°F",
            Self::Kelvin => "K",
        }
    }

    fn celsius(self, x: f64) -> f64 {
        match self {
            Self::Celsius => x,
            Self::Fahrenheit => (x - 32.0) / 1.8,
            Self::Kelvin => x - 273.15,
        }
    }
}

/// A matrix as read.
#[derive(Debug, Clone, PartialEq)]
pub struct Matrix {
    /// °C, top row first; `None` where nothing was read.
    pub rows: Vec<Vec<Option<f64>>>,
    /// The scale it was written in.
    pub scale: Scale,
    /// What was taken for what, and why.
    pub because: Vec<Because>,
}

/// Why a file holds no matrix. Lines and columns count from 1.
#[derive(Debug, thiserror::Error)]
pub enum MatrixFault {
    /// It cannot be read at all.
    #[error(transparent)]
    Unreadable(#[from] Unreadable),
    /// No row of figures in it.
    #[error("no row of temperatures was found in it")]
    NoRows,
    /// A row is longer or shorter than the first.
    #[error("line {line} has {got} cells, the first row {want}")]
    Ragged {
        /// Its line.
        line: u64,
        /// Its cells.
        got: usize,
        /// Those of the first row.
        want: usize,
    },
    /// A cell holds words.
    #[error("line {line}, column {column} says “{text}”, not a temperature")]
    Words {
        /// Its line.
        line: u64,
        /// Its column.
        column: usize,
        /// What it says.
        text: String,
    },
    /// More cells than any camera has.
    #[error("it has more than {MOST_CELLS} cells, more than any camera: send one picture")]
    TooMany,
}

/// Lines of a file, as many as a picture may have.
fn lines(source: &(impl Source + ?Sized)) -> Result<Vec<Line>, MatrixFault> {
    let head = beginning(source)?;
    if head.is_empty() {
        return Err(Unreadable::Empty.into());
    }
    if let Some(what) = not_text(&head) {
        return Err(Unreadable::NotATable(what).into());
    }
    let (mut out, mut cells) = (Vec::new(), 0);
    let mut take = |line: Line| {
        cells += line.cells.len();
        out.push(line);
        if cells > MOST_CELLS + LONGEST_HEAD { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
    };
    if head.starts_with(b"PK") {
        Sheet::open(source)?.each(&mut take)?;
    } else {
        let encoding = encoding(&head);
        let (text, ..) = encoding.decode(&head);
        let (mark, alike, looked_at) = delimiter(&text);
        // What has no delimiter is parted by blanks.
        let blanks = alike * 2 < looked_at;
        let split =
            |line: Line| Line { number: line.number, cells: line.text().split_whitespace().map(Cell::text).collect() };
        let file =
            Delimited { source, encoding, delimiter: if blanks { b'\x1f' } else { mark }, quoted: is_quoted(&text) };
        file.each(&mut |line| take(if blanks { split(line) } else { line }))?;
    }
    if cells > MOST_CELLS + LONGEST_HEAD { Err(MatrixFault::TooMany) } else { Ok(out) }
}

/// The decimal mark: a comma where more figures have one than a point.
fn decimal(lines: &[Line]) -> Decimal {
    let texts = lines.iter().take(400).flat_map(|l| &l.cells).filter_map(|c| match c {
        Cell::Text(text) => Some(text.as_str()),
        _ => None,
    });
    let (mut points, mut commas) = (0, 0);
    for text in texts.filter(|t| t.chars().any(|c| c.is_ascii_digit())) {
        commas += usize::from(text.contains(','));
        points += usize::from(text.contains('.'));
    }
    if commas > points { Decimal::Comma } else { Decimal::Point }
}

/// Whether figures count up by one: an axis.
fn counts(mut figures: impl Iterator<Item = Option<f64>>) -> bool {
    let Some(Some(first)) = figures.next() else { return false };
    let mut next = first;
    let mut length = 1;
    for x in figures {
        next += 1.0;
        if x != Some(next) {
            return false;
        }
        length += 1;
    }
    length >= 3 && (first == 0.0 || first == 1.0)
}

/// A row of figures and its line.
type Row = (u64, Vec<Figure>);

/// Whether figures are a row of a matrix; its first cell may name it.
fn is_row(figures: &[Figure]) -> bool {
    let count = |of: fn(&Figure) -> bool| figures.iter().filter(|f| of(f)).count();
    let (some, words) = (count(|f| matches!(f, Figure::Read(..))), count(|f| *f == Figure::Words));
    some > 0 && (words == 0 || words == 1 && figures.len() > 2 && figures[0] == Figure::Words)
}

const fn value(figure: &Figure) -> Option<f64> {
    if let Figure::Read(x, _) = figure { Some(*x) } else { None }
}

/// Takes the axes off; says what was taken for one, and how many columns went.
fn without_axes(rows: &mut Vec<Row>, took: &mut Vec<Because>) -> usize {
    let mut say = |what: &str, why: &str| took.push(Because { what: what.into(), why: why.into() });
    let above = |row: &Row| counts(row.1.iter().skip(1).map(value));
    if rows.len() > 1 && above(&rows[0]) && !above(&rows[1]) {
        rows.remove(0);
        say("an axis above", "its figures count up by one");
    }
    let named = rows.iter().all(|(_, r)| r.len() > 2 && r[0] == Figure::Words);
    if !named && !counts(rows.iter().map(|(_, r)| r.first().and_then(value))) {
        return 0;
    }
    rows.iter_mut().for_each(|(_, r)| drop(r.remove(0)));
    say("an axis beside", if named { "each row begins with words" } else { "its figures count up by one" });
    1
}

/// Reads a file as a matrix of temperatures; `scale` where somebody says it.
///
/// # Errors
/// [`MatrixFault`]: what is wrong, and where.
pub fn matrix(source: &(impl Source + ?Sized), scale: Option<Scale>) -> Result<Matrix, MatrixFault> {
    let lines = lines(source)?;
    let mark = decimal(&lines);
    let read = |line: &Line| -> Vec<Figure> { line.cells.iter().map(|c| figure(c, mark)).collect() };
    // A head may hold figures too; a row is followed by its like.
    let begins = |i: usize| {
        let here = read(&lines[i]);
        let next = lines.get(i + 1).map(read);
        is_row(&here) && next.is_none_or(|n| is_row(&n) && n.len() == here.len())
    };
    let first = (0..lines.len().min(LONGEST_HEAD)).find(|i| begins(*i)).ok_or(MatrixFault::NoRows)?;
    let mut because = Vec::new();
    let mut took = |what: &str, why: String| because.push(Because { what: what.into(), why });
    if first > 0 {
        took("a head", format!("the rows begin in line {}", lines[first].number));
    }
    if mark == Decimal::Comma {
        took("a decimal comma", "more figures have a comma than a point".into());
    }
    let mut rows: Vec<Row> = lines[first..].iter().map(|l| (l.number, read(l))).collect();
    trim(&mut rows);
    let beside = without_axes(&mut rows, &mut because);
    let (scale, why) = match scale {
        Some(scale) => (scale, "as said".to_owned()),
        None => guess(&lines[..first], &rows),
    };
    because.push(Because { what: scale.unit().into(), why });
    let rows = celsius(&rows, scale, beside, |line, column| {
        let cell = lines.iter().find(|l| l.number == line).and_then(|l| l.cells.get(column));
        cell.map(Cell::shown).unwrap_or_default().chars().take(40).collect()
    })?;
    Ok(Matrix { rows, scale, because })
}

/// The rows in °C, all as long as the first; `says` gives what stands in a line's cell, counted from 0.
fn celsius(
    rows: &[Row],
    scale: Scale,
    beside: usize,
    says: impl Fn(u64, usize) -> String,
) -> Result<Vec<Vec<Option<f64>>>, MatrixFault> {
    let want = rows.first().map_or(0, |(_, r)| r.len());
    let row = |(line, figures): &Row| {
        if figures.len() != want {
            return Err(MatrixFault::Ragged { line: *line, got: figures.len(), want });
        }
        let cell = |(column, f): (usize, &Figure)| match f {
            Figure::Read(x, _) => Ok(Some(scale.celsius(*x))),
            Figure::Missing => Ok(None),
            Figure::Words => {
                let column = column + beside;
                Err(MatrixFault::Words { line: *line, column: column + 1, text: says(*line, column) })
            }
        };
        figures.iter().enumerate().map(cell).collect()
    };
    let rows: Vec<Vec<Option<f64>>> = rows.iter().map(row).collect::<Result<_, _>>()?;
    let any = rows.iter().flatten().any(Option::is_some);
    if any { Ok(rows) } else { Err(MatrixFault::NoRows) }
}

/// Takes off what a delimiter behind the last cell leaves, and rows in which nothing was read at the end.
fn trim(rows: &mut Vec<(u64, Vec<Figure>)>) {
    while rows.last().is_some_and(|(_, r)| r.iter().all(|f| *f == Figure::Missing)) {
        rows.pop();
    }
    while rows.iter().all(|(_, r)| r.len() > 1 && r.last() == Some(&Figure::Missing)) && !rows.is_empty() {
        rows.iter_mut().for_each(|(_, r)| drop(r.pop()));
    }
}

/// The scale by the head, the unit behind a figure, or the figures.
fn guess(head: &[Line], rows: &[Row]) -> (Scale, String) {
    let head = head.iter().map(Line::text).collect::<Vec<_>>().join(" ").to_lowercase();
    let all = || rows.iter().flat_map(|(_, r)| r);
    let unit = all().find_map(|f| match f {
        Figure::Read(_, unit) if !unit.is_empty() => Some(unit.as_str()),
        _ => None,
    });
    let mean = all().filter_map(value).sum::<f64>() / all().filter_map(value).count().max(1) as f64;
    let said = |text: &str| match text {
        t if t.contains("fahrenheit") || t.contains("°f") || t == "f" => Some(Scale::Fahrenheit),
        t if t.contains("kelvin") || t.contains("[k]") || t.contains("(k)") || t == "k" => Some(Scale::Kelvin),
        t if t.contains("celsius") || t.contains("°c") || t == "c" => Some(Scale::Celsius),
        _ => None,
    };
    if let Some(scale) = said(&head) {
        return (scale, "the file’s head says so".into());
    }
    if let Some(scale) = unit.and_then(|u| said(&u.to_lowercase())) {
        return (scale, "the unit stands behind its figures".into());
    }
    let scale = match mean {
        m if m > TOO_HOT[1] => Scale::Kelvin,
        m if m > TOO_HOT[0] => Scale::Fahrenheit,
        _ => Scale::Celsius,
    };
    (scale, format!("the mean of its figures is {mean:.0}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A small wall with a hole in the reading, as it would be saved.
    const WALL: [[Option<f64>; 4]; 3] = [
        [Some(18.2), Some(17.9), Some(12.4), Some(18.0)],
        [Some(18.1), None, Some(9.75), Some(17.6)],
        [Some(18.3), Some(17.5), Some(11.0), Some(17.7)],
    ];

    fn written(delimiter: &str, of: impl Fn(f64) -> String) -> Vec<String> {
        let row = |r: &[Option<f64>; 4]| {
            r.iter().map(|c| c.map_or_else(|| "NaN".into(), &of)).collect::<Vec<_>>().join(delimiter)
        };
        WALL.iter().map(row).collect()
    }

    fn check(name: &str, text: &str, scale: Scale) -> Result<(), String> {
        let got = matrix(text.as_bytes(), None).map_err(|e| format!("{name}: {e}"))?;
        let near = |a: &Option<f64>, b: &Option<f64>| match (a, b) {
            (Some(a), Some(b)) => (a - b).abs() < 0.01,
            (a, b) => a == b,
        };
        let same = got.rows.len() == 3
            && got.rows.iter().zip(&WALL).all(|(g, w)| g.len() == 4 && g.iter().zip(w).all(|(g, w)| near(g, w)));
        if same && got.scale == scale { Ok(()) } else { Err(format!("{name}: {got:?}")) }
    }

    #[test]
    fn a_picture_is_the_same_however_it_was_saved() -> Result<(), String> {
        let plain = |x: f64| format!("{x:.2}");
        let comma = |x: f64| plain(x).replace('.', ",");
        let all = |lines: Vec<String>| lines.join("\n");
        check("commas", &all(written(",", plain)), Scale::Celsius)?;
        check("semicolons, decimal comma", &all(written(";", comma)), Scale::Celsius)?;
        check("tabs", &all(written("\t", plain)), Scale::Celsius)?;
        check("blanks", &all(written("  ", plain)), Scale::Celsius)?;
        check("kelvin", &all(written(",", |x| format!("{:.2}", x + 273.15))), Scale::Kelvin)?;
        check("fahrenheit", &all(written(",", |x| format!("{:.2}", x * 1.8 + 32.0))), Scale::Fahrenheit)?;
        check("units behind", &all(written(";", |x| format!("{:.2} °F", x * 1.8 + 32.0))), Scale::Fahrenheit)?;
        check(
            "a head",
            &format!("Camera;7\nEmissivity;0.95\nTemperature [K]\n\n{}", all(written(";", |x| comma(x + 273.15)))),
            Scale::Kelvin,
        )?;
        check(
            "delimiters at the end",
            &written(",", plain).iter().map(|l| format!("{l},\r\n")).collect::<String>(),
            Scale::Celsius,
        )?;
        let beside: Vec<String> = written(",", plain).iter().enumerate().map(|(i, l)| format!("{i},{l}")).collect();
        check("an axis beside", &all(beside.clone()), Scale::Celsius)?;
        check("both axes", &format!(",0,1,2,3\n{}", all(beside)), Scale::Celsius)?;
        let named: Vec<String> = written(",", plain).iter().enumerate().map(|(i, l)| format!("Line {i},{l}")).collect();
        check("named rows", &all(named), Scale::Celsius)
    }

    #[test]
    fn what_is_no_picture_is_named_at_its_place() {
        let said = |text: &str| matrix(text.as_bytes(), None).map(|m| m.rows.len()).map_err(|e| e.to_string());
        assert_eq!(said("18,17,16\n18,17,16\n18,17\n18,17,16"), Err("line 3 has 2 cells, the first row 3".into()));
        assert_eq!(
            said("18,17,16\n18,17,16\n18,warm,16\n"),
            Err("line 3, column 2 says “warm”, not a temperature".into())
        );
        assert_eq!(
            said("0,18,17,16\n1,18,17,16\n2,18,warm,16\n3,18,17,16"),
            Err("line 3, column 3 says “warm”, not a temperature".into()),
            "the axis counts"
        );
        assert_eq!(said("Date,Note\ntoday,dry\n"), Err("no row of temperatures was found in it".into()));
        assert_eq!(said(""), Err("the file is empty".into()));
        assert!(said("\u{89}PNG").is_err());
        let large = "20.1,".repeat(1000) + "20\n";
        assert!(said(&large.repeat(1500)).is_err_and(|e| e.contains("more than any camera")));
    }
}

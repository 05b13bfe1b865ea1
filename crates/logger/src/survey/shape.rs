//! Where names, units and data stand, and what the columns are by their names or figures.

use super::Survey;
use crate::cell::{Cell, Line};
use crate::columns::{Column, Reads, by_name};
use crate::moment::{Written, counted, written};
use crate::value::{Decimal, Figure, figure};

/// Where names, units and data of a table stand.
pub(super) struct Shape {
    pub(super) names: Option<usize>,
    pub(super) units: Option<usize>,
    pub(super) data: usize,
}

/// A cell that says when, in a text or as a number that counts.
pub(super) fn moment(cell: &Cell) -> Option<Written> {
    match cell {
        Cell::Number(x) => counted(*x),
        Cell::Text(text) => written(cell).or_else(|| text.parse::<f64>().ok().and_then(counted)),
        _ => written(cell),
    }
}

/// Whether a line looks like one of readings: it says when, and holds a figure or a mark for none.
fn is_data(line: &Line) -> bool {
    let says_when = line.cells.iter().any(|c| moment(c).is_some());
    let figures = line.cells.iter().filter(|c| {
        moment(c).is_none_or(|w| !w.is_whole())
            && [Decimal::Point, Decimal::Comma].iter().any(|d| matches!(figure(c, *d), Figure::Read(..)))
    });
    says_when && figures.count() > 0
}

pub(super) fn shape(sample: &[Line]) -> Option<Shape> {
    let good = |i: usize| {
        let ahead = &sample[i..sample.len().min(i + 5)];
        ahead.iter().filter(|l| is_data(l)).count() * 2 >= ahead.len()
    };
    let data = (0..sample.len()).find(|i| is_data(&sample[*i]) && good(*i))?;
    let wide = sample[data].cells.len();
    let named = |i: usize| sample[i].filled() >= 2.min(wide) && !is_data(&sample[i]);
    let above = data.checked_sub(1).filter(|i| named(*i));
    let is_units = |i: usize| {
        let cells = sample[i].cells.iter().filter(|c| !c.is_empty());
        let short = |c: &Cell| {
            let text = c.shown();
            let bare = text.trim_matches(|c: char| "()[]".contains(c)).trim().to_lowercase();
            [
                "°c", "°f", "%", "c", "f", "k", "hpa", "kpa", "pa", "mm", "in", "l", "v", "%rh", "% rh", "deg c",
                "deg f", "w", "-",
            ]
            .contains(&bare.as_str())
                || bare.starts_with("dd")
                || bare.starts_with("mm/")
                || bare.starts_with("yyyy")
                || bare.starts_with("hh")
        };
        cells.clone().count() > 0 && cells.filter(|c| short(c)).count() * 2 > sample[i].filled()
    };
    Some(match above {
        Some(i) if is_units(i) => Shape { names: i.checked_sub(1).filter(|j| named(*j)), units: Some(i), data },
        names => Shape { names, units: None, data },
    })
}

/// The decimal mark: by the figures, where commas do not part the cells.
pub(super) fn decimal(found: &mut Survey, rows: &[Line]) -> Decimal {
    let mark = |text: &str, mark: char| {
        let figures = text.trim_start_matches(['-', '−', '+']);
        figures.split_once(mark).is_some_and(|(a, b)| {
            let b = b.trim_end_matches(|c: char| c.is_alphabetic() || matches!(c, '%' | '°' | ' '));
            !b.is_empty() && a.chars().chain(b.chars()).all(|c| c.is_ascii_digit())
        })
    };
    let texts = rows.iter().flat_map(|l| l.cells.iter().map(move |c| (l.number, c)));
    let (mut points, mut commas) = (0, 0);
    let mut first = None;
    for (line, cell) in texts {
        let Cell::Text(text) = cell else { continue };
        if mark(text, ',') {
            commas += 1;
            first.get_or_insert((line, text.clone()));
        } else if mark(text, '.') {
            points += 1;
        }
    }
    if commas <= points {
        return Decimal::Point;
    }
    if let Some((line, text)) = first {
        found.took("a decimal comma", format!("line {line} says {text}"));
    }
    Decimal::Comma
}

pub(super) fn name_columns(found: &mut Survey, sample: &[Line], shape: &Shape, rows: &[Line]) {
    let wide = rows.iter().take(50).map(|l| l.cells.len()).max().unwrap_or(0);
    let cell =
        |row: Option<usize>, i: usize| row.and_then(|r| sample[r].cells.get(i)).map(Cell::shown).unwrap_or_default();
    found.columns = (0..wide)
        .map(|i| {
            let (name, below) = (cell(shape.names, i), cell(shape.units, i));
            let (reads, unit, channel) = by_name(&name, &below);
            Column { name, reads, unit, channel }
        })
        .collect();
    if found.columns.iter().any(|c| c.reads.is_some_and(Reads::is_value)) {
        return;
    }
    // Nothing is named, or no name says anything: by the figures.
    let unnamed = shape.names.is_none();
    let mut seen_t = false;
    for i in 0..wide {
        let figures: Vec<f64> = rows
            .iter()
            .filter_map(|l| match figure(l.cells.get(i)?, found.decimal) {
                Figure::Read(x, _) if moment(l.cells.get(i)?).is_none_or(|w| !w.is_whole()) => Some(x),
                _ => None,
            })
            .collect();
        if figures.len() * 2 < rows.len() {
            continue;
        }
        let within = |low: f64, high: f64| figures.iter().all(|x| (low..=high).contains(x));
        let reads = if !seen_t && within(-40.0, 120.0) {
            seen_t = true;
            Reads::TC
        } else if seen_t && within(0.0, 100.0) {
            Reads::RhPct
        } else {
            continue;
        };
        let column = &mut found.columns[i];
        if column.reads.is_some() {
            continue;
        }
        column.reads = Some(reads);
        if unnamed {
            column.name = format!("column {}", i + 1);
        }
        let name = column.name.clone();
        found.asked.push(format!("column:{}", i + 1));
        let what = if reads == Reads::TC { "a temperature" } else { "a relative humidity" };
        let why = if unnamed { "no column is named" } else { "no column’s name says what it reads" };
        found.took(format!("{name} is {what}"), format!("{why}, and its figures can be one"));
    }
}

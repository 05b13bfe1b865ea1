//! How a file is to be read: every guess with its reason.

use crate::cell::{Cell, Line};
use crate::columns::{Column, Reads, behind, by_name};
use crate::delimited::{Delimited, delimiter, is_quoted};
use crate::epw;
use crate::grid::{Grid, Source, Unreadable};
use crate::json::Json;
use crate::moment::{Day, Order, Shown, Written, Zone, counted, offset, shown, written};
use crate::sheet::Sheet;
use crate::text::{Decoded, beginning, encoding, not_text};
use crate::value::{Decimal, Figure, figure};
use encoding_rs::Encoding;
use std::io::Read;
use std::ops::ControlFlow;

/// Lines looked at for the shape of a file.
const SAMPLE: usize = 400;
/// Share of the sample that must hold moments in a column of moments.
const MOST: f64 = 0.6;

/// What a file is made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// Cells between a delimiter.
    Delimited,
    /// XLSX or ODS.
    Sheet,
    /// JSON.
    Json,
    /// `EnergyPlus` weather.
    Epw,
}

/// A guess and its reason.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Because {
    /// What was taken.
    pub what: String,
    /// Why.
    pub why: String,
}

/// What somebody says of a file beforehand.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Wishes {
    /// The zone its clock keeps, where it says none itself.
    pub zone: Option<Zone>,
    /// Which figure is the day.
    pub order: Option<Order>,
}

/// How a file is to be read.
#[derive(Debug, Clone, PartialEq)]
pub struct Survey {
    /// What it is made of.
    pub format: Format,
    /// Between its cells.
    pub delimiter: Option<char>,
    /// Its decimal mark.
    pub decimal: Decimal,
    /// Whose clock it shows.
    pub zone: Zone,
    /// Day before month or after.
    pub order: Order,
    /// Its columns.
    pub columns: Vec<Column>,
    /// What could not be settled, and was taken by default.
    pub asked: Vec<String>,
    /// Every guess with its reason.
    pub because: Vec<Because>,
    pub(crate) encoding: &'static Encoding,
    pub(crate) quoted: bool,
    /// Number of the first line of data.
    pub(crate) data: u64,
    pub(crate) heads: Vec<Vec<Cell>>,
    /// Whether its latest rows come first.
    pub(crate) backward: bool,
}

impl Survey {
    /// The file as lines of cells.
    pub(crate) fn grid<'a, S: Source + ?Sized>(&self, source: &'a S) -> Result<Box<dyn Grid + 'a>, Unreadable> {
        Ok(match self.format {
            Format::Sheet => Box::new(Sheet::open(source)?),
            Format::Json => Box::new(Json::open(source)?),
            Format::Delimited | Format::Epw => Box::new(Delimited {
                source,
                encoding: self.encoding,
                delimiter: self.delimiter.and_then(|d| u8::try_from(d).ok()).unwrap_or(b','),
                quoted: self.quoted,
            }),
        })
    }

    fn took(&mut self, what: impl Into<String>, why: impl Into<String>) {
        self.because.push(Because { what: what.into(), why: why.into() });
    }
}

/// Works out how a file is to be read, in passes over it.
///
/// # Errors
/// [`Unreadable`]: why nothing of it can be.
pub fn survey(source: &(impl Source + ?Sized), wishes: &Wishes) -> Result<Survey, Unreadable> {
    let head = beginning(source)?;
    if head.iter().all(u8::is_ascii_whitespace) {
        return Err(Unreadable::Empty);
    }
    if let Some(what) = not_text(&head) {
        return Err(Unreadable::NotATable(what));
    }
    let mut found = begun(&head)?;
    if found.format == Format::Epw {
        return epw::survey(source, found);
    }
    let mut sample: Vec<Line> = Vec::new();
    found.grid(source)?.each(&mut |line| {
        sample.push(line);
        if sample.len() < SAMPLE { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
    })?;
    if sample.is_empty() {
        return Err(Unreadable::Empty);
    }
    let shape = shape(&sample).ok_or(Unreadable::NoTime)?;
    let rows = &sample[shape.data..];
    found.data = sample[shape.data].number;
    found.heads = sample[..shape.data].iter().filter(|l| l.filled() > 1).map(|l| l.cells.clone()).collect();
    found.decimal = decimal(&mut found, rows);
    name_columns(&mut found, &sample, &shape, rows);
    when(&mut found, rows)?;
    if !found.columns.iter().any(|c| c.reads.is_some_and(Reads::is_value)) {
        let names: Vec<&str> = found.columns.iter().map(|c| c.name.as_str()).filter(|n| !n.is_empty()).collect();
        return Err(Unreadable::NoValues(names.join(", ")));
    }
    let seen = throughout(source, &found)?;
    let titles: Vec<String> = sample[..shape.data].iter().map(Line::text).collect();
    order(&mut found, &seen, &titles, wishes);
    zone(&mut found, source, &seen, &titles, wishes)?;
    units(&mut found, &seen, &titles);
    channels(&mut found);
    Ok(found)
}

/// What a file is made of, by its beginning.
fn begun(head: &[u8]) -> Result<Survey, Unreadable> {
    let encoding = encoding(head);
    let mut text = String::new();
    Decoded::new(head, encoding).read_to_string(&mut text)?;
    let first = text.trim_start_matches('\u{feff}').trim_start();
    let mut found = Survey {
        format: Format::Delimited,
        delimiter: None,
        decimal: Decimal::Point,
        zone: Zone::Fixed(0),
        order: Order::YearFirst,
        columns: Vec::new(),
        asked: Vec::new(),
        because: Vec::new(),
        encoding,
        quoted: is_quoted(&text),
        data: 0,
        heads: Vec::new(),
        backward: false,
    };
    if head.starts_with(b"PK\x03\x04") {
        found.format = Format::Sheet;
        found.took("a spreadsheet", "it is packed as one");
    } else if first.starts_with(['{', '[']) {
        found.format = Format::Json;
        found.took("JSON", "it begins with a bracket");
    } else if first.starts_with("LOCATION,") {
        found.format = Format::Epw;
        found.delimiter = Some(',');
        found.took("a weather file", "its first line names a LOCATION");
    } else {
        let odd = text.chars().take(4000).filter(|c| c.is_control() && !c.is_whitespace()).count();
        if odd > 20 {
            return Err(Unreadable::NotATable("no text"));
        }
        let (mark, alike, of) = delimiter(&text);
        found.delimiter = Some(char::from(mark));
        let name = match mark {
            b';' => "semicolons",
            b'\t' => "tabs",
            b'|' => "bars",
            _ => "commas",
        };
        found.took(
            format!("{name} between cells"),
            format!("{alike} of the first {of} lines have the same number of them"),
        );
    }
    Ok(found)
}

/// Where names, units and data of a table stand.
struct Shape {
    names: Option<usize>,
    units: Option<usize>,
    data: usize,
}

/// A cell that says when, in a text or as a number that counts.
fn moment(cell: &Cell) -> Option<Written> {
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

fn shape(sample: &[Line]) -> Option<Shape> {
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
fn decimal(found: &mut Survey, rows: &[Line]) -> Decimal {
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

fn name_columns(found: &mut Survey, sample: &[Line], shape: &Shape, rows: &[Line]) {
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
    if shape.names.is_some() {
        return;
    }
    // Nothing is named: by the figures.
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
        (column.name, column.reads) = (format!("column {}", i + 1), Some(reads));
        found.asked.push(format!("column:{}", i + 1));
        let what = if reads == Reads::TC { "a temperature" } else { "a relative humidity" };
        found.took(format!("column {} is {what}", i + 1), "no column is named, and its figures can be one");
    }
}

/// Finds the column or columns that say when.
fn when(found: &mut Survey, rows: &[Line]) -> Result<(), Unreadable> {
    let share = |i: usize, f: &dyn Fn(&Written) -> bool, numbers: bool| {
        let filled = rows.iter().filter_map(|l| l.cells.get(i)).filter(|c| !c.is_empty());
        let fits = |c: &&Cell| if numbers { moment(c) } else { written(c) }.is_some_and(|w| f(&w));
        let (all, good) = (filled.clone().count(), filled.filter(fits).count());
        if all == 0 { 0.0 } else { good as f64 / all as f64 }
    };
    let wide = found.columns.len();
    let best = |f: &dyn Fn(&Written) -> bool, numbers: bool| (0..wide).find(|i| share(*i, f, numbers) >= MOST);
    for column in &mut found.columns {
        column.reads = column.reads.filter(|r| !matches!(r, Reads::At | Reads::Date | Reads::Time));
    }
    let whole = best(&Written::is_whole, false);
    let day = best(&|w| w.day.is_some() && w.time.is_none(), false);
    let time = best(&|w| w.day.is_none() && w.time.is_some(), false);
    let counting = best(&Written::is_whole, true);
    let date_cell = (0..wide).find(|i| share(*i, &|w| w.day.is_some(), false) >= MOST);
    let mut set = |i: usize, reads: Reads| {
        found.columns[i].reads = Some(reads);
        (found.columns[i].unit, found.columns[i].channel) = (String::new(), String::new());
    };
    match (whole, day, time, counting) {
        // A spreadsheet gives a date at midnight beside a time: the two belong together.
        (Some(i), _, Some(t), _) if i != t && midnight(rows, i) => {
            set(i, Reads::Date);
            set(t, Reads::Time);
        }
        (Some(i), ..) => set(i, Reads::At),
        (None, Some(d), Some(t), _) => {
            set(d, Reads::Date);
            set(t, Reads::Time);
        }
        (None, _, _, Some(i)) => set(i, Reads::At),
        _ => match (date_cell, time) {
            (Some(d), Some(t)) => {
                set(d, Reads::Date);
                set(t, Reads::Time);
            }
            _ => return Err(Unreadable::NoTime),
        },
    }
    Ok(())
}

fn midnight(rows: &[Line], i: usize) -> bool {
    let times = rows.iter().filter_map(|l| written(l.cells.get(i)?)?.time);
    times.take(20).all(|t| t == chrono::NaiveTime::MIN)
}

/// What all rows say together.
#[derive(Default)]
struct Seen {
    /// First line where the first figure must be the day, and where the second must be.
    first_is_day: Option<(u64, u32)>,
    second_is_day: Option<(u64, u32)>,
    /// Rows whose day could be either.
    open: usize,
    /// Steps from row to row that go back or leap over a day, if the day is first, if the month is.
    leaps: [usize; 2],
    last: [Option<chrono::NaiveDateTime>; 2],
    offsets: usize,
    epochs: usize,
    whole: usize,
    back: usize,
    on: usize,
    /// Largest figure of each column, its mean, and how many; and the unit seen behind one.
    figures: Vec<(f64, f64, usize)>,
    behind: Vec<Option<String>>,
}

fn throughout(source: &(impl Source + ?Sized), found: &Survey) -> Result<Seen, Unreadable> {
    let wide = found.columns.len();
    let mut seen =
        Seen { figures: vec![(f64::NEG_INFINITY, 0.0, 0); wide], behind: vec![None; wide], ..Seen::default() };
    found.grid(source)?.each(&mut |line| {
        if line.number >= found.data {
            seen.take(found, &line);
        }
        ControlFlow::Continue(())
    })?;
    Ok(seen)
}

impl Seen {
    fn take(&mut self, found: &Survey, line: &Line) {
        for (i, column) in found.columns.iter().enumerate() {
            let (Some(reads), Some(cell)) = (column.reads, line.cells.get(i)) else { continue };
            if let (true, Figure::Read(x, unit)) = (reads.is_value(), figure(cell, found.decimal)) {
                let (most, sum, count) = &mut self.figures[i];
                (*most, *sum, *count) = (most.max(x), *sum + x, *count + 1);
                if !unit.is_empty() && self.behind[i].is_none() {
                    self.behind[i] = behind(reads, &unit);
                }
            }
        }
        let Some(at) = when_of(&found.columns, line) else { return };
        self.offsets += usize::from(at.offset.is_some());
        self.epochs += usize::from(at.epoch);
        self.whole += 1;
        if let Some(Day::Open(a, b, _)) = at.day {
            match (a > 12, b > 12) {
                (true, false) => drop(self.first_is_day.get_or_insert((line.number, a))),
                (false, true) => drop(self.second_is_day.get_or_insert((line.number, b))),
                _ => self.open += 1,
            }
        }
        for (i, order) in [Order::DayFirst, Order::MonthFirst].into_iter().enumerate() {
            let Some(clock) = at.clock(order) else {
                self.leaps[i] += 1;
                continue;
            };
            if let Some(last) = self.last[i] {
                let step = clock - last;
                self.leaps[i] += usize::from(step.num_hours().abs() > 36);
                if i == 0 {
                    self.back += usize::from(step.num_seconds() < 0);
                    self.on += usize::from(step.num_seconds() > 0);
                }
            }
            self.last[i] = Some(clock);
        }
    }
}

/// When a row was read, from the one or two cells that say it.
pub(crate) fn when_of(columns: &[Column], line: &Line) -> Option<Written> {
    let of = |reads: Reads| {
        let i = columns.iter().position(|c| c.reads == Some(reads))?;
        line.cells.get(i).and_then(moment)
    };
    if let Some(at) = of(Reads::At) {
        return Some(at).filter(Written::is_whole);
    }
    let (date, time) = (of(Reads::Date)?, of(Reads::Time)?);
    Some(Written { day: date.day, time: time.time, next: time.next, offset: time.offset.or(date.offset), epoch: false })
        .filter(Written::is_whole)
}

/// Words of a title that show a date's pattern.
fn pattern(titles: &[String]) -> Option<(Order, String)> {
    let all = titles.join(" ").to_lowercase();
    let known = [
        (Order::DayFirst, ["dd/mm", "dd.mm", "dd-mm", "d/m/y", "tt.mm", "jj/mm", "gg/mm"].as_slice()),
        (Order::MonthFirst, ["mm/dd", "mm-dd", "m/d/y"].as_slice()),
        (Order::YearFirst, ["yyyy-mm", "yyyy/mm", "yyyy.mm"].as_slice()),
    ];
    known.iter().find_map(|(order, words)| words.iter().find(|w| all.contains(**w)).map(|w| (*order, (*w).to_owned())))
}

fn order(found: &mut Survey, seen: &Seen, titles: &[String], wishes: &Wishes) {
    found.backward = seen.back > seen.on;
    if let Some(order) = wishes.order {
        found.order = order;
        return found.took(said(order), "you said so");
    }
    let open = seen.open > 0 || seen.first_is_day.is_some() || seen.second_is_day.is_some();
    if !open {
        return;
    }
    let (order, why) = match (seen.first_is_day, seen.second_is_day) {
        (Some((line, day)), None) => (Order::DayFirst, format!("line {line} says {day}")),
        (None, Some((line, day))) => (Order::MonthFirst, format!("line {line} says {day}")),
        _ => match pattern(titles) {
            Some((order, words)) => (order, format!("the file’s head says {words}")),
            None if seen.leaps[0] * 4 < seen.leaps[1] => {
                (Order::DayFirst, "only so do the rows follow one another".into())
            }
            None if seen.leaps[1] * 4 < seen.leaps[0] => {
                (Order::MonthFirst, "only so do the rows follow one another".into())
            }
            None => {
                let names: String = found.columns.iter().map(|c| c.name.to_lowercase() + " ").collect();
                let foreign =
                    ["datum", "zeit", "fecha", "hora", "heure", "température", "feucht", "temperatur ", "data "];
                match foreign.iter().find(|w| names.contains(**w)) {
                    Some(word) => (Order::DayFirst, format!("its language (“{}”) writes the day first", word.trim())),
                    None => {
                        found.asked.push("order".into());
                        (Order::MonthFirst, "nothing in the file settles it; taken as written in the US".into())
                    }
                }
            }
        },
    };
    found.order = order;
    found.took(said(order), why);
}

const fn said(order: Order) -> &'static str {
    match order {
        Order::DayFirst => "day before month",
        Order::MonthFirst => "month before day",
        Order::YearFirst => "the year first",
    }
}

/// An offset a title or a column's name states: `Date Time, GMT-05:00`.
fn stated(titles: &[String], found: &Survey) -> Option<(i32, String)> {
    let when = found.columns.iter().filter(|c| matches!(c.reads, Some(Reads::At | Reads::Time | Reads::Date)));
    let texts = when.map(|c| c.name.as_str()).chain(titles.iter().map(String::as_str));
    for text in texts {
        for word in ["GMT", "UTC"] {
            let Some(at) = text.find(word) else { continue };
            let rest = &text[at..];
            let end = rest.find(|c: char| !(c.is_ascii_alphanumeric() || "+-−:".contains(c))).unwrap_or(rest.len());
            if let Some(seconds) = offset(&rest[..end]) {
                return Some((seconds, rest[..end].to_owned()));
            }
        }
    }
    None
}

fn zone(
    found: &mut Survey,
    source: &(impl Source + ?Sized),
    seen: &Seen,
    titles: &[String],
    wishes: &Wishes,
) -> Result<(), Unreadable> {
    if seen.whole > 0 && seen.epochs == seen.whole {
        found.took("UTC", "its times count seconds from 1970");
        return Ok(());
    }
    if seen.whole > 0 && seen.offsets == seen.whole {
        found.took("each row’s own offset", "the times say it");
        return Ok(());
    }
    if let Some((seconds, words)) = stated(titles, found) {
        found.zone = Zone::Fixed(seconds);
        let shown = found.zone.shown();
        found.took(shown, format!("the file’s head says {words}"));
        return Ok(());
    }
    let Some(wished) = wishes.zone.clone() else {
        found.asked.push("zone".into());
        found.took("UTC", "nothing says whose clock it is");
        return Ok(());
    };
    found.zone = wished;
    if let Some((line, before)) = missing_hour(found, source)? {
        found.zone = Zone::Fixed(before);
        found.took(
            "standard time all year",
            format!("line {line} is in the hour the clocks skip in spring: this logger keeps standard time"),
        );
    } else {
        let shown = found.zone.shown();
        found.took(shown, "the site’s zone");
    }
    Ok(())
}

/// The first row in the hour that spring leaves out, and what the clock was before it.
fn missing_hour(found: &Survey, source: &(impl Source + ?Sized)) -> Result<Option<(u64, i32)>, Unreadable> {
    if !matches!(found.zone, Zone::Of(..)) {
        return Ok(None);
    }
    let mut first = None;
    found.grid(source)?.each(&mut |line| {
        if line.number < found.data {
            return ControlFlow::Continue(());
        }
        let clock = when_of(&found.columns, &line).and_then(|w| w.clock(found.order));
        match clock.and_then(|c| shown(c, &found.zone)) {
            Some(Shown::Never(before)) => {
                first = Some((line.number, before));
                ControlFlow::Break(())
            }
            _ => ControlFlow::Continue(()),
        }
    })?;
    Ok(first)
}

/// Units no name states: those behind figures, in the head, or by the figures.
fn units(found: &mut Survey, seen: &Seen, titles: &[String]) {
    let head = titles.join(" ").to_lowercase();
    let mut told = Vec::new();
    for (i, column) in found.columns.iter_mut().enumerate() {
        let Some(reads) = column.reads.filter(|r| r.is_value()) else { continue };
        let (most, sum, count) = seen.figures[i];
        let mean = if count > 0 { sum / count as f64 } else { 0.0 };
        let name = column.name.clone();
        if column.unit.is_empty()
            && let Some(unit) = &seen.behind[i]
        {
            column.unit.clone_from(unit);
            told.push((format!("{name} in {unit}"), "the unit stands behind its figures".to_owned(), None));
            continue;
        }
        if (reads.is_humidity() && count > 0 && most <= 1.0) && mean > 0.0 {
            column.unit = "1".into();
            told.push((format!("{name} as a fraction of 1"), format!("its largest figure is {most}"), None));
            continue;
        }
        if !column.unit.is_empty() {
            continue;
        }
        if reads.is_temperature() {
            let stated = if head.contains("fahrenheit") || head.contains("°f") {
                Some("°F")
            } else if head.contains("celsius") || head.contains("°c") {
                Some("°C")
            } else {
                None
            };
            let (unit, why, ask) = match stated {
                Some(unit) => (unit, "the file’s head says so".to_owned(), false),
                None if mean > 45.0 => ("°F", format!("its mean, {mean:.0}, would be far too hot in °C"), true),
                None => ("°C", format!("its mean is {mean:.0}"), true),
            };
            column.unit = unit.into();
            told.push((format!("{name} in {unit}"), why, ask.then(|| format!("unit:{name}"))));
        } else if reads == Reads::PPa {
            let unit = match mean {
                m if m < 35.0 => "inHg",
                m if m < 200.0 => "kPa",
                m if m < 900.0 => "mmHg",
                m if m < 2000.0 => "hPa",
                _ => "Pa",
            };
            column.unit = unit.into();
            told.push((format!("{name} in {unit}"), format!("its mean is {mean:.0}"), None));
        } else {
            column.unit = match reads {
                Reads::RhPct | Reads::OutdoorRhPct | Reads::McPct => "%",
                Reads::RainMm => "mm",
                Reads::Liters => "L",
                Reads::PowerW => "W",
                _ => "",
            }
            .into();
        }
    }
    for (what, why, ask) in told {
        found.took(what, why);
        found.asked.extend(ask);
    }
}

/// A sensor's name is only needed where there are several.
fn channels(found: &mut Survey) {
    let values = || found.columns.iter().filter(|c| c.reads.is_some_and(Reads::is_value));
    let mut names: Vec<&str> = values().map(|c| c.channel.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    let twice = values().any(|c| values().filter(|d| d.reads == c.reads).count() > 1);
    if names.len() < 2 && !twice {
        for column in &mut found.columns {
            column.channel = String::new();
        }
        return;
    }
    // Two that are called alike are told apart by their place.
    let mut taken: Vec<(Reads, String)> = Vec::new();
    for (i, column) in found.columns.iter_mut().enumerate() {
        let Some(reads) = column.reads.filter(|r| r.is_value()) else { continue };
        if twice && taken.contains(&(reads, column.channel.clone())) {
            column.channel =
                if column.channel.is_empty() { format!("{}", i + 1) } else { format!("{} {}", column.channel, i + 1) };
        }
        taken.push((reads, column.channel.clone()));
    }
}

//! How a file is to be read: every guess with its reason.

mod clock;
mod seen;
mod shape;
mod units;

pub(crate) use seen::when_of;

use crate::cell::{Cell, Line};
use crate::columns::{Column, Reads};
use crate::delimited::{Delimited, delimiter, is_quoted};
use crate::epw;
use crate::grid::{Grid, Source, Unreadable};
use crate::json::Json;
use crate::moment::{Order, Zone};
use crate::sheet::Sheet;
use crate::text::{Decoded, beginning, encoding, not_text};
use crate::value::Decimal;
use clock::{order, zone};
use encoding_rs::Encoding;
use seen::{throughout, when};
use serde::{Deserialize, Serialize};
use shape::{decimal, name_columns, shape};
use std::collections::BTreeMap;
use std::io::Read;
use std::ops::ControlFlow;
use units::{channels, units};

/// Lines looked at for the shape of a file.
const SAMPLE: usize = 400;

/// What a file is made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
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
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Because {
    /// What was taken.
    pub what: String,
    /// Why.
    pub why: String,
}

/// What somebody says of a file beforehand.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Wishes {
    /// The zone of its place: what its clock keeps where it says nothing else.
    pub zone: Option<Zone>,
    /// The zone its clock keeps, whatever it says itself.
    pub clock: Option<Zone>,
    /// Which figure is the day.
    pub order: Option<Order>,
    /// What columns read, by their names as [`Survey::names`] gives them.
    pub columns: BTreeMap<String, ColumnWish>,
}

/// What somebody says of a column.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct ColumnWish {
    /// What it reads; `None` for nothing that is used.
    pub reads: Option<Reads>,
    /// Its unit; empty to leave that to the file.
    pub unit: String,
}

/// How a file is to be read. Kept as JSON it is read the same another time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
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
    #[serde(with = "by_name")]
    pub(crate) encoding: &'static Encoding,
    pub(crate) quoted: bool,
    /// Number of the first line of data.
    pub(crate) data: u64,
    pub(crate) heads: Vec<Vec<Cell>>,
    /// Whether its latest rows come first.
    pub(crate) backward: bool,
}

/// An encoding by its name.
mod by_name {
    use encoding_rs::Encoding;
    use serde::de::{Deserialize, Deserializer, Error};
    use serde::ser::Serializer;

    pub fn serialize<S: Serializer>(encoding: &&'static Encoding, to: S) -> Result<S::Ok, S::Error> {
        to.serialize_str(encoding.name())
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(from: D) -> Result<&'static Encoding, D::Error> {
        let name = String::deserialize(from)?;
        Encoding::for_label(name.as_bytes()).ok_or_else(|| D::Error::custom("no such encoding"))
    }
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

    /// The names of its columns, those called alike told apart by number.
    #[must_use]
    pub fn names(&self) -> Vec<String> {
        let mut names: Vec<String> = Vec::with_capacity(self.columns.len());
        for column in &self.columns {
            let again = self.columns[..names.len()].iter().filter(|c| c.name == column.name).count();
            names.push(if again == 0 { column.name.clone() } else { format!("{} #{}", column.name, again + 1) });
        }
        names
    }

    /// Takes for granted what somebody said of its columns; when a row was read stays as it was worked out.
    fn grant(&mut self, wishes: &Wishes) {
        let names = self.names();
        let when = |c: &Column| matches!(c.reads, Some(Reads::At | Reads::Date | Reads::Time));
        for (column, name) in self.columns.iter_mut().zip(&names) {
            let Some(wish) = wishes.columns.get(name).filter(|_| !when(column)) else { continue };
            if column.reads != wish.reads {
                column.channel = column.name.clone();
                column.unit = String::new();
            }
            column.reads = wish.reads;
            if !wish.unit.is_empty() {
                column.unit.clone_from(&wish.unit);
            }
        }
    }

    fn took(&mut self, what: impl Into<String>, why: impl Into<String>) {
        self.because.push(Because { what: what.into(), why: why.into() });
    }
}

/// Whether a file could be one of readings, by its beginning.
///
/// # Errors
/// [`Unreadable`]: why it cannot.
pub fn recognize(head: &[u8]) -> Result<(), Unreadable> {
    if head.iter().all(u8::is_ascii_whitespace) {
        return Err(Unreadable::Empty);
    }
    if let Some(what) = not_text(head) {
        return Err(Unreadable::NotATable(what));
    }
    begun(head).map(|_| ())
}

/// Works out how a file is to be read, in passes over it.
///
/// # Errors
/// [`Unreadable`]: why nothing of it can be.
pub fn survey(source: &(impl Source + ?Sized), wishes: &Wishes) -> Result<Survey, Unreadable> {
    let head = beginning(source)?;
    recognize(&head)?;
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
    found.grant(wishes);
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

//! The rows of a file that has been surveyed.

use crate::cell::{Cell, Line};
use crate::columns::{Reads, behind, turning};
use crate::epw;
use crate::grid::{Source, Unreadable};
use crate::moment::{Shown, shown};
use crate::survey::{Format, Survey, when_of};
use crate::value::{Decimal, Figure, figure};
use chrono::{DateTime, TimeDelta, Utc};
use std::ops::ControlFlow;

/// What was read, and nothing where a mark stands for that.
pub type Values = Vec<(Reads, Option<f64>)>;

/// A row of one sensor.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// Its line in the file.
    pub line: u64,
    /// When.
    pub at: DateTime<Utc>,
    /// The sensor's name; empty where there is only one.
    pub channel: String,
    /// Values in the core's own units.
    pub values: Values,
}

/// A line that is not taken.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Refused {
    /// Its number.
    pub line: u64,
    /// As it stands.
    pub text: String,
    /// Why.
    pub why: String,
}

/// What a file held.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Tally {
    /// Rows taken.
    pub rows: u64,
    /// Rows refused.
    pub refused: u64,
    /// The earliest moment.
    pub first: Option<DateTime<Utc>>,
    /// The latest.
    pub last: Option<DateTime<Utc>>,
}

impl Tally {
    /// Counts a row of the file, taken or not.
    pub(crate) fn count(&mut self, row: Option<&Row>) {
        match row {
            None => self.refused += 1,
            Some(row) => {
                self.rows += 1;
                self.first = Some(self.first.map_or(row.at, |f| f.min(row.at)));
                self.last = Some(self.last.map_or(row.at, |l| l.max(row.at)));
            }
        }
    }
}

/// A file and how it is read.
pub struct Reading<'a, S: Source + ?Sized> {
    /// The file.
    pub source: &'a S,
    /// How.
    pub survey: &'a Survey,
}

/// How a figure turns into the core's own unit.
type Turning = fn(f64) -> f64;

/// A sensor of a file: its columns, what they read, and how their figures turn into the core's own.
struct Channel<'a> {
    name: &'a str,
    columns: Vec<(usize, Reads, Turning)>,
}

impl<'a> Channel<'a> {
    /// All of a file's, in the order of its columns.
    fn all(survey: &'a Survey) -> Vec<Self> {
        let mut out: Vec<Self> = Vec::new();
        for (i, column) in survey.columns.iter().enumerate() {
            let Some(reads) = column.reads.filter(|r| r.is_value()) else { continue };
            let own = (i, reads, turning(reads, &column.unit));
            match out.iter_mut().find(|c| c.name == column.channel) {
                Some(known) => known.columns.push(own),
                None => out.push(Self { name: &column.channel, columns: vec![own] }),
            }
        }
        out
    }

    fn values(&self, line: &Line, decimal: Decimal) -> Values {
        let read = self.columns.iter().map(|(i, reads, turned)| {
            let value = match line.cells.get(*i).map_or(Figure::Missing, |c| figure(c, decimal)) {
                Figure::Read(x, unit) => {
                    let own = if unit.is_empty() { None } else { behind(*reads, &unit) };
                    Some(own.map_or(*turned, |unit| turning(*reads, &unit))(x))
                }
                Figure::Missing | Figure::Words => None,
            };
            (*reads, value)
        });
        read.collect()
    }
}

impl<S: Source + ?Sized> Reading<'_, S> {
    /// Hands out its rows in the order of the file, one for each sensor, and the lines that are none.
    ///
    /// # Errors
    /// [`Unreadable`] where the file stops being one.
    pub fn each(&self, take: &mut dyn FnMut(Result<Row, Refused>) -> ControlFlow<()>) -> Result<Tally, Unreadable> {
        if self.survey.format == Format::Epw {
            return epw::each(self.source, self.survey, take);
        }
        let mut tally = Tally::default();
        let mut last = None;
        let channels = Channel::all(self.survey);
        let named = self.survey.columns.iter().position(|c| c.reads == Some(Reads::Channel));
        self.survey.grid(self.source)?.each(&mut |line| {
            if line.number < self.survey.data || self.is_head(&line) {
                return ControlFlow::Continue(());
            }
            let at = match self.at(&line, &mut last) {
                Ok(at) => at,
                Err(why) => return self.refuse(&mut tally, &line, why, take),
            };
            let rows = channels.iter().map(|channel| Row {
                line: line.number,
                at,
                channel: named.map_or_else(|| channel.name.to_owned(), |i| self.sensor(&line, i, channel.name)),
                values: channel.values(&line, self.survey.decimal),
            });
            let rows: Vec<Row> = rows.collect();
            if rows.iter().flat_map(|r| &r.values).all(|(_, x)| x.is_none()) {
                return self.refuse(&mut tally, &line, "no reading in it", take);
            }
            tally.count(rows.first());
            // Where a column names the sensor, the others of the line are not its.
            let mut own = rows.into_iter().filter(|r| named.is_none() || r.values.iter().any(|(_, x)| x.is_some()));
            own.try_for_each(|row| take(Ok(row)))
        })?;
        Ok(tally)
    }

    fn refuse(
        &self,
        tally: &mut Tally,
        line: &Line,
        why: &str,
        take: &mut dyn FnMut(Result<Row, Refused>) -> ControlFlow<()>,
    ) -> ControlFlow<()> {
        tally.count(None);
        let mark = self.survey.delimiter.unwrap_or(',').to_string();
        let text = line.cells.iter().map(Cell::shown).collect::<Vec<_>>().join(&mark);
        take(Err(Refused { line: line.number, text, why: why.to_owned() }))
    }

    /// Whether a line repeats the head.
    fn is_head(&self, line: &Line) -> bool {
        self.survey.heads.contains(&line.cells)
    }

    fn at(&self, line: &Line, last: &mut Option<DateTime<Utc>>) -> Result<DateTime<Utc>, &'static str> {
        let survey = self.survey;
        let written = when_of(&survey.columns, line).ok_or("no date and time in it")?;
        let clock = written.clock(survey.order).ok_or("a day that cannot be")?;
        let at = if let Some(seconds) = written.offset {
            clock.and_utc() - TimeDelta::seconds(i64::from(seconds))
        } else if written.epoch {
            clock.and_utc()
        } else {
            match shown(clock, &survey.zone).ok_or("a time that cannot be")? {
                Shown::Once(at) => at,
                // The hour autumn shows twice, by the order of the rows.
                Shown::Twice(first, second) if survey.backward => {
                    if last.is_some_and(|l| l <= second) {
                        first
                    } else {
                        second
                    }
                }
                Shown::Twice(first, second) => {
                    if last.is_some_and(|l| l >= first) {
                        second
                    } else {
                        first
                    }
                }
                Shown::Never(before) => clock.and_utc() - TimeDelta::seconds(i64::from(before)),
            }
        };
        *last = Some(at);
        Ok(at)
    }

    fn sensor(&self, line: &Line, i: usize, channel: &str) -> String {
        let name = line.cells.get(i).map(Cell::shown).unwrap_or_default();
        if channel.is_empty() { name } else { format!("{name} {channel}") }
    }
}

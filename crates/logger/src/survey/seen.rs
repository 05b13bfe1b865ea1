//! The columns that say when, and what all rows say together.

use super::Survey;
use super::shape::moment;
use crate::cell::{Cell, Line};
use crate::columns::{Column, Reads, behind};
use crate::grid::{Source, Unreadable};
use crate::moment::{Day, Order, Written, written};
use crate::value::{Figure, figure};
use std::ops::ControlFlow;

/// Share of the sample that must hold moments in a column of moments.
const MOST: f64 = 0.6;

/// Finds the column or columns that say when.
pub(super) fn when(found: &mut Survey, rows: &[Line]) -> Result<(), Unreadable> {
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
pub(super) struct Seen {
    /// First line where the first figure must be the day, and where the second must be.
    pub(super) first_is_day: Option<(u64, u32)>,
    pub(super) second_is_day: Option<(u64, u32)>,
    /// Rows whose day could be either.
    pub(super) open: usize,
    /// Steps from row to row that go back or leap over a day, if the day is first, if the month is.
    pub(super) leaps: [usize; 2],
    pub(super) last: [Option<chrono::NaiveDateTime>; 2],
    pub(super) offsets: usize,
    pub(super) epochs: usize,
    pub(super) whole: usize,
    pub(super) back: usize,
    pub(super) on: usize,
    /// Largest figure of each column, its mean, and how many; and the unit seen behind one.
    pub(super) figures: Vec<(f64, f64, usize)>,
    pub(super) behind: Vec<Option<String>>,
}

pub(super) fn throughout(source: &(impl Source + ?Sized), found: &Survey) -> Result<Seen, Unreadable> {
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

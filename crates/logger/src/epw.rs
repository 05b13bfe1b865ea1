//! `EnergyPlus` weather: eight lines of head, then 35 columns an hour in local standard time, each the end of its hour.

use crate::columns::{Column, Reads};
use crate::grid::{Source, Unreadable};
use crate::moment::{Order, Zone};
use crate::reading::{Refused, Row, Tally, Values};
use crate::survey::Survey;
use crate::value::{Decimal, Figure, figure};
use chrono::{NaiveDate, TimeDelta};
use std::ops::ControlFlow;

/// Lines of head.
const HEAD: u64 = 8;
/// Columns read, the figure from which on nothing was measured, and what turns it into the core's own.
const READ: [(usize, &str, Reads, f64); 5] = [
    (6, "dry bulb", Reads::OutdoorTC, 99.9),
    (7, "dew point", Reads::None, 99.9),
    (8, "relative humidity", Reads::OutdoorRhPct, 999.0),
    (9, "pressure", Reads::PPa, 999_999.0),
    (33, "liquid precipitation", Reads::RainMm, 999.0),
];

/// How it is read: there is nothing to guess but the place's zone, which it states.
pub fn survey(source: &(impl Source + ?Sized), mut found: Survey) -> Result<Survey, Unreadable> {
    let mut hours = None;
    found.grid(source)?.each(&mut |line| {
        if let Figure::Read(x, _) = line.cells.get(8).map_or(Figure::Missing, |c| figure(c, Decimal::Point)) {
            hours = Some(x);
        }
        ControlFlow::Break(())
    })?;
    let hours = hours.filter(|h| h.abs() <= 14.0).ok_or(Unreadable::NoTime)?;
    found.zone = Zone::Fixed((hours * 3600.0).round() as i32);
    found.order = Order::YearFirst;
    found.because.push(crate::survey::Because {
        what: format!("{}, standard time all year", found.zone.shown()),
        why: "its LOCATION says so; each row is the end of its hour".into(),
    });
    let column = |(_, name, reads, _): &(usize, &str, Reads, f64)| Column {
        name: (*name).to_owned(),
        reads: Some(*reads).filter(|r| r.is_value()),
        unit: match reads {
            Reads::OutdoorTC => "°C",
            Reads::OutdoorRhPct => "%",
            Reads::PPa => "Pa",
            Reads::RainMm => "mm",
            _ => "",
        }
        .into(),
        channel: String::new(),
    };
    found.columns = READ.iter().map(column).collect();
    found.data = HEAD + 1;
    Ok(found)
}

/// Its rows.
pub fn each(
    source: &(impl Source + ?Sized),
    found: &Survey,
    take: &mut dyn FnMut(Result<Row, Refused>) -> ControlFlow<()>,
) -> Result<Tally, Unreadable> {
    let mut tally = Tally::default();
    let Zone::Fixed(offset) = found.zone else { return Err(Unreadable::NoTime) };
    let mut at_line = 0;
    found.grid(source)?.each(&mut |line| {
        // Its lines are counted here: commas at the end of a line of head are no cells of the next.
        at_line += 1;
        if at_line <= HEAD {
            return ControlFlow::Continue(());
        }
        let number = |i: usize| match line.cells.get(i).map_or(Figure::Missing, |c| figure(c, Decimal::Point)) {
            Figure::Read(x, _) => Some(x),
            _ => None,
        };
        let whole = |i: usize| number(i).filter(|x| x.fract() == 0.0).map(|x| x as i64);
        let at = (|| {
            let (year, month, day, hour) = (whole(0)?, whole(1)?, whole(2)?, whole(3)?);
            let date = NaiveDate::from_ymd_opt(year as i32, month as u32, day as u32)?;
            let start = date.and_hms_opt(0, 0, 0)?.and_utc();
            (1..=24).contains(&hour).then(|| start + TimeDelta::hours(hour) - TimeDelta::seconds(i64::from(offset)))
        })();
        let measured = |(i, _, reads, none): &(usize, &str, Reads, f64)| {
            reads.is_value().then(|| (*reads, number(*i).filter(|x| x < none)))
        };
        let values: Values = READ.iter().filter_map(measured).collect();
        let read = match at {
            None => Err(Refused { line: line.number, text: line.text(), why: "no year, month, day and hour".into() }),
            Some(_) if values.iter().all(|(_, x)| x.is_none()) => {
                Err(Refused { line: line.number, text: line.text(), why: "no reading in it".into() })
            }
            Some(at) => Ok(Row { line: line.number, at, channel: String::new(), values }),
        };
        tally.count(read.as_ref().ok());
        take(read)
    })?;
    Ok(tally)
}

/// Where it is from, as its LOCATION says: city, state and country, as far as they are there.
///
/// # Errors
/// [`Unreadable`]: why nothing of it can be read.
pub fn station(source: &(impl Source + ?Sized), found: &Survey) -> Result<String, Unreadable> {
    /// Longest place told of, characters.
    const LONGEST: usize = 80;
    let mut said = String::new();
    found.grid(source)?.each(&mut |line| {
        let cell = |i: usize| line.cells.get(i).map(|c| c.shown().trim().to_owned());
        let known = (1..4).filter_map(cell).filter(|c| !c.is_empty() && c != "-");
        said = known.collect::<Vec<_>>().join(", ");
        ControlFlow::Break(())
    })?;
    Ok(said.chars().filter(|c| !c.is_control()).take(LONGEST).collect())
}

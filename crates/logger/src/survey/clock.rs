//! Which figure is the day, and whose clock it is.

use super::seen::{Seen, when_of};
use super::{Survey, Wishes};
use crate::columns::Reads;
use crate::grid::{Source, Unreadable};
use crate::moment::{Order, Shown, Zone, offset, shown};
use std::ops::ControlFlow;

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

pub(super) fn order(found: &mut Survey, seen: &Seen, titles: &[String], wishes: &Wishes) {
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

pub(super) fn zone(
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
    if let Some(clock) = wishes.clock.clone() {
        let shown = clock.shown();
        found.zone = clock;
        found.took(shown, "you said so");
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

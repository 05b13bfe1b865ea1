//! Dates and times as loggers write them.

use crate::cell::Cell;
use chrono::{DateTime, Days, NaiveDate, NaiveDateTime, NaiveTime, TimeDelta, Utc};
use jiff::tz::{AmbiguousOffset, TimeZone};
use serde::{Deserialize, Serialize};

/// Which of two figures is the day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum Order {
    /// Day before month.
    DayFirst,
    /// Month before day.
    MonthFirst,
    /// Year, month, day.
    YearFirst,
}

impl Order {
    /// As the command names it.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::DayFirst => "dmy",
            Self::MonthFirst => "mdy",
            Self::YearFirst => "ymd",
        }
    }

    /// By the command's name.
    #[must_use]
    pub fn from_id(id: &str) -> Option<Self> {
        [Self::DayFirst, Self::MonthFirst, Self::YearFirst].into_iter().find(|o| o.id() == id)
    }
}

/// A day as written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Day {
    /// It can be no other.
    Known(NaiveDate),
    /// Two figures that are day and month in some order, and the year.
    Open(u32, u32, i32),
}

impl Day {
    pub fn date(self, order: Order) -> Option<NaiveDate> {
        match self {
            Self::Known(date) => Some(date),
            Self::Open(a, b, year) => match order {
                Order::MonthFirst => NaiveDate::from_ymd_opt(year, a, b),
                Order::DayFirst | Order::YearFirst => NaiveDate::from_ymd_opt(year, b, a),
            },
        }
    }
}

/// A moment as written, as far as it is written.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Written {
    pub day: Option<Day>,
    pub time: Option<NaiveTime>,
    /// Whether the time was written as 24:00: the day after.
    pub next: bool,
    /// Seconds east of UTC, where the value says so.
    pub offset: Option<i32>,
    /// Whether it counts seconds from 1970: in UTC.
    pub epoch: bool,
}

impl Written {
    pub fn is_whole(&self) -> bool {
        self.day.is_some() && self.time.is_some()
    }

    /// The clock it shows.
    pub fn clock(&self, order: Order) -> Option<NaiveDateTime> {
        let date = self.day?.date(order)?;
        let date = if self.next { date.checked_add_days(Days::new(1))? } else { date };
        Some(date.and_time(self.time?))
    }
}

/// Months in the languages loggers speak, by their first three letters.
const MONTHS: [(&str, u32); 31] = [
    ("jan", 1),
    ("ene", 1),
    ("gen", 1),
    ("feb", 2),
    ("fév", 2),
    ("fev", 2),
    ("mar", 3),
    ("mär", 3),
    ("mrz", 3),
    ("maa", 3),
    ("apr", 4),
    ("avr", 4),
    ("abr", 4),
    ("may", 5),
    ("mai", 5),
    ("mag", 5),
    ("mei", 5),
    ("jun", 6),
    ("giu", 6),
    ("jul", 7),
    ("lug", 7),
    ("aug", 8),
    ("aoû", 8),
    ("ago", 8),
    ("sep", 9),
    ("set", 9),
    ("oct", 10),
    ("okt", 10),
    ("ott", 10),
    ("nov", 11),
    ("dec", 12),
];

fn month(word: &str) -> Option<u32> {
    let word = word.to_lowercase();
    let known = |(start, n): &(&str, u32)| word.starts_with(start).then_some(*n);
    match word.as_str() {
        w if w.starts_with("juin") => Some(6),
        w if w.starts_with("juil") => Some(7),
        w if w.starts_with("dez") || w.starts_with("dic") || w.starts_with("déc") => Some(12),
        _ => MONTHS.iter().find_map(known),
    }
}

/// A piece of a text: digits, letters, or a mark between them.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Piece<'a> {
    Digits(&'a str),
    Word(&'a str),
    Mark(char),
}

fn pieces(text: &str) -> Vec<Piece<'_>> {
    let mut out = Vec::with_capacity(16);
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        let same = |f: fn(char) -> bool| rest.find(|c: char| !f(c)).unwrap_or(rest.len());
        let end = if c.is_ascii_digit() {
            let end = same(|c| c.is_ascii_digit());
            out.push(Piece::Digits(&rest[..end]));
            end
        } else if c.is_alphabetic() {
            let end = same(char::is_alphabetic);
            out.push(Piece::Word(&rest[..end]));
            end
        } else {
            if !c.is_whitespace() {
                out.push(Piece::Mark(c));
            } else if !matches!(out.last(), Some(Piece::Mark(' '))) {
                out.push(Piece::Mark(' '));
            }
            c.len_utf8()
        };
        rest = &rest[end..];
    }
    out
}

/// What a cell says of a moment; nothing where it says none.
pub fn written(cell: &Cell) -> Option<Written> {
    match cell {
        Cell::Moment(at) => {
            Some(Written { day: Some(Day::Known(at.date())), time: Some(at.time()), ..Written::default() })
        }
        Cell::Text(text) if text.len() <= 60 => iso(text).or_else(|| of_text(text)),
        _ => None,
    }
}

/// `2026-01-02T03:04:05Z`, by far the most frequent, without taking it to pieces.
fn iso(text: &str) -> Option<Written> {
    let b = text.as_bytes();
    let digits = |at: std::ops::Range<usize>| -> Option<u32> {
        b.get(at)?.iter().try_fold(0_u32, |x, d| d.is_ascii_digit().then(|| x * 10 + u32::from(d - b'0')))
    };
    if b.len() < 16 || b[4] != b'-' || b[7] != b'-' || !matches!(b[10], b'T' | b' ') || b[13] != b':' {
        return None;
    }
    let date = NaiveDate::from_ymd_opt(digits(0..4)? as i32, digits(5..7)?, digits(8..10)?)?;
    let seconds = if b.get(16) == Some(&b':') { digits(17..19)? } else { 0 };
    let rest = if b.get(16) == Some(&b':') { &text[19..] } else { &text[16..] };
    let fraction =
        rest.strip_prefix(['.', ',']).map_or(0, |f| f.len() - f.trim_start_matches(|c: char| c.is_ascii_digit()).len());
    let micros = rest.get(1..=fraction).map_or(0, micros);
    let rest = if fraction > 0 { &rest[fraction + 1..] } else { rest };
    let time = NaiveTime::from_hms_micro_opt(digits(11..13)?, digits(14..16)?, seconds, micros)?;
    let offset = if rest.is_empty() { None } else { Some(offset(rest.trim())?) };
    Some(Written { day: Some(Day::Known(date)), time: Some(time), offset, ..Written::default() })
}

/// What stands behind a second's mark, in millionths of it: as finely as moments are kept.
fn micros(digits: &str) -> u32 {
    let six = digits.bytes().filter(u8::is_ascii_digit).chain(std::iter::repeat(b'0')).take(6);
    six.fold(0, |x, d| 10 * x + u32::from(d - b'0'))
}

/// An offset as written: `Z`, `UTC`, `+01:00`, `-0500`, `GMT+2`.
pub fn offset(text: &str) -> Option<i32> {
    let text = text.trim();
    let rest = ["UTC", "GMT", "utc", "gmt", "Z", "z"].iter().find_map(|w| text.strip_prefix(w)).unwrap_or(text).trim();
    if rest.is_empty() {
        return (!text.is_empty()).then_some(0);
    }
    let (sign, figures) = match rest.chars().next()? {
        '+' => (1, &rest[1..]),
        '-' => (-1, &rest[1..]),
        '−' => (-1, &rest['−'.len_utf8()..]),
        _ => return None,
    };
    let (hours, minutes) = match figures.split_once(':') {
        Some((h, m)) => (h.parse::<i32>().ok()?, m.parse::<i32>().ok()?),
        None if figures.len() == 4 => (figures[..2].parse().ok()?, figures[2..].parse().ok()?),
        None => (figures.parse::<i32>().ok()?, 0),
    };
    (hours <= 14 && (0..60).contains(&minutes)).then_some(sign * (hours * 3600 + minutes * 60))
}

/// A year as written, of two figures in this century.
fn year(digits: &str) -> Option<i32> {
    match (digits.len(), digits.parse::<i32>().ok()?) {
        (4, y) if (1970..2200).contains(&y) => Some(y),
        (2, y) => Some(2000 + y),
        _ => None,
    }
}

fn of_text(text: &str) -> Option<Written> {
    let pieces: Vec<Piece<'_>> = pieces(text).into_iter().filter(|p| *p != Piece::Mark(' ')).collect();
    let mut out = Written::default();
    let mut at = 0;
    while at < pieces.len() {
        let used = if out.day.is_none() { take_day(&pieces[at..], &mut out) } else { 0 };
        let used = if used == 0 && out.time.is_none() { take_time(&pieces[at..], &mut out) } else { used };
        let used = if used == 0 { take_offset(&pieces[at..], &mut out) } else { used };
        if used > 0 {
            at += used;
            continue;
        }
        match pieces[at] {
            // A weekday, the `T` between day and time, or a comma.
            Piece::Word(w) if w == "T" || (w.len() >= 2 && month(w).is_none() && out.day.is_none()) => at += 1,
            Piece::Mark(',' | '/' | '-' | '.') if out.day.is_some() || at == 0 => at += 1,
            _ => return None,
        }
    }
    (out.day.is_some() || out.time.is_some()).then_some(out)
}

fn take_day(pieces: &[Piece<'_>], out: &mut Written) -> usize {
    use Piece::{Digits, Mark, Word};
    let sep = |c: char| matches!(c, '/' | '.' | '-');
    let (day, used) = match *pieces {
        [Digits(a), Mark(m), Digits(b), Mark(n), Digits(c), ..] if sep(m) && m == n => {
            let (Ok(x), Ok(y)) = (a.parse::<u32>(), b.parse::<u32>()) else { return 0 };
            if a.len() == 4 {
                let (Some(year), Ok(d)) = (year(a), c.parse::<u32>()) else { return 0 };
                (NaiveDate::from_ymd_opt(year, y, d).map(Day::Known), 5)
            } else {
                (year(c).map(|year| Day::Open(x, y, year)), 5)
            }
        }
        [Digits(d), Mark('.' | '-' | '/'), Word(m), Mark('.' | '-' | '/'), Digits(y), ..] => (named(d, m, y), 5),
        [Digits(d), Mark('.'), Word(m), Digits(y), ..] => (named(d, m, y), 4),
        [Digits(d), Word(m), Mark('.' | ','), Digits(y), ..] => (named(d, m, y), 4),
        [Digits(d), Word(m), Digits(y), ..] => (named(d, m, y), 3),
        [Word(m), Digits(d), Mark(','), Digits(y), ..] => (named(d, m, y), 4),
        [Word(m), Digits(d), Digits(y), ..] => (named(d, m, y), 3),
        [Digits(all), ..] if all.len() == 8 || all.len() == 14 => {
            let figure = |from: usize, to: usize| all[from..to].parse::<u32>().ok();
            let date = year(&all[..4]).and_then(|y| NaiveDate::from_ymd_opt(y, figure(4, 6)?, figure(6, 8)?));
            if all.len() == 14 {
                out.time = figure(8, 10)
                    .zip(figure(10, 12))
                    .zip(figure(12, 14))
                    .and_then(|((h, m), s)| NaiveTime::from_hms_opt(h, m, s));
            }
            (date.map(Day::Known), 1)
        }
        _ => (None, 0),
    };
    match day {
        Some(day) => {
            out.day = Some(day);
            used
        }
        None => 0,
    }
}

fn named(day: &str, word: &str, of: &str) -> Option<Day> {
    NaiveDate::from_ymd_opt(year(of)?, month(word)?, day.parse().ok()?).map(Day::Known)
}

fn take_time(pieces: &[Piece<'_>], out: &mut Written) -> usize {
    use Piece::{Digits, Mark, Word};
    let (hour, minute, [second, fraction], mut used) = match *pieces {
        [Digits(h), Mark(':'), Digits(m), Mark(':'), Digits(s), Mark('.' | ','), Digits(f), ..] => (h, m, [s, f], 7),
        [Digits(h), Mark(':'), Digits(m), Mark(':'), Digits(s), ..] => (h, m, [s, ""], 5),
        [Digits(h), Mark(':'), Digits(m), ..] => (h, m, ["0", ""], 3),
        [Digits(h), Word("h" | "H"), Digits(m), ..] => (h, m, ["0", ""], 3),
        _ => return 0,
    };
    let (Ok(mut hour), Ok(minute), Ok(second)) = (hour.parse::<u32>(), minute.parse::<u32>(), second.parse::<u32>())
    else {
        return 0;
    };
    let half = match pieces.get(used..) {
        Some([Word(w), Mark('.'), Word(m), Mark('.'), ..]) if m.eq_ignore_ascii_case("m") => Some((*w, 4)),
        Some([Word(w), ..]) => Some((*w, 1)),
        _ => None,
    };
    match half.map(|(w, n)| (w.to_lowercase(), n)) {
        Some((w, n)) if ["am", "a"].contains(&w.as_str()) => {
            hour %= 12;
            used += n;
        }
        Some((w, n)) if ["pm", "p"].contains(&w.as_str()) => {
            hour = hour % 12 + 12;
            used += n;
        }
        _ => {}
    }
    if hour == 24 && minute == 0 {
        (hour, out.next) = (0, true);
    }
    match NaiveTime::from_hms_micro_opt(hour, minute, second, micros(fraction)) {
        Some(time) => {
            out.time = Some(time);
            used
        }
        None => 0,
    }
}

fn take_offset(pieces: &[Piece<'_>], out: &mut Written) -> usize {
    use Piece::{Digits, Mark, Word};
    if out.time.is_none() {
        return 0;
    }
    let text = |n: usize| -> String {
        let one = |p: &Piece<'_>| match p {
            Digits(t) | Word(t) => (*t).to_owned(),
            Mark(c) => c.to_string(),
        };
        pieces[..n].iter().map(one).collect()
    };
    let used = match *pieces {
        [Word("UTC" | "GMT" | "Z"), Mark('+' | '-'), Digits(_), Mark(':'), Digits(_), ..] => 5,
        [Word("UTC" | "GMT" | "Z"), Mark('+' | '-'), Digits(_), ..] => 3,
        [Word("UTC" | "GMT" | "Z"), ..] => 1,
        [Mark('+' | '-' | '−'), Digits(_), Mark(':'), Digits(_), ..] => 4,
        [Mark('+' | '-' | '−'), Digits(d), ..] if d.len() == 4 => 2,
        _ => return 0,
    };
    match offset(&text(used)) {
        Some(seconds) => {
            out.offset = Some(seconds);
            used
        }
        None => 0,
    }
}

/// A number that counts from 1970, in seconds or milliseconds, or days as spreadsheets count them.
pub fn counted(x: f64) -> Option<Written> {
    let whole = |at: DateTime<Utc>, epoch| Written {
        day: Some(Day::Known(at.date_naive())),
        time: Some(at.time()),
        epoch,
        ..Written::default()
    };
    match x {
        // 1990 to 2100.
        631e6..=4.1e9 => DateTime::from_timestamp_millis((x * 1000.0).round() as i64).map(|at| whole(at, true)),
        631e9..=4.1e12 => DateTime::from_timestamp_millis(x.round() as i64).map(|at| whole(at, true)),
        32_874.0..=73_051.0 => {
            let start = NaiveDate::from_ymd_opt(1899, 12, 30)?.and_hms_opt(0, 0, 0)?.and_utc();
            Some(whole(start + TimeDelta::milliseconds((x * 86_400_000.0).round() as i64), false))
        }
        _ => None,
    }
}

/// Whose clock it is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(try_from = "Kept", into = "Kept")]
pub enum Zone {
    /// So many seconds east of UTC all year.
    Fixed(i32),
    /// That of a place.
    Of(TimeZone, String),
}

/// A zone as it is kept.
#[derive(Serialize, Deserialize)]
enum Kept {
    Fixed(i32),
    Of(String),
}

impl From<Zone> for Kept {
    fn from(zone: Zone) -> Self {
        match zone {
            Zone::Fixed(seconds) => Self::Fixed(seconds),
            Zone::Of(_, name) => Self::Of(name),
        }
    }
}

impl TryFrom<Kept> for Zone {
    type Error = jiff::Error;
    fn try_from(kept: Kept) -> Result<Self, jiff::Error> {
        Ok(match kept {
            Kept::Fixed(seconds) => Self::Fixed(seconds),
            Kept::Of(name) => Self::Of(TimeZone::get(&name)?, name),
        })
    }
}

impl Zone {
    /// By an IANA name or an offset.
    #[must_use]
    pub fn named(text: &str) -> Option<Self> {
        if let Some(seconds) = offset(text) {
            return Some(Self::Fixed(seconds));
        }
        Some(Self::Of(TimeZone::get(text).ok()?, text.to_owned()))
    }

    /// As it is shown.
    #[must_use]
    pub fn shown(&self) -> String {
        match self {
            Self::Fixed(0) => "UTC".into(),
            Self::Fixed(s) => {
                let sign = if *s < 0 { '-' } else { '+' };
                format!("{sign}{:02}:{:02}", s.abs() / 3600, s.abs() % 3600 / 60)
            }
            Self::Of(_, name) => name.clone(),
        }
    }
}

/// Where the clock of a moment stands in its zone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shown {
    /// Once.
    Once(DateTime<Utc>),
    /// Twice, in autumn.
    Twice(DateTime<Utc>, DateTime<Utc>),
    /// Never, in spring; so many seconds east of UTC before and after.
    Never(i32),
}

/// A clock in a zone.
pub fn shown(clock: NaiveDateTime, zone: &Zone) -> Option<Shown> {
    let at = |offset: i32| clock.and_utc() - TimeDelta::seconds(i64::from(offset));
    Some(match zone {
        Zone::Fixed(offset) => Shown::Once(at(*offset)),
        Zone::Of(zone, _) => {
            let parts = clock.format("%Y-%m-%dT%H:%M:%S").to_string();
            let civil: jiff::civil::DateTime = parts.parse().ok()?;
            match zone.to_ambiguous_timestamp(civil).offset() {
                AmbiguousOffset::Unambiguous { offset } => Shown::Once(at(offset.seconds())),
                AmbiguousOffset::Fold { before, after } => Shown::Twice(at(before.seconds()), at(after.seconds())),
                AmbiguousOffset::Gap { before, .. } => Shown::Never(before.seconds()),
            }
        }
    })
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used, reason = "tests")]

    use super::*;

    fn clock(text: &str, order: Order) -> String {
        written(&Cell::text(text)).and_then(|w| w.clock(order)).map_or_else(|| "none".into(), |c| c.to_string())
    }

    #[test]
    fn moments_are_read_however_they_are_written() {
        for text in [
            "2026-03-04T05:06:07",
            "2026-03-04 05:06:07.0000",
            "2026/03/04 05:06:07",
            "4.3.2026 5:06:07",
            "04/03/26 05:06:07",
            "4-Mar-2026 05:06:07",
            "4. März 2026 05:06:07",
            "March 4, 2026 5:06:07 AM",
            "Wed 04 Mar 2026 05:06:07",
            "04/03/2026 5:06:07 a.m.",
            "20260304050607",
        ] {
            assert_eq!(clock(text, Order::DayFirst), "2026-03-04 05:06:07", "{text}");
        }
        // Two readings of a second are two.
        for text in
            ["2026-03-04T05:06:07.25Z", "2026-03-04 05:06:07,250", "4.3.2026 5:06:07.2500", "03/04/2026 5:06:07.25 AM"]
        {
            assert_eq!(
                clock(text, if text.starts_with('0') { Order::MonthFirst } else { Order::DayFirst }),
                "2026-03-04 05:06:07.250"
            );
        }
        assert_eq!(clock("03/04/2026 12:05 PM", Order::MonthFirst), "2026-03-04 12:05:00");
        assert_eq!(clock("03/04/2026 12:05 AM", Order::MonthFirst), "2026-03-04 00:05:00");
        assert_eq!(clock("31.12.2026 24:00", Order::DayFirst), "2027-01-01 00:00:00");
        for none in ["warm", "21.5", "12", "Average", "2026-13-45 10:00", "1:2:3:4"] {
            assert_eq!(clock(none, Order::DayFirst), "none", "{none}");
        }
        let offset = |text: &str| written(&Cell::text(text)).unwrap().offset;
        assert_eq!(offset("2026-03-04T05:06:07+01:00"), Some(3600));
        assert_eq!(offset("2026-03-04T05:06Z"), Some(0));
        assert_eq!(offset("04/03/2026 05:06 GMT-05:00"), Some(-18_000));
        assert_eq!(offset("04/03/2026 05:06"), None);
    }

    #[test]
    fn numbers_count_from_1970_or_as_spreadsheets_do() {
        let at = |x| counted(x).unwrap().clock(Order::DayFirst).unwrap().to_string();
        assert_eq!(at(1_772_600_767.0), "2026-03-04 05:06:07");
        assert_eq!(at(1_772_600_767_000.0), "2026-03-04 05:06:07");
        assert_eq!(at(46_085.25), "2026-03-04 06:00:00");
        assert!(counted(21.5).is_none());
    }

    #[test]
    fn autumn_shows_an_hour_twice_and_spring_none_of_it() {
        let new_york = Zone::named("America/New_York").unwrap();
        let at = |text: &str| {
            shown(written(&Cell::text(text)).unwrap().clock(Order::YearFirst).unwrap(), &new_york).unwrap()
        };
        assert!(matches!(at("2026-11-01 01:30:00"), Shown::Twice(a, b) if b - a == TimeDelta::hours(1)));
        assert_eq!(at("2026-03-08 02:30:00"), Shown::Never(-18_000));
        assert!(matches!(at("2026-07-01 12:00:00"), Shown::Once(t) if t.to_string().starts_with("2026-07-01 16:00")));
    }
}

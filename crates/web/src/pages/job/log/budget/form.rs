//! A time table as it is typed.

use building::Building;
use building::timetable::{Block, MOST_BLOCKS, MOST_HOURS, OutdoorsBy, TimeTable};
use chrono::{DateTime, NaiveDate, NaiveTime, TimeDelta, Utc};
use hygrothermal::quantity::{RelativeHumidity, Temperature};
use judgment::budget::Item;
use language::say;
use notation::Show;
use notation::number::{plain_number, significant};
use notation::unit::{TEMPERATURE, VOLUME};
use std::collections::HashMap;
use uuid::Uuid;
use wording::budget::clock;

/// Longest name, characters.
const LONGEST: usize = 60;
/// Most of anything.
const MOST_AMOUNT: f64 = 10_000.0;
/// Least and most air of a space, m³; most air changes an hour; strongest wind, m/s.
const VOLUMES: [f64; 2] = [0.5, 5000.0];
const MOST_LEAK: f64 = 20.0;
const STRONGEST: f64 = 30.0;

/// A row as typed.
#[derive(Default, Clone)]
pub struct RowForm {
    pub what: String,
    pub amount: String,
    pub from: String,
    pub until: String,
    pub error: Option<String>,
}

/// A time table as typed.
#[derive(Default, Clone)]
pub struct BudgetForm {
    pub space: String,
    pub name: String,
    pub begins: String,
    pub hours: String,
    pub t: String,
    pub rh: String,
    pub volume: String,
    pub leak: String,
    pub wind: String,
    pub outdoors: String,
    pub day: String,
    pub rows: Vec<RowForm>,
    /// A field and what is wrong with it.
    pub wrong: Vec<(&'static str, String)>,
}

/// Where outdoor air comes from, as a form names it.
fn by_words(by: OutdoorsBy) -> String {
    match by {
        OutdoorsBy::Visit => "visit".into(),
        OutdoorsBy::Log(_) => "log".into(),
        OutdoorsBy::Forecast => "forecast".into(),
        OutdoorsBy::Month(m) => say!("month {m}", m),
        OutdoorsBy::Weather(id, m) => format!("{id} {m}"),
    }
}

impl BudgetForm {
    /// As it is kept, with empty rows to go on.
    pub fn of(table: &TimeTable, show: &Show) -> Self {
        let row = |b: &Block| RowForm {
            what: b.what.clone(),
            amount: b.amount.to_string(),
            from: clock(table, b.from),
            until: clock(table, b.until),
            error: None,
        };
        let mut rows: Vec<RowForm> = table.blocks.iter().map(row).collect();
        if rows.len() < MOST_BLOCKS {
            rows.push(RowForm::default());
        }
        let day = match table.outdoors {
            OutdoorsBy::Log(ms) => DateTime::from_timestamp_millis(ms).map(|at| show.today(at).to_string()),
            _ => None,
        };
        Self {
            space: table.space_id.to_string(),
            name: table.name.clone(),
            begins: format!("{:02}:00", table.begins),
            hours: table.hours.to_string(),
            t: TEMPERATURE.typed(table.celsius, show.units),
            rh: significant(table.start_rh),
            volume: VOLUME.typed(table.volume_m3, show.units),
            leak: table.leak.to_string(),
            wind: table.wind.to_string(),
            outdoors: by_words(table.outdoors),
            day: day.unwrap_or_default(),
            rows,
            wrong: Vec::new(),
        }
    }

    /// As it was sent.
    pub fn sent(fields: &HashMap<String, String>) -> Self {
        let text = |key: &str| fields.get(key).map(|t| t.trim().to_owned()).unwrap_or_default();
        let row = |i: usize| RowForm {
            what: text(&format!("what-{i}")),
            amount: text(&format!("amount-{i}")),
            from: text(&format!("from-{i}")),
            until: text(&format!("until-{i}")),
            error: None,
        };
        let rows = (0..=MOST_BLOCKS).map(row).filter(|r| !r.what.is_empty()).collect();
        Self {
            space: text("space"),
            name: text("name"),
            begins: text("begins"),
            hours: text("hours"),
            t: text("t"),
            rh: text("rh"),
            volume: text("volume"),
            leak: text("leak"),
            wind: text("wind"),
            outdoors: text("outdoors"),
            day: text("day"),
            rows,
            wrong: Vec::new(),
        }
    }

    /// What is wrong with a field.
    pub fn error(&self, field: &str) -> Option<&str> {
        self.wrong.iter().find(|(f, _)| *f == field).map(|(_, e)| e.as_str())
    }

    /// Whether anything is.
    pub fn is_wrong(&self) -> bool {
        !self.wrong.is_empty() || self.rows.iter().any(|r| r.error.is_some())
    }

    /// An empty row to go on.
    pub fn go_on(mut self) -> Self {
        if self.rows.len() < MOST_BLOCKS {
            self.rows.push(RowForm::default());
        }
        self
    }

    /// The time table it says; what is wrong is noted where it stands.
    pub fn read(&mut self, id: Uuid, building: &Building, items: &[Item], show: &Show) -> Option<TimeTable> {
        let mut wrong: Vec<(&'static str, String)> = Vec::new();
        let mut field = |name: &'static str, read: Result<f64, String>| match read {
            Ok(x) => x,
            Err(why) => {
                wrong.push((name, why));
                0.0
            }
        };
        let begins = field("begins", begins(&self.begins));
        let hours = field("hours", within(&self.hours, 1.0, f64::from(MOST_HOURS), "hours"));
        let celsius = field("t", TEMPERATURE.parse(&self.t, show.units).and_then(temperature));
        let start_rh = field("rh", humidity(&self.rh));
        let volume_m3 = field("volume", volume(&self.volume, show));
        let leak = field("leak", within(&self.leak, 0.0, MOST_LEAK, say!("air changes an hour")));
        let wind = field("wind", within(&self.wind, 0.0, STRONGEST, "m/s"));
        let space = self.space.parse().ok().and_then(|id| building.space(id));
        if space.is_none() {
            wrong.push(("space", say!("That space is no longer there: choose another.").into()));
        }
        let length = self.name.chars().count();
        if length > LONGEST {
            wrong.push(("name", say!("{length} characters; {longest} at most.", length, longest = LONGEST)));
        }
        let outdoors = match self.outdoors(begins as u8, show) {
            Ok(by) => by,
            Err(why) => {
                wrong.push(("outdoors", why));
                OutdoorsBy::Visit
            }
        };
        self.wrong = wrong;
        let mut table = TimeTable {
            id,
            space_id: space.map(|s| s.id).unwrap_or_default(),
            name: if self.name.is_empty() { say!("Time table").into() } else { self.name.clone() },
            begins: begins as u8,
            hours: hours as u16,
            celsius,
            start_rh,
            volume_m3,
            leak,
            wind,
            outdoors,
            blocks: Vec::new(),
        };
        if self.rows.len() > MOST_BLOCKS {
            self.wrong.push(("rows", say!("{most_blocks} lines at most.", most_blocks = MOST_BLOCKS)));
        }
        let mut blocks = Vec::new();
        for row in &mut self.rows {
            match row.read(&table, items) {
                Ok(block) => blocks.push(block),
                Err(why) => row.error = Some(why),
            }
        }
        table.blocks = blocks;
        (!self.is_wrong()).then_some(table)
    }

    fn outdoors(&self, begins: u8, show: &Show) -> Result<OutdoorsBy, String> {
        let unknown = || say!("Choose where outdoor air comes from.").to_owned();
        let month = |m: &str| m.parse::<u8>().ok().filter(|m| *m < 12);
        match self.outdoors.as_str() {
            "visit" => Ok(OutdoorsBy::Visit),
            "forecast" => Ok(OutdoorsBy::Forecast),
            "log" => {
                let day =
                    self.day.parse::<NaiveDate>().map_err(|_| say!("Say from which day of the log.").to_owned())?;
                let time = NaiveTime::from_hms_opt(u32::from(begins), 0, 0).ok_or_else(unknown)?;
                let at: DateTime<Utc> = show
                    .instant(day.and_time(time))
                    .or_else(|| show.instant(day.and_time(time) + TimeDelta::hours(1)))
                    .ok_or_else(unknown)?;
                Ok(OutdoorsBy::Log(at.timestamp_millis()))
            }
            other => {
                let (of, m) = other.split_once(' ').ok_or_else(unknown)?;
                let m = month(m).ok_or_else(unknown)?;
                match of {
                    "month" => Ok(OutdoorsBy::Month(m)),
                    id => id.parse().map(|id| OutdoorsBy::Weather(id, m)).map_err(|_| unknown()),
                }
            }
        }
    }
}

impl RowForm {
    fn read(&self, table: &TimeTable, items: &[Item]) -> Result<Block, String> {
        let item =
            items.iter().find(|i| i.id == self.what).ok_or(say!("It is no longer in the list: choose another."))?;
        let amount =
            if self.amount.is_empty() { item.usual } else { within(&self.amount, 0.0, MOST_AMOUNT, &item.per)? };
        let all = f64::from(table.hours);
        let from = if self.from.is_empty() { 0.0 } else { hour(&self.from, table, None)? };
        let until = if self.until.is_empty() { all } else { hour(&self.until, table, Some(from))? };
        match () {
            () if from >= all => Err(say!("It begins after the end, {clock}.", clock = clock(table, all))),
            () if until <= from => Err(say!("It ends before it begins.").into()),
            () if until > all + 1e-9 => Err(say!("It ends after the end, {clock}.", clock = clock(table, all))),
            () => Ok(Block { what: self.what.clone(), amount, from, until }),
        }
    }
}

fn within(typed: &str, low: f64, high: f64, what: &str) -> Result<f64, String> {
    let x = plain_number(typed).map_err(|e| e.said(typed))?;
    if (low..=high).contains(&x) {
        Ok(x)
    } else {
        Err(say!("{low} to {high} {what}.", low = significant(low), high = significant(high), what))
    }
}

fn temperature(c: f64) -> Result<f64, String> {
    Temperature::new(c).map(Temperature::get).map_err(|e| e.to_string()).and_then(|c| {
        if (-40.0..=60.0).contains(&c) { Ok(c) } else { Err(say!("A space is between −40 and 60 °C.").into()) }
    })
}

fn humidity(typed: &str) -> Result<f64, String> {
    let bare = typed.trim_end_matches('%').trim();
    let rh = plain_number(bare).map_err(|e| e.said(bare))?;
    RelativeHumidity::new(rh).map(RelativeHumidity::get).map_err(|e| e.to_string())
}

fn volume(typed: &str, show: &Show) -> Result<f64, String> {
    let [low, high] = VOLUMES;
    match VOLUME.parse(typed, show.units)? {
        v if (low..=high).contains(&v) => Ok(v),
        _ => Err(say!("{low} to {high}.", low = VOLUME.text(low, show.units), high = VOLUME.text(high, show.units))),
    }
}

/// Hour and minute of a clock, as hours.
fn time(typed: &str) -> Option<f64> {
    let (h, m) = typed.split_once(':').unwrap_or((typed, "0"));
    let (h, m) = (h.parse::<u32>().ok()?, m.parse::<u32>().ok()?);
    (h <= 24 && m < 60 && h * 60 + m <= 1440).then(|| f64::from(h) + f64::from(m) / 60.0)
}

fn begins(typed: &str) -> Result<f64, String> {
    match time(typed) {
        Some(t) if t < 24.0 && t.fract() == 0.0 => Ok(t),
        _ => Err(say!("A whole hour by the clock: 18:00.").into()),
    }
}

/// A moment typed as `2 07:30`, `07:30` (the next such time after `after`, or after the beginning) or `+5`: hours since the beginning, to
/// a quarter.
fn hour(typed: &str, table: &TimeTable, after: Option<f64>) -> Result<f64, String> {
    let wrong = || say!("“{typed}” is no time: 2 07:30 is half past seven of the second day.", typed);
    let begins = f64::from(table.begins);
    let at = if let Some(hours) = typed.strip_prefix('+') {
        plain_number(hours).map_err(|_| wrong())?
    } else {
        match typed.split_once(char::is_whitespace) {
            Some((day, clock)) => {
                let day = day.parse::<u16>().ok().filter(|d| (1..=16).contains(d)).ok_or_else(wrong)?;
                f64::from(day - 1) * 24.0 + time(clock.trim()).ok_or_else(wrong)? - begins
            }
            None => {
                let since = time(typed).ok_or_else(wrong)? - begins;
                let least = after.map_or(0.0, |a| a + 0.01);
                since + 24.0 * ((least - since) / 24.0).ceil().max(0.0)
            }
        }
    };
    if at < 0.0 {
        return Err(say!("It begins before the beginning, {clock}.", clock = clock(table, 0.0)));
    }
    Ok((at * 4.0).round() / 4.0)
}

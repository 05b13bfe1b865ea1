//! What is compared, as asked for: a space, what happened, two spans.

use building::MarkKind;
use casework::CaseFile;
use casework::proof::LONGEST;
use chrono::{DateTime, Days, NaiveDate, NaiveTime, Utc};
use judgment::plan::fix;
use language::say;
use notation::Show;
use notation::number::plain_number;
use serde::Deserialize;
use store::LogMark;
use uuid::Uuid;

/// Days on each side where nobody says.
const USUAL: u64 = 28;
/// Smallest change worth naming, Pa, where nobody says.
const LEAST: f64 = 50.0;
/// Most of it.
const MOST: f64 = 2000.0;
/// Most things that happened to choose from, the newest ones.
const MOST_SPLITS: usize = 12;
/// A step done within so many days of what happened is the one that is proven.
const NEAR: i64 = 7;

/// What is compared, as typed.
#[derive(Deserialize, Default, Clone)]
#[serde(default)]
pub struct View {
    pub space: Option<Uuid>,
    /// What happened: a mark’s or visit’s id, or the id of a fix that was done.
    pub at: String,
    pub before_from: String,
    pub before_until: String,
    pub after_from: String,
    pub after_until: String,
    pub least: String,
}

impl View {
    /// Whether any day was typed.
    pub fn typed(&self) -> bool {
        [&self.before_from, &self.before_until, &self.after_from, &self.after_until].iter().any(|t| !t.is_empty())
    }
}

/// Something that happened, to part the spans at.
pub struct Split {
    pub key: String,
    pub at: DateTime<Utc>,
    pub name: String,
}

/// Everything that happened in a space, what was marked first, then steps of the plan, then visits; each the newest first.
pub fn happened(file: &CaseFile, marks: &[LogMark], space: Uuid, show: &Show) -> Vec<Split> {
    let here = |m: &&LogMark| m.kind == MarkKind::Event && m.space_id.is_none_or(|s| s == space);
    let named = |m: &LogMark| {
        let what = if m.what.is_empty() { say!("a mark") } else { &m.what };
        Split { key: m.id.to_string(), at: m.from_at, name: format!("{what}, {}", show.day(m.from_at)) }
    };
    let mut marked: Vec<Split> = marks.iter().filter(here).map(named).collect();
    let step = |(at, id): (DateTime<Utc>, &str)| {
        let name = &fix(id)?.name;
        Some(Split { key: id.to_owned(), at, name: format!("{name}, {}", show.day(at)) })
    };
    let mut steps: Vec<Split> = file.steps_done().into_iter().filter_map(step).collect();
    marked.sort_by_key(|s| std::cmp::Reverse(s.at));
    steps.sort_by_key(|s| std::cmp::Reverse(s.at));
    // Visits come the newest first; nothing was before the first one.
    let before_last = file.visits.len().saturating_sub(1);
    let visits = file.visits[..before_last].iter().map(|v| Split {
        key: v.id.to_string(),
        at: v.started_at,
        name: say!("visit of {started_at}", started_at = show.day(v.started_at)),
    });
    marked.into_iter().chain(steps).chain(visits).take(MOST_SPLITS).collect()
}

/// The step of the plan that is proven: the one asked for, or one done about then.
pub fn proven<'a>(file: &'a CaseFile, asked: &str, parted: DateTime<Utc>) -> Option<&'a str> {
    let steps = file.steps_done();
    let near = |(at, _): &&(DateTime<Utc>, &str)| (*at - parted).num_days().abs() <= NEAR;
    let own = steps.iter().find(|(_, id)| *id == asked);
    own.or_else(|| steps.iter().filter(near).min_by_key(|(at, _)| (*at - parted).abs())).map(|(_, id)| *id)
}

/// The spans a view asks for; what cannot be read is noted.
pub fn spans(
    view: &mut View,
    show: &Show,
    parted: DateTime<Utc>,
    now: DateTime<Utc>,
    wrong: &mut Vec<(&'static str, String)>,
) -> Option<[[DateTime<Utc>; 2]; 2]> {
    let day = show.today(parted);
    let today = show.today(now);
    let usual = [
        day.checked_sub_days(Days::new(USUAL)),
        Some(day),
        day.checked_add_days(Days::new(1)),
        day.checked_add_days(Days::new(USUAL + 1)).map(|d| d.min(today.checked_add_days(Days::new(1)).unwrap_or(d))),
    ];
    let typed = [&mut view.before_from, &mut view.before_until, &mut view.after_from, &mut view.after_until];
    let names = ["before_from", "before_until", "after_from", "after_until"];
    let mut found = Vec::new();
    for ((text, usual), name) in typed.into_iter().zip(usual).zip(names) {
        if text.trim().is_empty() {
            *text = usual.map_or_else(String::new, |d| d.to_string());
        }
        match text.trim().parse::<NaiveDate>() {
            Ok(date) => found.push(date),
            Err(_) => wrong.push((name, say!("A day: 2026-03-14.").into())),
        }
    }
    let [a, b, c, d] = <[NaiveDate; 4]>::try_from(found).ok()?;
    if a >= b {
        wrong.push(("before_until", say!("The span ends before it begins.").into()));
    }
    if c >= d {
        wrong.push(("after_until", say!("The span ends before it begins.").into()));
    }
    if c < b {
        wrong.push(("after_from", say!("The spans overlap: a day is either before or after.").into()));
    }
    if (b - a).num_days() > LONGEST || (d - c).num_days() > LONGEST {
        wrong.push(("before_from", say!("A span has {longest} days at most.", longest = LONGEST)));
    }
    let at = |date: NaiveDate| show.instant(date.and_time(NaiveTime::MIN));
    if wrong.is_empty() { Some([[at(a)?, at(b)?], [at(c)?, at(d)?]]) } else { None }
}

pub fn least(view: &View) -> Result<f64, String> {
    let typed = view.least.trim();
    if typed.is_empty() {
        return Ok(LEAST);
    }
    match plain_number(typed).map_err(|e| e.said(typed))? {
        p if (0.0..=MOST).contains(&p) => Ok(p),
        _ => Err(say!("0 to {most} Pa.", most = MOST)),
    }
}

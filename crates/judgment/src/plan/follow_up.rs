//! What is looked at again, and when.

use super::Situation;
use super::table::among;
use building::Climate;
use serde::Deserialize;
use std::sync::LazyLock;

/// A day, counted from 1 January 1970: the core has no calendar of its own.
pub type Day = i64;

/// Something to be looked at again.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct FollowUp {
    /// Stable id.
    pub id: String,
    /// In plain words.
    pub name: String,
    /// What else to know.
    pub note: String,
    every: Option<i64>,
    at: Option<Rhythm>,
    until: Option<i64>,
    #[serde(default)]
    fixes: Vec<String>,
    #[serde(default)]
    found: Vec<String>,
    #[serde(default)]
    on: Vec<String>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
enum Rhythm {
    Seasons,
    SpringAutumn,
    ColdSpell,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct File {
    follow_up: Vec<FollowUp>,
}

#[allow(clippy::expect_used, reason = "the table is compiled in and read by a test")]
static FOLLOW_UPS: LazyLock<Vec<FollowUp>> = LazyLock::new(|| {
    toml::from_str::<File>(include_str!("../../data/follow_ups.toml"))
        .expect("follow_ups.toml is well formed")
        .follow_up
});

/// Every follow-up.
#[must_use]
pub fn follow_ups() -> &'static [FollowUp] {
    &FOLLOW_UPS
}

/// The follow-up with this id.
#[must_use]
pub fn follow_up(id: &str) -> Option<&'static FollowUp> {
    FOLLOW_UPS.iter().find(|f| f.id == id)
}

impl FollowUp {
    /// Whether it belongs to a plan.
    #[must_use]
    pub fn belongs(&self, s: &Situation) -> bool {
        let here = among(&self.on, s.case.structure);
        let asked = self.fixes.iter().any(|f| s.plan.contains(f.as_str())) || self.found.iter().any(|f| s.case.has(f));
        here && (asked || (self.fixes.is_empty() && self.found.is_empty()))
    }

    /// How often, in words.
    #[must_use]
    pub fn rhythm(&self) -> String {
        let once = self.until.zip(self.every).is_some_and(|(until, every)| until < 2 * every);
        match (self.at, self.every) {
            (Some(Rhythm::Seasons), _) => "at each change of season".into(),
            (Some(Rhythm::SpringAutumn), _) => "spring and autumn".into(),
            (Some(Rhythm::ColdSpell), _) => "in the next cold or hot spell".into(),
            (None, Some(7)) if once => "once, after a week".into(),
            (None, Some(7)) => "weekly".into(),
            (None, Some(30)) => "monthly".into(),
            (None, Some(90)) => "quarterly".into(),
            (None, Some(365)) => "yearly".into(),
            (None, Some(days)) => format!("every {} years", (days + 182) / 365),
            (None, None) => "once".into(),
        }
    }

    /// The next day it is due after a day, `begun` being the day the plan was made; `None` when it has ended. `year_day`
    /// tells the day of the year (0 to 365) of a day.
    #[must_use]
    pub fn next(&self, begun: Day, after: Day, climate: Climate, year_day: impl Fn(Day) -> i64) -> Option<Day> {
        let due = match (self.at, self.every) {
            (Some(rhythm), _) => {
                let starts = rhythm.starts(climate);
                // A rhythm of the calendar is not asked for within a month of the last time.
                (after + 30..after + 400).find(|d| starts.contains(&year_day(*d)))?
            }
            (None, every) => after + every?,
        };
        self.until.is_none_or(|until| due <= begun + until).then_some(due)
    }
}

impl Rhythm {
    /// Days of the year on which it falls: the first days of March, June, September and December for the seasons; a cold
    /// spell is looked for in January, in hot climates a hot one in July.
    const fn starts(self, climate: Climate) -> &'static [i64] {
        match (self, climate) {
            (Self::Seasons, _) => &[59, 151, 243, 334],
            (Self::SpringAutumn, _) => &[104, 304],
            (Self::ColdSpell, Climate::HotHumid | Climate::HotDry) => &[195],
            (Self::ColdSpell, _) => &[14],
        }
    }
}

//! Seasons in which a space was known before and after.

use chrono::{DateTime, Datelike, NaiveDate, Utc};
use hygrothermal::proof::ProofDay;

building::kinds! {
    /// A quarter of the year.
    Season {
        /// December to February.
        Winter = "winter", "winter";
        /// March to May.
        Spring = "spring", "spring";
        /// June to August.
        Summer = "summer", "summer";
        /// September to November.
        Autumn = "autumn", "autumn";
    }
}

/// So many days tell of a season (ours: two weeks).
const TELL: usize = 14;

impl Season {
    fn of(month0: u32) -> Self {
        match (month0 + 1) % 12 / 3 {
            0 => Self::Winter,
            1 => Self::Spring,
            2 => Self::Summer,
            _ => Self::Autumn,
        }
    }

    /// The next day it begins on after a day.
    #[must_use]
    pub fn next(self, after: NaiveDate) -> Option<NaiveDate> {
        let month = match self {
            Self::Winter => 12,
            Self::Spring => 3,
            Self::Summer => 6,
            Self::Autumn => 9,
        };
        let this = NaiveDate::from_ymd_opt(after.year(), month, 1)?;
        if this > after { Some(this) } else { NaiveDate::from_ymd_opt(after.year() + 1, month, 1) }
    }
}

/// Seasons known before and after.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Seasons {
    /// With at least two weeks before.
    pub before: Vec<Season>,
    /// And after.
    pub after: Vec<Season>,
}

impl Seasons {
    /// Of days before and after.
    #[must_use]
    pub fn of(days: [&[ProofDay]; 2]) -> Self {
        let told = |days: &[ProofDay]| {
            let of = |d: &ProofDay| DateTime::<Utc>::from_timestamp(d.at * 86_400, 0).map(|t| Season::of(t.month0()));
            let enough = |s: &&Season| days.iter().filter(|d| of(d) == Some(**s)).count() >= TELL;
            Season::ALL.iter().filter(enough).copied().collect()
        };
        Self { before: told(days[0]), after: told(days[1]) }
    }

    /// Those to be logged yet: known before, or in which the trouble shows, and not since.
    #[must_use]
    pub fn missing(&self, trouble: &[Season]) -> Vec<Season> {
        let wanted = |s: &&Season| (self.before.contains(s) || trouble.contains(s)) && !self.after.contains(s);
        Season::ALL.iter().filter(wanted).copied().collect()
    }
}

/// Seasons in which trouble shows, by what was said on the call.
#[must_use]
pub fn trouble(said: &[String]) -> Vec<Season> {
    let says = |id: &str| said.iter().any(|s| s == id);
    let mut all = Vec::new();
    if says("in_cold") || says("frost_drips") {
        all.push(Season::Winter);
    }
    if says("in_humid_season") {
        all.push(Season::Summer);
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_season_begins_on_its_first_day_and_two_weeks_tell_of_it() {
        let day = |text: &str| text.parse::<NaiveDate>().unwrap_or_default();
        assert_eq!(Season::Winter.next(day("2026-11-30")), Some(day("2026-12-01")));
        assert_eq!(Season::Winter.next(day("2026-12-01")), Some(day("2027-12-01")));
        let of = |from: &str, n: i64| -> Vec<ProofDay> {
            let first = day(from).signed_duration_since(NaiveDate::default()).num_days();
            (0..n).map(|i| ProofDay { at: first + i, excess: 0.0, outdoor_t: 0.0, outdoor_p: 0.0 }).collect()
        };
        let (before, after) = (of("2026-05-18", 28), of("2026-09-01", 13));
        let known = Seasons::of([&before, &after]);
        assert_eq!((known.before.as_slice(), known.after.as_slice()), (&[Season::Spring, Season::Summer][..], &[][..]));
        assert_eq!(known.missing(&[Season::Winter]), [Season::Winter, Season::Spring, Season::Summer]);
    }
}

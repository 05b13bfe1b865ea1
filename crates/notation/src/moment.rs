//! Moments and days as a person reads them, in their time zone.

use crate::show::Show;
use chrono::{DateTime, NaiveDate, NaiveDateTime, Utc};
use jiff::tz::TimeZone;
use language::spoken;

/// Months as shown, in the language spoken.
#[must_use]
pub fn months() -> [&'static str; 12] {
    std::array::from_fn(|i| spoken().month(i))
}

/// Whether a name is an IANA time zone.
#[must_use]
pub fn is_time_zone(name: &str) -> bool {
    TimeZone::get(name).is_ok()
}

/// `July 14, 2026`, in the language spoken.
#[must_use]
pub fn day(date: NaiveDate) -> String {
    spoken().day(date)
}

impl Show {
    fn zoned(&self, at: DateTime<Utc>) -> jiff::Zoned {
        let stamp = jiff::Timestamp::from_millisecond(at.timestamp_millis()).unwrap_or(jiff::Timestamp::UNIX_EPOCH);
        stamp.to_zoned(self.zone.clone())
    }

    /// The moment a clock of this zone showed; `None` for a time that cannot be.
    #[must_use]
    pub fn instant(&self, clock: NaiveDateTime) -> Option<DateTime<Utc>> {
        let local: jiff::civil::DateTime = clock.format("%Y-%m-%dT%H:%M:%S").to_string().parse().ok()?;
        let zoned = local.to_zoned(self.zone.clone()).ok()?;
        DateTime::from_timestamp_millis(zoned.timestamp().as_millisecond())
    }

    /// The day it is here.
    #[must_use]
    pub fn today(&self, now: DateTime<Utc>) -> NaiveDate {
        let zoned = self.zoned(now).date();
        NaiveDate::from_ymd_opt(zoned.year().into(), zoned.month() as u32, zoned.day() as u32)
            .unwrap_or(now.date_naive())
    }

    /// `July 14, 2026`, in the language spoken.
    #[must_use]
    pub fn day(&self, at: DateTime<Utc>) -> String {
        spoken().day(self.today(at))
    }

    /// `14:31`.
    #[must_use]
    pub fn clock(&self, at: DateTime<Utc>) -> String {
        self.zoned(at).strftime("%H:%M").to_string()
    }

    /// The hour of the clock, 0–23.
    #[must_use]
    pub fn hour(&self, at: DateTime<Utc>) -> u32 {
        u32::try_from(self.zoned(at).hour()).unwrap_or(0)
    }

    /// The month, 1–12.
    #[must_use]
    pub fn month(&self, at: DateTime<Utc>) -> u32 {
        u32::try_from(self.zoned(at).month()).unwrap_or(1)
    }

    /// `July 14, 2026, 14:31`.
    #[must_use]
    pub fn moment(&self, at: DateTime<Utc>) -> String {
        format!("{}, {}", self.day(at), self.clock(at))
    }

    /// `Jul 14`: where the year is plain.
    #[must_use]
    pub fn short_day(&self, at: DateTime<Utc>) -> String {
        spoken().short_day(self.today(at))
    }

    /// Local time with its offset, for files.
    #[must_use]
    pub fn stamp(&self, at: DateTime<Utc>) -> String {
        self.zoned(at).strftime("%Y-%m-%dT%H:%M:%S%:z").to_string()
    }

    /// The zone's name as printed beside times.
    #[must_use]
    pub fn zone_name(&self) -> String {
        self.zone.iana_name().unwrap_or("UTC").to_owned()
    }
}

#[cfg(test)]
#[allow(clippy::disallowed_macros, reason = "tests")]
mod tests {
    use super::*;
    use crate::unit::Units;
    use language::{Language, aloud};

    #[test]
    fn moments_are_local_across_daylight_saving() {
        let show = Show::new(Units::Metric, "Europe/Paris");
        let at = |s: &str| s.parse::<DateTime<Utc>>().unwrap_or_default();
        assert_eq!(show.moment(at("2026-07-14T12:31:00Z")), "July 14, 2026, 14:31");
        assert_eq!(show.moment(at("2026-01-14T12:31:00Z")), "January 14, 2026, 13:31");
        aloud(Language::Spanish, || {
            assert_eq!(show.moment(at("2026-01-14T12:31:00Z")), "14 de enero de 2026, 13:31");
            assert_eq!((show.temperature(-12.44), months()[11]), ("−12,4 °C".into(), "diciembre"));
        });
    }
}

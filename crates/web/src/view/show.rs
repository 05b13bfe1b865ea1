//! Numbers and moments as a person reads them: their units, their time zone, always with unit and band.

use calculator::unit::{self, Kind};
use chrono::{DateTime, NaiveDate, NaiveDateTime, Utc};
use hygrothermal::quantity::Measured;
use jiff::tz::TimeZone;
use judgement::entry::Units;
use store::Instrument;

/// Whether a name is an IANA time zone.
#[must_use]
pub fn is_time_zone(name: &str) -> bool {
    TimeZone::get(name).is_ok()
}

/// A person's units and time zone.
#[derive(Clone, Debug)]
pub struct Show {
    pub units: Units,
    zone: TimeZone,
}

/// Rounds to `digits`, with a true minus sign and never a negative zero.
fn fixed(x: f64, digits: usize) -> String {
    let text = format!("{x:.digits$}");
    let zero = text.trim_start_matches('-').chars().all(|c| c == '0' || c == '.');
    if zero { text.trim_start_matches('-').to_owned() } else { text.replace('-', "−") }
}

/// A figure with as many digits as carry meaning: 0.42, 4.2, 42.
fn figure(x: f64) -> String {
    let digits = if x.abs() < 0.995 { 2 } else { usize::from(x.abs() < 9.95) };
    fixed(x, digits)
}

impl Show {
    /// An unknown zone shows UTC.
    pub fn new(units: Units, zone: &str) -> Self {
        Self { units, zone: TimeZone::get(zone).unwrap_or(TimeZone::UTC) }
    }

    fn us(&self) -> bool {
        self.units == Units::Us
    }

    pub fn temperature_unit(&self) -> &'static str {
        if self.us() { "°F" } else { "°C" }
    }

    /// A temperature's figure without its unit.
    pub fn degrees(&self, celsius: f64) -> String {
        fixed(self.scale(celsius), 1)
    }

    /// °C on this person's scale.
    pub fn scale(&self, celsius: f64) -> f64 {
        if self.us() { celsius * 1.8 + 32.0 } else { celsius }
    }

    /// A difference's figure without its unit.
    pub fn span(&self, kelvin: f64) -> String {
        fixed(if self.us() { kelvin * 1.8 } else { kelvin }, 1)
    }

    pub fn temperature(&self, celsius: f64) -> String {
        format!("{} {}", self.degrees(celsius), self.temperature_unit())
    }

    /// `20.0 ± 0.7 °C`.
    pub fn temperature_band(&self, m: Measured) -> String {
        format!("{} ± {} {}", self.degrees(m.value), self.span(m.err), self.temperature_unit())
    }

    /// A difference of temperatures, in a unit that cannot be read as a temperature.
    pub fn difference(&self, kelvin: f64) -> String {
        format!("{} {}", self.span(kelvin), self.difference_unit())
    }

    /// The same behind a plus-minus sign, which says already that it is one.
    pub fn spread(&self, kelvin: f64) -> String {
        format!("± {} {}", self.span(kelvin), if self.us() { "°F" } else { "K" })
    }

    /// `K` or `°F difference`.
    pub fn difference_unit(&self) -> &'static str {
        if self.us() { "°F difference" } else { "K" }
    }

    /// `−1.4 ± 0.9 K`.
    pub fn difference_band(&self, m: Measured) -> String {
        format!("{} ± {} {}", self.span(m.value), self.span(m.err), self.difference_unit())
    }

    /// A vapor pressure difference with its band, without a sign.
    pub fn pressure_band(&self, m: Measured) -> String {
        let (value, err) = (self.pressure(m.value), self.pressure(m.err));
        let bare = value.split(' ').next().unwrap_or_default();
        format!("{bare} ± {err}")
    }

    /// A humidity ratio, from kg/kg.
    pub fn humidity_ratio(&self, ratio: f64) -> String {
        if self.us() {
            format!("{} gr/lb", fixed(ratio * 7000.0, 0))
        } else {
            format!("{} g/kg", fixed(ratio * 1000.0, 1))
        }
    }

    /// A figure in this person's unit to fixed digits.
    fn rounded(&self, kind: &Kind, si: f64, digits: usize) -> String {
        format!("{} {}", fixed(kind.shown(si, self.units), digits), kind.unit(self.units).name)
    }

    pub fn area(&self, m2: f64) -> String {
        self.rounded(&unit::AREA, m2, 0)
    }

    pub fn length(&self, m: f64) -> String {
        self.rounded(&unit::LENGTH, m, 1)
    }

    pub fn volume(&self, m3: f64) -> String {
        self.rounded(&unit::VOLUME, m3, 0)
    }

    /// Accuracy of an instrument: K air, % RH, K surface.
    pub fn accuracy(&self, i: &Instrument) -> String {
        let (air, surface) = (self.spread(i.air_err_k), self.spread(i.surface_err_k));
        let wood = if i.wood_err_pct > 0.0 { format!(", ± {} % wood", i.wood_err_pct) } else { String::new() };
        format!("{air} air, ± {} % RH, {surface} surface{wood}", i.rh_err_pct)
    }

    pub fn percent(&self, x: f64) -> String {
        format!("{} %", fixed(x, 0))
    }

    /// Water a day.
    pub fn daily(&self, liters: f64) -> String {
        unit::DAILY.text(liters, self.units)
    }

    fn water(&self, litres: f64) -> f64 {
        unit::DAILY.shown(litres, self.units)
    }

    fn water_unit(&self) -> &'static str {
        unit::DAILY.unit(self.units).name
    }

    pub fn water_per_day(&self, litres: f64) -> String {
        format!("{} {}", figure(self.water(litres)), self.water_unit())
    }

    /// `2 to 5 L/day`.
    pub fn water_range(&self, low: f64, high: f64) -> String {
        format!("{} to {} {}", figure(self.water(low)), figure(self.water(high)), self.water_unit())
    }

    /// A vapor pressure difference with its sign.
    pub fn pressure_difference(&self, pa: f64) -> String {
        let sign = if pa > 0.0 { "+" } else { "" };
        let digits = if self.us() { 3 } else { 0 };
        format!("{sign}{}", self.rounded(&unit::PRESSURE, pa, digits))
    }

    pub fn pressure(&self, pa: f64) -> String {
        self.pressure_difference(pa).trim_start_matches('+').to_owned()
    }

    pub fn airflow(&self, m3_s: f64) -> String {
        format!("{} {}", figure(unit::FLOW.shown(m3_s, self.units)), unit::FLOW.unit(self.units).name)
    }

    pub fn resistance(&self, m2k_w: f64) -> String {
        let figure = figure(unit::RESISTANCE.shown(m2k_w, self.units));
        if self.us() { format!("R-{figure}") } else { format!("R {figure} m²K/W") }
    }

    fn zoned(&self, at: DateTime<Utc>) -> jiff::Zoned {
        let stamp = jiff::Timestamp::from_millisecond(at.timestamp_millis()).unwrap_or(jiff::Timestamp::UNIX_EPOCH);
        stamp.to_zoned(self.zone.clone())
    }

    /// The moment a clock of this zone showed; `None` for a time that cannot be.
    pub fn instant(&self, clock: NaiveDateTime) -> Option<DateTime<Utc>> {
        let local: jiff::civil::DateTime = clock.format("%Y-%m-%dT%H:%M:%S").to_string().parse().ok()?;
        let zoned = local.to_zoned(self.zone.clone()).ok()?;
        DateTime::from_timestamp_millis(zoned.timestamp().as_millisecond())
    }

    /// The day it is here.
    pub fn today(&self, now: DateTime<Utc>) -> NaiveDate {
        let zoned = self.zoned(now).date();
        NaiveDate::from_ymd_opt(zoned.year().into(), zoned.month() as u32, zoned.day() as u32)
            .unwrap_or(now.date_naive())
    }

    /// `14 July 2026`.
    pub fn day(&self, at: DateTime<Utc>) -> String {
        self.zoned(at).strftime("%-d %B %Y").to_string()
    }

    /// `14:31`.
    pub fn clock(&self, at: DateTime<Utc>) -> String {
        self.zoned(at).strftime("%H:%M").to_string()
    }

    /// `14 July 2026, 14:31`.
    pub fn moment(&self, at: DateTime<Utc>) -> String {
        format!("{}, {}", self.day(at), self.clock(at))
    }

    /// Local time with its offset, for files.
    pub fn stamp(&self, at: DateTime<Utc>) -> String {
        self.zoned(at).strftime("%Y-%m-%dT%H:%M:%S%:z").to_string()
    }

    /// The zone's name as printed beside times.
    pub fn zone_name(&self) -> String {
        self.zone.iana_name().unwrap_or("UTC").to_owned()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_unit_systems_show_the_same_thing() {
        let (metric, us) = (Show::new(Units::Metric, "UTC"), Show::new(Units::Us, "UTC"));
        assert_eq!(metric.temperature(18.6), "18.6 °C");
        assert_eq!(us.temperature(18.6), "65.5 °F");
        // A difference scales without the 32: 1.4 K is 2.5 °F.
        assert_eq!(us.difference_band(Measured { value: -1.4, err: 0.5 }), "−2.5 ± 0.9 °F difference");
        assert_eq!(metric.water_per_day(24.2), "24 L/day");
        assert_eq!(us.water_per_day(24.2), "51 pint/day");
        assert_eq!(us.resistance(1.0), "R-5.7");
        assert_eq!(metric.degrees(-0.04), "0.0");
    }

    #[test]
    fn moments_are_local_across_daylight_saving() {
        let show = Show::new(Units::Metric, "Europe/Paris");
        let at = |s: &str| s.parse::<DateTime<Utc>>().unwrap_or_default();
        assert_eq!(show.moment(at("2026-07-14T12:31:00Z")), "14 July 2026, 14:31");
        assert_eq!(show.moment(at("2026-01-14T12:31:00Z")), "14 January 2026, 13:31");
    }
}

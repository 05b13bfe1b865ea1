//! Quantities as a person reads them: in their units, always with unit and band.

use crate::number::{brief, fixed, without_zeros};
use crate::unit::{self, Kind, Units};
use hygrothermal::quantity::Measured;
use jiff::tz::TimeZone;
use language::say;

/// A person's units and time zone.
#[derive(Clone, Debug)]
pub struct Show {
    /// Unit system.
    pub units: Units,
    pub(crate) zone: TimeZone,
}

impl Show {
    /// For a person’s units and IANA time zone; an unknown zone shows UTC.
    #[must_use]
    pub fn new(units: Units, zone: &str) -> Self {
        Self { units, zone: TimeZone::get(zone).unwrap_or(TimeZone::UTC) }
    }

    fn us(&self) -> bool {
        self.units == Units::Us
    }

    /// `°C` or `°F`.
    #[must_use]
    pub fn temperature_unit(&self) -> &'static str {
        if self.us() { "°F" } else { "°C" }
    }

    /// A temperature's figure without its unit.
    #[must_use]
    pub fn degrees(&self, celsius: f64) -> String {
        fixed(self.scale(celsius), 1)
    }

    /// °C on this person's scale.
    #[must_use]
    pub fn scale(&self, celsius: f64) -> f64 {
        if self.us() { celsius * 1.8 + 32.0 } else { celsius }
    }

    /// A difference's figure without its unit.
    #[must_use]
    pub fn span(&self, kelvin: f64) -> String {
        fixed(if self.us() { kelvin * 1.8 } else { kelvin }, 1)
    }

    /// `12.4 °C`, from °C.
    #[must_use]
    pub fn temperature(&self, celsius: f64) -> String {
        format!("{} {}", self.degrees(celsius), self.temperature_unit())
    }

    /// `20.0 ± 0.7 °C`.
    #[must_use]
    pub fn temperature_band(&self, m: Measured) -> String {
        format!("{} ± {} {}", self.degrees(m.value), self.span(m.err), self.temperature_unit())
    }

    /// A difference of temperatures, in a unit that cannot be read as a temperature.
    #[must_use]
    pub fn difference(&self, kelvin: f64) -> String {
        format!("{} {}", self.span(kelvin), self.difference_unit())
    }

    /// The same behind a plus-minus sign, which says already that it is one.
    #[must_use]
    pub fn spread(&self, kelvin: f64) -> String {
        format!("± {} {}", self.span(kelvin), if self.us() { "°F" } else { "K" })
    }

    /// `K` or `°F difference`.
    #[must_use]
    pub fn difference_unit(&self) -> &'static str {
        if self.us() { "°F difference" } else { "K" }
    }

    /// `−1.4 ± 0.9 K`.
    #[must_use]
    pub fn difference_band(&self, m: Measured) -> String {
        format!("{} ± {} {}", self.span(m.value), self.span(m.err), self.difference_unit())
    }

    /// A vapor pressure difference with its band, without a sign.
    #[must_use]
    pub fn pressure_band(&self, m: Measured) -> String {
        let (value, err) = (self.pressure(m.value), self.pressure(m.err));
        let bare = value.split(' ').next().unwrap_or_default();
        format!("{bare} ± {err}")
    }

    /// A humidity ratio, from kg/kg.
    #[must_use]
    pub fn humidity_ratio(&self, ratio: f64) -> String {
        let (figure, unit) =
            if self.us() { (fixed(ratio * 7000.0, 0), "gr/lb") } else { (fixed(ratio * 1000.0, 1), "g/kg") };
        format!("{figure} {unit}")
    }

    /// A figure in this person's unit to fixed digits.
    fn rounded(&self, kind: &Kind, si: f64, digits: usize) -> String {
        format!("{} {}", fixed(kind.shown(si, self.units), digits), kind.unit(self.units).name())
    }

    /// `24 m²`, from m².
    #[must_use]
    pub fn area(&self, m2: f64) -> String {
        self.rounded(&unit::AREA, m2, 0)
    }

    /// `2.4 m`, from m.
    #[must_use]
    pub fn length(&self, m: f64) -> String {
        self.rounded(&unit::LENGTH, m, 1)
    }

    /// `1.35 m`, from m: to the hand's width, without empty decimals.
    #[must_use]
    pub fn place(&self, m: f64) -> String {
        let shown = unit::LENGTH.shown(m, self.units);
        format!("{} {}", without_zeros(format!("{shown:.2}")), unit::LENGTH.unit(self.units).name())
    }

    /// `60 m³`, from m³.
    #[must_use]
    pub fn volume(&self, m3: f64) -> String {
        self.rounded(&unit::VOLUME, m3, 0)
    }

    /// `81 %`.
    #[must_use]
    pub fn percent(&self, x: f64) -> String {
        format!("{} %", fixed(x, 0))
    }

    /// Water a day.
    #[must_use]
    pub fn daily(&self, liters: f64) -> String {
        unit::DAILY.text(liters, self.units)
    }

    fn water(&self, liters: f64) -> f64 {
        unit::DAILY.shown(liters, self.units)
    }

    fn water_unit(&self) -> &'static str {
        unit::DAILY.unit(self.units).name()
    }

    /// `4.2 L/day`, from liters a day.
    #[must_use]
    pub fn water_per_day(&self, liters: f64) -> String {
        format!("{} {}", brief(self.water(liters)), self.water_unit())
    }

    /// `2 to 5 L/day`.
    #[must_use]
    pub fn water_range(&self, low: f64, high: f64) -> String {
        let [low, high] = [low, high].map(|l| brief(self.water(l)));
        say!("{low} to {high} {unit}", low, high, unit = self.water_unit())
    }

    /// A vapor pressure difference with its sign.
    #[must_use]
    pub fn pressure_difference(&self, pa: f64) -> String {
        let sign = if pa > 0.0 { "+" } else { "" };
        let digits = if self.us() { 3 } else { 0 };
        format!("{sign}{}", self.rounded(&unit::PRESSURE, pa, digits))
    }

    /// `120 Pa`, from Pa.
    #[must_use]
    pub fn pressure(&self, pa: f64) -> String {
        self.pressure_difference(pa).trim_start_matches('+').to_owned()
    }

    /// `12 L/s`, from m³/s.
    #[must_use]
    pub fn airflow(&self, m3_s: f64) -> String {
        format!("{} {}", brief(unit::FLOW.shown(m3_s, self.units)), unit::FLOW.unit(self.units).name())
    }

    /// `R 2.1 m²K/W` or `R-12`, from m²K/W.
    #[must_use]
    pub fn resistance(&self, m2k_w: f64) -> String {
        let figure = brief(unit::RESISTANCE.shown(m2k_w, self.units));
        if self.us() { format!("R-{figure}") } else { format!("R {figure} m²K/W") }
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
        assert_eq!(us.water_per_day(24.2), "51 pints/day");
        assert_eq!(us.resistance(1.0), "R-5.7");
        assert_eq!(metric.degrees(-0.04), "0.0");
    }
}

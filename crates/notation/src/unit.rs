//! Units at the edge: one table says how each kind of figure is typed, printed and turned into the SI of the core.

use crate::number::{decimals_for, fixed, read, short, significant, without_zeros};
use language::{known, say};

/// A person's unit system; entry accepts either at any time.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Units {
    /// °C, L, m.
    #[default]
    Metric,
    /// °F, pints, feet.
    Us,
}

impl Units {
    /// The id used in storage and forms.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::Metric => "metric",
            Self::Us => "us",
        }
    }
}

/// One unit of a kind: SI = factor · figure + offset.
#[derive(Debug)]
pub struct Unit {
    name: &'static str,
    factor: f64,
    offset: f64,
    /// Decimals printed; `None` prints three significant figures.
    decimals: Option<usize>,
    /// Other ways to type it, lower case.
    typed: &'static [&'static str],
}

impl Unit {
    /// As printed, in the language spoken.
    #[must_use]
    pub fn name(&self) -> &'static str {
        known(self.name)
    }
}

/// A kind of figure: the units it can be typed in, and the ones the two systems show.
#[derive(Debug)]
pub struct Kind {
    units: &'static [Unit],
    metric: usize,
    us: usize,
}

const fn unit(name: &'static str, factor: f64, decimals: Option<usize>, typed: &'static [&'static str]) -> Unit {
    Unit { name, factor, offset: 0.0, decimals, typed }
}

const fn both(units: &'static [Unit]) -> Kind {
    Kind { units, metric: 0, us: 0 }
}

const fn pair(units: &'static [Unit]) -> Kind {
    Kind { units, metric: 0, us: 1 }
}

const FT: f64 = 0.3048;
const INCH: f64 = 0.0254;
const PINT: f64 = 0.473_176_473;
const GALLON: f64 = 3.785_411_784;
const POUND: f64 = 0.453_592_37;
const DAY: f64 = 86_400.0;
const CFM: f64 = FT * FT * FT / 60.0;
const GRAIN_PER_FT2: f64 = 0.064_798_91 / (FT * FT);

/// °C and °F.
pub static TEMPERATURE: Kind = pair(&[
    unit("°C", 1.0, Some(1), &["c"]),
    Unit { name: "°F", factor: 1.0 / 1.8, offset: -32.0 / 1.8, decimals: Some(1), typed: &["f"] },
]);
/// Differences of temperature.
pub static DIFFERENCE: Kind =
    pair(&[unit("K", 1.0, Some(1), &["c", "k"]), unit("°F difference", 1.0 / 1.8, Some(1), &["f", "°f"])]);
/// Per cent.
pub static PERCENT: Kind = both(&[unit("%", 1.0, Some(1), &[])]);
/// Shares given from 0 to 1, shown as per cent.
pub static SHARE: Kind = both(&[unit("%", 0.01, Some(0), &[])]);
/// Plain figures.
pub static NUMBER: Kind = both(&[unit("", 1.0, None, &[])]);
/// Emissivity and other figures from 0 to 1.
pub static FRACTION: Kind = both(&[unit("", 1.0, Some(2), &[])]);
/// Vapor and air pressure.
pub static PRESSURE: Kind = pair(&[
    unit("Pa", 1.0, Some(0), &[]),
    unit("inHg", 3386.389, Some(3), &[]),
    unit("hPa", 100.0, None, &["mbar"]),
    unit("kPa", 1000.0, None, &[]),
]);
/// Lengths in meters and feet.
pub static LENGTH: Kind = pair(&[
    unit("m", 1.0, None, &[]),
    unit("ft", FT, None, &["'"]),
    unit("cm", 0.01, None, &[]),
    unit("mm", 0.001, None, &[]),
    unit("in", INCH, None, &["\"", "inch"]),
]);
/// Thicknesses and diameters.
pub static THICKNESS: Kind = pair(&[
    unit("mm", 0.001, None, &[]),
    unit("in", INCH, None, &["\"", "inch"]),
    unit("cm", 0.01, None, &[]),
    unit("m", 1.0, None, &[]),
]);
/// Rain, kept in millimeters.
pub static RAIN: Kind = pair(&[unit("mm", 1.0, Some(0), &[]), unit("in", INCH * 1000.0, Some(2), &["\"", "inch"])]);
/// Floor areas.
pub static AREA: Kind = pair(&[unit("m²", 1.0, None, &["m2"]), unit("ft²", FT * FT, None, &["ft2", "sqft"])]);
/// Net free areas.
pub static FREE_AREA: Kind = pair(&[
    unit("cm²", 1e-4, Some(0), &["cm2"]),
    unit("in²", INCH * INCH, Some(0), &["in2"]),
    unit("m²", 1.0, None, &["m2"]),
    unit("ft²", FT * FT, None, &["ft2"]),
]);
/// Volumes of spaces.
pub static VOLUME: Kind = pair(&[unit("m³", 1.0, None, &["m3"]), unit("ft³", FT * FT * FT, None, &["ft3"])]);
/// Airflows.
pub static FLOW: Kind = pair(&[
    unit("L/s", 0.001, None, &[]),
    unit("cfm", CFM, None, &[]),
    unit("m³/h", 1.0 / 3600.0, None, &["m3/h"]),
    unit("m³/s", 1.0, None, &["m3/s"]),
]);
/// Moisture given off, kept in kg/s.
pub static SOURCE: Kind = pair(&[
    unit("L/day", 1.0 / DAY, None, &[]),
    unit("pints/day", PINT / DAY, None, &["pint/day"]),
    unit("g/h", 1e-3 / 3600.0, None, &[]),
    unit("kg/s", 1.0, None, &[]),
]);
/// Water a day, kept in L/day.
pub static DAILY: Kind = pair(&[unit("L/day", 1.0, None, &[]), unit("pints/day", PINT, None, &["pint/day"])]);
/// Amounts to mix, kept in liters.
pub static LITERS: Kind = pair(&[unit("L", 1.0, None, &[]), unit("gal", GALLON, None, &[])]);
/// Small amounts of water, kept in milliliters.
pub static MILLILITERS: Kind = pair(&[unit("mL", 1.0, None, &[]), unit("fl oz", GALLON * 1000.0 / 128.0, None, &[])]);
/// Thermal resistance.
pub static RESISTANCE: Kind =
    pair(&[unit("m²K/W", 1.0, None, &["m2k/w"]), unit("R (US)", FT * FT * 3600.0 / (1.8 * 1055.056), None, &["r"])]);
/// Thermal conductivity.
pub static CONDUCTIVITY: Kind = pair(&[
    unit("W/(m·K)", 1.0, None, &["w/mk"]),
    unit("Btu·in/(h·ft²·°F)", 1055.056 * INCH * 1.8 / (3600.0 * FT * FT), None, &["btu"]),
]);
/// Thermal transmittance.
pub static TRANSMITTANCE: Kind =
    pair(&[unit("W/(m²K)", 1.0, None, &[]), unit("Btu/(h·ft²·°F)", 1055.056 * 1.8 / (3600.0 * FT * FT), None, &[])]);
/// Vapor diffusion thickness: meters of still air in both systems.
pub static STILL_AIR: Kind = both(&[unit("m", 1.0, None, &[]), unit("ft", FT, None, &[])]);
/// Mass of a sheet.
pub static AREAL_MASS: Kind =
    pair(&[unit("kg/m²", 1.0, None, &["kg/m2"]), unit("lb/ft²", POUND / (FT * FT), None, &["lb/ft2"])]);
/// Specific heat.
pub static HEAT: Kind =
    pair(&[unit("J/(kg·K)", 1.0, None, &["j/kgk"]), unit("Btu/(lb·°F)", 4186.8, None, &["btu/lbf"])]);
/// Spans of time.
pub static HOURS: Kind = both(&[unit("h", 1.0, None, &[]), unit("days", 24.0, None, &["d", "day"])]);
/// Short spans of time.
pub static MINUTES: Kind = both(&[unit("min", 1.0, None, &[]), unit("h", 60.0, None, &[])]);
/// Long spans of time.
pub static DAYS: Kind = both(&[unit("days", 1.0, Some(1), &["d", "day"])]);
/// Energy in a year.
pub static YEARLY_ENERGY: Kind = both(&[unit("kWh a year", 1.0, Some(0), &["kwh"])]);
/// Water taken out for energy.
pub static EFFICIENCY: Kind = pair(&[unit("L/kWh", 1.0, None, &["l/kwh"]), unit("pint/kWh", PINT, None, &[])]);
/// Drying rate.
pub static PER_DAY: Kind = both(&[unit("per day", 1.0, None, &[])]);
/// Area a liter covers.
pub static SPREAD: Kind =
    pair(&[unit("m²/L", 1.0, None, &["m2/l"]), unit("ft²/gal", FT * FT / GALLON, Some(0), &["ft2/gal"])]);
/// Humidity ratio, kept in g/kg.
pub static RATIO: Kind = pair(&[unit("g/kg", 1.0, None, &[]), unit("gr/lb", 1.0 / 7.0, None, &[])]);
/// Vapor in a volume, kept in g/m³.
pub static ABSOLUTE: Kind =
    pair(&[unit("g/m³", 1.0, None, &[]), unit("gr/ft³", 0.064_798_91 / (FT * FT * FT), None, &[])]);
/// Enthalpy of moist air; the US scale begins with dry air at 0 °F.
pub static ENTHALPY: Kind = pair(&[
    unit("kJ/kg", 1.0, Some(1), &[]),
    Unit { name: "Btu/lb", factor: 2.326, offset: -17.884_444, decimals: Some(1), typed: &[] },
]);
/// Density of air.
pub static DENSITY: Kind =
    pair(&[unit("kg/m³", 1.0, Some(3), &[]), unit("lb/ft³", POUND / (FT * FT * FT), Some(4), &[])]);
/// Density of materials.
pub static DENSITY_OF_SOLIDS: Kind =
    pair(&[unit("kg/m³", 1.0, Some(0), &[]), unit("lb/ft³", POUND / (FT * FT * FT), Some(1), &[])]);
/// Water collecting on a plane in a day, kept in g/m².
pub static GAIN_RATE: Kind =
    pair(&[unit("g/m² a day", 1.0, None, &[]), unit("gr/ft² a day", GRAIN_PER_FT2, None, &[])]);
/// Water held by a plane, kept in g/m².
pub static GAIN: Kind = pair(&[unit("g/m²", 1.0, Some(0), &[]), unit("gr/ft²", GRAIN_PER_FT2, Some(0), &[])]);

/// A number cannot be read: in words for the person who typed it.
pub type Unreadable = String;

impl Kind {
    /// The unit a system shows.
    #[must_use]
    pub fn unit(&self, units: Units) -> &'static Unit {
        &self.units[if units == Units::Us { self.us } else { self.metric }]
    }

    /// The figure in a system's unit.
    #[must_use]
    pub fn shown(&self, si: f64, units: Units) -> f64 {
        let unit = self.unit(units);
        (si - unit.offset) / unit.factor
    }

    /// SI from a figure in a system's unit: the inverse of [`Kind::shown`].
    #[must_use]
    pub fn si(&self, figure: f64, units: Units) -> f64 {
        let unit = self.unit(units);
        unit.factor * figure + unit.offset
    }

    /// `12.4`.
    #[must_use]
    pub fn figure(&self, si: f64, units: Units) -> String {
        print(self.shown(si, units), self.unit(units).decimals)
    }

    /// `12.4 °C`.
    #[must_use]
    pub fn text(&self, si: f64, units: Units) -> String {
        self.with_unit(self.figure(si, units), units)
    }

    /// `12.4 ± 0.9 °C`; `err` is a difference in SI. Where the unit has no decimals of its own the band says how many
    /// figures mean something: two of its own.
    #[must_use]
    pub fn band(&self, si: f64, err: f64, units: Units) -> String {
        let unit = self.unit(units);
        let err = err / unit.factor.abs();
        let own = unit.decimals.unwrap_or_else(|| (decimals_for(err) as i32 - 2).clamp(0, 6) as usize);
        let (value, err) = (print(self.shown(si, units), Some(own)), print(err, Some(own)));
        self.with_unit(format!("{value} ± {err}"), units)
    }

    fn with_unit(&self, figure: String, units: Units) -> String {
        match self.unit(units).name() {
            "" => figure,
            name => format!("{figure} {name}"),
        }
    }

    /// A figure as one would type it: exact enough to come back the same.
    #[must_use]
    pub fn typed(&self, si: f64, units: Units) -> String {
        let figure = self.shown(si, units);
        let digits = decimals_for(figure).max(self.unit(units).decimals.unwrap_or(0)) + 2;
        let text = without_zeros(format!("{figure:.digits$}"));
        if text == "-0" { "0".into() } else { text }
    }

    /// Reads a number with or without a unit behind it; without one, `units` says which.
    ///
    /// # Errors
    /// What to change, when it is no number or has a unit that does not belong to it.
    pub fn parse(&self, text: &str, units: Units) -> Result<f64, Unreadable> {
        let typed = read(text).map_err(|e| e.said(text))?;
        if typed.unit.is_empty() {
            return Ok(self.si(typed.figure, units));
        }
        let rest = typed.unit.to_lowercase();
        let bare = |name: &str| name.trim_start_matches('°').to_lowercase();
        let named =
            |u: &&Unit| [u.name, u.name()].iter().any(|name| bare(name) == rest) || u.typed.contains(&rest.as_str());
        match self.units.iter().find(named) {
            Some(unit) => Ok(unit.factor * typed.figure + unit.offset),
            None => Err(say!("“{short}”: the unit must be {units}.", short = short(text), units = self.names())),
        }
    }

    fn names(&self) -> String {
        let names: Vec<&str> = self.units.iter().map(Unit::name).filter(|n| !n.is_empty()).collect();
        if names.is_empty() { say!("left out").into() } else { names.join(", ") }
    }
}

/// A number in a unit's own decimals, or to three significant figures.
fn print(x: f64, decimals: Option<usize>) -> String {
    decimals.map_or_else(|| significant(x), |decimals| fixed(x, decimals))
}

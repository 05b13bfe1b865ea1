//! Typed temperatures and humidities: `64F`, `18.2`, `18,2 °C`, `78%`.

use crate::reading::{AirValue, Collected};
use hygrothermal::air::{AirError, MoistAir, Over, saturation_rh};
use hygrothermal::quantity::{MoistureContent, Pressure, RelativeHumidity, ScaleReading, Temperature};
use language::{retold, say};
use notation::Units;
use notation::number::{NoNumber, read, short};
use std::fmt;

/// Which field of an entry an error belongs to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Field {
    /// Air temperature.
    Temperature,
    /// Relative humidity, dew point or wet bulb.
    Humidity,
    /// Surface temperature.
    Surface,
}

/// Why an entry cannot be taken, in words for the person who typed it.
#[derive(Debug, Clone, PartialEq)]
pub struct EntryError {
    /// Where.
    pub field: Field,
    /// What to change.
    pub message: String,
}

/// How the moisture of the air was read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Humidity {
    /// Relative humidity, %.
    #[default]
    Rh,
    /// Dew point.
    Dew,
    /// Wet bulb.
    Wet,
}

impl Humidity {
    /// Every way, in the order offered.
    pub const ALL: [Self; 3] = [Self::Rh, Self::Dew, Self::Wet];

    /// The id used in storage and forms.
    #[must_use]
    pub const fn id(self) -> &'static str {
        match self {
            Self::Rh => "rh",
            Self::Dew => "dew",
            Self::Wet => "wet",
        }
    }

    /// Plain words.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Rh => "relative humidity",
            Self::Dew => "dew point",
            Self::Wet => "wet bulb",
        }
    }

    /// The way with this id.
    #[must_use]
    pub fn from_id(id: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|h| h.id() == id)
    }
}

/// Limits of what a building's air or surface can show, °C: beyond them the typing is wrong, not the building.
const COLDEST: f64 = -70.0;
const HOTTEST: f64 = 110.0;
/// A dew point this far above the air is an instrument's scatter; beyond it the two fields are swapped, K (ours).
const DEW_SCATTER: f64 = 3.0;
/// A number as typed, with the unit that stood behind it.
struct Typed {
    value: f64,
    unit: Option<char>,
}

fn number(text: &str, field: Field, what: &str, example: &str) -> Result<Typed, EntryError> {
    let error = |message: String| EntryError { field, message };
    let unreadable = || {
        error(say!(
            "“{short}” is not a number. The {what} is written like {example}.",
            short = short(text),
            what,
            example
        ))
    };
    let typed = read(text).map_err(|e| match e {
        NoNumber::Empty => error(say!("Enter the {what}, for example {example}.", what, example)),
        NoNumber::TooLong(length) => error(say!(
            "The {what} is {length} characters long; a reading has a few. For example {example}.",
            what,
            length,
            example
        )),
        NoNumber::Words => unreadable(),
    })?;
    let unit = match typed.unit {
        "" => None,
        "C" | "c" => Some('C'),
        "F" | "f" => Some('F'),
        "%" => Some('%'),
        _ => return Err(unreadable()),
    };
    Ok(Typed { value: typed.figure, unit })
}

/// A temperature in either unit; `units` says which when none is typed.
///
/// # Errors
/// [`EntryError`] when it is no number, carries a percent sign, or lies outside −70 to 110 °C.
pub fn parse_temperature(text: &str, units: Units, field: Field, what: &str) -> Result<Temperature, EntryError> {
    let example = if units == Units::Us { "64.5" } else { "18.2" };
    let typed = number(text, field, what, example)?;
    let fahrenheit = match typed.unit {
        Some('%') => {
            return Err(EntryError { field, message: say!("The {what} is a temperature, not percent.", what) });
        }
        Some('F') => true,
        Some(_) => false,
        None => units == Units::Us,
    };
    let celsius = if fahrenheit { (typed.value - 32.0) / 1.8 } else { typed.value };
    match Temperature::new(celsius) {
        Ok(t) if (COLDEST..=HOTTEST).contains(&celsius) => Ok(t),
        _ => Err(EntryError { field, message: limits(what, typed.value, fahrenheit) }),
    }
}

fn limits(what: &str, got: f64, fahrenheit: bool) -> String {
    if fahrenheit {
        let (low, high) = (COLDEST * 1.8 + 32.0, HOTTEST * 1.8 + 32.0);
        say!(
            "The {what} must be {low} to {high} °F, got {got}.",
            what,
            low = format_args!("{:.0}", low),
            high = format_args!("{:.0}", high),
            got
        )
    } else {
        say!("The {what} must be {low} to {high} °C, got {got}.", what, low = COLDEST, high = HOTTEST, got)
    }
}

/// Air as entered: raw values in SI and the value judged, before any instrument correction.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirEntry {
    /// Raw air temperature, °C.
    pub raw_t: f64,
    /// How moisture was read.
    pub humidity: Humidity,
    /// Raw moisture: % for RH, °C for dew point and wet bulb.
    pub raw_humidity: f64,
    /// What it amounts to.
    pub value: AirValue,
    /// The dew point typed lies above the air temperature, which only the raw values show.
    pub dew_above_air: Option<DewAboveAir>,
}

/// A dew point typed above the air temperature, within an instrument's scatter: it counts as saturated.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DewAboveAir {
    /// Dew point entered, °C.
    pub dew: f64,
    /// Air temperature entered, °C.
    pub air: f64,
}

/// Air temperature with relative humidity, dew point or wet bulb. `correct` takes a raw RH to the corrected one.
///
/// # Errors
/// One [`EntryError`] per field that cannot be taken.
pub fn parse_air(
    temperature: &str,
    moisture: &str,
    humidity: Humidity,
    units: Units,
    over: Over,
    correct: impl Fn(f64) -> f64,
) -> Result<AirEntry, Vec<EntryError>> {
    let t = parse_temperature(temperature, units, Field::Temperature, say!("air temperature"));
    let m = match humidity {
        Humidity::Rh => parse_rh(moisture).map(|rh| (rh, None)),
        Humidity::Dew | Humidity::Wet => {
            parse_temperature(moisture, units, Field::Humidity, humidity.words()).map(|x| (x.get(), Some(x)))
        }
    };
    let (t, (raw_humidity, second)) = match (t, m) {
        (Ok(t), Ok(m)) => (t, m),
        (t, m) => return Err([t.err(), m.err()].into_iter().flatten().collect()),
    };
    let found = match second {
        // A positive offset may lift a reading near saturation past 100 %: the air is then saturated, the raw value kept.
        None => Ok((correct(raw_humidity).clamp(0.0, 100.0), None)),
        Some(second) => from_temperatures(t, second, humidity, over),
    };
    let (rh, dew_above_air) = found.map_err(|e| vec![e])?;
    let rh = RelativeHumidity::new(rh).map_err(|e| vec![humidity_error(e.to_string())])?;
    Ok(AirEntry { raw_t: t.get(), humidity, raw_humidity, value: AirValue { t, rh, over }, dew_above_air })
}

fn humidity_error(message: String) -> EntryError {
    EntryError { field: Field::Humidity, message }
}

fn parse_rh(text: &str) -> Result<f64, EntryError> {
    let typed = number(text, Field::Humidity, say!("relative humidity"), "81")?;
    if matches!(typed.unit, Some('C' | 'F')) {
        return Err(humidity_error(
            say!("Relative humidity is in percent; choose dew point or wet bulb to enter a temperature.").into(),
        ));
    }
    if !(0.0..=100.0).contains(&typed.value) {
        return Err(humidity_error(say!("Relative humidity must be 0 to 100 %, got {got}.", got = typed.value)));
    }
    Ok(typed.value)
}

/// RH that a dew point or wet bulb amounts to, and whether the dew point lay above the air.
fn from_temperatures(
    t: Temperature,
    second: Temperature,
    humidity: Humidity,
    over: Over,
) -> Result<(f64, Option<DewAboveAir>), EntryError> {
    let state = if humidity == Humidity::Dew {
        MoistAir::from_dew_point(t, second, Pressure::STANDARD)
    } else {
        MoistAir::from_wet_bulb(t, second, Pressure::STANDARD)
    };
    match state {
        Ok(air) => Ok((air.rh(over).min(100.0), None)),
        Err(AirError::DewAboveAir { dew, air }) if dew - air <= DEW_SCATTER => {
            Ok((saturation_rh(t, over), Some(DewAboveAir { dew, air })))
        }
        Err(AirError::DewAboveAir { .. }) => Err(humidity_error(say!(
            "A dew point more than {most} K above the air temperature cannot be: are the two swapped?",
            most = DEW_SCATTER
        ))),
        Err(AirError::WetBulbAboveAir { .. }) => {
            Err(humidity_error(say!("The wet bulb cannot be warmer than the air: are the two swapped?").into()))
        }
        Err(AirError::WetBulbTooLow { .. }) => {
            Err(humidity_error(say!("The wet bulb is lower than perfectly dry air would show.").into()))
        }
        Err(e) => Err(humidity_error(format!("{e}."))),
    }
}

/// What a meter showed: wood moisture in percent, or a relative scale of 0 to 1000.
fn parse_shown(text: &str, what: &str, example: &str, high: f64) -> Result<f64, EntryError> {
    let typed = number(text, Field::Surface, what, example)?;
    let message = match typed.unit {
        Some('C' | 'F') => say!("The {what} is no temperature.", what),
        _ if !(0.0..=high).contains(&typed.value) => {
            say!("The {what} must be 0 to {high}, got {got}.", what, high, got = typed.value)
        }
        _ => return Ok(typed.value),
    };
    Err(EntryError { field: Field::Surface, message })
}

/// Wood moisture as a pin meter showed it, %.
///
/// # Errors
/// [`EntryError`] when it is no number, a temperature, or lies outside 0 to 100 %.
pub fn parse_moisture(text: &str) -> Result<MoistureContent, EntryError> {
    let shown = parse_shown(text, say!("wood moisture"), "17.5", 100.0)?;
    MoistureContent::new(shown).map_err(|e| EntryError { field: Field::Surface, message: retold(&format!("{e}.")) })
}

/// A reading of a relative scale.
///
/// # Errors
/// [`EntryError`] when it is no number, carries a unit, or lies outside 0 to 1000.
pub fn parse_scale(text: &str) -> Result<ScaleReading, EntryError> {
    let message = say!("A relative scale has no unit, least of all percent.").into();
    if text.contains('%') {
        return Err(EntryError { field: Field::Surface, message });
    }
    let shown = parse_shown(text, say!("relative reading"), "320", 1000.0)?;
    ScaleReading::new(shown).map_err(|e| EntryError { field: Field::Surface, message: retold(&format!("{e}.")) })
}

/// Liters a dehumidifier collected and the hours it ran.
///
/// # Errors
/// One [`EntryError`] per figure that is no number or out of range: 0 to 500 L, more than 0 to 2000 h.
pub fn parse_water(liters: &str, hours: &str) -> Result<Collected, Vec<EntryError>> {
    let figure = |text: &str, field, what: &str, example: &str, high: f64| {
        let typed = number(text, field, what, example)?;
        match typed.unit {
            None if (0.0..=high).contains(&typed.value) => Ok(typed.value),
            None => Err(EntryError {
                field,
                message: say!("The {what} must be 0 to {high}, got {got}.", what, high, got = typed.value),
            }),
            Some(_) => Err(EntryError { field, message: say!("The {what} are a plain figure.", what) }),
        }
    };
    let l = figure(liters, Field::Temperature, say!("liters collected"), "3.2", 500.0);
    let h = figure(hours, Field::Humidity, say!("hours run"), "24", 2000.0).and_then(|h| {
        let message = say!("It must have run for some time.").to_owned();
        if h > 0.0 { Ok(h) } else { Err(EntryError { field: Field::Humidity, message }) }
    });
    match (l, h) {
        (Ok(liters), Ok(hours)) => Ok(Collected { liters, hours }),
        (l, h) => Err([l.err(), h.err()].into_iter().flatten().collect()),
    }
}

/// A surface temperature.
///
/// # Errors
/// As [`parse_temperature`].
pub fn parse_surface(text: &str, units: Units) -> Result<Temperature, EntryError> {
    parse_temperature(text, units, Field::Surface, say!("surface temperature"))
}

impl fmt::Display for EntryError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)
    }
}

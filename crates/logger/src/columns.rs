//! What a column reads, by its name and unit, and by its figures where those say nothing.

use serde::{Deserialize, Serialize};
use std::sync::LazyLock;

/// What a column reads, named as in the headless interface.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Reads {
    /// Date and time.
    At,
    /// The date.
    Date,
    /// The time of day.
    Time,
    /// The name of the sensor.
    Channel,
    /// Air temperature, °C.
    TC,
    /// Relative humidity, %.
    RhPct,
    /// Dew point, °C.
    DewC,
    /// Temperature of a surface, °C.
    SurfaceC,
    /// Outdoor temperature, °C.
    OutdoorTC,
    /// Outdoor relative humidity, %.
    OutdoorRhPct,
    /// Wood moisture content, %.
    McPct,
    /// A meter's own scale.
    Rel,
    /// Air pressure, Pa.
    PPa,
    /// Rain, mm.
    RainMm,
    /// Water collected, L.
    Liters,
    /// Electric power, W.
    PowerW,
    /// Known, and not used.
    None,
}

impl Reads {
    /// Whether it is a reading rather than when or where.
    #[must_use]
    pub const fn is_value(self) -> bool {
        !matches!(self, Self::At | Self::Date | Self::Time | Self::Channel | Self::None)
    }

    /// Whether it is a temperature.
    #[must_use]
    pub const fn is_temperature(self) -> bool {
        matches!(self, Self::TC | Self::DewC | Self::SurfaceC | Self::OutdoorTC)
    }

    /// Whether it is a relative humidity.
    #[must_use]
    pub const fn is_humidity(self) -> bool {
        matches!(self, Self::RhPct | Self::OutdoorRhPct)
    }
}

/// A column of a file.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Column {
    /// As the file names it.
    pub name: String,
    /// What it reads; `None` for one that is kept and not used.
    pub reads: Option<Reads>,
    /// Its unit as understood; empty for none.
    pub unit: String,
    /// The sensor's name; empty where there is only one.
    pub channel: String,
}

#[derive(Deserialize)]
struct Table {
    kind: Vec<Kind>,
    outdoors: Words,
    units: std::collections::BTreeMap<String, Vec<String>>,
}

#[derive(Deserialize)]
struct Kind {
    reads: Reads,
    words: Vec<String>,
    /// Whether the word must be the whole name.
    #[serde(default)]
    whole: bool,
}

#[derive(Deserialize)]
struct Words {
    words: Vec<String>,
}

#[allow(clippy::expect_used, reason = "a table of ours, read in a test")]
static TABLE: LazyLock<Table> =
    LazyLock::new(|| toml::from_str(include_str!("../data/columns.toml")).expect("columns.toml"));

/// Where a word begins in a name; the beginning of a name or of a word in it.
fn begins(name: &str, word: &str) -> Option<usize> {
    let mut from = 0;
    while let Some(at) = name[from..].find(word).map(|i| from + i) {
        let before = name[..at].chars().next_back();
        let is_mark = word.chars().next().is_some_and(|c| !c.is_alphanumeric());
        if before.is_none_or(|c| !c.is_alphabetic()) || is_mark {
            return Some(at);
        }
        from = at + word.len();
    }
    None
}

/// The unit a name or a line of units states, of those that what is read can have.
fn unit(reads: Reads, name: &str, below: &str) -> String {
    let key = match reads {
        r if r.is_temperature() => "t_c",
        Reads::RhPct | Reads::OutdoorRhPct => "rh_pct",
        Reads::McPct => "mc_pct",
        Reads::PPa => "p_pa",
        Reads::RainMm => "rain_mm",
        Reads::Liters => "liters",
        Reads::PowerW => "power_w",
        _ => return String::new(),
    };
    let units = TABLE.units.get(key).map(Vec::as_slice).unwrap_or_default();
    let alone = |text: &str, u: &str| {
        let text = text.to_lowercase();
        let mut from = 0;
        while let Some(at) = text[from..].find(u).map(|i| from + i) {
            let free = |c: Option<char>| c.is_none_or(|c| !c.is_alphanumeric() && c != '°');
            if free(text[..at].chars().next_back()) && free(text[at + u.len()..].chars().next()) {
                return true;
            }
            from = at + u.len();
        }
        false
    };
    let found = units.iter().find(|u| alone(below, u)).or_else(|| units.iter().find(|u| alone(name, u)));
    found.map(|u| plain(key, u)).unwrap_or_default()
}

/// A unit as it is shown.
fn plain(key: &str, unit: &str) -> String {
    match (key, unit) {
        ("t_c", u) if u.contains('f') || u == "℉" => "°F".into(),
        ("t_c", "k" | "kelvin") => "K".into(),
        ("t_c", _) => "°C".into(),
        ("p_pa", "inhg") => "inHg".into(),
        ("p_pa", "mmhg") => "mmHg".into(),
        ("p_pa", "hpa" | "mbar") => "hPa".into(),
        ("p_pa", "kpa") => "kPa".into(),
        ("p_pa", "pa") => "Pa".into(),
        ("rain_mm", "in" | "inch" | "inches") => "in".into(),
        ("liters", "ml") => "mL".into(),
        ("liters", "pint" | "pints") => "pints".into(),
        ("liters", "gal") => "gal".into(),
        ("liters", _) => "L".into(),
        ("power_w", "kw") => "kW".into(),
        ("power_w", "w") => "W".into(),
        (_, u) => u.into(),
    }
}

/// What a column reads by its name and what stands below it, and the rest of the name: the sensor's.
pub fn by_name(name: &str, below: &str) -> (Option<Reads>, String, String) {
    // The headless interface's own names say what they are and in which unit.
    if let Ok(reads) = serde_json::from_value::<Reads>(name.into())
        && reads != Reads::None
    {
        let unit = match reads {
            r if r.is_temperature() => "°C",
            r if r.is_humidity() || r == Reads::McPct => "%",
            Reads::PPa => "Pa",
            Reads::RainMm => "mm",
            Reads::Liters => "L",
            Reads::PowerW => "W",
            _ => "",
        };
        return (Some(reads), unit.into(), String::new());
    }
    let small = name.to_lowercase();
    // Some languages write both in one word: what follows `Außen` begins a word too.
    let outdoors = TABLE.outdoors.words.iter().find(|w| small.contains(w.as_str()));
    let small = outdoors.map_or_else(|| small.clone(), |w| small.replace(w.as_str(), " "));
    let fits = |k: &&Kind| {
        let one = |w: &String| if k.whole { small.trim() == w } else { begins(&small, w).is_some() };
        k.words.iter().any(one)
    };
    let outdoors = outdoors.is_some();
    let by_word = TABLE.kind.iter().find(fits).map(|k| k.reads);
    let symbol = if by_word.is_none() { short(&small) } else { None };
    let last = if by_word.is_none() && symbol.is_none() { trailing(&small) } else { None };
    let said = by_word.or(symbol.map(|(reads, _)| reads)).or(last);
    // Where no word says it, the unit does; a letter that could be one says nothing in a name.
    let alone = |reads: Reads, name: &str| (!unit(reads, name, below).is_empty()).then_some(reads);
    let reads = said.or_else(|| alone(Reads::TC, "")).or_else(|| alone(Reads::RhPct, name));
    let reads = match reads {
        Some(Reads::TC) if outdoors => Some(Reads::OutdoorTC),
        Some(Reads::RhPct) if outdoors => Some(Reads::OutdoorRhPct),
        other => other,
    };
    let unit = reads.map(|r| unit(r, name, below)).unwrap_or_default();
    let named = match last {
        Some(_) => name.trim_end().rsplit_once(char::is_whitespace).map_or(name, |(sensor, _)| sensor),
        None => name.get(symbol.map_or(0, |(_, length)| length)..).unwrap_or(name),
    };
    let channel = if reads.is_some_and(Reads::is_value) { rest(named) } else { String::new() };
    (reads, unit, channel)
}

/// Names that are a symbol (`T`, `T1`, `Ti`, `RH`, `Tout`), and how long it is without the sensor's figure.
fn short(small: &str) -> Option<(Reads, usize)> {
    let head: String = small.chars().take_while(|c| c.is_alphanumeric() || *c == '_').collect();
    let letters = head.trim_end_matches(|c: char| c.is_ascii_digit()).trim_end_matches('_');
    let reads = match letters {
        "t" | "ta" | "ti" | "tin" | "t_in" | "tair" | "t_air" => Reads::TC,
        "te" | "to" | "tout" | "t_out" | "text" | "t_ext" => Reads::OutdoorTC,
        "ts" | "tsurf" | "t_surf" | "tsi" => Reads::SurfaceC,
        "td" | "tdew" | "t_dew" | "dp" => Reads::DewC,
        "h" | "rf" | "hr" | "ur" | "phi" => Reads::RhPct,
        "p" => Reads::PPa,
        _ => return None,
    };
    Some((reads, letters.len()))
}

/// A name whose last word is a symbol: `Cellar T`, `Beam rF`. Fewer are taken for one than where it stands first.
fn trailing(small: &str) -> Option<Reads> {
    let (_, last) = small.trim_end().rsplit_once(char::is_whitespace)?;
    match last {
        "t" | "ta" | "ti" => Some(Reads::TC),
        "te" => Some(Reads::OutdoorTC),
        "ts" | "tsi" => Some(Reads::SurfaceC),
        "td" => Some(Reads::DewC),
        "rf" | "hr" | "ur" | "phi" => Some(Reads::RhPct),
        _ => None,
    }
}

/// What is left of a name without what is read, its unit and marks around.
fn rest(name: &str) -> String {
    let mut left = name.to_owned();
    // What is said of the instrument in brackets is not its name.
    while let (Some(open), Some(close)) = (left.find(['(', '[']), left.find([')', ']'])) {
        if close < open {
            break;
        }
        left.replace_range(open..=close, " ");
    }
    let small = left.to_lowercase();
    let words = TABLE.kind.iter().filter(|k| k.reads.is_value()).flat_map(|k| &k.words).chain(&TABLE.outdoors.words);
    let mut gone = vec![false; small.len()];
    for word in words {
        if let Some(at) = begins(&small, word).filter(|_| small.len() == left.len()) {
            // The whole word it begins goes with it.
            let end =
                at + small[at..].find(|c: char| !(c.is_alphabetic() || word.contains(c))).unwrap_or(small.len() - at);
            gone[at..end].fill(true);
        }
    }
    let kept: String = left.char_indices().map(|(i, c)| if gone.get(i) == Some(&true) { ' ' } else { c }).collect();
    let marks = |c: char| c.is_whitespace() || matches!(c, ',' | ';' | ':' | '.' | '-' | '_' | '/' | '%' | '°' | '|');
    let said = |w: &str| {
        TABLE.units.values().flatten().any(|u| u == w) || ["rh", "air", "rel", "relative", "relativ"].contains(&w)
    };
    let is_word = |w: &&str| !said(w.to_lowercase().trim_matches(|c: char| marks(c) && c != '°' && c != '%'));
    kept.split_whitespace().filter(is_word).collect::<Vec<_>>().join(" ").trim_matches(marks).to_owned()
}

/// How a figure of a unit turns into the core's own.
pub fn turning(reads: Reads, unit: &str) -> fn(f64) -> f64 {
    match (reads, unit) {
        (r, "°F") if r.is_temperature() => |x| (x - 32.0) / 1.8,
        (r, "K") if r.is_temperature() => |x| x - 273.15,
        (r, "1") if r.is_humidity() || r == Reads::McPct => |x| 100.0 * x,
        (Reads::PPa, "hPa") => |x| 100.0 * x,
        (Reads::PPa, "kPa") => |x| 1000.0 * x,
        (Reads::PPa, "bar") => |x| 1e5 * x,
        (Reads::PPa, "inHg") => |x| 3386.389 * x,
        (Reads::PPa, "mmHg") => |x| 133.322_4 * x,
        (Reads::RainMm, "in") => |x| 25.4 * x,
        (Reads::Liters, "mL") => |x| x / 1000.0,
        (Reads::Liters, "gal") => |x| 3.785_412 * x,
        (Reads::Liters, "pints") => |x| 0.473_176 * x,
        (Reads::PowerW, "kW") => |x| 1000.0 * x,
        _ => |x| x,
    }
}

/// A unit behind a figure as it is shown; `None` for one that what is read cannot have.
pub fn behind(reads: Reads, text: &str) -> Option<String> {
    let unit = unit(reads, "", text);
    (!unit.is_empty()).then_some(unit)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn columns_are_known_in_several_languages() {
        let is = |name: &str| by_name(name, "");
        for (name, reads, unit, channel) in [
            ("Temperature (°C)", Reads::TC, "°C", ""),
            ("Celsius(°C)", Reads::TC, "°C", ""),
            ("Temp, °F (LGR S/N: 123, SEN S/N: 456)", Reads::TC, "°F", ""),
            ("Luftfeuchtigkeit [%]", Reads::RhPct, "%", ""),
            ("Humidité relative (%)", Reads::RhPct, "%", ""),
            ("Außentemperatur", Reads::OutdoorTC, "", ""),
            ("Dew Point(°C)", Reads::DewC, "°C", ""),
            ("Holzfeuchte %", Reads::McPct, "%", ""),
            ("Crawl Temperature °C", Reads::TC, "°C", "Crawl"),
            ("Attic RH %", Reads::RhPct, "%", "Attic"),
            ("Luftdruck hPa", Reads::PPa, "hPa", ""),
            ("Surface temperature north (°C)", Reads::SurfaceC, "°C", "north"),
            ("T", Reads::TC, "", ""),
            ("T2", Reads::TC, "", "2"),
            ("RH2", Reads::RhPct, "", "2"),
            ("Keller T", Reads::TC, "", "Keller"),
            ("Balken rF", Reads::RhPct, "", "Balken"),
            ("Außen T", Reads::OutdoorTC, "", ""),
            ("Loft [°F]", Reads::TC, "°F", "Loft"),
            ("Loft [%]", Reads::RhPct, "%", "Loft"),
        ] {
            assert_eq!(is(name), (Some(reads), unit.to_owned(), channel.to_owned()), "{name}");
        }
        assert_eq!(is("Battery (V)").0, Some(Reads::None));
        assert_eq!(is("Comment").0, None);
        assert_eq!(by_name("T1", "°F").1, "°F");
        assert_eq!(by_name("Cellar, by the door", "°C").0, Some(Reads::TC), "the line of units says it");
    }

    #[test]
    fn what_the_command_writes_it_reads() {
        for (name, reads, unit) in
            [("t_c", Reads::TC, "°C"), ("outdoor_rh_pct", Reads::OutdoorRhPct, "%"), ("power_w", Reads::PowerW, "W")]
        {
            assert_eq!(by_name(name, ""), (Some(reads), unit.to_owned(), String::new()));
        }
    }

    #[test]
    fn units_are_turned() {
        assert!((turning(Reads::TC, "°F")(68.0) - 20.0).abs() < 1e-9);
        assert!((turning(Reads::PPa, "inHg")(29.921) - 101_325.0).abs() < 10.0);
        assert!((turning(Reads::RhPct, "1")(0.55) - 55.0).abs() < 1e-9);
        assert!((turning(Reads::RainMm, "in")(1.0) - 25.4).abs() < 1e-9);
    }
}

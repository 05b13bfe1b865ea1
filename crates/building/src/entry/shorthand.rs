//! The shorthand line: `kitchen crawl 18.2 81`, `rim joist N s 12.5`, `out 9 72 ; rim S 11`.
//!
//! An entry is a station, then what was read; entries are separated by `;`. The station is given by the beginnings of
//! words of its own name or its space's name. What was read is either two figures (air temperature and relative
//! humidity; `dew` or `wet` before the second makes it that), or one figure: surface temperature, with or without `s`
//! before it; infrared with `ir`; wood moisture with `mc`; a relative scale with `rel`; airflow with `flow`; outdoors the
//! rain of two days with `rain`. Liters and hours of a dehumidifier follow `water`, and any words `note`. Ambiguity is answered with the choices, never guessed.

use super::typed::Humidity;
use crate::{Building, Place};
use hygrothermal::quantity::Temperature;
use uuid::Uuid;

/// One entry of a line, its station found, its figures still as typed.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Which station.
    pub station_id: Uuid,
    /// Which figures.
    pub reads: Reads,
}

/// Figures as typed.
#[derive(Debug, Clone, PartialEq)]
pub enum Reads {
    /// Air temperature and moisture.
    Air {
        /// As typed.
        temperature: String,
        /// As typed.
        moisture: String,
        /// What the second figure is.
        humidity: Humidity,
    },
    /// Surface temperature as typed.
    Surface(String),
    /// Wood moisture as typed, and the id of the wood; empty for the one usual here.
    Wood {
        /// As typed.
        moisture: String,
        /// Id of the wood.
        species: String,
        /// The wood's temperature where it is known already: a correction keeps the one it was read at.
        at: Option<Temperature>,
    },
    /// Reading of a relative scale as typed.
    Relative(String),
    /// Surface temperature by infrared: as shown, the surface's emissivity and the reflected temperature as typed; the
    /// usual ones where those are empty.
    Infrared {
        /// As typed.
        shown: String,
        /// Id of the kind of surface.
        emissivity: String,
        /// As typed.
        reflected: String,
    },
    /// Liters collected and hours run, as typed.
    Water {
        /// As typed.
        liters: String,
        /// As typed.
        hours: String,
    },
    /// Air moved, as typed.
    Airflow(String),
    /// Rain of the two days before, as typed.
    Rain(String),
    /// Words.
    Note(String),
}

/// Why an entry of a line cannot be taken; other entries of the line may still be good.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum LineError {
    /// No figure in it.
    NoFigure(String),
    /// No words before the figures.
    NoStation(String),
    /// A word that is not understood among the figures.
    Unknown(String),
    /// More or fewer figures than a reading has.
    WrongCount(String),
    /// No station fits the words.
    NotFound(String),
    /// Several stations fit; their ids in walking order.
    Ambiguous(String, Vec<Uuid>),
    /// More text than a line has.
    TooLong(usize),
}

/// Words between a station's name and its figures that say what was read.
const MARKERS: [&str; 6] = ["mc", "rel", "ir", "flow", "water", "rain"];

/// Longest line taken, characters.
const LONGEST: usize = 2000;

/// Parses every entry of a line; empty ones are skipped.
///
/// # Examples
/// ```
/// # use building::{Structure, blueprint};
/// # use building::entry::parse_line;
/// let house = blueprint(Structure::CrawlVented).unwrap().build(|| uuid::Uuid::nil());
/// let said = parse_line(&house, "out 9 72; nowhere 12");
/// assert!(said[0].is_ok() && said[1].is_err());
/// ```
#[must_use]
pub fn parse_line(building: &Building, text: &str) -> Vec<Result<Line, LineError>> {
    let length = text.chars().count();
    if length > LONGEST {
        return vec![Err(LineError::TooLong(length))];
    }
    text.split(';').map(str::trim).filter(|s| !s.is_empty()).map(|s| parse_entry(building, s)).collect()
}

fn is_figure(word: &str) -> bool {
    word.trim_start_matches(['-', '+', '−']).starts_with(|c: char| c.is_ascii_digit() || c == '.')
}

fn parse_entry(building: &Building, text: &str) -> Result<Line, LineError> {
    // A name in quotes is taken as it stands, figures and all.
    if let Some((name, rest)) = text.strip_prefix('"').and_then(|t| t.split_once('"')) {
        let figures: Vec<&str> = rest.split_whitespace().collect();
        return entry_of(building, &[name], &figures, text);
    }
    let words: Vec<&str> = text.split_whitespace().collect();
    if let Some(at) = words.iter().position(|w| w.eq_ignore_ascii_case("note")).filter(|at| *at > 0) {
        let said = words[at + 1..].join(" ");
        if said.is_empty() {
            return Err(LineError::WrongCount(text.to_owned()));
        }
        return find(building, &words[..at], &Reads::Note(said.clone()))
            .map(|station_id| Line { station_id, reads: Reads::Note(said) });
    }
    let first = words.iter().position(|w| is_figure(w)).ok_or_else(|| LineError::NoFigure(text.to_owned()))?;
    let (name, figures) = words.split_at(first);
    entry_of(building, name, figures, text)
}

/// An entry of a name and what stands behind it; a marker may end the one or begin the other.
fn entry_of(building: &Building, mut name: &[&str], mut figures: &[&str], text: &str) -> Result<Line, LineError> {
    let quoted = text.starts_with('"');
    let mut marker = None;
    if quoted {
        if let Some((first, rest)) = figures.split_first().filter(|(f, _)| !is_figure(f)) {
            (marker, figures) = (Some(*first), rest);
        }
    } else if let Some((last, before)) = name.split_last() {
        marker = Some(*last);
        if MARKERS.iter().any(|m| m.eq_ignore_ascii_case(last)) {
            name = before;
        }
    }
    if marker.is_some_and(|m| quoted && m.eq_ignore_ascii_case("note")) {
        let said = figures.join(" ");
        return find(building, name, &Reads::Note(said.clone()))
            .map(|station_id| Line { station_id, reads: Reads::Note(said) });
    }
    if figures.is_empty() {
        return Err(LineError::NoFigure(text.to_owned()));
    }
    let mut reads = figures_of(figures, text)?;
    if let Some(marker) = marker {
        let marked = match (marker.to_ascii_lowercase().as_str(), &reads) {
            ("mc", Reads::Surface(figure)) => {
                Some(Reads::Wood { moisture: figure.clone(), species: String::new(), at: None })
            }
            ("rel", Reads::Surface(figure)) => Some(Reads::Relative(figure.clone())),
            ("ir", Reads::Surface(figure)) => {
                Some(Reads::Infrared { shown: figure.clone(), emissivity: String::new(), reflected: String::new() })
            }
            ("flow", Reads::Surface(figure)) => Some(Reads::Airflow(figure.clone())),
            ("rain", Reads::Surface(figure)) => Some(Reads::Rain(figure.clone())),
            ("water", Reads::Air { temperature, moisture, .. }) => {
                Some(Reads::Water { liters: temperature.clone(), hours: moisture.clone() })
            }
            (marker, _) if MARKERS.contains(&marker) => return Err(LineError::WrongCount(text.to_owned())),
            _ if !quoted => None,
            ("s", Reads::Surface(_)) => None,
            (other, _) => return Err(LineError::Unknown(other.to_owned())),
        };
        reads = marked.unwrap_or(reads);
    }
    if name.is_empty() {
        return Err(LineError::NoStation(text.to_owned()));
    }
    find(building, name, &reads).map(|station_id| Line { station_id, reads })
}

fn figures_of(words: &[&str], text: &str) -> Result<Reads, LineError> {
    let mut figures = Vec::new();
    let mut humidity = Humidity::Rh;
    for word in words {
        match word.to_ascii_lowercase().as_str() {
            _ if is_figure(word) => figures.push((*word).to_owned()),
            "rh" => humidity = Humidity::Rh,
            "dew" => humidity = Humidity::Dew,
            "wet" => humidity = Humidity::Wet,
            "c" | "f" | "%" | "°c" | "°f" => match figures.last_mut() {
                Some(last) => last.push_str(word),
                None => return Err(LineError::Unknown((*word).to_owned())),
            },
            _ => return Err(LineError::Unknown((*word).to_owned())),
        }
    }
    match figures.as_slice() {
        [t] => Ok(Reads::Surface(t.clone())),
        [t, m] => Ok(Reads::Air { temperature: t.clone(), moisture: m.clone(), humidity }),
        _ => Err(LineError::WrongCount(text.to_owned())),
    }
}

/// The one station the words name. A last word `s` may be the marker for a surface or the beginning of a word such as
/// "south", so both are tried and a tie is an ambiguity; a capital `S` is the compass's where a station has one.
fn find(building: &Building, words: &[&str], reads: &Reads) -> Result<Uuid, LineError> {
    let surface = match reads {
        Reads::Air { .. } | Reads::Water { .. } | Reads::Airflow(_) | Reads::Rain(_) => Some(false),
        Reads::Note(_) => None,
        _ => Some(true),
    };
    let marked = matches!(reads, Reads::Surface(_)) && words.last().is_some_and(|w| w.eq_ignore_ascii_case("s"));
    let mut hits = matches(building, words, surface);
    let compass = words.last() == Some(&"S") && !hits.is_empty();
    if marked && words.len() > 1 && !compass {
        for hit in matches(building, &words[..words.len() - 1], surface) {
            if !hits.iter().any(|h| h.0 == hit.0) {
                hits.push(hit);
            }
        }
    }
    // A station whose own name carries every word beats one found through its space's name.
    let best = hits.iter().map(|(_, rank)| *rank).min();
    let kept: Vec<Uuid> = hits.iter().filter(|(_, rank)| Some(*rank) == best).map(|(id, _)| *id).collect();
    let said = || words.join(" ");
    match kept.as_slice() {
        [] if hits.is_empty() => Err(LineError::NotFound(said())),
        [one] => Ok(*one),
        _ => {
            let ids: Vec<Uuid> = building.stations.iter().map(|s| s.id).filter(|id| kept.contains(id)).collect();
            Err(LineError::Ambiguous(said(), ids))
        }
    }
}

/// Stations that fit every word, with a rank: 0 exact name, 1 own name alone, 2 with the space's name.
fn matches(building: &Building, words: &[&str], surface: Option<bool>) -> Vec<(Uuid, u8)> {
    let wanted = words_of(&words.join(" "));
    if wanted.is_empty() {
        return Vec::new();
    }
    building
        .stations
        .iter()
        .filter(|s| surface.is_none_or(|surface| matches!(s.place, Place::Surface(_)) == surface))
        .filter_map(|s| {
            let own = words_of(&names(building, s.place));
            let space = building.space_of(s.place).map(|x| words_of(&x.name)).unwrap_or_default();
            let both: Vec<String> = own.iter().chain(&space).cloned().collect();
            let rank = if own == wanted {
                0
            } else if each_begins_another(&wanted, &own) {
                1
            } else if each_begins_another(&wanted, &both) {
                2
            } else {
                return None;
            };
            Some((s.id, rank))
        })
        .collect()
}

/// Whether each typed word begins a word of the name, and no two the same one: `sheathing s` is the south sheathing, since
/// `s` cannot be its `sheathing` again.
fn each_begins_another(typed: &[String], name: &[String]) -> bool {
    // For each word of the name the typed word it is given to; one that is taken is moved to another where there is one.
    let mut given: Vec<Option<usize>> = vec![None; name.len()];
    (0..typed.len()).all(|t| give(typed, name, t, &mut given, &mut vec![false; name.len()]))
}

fn give(typed: &[String], name: &[String], t: usize, given: &mut [Option<usize>], tried: &mut [bool]) -> bool {
    for n in 0..name.len() {
        if tried[n] || !name[n].starts_with(typed[t].as_str()) {
            continue;
        }
        tried[n] = true;
        if given[n].is_none_or(|other| give(typed, name, other, given, tried)) {
            given[n] = Some(t);
            return true;
        }
    }
    false
}

/// Stations whose name, or whose space's, begins with these words: what a line begun so may go on to.
#[must_use]
pub fn complete(building: &Building, text: &str) -> Vec<Uuid> {
    let words: Vec<&str> = text.trim_matches('"').split_whitespace().collect();
    let mut hits = matches(building, &words, None);
    hits.sort_by_key(|(_, rank)| *rank);
    hits.into_iter().map(|(id, _)| id).collect()
}

/// A station's name as a line takes it without doubt: with its space where others share it, in quotes where it holds
/// figures or words that mean something else on a line.
#[must_use]
pub fn name_on_line(building: &Building, station: Uuid) -> String {
    let Some(place) = building.station(station).map(|s| s.place) else { return String::new() };
    let name = building.place_name(place);
    let odd =
        |w: &str| is_figure(w) || w.eq_ignore_ascii_case("note") || MARKERS.iter().any(|m| m.eq_ignore_ascii_case(w));
    let shared = building.stations.iter().filter(|s| building.place_name(s.place) == name).count() > 1;
    let space = building.space_of(place).map_or("", |s| &s.name);
    match () {
        () if name.split_whitespace().any(odd) => format!("\"{name}\""),
        () if shared && !matches!(place, Place::Space(_)) => format!("{name} {space}"),
        () => name.to_owned(),
    }
}

fn names(building: &Building, place: Place) -> String {
    building.place_name(place).to_lowercase()
}

fn words_of(name: &str) -> Vec<String> {
    name.to_lowercase().split(|c: char| !c.is_alphanumeric()).filter(|w| !w.is_empty()).map(str::to_owned).collect()
}

//! Taking a reading: what was typed, checked, questioned, and what it would mean at once.

use crate::file::CaseFile;
use building::entry::{
    EntryError, Field, Humidity, Reads, parse_air, parse_moisture, parse_scale, parse_surface, parse_temperature,
    parse_water,
};
use building::infrared::{InfraredValue, emissivities, usual};
use building::reading::{Observed, Reading, WoodValue};
use building::{Place, Station};
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::Over;
use hygrothermal::quantity::{Emissivity, Temperature, TemperatureAccuracy};
use hygrothermal::surface::Accuracy;
use hygrothermal::wood::species_by_id;
use judgment::question::{Doubt, questions};
use language::{retold, say};
use notation::Units;
use notation::unit::{FLOW, Kind, RAIN};
use store::{Instrument, NewValue};
use uuid::Uuid;

/// A checked entry.
#[derive(Debug)]
pub struct Checked {
    /// As it is kept.
    pub value: NewValue,
    /// As it is judged.
    pub observed: Observed,
    /// The surface band where it is not the instrument's own.
    pub accuracy: Option<TemperatureAccuracy>,
    /// What is odd about it.
    pub questions: Vec<Doubt>,
}

/// Checks an entry at a station against the visit in view.
///
/// # Errors
/// What to change, by field.
pub fn check(
    file: &CaseFile,
    station: &Station,
    instrument: &Instrument,
    reads: &Reads,
    units: Units,
) -> Result<Checked, Vec<EntryError>> {
    let (value, observed, accuracy, extra) = accepted(file, station, instrument, reads, units)?;
    let same = |o: &Observed| std::mem::discriminant(o) == std::mem::discriminant(&observed);
    let before = file.before(station.id, same).map(|(o, _)| o);
    let mut asked = questions(&file.building, &file.picture, station.place, &observed, before.as_ref());
    asked.extend(extra);
    Ok(Checked { value, observed, accuracy, questions: asked })
}

/// A reading as it may be kept, how it counts, its accuracy where its way gives one, and what is odd about it by itself.
type Accepted = (NewValue, Observed, Option<TemperatureAccuracy>, Option<Doubt>);

fn accepted(
    file: &CaseFile,
    station: &Station,
    instrument: &Instrument,
    reads: &Reads,
    units: Units,
) -> Result<Accepted, Vec<EntryError>> {
    let (mut extra, mut accuracy) = (None, None);
    let (value, observed) = match (station.place, reads) {
        (Place::Surface(_), Reads::Surface(text)) => {
            let t = parse_surface(text, units).map_err(|e| vec![e])?;
            (NewValue::Surface(t), Observed::Surface(t))
        }
        (Place::Outdoors | Place::Space(_), Reads::Air { temperature, moisture, humidity }) => {
            // Electronic hygrometers report over liquid water in frost too.
            let correct = |raw: f64| instrument.corrected(raw);
            let entry = parse_air(temperature, moisture, *humidity, units, Over::Water, correct)?;
            extra = entry.dew_above_air.map(Doubt::DewAboveAir);
            (NewValue::Air(entry), Observed::Air(entry.value))
        }
        (Place::Surface(_), Reads::Wood { moisture, species, at }) => {
            let wood = wood(file, station, moisture, species, *at).map_err(|e| vec![e])?;
            let wood = wood.by_meter(instrument.wood_err_pct);
            (NewValue::Wood(wood), Observed::Wood(wood))
        }
        (Place::Surface(_), Reads::Relative(text)) => {
            let shown = parse_scale(text).map_err(|e| vec![e])?;
            (NewValue::Relative(shown), Observed::Relative(shown))
        }
        (Place::Surface(id), Reads::Infrared { shown, emissivity, reflected }) => {
            let read = infrared(file, instrument, id, [shown, emissivity, reflected], units)?;
            accuracy = read.accuracy();
            let own = Temperature::new(read.own.value).map_err(|e| refused(Field::Surface, e.to_string()))?;
            (NewValue::Infrared(read), Observed::Surface(own))
        }
        (Place::Space(_), Reads::Water { liters, hours }) => {
            let water = parse_water(liters, hours)?;
            (NewValue::Water(water), Observed::Water(water))
        }
        (Place::Space(_), Reads::Airflow(text)) => {
            let flow = within(&FLOW, text, 20.0, units, |_| say!("The airflow must be 0 to 20 m³/s.").into())?;
            (NewValue::Airflow(flow), Observed::Airflow(flow))
        }
        (Place::Outdoors, Reads::Rain(text)) => {
            let mm = within(&RAIN, text, MOST_RAIN, units, |most| say!("Rain of two days must be 0 to {most}.", most))?;
            (NewValue::Rain(mm), Observed::Rain(mm))
        }
        (_, Reads::Note(text)) => {
            let length = text.trim().chars().count();
            if !(1..=LONGEST_NOTE).contains(&length) {
                let message =
                    say!("A note has 1 to {most} characters, this one {length}.", most = LONGEST_NOTE, length);
                return Err(refused(Field::Temperature, message));
            }
            (NewValue::Note, Observed::Note)
        }
        (_, reads) => return Err(misplaced(reads)),
    };
    Ok((value, observed, accuracy, extra))
}

fn refused(field: Field, message: impl Into<String>) -> Vec<EntryError> {
    vec![EntryError { field, message: message.into() }]
}

/// A figure from nothing to the most there can be.
fn within(
    kind: &Kind,
    text: &str,
    most: f64,
    units: Units,
    otherwise: impl Fn(String) -> String,
) -> Result<f64, Vec<EntryError>> {
    let figure = kind.parse(text, units).map_err(|e| refused(Field::Temperature, e))?;
    if (0.0..=most).contains(&figure) {
        Ok(figure)
    } else {
        Err(refused(Field::Temperature, otherwise(kind.text(most, units))))
    }
}

/// Why something is not read at a place.
fn misplaced(reads: &Reads) -> Vec<EntryError> {
    match reads {
        Reads::Rain(_) => refused(Field::Temperature, say!("Rain is read outdoors.")),
        Reads::Water { .. } | Reads::Airflow(_) => {
            refused(Field::Temperature, say!("Water and airflow are read in a space, at its air."))
        }
        Reads::Air { .. } => refused(Field::Surface, say!("A surface takes one figure, its temperature.")),
        _ => refused(Field::Humidity, say!("Air needs two figures: temperature and relative humidity, like 18.2 81.")),
    }
}

/// An infrared reading corrected for the surface: its usual emissivity and the air's temperature as what it reflects,
/// where nothing else is said.
fn infrared(
    file: &CaseFile,
    instrument: &Instrument,
    surface: Uuid,
    [shown, emissivity, reflected]: [&str; 3],
    units: Units,
) -> Result<InfraredValue, Vec<EntryError>> {
    let refused = |message: String| vec![EntryError { field: Field::Surface, message }];
    let shown = parse_surface(shown, units).map_err(|e| vec![e])?;
    let surface =
        file.building.surface(surface).ok_or_else(|| refused(say!("That surface is no longer there.").into()))?;
    let row = emissivities().iter().find(|e| e.id == emissivity).or_else(|| usual(surface.material));
    let row = row.ok_or_else(|| refused(say!("Choose what the surface is.").into()))?;
    let beside = file.picture.space(surface.space_id).and_then(|s| s.air.as_ref()).map(|a| a.value.t);
    let reflected = match (reflected.trim(), beside) {
        ("", Some(air)) => air,
        ("", None) => {
            let ask = say!("Read this space’s air first, or type what a crumpled foil beside the surface shows.");
            return Err(refused(ask.into()));
        }
        (text, _) => {
            parse_temperature(text, units, Field::Humidity, say!("reflected temperature")).map_err(|e| vec![e])?
        }
    };
    let own = instrument.accuracy().map_err(|e| refused(e.to_string()))?.surface;
    let emissivity = Emissivity::new(row.value).map_err(|e| refused(e.to_string()))?;
    InfraredValue::corrected(shown, emissivity, reflected, own).map_err(|e| refused(retold(&format!("{e}."))))
}

/// Wood moisture corrected for its wood and temperature: the one known, the surface's own, or failing that the air's
/// beside it.
fn wood(
    file: &CaseFile,
    station: &Station,
    shown: &str,
    species: &str,
    known: Option<Temperature>,
) -> Result<WoodValue, EntryError> {
    let shown = parse_moisture(shown)?;
    let refused = |message: String| EntryError { field: Field::Surface, message };
    let id = if species.is_empty() { usual_species(file, station) } else { species };
    let species = species_by_id(id).ok_or_else(|| refused(say!("Choose the wood from the list.").into()))?;
    let own = match station.place {
        Place::Surface(id) => file.picture.surface(id).and_then(|s| s.read.as_ref()).map(|r| r.t),
        _ => None,
    };
    let space = file.building.space_of(station.place).and_then(|s| file.picture.space(s.id));
    let beside = space.and_then(|s| s.air.as_ref()).map(|a| a.value.t);
    let at = known.or(own).or(beside).ok_or_else(|| {
        refused(say!("Read this surface’s or its space’s temperature first: a pin meter is corrected by it.").into())
    })?;
    WoodValue::corrected(shown, species, at).map_err(|e| refused(retold(&format!("{e}."))))
}

/// The wood last read at a station, or else on this job, or else spruce.
#[must_use]
pub fn usual_species<'a>(file: &'a CaseFile, station: &Station) -> &'a str {
    let woods = || file.rows.iter().rev().filter_map(|r| Some((r.station_id, r.species.as_deref()?)));
    let here = woods().find(|(at, _)| *at == station.id);
    here.or_else(|| woods().next()).map_or("spruce", |(_, species)| species)
}

/// An entry as if it were kept already.
#[must_use]
pub fn supposed(
    station: &Station,
    instrument: &Instrument,
    (observed, surface): (Observed, Option<TemperatureAccuracy>),
    now: DateTime<Utc>,
) -> Option<Reading> {
    let own = instrument.accuracy().ok()?;
    Some(Reading {
        id: Uuid::now_v7(),
        instrument_id: instrument.id,
        station_id: station.id,
        taken_ms: now.timestamp_millis(),
        observed,
        accuracy: Accuracy { surface: surface.unwrap_or(own.surface), ..own },
    })
}

/// When something was taken: what the device said, in ms since 1970, if that is past and within the last 60 days;
/// devices that were offline send late. Else now.
#[must_use]
pub fn moment(text: &str, now: DateTime<Utc>) -> DateTime<Utc> {
    let said = text.trim().parse().ok().and_then(DateTime::from_timestamp_millis);
    said.filter(|at| *at <= now && now - *at < TimeDelta::days(60)).unwrap_or(now)
}

/// Most rain of two days that is taken, mm: a flood’s (ours).
const MOST_RAIN: f64 = 1000.0;
/// Longest note, characters.
const LONGEST_NOTE: usize = 1000;

building::kinds! {
    /// A way of reading.
    Method {
        /// Air of a space or outdoors.
        Air = "air", "air";
        /// Surface temperature by touch.
        Contact = "temperature", "contact";
        /// Surface temperature from afar.
        Infrared = "infrared", "infrared";
        /// Wood moisture by pins.
        Wood = "wood", "wood, %";
        /// A meter’s own scale.
        Relative = "relative", "relative";
        /// Water a dehumidifier collected.
        Water = "water", "water";
        /// Air moved.
        Airflow = "airflow", "airflow";
        /// Rain of two days.
        Rain = "rain", "rain";
        /// Words.
        Note = "note", "note";
    }
}

/// The usual way where a form names none.
impl Default for Method {
    fn default() -> Self {
        Self::Air
    }
}

impl Method {
    /// What can be read at a place, the usual first.
    #[must_use]
    pub const fn offered(place: Place) -> &'static [Self] {
        match place {
            Place::Surface(_) => &[Self::Contact, Self::Infrared, Self::Wood, Self::Relative, Self::Note],
            Place::Space(_) => &[Self::Air, Self::Water, Self::Airflow, Self::Note],
            Place::Outdoors => &[Self::Air, Self::Rain, Self::Note],
        }
    }

    /// This way where the place offers it, else its usual one.
    #[must_use]
    pub fn at(self, place: Place) -> Self {
        let all = Self::offered(place);
        if all.contains(&self) { self } else { all[0] }
    }

    /// The way a form asks for; the usual one for anything else.
    #[must_use]
    pub fn asked(id: &str) -> Self {
        Self::from_id(id).unwrap_or_default()
    }
}

/// What a form holds besides its two figures.
#[derive(Debug, Clone, Copy, Default)]
pub struct How<'a> {
    /// What the second figure of an air reading is.
    pub humidity: &'a str,
    /// The way of reading asked for.
    pub method: Method,
    /// Id of the wood.
    pub species: &'a str,
    /// The wood's temperature where it is known already.
    pub wood_at: Option<Temperature>,
    /// Id of the kind of surface, for infrared.
    pub emissivity: &'a str,
    /// Reflected temperature as typed; empty for that of the air.
    pub reflected: &'a str,
}

/// The figures a form holds, as the station wants them.
#[must_use]
pub fn reads(place: Place, first: &str, second: &str, how: How) -> Reads {
    let (one, two) = (first.to_owned(), second.to_owned());
    match how.method.at(place) {
        Method::Wood => Reads::Wood { moisture: one, species: how.species.to_owned(), at: how.wood_at },
        Method::Relative => Reads::Relative(one),
        Method::Infrared => {
            Reads::Infrared { shown: one, emissivity: how.emissivity.to_owned(), reflected: how.reflected.to_owned() }
        }
        Method::Water => Reads::Water { liters: one, hours: two },
        Method::Airflow => Reads::Airflow(one),
        Method::Rain => Reads::Rain(one),
        Method::Note => Reads::Note(one),
        Method::Contact => Reads::Surface(one),
        Method::Air => Reads::Air {
            temperature: one,
            moisture: two,
            humidity: Humidity::from_id(how.humidity).unwrap_or_default(),
        },
    }
}

/// The typing as kept beside the values.
#[must_use]
pub fn as_typed(reads: &Reads) -> String {
    match reads {
        Reads::Surface(t) => t.trim().to_owned(),
        Reads::Wood { moisture, .. } => format!("mc {}", moisture.trim()),
        Reads::Relative(shown) => format!("rel {}", shown.trim()),
        Reads::Infrared { shown, .. } => format!("ir {}", shown.trim()),
        Reads::Water { liters, hours } => format!("water {} {}", liters.trim(), hours.trim()),
        Reads::Airflow(flow) => format!("flow {}", flow.trim()),
        Reads::Rain(mm) => format!("rain {}", mm.trim()),
        Reads::Note(text) => text.trim().to_owned(),
        Reads::Air { temperature, moisture, humidity: Humidity::Rh } => {
            format!("{} {}", temperature.trim(), moisture.trim())
        }
        Reads::Air { temperature, moisture, humidity } => {
            format!("{} {} {}", temperature.trim(), humidity.id(), moisture.trim())
        }
    }
}

/// The figures of a form in one text.
#[must_use]
pub fn said(temperature: &str, moisture: &str, how: How) -> String {
    format!("{temperature}|{moisture}|{}|{}", how.humidity, how.method.id())
}

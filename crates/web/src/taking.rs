//! Taking a reading: what was typed, checked, questioned, and what it would mean at once.

use crate::job_page::JobPage;
use crate::view::advice as advice_text;
use crate::view::{Mark, meter, question, verdict};
use building::entry::{
    EntryError, Field, Humidity, Reads, parse_air, parse_moisture, parse_scale, parse_surface, parse_temperature,
    parse_water,
};
use building::infrared::{InfraredValue, emissivities, usual};
use building::reading::{AirState, Collected, Observed, Reading, WoodValue};
use building::{Place, Station};
use chrono::{DateTime, TimeDelta, Utc};
use hygrothermal::air::Over;
use hygrothermal::quantity::{Emissivity, Temperature, TemperatureAccuracy};
use hygrothermal::surface::Accuracy;
use hygrothermal::wood::species_by_id;
use judgment::cause::capacity;
use judgment::picture::picture;
use judgment::question::{Question, questions};
use notation::Show;
use notation::Units;
use notation::unit::{FLOW, RAIN};
use store::{Instrument, NewValue};
use uuid::Uuid;

/// A checked entry.
pub struct Checked {
    pub value: NewValue,
    pub observed: Observed,
    /// The surface band where it is not the instrument's own.
    pub accuracy: Option<TemperatureAccuracy>,
    pub questions: Vec<Question>,
}

/// What an entry would mean.
pub struct Meaning {
    pub mark: Mark,
    pub head: String,
    pub text: String,
    pub figures: Vec<(&'static str, String)>,
}

/// Checks an entry at a station against the visit in view.
pub fn check(
    page: &JobPage,
    station: &Station,
    instrument: &Instrument,
    reads: &Reads,
    units: Units,
) -> Result<Checked, Vec<EntryError>> {
    let refused = |field, message: String| EntryError { field, message };
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
            extra = entry.dew_above_air.map(Question::DewAboveAir);
            (NewValue::Air(entry), Observed::Air(entry.value))
        }
        (Place::Surface(_), Reads::Wood { moisture, species, at }) => {
            let wood = wood(page, station, moisture, species, *at).map_err(|e| vec![e])?;
            let wood = wood.by_meter(instrument.wood_err_pct);
            (NewValue::Wood(wood), Observed::Wood(wood))
        }
        (Place::Surface(_), Reads::Relative(text)) => {
            let shown = parse_scale(text).map_err(|e| vec![e])?;
            (NewValue::Relative(shown), Observed::Relative(shown))
        }
        (Place::Surface(id), Reads::Infrared { shown, emissivity, reflected }) => {
            let read = infrared(page, instrument, id, [shown, emissivity, reflected], units)?;
            accuracy = read.accuracy();
            let own = Temperature::new(read.own.value).map_err(|e| vec![refused(Field::Surface, e.to_string())])?;
            (NewValue::Infrared(read), Observed::Surface(own))
        }
        (Place::Space(_), Reads::Water { liters, hours }) => {
            let water = parse_water(liters, hours)?;
            (NewValue::Water(water), Observed::Water(water))
        }
        (Place::Space(_), Reads::Airflow(text)) => {
            let flow = FLOW.parse(text, units).map_err(|e| vec![refused(Field::Temperature, e)])?;
            if !(0.0..=20.0).contains(&flow) {
                return Err(vec![refused(Field::Temperature, "The airflow must be 0 to 20 m³/s.".into())]);
            }
            (NewValue::Airflow(flow), Observed::Airflow(flow))
        }
        (Place::Outdoors, Reads::Rain(text)) => {
            let mm = RAIN.parse(text, units).map_err(|e| vec![refused(Field::Temperature, e)])?;
            if !(0.0..=MOST_RAIN).contains(&mm) {
                let most = RAIN.text(MOST_RAIN, units);
                return Err(vec![refused(Field::Temperature, format!("Rain of two days must be 0 to {most}."))]);
            }
            (NewValue::Rain(mm), Observed::Rain(mm))
        }
        (_, Reads::Note(text)) => {
            let length = text.trim().chars().count();
            if !(1..=LONGEST_NOTE).contains(&length) {
                let message = format!("A note has 1 to {LONGEST_NOTE} characters, this one {length}.");
                return Err(vec![refused(Field::Temperature, message)]);
            }
            (NewValue::Note, Observed::Note)
        }
        (_, Reads::Rain(_)) => {
            let message = "Rain is read outdoors.".into();
            return Err(vec![refused(Field::Temperature, message)]);
        }
        (_, Reads::Water { .. } | Reads::Airflow(_)) => {
            let message = "Water and airflow are read in a space, at its air.".into();
            return Err(vec![refused(Field::Temperature, message)]);
        }
        (_, Reads::Surface(_) | Reads::Wood { .. } | Reads::Relative(_) | Reads::Infrared { .. }) => {
            let message = "Air needs two figures: temperature and relative humidity, like 18.2 81.".into();
            return Err(vec![EntryError { field: Field::Humidity, message }]);
        }
        (_, Reads::Air { .. }) => {
            let message = "A surface takes one figure, its temperature.".into();
            return Err(vec![EntryError { field: Field::Surface, message }]);
        }
    };
    let same = |o: &Observed| std::mem::discriminant(o) == std::mem::discriminant(&observed);
    let before = page.before(station.id, same).ok().flatten().map(|(o, _)| o);
    let mut asked = questions(&page.building, &page.picture, station.place, &observed, before.as_ref());
    asked.extend(extra);
    Ok(Checked { value, observed, accuracy, questions: asked })
}

/// An infrared reading corrected for the surface: its usual emissivity and the air's temperature as what it reflects,
/// where nothing else is said.
fn infrared(
    page: &JobPage,
    instrument: &Instrument,
    surface: Uuid,
    [shown, emissivity, reflected]: [&str; 3],
    units: Units,
) -> Result<InfraredValue, Vec<EntryError>> {
    let refused = |message: String| vec![EntryError { field: Field::Surface, message }];
    let shown = parse_surface(shown, units).map_err(|e| vec![e])?;
    let surface = page.building.surface(surface).ok_or_else(|| refused("That surface is no longer there.".into()))?;
    let row = emissivities().iter().find(|e| e.id == emissivity).or_else(|| usual(surface.material));
    let row = row.ok_or_else(|| refused("Choose what the surface is.".into()))?;
    let beside = page.picture.space(surface.space_id).and_then(|s| s.air.as_ref()).map(|a| a.value.t);
    let reflected = match (reflected.trim(), beside) {
        ("", Some(air)) => air,
        ("", None) => {
            let ask = "Read this space’s air first, or type what a crumpled foil beside the surface shows.";
            return Err(refused(ask.into()));
        }
        (text, _) => parse_temperature(text, units, Field::Humidity, "reflected temperature").map_err(|e| vec![e])?,
    };
    let own = instrument.accuracy().map_err(|e| refused(e.to_string()))?.surface;
    let emissivity = Emissivity::new(row.value).map_err(|e| refused(e.to_string()))?;
    InfraredValue::corrected(shown, emissivity, reflected, own).map_err(|e| refused(format!("{e}.")))
}

/// Wood moisture corrected for its wood and temperature: the one known, the surface's own, or failing that the air's
/// beside it.
fn wood(
    page: &JobPage,
    station: &Station,
    shown: &str,
    species: &str,
    known: Option<Temperature>,
) -> Result<WoodValue, EntryError> {
    let shown = parse_moisture(shown)?;
    let refused = |message: String| EntryError { field: Field::Surface, message };
    let id = if species.is_empty() { usual_species(page, station) } else { species };
    let species = species_by_id(id).ok_or_else(|| refused("Choose the wood from the list.".into()))?;
    let own = match station.place {
        Place::Surface(id) => page.picture.surface(id).and_then(|s| s.read.as_ref()).map(|r| r.t),
        _ => None,
    };
    let space = page.building.space_of(station.place).and_then(|s| page.picture.space(s.id));
    let beside = space.and_then(|s| s.air.as_ref()).map(|a| a.value.t);
    let at = known.or(own).or(beside).ok_or_else(|| {
        refused("Read this surface’s or its space’s temperature first: a pin meter is corrected by it.".into())
    })?;
    WoodValue::corrected(shown, species, at).map_err(|e| refused(format!("{e}.")))
}

/// The wood last read at a station, or else on this job, or else spruce.
pub fn usual_species<'a>(page: &'a JobPage, station: &Station) -> &'a str {
    let woods = || page.rows.iter().rev().filter_map(|r| Some((r.station_id, r.species.as_deref()?)));
    let here = woods().find(|(at, _)| *at == station.id);
    here.or_else(|| woods().next()).map_or("spruce", |(_, species)| species)
}

/// An entry as if it were kept already.
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

/// What keeping this would mean, judged together with everything else read on the visit.
pub fn meaning(
    show: &Show,
    page: &JobPage,
    station: &Station,
    instrument: &Instrument,
    (observed, accuracy): (Observed, Option<TemperatureAccuracy>),
    now: DateTime<Utc>,
) -> Option<Meaning> {
    match observed {
        Observed::Wood(value) => {
            let (mark, head, text, figures) = meter::wood(show, &value);
            return Some(Meaning { mark, head, text, figures });
        }
        Observed::Relative(shown) => {
            let before = page.before(station.id, |o| matches!(o, Observed::Relative(_))).ok().flatten();
            let before = before.and_then(|(o, row)| match o {
                Observed::Relative(shown) => Some((row.instrument_id, shown)),
                _ => None,
            });
            let text = meter::relative(station.id, (instrument.id, shown), before);
            let head = format!("{} on its own scale", shown.get());
            return Some(Meaning { mark: Mark::NONE, head, text, figures: Vec::new() });
        }
        Observed::Water(water) => {
            let head = format!("{} collected", show.daily(water.per_day()));
            let text = against_label(show, page, station, water);
            return Some(Meaning { mark: Mark::NONE, head, text, figures: Vec::new() });
        }
        Observed::Airflow(flow) => {
            let volume = page.building.space_of(station.place)?.volume_m3();
            let head = format!("{:.1} air changes an hour", flow * 3600.0 / volume);
            let text = format!("{} through {}.", FLOW.text(flow, show.units), show.volume(volume));
            return Some(Meaning { mark: Mark::NONE, head, text, figures: Vec::new() });
        }
        Observed::Rain(mm) => {
            let head = format!("{} of rain in two days", RAIN.text(mm, show.units));
            let text = "From five such visits on, the meters’ readings are compared with it: does wetness follow rain?";
            return Some(Meaning { mark: Mark::NONE, head, text: text.into(), figures: Vec::new() });
        }
        Observed::Note => return None,
        Observed::Air(_) | Observed::Surface(_) => {}
    }
    let reading = supposed(station, instrument, (observed, accuracy), now)?;
    let air = AirState::of(&reading);
    let mut all = page.standing.clone();
    all.push(reading);
    let picture = picture(&page.building, &all);
    match station.place {
        Place::Surface(id) => {
            let surface = page.building.surface(id)?;
            let read = picture.surface(id)?.read.as_ref()?;
            let Some(judged) = &read.judged else {
                return Some(Meaning {
                    mark: Mark::NONE,
                    head: "No verdict yet.".into(),
                    text: "Read this space’s air on this visit, and the surface is judged against it.".into(),
                    figures: Vec::new(),
                });
            };
            let told = verdict::tell(show, surface, read, judged);
            let margin = judged.margin.map_or_else(String::new, |m| format!(" Margin {}", show.difference_band(m)));
            let all = verdict::figures(show, read, judged);
            let figures = all.into_iter().filter(|(label, _)| *label != "Surface").collect();
            Some(Meaning { mark: told.mark, head: format!("{}{margin}", told.head), text: told.text, figures })
        }
        Place::Space(id) => {
            let space = page.building.space(id)?;
            let state = picture.space(id)?;
            let advice = judgment::advice::advise(&page.building, &picture, space, None);
            let line = advice_text::tell(show, &page.building, space, &advice).lines.into_iter().next();
            let air = air?;
            let worst = state.worst().map(Mark::from);
            let lead = worst.map_or_else(String::new, |m| format!("Worst surface here: {}. ", m.word));
            let advice = line.map_or_else(String::new, |l| format!("{} {}", l.head, l.text));
            Some(Meaning {
                mark: worst.unwrap_or(Mark::NONE),
                head: dew_head(show, &air),
                text: lead + &advice,
                figures: air_figures(show, &air),
            })
        }
        Place::Outdoors => {
            let air = air?;
            let text = "Every space is compared with this air, in absolute terms.".into();
            Some(Meaning { mark: Mark::NONE, head: dew_head(show, &air), text, figures: air_figures(show, &air) })
        }
    }
}

/// What a dehumidifier collected against what its label makes of the air beside it.
fn against_label(show: &Show, page: &JobPage, station: &Station, water: Collected) -> String {
    let space = page.building.space_of(station.place).map(|s| s.id);
    let air = space.and_then(|id| page.picture.space(id)?.air.as_ref());
    let most = space.and_then(|id| page.label_in(id)).zip(air).and_then(|(rated, air)| capacity(rated, &air.value));
    match most.filter(|most| *most > 0.0) {
        Some(most) => {
            let share = show.percent(water.per_day() / most * 100.0);
            format!("That is {share} of the {} its label makes of this air.", show.daily(most))
        }
        None if air.is_none() => {
            "Read this space’s air, and tick the machine’s label among the findings, to weigh it.".into()
        }
        None => {
            "Enter the machine’s label among the findings, and it is weighed against what it can do in this air.".into()
        }
    }
}

fn dew_head(show: &Show, air: &AirState) -> String {
    air.dew.map_or_else(|| "Too dry to have a dew point.".into(), |d| format!("Dew point {}", show.temperature_band(d)))
}

fn air_figures(show: &Show, air: &AirState) -> Vec<(&'static str, String)> {
    vec![
        ("Humidity ratio", show.humidity_ratio(air.air.humidity_ratio())),
        ("Vapor pressure", show.pressure(air.air.vapor_pressure())),
    ]
}

/// When something was taken: what the device said, in ms since 1970, if that is past and within the last 60 days;
/// devices that were offline send late. Else now.
pub fn moment(text: &str, now: DateTime<Utc>) -> DateTime<Utc> {
    let said = text.trim().parse().ok().and_then(DateTime::from_timestamp_millis);
    said.filter(|at| *at <= now && now - *at < TimeDelta::days(60)).unwrap_or(now)
}

/// Doubts in words.
pub fn asked(show: &Show, checked: &Checked) -> Vec<String> {
    checked.questions.iter().map(|q| question::ask(show, q)).collect()
}

/// Most rain of two days that is taken, mm: a flood’s (ours).
const MOST_RAIN: f64 = 1000.0;
/// Longest note, characters.
const LONGEST_NOTE: usize = 1000;

/// A way of reading: id in forms, and words.
pub type Method = (&'static str, &'static str);

/// What can be read at a place, the usual first.
pub const fn methods(place: Place) -> &'static [Method] {
    match place {
        Place::Surface(_) => &[
            ("temperature", "contact"),
            ("infrared", "infrared"),
            ("wood", "wood, %"),
            ("relative", "relative"),
            ("note", "note"),
        ],
        Place::Space(_) => &[("air", "air"), ("water", "water"), ("airflow", "airflow"), ("note", "note")],
        Place::Outdoors => &[("air", "air"), ("rain", "rain"), ("note", "note")],
    }
}

/// The way asked for at a place, else its usual one.
pub fn method_at(place: Place, asked: &str) -> &'static str {
    let all = methods(place);
    all.iter().find(|m| m.0 == asked).map_or(all[0].0, |m| m.0)
}

/// What a form holds besides its two figures.
#[derive(Clone, Copy, Default)]
pub struct How<'a> {
    /// What the second figure of an air reading is.
    pub humidity: &'a str,
    /// One of [`methods`].
    pub method: &'a str,
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
pub fn reads(place: Place, first: &str, second: &str, how: How) -> Reads {
    let (one, two) = (first.to_owned(), second.to_owned());
    match method_at(place, how.method) {
        "wood" => Reads::Wood { moisture: one, species: how.species.to_owned(), at: how.wood_at },
        "relative" => Reads::Relative(one),
        "infrared" => {
            Reads::Infrared { shown: one, emissivity: how.emissivity.to_owned(), reflected: how.reflected.to_owned() }
        }
        "water" => Reads::Water { liters: one, hours: two },
        "airflow" => Reads::Airflow(one),
        "rain" => Reads::Rain(one),
        "note" => Reads::Note(one),
        "temperature" => Reads::Surface(one),
        _ => Reads::Air {
            temperature: one,
            moisture: two,
            humidity: Humidity::from_id(how.humidity).unwrap_or_default(),
        },
    }
}

/// The typing as kept beside the values.
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
pub fn said(temperature: &str, moisture: &str, how: How) -> String {
    format!("{temperature}|{moisture}|{}|{}", how.humidity, how.method)
}

//! Taking a reading: what was typed, checked, questioned, and what it would mean at once.

use crate::job_page::JobPage;
use crate::view::advice as advice_text;
use crate::view::show::Show;
use crate::view::{Mark, question, verdict};
use chrono::{DateTime, Utc};
use hygrothermal::air::Over;
use judgement::building::{Place, Station};
use judgement::entry::{EntryError, Field, Humidity, Reads, Units, parse_air, parse_surface};
use judgement::picture::picture;
use judgement::question::{Question, questions};
use judgement::reading::{AirState, Observed, Reading};
use store::{Instrument, NewValue};
use uuid::Uuid;

/// A checked entry.
pub struct Checked {
    pub value: NewValue,
    pub observed: Observed,
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
    let mut extra = None;
    let (value, observed) = match (station.place, reads) {
        (Place::Surface(_), Reads::Surface(text)) => {
            let t = parse_surface(text, units).map_err(|e| vec![e])?;
            (NewValue::Surface(t), Observed::Surface(t))
        }
        (Place::Outdoors | Place::Space(_), Reads::Air { temperature, moisture, humidity }) => {
            // Electronic hygrometers report over liquid water in frost too.
            let correct = |raw: f64| raw + instrument.rh_offset_pct;
            let entry = parse_air(temperature, moisture, *humidity, units, Over::Water, correct)?;
            extra = entry.question;
            (NewValue::Air(entry), Observed::Air(entry.value))
        }
        (_, Reads::Surface(_)) => {
            let message = "Air needs two figures: temperature and relative humidity, like 18.2 81.".into();
            return Err(vec![EntryError { field: Field::Humidity, message }]);
        }
        (_, Reads::Air { .. }) => {
            let message = "A surface takes one figure, its temperature.".into();
            return Err(vec![EntryError { field: Field::Surface, message }]);
        }
    };
    let before = page.before(station.id).ok().flatten().map(|(o, _)| o);
    let mut asked = questions(&page.building, &page.picture, station.place, &observed, before.as_ref());
    asked.extend(extra);
    Ok(Checked { value, observed, questions: asked })
}

/// An entry as if it were kept already.
pub fn supposed(station: &Station, instrument: &Instrument, observed: Observed, now: DateTime<Utc>) -> Option<Reading> {
    Some(Reading {
        id: Uuid::now_v7(),
        station_id: station.id,
        taken_ms: now.timestamp_millis(),
        observed,
        accuracy: instrument.accuracy().ok()?,
    })
}

/// What keeping this would mean, judged together with everything else read on the visit.
pub fn meaning(
    show: &Show,
    page: &JobPage,
    station: &Station,
    instrument: &Instrument,
    observed: Observed,
    now: DateTime<Utc>,
) -> Option<Meaning> {
    let reading = supposed(station, instrument, observed, now)?;
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
            let advice = judgement::advice::advise(&page.building, &picture, space, None);
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

fn dew_head(show: &Show, air: &AirState) -> String {
    air.dew.map_or_else(|| "Too dry to have a dew point.".into(), |d| format!("Dew point {}", show.temperature_band(d)))
}

fn air_figures(show: &Show, air: &AirState) -> Vec<(&'static str, String)> {
    vec![
        ("Humidity ratio", show.humidity_ratio(air.air.humidity_ratio())),
        ("Vapor pressure", show.pressure(air.air.vapor_pressure())),
    ]
}

/// Doubts in words.
pub fn asked(show: &Show, checked: &Checked) -> Vec<String> {
    checked.questions.iter().map(|q| question::ask(show, q)).collect()
}

/// The figures a form holds, as the station wants them.
pub fn reads(place: Place, temperature: &str, moisture: &str, humidity: &str) -> Reads {
    if matches!(place, Place::Surface(_)) {
        return Reads::Surface(temperature.to_owned());
    }
    Reads::Air {
        temperature: temperature.to_owned(),
        moisture: moisture.to_owned(),
        humidity: Humidity::from_id(humidity).unwrap_or_default(),
    }
}

/// The typing as kept beside the values.
pub fn as_typed(reads: &Reads) -> String {
    match reads {
        Reads::Surface(t) => t.trim().to_owned(),
        Reads::Air { temperature, moisture, humidity: Humidity::Rh } => {
            format!("{} {}", temperature.trim(), moisture.trim())
        }
        Reads::Air { temperature, moisture, humidity } => {
            format!("{} {} {}", temperature.trim(), humidity.id(), moisture.trim())
        }
    }
}

/// The figures of a form in one text.
pub fn said(temperature: &str, moisture: &str, humidity: &str) -> String {
    format!("{temperature}|{moisture}|{humidity}")
}

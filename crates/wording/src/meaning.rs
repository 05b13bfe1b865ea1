//! What an entry would mean, judged together with everything else read on the visit.

use crate::{advice, meter, verdict};
use building::reading::{AirState, Collected, Observed};
use building::{Place, Station};
use casework::CaseFile;
use casework::entry::supposed;
use chrono::{DateTime, Utc};
use drawing::DropMark;
use hygrothermal::quantity::TemperatureAccuracy;
use judgment::cause::capacity;
use judgment::picture::{Picture, picture};
use language::say;
use notation::Show;
use notation::unit::{FLOW, RAIN};
use store::Instrument;
use uuid::Uuid;

/// What an entry would mean.
#[derive(Debug, Clone)]
pub struct Meaning {
    /// Its drop mark.
    pub mark: DropMark,
    /// In a few words.
    pub head: String,
    /// In a sentence or two.
    pub text: String,
    /// What it amounts to.
    pub figures: Vec<(&'static str, String)>,
}

/// What keeping this would mean, judged together with everything else read on the visit.
pub fn meaning(
    show: &Show,
    file: &CaseFile,
    station: &Station,
    instrument: &Instrument,
    (observed, accuracy): (Observed, Option<TemperatureAccuracy>),
    now: DateTime<Utc>,
) -> Option<Meaning> {
    if !matches!(observed, Observed::Air(_) | Observed::Surface(_)) {
        return by_itself(show, file, station, instrument, observed);
    }
    let reading = supposed(station, instrument, (observed, accuracy), now)?;
    let air = AirState::of(&reading);
    let mut all = file.standing.clone();
    all.push(reading);
    let picture = picture(&file.building, &all);
    match station.place {
        Place::Surface(id) => of_surface(show, file, &picture, id),
        Place::Space(id) => of_space(show, file, &picture, id, &air?),
        Place::Outdoors => {
            let text = say!("Every space is compared with this air, in absolute terms.").into();
            let air = air?;
            Some(Meaning { mark: DropMark::NONE, head: dew_head(show, &air), text, figures: air_figures(show, &air) })
        }
    }
}

/// What is judged without the air beside it.
fn by_itself(
    show: &Show,
    file: &CaseFile,
    station: &Station,
    instrument: &Instrument,
    observed: Observed,
) -> Option<Meaning> {
    let plain = |head: String, text: String| Meaning { mark: DropMark::NONE, head, text, figures: Vec::new() };
    Some(match observed {
        Observed::Wood(value) => {
            let (mark, head, text, figures) = meter::wood(show, &file.limits(), &value);
            Meaning { mark, head, text, figures }
        }
        Observed::Relative(shown) => {
            let before = file.before(station.id, |o| matches!(o, Observed::Relative(_)));
            let before = before.and_then(|(o, row)| match o {
                Observed::Relative(shown) => Some((row.instrument_id, shown)),
                _ => None,
            });
            let text = meter::relative(station.id, (instrument.id, shown), before);
            plain(say!("{shown} on its own scale", shown = shown.get()), text)
        }
        Observed::Water(water) => {
            let head = say!("{daily} collected", daily = show.daily(water.per_day()));
            plain(head, against_label(show, file, station, water))
        }
        Observed::Airflow(flow) => {
            let volume = file.building.space_of(station.place)?.volume_m3();
            let head = say!("{flow} air changes an hour", flow = format_args!("{:.1}", flow * 3600.0 / volume));
            plain(
                head,
                say!("{flow} through {volume}.", flow = FLOW.text(flow, show.units), volume = show.volume(volume)),
            )
        }
        Observed::Rain(mm) => {
            let text =
                say!("From five such visits on, the meters’ readings are compared with it: does wetness follow rain?");
            plain(say!("{mm} of rain in two days", mm = RAIN.text(mm, show.units)), text.into())
        }
        Observed::Note | Observed::Air(_) | Observed::Surface(_) => return None,
    })
}

fn of_surface(show: &Show, file: &CaseFile, picture: &Picture, id: Uuid) -> Option<Meaning> {
    let surface = file.building.surface(id)?;
    let read = picture.surface(id)?.read.as_ref()?;
    let Some(judged) = &read.judged else {
        return Some(Meaning {
            mark: DropMark::NONE,
            head: say!("No verdict yet.").into(),
            text: say!("Read this space’s air on this visit, and the surface is judged against it.").into(),
            figures: Vec::new(),
        });
    };
    let told = verdict::tell(show, surface, read, judged);
    let margin = judged
        .margin
        .map_or_else(String::new, |m| say!(" Margin {difference_band}", difference_band = show.difference_band(m)));
    let all = verdict::figures(show, read, judged);
    let figures = all.into_iter().filter(|(label, _)| *label != "Surface").collect();
    Some(Meaning { mark: told.mark, head: format!("{}{margin}", told.head), text: told.text, figures })
}

fn of_space(show: &Show, file: &CaseFile, picture: &Picture, id: Uuid, air: &AirState) -> Option<Meaning> {
    let space = file.building.space(id)?;
    let state = picture.space(id)?;
    let advice = judgment::advice::advise(&file.building, picture, space, None);
    let line = advice::tell_in_short(show, &file.building, space, &advice).lines.into_iter().next();
    let worst = state.worst().map(DropMark::from);
    let lead = worst.map_or_else(String::new, |m| say!("Worst surface here: {word}. ", word = m.word));
    let advice = line.map_or_else(String::new, |l| format!("{} {}", l.head, l.text));
    Some(Meaning {
        mark: worst.unwrap_or(DropMark::NONE),
        head: dew_head(show, air),
        text: lead + &advice,
        figures: air_figures(show, air),
    })
}

/// What a dehumidifier collected against what its label makes of the air beside it.
fn against_label(show: &Show, file: &CaseFile, station: &Station, water: Collected) -> String {
    let space = file.building.space_of(station.place).map(|s| s.id);
    let air = space.and_then(|id| file.picture.space(id)?.air.as_ref());
    let most = space.and_then(|id| file.label_in(id)).zip(air).and_then(|(rated, air)| capacity(rated, &air.value));
    match most.filter(|most| *most > 0.0) {
        Some(most) => {
            let share = show.percent(water.per_day() / most * 100.0);
            say!("That is {share} of the {daily} its label makes of this air.", share, daily = show.daily(most))
        }
        None if air.is_none() => {
            say!("Read this space’s air, and tick the machine’s label among the findings, to weigh it.").into()
        }
        None => {
            say!("Enter the machine’s label among the findings, and it is weighed against what it can do in this air.")
                .into()
        }
    }
}

fn dew_head(show: &Show, air: &AirState) -> String {
    air.dew.map_or_else(
        || say!("Too dry to have a dew point.").into(),
        |d| say!("Dew point {temperature_band}", temperature_band = show.temperature_band(d)),
    )
}

fn air_figures(show: &Show, air: &AirState) -> Vec<(&'static str, String)> {
    vec![
        (say!("Humidity ratio"), show.humidity_ratio(air.air.humidity_ratio())),
        (say!("Vapor pressure"), show.pressure(air.air.vapor_pressure())),
    ]
}

//! Moisture maps of a job: figures as typed along a way, and what a map of one meter and one material says.

use crate::file::{CaseFile, MapFact};
use building::reading::Observed;
use building::unfold::{At, FalseWet, Layout, MapScale, Thing};
use building::{Material, Place};
use chrono::{DateTime, NaiveDate, Utc};
use hygrothermal::quantity::{MoistureContent, Temperature};
use hygrothermal::wood::{MeterReading, pin_meter, species_by_id};
use judgment::limits::Limited;
use judgment::map::{Confirmed, MapPoint, MapSaid, Second, Showed, limits_of, read};
use language::say;
use std::collections::{BTreeMap, HashMap};
use store::{MapReading, MoistureMap};
use uuid::Uuid;

/// Most maps of a space.
pub const MOST_MAPS: usize = 16;
/// Highest figure a meter's own scale shows.
const HIGHEST: f64 = 100_000.0;
/// Wood nobody measured the temperature of is taken as the air's, else this, °C.
const USUAL_WOOD: f64 = 20.0;

/// A figure of a way as typed.
#[derive(Debug, Clone, PartialEq)]
pub struct MapFigure {
    /// What stood there.
    pub showed: Showed,
    /// Why it only seems wet.
    pub false_wet: Option<FalseWet>,
    /// As typed.
    pub typed: String,
}

/// Why a line of figures cannot be read: the place's number from 1, what was typed, and what is wrong.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FigureError {
    /// Number from 1.
    pub place: usize,
    /// As typed.
    pub typed: String,
    /// What is wrong with it.
    pub why: &'static str,
}

/// Reads the figures of a way, place by place: `148 150*3 - > 320!bracket`. A star repeats, a dash is a place nothing could be read
/// at, `>` is beyond the scale, and `!` marks a false wet with the beginning of its word.
///
/// # Errors
/// [`FigureError`]: the first that cannot be read.
pub fn figures(text: &str, most: usize) -> Result<Vec<MapFigure>, FigureError> {
    let mut all = Vec::new();
    for token in text.split_whitespace() {
        let wrong = |why| FigureError { place: all.len() + 1, typed: token.chars().take(24).collect(), why };
        let (rest, times) = match token.split_once('*') {
            Some((rest, times)) => (rest, times.parse::<usize>().ok().filter(|n| *n > 0)),
            None => (token, Some(1)),
        };
        let times = times.ok_or_else(|| wrong(say!("what follows the star is how often: 150*3")))?;
        let (figure, mark) = rest.split_once('!').map_or((rest, None), |(f, m)| (f, Some(m)));
        let false_wet = match mark {
            Some(word) => Some(
                false_wet(word).ok_or_else(|| wrong(say!("what follows ! is why it only seems wet: 320!bracket")))?,
            ),
            None => None,
        };
        let showed = match figure {
            "-" | "–" | "−" => Showed::Unread,
            ">" | "OL" | "ol" => Showed::Over,
            figure => {
                let read = notation::number::plain_number(figure).ok().filter(|x| (0.0..=HIGHEST).contains(x));
                Showed::Figure(
                    read.ok_or_else(|| wrong(say!("a figure is wanted, - where nothing reads, > beyond the scale")))?,
                )
            }
        };
        if all.len().saturating_add(times) > most {
            return Err(FigureError { place: most + 1, ..wrong(say!("this way has no more places")) });
        }
        let typed: String = figure.chars().take(20).collect();
        all.extend(std::iter::repeat_n(MapFigure { showed, false_wet, typed }, times));
    }
    Ok(all)
}

/// A false wet by the beginning of one of its words.
fn false_wet(word: &str) -> Option<FalseWet> {
    let word = word.to_lowercase();
    let begins = |f: &FalseWet| f.words().split([' ', '-']).any(|w| w.starts_with(&word)) || f.id() == word;
    FalseWet::ALL.iter().copied().find(begins).filter(|_| !word.is_empty())
}

/// Places of a map that only seem wet.
#[must_use]
pub fn false_wets(map: &MoistureMap) -> BTreeMap<i32, FalseWet> {
    let known = map.false_wets.as_object().into_iter().flatten();
    known.filter_map(|(n, why)| Some((n.parse().ok()?, FalseWet::from_id(why.as_str()?)?))).collect()
}

/// The same as kept.
#[must_use]
pub fn as_kept(false_wets: &BTreeMap<i32, FalseWet>) -> serde_json::Value {
    false_wets
        .iter()
        .map(|(n, why)| (n.to_string(), serde_json::Value::from(why.id())))
        .collect::<serde_json::Map<_, _>>()
        .into()
}

/// Which second method.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum SecondBy {
    /// Pins, %.
    Pins(Showed),
    /// A trial: its run.
    Trial(Uuid),
}

/// What belongs on one map: ways of one space walked on one visit with one meter on one material.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct OneMap {
    /// The space.
    pub space: Uuid,
    /// The visit; none between visits.
    pub visit: Option<Uuid>,
    /// Between visits the day.
    pub day: Option<NaiveDate>,
    /// The meter.
    pub instrument: Uuid,
    /// What its figures are.
    pub scale: MapScale,
    /// The material.
    pub material: Material,
}

impl OneMap {
    /// The one a way belongs on.
    #[must_use]
    pub fn of(map: &MoistureMap) -> Self {
        let MoistureMap { space_id: space, visit_id: visit, instrument_id: instrument, scale, material, .. } = *map;
        let day = visit.is_none().then(|| map.started_at.date_naive());
        Self { space, visit, day, instrument, scale, material }
    }
}

/// The maps of a space, latest first, each with its ways.
#[must_use]
pub fn maps_of(file: &CaseFile, space: Uuid) -> Vec<(OneMap, Vec<&MoistureMap>)> {
    let mut all: Vec<(OneMap, Vec<&MoistureMap>)> = Vec::new();
    for map in file.maps.iter().rev().filter(|m| m.space_id == space) {
        match all.iter_mut().find(|(one, _)| *one == OneMap::of(map)) {
            Some((_, ways)) => ways.push(map),
            None => all.push((OneMap::of(map), vec![map])),
        }
    }
    all
}

/// A map with what it says.
pub struct Mapped {
    /// Its places, with the way each is of.
    pub places: Vec<(Uuid, MapReading)>,
    /// The same as judged.
    pub points: Vec<MapPoint>,
    /// What it says.
    pub said: MapSaid,
    /// Dry up to the first, high from the second.
    pub limits: Option<[f64; 2]>,
    /// What the material shows where it is dry, and where that is.
    pub standard: Option<(f64, String)>,
    /// What second methods said, of a map that needs one: where, whether wet, and in which words of the trade.
    pub seconds: Vec<(At, bool, SecondBy)>,
}

/// What one map of a space says; second methods are looked for on the same and later visits.
#[must_use]
pub fn mapped(file: &CaseFile, layout: &Layout, one: &OneMap) -> Mapped {
    let readings = &file.map_readings;
    let by_id: HashMap<Uuid, &MoistureMap> =
        file.maps.iter().filter(|m| m.space_id == one.space).map(|m| (m.id, m)).collect();
    let ways: Vec<&&MoistureMap> = by_id.values().filter(|m| OneMap::of(m) == *one).collect();
    let latest = ways.iter().filter_map(|m| Some((m.started_at, m.standard?, &m.standard_at))).max_by_key(|s| s.0);
    let standard = latest.map(|(_, dry, at)| (dry, at.clone()));
    let wets: HashMap<Uuid, BTreeMap<i32, FalseWet>> = ways.iter().map(|m| (m.id, false_wets(m))).collect();
    let sheet = layout.sheet();
    let (mut places, mut points) = (Vec::new(), Vec::new());
    for r in readings {
        let Some(map) = by_id.get(&r.map_id).filter(|m| OneMap::of(m) == *one) else { continue };
        let (Some(place), Some(panel)) = (sheet.in_space(&r.at), sheet.panel(r.at.facet)) else { continue };
        points.push(MapPoint {
            facet: r.at.facet,
            height: r.at.facet.upright().then(|| panel.point(&r.at)[1]),
            place,
            showed: showed(file, map, r),
            false_wet: wets.get(&map.id).and_then(|w| w.get(&r.n)).copied(),
            spacing: map.spacing_m,
            in_grid: map.is_grid,
        });
        places.push((map.id, r.clone()));
    }
    let limits = limits_of(one.scale, standard.as_ref().map(|s| s.0), &file.limits());
    let since = ways.iter().map(|m| m.started_at).min();
    let seconds = match one.scale {
        MapScale::Pinless => seconds(file, one.space, since, &by_id, readings),
        MapScale::Pins => Vec::new(),
    };
    let heard: Vec<Second> =
        seconds.iter().filter_map(|(at, wet, _)| Some(Second { place: sheet.in_space(at)?, wet: *wet })).collect();
    Mapped { said: read(&points, limits, &heard), places, points, limits, standard, seconds }
}

/// What stood at a place, pins corrected for the wood and its temperature.
fn showed(file: &CaseFile, map: &MoistureMap, r: &MapReading) -> Showed {
    let Some(x) = r.value else { return if r.over { Showed::Over } else { Showed::Unread } };
    if map.scale == MapScale::Pinless {
        return Showed::Figure(x);
    }
    let air = file.picture.space(map.space_id).and_then(|s| s.air.as_ref()).map(|a| a.value.t);
    let corrected = || {
        let at = air.or_else(|| Temperature::new(USUAL_WOOD).ok())?;
        pin_meter(MoistureContent::new(x).ok()?, at, species_by_id(&map.species)?).ok()
    };
    match corrected() {
        Some(MeterReading::Percent(m)) => Showed::Figure(m.value),
        Some(MeterReading::Wet) => Showed::Over,
        None => Showed::Figure(x),
    }
}

/// What second methods said in a space: pins of another map, wood read at placed stations, trials that opened or probed.
fn seconds(
    file: &CaseFile,
    space: Uuid,
    since: Option<DateTime<Utc>>,
    maps: &HashMap<Uuid, &MoistureMap>,
    readings: &[MapReading],
) -> Vec<(At, bool, SecondBy)> {
    let [goal, wet] = [Limited::WoodGoal, Limited::WoodWet].map(|l| file.limits().percent(l));
    // Between dry and wet it settles nothing.
    let second = |at: &At, showed: Showed| {
        let is_wet = match showed {
            Showed::Figure(x) if x <= goal => false,
            Showed::Figure(x) if x < wet => return None,
            Showed::Unread => return None,
            Showed::Figure(_) | Showed::Over => true,
        };
        Some((*at, is_wet, SecondBy::Pins(showed)))
    };
    let pins = readings.iter().filter_map(|r| {
        let map =
            maps.get(&r.map_id).filter(|m| m.scale == MapScale::Pins && since.is_none_or(|s| m.started_at >= s))?;
        second(&r.at, showed(file, map, r)).filter(|_| !false_wets(map).contains_key(&r.n))
    });
    let placed: HashMap<Uuid, At> =
        file.placings.iter().filter(|p| p.space_id == space).map(|p| (p.id, p.at)).collect();
    let stations = file.standing.iter().filter_map(|r| {
        let Observed::Wood(wood) = r.observed else { return None };
        let showed = match wood.value {
            MeterReading::Percent(m) => Showed::Figure(m.value),
            MeterReading::Wet => Showed::Over,
        };
        second(placed.get(&r.station_id)?, showed)
    });
    let tests = file.tests.iter().filter_map(|t| {
        let wet = match (t.test.as_str(), t.result.as_deref()?) {
            ("open_up", "wet_inside") | ("thermal_then_pin", "wet") => true,
            ("open_up", "dry_inside") | ("thermal_then_pin", "dry") => false,
            _ => return None,
        };
        Some((*placed.get(&t.id)?, wet, SecondBy::Trial(t.id)))
    });
    pins.chain(stations).chain(tests).collect()
}

/// What the maps of a job amount to, those of a space latest first.
#[must_use]
pub fn facts(file: &CaseFile) -> Vec<MapFact> {
    let of_space = |space: &building::Space| {
        let layout = file.building.layout(space).0;
        let one = |(one, ways): (OneMap, Vec<&MoistureMap>)| {
            let m = mapped(file, &layout, &one);
            let agrees = |c: Confirmed| m.said.patches.iter().any(|p| p.confirmed == c);
            let any_wet = m.said.patches.iter().any(|p| matches!(p.confirmed, Confirmed::Wet(_)));
            // Per cent by pins in the wood itself needs no second method.
            let wet = match one.scale {
                MapScale::Pins => (m.said.counted() > 0).then(|| m.said.high() > 0),
                MapScale::Pinless if any_wet => Some(true),
                MapScale::Pinless => (agrees(Confirmed::Dry) && !agrees(Confirmed::Open)).then_some(false),
            };
            let told = m.said.profiles.iter().max_by_key(|p| p.heights.iter().map(|h| h.2).sum::<usize>());
            let at = ways.iter().map(|w| w.started_at).max()?;
            Some(MapFact { map: ways.first()?.id, space: space.id, at, wet, rising: told.map(|p| p.says) })
        };
        maps_of(file, space.id).into_iter().filter_map(one).collect::<Vec<_>>()
    };
    file.building.spaces.iter().flat_map(of_space).collect()
}

/// Everything that can be placed in a space, with what it is and what it is called.
#[must_use]
pub fn things(file: &CaseFile, space: Uuid) -> Vec<(Thing, Uuid, String)> {
    let b = &file.building;
    // What concerns the whole building may be anywhere.
    let here = |spot: building::Spot| spot.concerns(b, Some(space));
    let mut all = Vec::new();
    let stations = b.stations.iter().filter(|s| b.space_of(s.place).is_some_and(|x| x.id == space));
    all.extend(stations.map(|s| {
        let name = match s.place {
            Place::Space(_) => format!("{}, air", b.place_name(s.place)),
            _ => b.place_name(s.place).to_owned(),
        };
        (Thing::Station, s.id, name)
    }));
    let named = |what: &str| judgment::finding::finding(what).map_or_else(|| what.to_owned(), |f| f.name.clone());
    let found = file.findings.iter().filter(|f| f.gone_at.is_none() && here(f.spot));
    all.extend(found.map(|f| (Thing::Finding, f.id, named(&f.what))));
    let tests = file.tests.iter().filter(|t| here(t.spot));
    let test = |id: &str| judgment::finding::test(id).map_or_else(|| id.to_owned(), |t| t.name.clone());
    all.extend(tests.map(|t| (Thing::Test, t.id, test(&t.test))));
    let photos = file.photos.iter().filter(|p| here(p.spot));
    let photo = |note: &str, name: &str| if note.is_empty() { name.to_owned() } else { note.to_owned() };
    all.extend(photos.map(|p| (Thing::Photo, p.id, photo(&p.note, &p.name))));
    all.extend(file.thermals.iter().filter(|t| here(t.spot)).map(|t| (Thing::Thermal, t.id, t.name.clone())));
    let surface_in = |id: Option<Uuid>| id.and_then(|id| b.surface(id)).is_some_and(|s| s.space_id == space);
    let own = file.series.iter().filter(|s| s.space_id == Some(space) || surface_in(s.surface_id));
    let logger = |id: Uuid| file.instrument(id).map_or_else(String::new, |i| i.name.clone());
    all.extend(own.map(|s| (Thing::Logger, s.id, format!("{}, {}", logger(s.instrument_id), s.reads.words()))));
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_line_of_figures_is_read_place_by_place() {
        let read = figures("148 150,5*2 - > 320!brack", 10)
            .map(|all| all.into_iter().map(|f| (f.showed, f.false_wet)).collect::<Vec<_>>());
        let figure = |x| (Showed::Figure(x), None);
        let bracket = (Showed::Figure(320.0), Some(FalseWet::MetalBracket));
        let expected =
            vec![figure(148.0), figure(150.5), figure(150.5), (Showed::Unread, None), (Showed::Over, None), bracket];
        assert_eq!(read, Ok(expected));
        for (text, place) in
            [("1 x", 2), ("1 2*0", 2), ("5!", 1), ("5!nothing", 1), ("1*11", 11), ("-5", 1), ("1e9", 1)]
        {
            let wrong = figures(text, 10);
            assert_eq!(wrong.map_err(|e| e.place), Err(place), "{text}");
        }
    }
}

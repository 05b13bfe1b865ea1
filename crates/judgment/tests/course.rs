//! Facts that are computed from readings: hours under the dew point, rain, masonry, the dehumidifier's liters.
#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, missing_docs, reason = "tests")]

use building::reading::{AirValue, Collected, Observed, Reading, WoodValue};
use building::{Building, Place, Structure, blueprint};
use hygrothermal::air::{MoistAir, Over};
use hygrothermal::quantity::{MoistureContent, Pressure, RelativeHumidity, ScaleReading, Temperature};
use hygrothermal::surface::Accuracy;
use hygrothermal::wood::species_by_id;
use judgment::cause::{Case, Fact, When, capacity, course, facts};
use judgment::picture::picture;
use std::collections::BTreeMap;
use uuid::Uuid;

const HOUR_MS: i64 = 3_600_000;
/// Any moment to count hours back from.
const NOW: i64 = 20_000 * 24 * HOUR_MS;

struct Told {
    building: Building,
    readings: Vec<Reading>,
}

impl Told {
    fn new(structure: Structure) -> Self {
        let mut n = 0;
        let building = blueprint(structure).unwrap().build(|| {
            n += 1;
            Uuid::from_u128(n)
        });
        Self { building, readings: Vec::new() }
    }

    /// Read `ago` hours ago, by instrument `by`.
    fn read(&mut self, name: &str, ago: f64, by: u128, observed: Observed) {
        let place = self.building.stations.iter().map(|s| s.place).find(|p| self.building.place_name(*p) == name);
        let station_id = self.building.station_at(place.expect(name)).unwrap().id;
        let id = Uuid::from_u128(9_000 + self.readings.len() as u128);
        let taken_ms = NOW - (ago * HOUR_MS as f64) as i64;
        let accuracy = Accuracy::TYPICAL;
        self.readings.push(Reading {
            id,
            station_id,
            instrument_id: Uuid::from_u128(by),
            taken_ms,
            observed,
            accuracy,
        });
    }

    fn course(&self, space: Option<Uuid>) -> Vec<Fact> {
        course(&self.building, &self.readings, NOW, space)
    }

    fn fact(&self, id: &str) -> Option<f64> {
        self.course(None).iter().find(|f| f.id == id).map(|f| f.figure)
    }
}

fn air(t: f64, rh: f64) -> AirValue {
    AirValue { t: Temperature::new(t).unwrap(), rh: RelativeHumidity::new(rh).unwrap(), over: Over::Water }
}

fn wood(shown: f64) -> Observed {
    let at = Temperature::new(20.0).unwrap();
    let read = WoodValue::corrected(MoistureContent::new(shown).unwrap(), species_by_id("douglas_fir").unwrap(), at);
    Observed::Wood(read.unwrap())
}

/// A joist read every `step` hours for `hours`, above the dew point by as much as it lay under it the time before.
fn swinging(hours: i32, step: i32) -> Told {
    let mut told = Told::new(Structure::CrawlVented);
    let inside = air(20.0, 60.0);
    let dew =
        MoistAir::from_rh(inside.t, inside.rh, Over::Water, Pressure::STANDARD).unwrap().dew_point().unwrap().get();
    for (i, ago) in (0..=hours).rev().step_by(step as usize).enumerate() {
        let margin = if i % 2 == 0 { 2.0 } else { -2.0 };
        told.read("Crawl space", f64::from(ago) + 0.2, 1, Observed::Air(inside));
        told.read("Rim joist, north", f64::from(ago), 2, Observed::Surface(Temperature::new(dew + margin).unwrap()));
    }
    told
}

#[test]
fn hours_under_the_dew_point_are_those_known_brought_up_to_two_weeks() {
    let told = swinging(96, 12);
    // From +2 K to −2 K along a straight line and back: half of the time, 168 of 336 h.
    let hours = told.fact("hours_below_dew").unwrap();
    assert!((hours - 168.0).abs() < 0.5, "{hours}");
    let crawl = told.building.spaces.iter().find(|s| s.name == "Crawl space").unwrap().id;
    assert_eq!(told.course(Some(crawl)), told.course(None));
    let other = told.building.spaces.iter().find(|s| s.id != crawl).unwrap().id;
    assert_eq!(told.course(Some(other)), [], "another space has not been read");
    assert_eq!(swinging(60, 12).fact("hours_below_dew"), None, "two and a half days are too few");
    assert_eq!(
        swinging(96, 16).fact("hours_below_dew"),
        None,
        "nobody knows how it went between readings so far apart"
    );
    let mut apart = swinging(96, 12);
    apart.readings.iter_mut().filter(|r| matches!(r.observed, Observed::Air(_))).for_each(|r| r.taken_ms -= HOUR_MS);
    assert_eq!(apart.fact("hours_below_dew"), None, "air of an hour before says nothing of the dew point now");
}

/// A joist read on eight days, with the rain of the two days before.
fn rained(wet: [f64; 8], by: impl Fn(usize) -> u128) -> Told {
    let rain = [0.0, 4.0, 12.0, 2.0, 30.0, 8.0, 0.0, 18.0];
    let mut told = Told::new(Structure::CrawlVented);
    for (i, (mm, shown)) in rain.into_iter().zip(wet).enumerate() {
        let ago = 240.0 * (8 - i) as f64;
        told.read("Outdoor air", ago + 3.0, 1, Observed::Rain(mm));
        told.read("Rim joist, north", ago, by(i), wood(shown));
    }
    told
}

#[test]
fn wetness_follows_rain_only_as_far_as_so_few_visits_can_say() {
    let wet = [14.1, 14.6, 15.8, 14.9, 18.9, 15.1, 14.4, 16.2];
    let mut told = rained(wet, |_| 2);
    // Pearson's r of these eight is 0.9751 by numpy.corrcoef (NumPy 2.4); one standard error of Fisher's z nearer none
    // is 0.9403. The correction for species and temperature bends the readings by less than a thousandth of that.
    let r = told.fact("rain_correlation").unwrap();
    assert!((r - 0.9403).abs() < 2e-3, "{r}");
    told.readings.reverse();
    assert_eq!(told.fact("rain_correlation"), Some(r), "the order of entry never matters");
    let steady = rained([15.0; 8], |_| 2).fact("rain_correlation").unwrap();
    assert!(steady.abs() < 1e-9, "a joist that never moves follows no rain: {steady}");
    let loose = rained([14.9, 14.6, 15.8, 14.1, 15.0, 16.2, 14.4, 15.1], |_| 2);
    assert_eq!(loose.fact("rain_correlation"), None, "neither clearly with the rain nor clearly without it");
    assert_eq!(rained(wet, |i| i as u128 % 2).fact("rain_correlation"), None, "two meters are not one series");
    told.readings.retain(|r| !matches!(r.observed, Observed::Rain(_)));
    assert_eq!(told.fact("rain_correlation"), None, "without a gauge nothing is known of rain");
}

/// The outcome a case knows of a piece of evidence.
fn limit(case: &Case, id: &str) -> Option<f64> {
    case.known().find(|(e, _)| e.id == id).map(|(_, o)| match o.when {
        When::Under(limit) => limit,
        _ => panic!("{id} is a figure"),
    })
}

#[test]
fn liters_are_weighed_against_the_label_in_the_air_the_machine_stands_in() {
    let mut told = Told::new(Structure::CrawlVented);
    told.read("Crawl space", 0.2, 1, Observed::Air(air(18.3, 60.0)));
    told.read("Crawl space", 0.1, 2, Observed::Water(Collected { liters: 4.0, hours: 48.0 }));
    let known = facts(&told.building, &picture(&told.building, &told.readings), &told.readings, None);
    let liters = known.iter().find(|f| f.id == "dehumidifier_l_day").unwrap().figure;
    assert!((liters - 2.0).abs() < 1e-12);
    // A label holds where it was rated; colder and drier air gives less.
    let here = capacity(20.0, &air(18.3, 60.0)).unwrap();
    assert!((here - 20.0).abs() < 1e-9, "{here}");
    assert!(capacity(20.0, &air(12.0, 50.0)).unwrap() < 0.7 * here);

    let case = |label: Option<f64>, inside: AirValue| {
        let mut case = Case::new(Structure::CrawlVented);
        let mut all: BTreeMap<String, f64> = known.iter().map(|f| (f.id.to_owned(), f.figure)).collect();
        all.extend(label.and_then(|l| capacity(l, &inside)).map(|c| ("dehumidifier_capacity_l_day".to_owned(), c)));
        case.figures(&all).unwrap();
        case
    };
    let weak = case(Some(20.0), air(18.3, 60.0));
    assert_eq!(limit(&weak, "dehumidifier_share"), Some(0.25), "a tenth of its label");
    assert_eq!(limit(&weak, "dehumidifier_l_day"), None, "not weighed twice");
    assert_eq!(
        limit(&case(Some(3.0), air(18.3, 60.0)), "dehumidifier_share"),
        Some(f64::INFINITY),
        "a small machine is sound"
    );
    let unlabeled = case(None, air(18.3, 60.0));
    assert_eq!(limit(&unlabeled, "dehumidifier_share"), None);
    assert!(limit(&unlabeled, "dehumidifier_l_day").is_some(), "without a label the liters speak alone");
}

#[test]
fn masonry_is_weighed_against_a_dry_place_whenever_that_was_read() {
    let mut told = Told::new(Structure::Basement);
    let wall = told.building.surfaces.iter().find(|s| s.material == building::Material::Masonry);
    let wall = wall.or(told.building.surfaces.iter().find(|s| s.material == building::Material::Concrete));
    let (name, space) = wall.map(|s| (s.name.clone(), s.space_id)).unwrap();
    told.read(&name, 0.1, 3, Observed::Relative(ScaleReading::new(320.0).unwrap()));
    let mut case = Case::new(Structure::Basement);
    let known = facts(&told.building, &picture(&told.building, &told.readings), &told.readings, Some(space));
    case.add_facts(&known);
    assert_eq!(limit(&case, "masonry_rel"), None, "a scale alone says nothing");
    case.figure("masonry_rel_dry", 100.0).unwrap();
    case.add_facts(&known);
    assert_eq!(limit(&case, "masonry_rel"), Some(f64::INFINITY), "over twice the dry place");
    assert!(told.building.surfaces.iter().any(|s| Place::Surface(s.id) == known[0].at));
}
